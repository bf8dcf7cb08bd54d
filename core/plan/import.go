package plan

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"wavekine/core/movement"
)

// Imported is a file or a text as it was understood. As a command it makes a session of it.
type Imported struct {
	Session *Session
	Bad     []CSVLine // lines that were not understood; never dropped silently
	Kind    string    // "json", "csv" or "text"
	As      string    // another title; empty keeps the document's own
}

// Import understands a document, a table or lines of text, by its kind or, without one, its looks. A table and
// lines of text become a session of a school, in which the lines are read. The error says what is wrong with the
// whole, a line that is not understood is listed. When ctx ends first, its cause is the error.
func Import(ctx context.Context, text []byte, kind string, lib *movement.Library, school Style) (*Imported, error) {
	trimmed := strings.TrimSpace(strings.TrimPrefix(string(text), "\xef\xbb\xbf"))
	if kind == "" {
		first, _, _ := strings.Cut(trimmed, "\n")
		switch {
		case strings.HasPrefix(trimmed, "{"):
			kind = "json"
		case strings.Contains(strings.ToLower(first), "movement") && strings.ContainsAny(first, ",;"):
			kind = "csv"
		default:
			kind = "text"
		}
	}
	in := &Imported{Kind: kind}
	var err error
	switch kind {
	case "json":
		in.Session, err = ReadSession([]byte(trimmed), lib)
	case "csv":
		if in.Session, in.Bad, err = ReadCSV(ctx, []byte(trimmed), lib); err == nil {
			in.Session.Style = school
		}
	case "text":
		in.Session, in.Bad, err = readText(ctx, trimmed, lib, school)
	default:
		err = fmt.Errorf("%q cannot be read: expected csv, text or json", clip(kind, maxShown))
	}
	if err != nil {
		return nil, err
	}
	return in, nil
}

func readText(ctx context.Context, text string, lib *movement.Library, school Style) (*Session, []CSVLine, error) {
	lines, err := LinesIn(ctx, text, lib, school)
	if err != nil {
		return nil, nil, err
	}
	s := &Session{Format: SessionFormat, Title: "From text", Style: school}
	var bad []CSVLine
	good := lines[:0:0]
	for _, l := range lines {
		if l.Err != nil {
			bad = append(bad, CSVLine{l.N, strings.ToValidUTF8(strings.TrimSpace(l.Raw), "\uFFFD"), l.Err})
			continue
		}
		good = append(good, l)
	}
	_, err = s.AddLines(Path{}, good, lib)
	return s, bad, err
}

// Do makes a session of what was read; it refuses one without a row.
func (c *Imported) Do(s *Session, _ *movement.Library) (Done, error) {
	if c.Session.Rows() == 0 {
		return Done{}, errors.New("there is no row in it that was understood")
	}
	*s = *c.Session.Clone()
	if strings.TrimSpace(c.As) != "" {
		if err := s.SetTitle(c.As); err != nil {
			return Done{}, err
		}
	}
	return Done{Says: "Read from " + c.Kind}, nil
}

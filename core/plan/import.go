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
	Bad     []CSVLine    // lines that were not understood; never dropped silently
	Lines   []LineReport // of a text: what became of each
	Kind    string       // "json", "csv" or "text"
	As      string       // another title; empty keeps the document's own
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
		in.Session, in.Bad, in.Lines, err = readText(ctx, trimmed, lib, school)
	default:
		err = fmt.Errorf("%q cannot be read: expected csv, text or json", Clip(kind, maxShown))
	}
	if err != nil {
		return nil, err
	}
	return in, nil
}

// readText makes a class of lines; what could not be read stands in it as notes to mend.
func readText(ctx context.Context, text string, lib *movement.Library, school Style) (*Session, []CSVLine, []LineReport, error) {
	lines, err := LinesIn(ctx, text, lib, school)
	if err != nil {
		return nil, nil, nil, err
	}
	s := &Session{Format: SessionFormat, Title: "From text", Style: school}
	var bad []CSVLine
	good := lines[:0:0]
	for _, l := range lines {
		if l.title != "" {
			s.Title, s.Target = l.title, l.length
		}
		if l.As == KeptLine { // nothing is lost: it stands in its place, to be mended
			raw := strings.ToValidUTF8(strings.TrimSpace(l.Raw), "\uFFFD")
			bad = append(bad, CSVLine{l.N, raw, l.Err})
			l = TextLine{N: l.N, Raw: l.Raw, As: RowLine, Row: Row{Rest: &Rest{Kept: Clip(shown(unbullet(unquote(raw))), MaxNote)}}}
		}
		good = append(good, l)
	}
	a := adding{s: s, lib: lib, titled: true}
	if err := a.all(good); err != nil {
		return nil, nil, nil, err
	}
	places := a.places()
	raws := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	report := make([]LineReport, len(raws)) // every line once, also one with nothing on it
	for i, raw := range raws {
		report[i] = LineReport{N: i + 1, Text: strings.ToValidUTF8(raw, "\uFFFD"), As: NoteLine}
	}
	for _, l := range lines {
		report[l.N-1] = l.report(lib, places[l.N])
	}
	return s, bad, report, nil
}

// LineReport is what became of a line of a text.
type LineReport struct {
	N    int      `json:"n"` // from 1
	Text string   `json:"text"`
	As   LineKind `json:"as"`
	Row  string   `json:"row,omitempty"` // where it stands
	Says string   `json:"says"`
}

// report says what became of the line, which stands at a place where it is a row.
func (l *TextLine) report(lib *movement.Library, at Path) LineReport {
	r := LineReport{N: l.N, Text: strings.ToValidUTF8(strings.TrimRight(l.Raw, "\r"), "\uFFFD"), As: l.As}
	switch {
	case l.As == KeptLine:
		r.Says = l.Err.Error()
	case l.title != "":
		r.Says = strings.TrimSuffix("the title "+l.title+", "+l.length.String(), ", 0:00")
	case l.same:
		r.Says = "the other side the same"
	case l.side != movement.SidesUnsaid:
		r.Says = l.side.String() + " side"
	case l.block != nil && len(l.block.Rows) > 0:
		var parts []string
		for i := range l.block.Rows {
			parts = append(parts, l.block.Rows[i].saysIn(lib))
		}
		r.Says = "build up: " + strings.Join(parts, " + ")
	case l.block != nil:
		r.Says = l.block.Words()
	case l.head != nil:
		r.Says = "the class: " + strings.Join(l.head, "; ")
	case l.part != nil:
		r.Says = "the section: " + strings.Join(l.part, "; ")
	case len(l.more) > 0:
		list := []string{l.Row.saysIn(lib)}
		for i := range l.more {
			list = append(list, l.more[i].saysIn(lib))
		}
		r.Says = strings.TrimPrefix(l.Section+": ", ": ") + strings.Join(list, "; ")
	case l.Section != "":
		r.Says = l.Section
	case l.As == NoteLine:
		r.Says = l.note
	default:
		r.Says = l.Row.saysIn(lib)
		if l.Row.Inline != nil {
			r.Says += " · " + l.Row.Inline.Words()
		}
	}
	if at.Row > 0 {
		r.Row = at.String()
	}
	return r
}

// understood tells whether there is a row that is no line to be mended.
func (s *Session) understood() (yes bool) {
	s.Each(func(_ Path, _ *Block, r *Row) { yes = yes || !r.IsKept() })
	return yes
}

// saysIn is a row in a few words: its movement or what it is, and its dose.
func (r *Row) saysIn(lib *movement.Library) string {
	if r.IsRest() && !r.IsTurn() {
		return r.Spoken(nil)
	}
	return strings.TrimSpace(r.Title(lib) + " " + r.Dose.String())
}

// Do makes a session of what was read; it refuses one without a row.
func (c *Imported) Do(s *Session, _ *movement.Library) (Done, error) {
	if !c.Session.understood() {
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

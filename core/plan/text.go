package plan

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/strict"
)

// MaxText is the longest pasted class, in bytes; MaxLines the most lines of it.
const (
	MaxText  = 256 << 10
	MaxLines = 1000
)

// TextLine is one line of a pasted class: a row, the title of a section, or what could not be read.
type TextLine struct {
	N       int    // from 1
	Raw     string // as pasted
	Section string // a title; "# Build" or "Build:"
	Row     Row
	Err     error // *LineError where the line was not understood; such a line is kept, never dropped
}

// IsRow tells whether the line was understood as a row.
func (l TextLine) IsRow() bool { return l.Section == "" && l.Err == nil }

// LinesIn reads a class pasted as text, one row a line the way it is said in a school (see LineIn). Bullets and numbers
// in front are left aside, empty lines skipped; a line that is not understood carries its error. When ctx ends first, its
// cause is the error.
func LinesIn(ctx context.Context, text string, lib *movement.Library, st Style) ([]TextLine, error) {
	if len(text) > MaxText {
		return nil, fmt.Errorf("the text is %d KB: at most %d KB are read", len(text)>>10, MaxText>>10)
	}
	raws := strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n")
	if len(raws) > MaxLines {
		return nil, fmt.Errorf("%d lines: at most %d are read", len(raws), MaxLines)
	}
	var out []TextLine
	for i, raw := range raws {
		if ctx.Err() != nil {
			return nil, context.Cause(ctx)
		}
		line := unbullet(strings.TrimSpace(raw))
		if line == "" {
			continue
		}
		l := TextLine{N: i + 1, Raw: raw}
		title, isTitle := strings.CutPrefix(line, "#")
		if !isTitle {
			title, isTitle = strings.CutSuffix(line, ":")
		}
		switch {
		case isTitle && strings.Trim(title, "# ") != "" && len([]rune(title)) <= MaxTitle && strict.Hidden(title) < 0:
			l.Section = strings.Trim(title, "# ")
		default:
			l.Row, l.Err = LineIn(line, lib, st)
		}
		out = append(out, l)
	}
	return out, nil
}

// unbullet takes "- ", "* ", "3. " and "3) " from the front of a line.
func unbullet(line string) string {
	for _, b := range []string{"- ", "* ", "• ", "– "} {
		if rest, ok := strings.CutPrefix(line, b); ok {
			return strings.TrimSpace(rest)
		}
	}
	digits := strings.TrimLeft(line, "0123456789")
	if n := len(line) - len(digits); n > 0 && n <= 3 && (strings.HasPrefix(digits, ". ") || strings.HasPrefix(digits, ") ")) {
		return strings.TrimSpace(digits[2:])
	}
	return line
}

// AddLines puts what was understood after a place, each line as if it had been typed there (see AddIn); a title goes on
// in an empty section of that name, else it begins a new one at the end. It returns the place of the last row.
func (s *Session) AddLines(at Path, lines []TextLine, lib *movement.Library) (Path, error) {
	for _, l := range lines {
		var err error
		switch {
		case l.Section != "":
			n := 1 + slices.IndexFunc(s.Sections, func(c Section) bool { return len(c.Blocks) == 0 && strings.EqualFold(c.Title, l.Section) })
			if n > 0 {
				at = Path{Section: n}
			} else if n, err = s.AddSection(len(s.Sections), l.Section); err == nil {
				at = Path{Section: n}
			}
		case l.Err == nil:
			at, err = s.AddIn(at, l.Row, lib)
		}
		if err != nil {
			return Path{}, err
		}
	}
	return at, nil
}

package plan

import (
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/strict/golden"
)

// What is typed, pasted and imported, and the session it makes or the place and the words of the refusal. The file was
// read through line by line when it was written.
func TestWhatIsTypedPastedAndImported(t *testing.T) {
	text, err := os.ReadFile("testdata/written.txt")
	require.NoError(t, err)
	var out strings.Builder
	for _, part := range strings.Split("\n"+string(text), "\n== ")[1:] {
		head, body, _ := strings.Cut(part, "\n")
		body = strings.TrimRight(body, "\n")
		kind, school, _ := strings.Cut(head, ", ")
		fmt.Fprintf(&out, "== %s\n", head)
		st := schoolOf(t, school)
		switch kind {
		case "lines":
			for _, line := range strings.Split(body, "\n") {
				row, err := LineIn(line, lib, st)
				fmt.Fprintf(&out, "%s\n    %s\n", line, rowOrError(&row, err))
			}
		case "text":
			s := &Session{Style: st}
			lines, err := LinesIn(t.Context(), body, lib, st)
			require.NoError(t, err)
			_, err = s.AddLines(Path{}, good(lines), lib)
			require.NoError(t, err)
			for _, l := range lines {
				if l.Err != nil {
					fmt.Fprintf(&out, "  line %d: %v\n", l.N, l.Err)
				}
			}
			shape(&out, s)
		case "table":
			s, bad, err := ReadCSV(t.Context(), []byte(body), lib)
			if err != nil {
				fmt.Fprintf(&out, "  %v\n", err)
				continue
			}
			for _, l := range bad {
				fmt.Fprintf(&out, "  line %d: %v\n", l.N, l.Err)
			}
			shape(&out, s)
		case "words":
			for _, slug := range strings.Split(body, "\n") {
				m, ok := lib.Get(slug)
				require.True(t, ok, slug)
				for l := range m.Levels {
					fmt.Fprintf(&out, "%s %d: %s | %s | %g\n", slug, l+1, st.Breathing(m), st.PelvisWords(m, l+1), st.SwitchFactor(m))
				}
			}
		default:
			t.Fatal(head)
		}
	}
	golden.Equal(t, "testdata/read.txt", out.String())
}

// schoolOf reads "sides next, count pairs".
func schoolOf(t *testing.T, text string) (st Style) {
	for _, answer := range strings.Split(text, ", ") {
		if answer == "" {
			continue
		}
		key, a, _ := strings.Cut(answer, " ")
		require.NoError(t, st.Set(key, a), text)
	}
	return st
}

func good(lines []TextLine) (out []TextLine) {
	for _, l := range lines {
		if l.Err == nil {
			out = append(out, l)
		}
	}
	return out
}

func rowOrError(r *Row, err error) string {
	var le *LineError
	switch {
	case errors.As(err, &le):
		var near []string
		for _, m := range le.Near {
			near = append(near, m.Slug)
		}
		return fmt.Sprintf("column %d %q: %s; near %v", le.Column, le.Word, le.Says, near[:min(5, len(near))])
	case err != nil:
		return err.Error()
	}
	return rowSaid(r)
}

func rowSaid(r *Row) string {
	if r.IsRest() {
		return fmt.Sprintf("rest %s %q note %q", r.Rest.For, r.Rest.Say, r.Note)
	}
	s := r.Name()
	if r.Level > 0 {
		s += fmt.Sprintf(" level %d", r.Level)
	}
	s += " " + r.Dose.String()
	if r.Sides != movement.SidesUnsaid {
		s += " sides " + r.Sides.String()
	}
	for name, o := range map[string]*Override{"right": r.Right} {
		s += overrideSaid(name, o)
	}
	s += overrideSaid("left", r.Left)
	if r.Note != "" {
		s += fmt.Sprintf(" note %q", r.Note)
	}
	if r.Options != nil {
		s += fmt.Sprintf(" options %v", r.Options)
	}
	return s
}

func overrideSaid(name string, o *Override) string {
	if o == nil {
		return ""
	}
	return fmt.Sprintf(" %s: level %d %s", name, o.Level, o.Dose)
}

func shape(out *strings.Builder, s *Session) {
	for i := range s.Sections {
		sec := &s.Sections[i]
		fmt.Fprintf(out, "  [%s]\n", sec.Title)
		for _, b := range sec.Blocks {
			fmt.Fprintf(out, "   %s, %d rounds, on %s, off %s, rest %s\n", b.Rule, b.Rounds, b.On, b.Off, b.Rest)
			for i := range b.Rows {
				fmt.Fprintf(out, "     %s\n", rowSaid(&b.Rows[i]))
			}
		}
	}
}

package review

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/strict/golden"
	"wavekine/core/timeline"
)

// classFrom reads one class of testdata/classes.txt: heads, the rule of its block, its rows.
func classFrom(t *testing.T, lines []string) *plan.Session {
	t.Helper()
	head, block := "", ""
	rule := `{"rule":"straight",`
	for _, l := range lines {
		word, rest, _ := strings.Cut(l, " ")
		switch word {
		case "style", "audience", "target", "focus":
			head += fmt.Sprintf("%q:%s,", word, rest)
		case "rounds":
			f := strings.Fields(rest)
			rule = fmt.Sprintf(`{"rule":"rounds","rounds":%s,"on":"%s s","off":"%s s",`, f[0], f[2], f[5])
		default:
			block = strings.Replace(rows(strings.Split(l, " | ")...), `{"rule":"straight",`, rule, 1)
		}
	}
	return read(t, block, head)
}

// inLines is a class in short: its rows as they are said.
func inLines(s *plan.Session) string {
	var out []string
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			b := &s.Sections[i].Blocks[j]
			var rs []string
			for k := range b.Rows {
				r := &b.Rows[k]
				m, _ := r.Of(lib)
				says := r.Spoken(m)
				if r.Right != nil || r.Left != nil {
					says += " (one side has its own)"
				}
				if r.Options != nil {
					says += fmt.Sprint(" offers ", r.Options)
				}
				if r.Note != "" {
					says += " «" + r.Note + "»"
				}
				rs = append(rs, says)
			}
			in := strings.Join(rs, " | ")
			if b.On > 0 {
				in += fmt.Sprintf(" [%s on, %s off]", b.On.Said(), b.Off.Said())
			}
			out = append(out, in)
		}
		out[len(out)-1] += ";"
	}
	if s.Target > 0 {
		out = append(out, "promised "+s.Target.String())
	}
	return strings.Join(out, " / ")
}

// What the second look finds in classes made to stand at the limits of its rules, and what each mend makes of them. The
// file was read through line by line when it was written.
func TestFindingsOfClasses(t *testing.T) {
	text, err := os.ReadFile("testdata/classes.txt")
	require.NoError(t, err)
	var out strings.Builder
	n := 0
	for _, class := range strings.Split("\n"+string(text), "\n# ")[1:] {
		n++
		lines := strings.Split(strings.TrimSpace(class), "\n")
		s := classFrom(t, lines[1:])
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		out.WriteString("# " + strings.Join(lines, "\n") + "\n")
		l := &look{s: s, tl: tl, lib: lib}
		for _, f := range l.all() { // none is silent for another here
			fmt.Fprintf(&out, "  %s %s at %s, row %s: %s. %s; limit %s; by %.4g. %s\n", f.Severity, f.Rule, f.At, f.Row, f.Says, f.Measured, f.Limit, f.Amount, f.Detail)
			for _, m := range f.Mends {
				c, err := m.Apply(s)
				require.NoError(t, err, "%s: %s", lines[0], m.Says)
				fmt.Fprintf(&out, "    %s (%s): %s\n", m.Says, m.ID, inLines(c))
			}
		}
		for _, r := range Rails(s, tl, lib, Limits{}) {
			for _, b := range r.Bands {
				fmt.Fprintf(&out, "  rail %s %s to %s %s\n", r.Name, b.At, b.End, b.Over)
			}
		}
		out.WriteString("\n")
	}
	assert.Greater(t, n, 38)
	golden.Equal(t, "testdata/findings.txt", out.String())
}

package timeline

import (
	"encoding/json"
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict/golden"
)

var lib = movement.Shipped()

// classFrom reads one class of testdata/classes.txt: heads (style, pace, beat), the rule of its block, its rows.
func classFrom(t *testing.T, lines []string) *plan.Session {
	t.Helper()
	head, rule, rows := "", `"rule":"straight"`, []string{}
	for _, l := range lines {
		word, rest, _ := strings.Cut(l, " ")
		switch word {
		case "style", "pace":
			head += fmt.Sprintf("%q:%s,", word, rest)
		case "beat":
			head += `"beat":{"bpm":` + rest + `},`
		case "sections", "blocks": // the words of the documents themselves
			if word == "blocks" {
				rest = `[{"title":"A","blocks":[` + rest + `]}]`
			}
			s, err := plan.ReadSession([]byte(`{"format":"`+plan.SessionFormatBuilt+`","title":"T",`+head+`"sections":`+rest+`}`), lib)
			require.NoError(t, err, rest)
			doc, err := plan.Seal(s, lib) // what is timed can be stored
			require.NoError(t, err, rest)
			require.JSONEq(t, `{"format":"`+plan.SessionFormatBuilt+`","title":"T",`+head+`"sections":`+rest+`}`, string(doc.Text()))
			return s
		case "chain", "rounds", "straight":
			rule = fmt.Sprintf(`"rule":%q`, word)
			f := strings.Fields(rest)
			if word == "rounds" {
				rule += `,"rounds":` + f[0]
				f = f[1:]
			}
			for i := 0; i+2 < len(f); i += 3 {
				rule += fmt.Sprintf(`,%q:"%s %s"`, f[i], f[i+1], f[i+2])
			}
		default:
			for _, r := range strings.Split(l, " | ") {
				if !strings.HasPrefix(r, "{") {
					row, err := plan.Line(r, lib)
					require.NoError(t, err, r)
					b, err := json.Marshal(row)
					require.NoError(t, err)
					r = string(b)
				}
				rows = append(rows, r)
			}
		}
	}
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T",`+head+`"sections":[{"title":"A","blocks":[{`+rule+`,"rows":[`+strings.Join(rows, ",")+`]}]}]}`), lib)
	require.NoError(t, err, strings.Join(lines, "\n"))
	return s
}

// table is a timeline as it stands in testdata/timelines.txt.
func table(tl *Timeline) string {
	var b strings.Builder
	secs := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	for _, s := range tl.Steps {
		name := "-"
		if s.Move != nil {
			name = s.Move.Slug + " " + strconv.Itoa(s.Level)
		}
		fmt.Fprintf(&b, "%7s %6s %-8s %-11s %s, %s", secs(s.At.Seconds()), secs(s.S.Seconds()), s.Kind, s.Side, name, s.Posture)
		for _, n := range []struct {
			word string
			v    int
		}{{"reps", s.Reps}, {"breaths", s.Breaths}, {"set", s.Set}, {"round", s.Round}, {"part", s.Part}} {
			if n.v > 0 {
				fmt.Fprintf(&b, " %s %d", n.word, n.v)
			}
		}
		for _, p := range s.Parts {
			fmt.Fprintf(&b, " + %s %d for %s", p.Move.Slug, p.Level, secs(p.S.Seconds()))
		}
		if s.Aim != "" {
			fmt.Fprintf(&b, " aim %q", s.Aim)
		}
		if s.Clocked {
			b.WriteString(" clocked")
		}
		if s.Breaths > 0 {
			fmt.Fprintf(&b, " in %s out %s", secs(s.BreathIn.Seconds()), secs(s.BreathOut.Seconds()))
		}
		if s.Effort > 0 {
			fmt.Fprintf(&b, " effort %.2f", s.Effort)
		}
		for _, c := range s.Cues {
			fmt.Fprintf(&b, "; %s %s", strings.TrimSpace(c.Cue+" "+c.Say), secs(c.At.Seconds()))
		}
		if !s.Kind.Working() && s.Kind != Setup && s.Says != "" {
			fmt.Fprintf(&b, "; %q", s.Says)
		}
		b.WriteString("\n")
	}
	m := tl.Sums
	fmt.Fprintf(&b, "  total %s from %s to %s; work %s hold %s setup %s position %s rest %s switch %s; right %s left %s; %d changes of position, %d of kit\n",
		secs(tl.Total.Seconds()), secs(tl.Low.Seconds()), secs(tl.High.Seconds()), secs(m.Work.Seconds()), secs(m.Hold.Seconds()), secs(m.Setup.Seconds()), secs(m.Position.Seconds()),
		secs(m.Rest.Seconds()), secs(m.Switch.Seconds()), secs(m.Right.Seconds()), secs(m.Left.Seconds()), m.PositionsChanged, m.KitChanges)
	return b.String()
}

// The timelines of classes made to show every rule of time, step by step. The seconds are those of the trade (see
// PaceOf and core/movement/tempo.go); the file was read through line by line when it was written.
func TestTimelinesOfClasses(t *testing.T) {
	text, err := os.ReadFile("testdata/classes.txt")
	require.NoError(t, err)
	var out strings.Builder
	n := 0
	for _, class := range strings.Split("\n"+string(text), "\n# ")[1:] {
		lines := strings.Split(strings.TrimSpace(class), "\n")
		tl, err := Build(classFrom(t, lines[1:]), lib)
		require.NoError(t, err)
		lawful(t, tl)
		n++
		out.WriteString("# " + strings.Join(lines, "\n") + "\n" + table(tl) + "\n")
	}
	assert.Equal(t, 42, n)
	golden.Equal(t, "testdata/timelines.txt", out.String())
}

package solve

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/strict/golden"
)

// Fits and orders of classes made to show every bound there is on them. The file was read through line by line when it
// was written.
func TestClassesSolved(t *testing.T) {
	text, err := os.ReadFile("testdata/classes.txt")
	require.NoError(t, err)
	house := House{HoldLeast: 10 * clock.Second, HoldMost: 60 * clock.Second}
	var out strings.Builder
	n := 0
	for _, class := range strings.Split("\n"+string(text), "\n# ")[1:] {
		n++
		lines := strings.Split(strings.TrimSpace(class), "\n")
		out.WriteString("# " + strings.Join(lines, "\n") + "\n")
		rule, target, head := `"rule":"straight"`, clock.Span(0), ""
		for _, l := range lines[1 : len(lines)-1] {
			word, rest, _ := strings.Cut(l, " ")
			switch word {
			case "fit":
				target, err = clock.Parse(rest)
				require.NoError(t, err)
			case "style":
				head = `"style":` + rest + ","
			case "rounds":
				f := strings.Fields(rest)
				rule = `"rule":"rounds","rounds":` + f[0]
				for i := 1; i+2 < len(f); i += 3 {
					rule += fmt.Sprintf(`,%q:"%s %s"`, f[i], f[i+1], f[i+2])
				}
			}
		}
		var rows []string
		for _, r := range strings.Split(lines[len(lines)-1], " | ") {
			if !strings.HasPrefix(r, "{") {
				row, err := plan.Line(r, lib)
				require.NoError(t, err, r)
				b, err := json.Marshal(row)
				require.NoError(t, err)
				r = string(b)
			}
			rows = append(rows, r)
		}
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T",`+head+`"sections":[{"title":"Build","blocks":[{`+rule+`,"rows":[`+strings.Join(rows, ",")+`]}]}]}`), lib)
		require.NoError(t, err)
		fmt.Fprintf(&out, "  %s long\n", length(t, s))
		if target > 0 {
			f, err := Fit(t.Context(), s, lib, target, Terms{House: house})
			require.NoError(t, err)
			for _, c := range f.Changes {
				fmt.Fprintf(&out, "  %s %s: %s to %s, by %s\n", c.Row, c.Name, c.From, c.To, c.By)
			}
			fmt.Fprintf(&out, "  comes to %s, cost %d, reached %v. %s\n", f.Total, f.Cost, f.Reached, f.Says)
			for _, e := range f.Else {
				fmt.Fprintf(&out, "  else: %s\n", e)
			}
			continue
		}
		o, err := Order(t.Context(), s, lib, Thorough)
		require.NoError(t, err)
		fmt.Fprintf(&out, "  %s\n  %d and %d changes of position and kit, %s, %s long; then %d and %d, %s, %s. May save %d. %s\n", strings.Join(names(o.Session), " | "),
			o.Before.Positions, o.Before.Kit, o.Before.Time, o.Before.Length, o.After.Positions, o.After.Kit, o.After.Time, o.After.Length, MaySave(s, lib), o.Says())
	}
	assert.Equal(t, 37, n)
	golden.Equal(t, "testdata/solved.txt", out.String())
}

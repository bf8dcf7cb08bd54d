package run

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var rewrite = flag.Bool("rewrite", false, "write testdata/taken.txt anew; then read it through")

// What runs say of a small class: its visits, and planned beside taken by row. The file was read through line by line
// when it was written.
func TestRunsOfAClass(t *testing.T) {
	text, err := os.ReadFile("testdata/runs.txt")
	require.NoError(t, err)
	var out strings.Builder
	n := 0
	for _, class := range strings.Split("\n"+string(text), "\n# ")[1:] {
		n++
		title, events, _ := strings.Cut(strings.TrimSpace(class), "\n")
		r := tell(t, mat(), events)
		taken, paused := r.Taken()
		fmt.Fprintf(&out, "# %s\n%s\n  taken %s, paused %s, to its end %v\n", title, events, taken, paused, r.Finished())
		for _, v := range r.Visits() {
			reps, how := r.Reps(&v)
			fmt.Fprintf(&out, "  step %d from %s to %s, paused %s, took %s, ended by %d, held %v, hand %d clock %d more %d: %d, %s", v.Step, v.From, v.To, v.Paused, v.Taken(), v.Ended, v.Held, v.Hand, v.Clock, v.More, reps, []string{"as planned", "counted", "left out"}[how])
			if each, ok := v.TapTempo(); ok {
				fmt.Fprintf(&out, ", every %s", each.Said())
			}
			out.WriteString("\n")
		}
		for _, row := range RowsOf(r.Lines()) {
			fmt.Fprintf(&out, "  %s %s planned %s taken %s %q: right %q left %q both %q unequal %v\n", row.Row, row.Name, row.Planned, row.Taken, row.Off(), row.Right, row.Left, row.Both, row.Unequal())
		}
	}
	assert.Equal(t, 13, n)
	if *rewrite {
		require.NoError(t, os.WriteFile("testdata/taken.txt", []byte(out.String()), 0o644))
		return
	}
	want, err := os.ReadFile("testdata/taken.txt")
	require.NoError(t, err)
	w, g := strings.Split(string(want), "\n"), strings.Split(out.String(), "\n")
	for i := range w {
		require.Less(t, i, len(g))
		require.Equal(t, w[i], g[i], "line %d", i+1)
	}
}

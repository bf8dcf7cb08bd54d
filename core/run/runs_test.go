package run

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/strict/golden"
)

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
	golden.Equal(t, "testdata/taken.txt", out.String())
}

// Notes and levels: the last of a row stands, that of the whole class is its remark; a level that is the planned one is
// nothing new.
func TestNotesAndLevels(t *testing.T) {
	row := plan.Path{Section: 1, Block: 1, Row: 1}
	r := tell(t, mat(), "0 began; 0 set-up 0; 15 work 1; 35 set-up 2; 45 work 3; 65 set-up 4; 80 ended")
	put := func(at int, e Event) {
		e.At = r.Events[at].At
		r.Events = slices.Insert(r.Events, at+1, e)
	}
	put(4, Event{Does: Level, Level: 1})
	put(2, Event{Does: Level, Level: 2})
	put(2, Event{Does: Note, Row: row, Text: "early"})
	put(6, Event{Does: Note, Row: row, Text: "hip up"})
	put(6, Event{Does: Note, Text: "warm room"})
	rows := RowsOf(r.Lines())
	assert.Equal(t, "hip up", rows[0].Note)
	assert.Equal(t, 2, rows[0].Shown)
	assert.Empty(t, rows[1].Note)
	assert.Equal(t, "warm room", r.Remark())
	var shown []int
	for _, l := range r.Lines() {
		if l.Kind.Working() {
			shown = append(shown, l.Shown)
		}
	}
	assert.Equal(t, []int{2, 0}, shown, "level 1 was planned on the left")
	text, err := json.Marshal(r)
	require.NoError(t, err)
	back, err := Read(text)
	require.NoError(t, err)
	assert.Equal(t, r.Events, back.Events)
}

// The limits of what is read: at each the document is taken, past it refused.
func TestLimitsOfARun(t *testing.T) {
	read := func(change func(*Run)) error {
		r := tell(t, mat(), "0 began; 0 set-up 0; 15 work 1; 80 ended")
		change(r)
		text, err := json.Marshal(r)
		require.NoError(t, err)
		_, err = Read(text)
		return err
	}
	long := func(n int) string { return strings.Repeat("a", n) }
	for name, try := range map[string]func(n int) func(*Run){
		"rev":     func(n int) func(*Run) { return func(r *Run) { r.Rev = 1<<30 - 1 + n } },
		"id":      func(n int) func(*Run) { return func(r *Run) { r.ID = long(63 + n) } },
		"session": func(n int) func(*Run) { return func(r *Run) { r.Session = long(63 + n) } },
		"teacher": func(n int) func(*Run) { return func(r *Run) { r.Teacher = long(63 + n) } },
		"title":   func(n int) func(*Run) { return func(r *Run) { r.Title = long(plan.MaxTitle - 1 + n) } },
		"level": func(n int) func(*Run) {
			return func(r *Run) { r.Events[2] = Event{At: r.Events[2].At, Does: Level, Level: 19 + n} }
		},
		"note": func(n int) func(*Run) {
			return func(r *Run) { r.Events[2] = Event{At: r.Events[2].At, Does: Note, Text: long(499 + n)} }
		},
		"step": func(n int) func(*Run) { return func(r *Run) { r.Events[2].Step = 3 + n } },
		"reps": func(n int) func(*Run) { return func(r *Run) { r.Steps[1].Reps = maxReps - 1 + n } },
	} {
		assert.NoError(t, read(try(1)), "%s at its limit", name)
		assert.Error(t, read(try(2)), "%s past its limit", name)
	}
	assert.Error(t, read(func(r *Run) { r.ID = long(7) }))
	assert.NoError(t, read(func(r *Run) { r.ID = long(8) }))
	assert.Error(t, read(func(r *Run) { r.Events = append(r.Events, Event{At: r.Events[3].At, Does: Mark}) }), "nothing comes after the end")
	assert.Error(t, read(func(r *Run) { r.Events[2].At = r.Events[3].At + 1 }), "time does not go back")
}

package export

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func session(t *testing.T) (*plan.Session, *timeline.Timeline) {
	t.Helper()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"=Hips, \"wide\" *and* <b>","target":"10:00","sections":[
		{"title":"Build","blocks":[
			{"rule":"chain","rest":"20 s","rows":[{"movement":"bird-dog","level":2,"dose":"8 reps"},{"movement":"rainbow-leg","dose":"8 reps","left":{"dose":"6 reps"},"note":"=SUM(A1)"}]},
			{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"squat"}]},
			{"rule":"straight","rows":[{"rest":"15 s","say":"Head down"},{"movement":"clam","sides":"right"}]}]}]}`), lib)
	require.NoError(t, err)
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return s, tl
}

func TestCSV(t *testing.T) {
	s, tl := session(t)
	b, err := CSV(s, tl, lib)
	require.NoError(t, err)
	assert.Equal(t, bytes.Count(b, []byte("\n")), bytes.Count(b, []byte("\r\n")), "RFC 4180 ends lines with CR LF")
	rows, err := csv.NewReader(bytes.NewReader(b)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 6)
	assert.Equal(t, csvHead, rows[0])
	at := func(row int, col string) string {
		for i, h := range rows[0] {
			if h == col {
				return rows[row][i]
			}
		}
		t.Fatal(col)
		return ""
	}
	assert.Equal(t, "6 reps", at(2, "left"))
	assert.Equal(t, "'=SUM(A1)", at(2, "note"), "a spreadsheet must not take text for a formula")
	assert.Equal(t, "2", at(3, "rounds"))
	assert.Equal(t, "40 s", at(3, "on"))
	assert.Equal(t, "rest", at(4, "movement"))
	assert.Equal(t, "right", at(5, "sides"))
}

func TestMarkdown(t *testing.T) {
	s, tl := session(t)
	md := string(Markdown(s, tl, lib))
	assert.Contains(t, md, `# =Hips, "wide" \*and\* &lt;b>`, "text stays text")
	assert.Contains(t, md, "One side through: all of it on one side, then all of it on the other, 20 s between")
	assert.Contains(t, md, "2 rounds, 40 s on and 20 s off")
	assert.Contains(t, md, "**Rainbow leg**, 8 reps, but 6 reps on the left")
	assert.Contains(t, md, "**Rest**, 15 s. Head down")
	assert.Contains(t, md, "Stop if it hurts")
	assert.Contains(t, md, "promised 10:00")
}

func TestRowWords(t *testing.T) {
	for text, want := range map[string]string{
		`{"rest":"20 s","note":"On the back, soften the neck"}`:       "20 s",
		`{"movement":"clam","sides":"right"}`:                         "12 reps, right only, feet down",
		`{"movement":"hundred","level":2}`:                            "10 breaths, 5 in 5 out, head up and knees over hips",
		`{"movement":"bird-dog","dose":"8 reps","right":{"level":2}}`: "8 reps, but level 2 on the right, leg slides back and the toe stays down",
	} {
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+text+`]}]}]}`), lib)
		require.NoError(t, err)
		got := RowWords(s.Row(plan.Path{Section: 1, Block: 1, Row: 1}), lib)
		assert.Equal(t, want, got)
	}
}

// In a timed circuit the clock says how much: what a row would do for itself is not printed, and where the circuit
// ends can be seen.
func TestACircuitOnPaper(t *testing.T) {
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[
		{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"squat","dose":"10 reps"},{"movement":"side-plank","dose":"hold 20 s each side","left":{"dose":"hold 10 s","level":1}},{"movement":"criss-cross","dose":"10 pairs"},{"movement":"clam","sides":"left"},{"rest":"15 s"}]},
		{"rule":"straight","rows":[{"movement":"squat","dose":"10 reps"}]},
		{"rule":"rounds","rounds":2,"rows":[{"movement":"squat","dose":"12 reps"}]}]}]}`), lib)
	require.NoError(t, err)
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	sh := SheetOf(s, tl, lib)
	blocks := sh.Sections[0].Blocks
	var doses []string
	for _, b := range blocks {
		for _, r := range b.Rows {
			doses = append(doses, r.Dose)
		}
	}
	assert.Equal(t, []string{"40 s, aim for 10 reps", "20 s each side, but level 1 on the left", "40 s alternating, aim for 10 pairs", "40 s", "15 s", "10 reps", "12 reps"}, doses)
	assert.Equal(t, []bool{true, false, true}, []bool{blocks[0].Ruled, blocks[1].Ruled, blocks[2].Ruled})
	md := string(Markdown(s, tl, lib))
	assert.Contains(t, md, "- 2 rounds, 40 s on and 20 s off\n  - 0:00 **Squat**, 40 s")
	assert.Regexp(t, `\n- \d+:\d\d \*\*Squat\*\*, 10 reps`, md, "what comes after stands at the margin again")
	assert.NotContains(t, md, "hold 20 s")
}

// A house in which ten sets are ten times right and left reads its own word on paper.
func TestTheHousesWordForPairs(t *testing.T) {
	for sets, want := range map[string]string{"pairs": "10 sets", "ask": "10 pairs"} {
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","style":{"sets":"`+sets+`"},"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":"criss-cross","dose":"10 pairs"}]}]}]}`), lib)
		require.NoError(t, err)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		assert.Equal(t, want, SheetOf(s, tl, lib).Sections[0].Blocks[0].Rows[0].Dose)
		assert.Contains(t, string(Markdown(s, tl, lib)), want)
	}
}

// What one side does differently is on every sheet.
func TestOneSideOnPaper(t *testing.T) {
	s, tl := session(t)
	sh := SheetOf(s, tl, lib)
	found := false
	for _, sec := range sh.Sections {
		for _, b := range sec.Blocks {
			for _, r := range b.Rows {
				found = found || strings.Contains(r.Dose, "but 6 reps on the left")
			}
		}
	}
	assert.True(t, found)
}

func TestCalendar(t *testing.T) {
	stamp := time.Date(2026, 5, 1, 10, 0, 0, 0, time.UTC)
	days := []CalendarDay{
		{1, time.Date(2026, 3, 28, 0, 0, 0, 0, time.UTC), "Before the clocks change; a, b", "line\nbreak", 20 * clock.Minute, false},
		{2, time.Date(2026, 3, 29, 0, 0, 0, 0, time.UTC), "After", "", 0, false},
	}
	b, err := Calendar(CalendarOf{Title: "S", Key: "key", Time: "18:30", Zone: "Europe/Lisbon", Alarm: 15, Sequence: 3, Stamp: stamp}, days)
	require.NoError(t, err)
	text := string(b)
	// Lisbon is UTC in winter and one hour ahead from 29 March 2026 (the European Union's rule).
	assert.Contains(t, text, "DTSTART:20260328T183000Z\r\n")
	assert.Contains(t, text, "DTEND:20260328T185000Z\r\n")
	assert.Contains(t, text, "DTSTART:20260329T173000Z\r\n")
	assert.Contains(t, text, "UID:key-day-1@wavekine.invalid\r\n")
	assert.Equal(t, 2, strings.Count(text, "SEQUENCE:3\r\n"))
	assert.Contains(t, text, `a\, b`)
	for _, line := range strings.Split(text, "\r\n") {
		assert.LessOrEqual(t, len(line), 75, "RFC 5545 folds lines")
	}
	all, err := Calendar(CalendarOf{Title: "S", Key: "key", Stamp: stamp}, days)
	require.NoError(t, err)
	assert.Contains(t, string(all), "DTSTART;VALUE=DATE:20260328\r\n")
	assert.Contains(t, string(all), "DTEND;VALUE=DATE:20260329\r\n")
	_, err = Calendar(CalendarOf{Title: "S", Key: "key", Time: "25:00", Zone: "UTC", Stamp: stamp}, days)
	assert.Error(t, err)
	_, err = Calendar(CalendarOf{Title: "S", Key: "key", Time: "18:30", Zone: "Europe/Atlantis", Stamp: stamp}, days)
	assert.Error(t, err)
}

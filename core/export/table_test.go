package export

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/timeline"
)

// What is written as a table reads back as the class it was: blocks, sides, overrides, notes, rests.
func TestTableReadsBack(t *testing.T) {
	s, tl := session(t)
	text, err := CSV(s, tl, lib)
	require.NoError(t, err)
	back, bad, err := plan.ReadCSV(t.Context(), text, lib)
	require.NoError(t, err)
	require.Empty(t, bad)
	require.Len(t, back.Sections, 1)
	assert.Equal(t, s.Sections[0].Blocks, back.Sections[0].Blocks)

	semi, bad, err := plan.ReadCSV(t.Context(), []byte("\xef\xbb\xbf"+"Movement;Dose;Section\r\nBird dog;8 each side;Build\r\nclam;12;Build\r\n"), lib)
	require.NoError(t, err)
	require.Empty(t, bad)
	assert.Len(t, semi.Sections[0].Blocks[0].Rows, 2)
}

func TestTablesThatAreNot(t *testing.T) {
	for text, want := range map[string]string{
		"":                           "no head line",
		"a,b\nc,d\n":                 `line 1: no column "movement"`,
		"movement,dose\n\"squat,8\n": "cannot be read",
		"movement\n" + strings.Repeat("squat\n", plan.MaxLines+1): "more than",
		strings.Repeat("x", plan.MaxText+1):                       "KB are read",
	} {
		_, _, err := plan.ReadCSV(t.Context(), []byte(text), lib)
		require.Error(t, err)
		assert.Contains(t, err.Error(), want)
	}
	s, bad, err := plan.ReadCSV(t.Context(), []byte(strings.Join([]string{
		"movement,dose,level,sides,rule,rounds,on,left", "squat,8 reps", "levitation,8 reps", "squat,8 bananas", "squat,,9", "clam,,,sideways",
		"squat,,,,spiral", "squat,,,,rounds,0", "squat,,,,rounds,2,soon", "bird-dog,8 reps,,,,,,level 1 6 reps",
	}, "\n")), lib)
	require.NoError(t, err)
	require.Len(t, s.Sections[0].Blocks[0].Rows, 2, "the good ones stay")
	assert.Equal(t, 1, s.Sections[0].Blocks[0].Rows[1].Left.Level)
	require.Len(t, bad, 7)
	for i, want := range []string{`no movement "levitation"`, "dose:", "levels 1 to", "sideways", "spiral", "rounds", "on:"} {
		assert.Equal(t, i+3, bad[i].N, "the line of the file")
		assert.ErrorContains(t, bad[i].Err, want)
	}
}

// Every way into a formula is guarded (OWASP, CSV Injection: =, +, -, @, tab, carriage return, line feed, and their
// full-width forms), and comes back as it was written.
func TestCellsAreNoFormulas(t *testing.T) {
	notes := []string{"=SUM(A1)", "+1", "-1+2", "@x", " =SUM(A1)", "\n=SUM(A1)", "\n\n +1", "\u00a0=1", "＝1", "'=1", "'tis slow", "'", "' '", "slow - and long", "8 + 2", "", "ends with =", "''"}
	for _, note := range notes {
		row, err := json.Marshal(map[string]string{"movement": "squat", "dose": "8 reps", "note": note})
		require.NoError(t, err)
		s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"x","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+string(row)+`]}]}]}`), lib)
		require.NoError(t, err, note)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		text, err := CSV(s, tl, lib)
		require.NoError(t, err)
		recs, err := csv.NewReader(bytes.NewReader(text)).ReadAll()
		require.NoError(t, err)
		for _, cell := range recs[1] {
			first := strings.TrimSpace(cell)
			assert.False(t, first != "" && strings.ContainsAny(first[:1], "=+-@") || strings.HasPrefix(first, "＝") || strings.HasPrefix(cell, "\n"), "%q of %q", cell, note)
		}
		back, bad, err := plan.ReadCSV(t.Context(), text, lib)
		require.NoError(t, err)
		require.Empty(t, bad)
		assert.Equal(t, strings.TrimSpace(note), strings.TrimSpace(back.Sections[0].Blocks[0].Rows[0].Note), "as it was written")
	}
	hand, bad, err := plan.ReadCSV(t.Context(), []byte("movement,note\nsquat,'tis slow\n"), lib)
	require.NoError(t, err)
	require.Empty(t, bad)
	assert.Equal(t, "'tis slow", hand.Sections[0].Blocks[0].Rows[0].Note, "of a table written by hand")
}

// A cell may hold what no document does: it reads as a space, and the class can be written and read.
func TestCellsWithHiddenCharacters(t *testing.T) {
	s, bad, err := plan.ReadCSV(t.Context(), []byte("section,movement,note\n\"Bu\x01ild\",squat,\"tab\there\x7f\"\n\"a\xff\",lunge,\n"), lib)
	require.NoError(t, err)
	require.Empty(t, bad)
	assert.Equal(t, "Bu ild", s.Sections[0].Title)
	assert.Equal(t, "tab here", s.Sections[0].Blocks[0].Rows[0].Note)
	doc, err := json.Marshal(s)
	require.NoError(t, err)
	_, err = plan.ReadSession(doc, lib)
	require.NoError(t, err)
}

// Documents with every word, also of movements that no library has, are the same class after a table.
func TestTablesOfEveryWordReadBack(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 27))
	rows := 0
	n := 400
	if testing.Short() {
		n = 40
	}
	for range n {
		doc := made.Session(r, lib)
		s, err := plan.ReadSession(doc, lib)
		require.NoError(t, err)
		for i := range s.Sections {
			s.Sections[i].Blocks = slices.DeleteFunc(s.Sections[i].Blocks, func(b plan.Block) bool { return len(b.Rows) == 0 })
		}
		s.Sections = slices.DeleteFunc(s.Sections, func(sec plan.Section) bool { return len(sec.Blocks) == 0 }) // a table has rows only
		s.Format = plan.SessionFormat
		plain := func(s *plan.Session) []byte { // the first level is what a row without one is at
			c := s.Clone()
			c.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
				rows++
				if r.Level == 1 && len(r.PartLevels) == 0 {
					r.Level = 0
				}
			})
			b, err := json.Marshal(&plan.Session{Title: "T", Sections: c.Sections})
			require.NoError(t, err)
			return b
		}
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		text, err := CSV(s, tl, lib)
		require.NoError(t, err)
		back, bad, err := plan.ReadCSV(t.Context(), text, lib)
		require.NoError(t, err)
		require.Empty(t, bad, string(text))
		require.JSONEq(t, string(plain(s)), string(plain(back)), string(text))
	}
	assert.Greater(t, rows, 5*n)
}

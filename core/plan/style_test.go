package plan

import (
	"encoding/json"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the schools of the trade mean by the same words (common practice, no source).
func TestWordsOfASchool(t *testing.T) {
	pairs, alternate := Style{Sets: SetsArePairs, Count: CountPairs}, Style{Sides: SidesAlternate}
	for _, c := range []struct {
		text  string
		style Style
		want  string // empty: refused
	}{
		{"single straight leg stretch 10 sets", Style{Sets: AskSets}, ""},
		{"single straight leg stretch 10 sets", Style{}, "10 pairs"}, // right and left once
		{"wrist circles 4 sets", Style{}, "4 each way"},
		{"side kick 10 sets", Style{}, "10 reps"}, // one is front and back
		{"squat 10 sets", Style{}, "10 reps"},
		{"single leg stretch 4 sets, 8 repetitions", Style{}, "4 pairs"}, // eight switches
		{"squat 4 sets, 8 reps", Style{}, "4 x 8 reps"},
		{"single straight leg stretch 10 sets", pairs, "10 pairs"},
		{"single straight leg stretch 10", Style{}, "10 reps"},
		{"single straight leg stretch 10", pairs, "10 pairs"},
		{"single straight leg stretch 10 reps each side", pairs, "10 each side"},
		{"single straight leg stretch 10 breaths", pairs, "10 breaths"},
		{"bird dog 8", Style{}, "8 reps"},
		{"bird dog 8", alternate, "8 pairs"},
		{"bird dog 8 each side", alternate, "8 each side"},
		{"squat 10", alternate, "10 reps"},
		{"squat 3 sets of 10", pairs, "3 x 10 reps"},
		{"rest 20 s", pairs, ""},
	} {
		row, err := LineIn(c.text, lib, c.style)
		if c.want == "" && !row.IsRest() {
			assert.Error(t, err, c.text)
			continue
		}
		require.NoError(t, err, c.text)
		assert.Equal(t, c.want, row.Dose.String(), "%s in %+v", c.text, c.style)
	}
	lines, err := LinesIn(t.Context(), "# Build\nbird dog 8\nno such thing 8\n", lib, alternate)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.Equal(t, "8 pairs", lines[1].Row.Dose.String())
	assert.Error(t, lines[2].Err)
}

func TestASchoolThatWorksSideBySide(t *testing.T) {
	s := three(t)
	s.Sections = s.Sections[:1]
	s.Sections[0].Blocks = nil
	s.Style.Sides = SidesInChain
	at := Path{Section: 1}
	for _, text := range []string{"squat 8", "bird dog 8", "clam 8", "side kick 8", "squat 8"} {
		row, err := Line(text, lib)
		require.NoError(t, err)
		at, err = s.AddIn(at, row, lib)
		require.NoError(t, err)
	}
	assert.Equal(t, "A[s(squat)c(bird-dog clam side-kick)s(squat)]", strings.ReplaceAll(rowsOf(s), "side-kick-series", "side-kick"))
}

func TestWordsOfBreathAndPelvis(t *testing.T) {
	hundred, _ := lib.Get("hundred")
	squat, _ := lib.Get("squat")
	require.NotNil(t, hundred)
	require.NotNil(t, squat)
	assert.Empty(t, Style{Pelvis: PelvisNeutral}.PelvisWords(squat, 1), "said of abdominal work on the back only")
	assert.Equal(t, "Pelvis neutral.", Style{Pelvis: PelvisNeutral}.PelvisWords(hundred, 1))
	assert.Equal(t, "Pelvis imprinted.", Style{Pelvis: PelvisImprinted}.PelvisWords(hundred, 1))
	said := map[string]bool{}
	for l := range hundred.Levels {
		said[Style{Pelvis: PelvisByLoad}.PelvisWords(hundred, l+1)] = true
	}
	assert.True(t, said["Imprint while both legs are up."], "%v", said)
	assert.Empty(t, Style{}.PelvisWords(hundred, 1))
	assert.Contains(t, Style{Breath: BreathFree}.Breathing(squat), "do not hold it")
	assert.Contains(t, Style{Breath: NoseNose}.Breathing(squat), "in and out by the nose")
	assert.Contains(t, Style{Breath: NoseNose}.Breathing(squat), squat.Breath)
	assert.Empty(t, Style{}.Breathing(nil))
}

// Every question takes each of its answers and gives it back, and refuses others; what was said is kept
// over a document.
func TestAnswersOfASchool(t *testing.T) {
	words := map[string][]string{}
	for _, k := range StyleKeys() {
		words[k] = StyleWords(k)
	}
	words["countdown"] = []string{"0", "8", "20"}
	assert.Len(t, words, 16)
	assert.Empty(t, StyleWords("countdown"))
	assert.Empty(t, Style{}.Answer("weather"))
	for key, answers := range words {
		var st Style
		assert.Contains(t, answers, st.Answer(key), "%s: nothing said", key)
		for _, a := range answers {
			require.NoError(t, st.Set(key, a), key)
			assert.Equal(t, a, st.Answer(key), key)
			doc, err := json.Marshal(&st)
			require.NoError(t, err)
			back, err := ReadStyle(doc)
			require.NoError(t, err, "%s %s", key, a)
			assert.Equal(t, a, back.Answer(key), "%s over %s", key, doc)
		}
		was := st.Answer(key)
		for _, a := range []string{"", "perhaps", "-1", "NaN"} {
			assert.Error(t, st.Set(key, a), "%s %q", key, a)
		}
		assert.Equal(t, was, st.Answer(key))
	}
	var st Style
	assert.Error(t, st.Set("colour", "red"))
}

func TestPiecesInAndOut(t *testing.T) {
	s := three(t)
	before := rowsOf(s)
	picked, err := s.Pick("Warm hips", []Path{{1, 1, 2}, {1, 1, 3}})
	require.NoError(t, err)
	picked.Sections[0].Blocks[0].Rows[0].Note = "a copy"
	assert.Equal(t, before, rowsOf(s))
	assert.Empty(t, s.Row(Path{1, 1, 2}).Note, "what is picked is not shared")
	_, err = s.Pick("x", []Path{{7, 1, 1}})
	require.ErrorIs(t, err, ErrNoRow)

	at, err := s.Insert(1, picked.Sections)
	require.NoError(t, err)
	assert.Equal(t, Path{2, 1, 1}, at)
	assert.Equal(t, "Warm hips", s.Sections[1].Title)
	_, err = s.AddSection(len(s.Sections), "warm hips")
	require.NoError(t, err)
	at, err = s.Insert(0, picked.Sections)
	require.NoError(t, err)
	assert.Equal(t, Path{len(s.Sections), 1, 1}, at, "an empty section of that name is filled")
	_, err = s.Insert(0, nil)
	require.Error(t, err)
	many := &Session{Sections: []Section{{Title: "Many", Blocks: []Block{{Rows: make([]Row, maxRows)}}}}}
	was := rowsOf(s)
	_, err = s.Insert(0, many.Sections)
	require.ErrorContains(t, err, "at most 1000 rows")
	assert.Equal(t, was, rowsOf(s))
}

func TestPuttingAsideHasLimits(t *testing.T) {
	s := three(t)
	good := Aside{Rule: "sides", About: "clam", Amount: 2, Reason: "one hip is sore"}
	require.NoError(t, s.PutAside(good))
	good.Amount = 3
	require.NoError(t, s.PutAside(good))
	require.Len(t, s.Aside, 1, "said again, it is replaced")
	assert.InDelta(t, 3, s.Aside[0].Amount, 1e-12)
	for _, a := range []Aside{
		{},
		{Rule: "sides", Amount: 1},
		{Rule: "sides", Amount: -1, Reason: "x"},
		{Rule: "sides", Amount: math.NaN(), Reason: "x"},
		{Rule: "sides", Amount: math.Inf(1), Reason: "x"},
		{Rule: strings.Repeat("x", 41), Reason: "x"},
		{Rule: "sides", About: strings.Repeat("x", 101), Reason: "x"},
		{Rule: "sides", Reason: strings.Repeat("x", MaxNote+1)},
	} {
		assert.Error(t, s.PutAside(a), "%+v", a)
	}
	for i := range 300 {
		if err := s.PutAside(Aside{Rule: "sides", About: strconv.Itoa(i), Reason: "x"}); err != nil {
			assert.Len(t, s.Aside, maxAside)
			break
		}
	}
	doc, err := json.Marshal(s)
	require.NoError(t, err)
	_, err = ReadSession(doc, lib)
	require.NoError(t, err)
}

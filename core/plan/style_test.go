package plan

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What the schools of the trade mean by the same words (common practice, no source).
func TestWordsOfASchool(t *testing.T) {
	pairs, alternate := Style{Sets: "pairs", Count: "pairs"}, Style{Sides: "alternating"}
	for _, c := range []struct {
		text  string
		style Style
		want  string // empty: refused
	}{
		{"single straight leg stretch 10 sets", Style{}, ""},
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
		if c.want == "" && !row.IsRest {
			assert.Error(t, err, c.text)
			continue
		}
		require.NoError(t, err, c.text)
		assert.Equal(t, c.want, row.Dose.String(), "%s in %+v", c.text, c.style)
	}
	lines, err := LinesIn("# Build\nbird dog 8\nno such thing 8\n", lib, alternate)
	require.NoError(t, err)
	require.Len(t, lines, 3)
	assert.Equal(t, "8 pairs", lines[1].Row.Dose.String())
	assert.Error(t, lines[2].Err)
}

func TestASchoolThatWorksSideBySide(t *testing.T) {
	s := three(t)
	s.Sections = s.Sections[:1]
	s.Sections[0].Blocks = nil
	s.Style.Sides = "chain"
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
	assert.Empty(t, Style{Pelvis: "neutral"}.PelvisWords(squat, 1), "said of abdominal work on the back only")
	assert.Equal(t, "Pelvis neutral.", Style{Pelvis: "neutral"}.PelvisWords(hundred, 1))
	assert.Equal(t, "Pelvis imprinted.", Style{Pelvis: "imprinted"}.PelvisWords(hundred, 1))
	said := map[string]bool{}
	for l := range hundred.Levels {
		said[Style{Pelvis: "by load"}.PelvisWords(hundred, l+1)] = true
	}
	assert.True(t, said["Imprint while both legs are up."], "%v", said)
	assert.Empty(t, Style{}.PelvisWords(hundred, 1))
	assert.Contains(t, Style{Breath: "free"}.Breathing(squat), "do not hold it")
	assert.Contains(t, Style{Breath: "nose-nose"}.Breathing(squat), "in and out by the nose")
	assert.Contains(t, Style{Breath: "nose-nose"}.Breathing(squat), squat.Breath)
	assert.Empty(t, Style{}.Breathing(nil))
}

package dose

import (
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
)

func TestSaid(t *testing.T) {
	// said -> canonical
	for said, want := range map[string]string{
		"8": "8 reps", "8 reps": "8 reps", "1 rep": "1 rep", "eight reps": "8 reps",
		"8 each side": "8 each side", "8 per side": "8 each side", "8 reps each side": "8 each side",
		"10 pairs": "10 pairs", "20 alternating": "20 alternating", "20 reps alternating": "20 alternating",
		"5 each way": "5 each way", "5 each way each side": "5 each way each side",
		"3 x 8 each side, rest 30 s":        "3 x 8 each side, rest 30 s",
		"3x8 each side rest 30":             "3 x 8 each side, rest 30 s",
		"3 sets of 8":                       "3 x 8 reps",
		"8 reps at 2-2":                     "8 reps at 2-2",
		"8 reps at 3-1-3":                   "8 reps at 3-1-3",
		"8 at 8-8":                          "8 reps at 8-8",
		"8 reps in 4 counts":                "8 reps in 4 counts",
		"8 reps + hold 5 s + 10 pulses":     "8 reps + hold 5 s + 10 pulses",
		"8 each side + 10 pulses":           "8 reps + 10 pulses each side",
		"8 each side + 10 pulses each side": "8 reps + 10 pulses each side",
		"hold 30":                           "hold 30 s",
		"hold 30 s":                         "hold 30 s",
		"hold 30s each side":                "hold 30 s each side",
		"hold 2 min each side":              "hold 2 min each side",
		"hold 5 breaths":                    "hold 5 breaths",
		"10 breaths":                        "10 breaths",
		"10 breaths, 5 in 5 out":            "10 breaths, 5 in 5 out",
		"45 s":                              "45 s",
		"45 s on 15 s off":                  "45 s on 15 s off",
		"1:30":                              "1:30",
		"90 s":                              "1:30",
		"2 rounds":                          "2 rounds",
		"to 8 breaths each side":            "to 8 breaths each side",
		"as many as 40 s":                   "as many as 40 s",
		"amrap 40 s":                        "as many as 40 s",
		"half forward half back 45 s":       "half forward half back 45 s",
		"10 pairs at 2-2":                   "10 pairs at 2-2",
		"":                                  "",
	} {
		d, err := Parse(said)
		require.NoError(t, err, said)
		assert.Equal(t, want, d.String(), said)
		again, err := Parse(d.String())
		require.NoError(t, err, d.String())
		assert.Equal(t, d, again, said)
	}
}

func TestMeant(t *testing.T) {
	d, err := Parse("3 x 8 reps at 3-1-3 + hold 5 s + 10 pulses each side, rest 30 s")
	require.NoError(t, err)
	assert.Equal(t, Dose{
		Sets: 3, Per: EachSide, Rest: 30 * clock.Second,
		Parts: []Part{{Kind: Reps, Count: 8, Tempo: []int{3, 1, 3}}, {Kind: Hold, Span: 5 * clock.Second}, {Kind: Pulses, Count: 10}},
	}, d)
	assert.Equal(t, 8, d.Count())
	more, ok := d.WithCount(10)
	assert.True(t, ok)
	assert.Equal(t, "3 x 10 reps at 3-1-3 + hold 5 s + 10 pulses each side, rest 30 s", more.String())
	assert.Equal(t, 8, d.Count(), "the first is untouched")
	_, ok = Dose{Parts: []Part{{Kind: Hold, Span: clock.Minute}}}.WithCount(3)
	assert.False(t, ok)
}

func TestErrorsNameThePlace(t *testing.T) {
	for said, want := range map[string]string{
		"8 bananas":           `dose: column 3: "bananas": expected "each side", "each way", "at 2-2", "rest 30 s", "+" or the end`,
		"0 reps":              `dose: column 1: "0": expected a whole number of repetitions from 1 to 500`,
		"-3":                  `dose: column 1: "-3": expected a whole number of repetitions from 1 to 500`,
		"10000 reps":          `dose: column 1: "10000": expected a whole number of repetitions from 1 to 500`,
		"hold 9 h":            `dose: column 6: "9 h": expected a time from 0.5 s to 60 min`,
		"10 sets":             `dose: column 4: "sets" could be said as 10 pairs (right and left once each) or 10 x a count (that many sets): say which`,
		"5 each":              `dose: column 3: "each" could be said as each side or each way: say which`,
		"10 pairs each side":  `dose: column 10: "each": expected one way of counting sides: it already says pairs`,
		"8 reps, rest 30 s":   `dose: column 18: ends too early: expected sets to rest between, as in "3 x 8, rest 30 s"`,
		"8 +":                 `dose: column 4: ends too early: expected a count, a time, "hold", "to", "as many as" or "half forward half back"`,
		"8 reps at 2":         `dose: column 11: "2": expected counts out and back, as in 2-2 or 3-1-3`,
		"2.5 reps":            `dose: column 1: "2.5": expected a whole number of repetitions from 1 to 500`,
		"8,":                  `dose: column 3: ends too early: expected "rest 30 s", "5 in 5 out" or another word after the comma`,
		"each":                `dose: column 1: "each": expected a count, a time, "hold", "to", "as many as" or "half forward half back"`,
		"30 s, 5 in 5 out":    `dose: column 7: "5": expected breaths before "5 in 5 out"`,
		"\xff8":               `dose: column 1: "�": expected text in UTF-8`,
		"99:99":               `dose: column 1: "99:99": expected a time from 0.5 s to 60 min`,
		"3 x 3 x 3":           `dose: column 7: "x": expected one number of sets: "3 x 8"`,
		"'; drop table x; --": `dose: column 2: ";": expected a count, a time, "hold", "to", "as many as" or "half forward half back"`,
	} {
		_, err := Parse(said)
		var de *Error
		require.ErrorAs(t, err, &de, said)
		assert.Equal(t, want, err.Error(), said)
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{
		"8", "3 x 8 each side, rest 30 s", "8 reps + hold 5 s + 10 pulses", "10 breaths, 5 in 5 out", "1:30",
		"half forward half back 45 s", "45 s on 15 s off", "to 8 breaths each side", "2 rounds each way", "hold 2.5 s",
		"10 pairs at 3-1-3 + 20 alternating", "60 min on 0.5 s off",
		"about 8 to 10 slow reps, hold 3 s each, each leg", "3 one way, 4 the other + 10 double pulses fast", "2-5 min each side", "hold for a count of 10 then hold the last one",
		"1'30\" half each way", "x 8, rest 3 breaths", "2 reps 8 up 2 hold 8 down", "10 x 3 sets", "40/20", "a hundred beats double time",
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		d, err := Parse(s)
		if err != nil {
			var de *Error
			require.ErrorAs(t, err, &de)
			require.Positive(t, de.Column)
			require.False(t, de.Expected == "" && len(de.Readings) == 0)
			return
		}
		said := d.String()
		again, err := Parse(said)
		require.NoError(t, err, "%q printed as %q", s, said)
		require.Equal(t, d, again, "%q printed as %q", s, said)
		require.Equal(t, said, again.String())
	})
}

// Every phrase of testdata/said.txt is understood, or refused at its place, as it stands there; what is understood means
// the same when it is said back.
func TestEveryPhrase(t *testing.T) {
	var text []byte
	for _, file := range []string{"testdata/said.txt", "testdata/as-teachers-say.txt"} {
		more, err := os.ReadFile(file)
		require.NoError(t, err)
		text = append(text, more...)
	}
	n := 0
	for line := range strings.Lines(string(text)) {
		said, want, ok := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
		if !ok {
			continue
		}
		n++
		d, err := Parse(said)
		var e *Error
		got := "= " + d.String()
		if errors.As(err, &e) {
			got = fmt.Sprintf("! %d %s: %s", e.Column, e.Word, e.Expected)
			if len(e.Readings) > 0 {
				got = fmt.Sprintf("? %d %s: %s", e.Column, e.Word, strings.Join(e.Readings, " | "))
			}
		} else {
			require.NoError(t, err, said)
			back, err := Parse(d.String())
			require.NoError(t, err, said)
			assert.Equal(t, d, back, said)
		}
		assert.Equal(t, want, got, said)
	}
	assert.Greater(t, n, 360)
}

// What a dose counts, and what it becomes with another count.
func TestCounts(t *testing.T) {
	for said, want := range map[string][3]string{
		"8 reps":                 {"8", "9 reps", "true"},
		"hold 5 s + 8 pulses":    {"8", "hold 5 s + 9 pulses", "true"},
		"hold 5 breaths":         {"5", "hold 9 breaths", "true"},
		"8 reps + 10 pulses":     {"8", "9 reps + 10 pulses", "true"},
		"30 s":                   {"0", "30 s", "false"},
		"2 x 8 each side":        {"8", "2 x 9 each side", "true"},
		"10 breaths, 5 in 5 out": {"10", "9 breaths, 5 in 5 out", "true"},
	} {
		d, err := Parse(said)
		require.NoError(t, err)
		more, ok := d.WithCount(9)
		assert.Equal(t, want, [3]string{fmt.Sprint(d.Count()), more.String(), fmt.Sprint(ok)}, said)
	}
	zero := Dose{}
	assert.True(t, zero.Sayable())
	assert.Equal(t, 1, zero.SetCount())
	assert.Equal(t, 3, Dose{Sets: 3}.SetCount())
	assert.False(t, Dose{Parts: []Part{{Kind: Reps, Count: MaxReps + 1}}}.Sayable())
	assert.False(t, Dose{Parts: []Part{{Kind: Hold}}}.Sayable())
	long, err := Parse(strings.Repeat(" ", MaxText) + "8")
	assert.Error(t, err, "%v", long)
	edge, err := Parse("8" + strings.Repeat(" ", MaxText-1))
	assert.NoError(t, err, "%v", edge)
}

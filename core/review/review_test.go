package review

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func read(t testing.TB, blocks, head string) *plan.Session {
	t.Helper()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T",`+head+`"sections":[{"title":"A","blocks":[`+blocks+`]}]}`), lib)
	require.NoError(t, err)
	return s
}

func rows(rs ...string) string {
	for i, r := range rs {
		if !strings.HasPrefix(r, "{") {
			l, err := plan.Line(r, lib)
			if err != nil {
				panic(err)
			}
			b, _ := json.Marshal(l)
			rs[i] = string(b)
		}
	}
	return `{"rule":"straight","rows":[` + strings.Join(rs, ",") + `]}`
}

func check(t testing.TB, s *plan.Session) []Finding {
	t.Helper()
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return Check(s, tl, lib, DefaultLimits())
}

func of(fs []Finding, rule string) []Finding {
	var out []Finding
	for _, f := range fs {
		if f.Rule == rule && f.Severity != Good {
			out = append(out, f)
		}
	}
	return out
}

// one expects exactly one finding of a rule, and that each of its mends removes it.
func one(t *testing.T, s *plan.Session, rule string) Finding {
	t.Helper()
	fs := of(check(t, s), rule)
	require.Len(t, fs, 1, rule)
	require.NotEmpty(t, fs[0].Mends)
	for _, m := range fs[0].Mends {
		c, err := m.Apply(s)
		require.NoError(t, err, m.Says)
		assert.Empty(t, of(check(t, c), rule), "%s: %s", rule, m.Says)
	}
	return fs[0]
}

func TestHeadUpTooLong(t *testing.T) {
	s := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "single leg stretch level 2 10 pairs", "double leg stretch level 2 8", "scissors level 2 10 pairs"), "")
	f := one(t, s, "head-up")
	assert.Equal(t, Stop, f.Severity)
	assert.Equal(t, "2:30", f.Limit)
	assert.Equal(t, "The hundred to Scissors. House limit 2:30.", f.Detail)
	// 55 + 15 + 40 + 15 + 36 + 15 + 40 s from the first lift to the last
	assert.Equal(t, "3:36", f.Measured)
	assert.Equal(t, "Rest head 15 s after Single leg stretch", f.Mends[0].Says)
	// a rest in between keeps it below
	rested := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "rest 15", "single leg stretch level 2 10 pairs", "double leg stretch level 2 8"), "")
	assert.Empty(t, of(check(t, rested), "head-up"))
}

func TestWristsTooLong(t *testing.T) {
	s := read(t, rows("bird dog level 2 12 each side", "rainbow leg 12 each side", "full plank hold 30 s"), "")
	f := one(t, s, "wrists")
	assert.Contains(t, f.Says, "Hands bearing for")
	broken := read(t, rows("bird dog level 2 10 each side", "child's pose 3 breaths", "rainbow leg 8 each side"), "")
	assert.Empty(t, of(check(t, broken), "wrists"))
}

func TestSidesUnequal(t *testing.T) {
	chain := `{"rule":"chain","rows":[{"movement":"bird-dog","level":2,"dose":"8 reps"},{"movement":"rainbow-leg","level":2,"dose":"8 reps","left":{"dose":"6 reps"}}]}`
	f := one(t, read(t, chain, ""), "sides")
	assert.Equal(t, "Left does less", f.Says)
	assert.Equal(t, "Rainbow leg: 8 reps right, 6 reps left. 9 s apart.", f.Detail)
	assert.Equal(t, []string{"Make left 8 reps", "Make right 6 reps"}, []string{f.Mends[0].Says, f.Mends[1].Says})
	assert.Equal(t, plan.Path{Section: 1, Block: 1, Row: 2}, f.Row)

	f = one(t, read(t, `{"rule":"chain","rows":[{"movement":"bird-dog","dose":"8 reps","right":{"level":2}}]}`, ""), "sides")
	assert.Equal(t, "level 2 right, level 1 left", f.Measured)
	f = one(t, read(t, rows("clam 12 right only"), ""), "sides")
	assert.Equal(t, "Clam is missing the left side", f.Says)
	f = one(t, read(t, rows("saw 7 alternating"), ""), "sides")
	assert.Equal(t, "4 and 3", f.Measured)

	equal := check(t, read(t, rows("clam 12 right only", "clam 12 left only", "saw 8 alternating", "lunge 8 each side"), ""))
	assert.Empty(t, of(equal, "sides"))
	assert.Contains(t, equal[len(equal)-1].Says, "Right and left get the same")
}

func TestPromisedLength(t *testing.T) {
	f := one(t, read(t, rows("squat 10", "lunge 8 each side", "side-lying leg lift 12 each side"), `"target":"4:20",`), "length")
	assert.Contains(t, f.Says, "Over by")
	assert.Len(t, f.Mends, 2)
	f = one(t, read(t, rows("squat 10", "lunge 8 each side"), `"target":"4:00",`), "length")
	assert.Contains(t, f.Says, "Under by")
	f = one(t, read(t, rows("squat 10"), `"target":"30:00",`), "length")
	assert.Len(t, f.Mends, 1, "counts alone cannot fill half an hour")
	assert.Empty(t, of(check(t, read(t, rows("squat 10"), "")), "length"), "nothing promised")
}

func TestForwardWithoutBack(t *testing.T) {
	f := one(t, read(t, rows("hundred level 2", "roll-up level 2 5", "double leg stretch level 2 8"), ""), "forward")
	assert.Equal(t, "Add shoulder bridge after Double leg stretch", f.Mends[0].Says)
	assert.Empty(t, of(check(t, read(t, rows("hundred level 2", "roll-up level 2 5", "swan 5"), "")), "forward"))
}

func TestSettlingAndWarmUp(t *testing.T) {
	s := read(t, rows("double leg stretch level 2 8", "criss-cross level 2 10 pairs", "teaser level 2 3"), "")
	one(t, s, "settle")
	f := one(t, s, "early")
	assert.Equal(t, Stop, f.Severity, "hard from the first row")
	calm := read(t, rows("cat cow 8", "mermaid 4 each side", "double leg stretch level 2 8", "constructive rest 8 breaths"), "")
	assert.Empty(t, of(check(t, calm), "early"))
	assert.Empty(t, of(check(t, calm), "settle"))
}

func TestPositionChanges(t *testing.T) {
	f := one(t, read(t, rows("swan 5", "hundred", "swimming level 1", "bridge 6", "prone leg lift 8 each side", "heel taps"), ""), "changes")
	assert.Equal(t, "4 more changes of position than the order needs", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("swan 5", "swimming", "hundred", "bridge 6"), "")), "changes"))
}

func TestSlips(t *testing.T) {
	f := one(t, read(t, rows("squat 10", "squat 10", "lunge 8 each side"), ""), "twice")
	assert.Equal(t, "Squat twice in a row", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("squat 10", "squat 8", "squat 2 x 8"), "")), "twice"))
	f = one(t, read(t, rows("single leg circle 10 each side"), ""), "one-way")
	assert.Equal(t, "Make it 5 each way", f.Mends[0].Says)
	assert.Empty(t, of(check(t, read(t, rows("single leg circle 5 each way each side", "single leg circle"), "")), "one-way"))
}

func TestOffTimeMustReachTheNextPosition(t *testing.T) {
	circuit := func(off, rows string) *plan.Session {
		return read(t, `{"rule":"rounds","rounds":2,"on":"40 s","off":"`+off+`","rows":[`+rows+`]}`, "")
	}
	up := `{"movement":"squat"},{"movement":"hundred"}`
	f := one(t, circuit("20 s", up), "off-time")
	assert.Equal(t, "27 s", f.Limit, "from standing to the back is more than three steps")
	assert.Empty(t, of(check(t, circuit("27 s", up)), "off-time"))
	one(t, circuit("10 s", `{"movement":"bird-dog"},{"movement":"full-plank"}`), "off-time")
	assert.Empty(t, of(check(t, circuit("10 s", `{"movement":"squat"},{"movement":"lunge"}`)), "off-time"), "no change of position")
	assert.Empty(t, of(check(t, circuit("10 s", `{"movement":"squat"},{"rest":"20 s"},{"movement":"hundred"},{"rest":"20 s"}`)), "off-time"), "a rest of its own gives the time")
}

// random makes a class that a person might slip into.
func random(r *rand.Rand) string {
	all := lib.All()
	if r.IntN(3) == 0 { // a class that leans on neck and wrists
		var heavy []*movement.Movement
		for _, m := range all {
			if m.Has(2, movement.HeadUp) || m.Has(2, movement.Hands) {
				heavy = append(heavy, m)
			}
		}
		all = heavy
	}
	var blocks []string
	for range 1 + r.IntN(4) {
		var rs []string
		rule := []string{`"rule":"straight"`, `"rule":"straight"`, `"rule":"chain"`, `"rule":"rounds","rounds":2`, `"rule":"rounds","on":"40 s","off":"15 s"`}[r.IntN(5)]
		for range 1 + r.IntN(6) {
			m := all[r.IntN(len(all))]
			row := fmt.Sprintf(`{"movement":%q,"level":%d`, m.Slug, 1+r.IntN(len(m.Levels)))
			switch {
			case m.Sides == movement.Each && r.IntN(6) == 0:
				row += `,"dose":"8 reps","left":{"dose":"6 reps"}`
			case m.Sides == movement.Each && r.IntN(8) == 0:
				row += `,"sides":"right"`
				if m.Dose.Per != 0 {
					row += `,"dose":"9 reps"`
				}
			case m.Sides == movement.Alternating && r.IntN(4) == 0:
				row += `,"dose":"9 alternating"`
			}
			rs = append(rs, row+"}")
		}
		blocks = append(blocks, "{"+rule+`,"rows":[`+strings.Join(rs, ",")+"]}")
	}
	return strings.Join(blocks, ",")
}

// A mend removes its finding and brings no new one that is as bad.
func TestMendsOverGeneratedSessions(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	tried := map[string]int{}
	for range 1500 {
		s := read(t, random(r), fmt.Sprintf(`"target":"%d:00",`, 3+r.IntN(20)))
		before := check(t, s)
		for _, f := range before {
			if f.Severity == Good {
				continue
			}
			require.NotEmpty(t, f.Mends, f.Says)
			for _, m := range f.Mends {
				c, err := m.Apply(s)
				require.NoError(t, err, "%s: %s", f.Says, m.Says)
				after := check(t, c)
				tried[f.Rule]++
				doc, _ := json.Marshal(s)
				require.Less(t, len(of(after, f.Rule)), len(of(before, f.Rule)), "%s: %s: %s\n%s", f.Rule, f.Says, m.ID, doc)
				if f.Severity == Stop {
					continue
				}
				stops := func(fs []Finding) (n int) {
					for _, g := range fs {
						if g.Severity == Stop {
							n++
						}
					}
					return n
				}
				require.LessOrEqual(t, stops(after), stops(before), "%s: %s\n%s", f.Says, m.ID, doc)
			}
		}
	}
	t.Log(tried)
	for _, rule := range []string{"head-up", "wrists", "sides", "length", "forward", "early", "settle", "changes", "one-way", "off-time"} {
		assert.Greater(t, tried[rule], 20, rule)
	}
}

func TestPublishedFindings(t *testing.T) {
	b, err := MarshalFindings(check(t, read(t, rows("hundred level 2"), "")))
	require.NoError(t, err)
	var out struct {
		Findings []map[string]any
	}
	require.NoError(t, json.Unmarshal(b, &out))
	require.NotEmpty(t, out.Findings)
	for _, k := range []string{"rule", "severity", "row", "at", "measured", "limit", "source", "says", "mends"} {
		assert.Contains(t, out.Findings[0], k)
	}
}

func TestLimitsTable(t *testing.T) {
	l := DefaultLimits()
	for _, i := range LimitTable {
		v := i.Get(&l)
		assert.GreaterOrEqual(t, v, i.Low, i.Key)
		assert.LessOrEqual(t, v, i.High, i.Key)
		i.Set(&l, v+1)
		assert.InDelta(t, v+1, i.Get(&l), 1e-9, i.Key)
		assert.NotEmpty(t, i.Source)
	}
	assert.Equal(t, 151*clock.Second, l.HeadUp)
}

func BenchmarkTimelineAndFindings(b *testing.B) {
	for _, n := range []int{60, 120, 300, 600} {
		r := rand.New(rand.NewPCG(1, 2))
		var s *plan.Session
		blocks := random(r)
		for {
			s = read(b, blocks, `"target":"60:00",`)
			if s.Rows() >= n {
				break
			}
			blocks += "," + random(r)
		}
		b.Run(fmt.Sprint(n, "rows"), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				tl, err := timeline.Build(s, lib)
				if err != nil {
					b.Fatal(err)
				}
				Check(s, tl, lib, DefaultLimits())
			}
		})
	}
}

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

func check(t testing.TB, s *plan.Session) []Finding { t.Helper(); return checkFor(t, s, Context{}) }

func checkFor(t testing.TB, s *plan.Session, ctx Context) []Finding {
	t.Helper()
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return CheckFor(s, tl, lib, DefaultLimits(), ctx)
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

func TestLowBackLever(t *testing.T) {
	s := read(t, rows("pelvic tilt 8", "knee opening 8", "double leg stretch level 2 8"), "")
	f := one(t, s, "lever")
	assert.Equal(t, Look, f.Severity)
	assert.Contains(t, f.Mends[0].Says, "Take level 1")
	assert.Empty(t, of(check(t, read(t, rows("pelvic tilt 8", "double leg stretch level 1 8"), "")), "lever"))
	f = one(t, read(t, rows("pelvic tilt 8", "knee opening 10", "double leg lower level 3 6"), `"audience":"beginners",`), "lever")
	assert.Equal(t, "5.5", f.Limit, "beginners are allowed less")
	assert.Equal(t, Stop, f.Severity)
	f = one(t, read(t, rows("cat cow 12", "mermaid 4 each side", "double leg lower level 2 6"), ""), "lever-early")
	assert.Equal(t, "0:00", f.Measured)
	assert.Empty(t, of(check(t, read(t, rows("cat cow 10", "pelvic tilt 8", "double leg lower level 2 6"), "")), "lever-early"))
}

func TestNoRest(t *testing.T) {
	long := read(t, rows("squat 60", "lunge 40 each side", "hip hinge 30"), `"pace":{"talk":"flowing","tempo":"even"},`)
	f := one(t, long, "no-rest")
	assert.Equal(t, "6:00", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("squat 20", "rest 20", "lunge 12 each side"), "")), "no-rest"))
}

func TestPeakAndItsPlace(t *testing.T) {
	last := read(t, rows("cat cow 20", "mermaid 6 each side", "bridge 12", "book opening 8 each side", "squat 10", "plank level 2 hold 45 s", "push-up level 2 8", "constructive rest 10 breaths"), "")
	f := one(t, last, "peak")
	assert.Equal(t, "The hardest part is the last", f.Says)
	early := read(t, rows("cat cow 8", "mermaid 4 each side", "push-up level 3 6", "squat 12", "bridge 12", "book opening 8 each side", "side-lying leg lift 12 each side", "mermaid 6 each side", "constructive rest 10 breaths"), "")
	f = one(t, early, "peak")
	assert.Equal(t, "The hardest part comes early", f.Says)
}

func TestFloorAndKit(t *testing.T) {
	up := read(t, rows("squat 8", "bridge 8", "lunge 8 each side", "cat cow 6", "march", "swan 4", "squat level 1 8"), "")
	f := one(t, up, "rises")
	assert.Equal(t, "3 times", f.Measured)
	fs := check(t, read(t, rows("squat 8", "bridge 8", "lunge 8 each side", "cat cow 6"), ""))
	assert.Empty(t, of(fs, "rises"))
	f = one(t, read(t, rows("roller march level 1 10 alternating", "bridge 8", "roller arms 6"), ""), "kit")
	assert.Equal(t, "The roller is fetched again", f.Says)
}

func TestSpineAndOrder(t *testing.T) {
	f := one(t, read(t, rows("squat 8", "cat cow 6"), `"focus":["spine in all its ranges"],`), "spine")
	assert.Equal(t, "The spine does not go to the side, nor turned", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("squat 8"), `"focus":["thighs"],`)), "spine"))
	f = one(t, read(t, rows("cat cow 8", "roll-up 5", "hundred", "teaser level 1 3"), `"style":{"order":"classical"},`), "order")
	assert.Equal(t, "The hundred comes before Roll-up in the classical order", f.Says)
	assert.Empty(t, of(check(t, read(t, rows("hundred", "roll-up 5", "cat cow 3", "teaser level 1 3"), `"style":{"order":"classical"},`)), "order"))
}

func TestOptionsHoldsAndCircuits(t *testing.T) {
	opt := read(t, rows(`{"movement":"full-plank","level":2,"options":[3]}`, `{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"8"}`, "squat level 2 8"), `"audience":"mixed",`)
	fs := of(check(t, opt), "options")
	require.Len(t, fs, 2, "the squat has its level 1")
	assert.Equal(t, "Offer level 1: knees down", fs[0].Mends[0].Says)
	f := one(t, read(t, rows("calf stretch hold 5 s each side"), ""), "hold")
	assert.Equal(t, "10 s to 60 s", f.Limit)
	assert.Empty(t, of(check(t, read(t, rows("calf stretch hold 30 s each side", "hip flexor stretch hold 2 min each side"), "")), "hold"), "long holds are meant so")
	one(t, read(t, rows(`{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"hold 40 s"}`), ""), "breath")
	circuit := `{"rule":"rounds","on":"60 s","off":"15 s","rows":[{"movement":"squat"},{"movement":"lunge"}]}`
	f = one(t, read(t, circuit, ""), "on-off")
	assert.Equal(t, "Make it 60 s on and 20 s off", f.Mends[0].Says)
	// 35 on 25 off and 45 on 15 off are in use (common practice)
	for _, c := range []string{`"on":"35 s","off":"25 s"`, `"on":"45 s","off":"15 s"`} {
		assert.Empty(t, of(check(t, read(t, `{"rule":"rounds",`+c+`,"rows":[{"movement":"squat"}]}`, "")), "on-off"), c)
	}
}

func TestPeopleOnTheList(t *testing.T) {
	s := read(t, rows("hundred level 2", "chest lift 8", "bridge 8"), "")
	ctx := Context{Watch: []Watched{{"Ada", []movement.Topic{movement.Neck, movement.Wrists}}}}
	fs := of(checkFor(t, s, ctx), "caution")
	require.Len(t, fs, 1, "nothing here loads the wrists")
	assert.Equal(t, "Ada watches neck", fs[0].Says)
	c, err := fs[0].Mends[0].Apply(s)
	require.NoError(t, err)
	assert.Empty(t, of(checkFor(t, c, ctx), "caution"))
	assert.Equal(t, "hundred", c.Row(plan.Path{Section: 1, Block: 1, Row: 1}).Movement, "the hundred keeps its place at level 1")
	assert.Empty(t, of(check(t, s), "caution"), "nobody on the list")
	met := Context{Met: map[string]bool{"The hundred": true, "Chest lift": true, "Shoulder bridge": true}}
	assert.Empty(t, of(checkFor(t, s, met), "new"))
}

// What was set aside stays away until it gets worse.
func TestSettingAside(t *testing.T) {
	s := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "single leg stretch level 2 14 pairs", "scissors level 2 14 pairs", "criss-cross 12 pairs"), "")
	fs := check(t, s)
	f := of(fs, "head-up")[0]
	aside := []plan.Aside{{Rule: "head-up", About: f.About, Amount: f.Amount, Reason: "they are used to it"}}
	shown, put := SetAside(fs, aside)
	assert.Empty(t, of(shown, "head-up"))
	require.Len(t, put, 1)
	worse := read(t, rows("hundred level 2 10 breaths, 5 in 5 out", "single leg stretch level 2 24 pairs", "scissors level 2 24 pairs", "criss-cross 12 pairs"), "")
	shown, put = SetAside(check(t, worse), aside)
	assert.NotEmpty(t, of(shown, "head-up"), "it is worse now")
	assert.Empty(t, put)
	house := []plan.Aside{{Rule: "settle", Amount: 1e6, Reason: "we settle in the kiln room"}}
	shown, _ = SetAside(fs, house)
	assert.Empty(t, of(shown, "settle"), "for every session of the house")
	s.Aside = aside
	doc, err := json.Marshal(s)
	require.NoError(t, err)
	again, err := plan.ReadSession(doc, lib)
	require.NoError(t, err)
	assert.Equal(t, aside[0].Reason, again.Aside[0].Reason)
}

// No finding says again what another says.
func TestNothingIsSaidTwice(t *testing.T) {
	s := read(t, rows("double leg stretch level 2 8", "criss-cross level 2 10 pairs", "teaser level 2 3"), "")
	fs := check(t, s)
	assert.NotEmpty(t, of(fs, "early"))
	assert.Empty(t, of(fs, "lever-early"), "the warm-up says it")
	assert.Empty(t, of(fs, "peak"))
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
		rule := []string{`"rule":"straight"`, `"rule":"straight"`, `"rule":"chain"`, `"rule":"rounds","rounds":2`, `"rule":"rounds","on":"40 s","off":"15 s"`, `"rule":"rounds","on":"50 s","off":"10 s"`}[r.IntN(6)]
		for range 1 + r.IntN(6) {
			m := all[r.IntN(len(all))]
			if r.IntN(12) == 0 { // something the library lacks
				rs = append(rs, `{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"hold 40 s"}`)
				continue
			}
			row := fmt.Sprintf(`{"movement":%q,"level":%d`, m.Slug, 1+r.IntN(len(m.Levels)))
			switch {
			case m.Stretch && r.IntN(2) == 0:
				row += fmt.Sprintf(`,"dose":"hold %d s"`, []int{5, 8, 90, 100}[r.IntN(4)])
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
	for range 3000 {
		head := fmt.Sprintf(`"target":"%d:00",`, 3+r.IntN(20))
		head += []string{"", `"audience":"mixed",`, `"audience":"beginners",`}[r.IntN(3)]
		head += []string{"", `"focus":["spine mobility"],`}[r.IntN(2)]
		head += []string{"", "", `"style":{"order":"classical"},`, `"style":{"warm_up":"assumed","symmetry":"more on the tighter side"},`}[r.IntN(4)]
		s := read(t, random(r), head)
		var ctx Context
		if r.IntN(3) == 0 {
			ctx.Watch = []Watched{{"Ada", []movement.Topic{[]movement.Topic{movement.Neck, movement.Wrists, movement.Knees, movement.Pressure}[r.IntN(4)]}}}
		}
		if r.IntN(3) == 0 {
			ctx.Met = map[string]bool{"Squat": true}
		}
		check := func(t testing.TB, s *plan.Session) []Finding { return checkFor(t, s, ctx) }
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
				require.Less(t, len(of(after, f.Rule)), max(1, len(of(before, f.Rule))), "%s: %s: %s\n%s", f.Rule, f.Says, m.ID, doc)
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
	for _, rule := range []string{
		"head-up", "wrists", "sides", "length", "forward", "early", "settle", "changes", "one-way", "off-time", "lever", "lever-early", "caution", "peak", "on-off",
		"spine", "order", "options", "hold", "breath", "new", "kit",
	} {
		assert.Greater(t, tried[rule], 4, rule)
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

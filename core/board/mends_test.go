package board

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/series"
)

// rows makes a series of classes, each a list of rows; "" is a day of rest.
func rows(t *testing.T, head string, classes ...string) *plan.Series {
	t.Helper()
	var ds []string
	for _, c := range classes {
		if c == "" {
			ds = append(ds, `{"rest":true}`)
			continue
		}
		more, class := "", ""
		if i := strings.Index(c, "|"); i >= 0 {
			more, c = c[:i]+",", c[i+1:]
		}
		if i := strings.Index(more, "@"); i >= 0 { // of the class, not of the day
			more, class = more[:i], more[i+1:]
		}
		var rs []string
		for _, r := range strings.Split(c, ";") {
			f := strings.SplitN(strings.TrimSpace(r), " ", 3)
			rs = append(rs, fmt.Sprintf(`{"movement":%q,"level":%s,"dose":%q}`, f[0], f[1], f[2]))
		}
		ds = append(ds, fmt.Sprintf(`{%s"session":{"format":"wavekine.session/1","title":"T",%s"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[%s]}]}]}}`, more, class, strings.Join(rs, ",")))
	}
	s, err := plan.ReadSeries([]byte(fmt.Sprintf(`{"format":"wavekine.series/1.2","title":"T","start":"2027-01-04",%s"days":[%s]}`, head, strings.Join(ds, ","))), lib)
	require.NoError(t, err)
	return s
}

// Every rule over the days has a way out, and after it the finding is gone and nothing new is there.
func TestEveryRuleHasAMend(t *testing.T) {
	const light, heavy = "cat-cow 1 6 reps; knee-sway 1 8 alternating", "full-plank 2 hold 60 s; push-up 2 12 reps; push-up 2 12 reps; full-plank 2 hold 60 s"
	const ladder = `"ladders":[{"movement":"bird-dog","steps":[{"level":1,"dose":"6 each side"},{"level":1,"dose":"8 each side"},{"level":1,"dose":"10 each side"},{"level":2,"dose":"8 each side"}]}],`
	const older = `@"audience":"older"|`
	many := "squat 1 8 reps;lunge 1 6 each side;clam 1 8 each side;dart 1 6 reps;saw 1 6 alternating;hundred 1 10 breaths;roll-up 1 5 reps;bridge 1 6 reps;swan 1 5 reps"
	tried := map[string]bool{}
	for _, c := range []struct {
		rule string
		s    *plan.Series
	}{
		{"region-48h", rows(t, "", light, heavy, heavy, light)},
		{"two-levers", rows(t, ladder, "bird-dog 1 8 each side", "bird-dog 1 8 each side", "bird-dog 2 12 each side")},
		{"too-few-goes", rows(t, ladder, "bird-dog 1 10 each side", "bird-dog 2 8 each side", "bird-dog 2 8 each side")},
		{"rung-too-far", rows(t, ladder, "bird-dog 1 6 each side", "bird-dog 1 12 each side")},
		{"week-too-fast", rows(t, "", append(slices.Repeat([]string{light + ";squat 1 8 reps"}, 7), light, light, light+";"+heavy, light, light, light, light)...)},
		{"load-rising", risen(t, light)},
		{"monotony", rows(t, "", slices.Repeat([]string{light}, 7)...)},
		{"no-climb", rows(t, `"shape":"ramp",`, heavy, light+"; squat 1 10 reps", light+"; squat 1 8 reps", light, light, light, light)},
		{"peak-alone", rows(t, "", light, light, `"peak":true|`+heavy, heavy, light)},
		{"seen-too-rarely", rows(t, ladder, append(append([]string{"bird-dog 1 8 each side"}, slices.Repeat([]string{light}, 9)...), "bird-dog 1 8 each side")...)},
		{"spine-week", laidWithout(t)},
		{"too-new", withDay(t, 4, many+";"+"teaser 1 3 each side;mermaid 1 4 each side;rolling-like-a-ball 1 6 reps;push-up 1 6 reps;side-bend 1 4 each side;swimming 1 5 breaths")},
		{"same-class", do(t, laid(t, "9 days, 12 min, hips, no kit, mixed, different every day"), &CopyDays{Day: n(1), To: "3, 5 and 7"})},
		{"minutes", laidLonger(t)},
		{"rest-day", rows(t, `"rest_days":["sunday"],`, slices.Repeat([]string{light + ";swan 1 5 reps; spine-twist 1 8 alternating; mermaid 1 4 each side"}, 3)[0], light, heavy, light, "", light, light+";clam 1 8 each side")},
		{"stretch-week", rows(t, "", "butterfly 1 hold 20 s", "butterfly 1 hold 20 s", "", "", "", "", "")},
		{"first-side", rows(t, "", "clam 1 8 each side", "clam 1 9 each side;clam 1 8 each side", "clam 1 10 each side; cat-cow 1 5 reps", "clam 1 12 each side; bridge 1 6 reps")},
		{"kit-unannounced", rows(t, `"brief":"3 days, no kit, 5 min, hips",`, "roller-bridge 1 6 reps;cat-cow 1 5 reps", light)},
		{"balance-week", rows(t, "", older+light, "", older+light, "", older+"cat-cow 1 6 reps; one-leg-stand 1 hold 20 s each side", older+"cat-cow 1 7 reps; one-leg-stand 1 hold 20 s each side", "")},
	} {
		all, err := series.Over(c.s, lib, nil)
		require.NoError(t, err)
		i := slices.IndexFunc(all, func(f series.Finding) bool { return f.Rule == c.rule })
		if !assert.GreaterOrEqual(t, i, 0, "%s is not found", c.rule) {
			continue
		}
		out := Tried(c.s, lib, nil, all[i], With{})
		if !assert.NotEmpty(t, out, "%s: %s, of %v", c.rule, all[i].Says, MendsOf(c.s, lib, all[i], With{})) {
			continue
		}
		tried[c.rule] = true
		before := text(t, c.s)
		now := do(t, c.s, &TakeMend{Rule: c.rule, Day: n(all[i].Day), About: all[i].About, Mend: out[0].ID})
		assert.Equal(t, before, text(t, c.s))
		assert.NotEmpty(t, Diff(c.s, now, lib), "%s: the preview shows what changes: %s", c.rule, out[0].Says)
		_, err = plan.ApplySeries(now, lib, &TakeMend{Rule: c.rule, Day: n(all[i].Day), About: all[i].About, Mend: out[0].ID})
		assert.ErrorContains(t, err, "not there any more", c.rule)
	}
	for _, r := range series.Rules() {
		assert.True(t, tried[r.Name], "%s has no mend that was tried", r.Name)
	}
	assert.Len(t, mends, len(series.Rules()))
}

// laidWithout is a week that never turns the spine: its classes were copied from one.
func laidWithout(t *testing.T) *plan.Series {
	s := laid(t, "7 days, 12 min, hips and spine, no kit, mixed, different every day")
	plain := rows(t, "", "cat-cow 1 6 reps; bridge 1 6 reps; clam 1 8 each side; chest-lift 1 8 reps")
	for i := range s.Days {
		c := plain.Days[0].Session.Clone()
		c.Target = s.Days[i].Session.Target
		c.Style.First = plan.FirstByDay
		s.Days[i].Session, s.Days[i].Rows = c, nil
		if i%2 == 0 {
			c.Sections[0].Blocks[0].Rows = c.Sections[0].Blocks[0].Rows[:3-i%4/2]
		}
	}
	return s
}

// risen is a series whose load has risen just too fast on its 22nd day.
func risen(t *testing.T, light string) *plan.Series {
	for k := 1; ; k++ {
		s := rows(t, "", append(slices.Repeat([]string{light}, 21), strings.Repeat("squat 1 12 reps;", k)+light, light)...)
		all, err := series.Over(s, lib, nil)
		require.NoError(t, err)
		if slices.ContainsFunc(all, func(f series.Finding) bool { return f.Rule == "load-rising" }) {
			return s
		}
		require.Less(t, k, 60)
	}
}

// withDay is a laid series of which a day has another class.
func withDay(t *testing.T, day int, class string) *plan.Series {
	s := laid(t, "9 days, 15 min, hips, spine and waist, no kit, mixed, different every day")
	c := rows(t, "", class).Days[0].Session
	c.Target, c.Style.First = s.Days[day].Session.Target, plan.FirstByDay
	s.Days[day].Session = c
	return s
}

// laidLonger is a series with a day that is far too long.
func laidLonger(t *testing.T) *plan.Series {
	s := laid(t, "3 days, 12 min, hips, no kit, mixed")
	c := s.Days[1].Session.Clone()
	for k := range c.Sections {
		for j := range c.Sections[k].Blocks {
			for i := range c.Sections[k].Blocks[j].Rows {
				r := &c.Sections[k].Blocks[j].Rows[i]
				if m, ok := lib.Get(r.Movement); ok && len(r.DoseOf(m).Parts) > 0 && r.DoseOf(m).Parts[0].Count > 0 {
					r.Dose, _ = r.DoseOf(m).WithCount(r.DoseOf(m).Parts[0].Count * 2)
				}
			}
		}
	}
	s.Days[1].Session = c
	return s
}

// Over series that were laid and then upset at random: whatever mend is offered takes its finding away, brings none, and leaves pinned days as they are.
func TestMendsOfRealSeries(t *testing.T) {
	r := rand.New(rand.NewPCG(71, 72))
	rounds, findings, offered := 8, map[string]int{}, map[string]int{}
	if os.Getenv("THOROUGH") != "" {
		rounds = 80
	}
	for range rounds {
		s := laid(t, []string{fortnight, "10 days, 10 min, spine, older, with chair", "15 days, 15 min, hips and core, no kit, wave, learn clam", "9 days, 12 min, back, no kit, beginners, different every day"}[r.IntN(4)])
		for range 6 {
			c, _ := someCommand(r, s, With{})
			if ch, err := plan.ApplySeries(s, lib, c); err == nil {
				s = ch.Series
			}
		}
		all, err := series.Over(s, lib, nil)
		require.NoError(t, err)
		for _, f := range all {
			findings[f.Rule]++
			at := time.Now()
			for _, m := range Tried(s, lib, nil, f, With{}) {
				offered[f.Rule]++
				now := do(t, s, m)
				for i := range s.Days {
					if s.Days[i].Pin.Day && len(now.Days) == len(s.Days) {
						assert.Equal(t, text(t, s.Days[i]), text(t, now.Days[i]), "%s: %s", f.Says, m.Says)
					}
				}
			}
			assert.Less(t, time.Since(at), 10*time.Second)
		}
	}
	t.Logf("found %v, mends that help %v", findings, offered)
}

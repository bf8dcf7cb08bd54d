package review

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	fs, err := CheckFor(t.Context(), s, tl, lib, Limits{}, ctx)
	require.NoError(t, err)
	return fs
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
	s := read(t, rows("double leg stretch level 3 8", "criss-cross level 3 10 pairs", "teaser level 3 3"), "")
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
			level := 1 + r.IntN(len(m.Levels))
			row := fmt.Sprintf(`{"movement":%q,"level":%d`, m.Slug, level)
			m = m.As(level)
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
			if r.IntN(10) == 0 {
				row += fmt.Sprintf(`,"options":[%d]`, 1+r.IntN(len(m.Levels)))
			}
			rs = append(rs, row+"}")
		}
		if r.IntN(5) == 0 { // written out again, and something is forgotten
			again := slices.Clone(rs)
			if len(again) > 1 {
				k := r.IntN(len(again))
				again = slices.Delete(again, k, k+1)
			}
			rs = append(rs, again...)
		}
		blocks = append(blocks, "{"+rule+`,"rows":[`+strings.Join(rs, ",")+"]}")
	}
	return strings.Join(blocks, ",")
}

// without tells whether a finding may come without a mend: its rule offers none, or it is about the class as a whole.
func without(f Finding) bool {
	r, _ := RuleOf(f.Rule)
	return strings.HasPrefix(r.Mends, "none") || f.Rule == "round" || f.Rule == "prerequisite" || strings.Contains(f.Says, "in all") || strings.Contains(f.Says, "whole class")
}

// someAudience is the head of a class for some people, or nobody in particular.
func someAudience(r *rand.Rand) string {
	all := movement.Audiences()
	var a movement.Audience
	for range r.IntN(3) {
		a |= all[r.IntN(len(all))]
	}
	if a.Has(movement.Beginners) {
		a &^= movement.Able
	}
	return fmt.Sprintf(`"audience":%q,`, a)
}

// A mend removes its finding and brings no new one that is as bad.
func TestMendsOverGeneratedSessions(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	tried, all, refused := map[string]int{}, 0, 0
	classes := 900
	if os.Getenv("THOROUGH") != "" {
		classes = 9000
	} else if testing.Short() { // with the race detector each takes ten times as long
		classes = 250
	}
	for range classes {
		head := fmt.Sprintf(`"target":"%d:00",`, 3+r.IntN(20))
		if r.IntN(12) == 0 {
			head = ""
		}
		head += someAudience(r)
		head += []string{"", `"focus":["spine mobility"],`}[r.IntN(2)]
		head += []string{"", "", `"style":{"order":"classical"},`, `"style":{"warm_up":"assumed","symmetry":"more on the tighter side"},`, `"style":{"seen":"by a camera"},`, `"style":{"peak":"a finisher"},`}[r.IntN(6)]
		s := read(t, random(r), head)
		var ctx Context
		if r.IntN(3) == 0 {
			ctx.Watch = []Watched{{"Ada", []movement.Topic{[]movement.Topic{movement.Neck, movement.Wrists, movement.Knees, movement.Pressure}[r.IntN(4)]}}}
		}
		if r.IntN(3) == 0 {
			ctx.Met = map[string]bool{"Squat": true}
			ctx.Led = map[string]int{"squat": 1, "teaser": 1, "full-plank": 2}
		}
		check := func(t testing.TB, s *plan.Session) []Finding { return checkFor(t, s, ctx) }
		before := check(t, s)
		for _, f := range before {
			if f.Severity == Good {
				continue
			}
			require.True(t, len(f.Mends) > 0 || without(f) || s.Audience.Has(^movement.Mixed), f.Says)
			for _, m := range f.Mends {
				changed, err := plan.Apply(s, lib, m)
				c := changed.Session
				if errors.Is(err, errUnsuited) && !slices.Contains(puts, f.Rule) { // said when it is taken, and nothing changes
					refused++
					continue
				}
				require.NoError(t, err, "%s: %s", f.Says, m.Says)
				after := check(t, c)
				tried[f.Rule]++
				all++
				doc, _ := json.Marshal(s)
				made, err := json.Marshal(c)
				require.NoError(t, err)
				again, err := plan.ReadSession(made, lib) // what a mend makes can be read again
				require.NoError(t, err, "%s\n%s", m.ID, made)
				remade, err := json.Marshal(again)
				require.NoError(t, err)
				require.JSONEq(t, string(made), string(remade), m.ID)
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
	t.Log(tried, refused)
	assert.Less(t, refused, all/100)
	for _, rule := range []string{
		"head-up", "wrists", "sides", "length", "forward", "early", "settle", "changes", "one-way", "off-time", "lever", "lever-early", "peak", "on-off",
		"spine", "order", "options", "hold", "breath", "new", "kit", "isometric", "balance", "prerequisite", "round", "no-number", "promise", "kit-late", "unshown", "hidden-side",
	} {
		if !testing.Short() { // too few for that
			assert.Greater(t, tried[rule], classes/800, rule)
		}
	}
}

func TestPublishedFindings(t *testing.T) {
	b, err := MarshalFindings(check(t, read(t, rows("hundred level 2"), "")), nil)
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
				if _, err := Check(b.Context(), s, tl, lib, Limits{}); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

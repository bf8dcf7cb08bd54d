package adapt_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/adapt"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func doc(t testing.TB, s *plan.Session) string {
	t.Helper()
	b, err := json.Marshal(s)
	require.NoError(t, err)
	return string(b)
}

// promised holds a version to everything that is promised of it; the error is the first promise that is broken. It knows nothing of how a version is made.
func promised(t testing.TB, s *plan.Session, m adapt.Mover) error {
	t.Helper()
	ctx := context.Background()
	v, err := adapt.As(ctx, s, lib, review.Limits{}, m)
	if err != nil {
		return err
	}
	if _, err := plan.Seal(v.Session, lib); err != nil {
		return fmt.Errorf("it cannot be stored and read: %w", err)
	}
	var bad error
	fail := func(format string, args ...any) {
		if bad == nil {
			bad = fmt.Errorf(format, args...)
		}
	}
	watch := func(mv *movement.Movement, n int, at plan.Path) {
		for _, topic := range m.Topics {
			if topic != movement.Treated && mv.Spared(n, topic) {
				fail("%s: %s at level %d is not for %s", at, mv.Name, n, topic)
			}
		}
	}
	for i := range v.Timeline.Steps {
		if st := &v.Timeline.Steps[i]; st.Kind.Working() && st.Move != nil {
			watch(st.Move, st.Level, st.Row)
			for _, p := range st.Parts {
				watch(p.Move, p.Level, p.Row)
			}
			for _, topic := range m.Topics {
				if topic == movement.NoFloor && st.Posture.OnFloor() {
					fail("%s: %s is down on the mat", st.Row, st.Posture)
				}
			}
		}
	}
	v.Session.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		mv, err := r.Of(lib)
		if err != nil || mv == nil {
			return
		}
		for _, n := range r.Options {
			watch(mv, n, p)
		}
		if r.Options == nil {
			for _, n := range append(review.EasierOffered(r, mv), review.HarderOffered(r, mv)...) {
				watch(mv, n, p)
			}
		}
	})
	// Every row of the class is there in its order, or it is said what became of it.
	last := plan.Path{}
	s.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		mv, err := r.Of(lib)
		if err != nil || mv == nil {
			return
		}
		q, there := v.Where(p)
		var ch *adapt.Change
		for i := range v.Changes {
			if v.Changes[i].Row == p {
				ch = &v.Changes[i]
			}
		}
		if !there {
			if ch == nil || ch.Does != adapt.Leave || ch.Why == "" {
				fail("%s %s is gone and nothing is said", p, mv.Name)
			}
			return
		}
		if before(q, last) {
			fail("%s: the order changed", p)
		}
		last = q
		now := v.Session.Row(q)
		if now == nil {
			fail("%s: no row at %s", p, q)
			return
		}
		if ch != nil && ch.Why == "" {
			fail("%s: no reason", p)
		}
		if now.IsRest() {
			return
		}
		after, err := now.Of(lib)
		if err != nil {
			fail("%s: %v", q, err)
			return
		}
		was, is := mv.At(max(1, r.Level)).Demand, after.At(max(1, now.Level)).Demand
		if is > was+1e-9 {
			fail("%s: %s level %d demands %.2f, %s level %d demanded %.2f", p, after.Name, now.Level, is, mv.Name, r.Level, was)
		}
		if now.Name() != r.Name() && (ch == nil || ch.Does != adapt.Instead) || max(1, now.Level) != max(1, r.Level) && (ch == nil || ch.Does != adapt.Instead && ch.Does != adapt.AtLevel) {
			fail("%s: changed without a word", p)
		}
		if m.Level > 0 && now.Level > m.Level && max(1, now.Level) > max(1, r.Level) {
			fail("%s: level %d", p, now.Level)
		}
	})
	// Both sides the same, where they were.
	if were, now := apart(s), apart(v.Session); now > were {
		fail("%d findings on sides, %d before", now, were)
	}
	if len(v.Stops) > 0 {
		fail("a new stop: %s", v.Stops[0].Says)
	}
	stops := func(s *plan.Session, tl *timeline.Timeline) map[string]int {
		fs, err := review.Check(ctx, s, tl, lib, review.Limits{})
		require.NoError(t, err)
		n := map[string]int{}
		for _, f := range fs {
			if f.Severity == review.Stop {
				n[f.Rule]++
			}
		}
		return n
	}
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	was := stops(s, tl)
	for rule, n := range stops(v.Session, v.Timeline) {
		if n > was[rule] {
			fail("%d stops of %s, %d before", n, rule, was[rule])
		}
	}
	off := float64(v.Timeline.Total-tl.Total) / float64(tl.Total)
	if (off > .05 || off < -.05) && !strings.Contains(strings.Join(v.Notes, " "), "than the class") {
		fail("%.0f %% off its length and nothing is said", off*100)
	}
	again, err := adapt.As(ctx, v.Session, lib, review.Limits{}, m)
	require.NoError(t, err)
	if a, b := doc(t, v.Session), doc(t, again.Session); a != b {
		fail("twice is not once:\n%s\n%s", a, b)
	}
	return bad
}

func before(a, b plan.Path) bool {
	if a.Section != b.Section {
		return a.Section < b.Section
	}
	if a.Block != b.Block {
		return a.Block < b.Block
	}
	return a.Row < b.Row
}

func apart(s *plan.Session) (n int) {
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return -1
	}
	for _, f := range review.Stops(context.Background(), s, tl, lib, review.Limits{}) {
		if f.Rule == "sides" {
			n++
		}
	}
	return n
}

// single is a class around one row.
func single(slug string, level int, rule plan.Rule) *plan.Session {
	b := plan.Block{Rule: rule, Rounds: 1, Rows: []plan.Row{{Movement: slug, Level: level}}}
	return &plan.Session{Title: "One", Sections: []plan.Section{
		{Title: "Arrive", Blocks: []plan.Block{{Rule: plan.Straight, Rounds: 1, Rows: []plan.Row{{Movement: "rib-breathing"}, {Movement: "march"}}}}},
		{Title: "Build", Blocks: []plan.Block{b}},
	}}
}

// Every promise over every movement at every level for every topic.
func TestEveryMovementForEveryTopic(t *testing.T) {
	broken, left, instead := 0, 0, 0
	for i, mv := range lib.All() {
		if testing.Short() && i%8 > 0 { // with the race detector: all of them without it
			continue
		}
		for n := 1; n <= len(mv.Levels); n++ {
			for _, topic := range append(movement.Topics(), movement.LowBack, movement.Pregnancy) {
				s := single(mv.Slug, n, plan.Straight)
				m := adapt.Mover{Topics: []movement.Topic{topic}}
				if err := promised(t, s, m); err != nil && broken < 20 {
					broken++
					t.Errorf("%s %d, %s: %v", mv.Slug, n, topic, err)
				}
				v, err := adapt.As(context.Background(), s, lib, review.Limits{}, m)
				require.NoError(t, err)
				for _, c := range v.Changes {
					switch c.Does {
					case adapt.Leave:
						left++
					case adapt.Instead:
						instead++
					}
				}
			}
		}
	}
	t.Logf("left out %d, instead %d", left, instead)
}

// classes are whole classes: those of the demo, and documents with every word.
func demo(t testing.TB) (out []*plan.Session) {
	t.Helper()
	names, err := filepath.Glob("../../demo/sessions/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, names)
	for _, n := range names {
		text, err := os.ReadFile(n)
		require.NoError(t, err)
		s, err := plan.ReadSession(text, lib)
		require.NoError(t, err)
		out = append(out, s)
	}
	return out
}

// generated is a class with every word there is.
func generated(t testing.TB, r *rand.Rand) *plan.Session {
	t.Helper()
	s, err := plan.ReadSession(made.Session(r, lib), lib)
	require.NoError(t, err)
	return s
}

func someTopics(r *rand.Rand) (out []movement.Topic) {
	all := movement.Topics()
	for range 1 + r.IntN(3) {
		out = append(out, all[r.IntN(len(all))])
	}
	return out
}

func TestGeneratedClassesForGeneratedPeople(t *testing.T) {
	n := 500
	if os.Getenv("THOROUGH") != "" {
		n = 6000
	}
	if testing.Short() {
		n = 60
	}
	r := rand.New(rand.NewPCG(15, uint64(n)))
	plans, broken := demo(t), 0
	for i := range n {
		s := generated(t, r)
		if i%3 == 0 {
			s = plans[i/3%len(plans)]
		}
		m := adapt.Mover{Topics: someTopics(r), Level: r.IntN(4)}
		if tl, err := timeline.Build(s, lib); err != nil || tl.Total == 0 {
			continue
		}
		if err := promised(t, s, m); err != nil {
			if broken++; broken < 12 {
				t.Errorf("class %d, %v level %d: %v", i, m.Topics, m.Level, err)
			}
		}
	}
	assert.Zero(t, broken)
}

func TestNoWishesIsTheClass(t *testing.T) {
	for _, s := range demo(t) {
		v, err := adapt.As(context.Background(), s, lib, review.Limits{}, adapt.Mover{})
		require.NoError(t, err)
		assert.Equal(t, doc(t, s), doc(t, v.Session))
		assert.Empty(t, v.Changes)
	}
}

// long is a class of n rows, as a teacher plans one: the rows of the demo's classes one after the other.
func long(t testing.TB, n int) *plan.Session {
	t.Helper()
	out := &plan.Session{Title: "Long"}
	plans := demo(t)
	for k := 0; out.Rows() < n; k++ {
		for _, sec := range plans[k%len(plans)].Sections {
			for _, b := range sec.Blocks {
				if out.Rows()+len(b.Rows) > n {
					b.Rows = b.Rows[:n-out.Rows()]
				}
				if len(b.Rows) > 0 {
					out.Sections = append(out.Sections, plan.Section{Title: sec.Title, Blocks: []plan.Block{b}})
				}
			}
		}
	}
	return out
}

func BenchmarkVersion(b *testing.B) {
	for _, n := range []int{15, 30, 60, 120} {
		for _, who := range []adapt.Mover{
			{Topics: []movement.Topic{movement.Neck, movement.Wrists}, Level: 2},
			{Topics: []movement.Topic{movement.NoFloor}},
			{Topics: []movement.Topic{movement.Expecting3, movement.Knees, movement.Vertigo}, Level: 1},
		} {
			s := long(b, n)
			b.Run(fmt.Sprintf("%d rows, %s", n, who.Topics[0]), func(b *testing.B) {
				for b.Loop() {
					if _, err := adapt.As(context.Background(), s, lib, review.Limits{}, who); err != nil {
						b.Fatal(err)
					}
				}
			})
		}
	}
}

package review

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Every rule says what it looks for, asks and offers; every limit lies in its range and can be set and read back.
func TestEveryRuleIsWhole(t *testing.T) {
	seen := map[string]bool{}
	for _, r := range Rules() {
		assert.False(t, seen[r.Name], r.Name)
		seen[r.Name] = true
		assert.NotEmpty(t, r.Looks, r.Name)
		assert.NotEmpty(t, r.Mends, r.Name)
		assert.NotEmpty(t, r.source(), r.Name)
		assert.True(t, len(r.Limits) > 0 != (r.Fixed != ""), "%s: a limit or what is fixed", r.Name)
		for _, to := range r.Yields {
			_, ok := RuleOf(to)
			assert.True(t, ok, "%s yields to %s", r.Name, to)
		}
	}
	_, ok := RuleOf("nothing")
	assert.False(t, ok)
}

func TestLimits(t *testing.T) {
	keys := map[string]bool{}
	for _, l := range AllLimits() {
		assert.False(t, keys[l.Key], l.Key)
		keys[l.Key] = true
		assert.NotEmpty(t, l.Source, l.Key)
		assert.GreaterOrEqual(t, l.Default, l.Least, l.Key)
		assert.LessOrEqual(t, l.Default, l.Most, l.Key)
		none := Limits{}
		assert.InDelta(t, l.Default, none.Of(l), 1e-9)
		set, err := none.With(l, l.Most)
		require.NoError(t, err)
		assert.InDelta(t, l.Most, set.Of(l), 1e-9)
		assert.InDelta(t, l.Default, none.Of(l), 1e-9, "the first is as it was")
		text, err := json.Marshal(set)
		require.NoError(t, err)
		var back Limits
		require.NoError(t, json.Unmarshal(text, &back))
		assert.Equal(t, set, back)
		for _, bad := range []float64{l.Least - 1, l.Most + 1, math.NaN(), math.Inf(1)} {
			_, err := none.With(l, bad)
			assert.ErrorContains(t, err, l.Name)
		}
		unset, err := set.With(l, l.Default)
		require.NoError(t, err)
		assert.False(t, unset.Changed(l))
	}
	var odd Limits // of another version, or by hand
	require.NoError(t, json.Unmarshal([]byte(`{"head_up":100,"wrists":-4,"unheard":3}`), &odd))
	assert.InDelta(t, 100, odd.Of(headUpLimit), 1e-9)
	assert.InDelta(t, wristsLimit.Default, odd.Of(wristsLimit), 1e-9)
	l, ok := LimitOf("no_rest")
	require.True(t, ok)
	assert.Equal(t, "6 min", l.Said(l.Default))
}

// What is past its limit on a rail is what the rule of that rail finds, in every class and for every audience: both are
// the same value.
func TestRailsSayWhatTheirRulesFind(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 8))
	over, held := map[string]int{}, 0
	for range 400 {
		s := read(t, random(r), []string{"", `"audience":"beginners",`, `"audience":"mixed",`}[r.IntN(3)])
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		l := &look{s: s, tl: tl, lib: lib}
		for _, rule := range rules {
			if rule.rail == nil {
				continue
			}
			fs := of(rule.on(l), rule.Name)
			covered := func(at clock.Span, bands []Band) bool {
				return slices.ContainsFunc(bands, func(b Band) bool { return b.Over != "" && b.At <= at && at < b.End })
			}
			bands := rule.rail.bands(l)
			for _, f := range fs {
				require.True(t, covered(f.At, bands), "%s: found at %s and not on the rail", rule.Name, f.At)
			}
			for _, b := range bands {
				held++
				if b.Over == "" {
					continue
				}
				over[rule.Name]++
				found := slices.ContainsFunc(fs, func(f Finding) bool {
					return b.At <= f.At && f.At < b.End || slices.ContainsFunc(tl.Steps, func(s timeline.Step) bool { return s.Row == f.Row && b.At <= s.At && s.At < b.End })
				})
				require.True(t, found, "%s: on the rail at %s and not found", rule.Name, b.At)
			}
		}
	}
	t.Log(over, held)
	for _, name := range []string{"head-up", "wrists", "lever", "breath"} {
		assert.Positive(t, over[name], name)
	}
}

// The rail of the breath is quiet after its own mend.
func TestBreathRailAfterItsMend(t *testing.T) {
	s := read(t, rows(`{"movement":{"name":"Clay press","posture":"standing","sides":"both","effort":5},"dose":"hold 40 s"}`), "")
	c, err := of(check(t, s), "breath")[0].Mends[0].Apply(s)
	require.NoError(t, err)
	overs := func(s *plan.Session) (n int) {
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		for _, rail := range Rails(s, tl, lib, Limits{}) {
			for _, b := range rail.Bands {
				if b.Over != "" {
					n++
				}
			}
		}
		return n
	}
	assert.Equal(t, 1, overs(s))
	assert.Zero(t, overs(c))
}

// The page of rules in the docs is what the rules say of themselves: limits, defaults, ranges, sources and mends.
func TestThePageOfRules(t *testing.T) {
	page, err := os.ReadFile("../../docs/rules.md")
	require.NoError(t, err)
	assert.Equal(t, string(page), Markdown(), "write it again: go run ./cmd/wavekine rules --as markdown > docs/rules.md")
}

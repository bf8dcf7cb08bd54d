package review

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/strict/golden"
	"wavekine/core/timeline"
)

// The second look over some hundred generated classes, rule by rule: how many findings, what they measure, what their
// mends make of the classes. It says what a change of a rule changes beyond the classes it was changed for; whoever
// writes it anew looks at the difference.
func TestTallyOfGeneratedClasses(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	type sum struct {
		stops, looks, good int
		amount             float64
		at                 clock.Span
		mends              map[string]int
		after              clock.Span
	}
	sums := map[string]*sum{}
	rails := map[string]*sum{}
	get := func(m map[string]*sum, key string) *sum {
		if m[key] == nil {
			m[key] = &sum{mends: map[string]int{}}
		}
		return m[key]
	}
	for n := range 500 {
		head := fmt.Sprintf(`"target":"%d:00",`, 3+r.IntN(20))
		head += []string{"", `"audience":"mixed",`, `"audience":"beginners",`}[r.IntN(3)]
		head += []string{"", `"focus":["spine mobility"],`}[r.IntN(2)]
		head += []string{"", "", `"style":{"order":"classical"},`}[r.IntN(3)]
		s := read(t, random(r), head)
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		ctx := Context{}
		if n%4 == 0 {
			ctx.Met = map[string]bool{"Squat": true}
		}
		l := &look{s: s, tl: tl, lib: lib, ctx: ctx}
		for _, f := range l.all() {
			a := get(sums, f.Rule)
			switch f.Severity {
			case Stop:
				a.stops++
			case Good:
				a.good++
			default:
				a.looks++
			}
			a.amount += f.Amount
			a.at += f.At
			for _, m := range f.Mends {
				a.mends[strings.TrimRight(m.ID, "-.0123456789")]++
				c, err := m.Apply(s)
				require.NoError(t, err)
				after, err := timeline.Build(c, lib)
				require.NoError(t, err)
				a.after += after.Total
			}
		}
		for _, rail := range Rails(s, tl, lib, Limits{}) {
			a := get(rails, rail.Name)
			for _, b := range rail.Bands {
				a.looks++
				a.at += b.End - b.At
				if b.Over != "" {
					a.stops++
				}
			}
		}
	}
	var out strings.Builder
	for _, rule := range slices.Sorted(maps.Keys(sums)) {
		a := sums[rule]
		fmt.Fprintf(&out, "%s: %d stop, %d to look at, %d good; by %.6g in all, at %s in all; after all mends %s\n", rule, a.stops, a.looks, a.good, a.amount, a.at, a.after)
		for _, id := range slices.Sorted(maps.Keys(a.mends)) {
			fmt.Fprintf(&out, "    %s %d\n", id, a.mends[id])
		}
	}
	for _, name := range slices.Sorted(maps.Keys(rails)) {
		fmt.Fprintf(&out, "rail %s: %d bands, %d over, %s long\n", name, rails[name].looks, rails[name].stops, rails[name].at)
	}
	golden.Equal(t, "testdata/tally.txt", out.String())
}

package review

import (
	"context"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// endsAfter is a context that ends when it has been looked at so often, so that a test can end a search anywhere in it.
type endsAfter struct {
	context.Context
	left *int
}

func (c endsAfter) Err() error {
	if *c.left--; *c.left < 0 {
		return context.Canceled
	}
	return nil
}

// Half a look is none: wherever in it whoever asked has gone, there is an error and no finding, no mend and no proposal
// that only looks right because nobody went on looking.
func TestHalfALookIsNone(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 26))
	stopped := map[string]int{}
	same := func(what string, n int, want, got *plan.Session, err error) {
		if err != nil {
			require.ErrorIs(t, err, context.Canceled, what)
			stopped[what]++
			return
		}
		require.Equal(t, want, got, "%s after %d looks", what, n)
	}
	left := 1 << 30
	ctx := endsAfter{t.Context(), &left}
	for k := range 60 {
		s := read(t, random(r), `"target":"12:00",`)
		if k == 0 { // made longer, its hold would be past its limit
			s = read(t, `{"rule":"straight","rows":[{"movement":"full-plank","dose":"hold 150 s"},{"movement":"squat","dose":"8 reps"}]}`, "")
		}
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		left = 1 << 30
		whole, err := Check(ctx, s, tl, lib, Limits{})
		require.NoError(t, err)
		fit, err := FitTo(ctx, s, lib, tl.Total.Times(1.25), Limits{})
		require.NoError(t, err)
		order, err := OrderOf(ctx, s, lib, Limits{})
		require.NoError(t, err)
		for _, n := range []int{0, 1, 2, 3, 5, 8, 13, 21, 27, 34, 55, 89} {
			left = n
			if fs, err := Check(ctx, s, tl, lib, Limits{}); err == nil {
				require.Len(t, fs, len(whole), "after %d looks", n)
			} else {
				require.Empty(t, fs)
			}
			left = n
			f, err := FitTo(ctx, s, lib, tl.Total.Times(1.25), Limits{})
			if f == nil {
				f = fit
			}
			same("fit", n, fit.Session, f.Session, err)
			left = n
			o, err := OrderOf(ctx, s, lib, Limits{})
			if o == nil {
				o = order
			}
			same("order", n, order.Session, o.Session, err)
			for _, f := range whole {
				for _, m := range f.Mends {
					left = 1 << 30
					want, err := m.Apply(s)
					if err != nil {
						continue
					}
					left = n
					got, err := m.Apply(s)
					same("mend", n, want, got, err)
				}
			}
		}
	}
	for _, what := range []string{"fit", "order", "mend"} {
		assert.Greater(t, stopped[what], 20, what)
	}
	t.Log(stopped)
}

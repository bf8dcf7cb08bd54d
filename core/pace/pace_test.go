package pace

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func led(ratios ...float64) (out []Led) {
	for i, r := range ratios {
		out = append(out, Led{fmt.Sprint("r", i), "squat", 60, 60 * r})
	}
	return out
}

func TestNothingFromTooFewRuns(t *testing.T) {
	l := Movements(led(1.4, 1.4))
	require.Len(t, l, 1)
	assert.False(t, l[0].Enough)
	assert.InDelta(t, 1, l[0].Factor, 1e-9)
}

func TestMedianAndShrinkage(t *testing.T) {
	l := Movements(led(1.2, 1.3, 1.2, 1.2, 2.4))[0]
	assert.InDelta(t, 1.2, l.Ratio, 1e-9, "one slow day does not count")
	assert.Equal(t, 5, l.Runs)
	assert.InDelta(t, math.Pow(1.2, 5./9), l.Factor, 1e-9)
	few, many := Movements(led(1.2, 1.2, 1.2))[0], Movements(led(1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2, 1.2))[0]
	assert.Less(t, few.Factor, many.Factor, "more runs, more trust")
	assert.Less(t, many.Factor, 1.2)
	assert.Empty(t, Movements(led(9, 12)), "an interrupted run teaches nothing")
}

func TestWholeBySquareRoot(t *testing.T) {
	// an announced 20 minutes that took 24 corrects by the root of 1.2, not by 1.2
	l := Talk([]Whole{{Run: "a", Planned: 1200, Taken: 1440}})
	assert.InDelta(t, math.Sqrt(1.2), l.Factor, 1e-9)
	l = Talk([]Whole{{"a", 1200, 1300, 200, 260}, {"b", 1200, 1300, 200, 260}, {"c", 1200, 1300, 200, 260}})
	assert.True(t, l.Enough)
	assert.InDelta(t, math.Pow(1.3, 3./7), l.Factor, 1e-9)
	assert.InDelta(t, 1, Talk(nil).Factor, 1e-9)
}

package body

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Wherever a joint is pulled, ranges and lengths hold, nothing goes under the mat that was not, and what
// is planted and not pulled stays where it was.
func TestPullingAnyJointAnywhere(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	names := Poses().Names()
	moved := 0
	for range 1500 {
		name := names[r.IntN(len(names))]
		p, _ := Poses().Pose(name)
		f, before := Solve(p), Solve(p)
		handle := handles[r.IntN(len(handles))]
		from := f.Handle(handle)
		to := Point{from.X + r.Float64() - .5, from.Y + r.Float64() - .5}
		q := p.Drag(handle, to)
		g := Solve(q)
		assert.LessOrEqual(t, len(g.Complaints()), len(f.Complaints()), "%s: %s to %v: %v", name, handle, to, g.Complaints())
		assert.Equal(t, before.J, Solve(p).J, "the pose that was pulled is not touched")
		if Dist(g.Handle(handle), from) > .01 {
			moved++
		}
		for _, seg := range [][2]string{{"kneeR", "ankR"}, {"hipR", "kneeR"}, {"elbL", "wriL"}} {
			if !f.Front { // in the front view a limb may point out of the picture
				assert.InDelta(t, Dist(f.J[seg[0]], f.J[seg[1]]), Dist(g.J[seg[0]], g.J[seg[1]]), 1e-6, "%s: %s: %v keeps its length", name, handle, seg)
			}
		}
		for limb := range p.Plant {
			end := map[string]string{"hand": "wri", "foot": "ank"}[limb[:4]] + limb[4:]
			if _, still := q.Plant[limb]; still && !strings.HasSuffix(handle, limb[4:]) && handle != "hip" && !slices.Contains(p.Lay, limb) && p.Plant[limb].Part == "" {
				assert.InDelta(t, f.J[end].X, g.J[end].X, .02, "%s: %s: %s slid", name, handle, limb)
			}
		}
	}
	assert.Greater(t, moved, 600, "most pulls do something")
}

// Pulled a little at a time, a joint follows the pointer.
func TestAJointFollowsThePointer(t *testing.T) {
	p, ok := Poses().Pose("bird dog")
	require.True(t, ok)
	at := Solve(p).Handle("ankR")
	for range 10 {
		at.Y += .01
		p = p.Drag("ankR", at)
	}
	assert.InDelta(t, at.Y, Solve(p).Handle("ankR").Y, .03)
	same := p.Drag("nose", at)
	assert.Equal(t, Solve(p).J, Solve(same).J, "no such handle")
}

// A typed angle is the angle, or an error with the range; every joint of every pose.
func TestTypedAngles(t *testing.T) {
	for _, name := range []string{"standing", "bird dog", "hundred: head up", "side-lying leg lift"} {
		p, ok := Poses().Pose(name)
		require.True(t, ok, name)
		f := Solve(p)
		for _, a := range f.Angles() {
			mid := (a.Low + a.Top) / 2
			q, err := p.Set(a.Key, a.Side, mid)
			require.NoError(t, err, "%s %s", name, a.Key)
			found := false
			for _, b := range Solve(q).Angles() {
				if b.Key == a.Key && b.Side == a.Side {
					found = true
					assert.InDelta(t, mid, b.Degrees, 1e-6, "%s: %s%s", name, a.Key, a.Side)
				}
			}
			assert.True(t, found)
			for _, out := range []float64{a.Low - 1, a.Top + 1, 1e9, math.NaN(), math.Inf(1)} {
				_, err = p.Set(a.Key, a.Side, out)
				var re *RangeError
				require.ErrorAs(t, err, &re, "%s %v", a.Key, out)
				assert.InDelta(t, a.Low, re.Low, 1e-9)
				assert.InDelta(t, a.Top, re.Top, 1e-9)
			}
		}
		_, err := p.Set("tail", "", 3)
		assert.Error(t, err)
		for _, out := range []float64{400, math.NaN(), math.Inf(-1)} {
			_, err = p.Set("pelvis", "", out)
			assert.Error(t, err)
			_, err = p.Set("turn", "", out)
			assert.Error(t, err)
		}
	}
}

// Hands put down stay down, and come free again.
func TestPuttingAHandDown(t *testing.T) {
	p, ok := Poses().Pose("full plank")
	require.True(t, ok)
	p = p.Planted("handR").Planted("handL") // laid by tipping so far; now put down
	free := p.Planted("handR")
	_, planted := free.Plant["handR"]
	assert.False(t, planted)
	again := free.Planted("handR")
	_, planted = again.Plant["handR"]
	assert.True(t, planted)
	assert.InDelta(t, Solve(p).J["wriR"].X, Solve(again).J["wriR"].X, .02)
	assert.Equal(t, Solve(p).J, Solve(p.Planted("earR")).J)
	stand, _ := Poses().Pose("standing")
	assert.NotContains(t, stand.Planted("handL").Plant, "handL", "the mat is out of reach")
}

// The other side is the mirror image of this one, and works the same: moments do not know left from right.
func TestTheOtherSide(t *testing.T) {
	swap := func(j string) string {
		switch j[len(j)-1] {
		case 'R':
			return j[:len(j)-1] + "L"
		case 'L':
			return j[:len(j)-1] + "R"
		}
		return j
	}
	const natural = .045 // statures; the spine's natural curve, drawn in every view, keeps its side
	for _, name := range Poses().Names() {
		p, _ := Poses().Pose(name)
		f, g := Solve(p), Solve(p.Mirrored())
		if p.Front {
			for j, at := range f.J {
				assert.InDelta(t, -at.X, g.J[swap(j)].X, natural, "%s: %s", name, j)
				assert.InDelta(t, at.Y, g.J[swap(j)].Y, natural, "%s: %s", name, j)
			}
		}
		if p.Turn == 0 { // a turned chest shows its other face from the side
			assert.Equal(t, len(f.Complaints()), len(g.Complaints()), "%s: %v", name, g.Complaints())
		}
		a, okA := f.Moments(Mean)
		b, okB := g.Moments(Mean)
		require.Equal(t, okA, okB, name)
		if !okA || !p.Front && p.Turn != 0 {
			continue
		}
		near := 1e-6
		if p.Front {
			near = 1 // of % body weight x height, from the natural curve
		}
		var as, bs []float64
		a.Each(func(_ string, v *float64) { as = append(as, *v) })
		b.Each(func(_ string, v *float64) { bs = append(bs, *v) })
		for i := range as {
			assert.InDelta(t, as[i], bs[i], near, name)
		}
	}
}

// Women's and men's segment shares bracket the mean (the published table behind them has both).
func TestBothSexesAndTheMean(t *testing.T) {
	for _, name := range []string{"standing", "full plank", "double leg lower 30"} {
		f := figureOf(t, name)
		w, m, mean := f.CentreOfMass(Female), f.CentreOfMass(Male), f.CentreOfMass(Mean)
		lo, hi := math.Min(w.Y, m.Y), math.Max(w.Y, m.Y)
		assert.GreaterOrEqual(t, mean.Y, lo-1e-3, name)
		assert.LessOrEqual(t, mean.Y, hi+1e-3, name)
	}
	f := figureOf(t, "standing")
	assert.Less(t, f.CentreOfMass(Female).Y, f.CentreOfMass(Male).Y, "a woman's centre of mass lies lower (de Leva 1996, table 4)")
}

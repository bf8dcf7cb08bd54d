package body

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/spatial/r2"
)

func figureOf(t testing.TB, pose string) *Figure {
	t.Helper()
	p, ok := Poses().Pose(pose)
	require.True(t, ok, pose)
	return Solve(p)
}

// The segment table's shares sum to one (de Leva 1996).
func TestSharesSumToTheWholeBody(t *testing.T) {
	f := figureOf(t, "standing")
	for _, sex := range []Sex{Mean, Female, Male} {
		sum := 0.0
		for _, l := range f.Lumps(sex) {
			sum += l.Share
		}
		assert.InDelta(t, 100, sum, .05)
	}
}

// Standing, the centre of mass is at about 55 to 57 percent of height, lower in women
// (published range; value from memory).
func TestCentreOfMassStanding(t *testing.T) {
	f := figureOf(t, "standing")
	for _, sex := range []Sex{Mean, Female, Male} {
		y := 100 * f.CentreOfMass(sex).Y
		assert.InDelta(t, 56, y, 1.3, "%v", sex)
	}
	assert.Less(t, f.CentreOfMass(Female).Y, f.CentreOfMass(Male).Y)
}

// Share of body weight on the hands, top and bottom of a push-up: 69 and 75 percent full, 54 and 62
// from the knees (Suprak, Dawes and Stephenson 2011; values from the model's reference list).
func TestPushUpLoads(t *testing.T) {
	share := func(pose string) float64 {
		v, ok := figureOf(t, pose).HandShare(Mean)
		require.True(t, ok, pose)
		return v
	}
	full, low, knees := share("full plank"), share("push-up bottom"), share("plank, knees")
	t.Logf("full %.1f, bottom %.1f, knees %.1f", full, low, knees)
	lowKnees := share("push-up bottom, knees")
	assert.InDelta(t, 69, full, 4)
	assert.InDelta(t, 75, low, 4)
	assert.InDelta(t, 54, knees, 4)
	assert.InDelta(t, 62, lowKnees, 4)
	assert.Greater(t, lowKnees, knees)
	assert.Greater(t, low, full)
	assert.Less(t, knees, full, "knees down is lighter than full")
}

// What the mat carries and what it does not: elbows that lie bear, a leg lifted by three degrees is held, whoever folds over the
// knees sits on the heels and not on the hands, whoever sits facing bears on the seat, and legs straight up ask nothing of the
// low back, as the mat has the pelvis.
func TestWhatTheMatCarries(t *testing.T) {
	of := func(pose string) (Statics, map[string]float64) {
		st, ok := figureOf(t, pose).Statics(Mean)
		require.True(t, ok, pose)
		on := map[string]float64{}
		for _, s := range st.Supports {
			on[s.Part] += s.Percent
		}
		return st, on
	}
	plank, forearms := figureOf(t, "full plank"), figureOf(t, "forearm plank")
	a, _ := plank.HandShare(Mean)
	b, _ := forearms.HandShare(Mean)
	assert.InDelta(t, a, b, 4, "a forearm plank bears nearly what a full one does")
	swim, _ := of("swimming")
	assert.Greater(t, swim.Moments.Hip, 6.5, "both legs, the lower one too")
	_, child := of("child's pose")
	assert.Less(t, child["hands"], 30.)
	assert.Greater(t, child["knees"]+child["shins"], 60.)
	_, sits := of("butterfly, tall")
	assert.Zero(t, sits["footR"]+sits["footL"])
	assert.Greater(t, sits["side"], 50.)
	up, _ := of("double leg lower 90")
	low, _ := of("double leg lower 30")
	assert.Less(t, up.Moments.Lumbar, .3)
	assert.Greater(t, low.Moments.Lumbar, 5.)
	press := func(pose string) float64 { st, _ := of(pose); return st.Moments.Press }
	assert.Greater(t, press("push-up bottom"), 2*press("full plank"), "elbows that bend work")
}

// The moment of a straight leg about the hip at an angle, by an independent hand calculation with
// gonum's vectors: the sum over thigh, shank and foot of share x horizontal distance.
func TestStraightLegMomentByHand(t *testing.T) {
	one := map[string]float64{"double leg lower 90": 90, "double leg lower 60": 60, "double leg lower 45": 45, "double leg lower 30": 30}
	for pose, angle := range one {
		f := figureOf(t, pose)
		m, ok := f.Moments(Mean)
		require.True(t, ok)
		dir := r2.Vec{X: math.Cos(angle * math.Pi / 180), Y: math.Sin(angle * math.Pi / 180)}
		thigh := r2.Scale(.245*.38535, dir)
		shank := r2.Scale(.245+.246*.44375, dir)
		foot := angle + 90 - 50 // pointed 50 degrees
		toe := r2.Rotate(r2.Vec{X: ball.X, Y: ball.Y}, foot*math.Pi/180, r2.Vec{})
		ankle := r2.Scale(.245+.246, dir)
		end := r2.Add(ankle, r2.Scale(.55, toe))
		by := 2 * (14.47*thigh.X + 4.57*shank.X + 1.33*end.X)
		assert.InDelta(t, math.Abs(by), m.Hip, .12, pose)
	}
}

// The trade's own orderings (common practice, no source).
func TestOrderingsOfTheTrade(t *testing.T) {
	hip := func(pose string) float64 {
		m, ok := figureOf(t, pose).Moments(Mean)
		require.True(t, ok, pose)
		return m.Hip
	}
	up, sixty, mid, low := hip("double leg lower 90"), hip("double leg lower 60"), hip("double leg lower 45"), hip("double leg lower 30")
	t.Logf("90: %.2f, 60: %.2f, 45: %.2f, 30: %.2f; bent %.2f; one %.2f", up, sixty, mid, low, hip("tabletop"), hip("leg circle"))
	assert.Less(t, up, sixty, "straight up is easiest")
	assert.Less(t, sixty, mid, "and further is harder")
	assert.Less(t, mid, low)
	assert.Less(t, hip("heel tap, both"), low, "bent easier than straight")
	assert.Less(t, hip("one knee over hip"), hip("tabletop"), "one leg easier than two")

	arms := func(pose string) float64 {
		m, ok := figureOf(t, pose).Moments(Mean)
		require.True(t, ok, pose)
		return m.Shoulder
	}
	assert.Greater(t, arms("squat"), arms("standing")*3, "arms held forward weigh on the shoulders")
	neckUp, _ := figureOf(t, "hundred: head up").Moments(Mean)
	neckDown, _ := figureOf(t, "hundred: head down").Moments(Mean)
	assert.Greater(t, neckUp.Neck, .1)
	assert.Zero(t, neckDown.Neck, "the mat carries the head")
	_, ok := figureOf(t, "book, open").Moments(Mean)
	assert.False(t, ok, "seen from above the picture does not show the lever against gravity")

	assert.Greater(t, hip("heel tap, both"), hip("tabletop"), "feet nearer the seat is easier in heel taps")
	curl := func(pose string) float64 {
		m, ok := figureOf(t, pose).Moments(Mean)
		require.True(t, ok, pose)
		return m.Curl
	}
	assert.Greater(t, curl("chest lift, arms long"), curl("chest lift")*1.5, "arms overhead are harder than by the head")
	plank, _ := figureOf(t, "full plank").HandShare(Mean)
	knees, _ := figureOf(t, "plank, knees").HandShare(Mean)
	assert.Less(t, knees, plank, "knees-down plank is lighter than full")
	// Lying along a roller, feet closer together are harder: the body may sway less before it tips.
	roller := figureOf(t, "roller, one foot lifted, arms up").CentreOfMass(Mean).Y
	assert.Less(t, Sway(.10, roller), Sway(.20, roller))
	assert.Less(t, Sway(.20, roller), Sway(.36, roller))
	assert.InDelta(t, 45, Sway(2, 1), 1e-9, "half the base as wide as the body is high")
}

// The supports carry the body, no more and no less, and two supports balance its moment.
func TestSupportsCarryTheBody(t *testing.T) {
	for _, name := range Poses().Names() {
		f := figureOf(t, name)
		st, ok := f.Statics(Mean)
		if !ok {
			continue
		}
		sum := 0.0
		for _, s := range st.Supports {
			assert.GreaterOrEqual(t, s.Percent, -1e-6, "%s: %s pulls", name, s.Part)
			sum += s.Percent
		}
		weights := 0.0
		for _, k := range f.Kit {
			if k.Name == "weight" {
				weights += ankleWeight
			}
		}
		assert.InDelta(t, 100+weights, sum, .1, name)
	}
	f := figureOf(t, "full plank") // by hand: a beam on hands and toes
	st, _ := f.Statics(Mean)
	require.Len(t, st.Supports, 2)
	assert.True(t, st.Exact)
	moment := 0.0
	for _, s := range st.Supports {
		moment += s.Percent * s.X
	}
	assert.InDelta(t, 100*st.Centre.X, moment, .1)
}

// Kit: a cuff at the ankle adds its weight times its lever (hand calculation).
func TestAnkleWeight(t *testing.T) {
	bare, with := figureOf(t, "kickback"), figureOf(t, "bent-knee kickback")
	a, _ := bare.Moments(Mean)
	b, _ := with.Moments(Mean)
	cuff := Mix(with.J["kneeR"], with.J["ankR"], .83)
	assert.InDelta(t, a.Hip+ankleWeight*math.Abs(cuff.X-with.J["hipR"].X), b.Hip, .05)
}

// Over a repetition the worst is at least the mean, and the end of a leg lower is its worst.
func TestRepetition(t *testing.T) {
	s, ok := Poses().Strip("double leg lower")
	require.True(t, ok)
	loads, ok := s.Repetition(Mean, 8)
	require.True(t, ok)
	end, _ := figureOf(t, "double leg lower 30").Moments(Mean)
	assert.InDelta(t, end.Hip, loads.Worst.Hip, 1e-6)
	assert.Less(t, loads.Mean.Hip, loads.Worst.Hip)
	assert.Greater(t, loads.Mean.Hip, 2.0)
}

// A pose written out and read again is the same pose.
func TestPoseRoundTrip(t *testing.T) {
	for _, name := range Poses().Names() {
		p, _ := Poses().Pose(name)
		text, err := json.Marshal(p)
		require.NoError(t, err)
		q, err := ReadPose(text)
		require.NoError(t, err, "%s: %s", name, text)
		assert.Equal(t, Solve(p).J, Solve(q).J, name)
	}
	for text, want := range map[string]string{
		`{"on":["tail"]}`:               `on: unknown part "tail"`,
		`{"pelvis":1e9}`:                "expected -720 to 720",
		`{"plant":{"handR":["earR"]}}`:  `unknown part "earR"`,
		`{"plant":{"footR":["shinR"]}}`: "expected a place on the mat",
		`{"kit":[["sofa",1]]}`:          `unknown part "sofa"`,
		`[]`:                            "expected an object",
	} {
		_, err := ReadPose([]byte(text))
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), want)
	}
}

func FuzzReadPose(f *testing.F) {
	for _, name := range Poses().Names() {
		p, _ := Poses().Pose(name)
		text, _ := json.Marshal(p)
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		p, err := ReadPose(text)
		if err != nil {
			return
		}
		fig := Solve(p) // never fails, whatever was typed
		fig.Complaints()
		fig.Statics(Mean)
	})
}

// A wall that is leant on pushes with the body's weight times how far its centre of mass stands off its feet over the height of
// the contact: a rod leaning on a smooth wall (textbook statics), worked by hand beside it.
func TestTheWallsPush(t *testing.T) {
	for _, pose := range []string{"wall push-up", "wall push-up, arms long", "wall push-up, feet further"} {
		f := figureOf(t, pose)
		st, ok := f.Statics(Mean)
		require.True(t, ok, pose)
		feet := st.Supports[0]
		require.Len(t, st.Supports, 1, pose)
		assert.InDelta(t, 100, feet.Percent, .01, "%s: the wall carries nothing of the weight", pose)
		hand := Mix(f.J["wriR"], f.J["finR"], .3)
		assert.InDelta(t, 100*(st.Centre.X-feet.X)/hand.Y, st.Push, .5, pose)
		assert.Less(t, st.Moments.Knee, 1.2, "%s: the body is one straight line", pose)
	}
	near, _ := figureOf(t, "wall push-up").Statics(Mean)
	far, _ := figureOf(t, "wall push-up, feet further").Statics(Mean)
	assert.Greater(t, far.Push, near.Push+10, "further from the wall it is more")

	// In a wall sit the shank stands upright, so the weight on the foot passes under the knee; what the quadriceps hold is the
	// wall's push at the foot over the length of the shank.
	f := figureOf(t, "wall sit")
	st, ok := f.Statics(Mean)
	require.True(t, ok)
	assert.Zero(t, st.Push, "nothing pushes the hands")
	high, _ := figureOf(t, "wall sit, high").Statics(Mean)
	one, _ := figureOf(t, "wall sit, one leg").Statics(Mean)
	assert.Greater(t, st.Moments.Knee, high.Moments.Knee)
	assert.Greater(t, one.Moments.Knee, 1.6*st.Moments.Knee, "one leg does most of it")
	free, _ := figureOf(t, "squat").Statics(Mean)
	assert.Less(t, st.Moments.Lumbar, free.Moments.Lumbar, "the wall keeps the back")
}

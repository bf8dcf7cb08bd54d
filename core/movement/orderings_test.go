package movement

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What teachers agree on across movements, whoever weighed them, the body model or a judge: "a < b", with
// "~" for much the same (within a point). Common practice, no source; written from the trade, not from
// the numbers. Within a movement the levels rise by the library's own rule.
const orderings = `
full-plank 2 < push-up 2: the bottom of a push-up is harder than the hold
full-plank 1 < push-up 1
push-up 1 < push-up 2
wall-push-up 2 < push-up 1: the wall takes most of it
wall-push-up 1 < full-plank 1
wall-push-up 1 < wall-push-up 2: further from the wall is harder
wall-sit 2 < wall-sit 3: one leg below two
wall-ball-squat 1 < wall-ball-squat 2
wall-ball-squat 2 < squat 3
knee-hover 1 < knee-hover 2
knee-hover 2 < knee-hover 3: a foot less on the floor
hover-reach 2 > knee-hover 2: a hand less on the floor
leg-pull-back 2 < leg-pull-back 3
leg-pull-back 1 < leg-pull-front 1
sit-to-stand 2 ~ squat 2
kneeling-side-kick 1 < kneeling-side-kick 2: the leg floats
rainbow-leg 2 < rainbow-leg 3
side-plank-thread 1 < side-plank-thread 2
full-plank 1 < full-plank 2
forearm-plank 1 < forearm-plank 2
forearm-plank 2 ~ full-plank 2
forearm-plank 2 < push-up 2
full-plank 2 < leg-pull-front 2: a foot less on the floor
full-plank 2 < slow-climber 2
knee-hover 2 < full-plank 2: knees near the floor, hips over them
shoulder-tap 1 < shoulder-tap 2
shoulder-tap 2 < full-plank 2
shoulder-tap 3 > full-plank 2: a hand less on the floor
walk-out 2 > down-dog 2
plank-hip-dips 1 < plank-hip-dips 2
down-dog 2 < full-plank 2
bear-crawl 1 > bird-dog 2
side-double-lift 2 ~ side-plank 3
side-double-lift 1 < side-plank 4
side-plank 1 < side-plank 2: from the knees is lighter
side-plank 2 < side-plank 3
side-plank 1 < side-plank-dips 1
side-plank 3 < side-plank 4
clam 1 < side-plank 1
clam 1 < side-lying-leg-lift 1: a short lever below a long one
side-lying-leg-lift 1 < side-double-lift 1
bridge 1 < bridge 4: both feet below one
bridge 1 ~ bridge-arms 1
bridge 2 < bridge-march 2
bridge 3 ~ bridge-march 2
bridge-march 1 ~ bridge 2
pelvic-tilt 1 < bridge 1
bridge 1 < roller-bridge 1: the ground that rolls
double-leg-stretch 2 < teaser 3
single-leg-stretch 2 < double-leg-stretch 3: one leg below two
single-leg-stretch 1 < single-leg-stretch 2: head down is lighter
hundred 1 < hundred 2
hundred 2 < hundred 4: tabletop below long and low
hundred 3 < teaser 3
dead-bug 1 < dead-bug 3
heel-slides 1 < heel-taps 1: the mat carries the heel
heel-taps 1 < heel-taps 3: one leg below two
heel-taps 2 < double-leg-lower 4
single-leg-lower 3 < double-leg-lower 4
double-leg-lower 2 < double-leg-lower 4: further down is harder
chest-lift 1 < chest-lift 2: arms overhead are a longer lever
chest-lift 1 < criss-cross 2
roll-up 1 < roll-up 3: bent knees help
half-roll-back 1 < roll-up 3
roll-up 3 < neck-pull 3: hands behind the head are harder than reaching
scissors 1 < scissors 2
frog-press 1 < frog-press 2
teaser 1 < teaser 3
boat-lowers 1 < teaser 3
boomerang 1 < boomerang 3
open-leg-rocker 1 < open-leg-rocker 2
squat 1 < squat 2
squat 2 > hip-hinge 1
squat 2 < squat 3: arms by the ears weigh on the back
sit-to-stand 2 < sit-to-stand 3
sit-to-stand 1 < squat 2: hands help
wall-sit 1 < wall-sit 2
hip-hinge 1 < hip-hinge 2
supported-lunge 1 < lunge 1: a hand on a chair helps
lunge 1 < lunge 2
step-back 1 < step-back 2
march 1 < march 2
one-leg-stand 1 < one-leg-stand 2
tandem-stand 2 < one-leg-stand 3
chair-march 2 < march 2: the chair carries the seat
chair-leg-extension 2 < chair-leg-extension 3
calf-raise 1 < calf-raise 3
standing-leg-back 2 < standing-leg-back 3
bird-dog 1 < bird-dog 2
bird-dog 2 < bird-dog 3
cat-cow 1 < bird-dog 2
hydrant 2 < straight-leg-lift 2: a short lever below a long one
hydrant 1 < hydrant 3: the leg long
kickback 2 < straight-leg-lift 2: the bent knee is shorter
forearm-bird-dog 1 < forearm-bird-dog 2
prone-leg-lift 2 < swimming 2
dart 1 < dart 3
dart 2 < swimming 2
swan 1 < swan 2
swan 2 < swan-dive 2
heel-beats 1 < heel-beats 2
locust 1 < locust 3
t-lifts 2 < locust 2
single-leg-kick 1 < double-leg-kick 2
rocking 1 < rocking 3
leg-pull-back 1 < leg-pull-back 2
hip-twist 1 < hip-twist 3
kneeling-hinge 1 < kneeling-hinge 3
childs-pose 1 < cat-cow 1: rest below work
roller-march 1 < roller-march 3: a narrower base
seated-forward-fold 1 < spine-stretch-forward 2
`

func TestOrderingsOfTheTrade(t *testing.T) {
	lib := Shipped()
	demand := func(slug, level string) (float64, string) {
		m, ok := lib.Get(slug)
		require.True(t, ok, slug)
		n, err := strconv.Atoi(level)
		require.NoError(t, err)
		require.LessOrEqual(t, n, len(m.Levels), slug)
		l := m.At(n)
		return l.Demand, fmt.Sprintf("%s %d (%s, %s)", slug, n, l.Changes, l.DemandFrom())
	}
	pairs := 0
	for line := range strings.Lines(orderings) {
		line, why, _ := strings.Cut(strings.TrimSpace(line), ":")
		w := strings.Fields(line)
		if len(w) == 0 {
			continue
		}
		require.Len(t, w, 5, line)
		pairs++
		a, an := demand(w[0], w[1])
		b, bn := demand(w[3], w[4])
		switch w[2] {
		case "<":
			assert.Less(t, a, b, "%s below %s;%s", an, bn, why)
		case ">":
			assert.Greater(t, a, b, "%s above %s;%s", an, bn, why)
		case "~":
			assert.InDelta(t, a, b, 1, "%s like %s;%s", an, bn, why)
		default:
			t.Errorf("%q: one of < > ~", line)
		}
	}
	assert.GreaterOrEqual(t, pairs, 60)
}

package movement

import (
	"fmt"
	"slices"
	"strings"
	"sync"
)

// Does is what becomes of a level for somebody who watches a topic.
type Does int

// What can become of it, from nothing to all.
const (
	Keep     Does = iota // as it is
	Lighter              // another level of it, or this one changed in words
	Instead              // something else in its place
	LeaveOut             // nothing in its place that is like it
)

var doesWords = []string{"keep", "lighter", "instead", "leave out"}

func (d Does) String() string { return doesWords[d] }

// MarshalText writes the word.
func (d Does) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads the word.
func (d *Does) UnmarshalText(b []byte) error {
	i := slices.Index(doesWords, string(b))
	if i < 0 {
		return fmt.Errorf("%q: expected one of %s", b, strings.Join(doesWords, ", "))
	}
	*d = Does(i)
	return nil
}

// Care is what a level of a movement is to somebody who watches a topic. It is a teaching aid: it never diagnoses, and
// whoever treats the mover decides.
type Care struct {
	Topic Topic
	Does  Does
	Level int    // the level to take, where a lighter one will do; 0: none
	Says  string // what to do, in words; empty for Keep, and where leaving out is all
	Why   string // one line
	quiet bool   // said to those who watch it only
}

// Words is what to do as it is said: "leave it out: balance without rolling"; empty for Keep.
func (c Care) Words() string {
	switch {
	case c.Does != LeaveOut:
		return c.Says
	case c.Says == "":
		return "leave it out"
	case strings.HasPrefix(c.Says, "until"):
		return "leave it out " + c.Says
	}
	return "leave it out: " + c.Says
}

// CareOf answers for every level and every topic. What follows from what the level loads is worked out; the lines of
// the movement override it. A level for which something is to be done takes the highest lower level that may be kept, else
// the highest that may be kept in other words.
func (m *Movement) CareOf(n int, t Topic) Care {
	n = min(max(n, 1), len(m.Levels))
	c := m.careAt(n, t)
	if c.Does == Keep {
		return c
	}
	for k := n - 1; k >= 1; k-- {
		if m.careAt(k, t).Does == Keep {
			return Care{t, Lighter, k, m.At(k).Changes, c.Why, c.quiet}
		}
	}
	if c.Does > Lighter {
		for k := n - 1; k >= 1; k-- {
			if low := m.careAt(k, t); low.Does == Lighter {
				return Care{t, Lighter, k, m.At(k).Changes + "; " + low.Says, c.Why, c.quiet}
			}
		}
	}
	return c
}

// CareAt is what level n itself calls for, whatever lower levels there are. It is worked out once for each movement.
func (m *Movement) CareAt(n int, t Topic) Care { return m.careAt(min(max(n, 1), len(m.Levels)), t) }

// answers are what the levels of a movement are to whoever watches each topic: worked out when the first asks.
type answers struct {
	once sync.Once
	at   []map[Topic]Care // by level, from 0
}

// careAt is what the level itself calls for, whatever lower levels there are.
func (m *Movement) careAt(n int, t Topic) Care {
	a := m.answers
	if a == nil || n < 1 || n > len(m.Levels) {
		return m.careNow(n, t)
	}
	a.once.Do(func() {
		a.at = make([]map[Topic]Care, len(m.Levels))
		for i := range m.Levels {
			a.at[i] = make(map[Topic]Care, len(topics)+len(generalTopics))
			for _, t := range topics {
				a.at[i][t] = m.careNow(i+1, t)
			}
			for t := range generalTopics {
				a.at[i][t] = m.careNow(i+1, t)
			}
		}
	})
	if c, ok := a.at[n-1][t]; ok {
		return c
	}
	return m.careNow(n, t)
}

// careNow works out what careAt gives.
func (m *Movement) careNow(n int, t Topic) Care {
	if parts, ok := generalTopics[t]; ok { // which of them is not known: the gravest counts
		out := Care{Topic: t, Why: "none of what it may be is loaded"}
		for _, p := range parts {
			if c := m.careNow(n, p); c.Does > out.Does {
				out, out.Topic = c, t
			}
		}
		return out
	}
	c := m.listed(n, t)
	if t == Expecting3 {
		if second := m.listed(n, Expecting2); second.Does > c.Does {
			c = second
			c.Topic = t
		}
	}
	return c
}

// listed is what the table says of a level: the lines by hand, else the first rule that is right for it.
func (m *Movement) listed(n int, t Topic) Care {
	m = m.As(n)
	lines := m.Cares
	if m.Own && m.VersionOf != "" { // those of the whole movement hold for our own version too; those of its levels only where it has as many
		if was, ok := Shipped().Get(m.asShipped()); ok {
			lines = was.Cares
			if len(was.Levels) != len(m.Levels) {
				lines = slices.DeleteFunc(slices.Clone(lines), func(c CareLine) bool { return c.From > 0 || c.To > 0 })
			}
		}
	}
	for i := range lines {
		if c := &lines[i]; c.Topic == t && c.at(n) {
			return Care{t, c.Does, 0, c.Says, c.Why, false}
		}
	}
	c := Care{Topic: t, Why: keepWhy[t]}
	for _, r := range careRules {
		if r.topic == t && r.when(m, n) {
			c = Care{t, r.does, 0, r.says, r.why, r.quiet}
			break
		}
	}
	if c.Does < Instead && m.Has(n, Lands) && slices.Contains(landing, t) {
		return Care{t, Instead, 0, m.At(n).Quiet, "the feet leave the floor and land", t != Impact && t != Knees && t != Bones && t != Pregnancy}
	}
	if t == NoTouch && m.Alone != "" {
		c.Why = "led by words; instead of another's hands: " + m.Alone
	}
	return c
}

// Spared tells whether level n is not to be done as it is by whoever watches a topic, nor in other words.
func (m *Movement) Spared(n int, t Topic) bool { return m.careAt(n, t).Does > Lighter }

// Marks of a level that the rules go by, besides its loads.

func is(slugs string) func(*Movement, int) bool {
	list := strings.Fields(slugs)
	return func(m *Movement, _ int) bool { return slices.Contains(list, m.asShipped()) }
}

// asShipped is the slug by which the table knows a movement: its own, or for a studio's own version of a shipped one that
// one's.
func (m *Movement) asShipped() string {
	if m.Own && m.VersionOf != "" {
		return BaseSlug(m.VersionOf)
	}
	return BaseSlug(m.Slug)
}

func has(l Load) func(*Movement, int) bool {
	return func(m *Movement, n int) bool { return m.Has(n, l) }
}

func stands(ps ...Posture) func(*Movement, int) bool {
	return func(m *Movement, _ int) bool { return slices.Contains(ps, m.Posture) }
}

func either(of ...func(*Movement, int) bool) func(*Movement, int) bool {
	return func(m *Movement, n int) bool {
		return slices.ContainsFunc(of, func(f func(*Movement, int) bool) bool { return f(m, n) })
	}
}

func both(of ...func(*Movement, int) bool) func(*Movement, int) bool {
	return func(m *Movement, n int) bool {
		return !slices.ContainsFunc(of, func(f func(*Movement, int) bool) bool { return !f(m, n) })
	}
}

func demands(least float64) func(*Movement, int) bool {
	return func(m *Movement, n int) bool { return m.At(n).Demand >= least }
}

func from(level int, what func(*Movement, int) bool) func(*Movement, int) bool {
	return func(m *Movement, n int) bool { return n >= level && what(m, n) }
}

func bendsTo(d Direction) func(*Movement, int) bool {
	return func(m *Movement, _ int) bool { return m.Bends(d) }
}

func always(*Movement, int) bool { return true }

// smallRounding bends the spine forward, but neither to its end nor against much.
var smallRounding = is("pelvic-tilt cat-cow chair-cat-cow")

// flat lies on the back with the head down and the hips heavy: what is tagged as bending forward bends only with the head up.
var flat = func(m *Movement, n int) bool {
	return m.Posture == Supine && !m.Has(n, HeadUp) && !m.Has(n, HeadLow) && !m.Has(n, Rolling) && !is("roll-up neck-pull knees-to-chest happy-baby tail-lift")(m, n)
}

// roundsFar takes the spine forward to its end or under load: with the head lifted, a body's weight behind it, or a stretch
// that hangs in it. Sitting back on the heels over the thighs does too.
var roundsFar = either(
	both(bendsTo(Forward), func(m *Movement, n int) bool { return !smallRounding(m, n) && !flat(m, n) }),
	has(HeadUp), is("childs-pose"), both(is("half-pigeon"), demands(2.3)),
)

// RoundsToTheEnd tells whether level n takes the spine forward to its end: folds, rolling, roll-ups; a curl of the head and
// shoulders on the back does not.
func (m *Movement) RoundsToTheEnd(n int) bool {
	m = m.As(n)
	return roundsFar(m, n) && m.Spared(n, Bones) && (m.Posture != Supine || !m.Has(n, HeadUp) || rollsUp(m, n))
}

var rollsUp = is("neck-pull roll-up")

// turnsFar turns the spine loaded or to its end.
var turnsFar = func(m *Movement, n int) bool {
	return m.Bends(Turned) && (m.At(n).Demand >= loadedFrom || m.Stretch || slices.Contains([]string{"book-opening", "thread-the-needle", "spine-twist"}, m.asShipped()))
}

// arches bends the back backward with weight, or lifts a leg behind the body.
var arches = either(
	both(bendsTo(Backward), demands(1.5), func(m *Movement, _ int) bool {
		return m.Posture != Supine || m.asShipped() == "bridge"
	}),
	both(is("kickback bird-dog rainbow-leg standing-leg-back prone-leg-lift leg-pull-front bridge-march hip-flexor-stretch kneeling-hinge straight-leg-lift forearm-bird-dog leg-circles-all-fours bent-knee-lift bridge-dips bridge-toes long-lunge knee-drive"), demands(2)),
)

// leansBack holds the trunk back against its weight.
var leansBack = is("teaser boomerang kneeling-hinge hip-twist open-leg-rocker leg-pull-back seal crab boat-lowers half-roll-back kneeling-back-bend")

// planks are whole planks, on hands or forearms, not from the knees.
var planks = both(stands(Plank, Forearms), demands(5))

// bendsKneesFar is deep bending of the knees, sitting on the heels, or a twist of the knee under weight.
var bendsKneesFar = either(stands(SeatedHeels), is("mermaid figure-four rocking half-pigeon crab butterfly ninety-ninety deep-squat side-quad-stretch prone-quad-stretch standing-quad-stretch happy-baby chair-figure-four rock-back"), both(stands(Standing), func(m *Movement, _ int) bool { return m.Regions["thighs"] >= deepThighs }))

// needsBalance stands on little, with nothing to fall back on.
var needsBalance = func(m *Movement, _ int) bool {
	return !m.Posture.OnFloor() && m.Regions["balance"] >= balanceFrom
}

// careRule is one line of the table: the first of a topic that is right for a level answers.
type careRule struct {
	topic     Topic
	when      func(*Movement, int) bool
	does      Does
	says, why string
	quiet     bool // said to those who watch it only
}

// careRules are the usual cautions of the trade (common practice, no published source).
var careRules = []careRule{
	{Neck, both(has(HeadLow), either(has(Rolling), is("high-scissors high-bicycle corkscrew"))), LeaveOut, "", "weight comes onto the neck", false},
	{Neck, has(Rolling), Instead, "balance without rolling", "the neck rounds under weight", false},
	{Neck, has(HeadUp), Instead, "head down, or a hand behind it; rest between", "head and shoulders are lifted", false},
	{Neck, is("roll-up teaser boomerang half-roll-back boat-lowers"), Lighter, "chin soft, hands help; stop before the neck works", "the head is carried up and down", true},
	{Neck, is("neck-turns chin-nods ear-to-shoulder"), Lighter, "small, eyes on the horizon", "the neck turns to its end", false},
	{Neck, both(is("swan swan-dive swimming dart double-leg-kick single-leg-kick heel-beats rocking locust y-lifts roller-swan prone-press-up"), demands(3)), Lighter, "forehead on the hands, look down", "the head is held up lying on the front", true},

	{LowBackBending, is("high-scissors high-bicycle"), Instead, "lying flat, the legs high", "the back bends under the hips", false},
	{LowBackBending, both(roundsFar, either(has(HeadUp), has(Rolling), demands(loadedFrom))), Instead, "a long back: hinge at the hips, or lie with the head down", "the low back rounds under load", false},
	{LowBackBending, roundsFar, Lighter, "knees bent and a long back", "the low back rounds to its end", false},
	{LowBackBending, smallRounding, Lighter, "small, as far as it is easy", "the low back rounds a little", true},
	{LowBackBending, has(LegsOut), Lighter, "only as far as the back stays heavy: knees bent, legs higher, one at a time", "the legs pull at the low back", false},
	{LowBackBending, both(is("hip-hinge standing-leg-back standing-hamstring-stretch"), demands(1.2)), Lighter, "stay high, hands on the thighs", "the trunk hangs forward from the hips", true},
	{LowBackBending, bendsTo(Turned), Lighter, "turn small and slow", "the back turns", true},

	{LowBackArching, both(arches, demands(5)), Instead, "leave the lift out: length only, or on hands and knees", "the back arches strongly", false},
	{LowBackArching, arches, Lighter, "length before height; lower, or leave it out where arching hurts", "the back arches", false},
	{LowBackArching, has(LegsOut), Lighter, "only as far as the back stays heavy: knees bent, legs higher, one at a time", "the legs pull the back into an arch", false},
	{LowBackArching, both(planks, demands(5)), Lighter, "knees down", "the middle sinks when it tires", true},

	{Wrists, both(has(Hands), stands(Plank, DownDog, SidePlank)), Lighter, "on the forearms, or leave it out", "much of the body stands on the hands", false},
	{Wrists, has(Hands), Lighter, "fists or forearms, or a break on the fingertips", "weight on the hands", false},
	{Wrists, is("wall-push-up"), Lighter, "fists, or the forearms on the wall", "weight on the hands", false},

	{Shoulder, both(stands(Plank, Forearms, SidePlank, KneelingSidePlank, DownDog), demands(5)), Instead, "knees down, or on hands and knees", "the shoulders carry much of the body", false},
	{Shoulder, stands(Plank, Forearms, SidePlank, KneelingSidePlank, DownDog), Lighter, "short, elbow or hand under the shoulder", "the shoulders carry part of the body", false},
	{Shoulder, both(is("leg-pull-back hip-twist kneeling-side-kick"), has(Hands)), Instead, "on the forearms, or leave it out", "the arm carries behind or beside the body", false},
	{Shoulder, is("leg-pull-back hip-twist kneeling-side-kick wall-push-up push-up"), Lighter, "small, hands lower", "the shoulders press", true},
	{Shoulder, either(is("arm-circles roller-arms standing-side-bend book-opening thread-the-needle double-leg-kick rocking side-bend mermaid arm-arcs wall-angels roller-angels body-stretch y-lifts t-lifts chair-arm-raises chair-side-bend bridge-arms melting-heart hover-reach bear-crawl punches band-row band-pull-apart ball-roll-out band-chop supported-hinge heels-chest-stretch walk-out tall-kneeling-side-bend side-bend-turn kneeling-back-bend roller-chest roller-swan"), func(m *Movement, n int) bool {
		return strings.Contains(m.At(n).Changes, "arms by the ears") || strings.Contains(m.At(n).Changes, "arms overhead") || strings.Contains(m.At(n).Changes, "arm overhead")
	}), Lighter, "hands lower: on the hips, the chest or the shoulders", "the arm goes high, behind or across", true},
	{Shoulder, both(has(Hands), stands(HandsAndKnees)), Lighter, "a break between", "some weight on the shoulders", true},
	{Shoulder, stands(SideLying), Lighter, "a pillow under the head, the lower arm in front", "lying on the shoulder", true},

	{Elbow, is("push-up wall-push-up"), Lighter, "small bend, hands higher", "the elbows bend and press", false},
	{Elbow, either(stands(Forearms, Plank, SidePlank, KneelingSidePlank, ForearmsAndKnees, DownDog), both(has(Hands), demands(3))), Lighter, "short, elbows soft and never locked", "the elbows carry", false},

	{Knees, has(Kneel), Lighter, "pad the knees; sitting or standing where that is not enough", "weight on the knee", false},
	{Knees, both(bendsKneesFar, stands(Standing)), Lighter, "stay high, knee over the ankle", "the knees bend under the body's weight", false},
	{Knees, bendsKneesFar, Instead, "lying on the back or sitting on a chair", "the knee bends or twists to its end", false},
	{Knees, is("sit-to-stand chair-leg-extension single-leg-kick knees-to-chest"), Lighter, "only as far as it is easy; hands help", "the knee bends or straightens against weight", true},

	{Hip, either(is("figure-four half-pigeon mermaid supine-twist seal crab butterfly ninety-ninety happy-baby long-lunge deep-squat chair-figure-four adductor-strap straddle-hinge adductor-rock"), has(Rolling)), Instead, "a small bend of the hip without crossing or turning it in", "the hip bends, turns or crosses to its end", false},
	{Hip, is("knees-to-chest childs-pose seated-forward-fold lunge side-lunge warrior squat hip-flexor-stretch single-leg-circle side-circles clam hydrant inner-thigh-lift side-double-lift side-kick side-lying-leg-lift kneeling-side-kick hip-twist rainbow-leg standing-leg-side knee-opening hamstring-strap legs-up spine-stretch-forward saw corkscrew hip-hinge standing-hamstring-stretch sit-to-stand standing-roll-down"), Lighter, "small, and not across the middle line", "the hip works in a wide range", false},

	{Ankle, either(is("calf-raise calf-stretch one-leg-stand tandem-stand lunge side-lunge warrior toe-lifts wall-sit"), stands(SeatedHeels), both(stands(Plank, Forearms, DownDog), demands(4))), Lighter, "hold on and keep it small; a cushion where the foot lies", "the ankle bends or balances under weight", false},
	{Ankle, either(has(Kneel), is("squat standing-leg-back standing-leg-side march standing-roll-down ankle-circles")), Lighter, "within what is easy, a cushion under the foot", "the foot carries or is bent", false},

	{Bones, both(roundsFar, either(has(HeadUp), has(Rolling), has(HeadLow), demands(loadedFrom))), LeaveOut, "hinge with a long back instead", "the spine rounds under load or to its end", false},
	{Bones, has(Rolling), LeaveOut, "balance without rolling", "the rounded spine carries the body", false},
	{Bones, is("high-scissors high-bicycle"), LeaveOut, "", "the neck and upper spine carry the hips", false},
	{Bones, roundsFar, Instead, "a long back: hinge at the hips, knees bent", "the spine rounds to its end", false},
	{Bones, turnsFar, Instead, "turn only a little, sitting tall", "the spine turns loaded or to its end", false},
	{Bones, either(smallRounding, bendsTo(Turned)), Lighter, "small and slow", "the spine rounds or turns a little", false},
	{Bones, both(bendsTo(Sideways), demands(2)), Lighter, "small, reach up before over", "the spine bends to the side", true},
	{Bones, needsBalance, Lighter, "within reach of a chair or a wall: no fall", "a fall would be worse than for others", true},

	{Expecting1, has(Rolling), LeaveOut, "", "nothing is rolled over", false},
	{Expecting1, both(has(HeadLow), demands(4)), LeaveOut, "", "the hips are held over the head", false},
	{Expecting1, both(has(OnFront), demands(3)), Instead, "on hands and knees", "weight on the belly", false},
	{Expecting1, both(has(HeadUp), demands(5)), Lighter, "head down; stop at the first doming", "the belly presses hard", false},

	{Expecting2, has(Rolling), LeaveOut, "", "nothing is rolled over", false},
	{Expecting2, both(has(HeadLow), either(demands(3), has(OnBack))), LeaveOut, "", "the head is below the heart", false},
	{Expecting2, has(OnFront), Instead, "on hands and knees, or leaning on a wall", "weight on the belly", false},
	{Expecting2, has(HeadUp), Instead, "on hands and knees, or sitting tall", "the belly domes when it curls", false},
	{Expecting2, is("roll-up neck-pull"), LeaveOut, "", "the belly domes when it curls", false},
	{Expecting2, leansBack, LeaveOut, "sit tall", "the belly holds the trunk from behind", false},
	{Expecting2, planks, Instead, "on the knees, or against the wall", "the belly hangs in a full plank", false},
	{Expecting2, has(LegsOut), Instead, "on the side, one leg", "lying flat while the legs pull at the belly", false},
	{Expecting2, both(has(OnBack), func(m *Movement, _ int) bool { return m.Stretch }), Instead, "on the side, or sitting with the back leant", "a long spell flat on the back", false},
	{Expecting2, has(OnBack), Lighter, "a minute at most, then onto the side", "flat on the back", false},
	{Expecting2, turnsFar, Lighter, "an open turn, only a little", "the belly is pressed in a turn", false},
	{Expecting2, both(roundsFar, stands(Seated, Standing, Chair, SeatedHeels)), Lighter, "legs apart and a long back", "the belly is pressed in a fold", false},
	{Expecting2, stands(Plank, Forearms, SidePlank, KneelingSidePlank), Lighter, "short and breathing, knees down", "the belly works against its weight", true},
	{Expecting2, demands(6.5), Lighter, "less of it, and keep breathing", "hard work presses down", true},
	{Expecting2, needsBalance, Lighter, "within reach of a chair or a wall", "the weight has moved", true},

	// The last third asks what the second does, and this.
	{Expecting3, has(OnBack), Instead, "on the side, or sitting with the back leant", "flat on the back", false},
	{Expecting3, demands(5), Lighter, "less of it, with a chair at hand", "hard work in the last third", true},
	{Expecting3, stands(HalfKneeling, Lunge, Kneeling), Lighter, "a hand on a chair", "the weight has moved", true},

	{AfterBirth, has(Rolling), LeaveOut, "until cleared", "the belly presses out", false},
	{AfterBirth, either(has(HeadUp), is("roll-up neck-pull")), LeaveOut, "until cleared; ribs in with the head down", "the belly domes when it curls", false},
	{AfterBirth, either(planks, both(stands(Plank, Forearms, SidePlank, KneelingSidePlank), demands(4))), LeaveOut, "until cleared", "the belly hangs against its weight", false},
	{AfterBirth, has(LegsOut), LeaveOut, "until cleared; one foot stays down", "the legs pull at the belly", false},
	{AfterBirth, leansBack, LeaveOut, "until cleared", "the belly holds the trunk from behind", false},
	{AfterBirth, both(has(HeadLow), demands(3)), LeaveOut, "until cleared", "the hips are held over the head", false},
	{AfterBirth, demands(5), Lighter, "less of it, breathing out as it gets hard", "hard work presses down", true},

	{AfterBirthLater, either(both(has(HeadUp), demands(4)), both(has(LegsOut), demands(5)), both(planks, demands(6)), is("roll-up neck-pull teaser boomerang")), Lighter, "only without doming: head down, knees bent, or knees down", "the belly may dome", false},
	{AfterBirthLater, demands(7), Lighter, "only without pressing down", "hard work presses down", false},

	{PelvicFloor, either(both(has(HeadUp), demands(4)), both(has(LegsOut), demands(5)), demands(6.5), is("wall-sit roll-up neck-pull")), Lighter, "less of it, breathing out as it gets hard; stop if it presses down", "pressure from above", false},

	{Pressure, both(has(HeadLow), either(demands(3), has(OnBack))), LeaveOut, "", "the head is below the heart", false},
	{Pressure, has(HeadLow), Instead, "head above the heart: half-way only", "the head is below the heart", false},
	{Pressure, from(2, is("legs-up")), Instead, "calves on a stool", "the legs send the blood to the head", false},
	{Pressure, is("wall-sit knee-hover forearm-plank full-plank side-plank leg-pull-front shoulder-tap teaser plank-pike hover-reach bear-crawl slow-climber plank-hip-dips side-plank-dips side-plank-thread boat-lowers squat-pulses locust curl-pulses"), Lighter, "short, and keep breathing", "a hold in which the breath is easily held", false},
	{Pressure, demands(7), Lighter, "less of it, and keep breathing", "a breath is easily held in hard work", true},

	{Vertigo, has(Rolling), LeaveOut, "balance without rolling", "the head goes over", false},
	{Vertigo, has(HeadLow), Instead, "head above the heart: half-way only", "the head hangs", false},
	{Vertigo, is("neck-turns ear-to-shoulder"), Instead, "eyes on the horizon, hardly any turn", "the head turns", false},
	{Vertigo, is("book-opening thread-the-needle standing-twist spine-twist saw supine-twist chair-twist knee-sway criss-cross half-kneeling-turn side-bend-turn side-plank-thread punches tail-wag band-chop hip-rolls oblique-curl"), Lighter, "head still, eyes on one place", "the head turns with it", true},
	{Vertigo, needsBalance, Lighter, "within reach of a chair or a wall", "balance is needed", true},
	{Vertigo, is("roller-march roller-arms roll-up standing-chest-opening"), Lighter, "slowly, or on the mat", "the head tips or the base rolls", true},

	{Balance, needsBalance, Lighter, "within reach of a chair or a wall", "it stands on little", false},
	{Balance, either(stands(HalfKneeling, Lunge), is("lunge side-lunge warrior standing-leg-back standing-leg-side kneeling-side-kick kneeling-hinge roller-march gate step-up step-back supported-lunge half-kneeling-turn band-chop weight-shifts banded-side-steps standing-quad-stretch punches kneeling-back-bend long-lunge")), Lighter, "a hand on a chair or the wall", "the base is narrow or moves", true},

	{NoFloor, func(m *Movement, _ int) bool { return m.Posture.OnFloor() }, Instead, "standing or on a chair, or march on the spot", "it is done down on the mat", false},

	{NoFront, has(OnFront), Instead, "on hands and knees, or standing", "it is done lying on the front", false},

	{NoBack, both(has(OnBack), func(m *Movement, _ int) bool { return m.Stretch }), Instead, "on the side, or sitting with the back leant", "a long spell flat on the back", false},
	{NoBack, has(OnBack), Lighter, "head and chest on a wedge, a minute or two at a time", "flat on the back", false},

	{Treated, always, Lighter, "small and slow; ask whoever treats you first", "whoever treats them decides", false},
}

// CareLine is a line written by hand, beside a movement whose marks do not tell it, or tell it wrongly: for its levels from From
// to To, all where they are 0.
type CareLine struct {
	Topic    Topic `yaml:"topic"`
	From, To int   `json:",omitempty"`
	Does     Does  `yaml:"does"`
	Says     string
	Why      string `yaml:"why"`
}

// at tells whether the line is about level n.
func (c *CareLine) at(n int) bool { return n >= c.From && (c.To == 0 || n <= c.To) }

func (c *CareLine) check(levels int) error {
	if !slices.Contains(topics, c.Topic) {
		return fmt.Errorf("cares: topic %q: expected one of %v", c.Topic, topics)
	}
	if c.Why == "" || c.Says == "" && (c.Does == Lighter || c.Does == Instead) {
		return fmt.Errorf("cares: %s: what to say and why are needed", c.Topic)
	}
	if c.From < 0 || c.To < 0 || c.To > levels || c.From > levels || c.To > 0 && c.To < c.From {
		return fmt.Errorf("cares: %s: levels %d to %d: there are %d", c.Topic, c.From, c.To, levels)
	}
	return nil
}

// landing are the topics for which nobody lands: what leaves the floor is done its quiet way.
var landing = []Topic{Impact, Knees, Hip, Ankle, Bones, Expecting1, Expecting2, Expecting3, AfterBirth, AfterBirthLater, PelvicFloor, Balance}

// keepWhy is why a level is kept.
var keepWhy = map[Topic]string{
	Neck: "the head lies or is carried in line", LowBackBending: "the low back stays long", LowBackArching: "the back does not arch under load", Wrists: "no weight on the hands",
	Shoulder: "the arms carry nothing and stay low", Elbow: "the elbows carry nothing", Knees: "the knees carry nothing bent", Hip: "the hip stays in its middle range", Ankle: "the foot carries nothing bent",
	Bones: "the spine stays long", Expecting1: "nothing in it presses on the belly", Expecting2: "upright, on the side or on hands and knees", Expecting3: "upright, on the side or on hands and knees",
	AfterBirth: "the belly is not pressed out", AfterBirthLater: "the belly is not pressed out", PelvicFloor: "little pressure from above", Pressure: "the head is above the heart and the breath goes on",
	Vertigo: "the head stays level", Balance: "it has a wide base", NoFloor: "it is done standing or on a chair", NoFront: "not on the front", NoBack: "not on the back",
	Impact: "nothing jumps in it", NoTouch: "it is led by words alone",
}

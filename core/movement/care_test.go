package movement

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every level of every movement answers to every topic, with a reason; nothing is kept where a mark of the level says
// otherwise; and what is to be taken instead of a level may itself be taken.
func TestEveryLevelAnswersToEveryTopic(t *testing.T) {
	marks := []struct {
		load   Load
		topics []Topic
	}{
		{Hands, []Topic{Wrists}},
		{HeadUp, []Topic{Neck, LowBackBending, Bones, Expecting2, Expecting3, AfterBirth}},
		{LegsOut, []Topic{LowBackBending, LowBackArching, Expecting2, Expecting3, AfterBirth}},
		{Kneel, []Topic{Knees, Ankle}},
		{OnFront, []Topic{NoFront, Expecting2, Expecting3}},
		{OnBack, []Topic{NoBack, Expecting2, Expecting3}},
		{HeadLow, []Topic{Pressure, Vertigo}},
		{Rolling, []Topic{Neck, Bones, Vertigo, Expecting1, Expecting2, Expecting3, AfterBirth, Hip}},
		{Floor, []Topic{NoFloor}},
	}
	cells, kept := 0, map[Topic]int{}
	for _, m := range Shipped().All() {
		for n := 1; n <= len(m.Levels); n++ {
			for _, topic := range append(Topics(), LowBack, Pregnancy) {
				c := m.CareOf(n, topic)
				at := fmt.Sprintf("%s %d, %s: %+v", m.Slug, n, topic, c)
				cells++
				require.Equal(t, topic, c.Topic, at)
				require.NotEmpty(t, c.Why, at)
				switch c.Does {
				case Keep:
					kept[topic]++
					require.Empty(t, c.Says, at)
					require.Zero(t, c.Level, at)
				default:
					require.NotEmpty(t, c.Words(), at)
				}
				if c.Level > 0 {
					require.Equal(t, Lighter, c.Does, at)
					require.Less(t, c.Level, n, at)
					require.LessOrEqual(t, m.careAt(c.Level, topic).Does, Lighter, "%s: that is no better", at)
				}
				require.Equal(t, m.Watches(n, topic), c.Does != Keep, at)
			}
			for _, mark := range marks {
				for _, topic := range mark.topics {
					if m.Has(n, mark.load) {
						require.NotEqual(t, Keep, m.CareOf(n, topic).Does, "%s %d is %s and is kept for %s", m.Slug, n, mark.load, topic)
					}
				}
			}
			for general, parts := range generalTopics {
				for _, p := range parts {
					require.GreaterOrEqual(t, m.careAt(n, general).Does, m.careAt(n, p).Does, "%s %d: %s is the gravest of its parts", m.Slug, n, general)
				}
			}
			require.GreaterOrEqual(t, m.careAt(n, Expecting3).Does, m.careAt(n, Expecting2).Does, "%s %d: what the second third asks the last does", m.Slug, n)
			if m.Posture.OnFloor() {
				require.NotEqual(t, Keep, m.CareOf(n, NoFloor).Does, m.Slug)
			}
		}
	}
	assert.Greater(t, cells, 8000)
	for _, topic := range Topics() { // no topic leaves nothing to do, but the one that always asks
		if topic != Treated {
			assert.Greater(t, kept[topic], 40, topic)
		}
	}
}

// What the trade says of single movements (common practice, no source), written before the table.
func TestCareOfWhatIsKnown(t *testing.T) {
	for _, c := range []struct {
		slug   string
		level  int
		topics []Topic
		least  Does
	}{
		{"neck-pull", 1, []Topic{Bones}, LeaveOut},
		{"roll-up", 1, []Topic{Bones, AfterBirth}, LeaveOut},
		{"rolling-like-a-ball", 2, []Topic{Vertigo, Bones, Pregnancy, AfterBirth}, LeaveOut},
		{"open-leg-rocker", 3, []Topic{Vertigo, Bones, Pregnancy}, Lighter},
		{"swan-dive", 1, []Topic{Pregnancy}, Instead},
		{"rocking", 1, []Topic{Pregnancy, Knees}, Instead},
		{"high-scissors", 1, []Topic{Neck, Pressure, Bones, Pregnancy}, LeaveOut},
		{"high-bicycle", 2, []Topic{Neck, Pressure, Bones, Pregnancy}, LeaveOut},
		{"jackknife", 1, []Topic{Neck, Pressure, Bones, Pregnancy, Vertigo}, LeaveOut},
		{"control-balance", 1, []Topic{Neck, Pressure, Bones, Pregnancy}, LeaveOut},
		{"double-leg-kick", 2, []Topic{Neck, Shoulder}, Lighter},
		{"standing-roll-down", 2, []Topic{LowBack, Pressure, Vertigo, Bones}, Lighter},
		{"chest-lift", 1, []Topic{Bones}, LeaveOut},
		{"seated-forward-fold", 1, []Topic{Bones, LowBackBending}, Lighter},
		{"knees-to-chest", 2, []Topic{Bones}, Lighter},
		{"childs-pose", 1, []Topic{Bones, Knees}, Instead},
		{"constructive-rest", 1, []Topic{Pregnancy, NoBack}, Instead},
		{"legs-up", 2, []Topic{Pregnancy, Pressure}, Lighter},
		{"teaser", 1, []Topic{Bones}, LeaveOut},
		{"supine-twist", 1, []Topic{LowBack, Bones}, Lighter},
		{"leg-pull-back", 1, []Topic{Pregnancy}, LeaveOut},
		{"lunge", 3, []Topic{Pregnancy, Knees}, Lighter},
		{"teaser", 1, []Topic{Pregnancy, AfterBirth}, LeaveOut},
		{"full-plank", 2, []Topic{Pregnancy, AfterBirth, Shoulder}, Lighter},
		{"forearm-plank", 2, []Topic{Pregnancy, AfterBirth}, Lighter},
		{"mermaid", 1, []Topic{Knees, Hip}, Instead},
		{"figure-four", 1, []Topic{Knees, Hip}, Instead},
		{"leg-pull-back", 2, []Topic{Shoulder, Wrists}, Lighter},
		{"hip-twist", 2, []Topic{Shoulder, Wrists}, Lighter},
		{"kneeling-side-kick", 2, []Topic{Shoulder, Wrists, Knees}, Lighter},
		{"kneeling-hinge", 1, []Topic{Knees}, Instead},
		{"neck-turns", 1, []Topic{Vertigo, Neck}, Lighter},
		{"down-dog", 1, []Topic{Vertigo, Pressure, Wrists}, Lighter},
		{"wall-sit", 1, []Topic{Pressure, Knees}, Lighter},
		{"knee-hover", 2, []Topic{Pressure}, Lighter},
		{"swan", 1, []Topic{Pregnancy, NoFront}, Instead},
		{"swan", 2, []Topic{LowBackArching}, Lighter},
		{"double-leg-lower", 3, []Topic{LowBack, AfterBirth, Pregnancy}, Lighter},
		{"one-leg-stand", 3, []Topic{Balance, Vertigo, Bones}, Lighter},
		{"saw", 2, []Topic{Bones, LowBackBending}, Lighter},
		{"criss-cross", 2, []Topic{Bones, Neck, LowBackBending}, Lighter},
	} {
		m, ok := Shipped().Get(c.slug)
		require.True(t, ok, c.slug)
		for _, topic := range c.topics {
			assert.GreaterOrEqual(t, m.careAt(c.level, topic).Does, c.least, "%s %d for %s", c.slug, c.level, topic)
		}
	}
	for _, c := range []struct {
		slug   string
		level  int
		topics []Topic
	}{
		{"hundred", 1, []Topic{Neck, Wrists, Knees, Bones}},
		{"scissors", 1, []Topic{Neck, Bones}},
		{"double-leg-stretch", 1, []Topic{Neck, Bones}},
		{"clam", 1, []Topic{Pregnancy, Bones, Neck, LowBack, Wrists, AfterBirth, Pressure, Vertigo}},
		{"bird-dog", 1, []Topic{Bones, Neck, Pregnancy, Vertigo, Pressure}},
		{"chair-march", 1, []Topic{Bones, Pregnancy, Wrists, Neck, NoFloor, NoBack, AfterBirth}},
		{"hip-hinge", 1, []Topic{Bones, Neck, Wrists, Knees, Vertigo}},
		{"squat", 1, []Topic{Bones, LowBack, Neck, Pregnancy, NoFloor}},
		{"side-lying-leg-lift", 1, []Topic{Pregnancy, AfterBirth, Bones, LowBack}},
		{"dart", 1, []Topic{Bones, Wrists, Knees}},
		{"standing-breathing", 1, Topics()[:len(Topics())-1]},
		{"chair-breathing", 1, Topics()[:len(Topics())-1]},
	} {
		m, ok := Shipped().Get(c.slug)
		require.True(t, ok, c.slug)
		for _, topic := range c.topics {
			assert.Equal(t, Keep, m.careAt(c.level, topic).Does, "%s %d may be kept for %s: %+v", c.slug, c.level, topic, m.careAt(c.level, topic))
		}
	}
	down, _ := Shipped().Get("scissors")
	assert.Equal(t, Care{Neck, Lighter, 1, "head down and hands behind the thigh", "head and shoulders are lifted", false}, down.CareOf(3, Neck), "the level with the head down is there")
	rocker, _ := Shipped().Get("open-leg-rocker")
	assert.NotZero(t, rocker.CareOf(3, Vertigo).Level, "balance without rolling")
}

package solve

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func circuit(rounds int, on, off, rest string, rows ...string) string {
	if rest != "" {
		rest = `"rest":"` + rest + `",`
	}
	return fmt.Sprintf(`{"title":"C","blocks":[{"rule":"rounds","rounds":%d,"on":%q,"off":%q,%s"rows":[%s]}]}`, rounds, on, off, rest, strings.Join(rows, ","))
}

// Ten moves of 35 s on and 25 s off make 10:00, fifteen of 45 on and 15 off 15:00 (common practice): a class of intervals is
// brought to a length by its time on.
func TestFitOfACircuit(t *testing.T) {
	rows := []string{`{"movement":"squat"}`, `{"movement":"march"}`, `{"movement":"calf-raise"}`, `{"movement":"wall-push-up"}`, `{"movement":"standing-twist"}`, `{"movement":"squat"}`, `{"movement":"march"}`, `{"movement":"calf-raise"}`, `{"movement":"wall-push-up"}`, `{"movement":"standing-twist"}`}
	s := read(t, circuit(1, "35 s", "25 s", "", rows...))
	now := length(t, s)
	assert.GreaterOrEqual(t, now, 10*clock.Minute, "and a lead-in")
	f, err := Fit(t.Context(), s, lib, now+50*clock.Second, Terms{})
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	assert.Equal(t, 40*clock.Second, f.Session.Sections[0].Blocks[0].On)
	assert.Equal(t, 25*clock.Second, f.Session.Sections[0].Blocks[0].Off, "where the next is shown")
	require.Len(t, f.Changes, 1)
	assert.Equal(t, "1 round of 35 s on, 25 s off", f.Changes[0].From)
	assert.Equal(t, "1 round of 40 s on, 25 s off", f.Changes[0].To)
	f, err = Fit(t.Context(), s, lib, now*2, Terms{})
	require.NoError(t, err)
	assert.False(t, f.Reached)
	assert.Contains(t, f.Says, "Cannot: the nearest to", "more than a third is another class")
	three := read(t, circuit(3, "30 s", "20 s", "15 s", rows[:4]...))
	f, err = Fit(t.Context(), three, lib, length(t, three)+4*50*clock.Second+15*clock.Second, Terms{})
	require.NoError(t, err)
	require.True(t, f.Reached, f.Says)
	tight, err := Fit(t.Context(), read(t, circuit(1, "40 s", "20 s", "", rows...)), lib, now+4*clock.Minute, Terms{House: House{OnMost: 2}})
	require.NoError(t, err)
	assert.Empty(t, tight.Changes, "on and off go together")
	locked := read(t, circuit(1, "35 s", "25 s", "", `{"movement":"squat","locked":true}`))
	f, err = Fit(t.Context(), locked, lib, length(t, locked)+5*clock.Second*2, Terms{})
	require.NoError(t, err)
	assert.Empty(t, f.Changes)
}

// What a circuit's times and rounds add is what the clock says they add, over circuits of any movements.
func TestCircuitOptionsAgainstTheTimeline(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 8))
	tried := 0
	for range 120 {
		s := read(t, circuit(1+r.IntN(5), fmt.Sprintf("%d s", 15+5*r.IntN(10)), fmt.Sprintf("%d s", 10+5*r.IntN(6)), []string{"", "20 s"}[r.IntN(2)], some(r, 1+r.IntN(5))...))
		tl := build(t, s)
		times, peak := rowTimes(tl)
		k, ok := circuitKnob(plan.Path{Section: 1, Block: 1, Row: 1}, &s.Sections[0].Blocks[0], times, peak, House{OnMost: 3})
		if !ok {
			continue
		}
		require.Zero(t, k.options[k.now].by)
		require.Zero(t, k.options[k.now].cost)
		for i, o := range k.options {
			require.True(t, i == 0 || o.by >= k.options[i-1].by, "from short to long")
			b := &s.Clone().Sections[0].Blocks[0]
			require.LessOrEqual(t, 3*max(o.on-b.On, b.On-o.on), b.On)
			all := clock.Span(b.Rounds) * b.On
			require.LessOrEqual(t, 3*max(clock.Span(o.rounds)*o.on-all, all-clock.Span(o.rounds)*o.on), all)
			c := s.Clone()
			c.Sections[0].Blocks[0].On, c.Sections[0].Blocks[0].Rounds = o.on, o.rounds
			require.InDelta(t, float64(build(t, c).Total-tl.Total), float64(o.by), 3, "%v rounds of %v from %+v", o.rounds, o.on, b)
			tried++
		}
	}
	assert.Greater(t, tried, 300)
}

func build(t testing.TB, s *plan.Session) *timeline.Timeline {
	t.Helper()
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return tl
}

package movement

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/body"
	"wavekine/core/strict"
)

const own = `{"format":"wavekine.movement/1","slug":"own-wheel-lean","name":"Wheel lean","purpose":"open the back of a thrower","phase":"mobilise",
"posture":"standing","sides":"each","limb":"arm","seconds_per_rep":4.5,"dose":"6 each side","spine":["side"],"regions":{"obliques":0.6,"shoulders":0.3},
"setup":"Stand beside the wheel.","say":"Lean as if over the bucket.","breath":"out to lean","watch":"the hips","fault":"Twisting.","ease":"Smaller.","gives_back":["standing-side-bend"],
"levels":[{"changes":"hand on the wheel","demand":1,"why":"the hand carries","pose":{"view":"front","spine":[6,8,8,4,2]}},
{"changes":"arm overhead","demand":2,"why":"longer lever","from":{"view":"front"},"pose":{"view":"front","spine":[6,8,8,4,2],"sho":[170,10]}}]}`

// Writing what was read gives the same movement, for the studio's own and for every shipped one.
func TestMovementRoundTrip(t *testing.T) {
	lib := Shipped()
	m, err := ReadOwn([]byte(own), lib)
	require.NoError(t, err)
	out, err := json.Marshal(m)
	require.NoError(t, err)
	n, err := ReadOwn(out, lib)
	require.NoError(t, err, "%s", out)
	again, err := json.Marshal(n)
	require.NoError(t, err)
	assert.JSONEq(t, string(out), string(again))
	for _, m := range lib.All() {
		text, err := json.Marshal(m)
		require.NoError(t, err)
		c, err := ReadOwn(text, lib)
		require.NoError(t, err, m.Slug)
		require.Len(t, c.Levels, len(m.Levels))
		for i := range m.Levels {
			assert.InDelta(t, m.Levels[i].Demand, c.Levels[i].Demand, 1e-9, "%s level %d", m.Slug, i+1)
			assert.Equal(t, m.Levels[i].Computed, c.Levels[i].Computed, "%s level %d", m.Slug, i+1)
		}
	}
}

func TestLaterMinorVersionIsKept(t *testing.T) {
	later := strings.Replace(strings.Replace(own, "movement/1", "movement/1.2", 1), `"why":"longer lever"`, `"why":"longer lever","glow":3`, 1)
	later = strings.Replace(later, `"limb":"arm"`, `"limb":"arm","mood":"calm"`, 1)
	m, err := ReadOwn([]byte(later), Shipped())
	require.NoError(t, err)
	out, err := json.Marshal(m)
	require.NoError(t, err)
	assert.Contains(t, string(out), `"mood":"calm"`)
	assert.Contains(t, string(out), `"glow":3`)
	_, err = ReadOwn([]byte(strings.Replace(own, `"limb":"arm"`, `"limb":"arm","mood":"calm"`, 1)), Shipped())
	assert.EqualError(t, err, "$.mood: unknown key")
}

func TestBadMovementsNameThePlace(t *testing.T) {
	for _, c := range []struct{ from, to, want string }{
		{`"Wheel lean"`, `""`, "$.name: the movement has no name"},
		{`"mobilise"`, `"warmup"`, "$.phase: \"warmup\": expected one of arrive, mobilise, build, settle"},
		{`"dose":"6 each side"`, `"dose":"0 reps"`, "$.dose: "},
		{`"sides":"each"`, `"sides":"sideways"`, "$.sides: "},
		{`"obliques":0.6`, `"tail":0.6`, "$.regions.tail: unknown key"},
		{`"obliques":0.6,"shoulders":0.3`, ``, "$.regions: say what it works"},
		{`"standing-side-bend"`, `"flying"`, `$.gives_back[0]: no movement "flying"`},
		{`[6,8,8,4,2],"sho":[170,10]`, `[6,8,8,4,2],"sho":[270,10]`, "$.levels[1].pose: the pose cannot be: shoR"},
		{`"from":{"view":"front"}`, `"from":{}`, "$.levels[1].pose: the two poses are seen from different sides"},
		{`"demand":2`, `"demand":12`, "$.levels[1].demand: "},
		{`"why":"longer lever"`, `"why":""`, "$.levels[1].why: say something here"},
		{`"demand":2`, `"family":"flying"`, `$.levels[1].family: "flying": expected one of bridges`},
		{`"demand":2`, `"family":"standing","demand":2`, "$.levels[1].demand: the family computes it"},
		{`"pose":{"view":"front","spine":[6,8,8,4,2]}`, `"pose":{"plant":{"hands":200}}`, "$.levels[0].pose: the pose cannot be: a planted limb is"},
	} {
		require.Contains(t, own, c.from)
		_, err := ReadOwn([]byte(strings.Replace(own, c.from, c.to, 1)), Shipped())
		require.Error(t, err, c.to)
		assert.Contains(t, err.Error(), c.want)
		var se *strict.Error
		assert.ErrorAs(t, err, &se)
	}
}

func FuzzReadOwn(f *testing.F) {
	f.Add([]byte(own))
	for _, m := range Shipped().All()[:20] {
		text, _ := json.Marshal(m)
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		if m, err := ReadOwn(text, Shipped()); err == nil {
			_, err = Shipped().With([]OwnVersion{{Movement: m, Version: 1, Newest: true}}, nil)
			require.NoError(t, err)
		}
	})
}

func TestStudioLibrary(t *testing.T) {
	lib := Shipped()
	read := func(text string) *Movement {
		m, err := ReadOwn([]byte(text), lib)
		require.NoError(t, err)
		return m
	}
	first, second := read(own), read(strings.Replace(own, `"seconds_per_rep":4.5`, `"seconds_per_rep":6`, 1))
	st, err := lib.With([]OwnVersion{{first, 1, false, false}, {second, 2, true, false}}, map[string]Change{
		"hundred": {Name: "Hundred beats", Say: "Pump like a bellows."}, "crab": {Hidden: true}, "gone-since": {Hidden: true},
	})
	require.NoError(t, err)
	old, ok := st.Get("own-wheel-lean~1")
	require.True(t, ok, "a session that uses the older version still finds it")
	assert.Equal(t, 4.5, old.SecondsPerRep(1).Seconds())
	now, ok := st.Get("own-wheel-lean")
	require.True(t, ok)
	assert.Equal(t, "own-wheel-lean~2", now.Slug)
	assert.Equal(t, now, st.Search("wheel lean")[0])
	assert.Len(t, st.Search("wheel lean"), 1, "older versions are not offered")

	h, _ := st.Get("hundred")
	assert.Equal(t, "Hundred beats", h.Name)
	assert.Equal(t, "Pump like a bellows.", h.Say)
	by, ok := st.Named("the hundred")
	require.True(t, ok, "its own name is still understood")
	assert.Same(t, h, by)
	shipped, _ := lib.Get("hundred")
	assert.Equal(t, "The hundred", shipped.Name, "the shared library stays as it is")
	assert.Empty(t, st.Search("crab roll"))
	_, ok = st.Get("crab")
	assert.True(t, ok, "sessions that use it keep it")
	assert.ErrorContains(t, st.CheckNames(read(strings.Replace(own, "Wheel lean", "Teaser", 1))), "belongs to another movement")
	assert.NoError(t, st.CheckNames(second))
}

// Dragging keeps supports where they are and joints in their ranges, wherever the pointer goes.
func TestDragging(t *testing.T) {
	dog, _ := body.Poses().Pose("all fours")
	f := body.Solve(dog)
	lifted := dog.Drag("kneeR", body.Point{X: -.2, Y: .4})
	g := body.Solve(lifted)
	assert.InDelta(t, f.J["wriR"].X, g.J["wriR"].X, .002, "the hands stay")
	assert.InDelta(t, f.J["kneeL"].X, g.J["kneeL"].X, .002, "the other knee stays")
	assert.Greater(t, g.J["kneeR"].Y, f.J["kneeR"].Y+.1)
	for _, name := range []string{"all fours", "bridge", "teaser", "squat", "side plank", "swan lift", "mermaid", "double leg lower 45"} {
		p, _ := body.Poses().Pose(name)
		for _, h := range body.Handles() {
			for i := range 8 {
				q := p.Drag(h, body.Point{X: float64(i%4)*.4 - .6, Y: float64(i/4) * .5})
				assert.Empty(t, body.Solve(q).Complaints(), "%s: %s to %d", name, h, i)
			}
		}
	}
}

func BenchmarkDrag(b *testing.B) {
	p, _ := body.Poses().Pose("all fours")
	for b.Loop() {
		q := p.Drag("kneeR", body.Point{X: -.2, Y: .4})
		f := body.Solve(q)
		f.Complaints()
		f.Statics(body.Mean)
	}
}

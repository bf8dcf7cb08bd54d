package body

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Coordinates in hundredths of stature, worked out once by an independent program for the
// figure's specification.
func TestCheckCoordinates(t *testing.T) {
	for _, c := range []struct {
		pose   string
		pelvis float64
		at     map[string]Point
	}{
		{"all fours", 15.0, map[string]Point{"hip": {0.0, 27.1}, "atlas": {34.9, 33.7}, "shoR": {28.2, 33.6}, "elbR": {26.0, 15.2}, "wriR": {28.0, 0.7}, "kneeR": {0, 2.6}, "ankR": {-24.6, 2.6}}},
		{"bridge", 206.0, map[string]Point{"hip": {-2.1, 15.2}, "atlas": {-35.6, 6.0}, "shoR": {-28.0, 4.1}, "elbR": {-9.5, 2.5}, "wriR": {5.1, 1.3}, "kneeR": {20.0, 25.9}, "ankR": {30.0, 3.4}}},
		{"scissors", 180.0, map[string]Point{"hip": {0.0, 6.5}, "atlas": {-30.2, 17.8}, "shoR": {-27.3, 12.0}, "elbR": {-11.4, 21.7}, "wriR": {-3.8, 34.1}, "kneeR": {-0.9, 31.0}, "ankR": {-1.7, 55.6}}},
		{"squat", 52.0, map[string]Point{"hip": {0.0, 29.0}, "atlas": {17.6, 60.1}, "shoR": {15.0, 55.2}, "elbR": {33.4, 57.8}, "wriR": {47.8, 59.8}, "kneeR": {24.2, 25.3}, "ankR": {13.0, 3.4}}},
		{"mermaid", 90.0, map[string]Point{"hip": {0.0, 5.2}, "atlas": {15.9, 32.9}, "shoR": {3.0, 38.1}, "elbR": {15.0, 52.3}, "wriR": {24.3, 63.5}, "kneeR": {-26.8, 3.6}, "ankR": {-40.8, 4.8}}},
		{"full plank", 20.6, map[string]Point{"hip": {0.0, 24.7}, "atlas": {33.9, 35.4}, "shoR": {27.3, 34.3}, "elbR": {26.5, 15.7}, "wriR": {25.9, 1.1}, "kneeR": {-22.9, 16.0}, "ankR": {-46.0, 7.4}}},
	} {
		p, ok := Poses().Pose(c.pose)
		require.True(t, ok, c.pose)
		f := Solve(p)
		assert.InDelta(t, c.pelvis, f.Pelvis, .051, c.pose)
		for j, want := range c.at {
			assert.InDelta(t, want.X, f.J[j].X*100, .051, "%s %s x", c.pose, j)
			assert.InDelta(t, want.Y, f.J[j].Y*100, .051, "%s %s y", c.pose, j)
		}
	}
}

func TestEveryPoseIsPossible(t *testing.T) {
	require.GreaterOrEqual(t, len(Poses().Names()), 63)
	for _, name := range Poses().Names() {
		p, _ := Poses().Pose(name)
		assert.Empty(t, Solve(p).Complaints(), name)
	}
}

func TestComplaints(t *testing.T) {
	b, err := ReadBook([]byte(`{"poses":{
		"bent back": {"knee": -40},
		"out of reach": {"plant": {"hands": 200}},
		"under": {"y": 2, "pelvis": 180}}}`))
	require.NoError(t, err)
	for name, want := range map[string]string{"bent back": "kneeR = -40 outside 0..170", "out of reach": "a planted limb is", "under": "sinks"} {
		p, _ := b.Pose(name)
		c := Solve(p).Complaints()
		require.NotEmpty(t, c, name)
		assert.Contains(t, c[0], want)
	}
}

func TestReadBookNamesThePlace(t *testing.T) {
	for text, want := range map[string]string{
		`{"poses":{"a":{"hipp":3}}}`:            `pose "a": hipp: unknown key`,
		`{"poses":{"a":{"hip":"x"}}}`:           `pose "a": hip: expected a number or [right, left]`,
		`{"poses":{"a":{"like":"b"}}}`:          `pose "a": like: no template "b"`,
		`{"strips":{"s":[[0,"nowhere"]]}}`:      `strip "s": no pose "nowhere"`,
		`{"poses":{"a":{"view":"top"}}}`:        `pose "a": view: unknown word "top"`,
		`{"poses":{"a":{"plant":{"feet":[]}}}}`: `pose "a": plant: feet: expected a place`,
	} {
		_, err := ReadBook([]byte(text))
		require.Error(t, err, text)
		assert.Equal(t, want, err.Error())
	}
}

// Hands and feet that carry the body do not slide between two poses.
func TestSupportsStayInStrips(t *testing.T) {
	for name, joints := range map[string][]string{
		"push-up":        {"ballR", "wriR"},
		"bird dog":       {"kneeL"},
		"roll-up":        {"hip"},
		"bridge, rolled": {"shoR", "ankR"},
	} {
		s, ok := Poses().Strip(name)
		require.True(t, ok, name)
		start := s.At(0)
		for i := 1; i <= 8; i++ {
			f := s.At(float64(i) / 8)
			for _, j := range joints {
				assert.InDelta(t, start.J[j].X*100, f.J[j].X*100, .1, "%s: %s at %d/8", name, j, i)
			}
		}
	}
}

func TestMirroredTwiceIsTheSame(t *testing.T) {
	for _, name := range Poses().Names() {
		p, _ := Poses().Pose(name)
		a, b := Solve(p), Solve(p.Mirrored().Mirrored())
		assert.Equal(t, a.J, b.J, name)
		if !p.Front {
			m := Solve(p.Mirrored())
			assert.InDelta(t, a.J["atlas"].X, m.J["atlas"].X, 1e-6, name)
		}
	}
}

func BenchmarkSolve(b *testing.B) {
	p, _ := Poses().Pose("bird dog")
	for b.Loop() {
		Solve(p)
	}
}

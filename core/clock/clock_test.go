package clock

import (
	"encoding/json"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestClockTimes(t *testing.T) {
	for s, want := range map[Span]string{
		0: "0:00", 499: "0:00", 500: "0:01", 59*Second + 499: "0:59", 59*Second + 500: "1:00", 48 * Second: "0:48",
		19*Minute + 48*Second: "19:48", 62 * Minute: "1:02:00", -30 * Second: "-0:30",
	} {
		assert.Equal(t, want, s.String())
	}
}

func TestSaid(t *testing.T) {
	for s, want := range map[Span]string{
		500: "0.5 s", 2500: "2.5 s", 30 * Second: "30 s", Minute: "60 s", 90 * Second: "1:30", 2 * Minute: "2 min", 60 * Minute: "60 min", 75 * Minute: "75 min",
	} {
		assert.Equal(t, want, s.Said())
		back, err := Parse(s.Said())
		require.NoError(t, err)
		assert.Equal(t, s, back)
	}
}

func TestParse(t *testing.T) {
	for text, want := range map[string]Span{
		"20:00": 20 * Minute, "1:02:03": 62*Minute + 3*Second, " 90 s ": 90 * Second, "45s": 45 * Second, "20 min": 20 * Minute, "1 h": 60 * Minute,
		"2.5 s": 2500, "0:30": 30 * Second, "2 Minutes": 2 * Minute,
	} {
		s, err := Parse(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, s, text)
	}
	for _, text := range []string{"", "20", "1:5", "1:60", ":30", "-1:00", "+1:00", "1:2:3:4", "5 parsecs", "s", "1e9 s", "1..5 s", "99999999 s", "1: 30"} {
		_, err := Parse(text)
		assert.Error(t, err, text)
	}
}

// What is said is read back, for every whole second up to three hours.
func TestSaidIsReadBack(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		s := Span(1+r.IntN(3*3600)) * Second
		back, err := Parse(s.Said())
		require.NoError(t, err, s.Said())
		require.Equal(t, s, back)
		clock, err := Parse(s.String())
		require.NoError(t, err)
		require.Equal(t, s, clock)
	}
}

func TestJSONIsSeconds(t *testing.T) {
	b, err := json.Marshal(Span(12345))
	require.NoError(t, err)
	assert.Equal(t, "12.345", string(b))
	var s Span
	require.NoError(t, json.Unmarshal([]byte("0.5"), &s))
	assert.Equal(t, Span(500), s)
	assert.Error(t, json.Unmarshal([]byte(`"1"`), &s))
	assert.Error(t, json.Unmarshal([]byte(`1e12`), &s))
	assert.Equal(t, Span(667), Span(1000).Times(2./3))
}

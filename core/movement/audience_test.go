package movement

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whom a class is for, as teachers write it (common practice, no source).
func TestReadAudience(t *testing.T) {
	for text, want := range map[string]string{
		"":                                       "",
		"mixed":                                  "mixed",
		"Everyone":                               "mixed",
		"all levels":                             "mixed",
		"seniors":                                "older",
		"for people over 60":                     "older",
		"60+":                                    "older",
		"65 and over, on chairs":                 "older, standing only",
		"over-sixties":                           "older",
		"older adults with osteoporosis":         "older, low bone density",
		"prenatal":                               "expecting",
		"pregnant women, second trimester":       "expecting second third",
		"expecting, first or second third":       "", // "first" stands alone
		"expecting 24 weeks":                     "expecting second third",
		"prenatal (last third)":                  "expecting last third",
		"postnatal":                              "after birth",
		"new mothers":                            "after birth",
		"mums and babies":                        "after birth",
		"8 weeks postpartum":                     "after birth",
		"beginners":                              "beginners",
		"complete beginners and seniors":         "beginners, older",
		"advanced":                               "able",
		"runners":                                "able",
		"cannot get down to the floor":           "standing only",
		"osteopenia":                             "low bone density",
		"low bone density, older, standing only": "older, standing only, low bone density",
		"EXPECTING FIRST THIRD":                  "expecting first third",
		"mixed, seniors":                         "mixed, older",
		"60+ / chairs; postnatal":                "older, standing only, after birth",
	} {
		got, err := ReadAudience(text)
		if text == "expecting, first or second third" {
			assert.ErrorContains(t, err, `"first"`, text)
			continue
		}
		require.NoError(t, err, text)
		assert.Equal(t, want, got.String(), text)
	}
	for text, names := range map[string]string{
		"the Tuesday lot":         `"tuesday"`,
		"not pregnant":            `"not"`,
		"seniors and potters":     `"potters"`,
		"mixed?":                  `"?"`,
		"99 weeks":                `"99 weeks"`,
		"people":                  `"people"`,
		"oldies":                  `"oldies"`,
		strings.Repeat("x", 4000): "…",
	} {
		_, err := ReadAudience(text)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), names, text)
		assert.Contains(t, err.Error(), "standing only", "what can be said is listed")
		assert.Less(t, len(err.Error()), 400)
	}
	_, err := ReadAudience("beginners and advanced")
	assert.ErrorIs(t, err, ErrBothWays)
}

// What is written is read again as the same, for every set of audiences that can be; in any order.
func TestAudienceRoundTrip(t *testing.T) {
	for a := range Audience(LowBone << 1) {
		if a.Has(Beginners) && a.Has(Able) || a.Has(Expecting) && a.Has(ExpectingFirst|ExpectingSecond|ExpectingLast) {
			continue
		}
		got, err := ReadAudience(a.String())
		require.NoError(t, err, a.String())
		require.Equal(t, a, got, a.String())
		require.LessOrEqual(t, len(a.String()), 200)
		require.LessOrEqual(t, a.Most(), 10.)
	}
	require.Len(t, AudienceNames(), len(Audiences()))
}

// Whatever is typed is read or refused, and what is read is a fixed point.
func FuzzReadAudience(f *testing.F) {
	for _, s := range []string{"seniors", "expecting, 30 weeks", "60+ / chairs", "ıİ’", "new\x00"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		a, err := ReadAudience(text)
		if err != nil {
			return
		}
		again, err := ReadAudience(a.String())
		require.NoError(t, err)
		require.Equal(t, a, again)
	})
}

// A class for more than one kind of people takes what suits every one of them, over all movements and levels.
func TestSuitsEveryOne(t *testing.T) {
	rnd := rand.New(rand.NewPCG(10, 1))
	for _, m := range Shipped().All() {
		for n := range m.Levels {
			for range 20 {
				a := Audience(rnd.IntN(int(LowBone << 1)))
				every := true
				for _, k := range a.Each() {
					every = every && m.Suits(n+1, k)
				}
				require.Equal(t, every, m.Suits(n+1, a), "%s %d %s", m.Slug, n+1, a)
			}
		}
	}
}

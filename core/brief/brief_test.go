package brief

import (
	"errors"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
)

var thursday = time.Date(2026, 5, 14, 9, 30, 0, 0, time.UTC)

func parsed(t testing.TB, text string) *Brief {
	t.Helper()
	b, err := Parse(text, movement.Shipped(), thursday)
	require.NoError(t, err, text)
	return b
}

// Briefs the way teachers say them, and the one form they are printed in.
func TestBriefsAsTheyAreSaid(t *testing.T) {
	for said, want := range map[string]string{
		"21 days from wednesday, 12 to 15 min, hips and upper back, no kit, mixed, rest sundays, ramp, peak day 20, soft last day, learn bird dog, bridge and side plank":                                        "21 days from 20 May 2026, 12 to 15 min, hips and upper back, no kit, for mixed, rest sundays, ramp, peak day 20, soft last day, learn bird dog, shoulder bridge and side plank",
		"28 days from 6 January 2027, 15 min, hips and upper back, no kit, mixed, rest sundays, ramp, peak day 27, soft last day, learn bird dog, bridge and side plank, two new a day, stretch every day 5 min": "28 days from 6 January 2027, 15 min, hips and upper back, no kit, for mixed, rest sundays, ramp, peak day 27, soft last day, learn bird dog, shoulder bridge and side plank, 2 new a day, stretch every day 5 min",
		"10 tuesdays from 12 January":                                                                "10 tuesdays from 12 January 2027",
		"3 a week for 6 weeks, 30 min":                                                               "3 a week for 6 weeks, 30 min",
		"28 days, weekly themes, week 1 spine, week 2 hips":                                          "28 days, week 1 spine, week 2 hips, weekly themes",
		"7 days, a bit harder every day, peak day 6, soft day 7, stretch every day 5 min":            "7 days, ramp, peak day 6, soft day 7, stretch every day 5 min",
		"30 days, two long holds a day, every day hip flexor stretch 2 min each side":                "30 days, two long holds, every day low lunge stretch hold 2 min each side",
		"14 days, wave, easy days 8 min, 15 min, soft last day":                                      "14 days, 15 min, easy days 8 min, wave, soft last day",
		"two weeks, the hundred every day, older":                                                    "14 days, for older, every day the hundred",
		"14 days, for seniors and low bone density, with a chair":                                    "14 days, with chair, for older and low bone density",
		"5 days, learn teaser and roll-up every second day, leave out jackknife, roll-over and crab": "5 days, learn teaser and roll-up every 2 days, leave out jackknife, roll-over and crab",
		"20 days, test side plank on days 1, 10 and 20 in seconds, 15 min":                           "20 days, 15 min, test side plank on days 1, 10 and 20 in seconds",
		"12 days, rest days 4, 8 and 12, with roller, band and ball":                                 "12 days, with roller, band and ball, rest days 4, 8 and 12",
		"12 days from today, from my sessions, hardest in the middle, warm-up assumed":               "12 days from 14 May 2026, from my sessions, hardest in the middle, warm-up assumed",
		"classical order, one side through, counted in breaths, 9 days":                              "9 days, classical order, one side through, counted in breaths",
		"6 days from tomorrow, on and off, finisher":                                                 "6 days from 15 May 2026, on and off, hardest as a finisher",
		"12 days from 1 june, on mondays, wednesdays and fridays":                                    "12 days from 1 June 2026, on mondays, wednesdays and fridays",
		"3 days from 29 february":                                                                    "3 days from 29 February 2028",
		"SAME SET EVERY DAY, 9 Days.":                                                                "9 days, same set growing",
		"7 days, a bit harder every day, peak day 6, a stretch on day 7":                             "7 days, ramp, peak day 6, stretch day 7",
		"14 days, stretching on the last day, stretch days 4, 8 and 11":                              "14 days, stretch days 4, 8 and 11, stretch last day",
		"1 day": "1 day",
	} {
		b, err := Parse(said, movement.Shipped(), thursday)
		require.NoError(t, err, said)
		assert.Equal(t, want, b.String(movement.Shipped()), said)
		assert.Equal(t, want, parsed(t, want).String(movement.Shipped()), "said again")
	}
}

// What is not understood is pointed at, and what could be two things is refused with both.
func TestBriefsThatAreNotUnderstood(t *testing.T) {
	for said, want := range map[string]string{
		"21 days, flying":                    `brief: column 10: "flying": expected days, minutes, themes`,
		"21 days, 15 min, 20 min":            `brief: column 18: "20 min": expected the minutes once: it is said at column 10 already`,
		"61 days":                            `"61": expected 1 to 60 days in all`,
		"0 days":                             `"0": expected 1 to 60 days`,
		"9 weeks":                            `expected 1 to 60 days in all`,
		"21 days, 0 min":                     `expected 1 to 120 minutes`,
		"21 days, 15 to 10 min":              `the fewer first`,
		"21 days from 31 february":           `brief: column 14: "31 february": expected a date`,
		"21 days from 5/6":                   `column 14: "5/6" could be 5 June or 6 May: say which`,
		"21 days from 6 january 26":          `expected a whole year, such as 6 January 2027`,
		"21 days from 6 january 3000":        `expected a year from 1990 to 2199`,
		"21 days, learn roll":                `could be`,
		"21 days, learn bird dog, flying":    `column 26: "flying"`,
		"21 days, learn the quux":            `expected the name of a movement in the library`,
		"21 days, learn bridge and bridge":   `each movement to learn once`,
		"21 days, rest someday":              `expected rest on weekdays or on days by number`,
		"21 days, peak day x":                `expected days, minutes`,
		"21 days, soft day 0":                `expected the number of a day, 1 to 60`,
		"21 days, every day clam 9 hours":    `expected a dose`,
		"21 days, with magic carpet":         `expected kit that the library knows`,
		"21 days, no kit, with roller":       `expected kit once`,
		"21 days, beginners, able":           `expected an audience that goes with beginners`,
		"21 days, for goblins":               `expected an audience: `,
		"21 days, week 1 spine, week 1 hips": `expected each week once`,
		"21 days, week 1 tail":               `expected themes: `,
		"21 days, hips, hips":                `expected each theme once`,
		"21 days, ramp, wave":                `expected the shape once`,
		"8 a week for 2 weeks":               `expected 1 to 7 days a week`,
		"":                                   `expected how many days`,
		", ,":                                `expected how many days`,
		"21 days, 30 new a day":              `at most 20 new movements a day`,
		strings.Repeat("a", 4001):            `expected at most 4000 characters`,
	} {
		_, err := Parse(said, movement.Shipped(), thursday)
		require.Error(t, err, said)
		assert.Contains(t, err.Error(), want, said)
		var e *Error
		assert.True(t, errors.As(err, &e))
	}
}

// The days of a brief on the calendar: every day, class days only, so many a week.
func TestCalendar(t *testing.T) {
	b := parsed(t, "21 days from wednesday, rest sundays")
	dates := b.Calendar()
	require.Len(t, dates, 21)
	work := 0
	for i := range dates {
		if !b.IsRest(i+1, dates) {
			work++
		}
	}
	assert.Equal(t, 18, work)
	term := parsed(t, "10 tuesdays from 12 January 2027").Calendar()
	assert.Equal(t, "2027-03-16", term[9].Format(time.DateOnly))
	week := parsed(t, "3 a week for 6 weeks from 4 January 2027").Calendar()
	assert.Equal(t, []string{"2027-01-04", "2027-01-06", "2027-01-08", "2027-01-11"}, []string{week[0].Format(time.DateOnly), week[1].Format(time.DateOnly), week[2].Format(time.DateOnly), week[3].Format(time.DateOnly)})
	assert.Nil(t, parsed(t, "3 days").Calendar())
}

// random makes briefs of everything the language knows.
func random(r *rand.Rand) string {
	all := movement.Shipped().All()
	name := func() string { return nameOf(movement.Shipped(), all[r.IntN(len(all))]) }
	pick := func(s ...string) string { return s[r.IntN(len(s))] }
	theme := func() string { return pick(movement.Themes()...) }
	clauses := []string{pick("21 days", "5 days from 3 march 2027", "10 mondays from 4 January 2027", "4 a week for 5 weeks", "four weeks", "30 days from friday")}
	for _, c := range []string{
		pick("15 min", "10 to 15 min", "30 min a day"), pick("easy days 8 min", "easy 5 to 8 min"), pick(theme(), theme()+" and "+pick("core", "balance")), pick("no kit", "with roller", "with band, ball and chair"),
		pick("mixed", "older", "beginners", "for expecting second third", "for able"), pick("rest sundays", "rest saturdays and sundays", "rest days 3, 6 and 9"), pick("ramp", "wave", "two long holds", "weekly themes", "different every day", "same set growing", "on and off"),
		"peak day " + pick("3", "20"), pick("soft day 4", "soft days 2, 5 and 9"), pick("soft last day", "stretch last day"), pick("stretch day 7", "stretch days 7, 9 and 12"), "learn " + name(), "learn " + name() + pick(" every day", " every 3 days"), "leave out " + name(), pick("2 new a day", "no new a day"),
		"every day " + name(), "stretch every day 5 min", "test " + name() + " on days 1, 4 and 5" + pick("", " in reach"), pick("from my sessions", "from the library"), pick("levels 1 to 3", "levels 2 to 3 over the weeks"), "classical order", "chained", "counted in seconds", "hardest in the middle", "warm-up included", "week 2 " + theme(),
	} {
		if r.IntN(3) == 0 {
			clauses = append(clauses, c)
		}
	}
	return strings.Join(clauses, ", ")
}

// Parse, print, parse is a fixed point, and says the same.
func TestBriefsComeBack(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	read := 0
	for range 3000 {
		text := random(r)
		b, err := Parse(text, movement.Shipped(), thursday)
		if err != nil {
			continue // the same thing twice
		}
		read++
		said := b.String(movement.Shipped())
		again, err := Parse(said, movement.Shipped(), thursday)
		require.NoError(t, err, "%s\n%s", text, said)
		require.Equal(t, b, again, "%s\n%s", text, said)
	}
	assert.Greater(t, read, 2000)
}

// Every movement can be learnt, left out, done every day and tested by its name.
func TestEveryMovementCanBeNamed(t *testing.T) {
	for _, m := range movement.Shipped().All() {
		n := nameOf(movement.Shipped(), m)
		b := parsed(t, "5 days, learn "+n+", every day "+n+", test "+n+" on day 1, leave out "+n)
		assert.Equal(t, m.Slug, b.Learn[0].Slug, n)
		assert.Equal(t, m.Slug, b.Daily[0].Slug, n)
		assert.Equal(t, m.Slug, b.Tests[0].Slug, n)
		assert.Equal(t, m.Slug, b.LeaveOut[0], n)
		said := b.String(movement.Shipped())
		assert.Equal(t, b, parsed(t, said), said)
	}
}

// A brief is set field by field as well: the same words change nothing, none take the field away, and what is of another field is refused; line and fields say the same.
func TestBriefsFieldByField(t *testing.T) {
	lib := movement.Shipped()
	r := rand.New(rand.NewPCG(8, 8))
	for range 300 {
		b, err := Parse(random(r), lib, thursday)
		if err != nil {
			continue
		}
		text := b.String(lib)
		built := ""
		for _, p := range b.Parts(lib) {
			same, err := Set(text, p.Field, p.Words, lib, thursday)
			require.NoError(t, err, "%s: %v", text, p)
			require.Equal(t, text, same.String(lib))
			if len(b.Parts(lib)) > 1 {
				less, err := Set(text, p.Field, " ", lib, thursday)
				require.NoError(t, err, "%s: %v", text, p)
				for _, o := range less.Parts(lib) {
					assert.NotEqual(t, p.Field, o.Field)
				}
				assert.Len(t, less.Parts(lib), len(b.Parts(lib))-1)
			}
			grown, err := Set(built, p.Field, p.Words, lib, thursday)
			require.NoError(t, err, "%s + %v", built, p)
			built = grown.String(lib)
		}
		require.Equal(t, text, built, "said field by field")
	}
	const text = "9 days, 15 min, hips, ramp"
	for _, c := range []struct {
		field Field
		words string
		want  string
	}{
		{"minutes", "20 min", "9 days, 20 min, hips, ramp"},
		{"minutes", "10 to 12 min.", "9 days, 10 to 12 min, hips, ramp"},
		{"learn", "learn clam and bird dog", "9 days, 15 min, hips, ramp, learn clam and bird dog"},
		{"about", "spine, core", "9 days, 15 min, spine and core, ramp"},
		{"shape", "", "9 days, 15 min, hips"},
		{"levels", "levels 1 to 3", "9 days, 15 min, hips, ramp, levels 1 to 3 over the weeks"},
	} {
		b, err := Set(text, c.field, c.words, lib, thursday)
		require.NoError(t, err, c)
		assert.Equal(t, c.want, b.String(lib))
	}
	for _, c := range []struct {
		field        Field
		words, wants string
	}{
		{"minutes", "20 lightyears", `column 1: "20 lightyears"`},
		{"minutes", "wave", "the shape once"},
		{"minutes", "soft last day", "something of minutes: this says soft days"},
		{"minutes", "20 min, no kit", "something of minutes: this says kit"},
		{"kit", "no kit, quux", `column 9: "quux"`},
		{"colour", "red", "a field of a brief"},
		{"levels", "levels 3 to 1", "levels that rise"},
		{"levels", "levels 1 to 99", "levels that rise"},
	} {
		_, err := Set(text, c.field, c.words, lib, thursday)
		assert.ErrorContains(t, err, c.wants, c)
	}
	for day, want := range map[int]int{1: 1, 7: 1, 8: 2, 14: 2, 15: 3, 21: 3} {
		assert.Equal(t, want, parsed(t, "21 days, levels 1 to 3").LevelOn(day), "day %d", day)
	}
	assert.Equal(t, []int{1, 2, 3}, []int{parsed(t, "6 days, levels 1 to 3").LevelOn(2), parsed(t, "6 days, levels 1 to 3").LevelOn(3), parsed(t, "6 days, levels 1 to 3").LevelOn(6)})
	assert.Zero(t, parsed(t, "6 days").LevelOn(3))
}

func FuzzParse(f *testing.F) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 60 {
		f.Add(random(r))
	}
	f.Fuzz(func(t *testing.T, text string) {
		b, err := Parse(text, movement.Shipped(), thursday)
		if err != nil {
			return
		}
		said := b.String(movement.Shipped())
		again, err := Parse(said, movement.Shipped(), thursday)
		if err != nil && len(said) <= MaxText {
			t.Fatalf("%q reads as %q, which is not read: %v", text, said, err)
		}
		if err == nil {
			require.Equal(t, b, again, "%q %q", text, said)
		}
		b.Calendar()
	})
}

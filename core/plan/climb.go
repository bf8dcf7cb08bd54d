package plan

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Climb is when the next rung of a ladder is taken. The zero value says nothing.
type Climb struct {
	When  When
	Times int // with EveryTime: goes on a rung before the next, from 1
}

// When is what a climb goes by.
type When uint8

// What a climb goes by.
const (
	Unclimbed When = iota // not said
	EveryTime             // every so many times that it comes
	EveryDay              // every day of the series, whether it comes or not
	EveryWeek             // every week of the series
	WhenReady             // when the check-ins say so; until then it stays
	Never                 // it stays
)

// maxTimes is how many goes on a rung a climb may ask for.
const maxTimes = 60

var whens = map[When]string{EveryDay: "every day", EveryWeek: "every week", WhenReady: "when ready", Never: "never"}

// IsZero tells whether nothing is said.
func (c Climb) IsZero() bool { return c == Climb{} }

// String says it: "every time", "every 2nd time", "every day", "every week", "when ready", "never".
func (c Climb) String() string {
	if c.When != EveryTime {
		return whens[c.When]
	}
	if c.Times <= 1 {
		return "every time"
	}
	return "every " + Ordinal(c.Times) + " time"
}

// Ordinal is 1st, 2nd, 3rd, 4th.
func Ordinal(n int) string {
	end := "th"
	if n%100 < 11 || n%100 > 13 {
		end = [...]string{"th", "st", "nd", "rd", "th", "th", "th", "th", "th", "th"}[n%10]
	}
	return strconv.Itoa(n) + end
}

// MarshalText is String.
func (c Climb) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

var everyNth = regexp.MustCompile(`^every (\d{1,3})(st|nd|rd|th)? times?$`)

// UnmarshalText reads what String says; "every 2 times" is read too.
func (c *Climb) UnmarshalText(text []byte) error {
	said := strings.ToLower(strings.Join(strings.Fields(string(text)), " "))
	for w, words := range whens {
		if said == words {
			*c = Climb{When: w}
			return nil
		}
	}
	if said == "every time" {
		*c = Climb{EveryTime, 1}
		return nil
	}
	if m := everyNth.FindStringSubmatch(said); m != nil {
		if n, err := strconv.Atoi(m[1]); err == nil && n >= 1 && n <= maxTimes {
			*c = Climb{EveryTime, n}
			return nil
		}
	}
	return fmt.Errorf("%q: expected every day, every time, every 2nd time, every week, when ready or never", Clip(string(text), maxShown))
}

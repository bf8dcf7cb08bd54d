// Package clock holds the one unit of time of the job: whole milliseconds.
package clock

import (
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Span is a length of time in whole milliseconds. Its zero value is no time at all.
type Span int64

// Units, in the manner of package time.
const (
	Millisecond Span = 1
	Second           = 1000 * Millisecond
	Minute           = 60 * Second
)

// Seconds makes a span of s seconds, rounded to the nearest millisecond.
func Seconds(s float64) Span { return Span(math.Round(s * 1000)) }

// Seconds gives the span in seconds.
func (s Span) Seconds() float64 { return float64(s) / 1000 }

// Times scales the span by f, rounded to the nearest millisecond.
func (s Span) Times(f float64) Span { return Span(math.Round(float64(s) * f)) }

// String prints a clock time to the nearest second: "0:48", "19:48", "1:02:00".
func (s Span) String() string {
	if s < 0 {
		return "-" + (-s).String()
	}
	t := (int64(s) + 500) / 1000
	if t >= 3600 {
		return fmt.Sprintf("%d:%02d:%02d", t/3600, t/60%60, t%60)
	}
	b := strconv.AppendInt(make([]byte, 0, 6), t/60, 10)
	return string(append(b, ':', byte('0'+t%60/10), byte('0'+t%10)))
}

// Said prints a span the way it is said: "30 s", "2 min", "1:30", "2.5 s".
func (s Span) Said() string {
	switch {
	case s%Second != 0:
		return strconv.FormatFloat(s.Seconds(), 'f', -1, 64) + " s"
	case s >= 2*Minute && s%Minute == 0:
		return strconv.FormatInt(int64(s/Minute), 10) + " min"
	case s > Minute && s%Minute != 0 && s < 60*Minute:
		return s.String()
	default:
		return strconv.FormatInt(int64(s/Second), 10) + " s"
	}
}

// MarshalJSON writes seconds, with at most three decimals.
func (s Span) MarshalJSON() ([]byte, error) {
	return strconv.AppendFloat(nil, s.Seconds(), 'f', -1, 64), nil
}

// UnmarshalJSON reads seconds.
func (s *Span) UnmarshalJSON(b []byte) error {
	var f float64
	if err := json.Unmarshal(b, &f); err != nil {
		return err
	}
	if math.IsNaN(f) || math.Abs(f) > 1e9 {
		return fmt.Errorf("%v seconds is out of range", f)
	}
	*s = Seconds(f)
	return nil
}

// Parse reads a span as said: "20:00", "1:30", "90 s", "20 min", "45s", "1 h".
// A number without a unit is refused, since it could be seconds or minutes.
func Parse(text string) (Span, error) {
	t := strings.ToLower(strings.TrimSpace(text))
	bad := func() error {
		return fmt.Errorf("%q is not a time: expected for example \"20:00\", \"90 s\" or \"20 min\"", text)
	}
	if strings.Contains(t, ":") {
		parts := strings.Split(t, ":")
		if len(parts) > 3 {
			return 0, bad()
		}
		var total Span
		for i, p := range parts {
			n, err := strconv.Atoi(p)
			if err != nil || n < 0 || len(p) == 0 || len(p) > 3 || (i > 0 && (len(p) != 2 || n > 59)) || p[0] == '+' {
				return 0, bad()
			}
			total = total*60 + Span(n)*Second
		}
		return total, nil
	}
	i := 0
	for i < len(t) && (t[i] == '.' || t[i] >= '0' && t[i] <= '9') {
		i++
	}
	n, err := strconv.ParseFloat(t[:i], 64)
	if err != nil || n > 1e6 {
		return 0, bad()
	}
	unit, ok := Unit(strings.TrimSpace(t[i:]))
	if !ok {
		return 0, bad()
	}
	return Seconds(n * unit.Seconds()), nil
}

// Unit gives the length of a unit word: s, sec, second(s), min, minute(s), h, hour(s).
func Unit(word string) (Span, bool) {
	switch word {
	case "s", "sec", "secs", "second", "seconds":
		return Second, true
	case "m", "min", "mins", "minute", "minutes":
		return Minute, true
	case "h", "hr", "hour", "hours":
		return 60 * Minute, true
	}
	return 0, false
}

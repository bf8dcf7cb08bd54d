package board

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
)

var (
	daySpan  = regexp.MustCompile(`^(\d+) ?(?:to|-|–) ?(\d+)$`)
	dayEvery = regexp.MustCompile(`^every (?:(second|other|third|\d+(?:st|nd|rd|th)?) )?days?(?: from (?:day )?(\d+))?$`)
	dayLater = regexp.MustCompile(`^(?:from (?:day )?(\d+)(?: on)?|(\d+) and later)$`)
)

// readDays reads a list of days as it is said: "2, 5 and 8", "4 to 9", "from 6 on", "every day", "every 3rd day from 2". They come in order, each once.
func readDays(said string, most int) (out []int, err error) {
	text := strings.ToLower(strings.Join(strings.Fields(said), " "))
	for _, p := range []string{"on days ", "on day ", "days ", "day ", "on "} {
		text = strings.TrimPrefix(text, p)
	}
	if text == "" {
		return nil, fmt.Errorf("on which days? 2, 5 and 8, or 4 to 9, or every 3rd day")
	}
	add := func(from, to, step int) error {
		if from < 1 || to > most || to < from {
			return fmt.Errorf("%q: the days are 1 to %d", said, most)
		}
		for d := from; d <= to; d += step {
			out = append(out, d)
		}
		return nil
	}
	if f := dayEvery.FindStringSubmatch(text); f != nil {
		step, from := 1, 1
		switch f[1] {
		case "":
		case "second", "other":
			step = 2
		case "third":
			step = 3
		default:
			step, _ = strconv.Atoi(strings.TrimRight(f[1], "stndrh"))
		}
		if f[2] != "" {
			from, _ = strconv.Atoi(f[2])
		}
		if step < 1 {
			return nil, fmt.Errorf("%q: every how many days?", said)
		}
		return out, add(from, most, step)
	}
	if f := dayLater.FindStringSubmatch(text); f != nil {
		from, _ := strconv.Atoi(f[1] + f[2])
		return out, add(from, most, 1)
	}
	for _, part := range strings.Split(strings.ReplaceAll(text, " and ", ","), ",") {
		part = strings.TrimSpace(part)
		if part == "" {
			continue
		}
		if f := daySpan.FindStringSubmatch(part); f != nil {
			from, _ := strconv.Atoi(f[1])
			to, _ := strconv.Atoi(f[2])
			if err := add(from, to, 1); err != nil {
				return nil, err
			}
			continue
		}
		n, err := strconv.Atoi(part)
		if err != nil {
			return nil, fmt.Errorf("%q is no day: days are said 2, 5 and 8, or 4 to 9, or every 3rd day", part)
		}
		if err := add(n, n, 1); err != nil {
			return nil, err
		}
	}
	slices.Sort(out)
	return slices.Compact(out), nil
}

// saidDays says a list of days: "day 3", "days 2, 5 and 8".
func saidDays(days []int) string {
	words := make([]string, len(days))
	for i, d := range days {
		words[i] = strconv.Itoa(d)
	}
	if len(words) == 1 {
		return "day " + words[0]
	}
	return "days " + strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

var (
	threadDays = regexp.MustCompile(`(?i)\s+(?:on (?:days? )?(?:\d|every )|every (?:day|second|other|third|\d)|from day \d)`)
	climbSaid  = regexp.MustCompile(`(?i)[,;]?\s+(climbing|climbs|never climbing)\b(?:\s+(.+))?$`)
)

// partThread parts "side plank hold 20 s each side on 2, 5, 8 climbing every week" into the row, the days and the climb.
func partThread(line string) (row, days, climb string, climbs bool) {
	row = strings.TrimSpace(line)
	if f := climbSaid.FindStringSubmatchIndex(row); f != nil {
		climbs = true
		word := strings.ToLower(row[f[2]:f[3]])
		if f[4] >= 0 {
			climb = row[f[4]:f[5]]
		}
		if word == "never climbing" {
			climb, climbs = "never", false
		}
		row = strings.TrimSpace(row[:f[0]])
	}
	all := threadDays.FindAllStringIndex(row, -1)
	if len(all) == 0 {
		return row, "", climb, climbs
	}
	at := all[len(all)-1][0]
	if len(all) > 1 && strings.HasPrefix(strings.ToLower(strings.TrimSpace(row[all[len(all)-1][0]:])), "from day") { // "every 3rd day from day 2"
		at = all[len(all)-2][0]
	}
	return strings.TrimRight(strings.TrimSpace(row[:at]), ","), strings.TrimSpace(row[at:]), climb, climbs
}

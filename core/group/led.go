package group

import "time"

// WhoLed tells whose class it was that was led on a date: of several groups that do the same day of a series, the one whose date of that day is nearest, of
// two the first; -1 where none has that day. dates gives, group by group, the dates of its days.
func WhoLed(dates [][]Dated, day int, on time.Time) int {
	who, least := -1, time.Duration(0)
	for i, days := range dates {
		for _, d := range days {
			if d.Day != day || d.Off {
				continue
			}
			if far := d.Date.Sub(day0(on)).Abs(); who < 0 || far < least {
				who, least = i, far
			}
		}
	}
	return who
}

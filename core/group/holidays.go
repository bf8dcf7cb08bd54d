package group

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wavekine/core/plan"
)

// maxHolidays is how many holidays a house keeps; judgement: those of a country for twenty years.
const maxHolidays = 600

// Holiday is a day, or some in a row, on which a house has no classes.
type Holiday struct {
	From, To time.Time // dates, midnight UTC, both included
	What     string    // may be empty
}

// MarshalJSON writes the dates.
func (h Holiday) MarshalJSON() ([]byte, error) {
	return json.Marshal(holidayText{h.From.Format(time.DateOnly), h.To.Format(time.DateOnly), h.What})
}

type holidayText struct {
	From string `json:"from"`
	To   string `json:"to"`
	What string `json:"what,omitempty"`
}

// UnmarshalJSON reads them; the error says which is no date.
func (h *Holiday) UnmarshalJSON(b []byte) (err error) {
	var t holidayText
	if err := json.Unmarshal(b, &t); err != nil {
		return err
	}
	*h, err = NewHoliday(t.From, t.To, t.What)
	return err
}

// NewHoliday is a holiday as it is typed; without a last day it is one day.
func NewHoliday(from, to, what string) (h Holiday, err error) {
	if h.From, err = plan.ParseDate(from); err != nil {
		return h, err
	}
	if strings.TrimSpace(to) == "" {
		to = from
	}
	if h.To, err = plan.ParseDate(to); err != nil {
		return h, err
	}
	if h.To.Before(h.From) {
		return h, fmt.Errorf("a holiday from %s to %s ends before it begins", h.From.Format("2 January"), h.To.Format("2 January"))
	}
	if h.What = strings.Join(strings.Fields(strings.ToValidUTF8(what, "")), " "); len([]rune(h.What)) > maxName {
		return h, fmt.Errorf("what the holiday is, in up to %d characters", maxName)
	}
	return h, nil
}

// Holidays are those of a house, in order.
type Holidays []Holiday

// With puts some more in; those that are there already stay once.
func (hs Holidays) With(more ...Holiday) (Holidays, error) {
	out := slices.Clone(hs)
	for _, h := range more {
		if !slices.Contains(out, h) {
			out = append(out, h)
		}
	}
	if len(out) > maxHolidays {
		return hs, fmt.Errorf("more than %d holidays: take those of past years out first", maxHolidays)
	}
	slices.SortStableFunc(out, func(a, b Holiday) int { return a.From.Compare(b.From) })
	return out, nil
}

// Busy are the holidays as times that are taken.
func (hs Holidays) Busy() (out []Busy) {
	for _, h := range hs {
		out = append(out, Busy{From: h.From, To: h.To.AddDate(0, 0, 1), AllDay: true, What: h.What})
	}
	return out
}

// HolidaysOf are the whole days of a calendar; what has a time of day is no holiday.
func HolidaysOf(busy []Busy) (out Holidays, err error) {
	for _, b := range busy {
		if b.AllDay {
			out = append(out, Holiday{day0(b.From), day0(b.To).AddDate(0, 0, -1), b.What})
		}
	}
	if len(out) == 0 {
		return nil, errors.New("there is no whole day in that calendar from today on: holidays are whole days")
	}
	return out, nil
}

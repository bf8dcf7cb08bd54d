package group

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Easter of 2027 is 28 March (the Gregorian computus, US Naval Observatory's table, from memory); Good Friday is two days before.
func TestHolidaysOfAHouse(t *testing.T) {
	text := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\n" +
		"BEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:20270326\r\nSUMMARY:Good Friday\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:2\r\nDTSTART;VALUE=DATE:20270729\r\nDTEND;VALUE=DATE:20270812\r\nSUMMARY:Kiln holidays\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:3\r\nDTSTART:20270401T100000Z\r\nDTEND:20270401T110000Z\r\nSUMMARY:Dentist\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	date := func(s string) time.Time {
		d, err := time.Parse(time.DateOnly, s)
		require.NoError(t, err)
		return d
	}
	for _, zone := range []string{"UTC", "Pacific/Auckland", "America/Los_Angeles"} {
		l, err := time.LoadLocation(zone)
		require.NoError(t, err)
		busy, err := ReadBusy([]byte(text), date("2027-01-01"), date("2028-01-01"), l)
		require.NoError(t, err)
		hs, err := HolidaysOf(busy)
		require.NoError(t, err)
		assert.Equal(t, Holidays{{date("2027-03-26"), date("2027-03-26"), "Good Friday"}, {date("2027-07-29"), date("2027-08-11"), "Kiln holidays"}}, hs, zone)
		again, err := hs.With(hs...)
		require.NoError(t, err)
		assert.Equal(t, hs, again, "once")
		b, err := json.Marshal(hs)
		require.NoError(t, err)
		var back Holidays
		require.NoError(t, json.Unmarshal(b, &back))
		assert.Equal(t, hs, back)

		g := &Group{Name: "Evening", Start: date("2027-03-22"), Zone: zone, Time: "18:30"}
		skipped, err := g.Around(week(7), hs.Busy())
		require.NoError(t, err)
		assert.Equal(t, []time.Time{date("2027-03-26")}, skipped, zone)
	}
	for _, bad := range [][3]string{{"2027-02-29", "", "x"}, {"2027-03-02", "2027-03-01", ""}, {"", "", ""}} {
		_, err := NewHoliday(bad[0], bad[1], bad[2])
		assert.Error(t, err)
	}
	assert.Error(t, json.Unmarshal([]byte(`{"from":"2027-13-01","to":"2027-13-01"}`), &Holiday{}))
}

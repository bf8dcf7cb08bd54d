package series_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

var groupAt = regexp.MustCompile(`/groups/([a-z0-9]+)/edit`)

// A series is given to two groups with their own dates; one is paused, a day is moved and one called off; both are on Today on their days, and what is subscribed to is read by
// python3-icalendar.
func TestGroupsOfASeries(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "10 days from 14 may 2026, 12 min, hips, no kit, ramp")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	do := func(path string, f url.Values) string {
		t.Helper()
		code, body, _ := v.Do("POST", path, f, "HX-Request", "true")
		require.Equal(t, 200, code, body)
		return body
	}
	body := do(at+"/groups", url.Values{"name": {"Morning"}, "start": {"2026-05-14"}, "time": {"07:30"}, "alarm": {"15"}})
	one := groupAt.FindStringSubmatch(body)[1]
	assert.Contains(t, body, "Thu 14 May to Sat 23 May 2026")
	assert.Contains(t, body, "next: day 1 of 10 on Thursday 14 May")
	body = do(at+"/groups", url.Values{"name": {"Evening"}, "start": {"2026-05-14"}, "on": {"thursdays and tuesdays"}, "time": {"18:30"}})
	assert.Contains(t, body, "thursdays, tuesdays, at 18:30")
	_, today, _ := v.Do("GET", "/", nil)
	assert.Contains(t, today, "for Morning, day 1 of 10")
	assert.Contains(t, today, "for Evening, day 1 of 10")
	assert.NotContains(t, today, "for Evening, day 2 of 10")

	body = do("/groups/"+one+"/edit", url.Values{"op": {"pause"}, "rev": {"1"}, "from": {"2026-05-15"}, "to": {"2026-05-17"}})
	assert.Contains(t, body, "paused 15 May to 17 May")
	assert.Contains(t, body, "Thu 14 May to Tue 26 May 2026")
	do("/groups/"+one+"/edit", url.Values{"op": {"move"}, "rev": {"2"}, "day": {"3"}, "to": {"2026-05-30"}})
	do("/groups/"+one+"/edit", url.Values{"op": {"off"}, "rev": {"3"}, "day": {"4"}})
	code, _, _ := v.Do("POST", "/groups/"+one+"/edit", url.Values{"op": {"off"}, "rev": {"3"}, "day": {"5"}}, "HX-Request", "true")
	assert.Equal(t, 409, code, "the second of two teachers is told")
	body = do("/groups/"+one+"/address", url.Values{})
	secret := regexp.MustCompile(`/calendar/([a-z0-9]{20,})`).FindString(body)
	require.NotEmpty(t, secret)
	nobody := webtest.Visit(t, base)
	code, ics, h := nobody.Do("GET", secret, nil)
	require.Equal(t, 200, code)
	assert.Contains(t, h.Get("Content-Type"), "text/calendar")
	out := outside(t, []byte(ics), "/usr/bin/python3", "-c", `
import sys, icalendar
c = icalendar.Calendar.from_ical(sys.stdin.buffer.read())
for e in c.walk('VEVENT'):
    print(e['UID'].split('-day-')[1].split('@')[0], e['SEQUENCE'], e.decoded('DTSTART').isoformat(), e.get('STATUS', ''), len(e.walk('VALARM')), sep='|')
`)
	for _, want := range []string{"1|5|2026-05-14T06:30:00+00:00||1\n", "2|5|2026-05-18T06:30:00+00:00||1\n", "3|5|2026-05-30T06:30:00+00:00||1\n", "4|5|2026-05-20T06:30:00+00:00|CANCELLED|0\n"} {
		assert.Contains(t, out, want)
	}
	do("/groups/"+one+"/address", url.Values{"op": {"end"}})
	code, ended, _ := nobody.Do("GET", secret, nil)
	assert.Equal(t, 404, code)
	_, never, _ := nobody.Do("GET", "/calendar/"+strings.Repeat("a", 32), nil)
	assert.Equal(t, never, ended, "it does not tell an address that has ended from one that never was")

	for says, f := range map[string]url.Values{
		"no weekday":            {"op": {"head"}, "rev": {"4"}, "name": {"M"}, "start": {"2026-05-14"}, "on": {"someday"}},
		"is not a date":         {"op": {"pause"}, "rev": {"4"}, "from": {"2026-02-30"}, "to": {"2026-05-14"}},
		"ends before it begins": {"op": {"pause"}, "rev": {"4"}, "from": {"2026-05-20"}, "to": {"2026-05-14"}},
		"which day? 1 to 10":    {"op": {"off"}, "rev": {"4"}, "day": {"11"}},
		"needs a name":          {"op": {"head"}, "rev": {"4"}, "name": {" "}, "start": {"2026-05-14"}},
		"hoose a calendar file": {"op": {"busy"}, "rev": {"4"}},
	} {
		code, body, _ := v.Do("POST", "/groups/"+one+"/edit", f, "HX-Request", "true")
		assert.Equal(t, 422, code, says)
		assert.Contains(t, body, says)
	}
	for as, has := range map[string]string{"text": "Day 1 of 10", "markdown": "### Day 1 of 10", "csv": "row,name,day 1", "booklet": "%PDF-", "handouts": "%PDF-", "poster": "%PDF-"} {
		code, body, _ := v.Do("GET", at+"/out?as="+as+"&group="+one, nil)
		assert.Equal(t, 200, code, as)
		assert.Contains(t, body, has, as)
	}
	code, body, _ = v.Do("GET", at+"/out?as=takehome&row=quux&often=every+day", nil)
	assert.Equal(t, 422, code, "it is not in this series")
	assert.Contains(t, body, "is not in the series")
	_, page, _ := v.Do("GET", at, nil)
	row := regexp.MustCompile(`name="row" value="([a-z-]+)"`).FindStringSubmatch(page)[1]
	code, body, _ = v.Do("GET", at+"/out?as=takehome&row="+row+"&often=every+day,+mornings", nil)
	assert.Equal(t, 200, code)
	assert.Contains(t, body, "%PDF-")
	for _, q := range []string{"", "&row=" + row + "&often=" + strings.Repeat("x", 81)} {
		code, _, _ = v.Do("GET", at+"/out?as=takehome"+q, nil)
		assert.Equal(t, 422, code, q)
	}
	code, _, _ = v.Do("GET", at+"/out?as=mug", nil)
	assert.Equal(t, 422, code)
	code, _, _ = v.Do("GET", "/series/off-the-wheel/out?as=text&group="+one, nil)
	assert.Equal(t, 404, code, "a group of another series")
	do("/groups/"+one+"/delete", url.Values{})
	code, _, _ = v.Do("GET", "/groups/"+one+"/calendar", nil)
	assert.Equal(t, 404, code)
}

// Busy times are planned around; a calendar that is broken or too large is refused in words.
func TestPlannedAroundACalendar(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "5 days from 14 may 2026, 12 min, hips, no kit")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, body, _ := v.Do("POST", at+"/groups", url.Values{"name": {"All day"}, "start": {"2026-05-14"}}, "HX-Request", "true")
	id := groupAt.FindStringSubmatch(body)[1]
	send := func(file, rev string) (int, string) {
		var b bytes.Buffer
		w := multipart.NewWriter(&b)
		require.NoError(t, w.WriteField("op", "busy"))
		require.NoError(t, w.WriteField("rev", rev))
		part, err := w.CreateFormFile("file", "busy.ics")
		require.NoError(t, err)
		_, err = part.Write([]byte(file))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		code, body := v.Raw(http.MethodPost, "/groups/"+id+"/edit", b.Bytes(), w.FormDataContentType())
		return code, body
	}
	code, answer := send("BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\nSUMMARY:Holiday\r\nDTSTART;VALUE=DATE:20260515\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n", "1")
	require.Equal(t, 200, code, answer)
	assert.Contains(t, answer, "1 date planned around")
	assert.Contains(t, answer, "Thu 14 May to Tue 19 May 2026")
	code, answer = send("hello", "2")
	assert.Equal(t, 422, code)
	assert.Contains(t, answer, "no calendar file")
	code, answer = send(strings.Repeat("x", 4<<20+1), "2")
	assert.Equal(t, 422, code)
	assert.Contains(t, answer, "larger than 4 MB")
	code, _ = send(strings.Repeat("x", 6<<20), "2")
	assert.GreaterOrEqual(t, code, 400)
	assert.Less(t, code, 500)
}

// The same by the screen.
func TestGroupsOnTheScreen(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "10 days from 14 may 2026, 12 min, hips, no kit, ramp")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Go(base + at)
	p.Until(`document.querySelector('#groups form')`)
	p.Settled()
	webtest.Run1(p, `(() => { const f = document.querySelector('#groups form'); f.querySelector('[name=name]').value = 'Evening group'; f.querySelector('[name=on]').value = 'tuesdays, thursdays'; f.querySelector('[name=time]').value = '18:30'; f.querySelector('button').click(); })()`)
	p.Until(`document.querySelector('#groups .group')?.textContent.includes('Evening group')`)
	p.Settled()
	webtest.Run1(p, `document.querySelector('#groups details').open = true`)
	webtest.Run1(p, `Array.from(document.querySelectorAll('#groups button')).find(b => b.textContent.startsWith('Secret address')).click()`)
	p.Until(`document.querySelector('#groups code')?.textContent.includes('/calendar/')`)
	webtest.Run1(p, `document.querySelector('#groups').scrollIntoView()`)
	p.Shot("groups")
	assert.Empty(t, p.Axe())
	assert.LessOrEqual(t, browsertest.JS[float64](p, `document.documentElement.scrollWidth`), 1280.)
}

// A series is opened to anybody: the plan on one page, read on a phone, without names, dates and cookies; closed, the address answers like one that never was.
func TestASeriesOpenToAnybody(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "10 days from 14 may 2026, 12 min, hips, with chair, ramp, rest sundays, learn bird dog")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	_, body, _ := v.Do("POST", at+"/open", url.Values{}, "HX-Request", "true")
	path := regexp.MustCompile(`/open/[a-z0-9]{20,}`).FindString(body)
	require.NotEmpty(t, path, body)
	nobody := webtest.Visit(t, base)
	code, page, h := nobody.Do("GET", path, nil)
	require.Equal(t, 200, code)
	assert.Empty(t, h.Get("Set-Cookie"))
	assert.Equal(t, "noindex, nofollow", h.Get("X-Robots-Tag"))
	for _, secret := range []string{"Maren", "Claybank", "May", "2026", "laid from"} {
		assert.NotContains(t, page, secret)
	}
	assert.Contains(t, page, "10 days, 9 classes, at your own pace")
	assert.Contains(t, page, "Bird dog")
	assert.Contains(t, page, "Stop if it hurts")
	p := browsertest.NewPage(t, 390, 800)
	p.Go(base + path)
	p.Until(`document.querySelectorAll('.m-days li').length === 9`)
	assert.Empty(t, p.Axe())
	p.Shot("open-phone")
	assert.LessOrEqual(t, browsertest.JS[float64](p, `document.documentElement.scrollWidth`), 390.)
	_, body, _ = v.Do("POST", at+"/open", url.Values{"op": {"end"}}, "HX-Request", "true")
	assert.Contains(t, body, "Open it to anybody")
	code, ended, _ := nobody.Do("GET", path, nil)
	assert.Equal(t, 404, code)
	_, never, _ := nobody.Do("GET", "/open/"+strings.Repeat("a", 32), nil)
	assert.Equal(t, never, ended)
}

// The house's holidays are typed or read; groups are planned around them, and those given before say which classes fall on one. What is handed out is worded by the house.
func TestHolidaysAndWordsOfTheHouse(t *testing.T) {
	base, _ := webtest.Site(t)
	at := layBoard(t, base, "5 days from 14 may 2026, 12 min, hips, no kit")
	v := webtest.Visit(t, base).SignIn(demo.Email)
	give := func(name, around string) string {
		_, body, _ := v.Do("POST", at+"/groups", url.Values{"name": {name}, "start": {"2026-05-14"}, "time": {"09:00"}, "holidays": {around}}, "HX-Request", "true")
		return body
	}
	body := give("Before", "on")
	id := groupAt.FindStringSubmatch(body)[1]
	code, _, _ := v.Do("POST", "/house/holidays", url.Values{"from": {"2026-05-15"}, "to": {"2026-05-16"}, "what": {"Kiln  holidays"}})
	require.Equal(t, 303, code)
	ics := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:20260518\r\nSUMMARY:Feast of clay\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	require.NoError(t, w.WriteField("do", "read"))
	part, err := w.CreateFormFile("file", "holidays.ics")
	require.NoError(t, err)
	_, _ = part.Write([]byte(ics))
	require.NoError(t, w.Close())
	code, body = v.Raw("POST", "/house/holidays", b.Bytes(), w.FormDataContentType())
	require.Contains(t, []int{200, 303}, code, body)
	_, page, _ := v.Do("GET", "/house", nil)
	assert.Contains(t, page, "Fri 15 May 2026 to Sat 16 May 2026</span> Kiln holidays")
	assert.Contains(t, page, "Feast of clay")
	for says, f := range map[string]url.Values{"not a date": {"from": {"2026-02-30"}}, "ends before": {"from": {"2026-05-16"}, "to": {"2026-05-15"}}, "calendar file": {"do": {"read"}}} {
		code, body, _ := v.Do("POST", "/house/holidays", f, "HX-Request", "true")
		assert.Equal(t, 422, code)
		assert.Contains(t, body, says)
	}
	body = give("After", "on")
	assert.Contains(t, body, "On a holiday: day 2 on 15 May, Kiln holidays")
	assert.Contains(t, body, "Thu 14 May to Thu 21 May 2026", "the later one goes around three days")
	_, body, _ = v.Do("POST", "/groups/"+id+"/edit", url.Values{"op": {"holidays"}, "rev": {"1"}}, "HX-Request", "true")
	assert.NotContains(t, body, "On a holiday")

	rev := regexp.MustCompile(`name="rev" value="(\d+)"`).FindStringSubmatch(page)[1]
	code, body, _ = v.Do("POST", "/house", url.Values{"rev": {rev}, "wording-day": {"Tag {tag}"}}, "HX-Request", "true")
	assert.Equal(t, 422, code)
	assert.Contains(t, body, "{tag} is not known: expected {day}")
	code, _, _ = v.Do("POST", "/house", url.Values{"rev": {rev}, "wording-day": {"Good morning, number {day} is {title}\r\nFetch {kit}\r\n"}})
	require.Equal(t, 303, code)
	_, text, _ := v.Do("GET", at+"/out?as=text", nil)
	assert.Contains(t, text, "Good morning, number 2 is hips\n\nGood morning, number 3", "a line with nothing in its places is left out")
	_, page, _ = v.Do("GET", "/house", nil)
	assert.Contains(t, page, "Changed: Announcement of a day")
	rev = regexp.MustCompile(`name="rev" value="(\d+)"`).FindStringSubmatch(page)[1]
	code, _, _ = v.Do("POST", "/house", url.Values{"rev": {rev}, "wording-day": {""}})
	require.Equal(t, 303, code)
	_, text, _ = v.Do("GET", at+"/out?as=text", nil)
	assert.Contains(t, text, "Day 1 of 5")
}

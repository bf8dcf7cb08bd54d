package series_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

func dayTitles(p *browsertest.Page) []string {
	return browsertest.JS[[]string](p, `Array.from(document.querySelectorAll('.day-title')).map(d => d.textContent.trim())`)
}

func TestDaysOfASeries(t *testing.T) {
	url, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/series/off-the-wheel")
	p.Until(`document.querySelectorAll('.day').length === 12 && window.Sortable`)
	was := dayTitles(p)
	assert.Equal(t, "Hips and back", was[4])
	did := func(day int, do func()) { // the day's panel is opened, and something done in it
		n := browsertest.JS[string](p, `document.querySelector('#days').dataset.rev`)
		webtest.Run1(p, fmt.Sprintf(`document.querySelector('[data-open="%d"]').click()`, day))
		p.Until(fmt.Sprintf(`document.querySelector('#panel form')?.getAttribute('aria-label') === 'Day %d'`, day))
		do()
		p.Until(`document.querySelector('#days').dataset.rev !== '` + n + `'`)
		p.Settled()
	}
	press := func(field, value, button string) func() {
		return func() {
			if field != "" {
				webtest.Run1(p, `document.querySelector('#panel [name=`+field+`]').value = '`+value+`'`)
			}
			webtest.Run1(p, `Array.from(document.querySelectorAll('#panel button')).find(b => b.textContent === '`+button+`').click()`)
		}
	}
	did(5, press("to", "4", "Swap with it"))
	now := dayTitles(p)
	assert.Equal(t, "Hips and back", now[3])
	assert.Equal(t, "Rest", now[4])
	did(7, press("to", "10", "Copy there"))
	assert.Equal(t, "Circuit", dayTitles(p)[9])
	did(5, press("plan", "thursday-mat", "Put it here"))
	assert.Equal(t, "Thursday mat, classical order", dayTitles(p)[4])
	did(5, press("", "", "Clear"))
	p.Until(`document.querySelectorAll('.day-title')[4].textContent.trim() === 'empty'`)
	p.Settled()
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[data-sop=undo]').click(); void 0`))
	p.Until(`document.querySelectorAll('.day-title')[4].textContent.trim().startsWith('Thursday mat')`)
	p.Settled()
	// Dragging a day changes places too, and it is kept.
	p.Do(cdp.DragAndDrop(cdp.CSS(`[data-day="1"] .handle`), cdp.CSS(`[data-day="2"] .handle`)))
	p.Until(`document.querySelectorAll('.day-title')[0].textContent.trim() !== 'Find the ribs'`)
	p.Settled()
	kept := dayTitles(p)
	p.Do(cdp.Reload())
	p.Until(`document.querySelectorAll('.day').length === 12`)
	assert.Equal(t, kept, dayTitles(p))
}

// outside runs a program that is not ours over a text.
func outside(t *testing.T, stdin []byte, name string, args ...string) string {
	t.Helper()
	cmd := exec.Command(name, args...)
	cmd.Stdin = bytes.NewReader(stdin)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s: %s", name, out)
	return string(out)
}

// The calendar is read by python3-icalendar (RFC 5545), not by us.
func TestCalendarIsReadByAnotherProgram(t *testing.T) {
	url, _ := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	code, ics, h := v.Do("GET", "/series/off-the-wheel/calendar", nil)
	require.Equal(t, 200, code)
	assert.Contains(t, h.Get("Content-Type"), "text/calendar")
	out := outside(t, []byte(ics), "/usr/bin/python3", "-c", `
import sys, icalendar
c = icalendar.Calendar.from_ical(sys.stdin.buffer.read())
for e in c.walk('VEVENT'):
    print(e['UID'], e['SEQUENCE'], e.decoded('DTSTART').isoformat(), int((e.decoded('DTEND') - e.decoded('DTSTART')).total_seconds()), e['SUMMARY'], len(e.walk('VALARM')), sep='|')
`)
	lines := strings.Split(strings.TrimSpace(out), "\n")
	require.Len(t, lines, 10, "ten days with a session")
	// 09:30 in Lisbon in May is 08:30 UTC; the promised length is the event's.
	assert.Equal(t, "off-the-wheel-day-5@wavekine.invalid|1|2026-05-14T08:30:00+00:00|1200|Off the wheel, day 5: Hips and back|1", lines[3])
	again, second, _ := v.Do("GET", "/series/off-the-wheel/calendar", nil)
	assert.Equal(t, 200, again)
	assert.Equal(t, ics, second, "the same series is the same file")
}

// CSV by Python's csv module, JSON by Python's jsonschema, the printed sheet by pdftotext.
func TestExportsAreReadByOtherPrograms(t *testing.T) {
	url, _ := webtest.Site(t)
	v := webtest.Visit(t, url).SignIn(demo.Email)
	_, csv, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=csv", nil)
	out := outside(t, []byte(csv), "/usr/bin/python3", "-c", `
import csv, io, sys
rows = list(csv.DictReader(io.StringIO(sys.stdin.buffer.read().decode('utf-8'), newline=''), strict=True))
print(len(rows), round(sum(float(r['seconds']) for r in rows), 3), rows[4]['name'], rows[4]['left'], rows[4]['rule'], sep='|')
`)
	assert.Equal(t, "15|1174.0|Rainbow leg|6 reps|chain", strings.TrimSpace(out))

	_, doc, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=json", nil)
	schema, err := filepath.Abs("../../schema/session.json")
	require.NoError(t, err)
	outside(t, []byte(doc), "/usr/bin/python3", "-c", `
import json, jsonschema, sys
schema = json.load(open(sys.argv[1]))
jsonschema.Draft202012Validator.check_schema(schema)
jsonschema.Draft202012Validator(schema).validate(json.load(sys.stdin))
`, schema)
	_, md, _ := v.Do("GET", "/sessions/wheel-side-hips/export?as=markdown", nil)
	assert.Contains(t, md, "# Wheel-side hips and upper back")

	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	p.Go(url + "/sessions/wheel-side-hips/print")
	p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
	pdf := browsertest.Get(p, cdp.PrintToPDF(cdp.PDFPaper(cdp.PaperA4), cdp.PDFPrintBackground()))
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o644))
	text := outside(t, nil, "pdftotext", "-layout", file, "-")
	for _, w := range []string{"Rib breathing", "but 6 reps on the left", "Take care", "Stop if it hurts"} {
		assert.Contains(t, text, w)
	}
	pages := outside(t, nil, "pdfinfo", file)
	assert.Regexp(t, `Pages:\s+1\n`, pages, "a 20-minute class is one page of A4")
	assert.Contains(t, pages, "A4")
	p.Go(url + "/series/off-the-wheel/print")
	p.Until(`document.readyState === 'complete' && document.fonts.status === 'loaded'`)
	require.NoError(t, os.WriteFile(file, browsertest.Get(p, cdp.PrintToPDF(cdp.PDFPaper(cdp.PaperA4), cdp.PDFPrintBackground())), 0o644))
	assert.Regexp(t, `Pages:\s+1\n`, outside(t, nil, "pdfinfo", file), "the series is one page")
	sheet := outside(t, nil, "pdftotext", "-layout", file, "-")
	assert.Contains(t, sheet, "19:34", "lengths stand on paper too, which is narrower than a screen")
}

func TestTodaySaysWhatIsOn(t *testing.T) {
	url, _ := webtest.Site(t)
	p := webtest.SignedInPage(t, url, demo.Email, 1280, 800)
	body := p.Text("main")
	for _, w := range []string{"Thursday 14 May", "3 to lead today", "for Morning wheel, day 8 of 12", "for Throwers", "Off the wheel, day 5 of 12", "Left does less", "over", "Ines Caldecott"} {
		assert.Contains(t, body, w)
	}
	p.Keys("\r")
	p.Until(`location.pathname.endsWith('/lead')`)
}

// A day's own class is led from Today like any other, and stands in the log.
func TestADaysOwnClassIsLed(t *testing.T) {
	base, st := webtest.Site(t)
	at := layBoard(t, base, "3 days from 13 may 2026, 8 min, hips")
	p := webtest.SignedInPage(t, base, demo.Email, 1280, 800)
	p.Keys("\r")
	p.Until(`location.pathname === '` + strings.Replace(at, "/series/", "/sessions/", 1) + `.2/lead'`)
	p.Until(`document.querySelectorAll('#l-fig path').length > 3`)
	p.Keys(" ")
	p.Until(`/0:0[1-9] gone/.test(document.querySelector('#l-clock').textContent)`)
	p.Keys("q")
	p.Until(`document.querySelector('#l-done-where').textContent.includes('The server has it')`)
	runs, err := st.Runs(context.Background(), "claybank", 1)
	require.NoError(t, err)
	assert.Equal(t, strings.TrimPrefix(at, "/series/")+".2", runs[0].PlanID)
	p.Click("#l-done-log")
	p.Until(`document.body.textContent.includes('Where the time went')`)
}

package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// A series is laid on the command line, read back, laid again from its own words, looked at and stepped through.
func TestSeriesOnTheCommandLine(t *testing.T) {
	ask := func(args ...string) (string, error) {
		var out bytes.Buffer
		err := run(append([]string{"series"}, args...), strings.NewReader(""), &out)
		return out.String(), err
	}
	const words = "9 days from 4 january 2027, 12 to 15 min, hips and core, no kit, mixed, rest sundays, ramp, soft last day, learn bird dog"
	doc, err := ask("lay", "--seed", "4", words)
	require.NoError(t, err)
	s, err := plan.ReadSeries([]byte(doc), movement.Shipped())
	require.NoError(t, err)
	assert.Len(t, s.Days, 9)
	assert.True(t, s.Days[6].Rest)
	assert.Equal(t, 4, s.Seed)
	assert.Equal(t, "bird-dog", s.Ladders[0].Movement)
	for i, d := range s.Days {
		assert.NotEmpty(t, d.Because, i)
		if !d.Rest {
			assert.NotEmpty(t, d.Rows, i)
		}
	}
	file := filepath.Join(t.TempDir(), "s.json")
	require.NoError(t, os.WriteFile(file, []byte(doc), 0o600))
	again, err := ask("lay", file)
	require.NoError(t, err)
	assert.Equal(t, doc, again, "its own words and seed give the same bytes")
	other, err := ask("lay", "--seed", "5", file)
	require.NoError(t, err)
	assert.NotEqual(t, doc, other)

	text, err := ask("lay", "--report", words)
	require.NoError(t, err)
	var report lay.Report
	require.NoError(t, json.Unmarshal([]byte(text), &report))
	assert.Len(t, report.Days, 9)
	assert.Equal(t, "2027-01-04", report.Days[0].Date)
	assert.NotEmpty(t, report.Threads[0].Rungs)
	assert.Contains(t, report.Threads[0].Ladder, "5 each side; next 6")
	for _, key := range []string{`"findings": []`, `"could_not": `, `"load": `, `"target": `, `"because": `, `"work": `} {
		assert.Contains(t, text, key)
	}

	s.Shape = "ramp"
	for i := range s.Days {
		s.Days[i] = s.Days[0]
	}
	same, err := json.Marshal(s)
	require.NoError(t, err)
	flat := filepath.Join(t.TempDir(), "flat.json")
	require.NoError(t, os.WriteFile(flat, same, 0o600))
	text, err = ask("check", file)
	require.NoError(t, err)
	var found struct {
		Findings []struct {
			Day      int
			Severity string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(text), &found))
	require.NotEmpty(t, found.Findings)
	for _, f := range found.Findings {
		assert.GreaterOrEqual(t, f.Day, 0)
		assert.NotEqual(t, "stop", f.Severity)
	}
	equal, err := ask("check", flat)
	require.NoError(t, err)
	assert.Contains(t, equal, `"rule": "no-climb"`, "what no single class shows stands in the same list")
	text, err = ask("step", "--day", "6", file)
	require.NoError(t, err)
	assert.Contains(t, text, `"day": 7`)
	assert.Contains(t, text, `"rest": true`)

	term, err := ask("lay", "4 tuesdays from 5 january 2027, 15 min, core")
	require.NoError(t, err)
	s, err = plan.ReadSeries([]byte(term), movement.Shipped())
	require.NoError(t, err)
	assert.Len(t, s.Days, 22, "the days between are rest days")
	assert.NotNil(t, s.Days[21].Session)
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"lay", "9 days, flying"}, `column 9: "flying"`},
		{[]string{"lay", "12 tuesdays, core, 15 min"}, "reaches over 78 days"},
		{[]string{"lay", "--seed", "-1", "9 days"}, "--seed: expected a number from 0"},
		{[]string{"lay", filepath.Join(t.TempDir(), "none.json")}, "none.json"},
		{[]string{"step", "--day", "9", file}, "no day comes after day 9"},
		{[]string{"fly"}, `"fly": expected lay, check, step or export`},
		{nil, "expected lay, check, step or export"},
		{[]string{"lay", ""}, "expected how many days"},
	} {
		_, err := ask(c.args...)
		require.Error(t, err, c.args)
		assert.Contains(t, err.Error(), c.want)
	}
}

// A series is written for other programs on its own dates and on those of a group, around what is busy, and laid again around its pins; what is wrong is said.
func TestSeriesExports(t *testing.T) {
	dir := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	ask := func(args ...string) (string, error) {
		var out bytes.Buffer
		err := run(append([]string{"series"}, args...), strings.NewReader(""), &out)
		return out.String(), err
	}
	doc, err := ask("lay", "8 days from 1 march 2027, 12 min, hips, no kit, mixed, ramp, rest sundays, learn bird dog")
	require.NoError(t, err)
	s := file("s.json", doc)
	group := file("g.json", `{"format":"wavekine.group/1","name":"Evening","start":"2027-03-02","weekdays":["tuesday","thursday"],"time":"18:30","zone":"Europe/Berlin","off":[2]}`)
	busy := file("b.ics", "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nUID:x\r\nDTSTART;VALUE=DATE:20270302\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n")
	for _, c := range []struct {
		args []string
		has  string
	}{
		{[]string{"--as", "ics", s}, "DTSTART;VALUE=DATE:20270301"},
		{[]string{"--as", "ics", "--group", group, s}, "DTSTART:20270302T173000Z"},
		{[]string{"--as", "ics", "--group", group, s}, "STATUS:CANCELLED"},
		{[]string{"--as", "ics", "--group", group, "--busy", busy, s}, "DTSTART:20270304T173000Z"},
		{[]string{"--as", "csv", s}, "bird-dog,Bird dog,level 1: 8 each side"},
		{[]string{"--as", "markdown", s}, "### Day 1 of 8: hips"},
		{[]string{"--as", "text", "--group", group, s}, "Tuesday 2 March"},
		{[]string{"--as", "pdf", s}, "%PDF-"},
		{[]string{"--as", "pdf", "--what", "handouts", s}, "%PDF-"},
		{[]string{"--as", "pdf", "--what", "poster", "--group", group, s}, "%PDF-"},
		{[]string{"--as", "pdf", "--what", "takehome", "--rows", "bird-dog", s}, "%PDF-"},
	} {
		out, err := ask(append([]string{"export"}, c.args...)...)
		require.NoError(t, err, c.args)
		assert.Contains(t, out, c.has, c.args)
	}
	for says, args := range map[string][]string{
		"expected ics, csv, markdown, text or pdf": {"--as", "docx", s},
		"expected booklet, handouts":               {"--as", "pdf", "--what", "mug", s},
		"which movements?":                         {"--as", "pdf", "--what", "takehome", s},
		"\"teaser\" is not in the series":          {"--as", "pdf", "--what", "takehome", "--rows", "teaser", s},
		"no calendar file":                         {"--as", "ics", "--busy", s, s},
		"$.format":                                 {"--as", "ics", "--group", s, s},
		"no such file":                             {"--as", "ics", "--group", filepath.Join(dir, "none"), s},
	} {
		_, err := ask(append([]string{"export"}, args...)...)
		assert.ErrorContains(t, err, says)
	}

	pinned := file("p.json", strings.Replace(doc, `"kind": "work"`, `"kind": "work",
      "pin": ["day"]`, 1))
	again, err := ask("lay", "--seed", "9", pinned)
	require.NoError(t, err)
	was, err := plan.ReadSeries([]byte(doc), movement.Shipped())
	require.NoError(t, err)
	now, err := plan.ReadSeries([]byte(again), movement.Shipped())
	require.NoError(t, err)
	at := slices.IndexFunc(now.Days, func(d plan.Day) bool { return d.Pin.Day })
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, was.Days[at].Session, now.Days[at].Session)
	assert.NotEqual(t, was.Days[at+1].Session, now.Days[at+1].Session)

	own, err := json.Marshal(was.Days[0].Session)
	require.NoError(t, err)
	mine := file("mine.json", string(own))
	out, err := ask("lay", "--from", mine, "6 days from 1 march 2027, 12 min, hips, from my sessions")
	require.NoError(t, err)
	assert.Contains(t, out, `"session": "mine.json"`)
	_, err = ask("lay", "6 days, from my sessions")
	assert.ErrorContains(t, err, "none is kept")

	flat := *was
	flat.Days = slices.Clone(was.Days)
	for _, i := range []int{1, 2, 3, 4} {
		flat.Days[i] = flat.Days[0]
	}
	flat.Days[5] = plan.Day{Ref: "elsewhere"}
	text, err := json.Marshal(&flat)
	require.NoError(t, err)
	out, err = ask("check", file("flat.json", string(text)))
	require.NoError(t, err)
	assert.Contains(t, out, `"says": "Lay days 4 and 5 again"`)
	assert.Contains(t, out, `"session": "elsewhere"`)
	var whole bytes.Buffer
	require.NoError(t, run([]string{"timeline", filepath.Join(dir, "flat.json")}, strings.NewReader(""), &whole))
	assert.Contains(t, whole.String(), elsewhere, "a day that names a session is not passed over in silence")
}

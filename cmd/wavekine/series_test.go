package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
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
		{[]string{"fly"}, `"fly": expected lay, check or step`},
		{nil, "expected lay, check or step"},
		{[]string{"lay", ""}, "expected how many days"},
	} {
		_, err := ask(c.args...)
		require.Error(t, err, c.args)
		assert.Contains(t, err.Error(), c.want)
	}
}

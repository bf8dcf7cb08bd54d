package main

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
)

const demoFile = "../../demo/sessions/wheel-side-hips.json"

func call(t *testing.T, stdin string, args ...string) (string, error) {
	t.Helper()
	var out bytes.Buffer
	err := run(args, strings.NewReader(stdin), &out)
	return out.String(), err
}

func TestVerbsOnFiles(t *testing.T) {
	text, err := os.ReadFile(demoFile)
	require.NoError(t, err)

	out, err := call(t, "", "timeline", demoFile)
	require.NoError(t, err)
	var tl struct {
		Format string
		Total  float64
		Range  [2]float64
		Steps  []struct{ At, S float64 }
		Sums   map[string]float64
	}
	require.NoError(t, json.Unmarshal([]byte(out), &tl))
	assert.Equal(t, "wavekine.timeline/1", tl.Format)
	last := tl.Steps[len(tl.Steps)-1]
	assert.InDelta(t, tl.Total, last.At+last.S, 1e-9)
	s := tl.Sums
	assert.InDelta(t, tl.Total, s["work"]+s["hold"]+s["setup"]+s["position"]+s["rest"]+s["switch"], 1e-9)

	piped, err := call(t, string(text), "timeline", "-")
	require.NoError(t, err)
	assert.Equal(t, out, piped, "- is standard input")

	out, err = call(t, "", "check", demoFile)
	require.NoError(t, err)
	assert.Contains(t, out, `"rule": "sides"`)
	assert.Contains(t, out, `"Make left 8 reps"`)

	out, err = call(t, "", "fit", "--to", "19:00", demoFile)
	require.NoError(t, err)
	fitted, err := call(t, out, "timeline", "-")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal([]byte(fitted), &tl))
	assert.InDelta(t, 19*60, tl.Total, 5)
	_, err = call(t, "", "fit", "--to", "90:00", demoFile)
	require.Error(t, err)
	assert.Contains(t, err.Error(), "Cannot: the nearest to 1:30:00 is")
	out, err = call(t, "", "order", demoFile)
	require.NoError(t, err)
	assert.Contains(t, out, `"wavekine.session/1"`)

	out, err = call(t, "", "movements")
	require.NoError(t, err)
	var lib struct {
		Movements []struct {
			Slug   string
			Levels []struct {
				DemandFrom string `json:"demand_from"`
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &lib))
	assert.Greater(t, len(lib.Movements), 35)
	assert.Equal(t, "judged", lib.Movements[0].Levels[0].DemandFrom)
	out, err = call(t, "", "movements", "bird-dog")
	require.NoError(t, err)
	assert.Contains(t, out, "cup of tea")
	var whole struct {
		Levels []struct {
			OnHands float64 `json:"on_hands"`
			Topics  map[string]struct{ Does, Says, Why string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &whole))
	for _, l := range whole.Levels {
		assert.Len(t, l.Topics, len(movement.Topics()))
		assert.InDelta(t, 38, l.OnHands, 1)
		for topic, c := range l.Topics {
			assert.NotEmpty(t, c.Why, topic)
			assert.Equal(t, c.Does == "keep" || c.Does == "leave out" && c.Says == "", c.Says == "", topic)
		}
	}
	assert.Equal(t, "lighter", whole.Levels[0].Topics["wrists"].Does)
	assert.Equal(t, "instead", whole.Levels[0].Topics["not down to the floor"].Does)

	for as, want := range map[string]string{"csv": "row,section,rule", "markdown": "# Wheel-side hips"} {
		out, err = call(t, "", "export", "--as", as, demoFile)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(out, want), as)
	}
	series := `{"format":"wavekine.series/1","title":"Two","start":"2026-05-01","time":"18:30","zone":"Europe/Lisbon","days":[{"session":` + string(text) + `},{"rest":true}]}`
	out, err = call(t, series, "export", "--as", "ics", "-")
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(out, "BEGIN:VEVENT"))
	assert.Contains(t, out, "\r\nDTSTART:20260501T173000Z\r\n")
	out, err = call(t, series, "check", "-")
	require.NoError(t, err)
	assert.Contains(t, out, `"date": "2026-05-01"`)
	assert.Contains(t, out, `"Make left 8 reps"`)
	out, err = call(t, series, "timeline", "-")
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(out, "wavekine.timeline/1"))
	out, err = call(t, "", "figures")
	require.NoError(t, err)
	assert.Greater(t, strings.Count(out, "<figure>"), 100)
	assert.NotContains(t, out, "outside")
}

func TestVerbsSayWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		stdin, want string
		args        []string
	}{
		{"", "expected a verb:", nil},
		{"", `"dance" is not a command`, []string{"dance"}},
		{"", "expected one file", []string{"timeline"}},
		{"", "no such file", []string{"check", "/nowhere.json"}},
		{`{"format":"wavekine.session/1","title":"x","sections":[{"title":"a","blocks":[{"rule":"straight","rows":[{"movement":"bird-dog","dose":"8 each bananas"}]}]}]}`, `$.sections[0].blocks[0].rows[0].dose: dose: column 3`, []string{"timeline", "-"}},
		{strings.Repeat(" ", 5<<20), "at most 2 MB are read", []string{"check", "-"}},
		{`{"format":"wavekine.session/1","title":"x","sections":[]}`, "a session has no date", []string{"export", "--as", "ics", "-"}},
		{`{"format":"wavekine.session/1","title":"x","sections":[]}`, `expected ics, csv, markdown, text, pdf, vtt`, []string{"export", "--as", "exe", "-"}},
		{`{"format":"wavekine.series/1","title":"x","start":"2026-02-31","days":[]}`, "a date that exists", []string{"export", "--as", "ics", "-"}},
		{"", `no movement "x"`, []string{"movements", "x"}},
	} {
		_, err := call(t, c.stdin, c.args...)
		require.Error(t, err, c.args)
		assert.Contains(t, err.Error(), c.want)
	}
}

// Interval arithmetic of the trade from the command line (common practice, no source).
func TestTenMovesMakeTenMinutes(t *testing.T) {
	rows := strings.TrimSuffix(strings.Repeat(`{"movement":"squat"},`, 10), ",")
	out, err := call(t, `{"format":"wavekine.session/1","title":"x","sections":[{"title":"a","blocks":[{"rule":"rounds","on":"35 s","off":"25 s","rows":[`+rows+`]}]}]}`, "timeline", "-")
	require.NoError(t, err)
	var tl struct {
		Total float64
		Steps []struct {
			Kind string
			S    float64
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &tl))
	require.Equal(t, "setup", tl.Steps[0].Kind)
	assert.InDelta(t, 600, tl.Total-tl.Steps[0].S, 1e-9)
}

// The scripts: a private cluster beside any other, made once, started again, kept apart. In a folder
// of its own, as whoever runs the tests.
func TestPrivateCluster(t *testing.T) {
	if os.Getenv("TEST_DATABASE_URL") == "" {
		t.Skip("run by make test")
	}
	dir, err := os.MkdirTemp("/tmp", "wk")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	sh := func(env []string, args ...string) (string, error) {
		cmd := exec.Command("../../scripts/pg.sh", args...)
		cmd.Env = append(os.Environ(), append([]string{"WAVEKINE_DATA=" + dir + "/data", "PG_FAST=1", "WAVEKINE_PG_PORT="}, env...)...)
		out, err := cmd.CombinedOutput()
		return string(out), err
	}
	must := func(args ...string) string {
		out, err := sh(nil, args...)
		require.NoError(t, err, "%v: %s", args, out)
		return out
	}
	t.Cleanup(func() { _, _ = sh(nil, "destroy") })
	must("up")
	first := must("url")
	must("up")
	assert.Equal(t, first, must("url"), "made once")
	pid, err := exec.Command("sh", "-c", "head -1 "+dir+"/data/data/postmaster.pid").Output()
	require.NoError(t, err)
	require.NoError(t, exec.Command("kill", "-9", strings.TrimSpace(string(pid))).Run())
	must("up") // a stale pid file is no obstacle
	must("stop")
	_, err = sh(nil, "status")
	assert.Error(t, err)
	out, err := sh([]string{"WAVEKINE_DATA=relative"}, "up")
	assert.Error(t, err)
	assert.Contains(t, out, "absolute path")
	require.NoError(t, os.Mkdir(dir+"/foreign", 0o755))
	require.NoError(t, os.WriteFile(dir+"/foreign/x", nil, 0o600))
	out, err = sh([]string{"WAVEKINE_DATA=" + dir + "/foreign"}, "up")
	assert.Error(t, err)
	assert.Contains(t, out, "was not made by wavekine")
	must("destroy")
}

// A class goes out as a table and comes in again with the same clock times; a line not understood
// writes nothing and is named.
func TestClassesComeIn(t *testing.T) {
	table, err := call(t, "", "export", "--as", "csv", demoFile)
	require.NoError(t, err)
	session, err := call(t, table, "import", "--from", "csv", "-")
	require.NoError(t, err)
	total := func(stdin, file string) (tl struct{ Total float64 }) {
		out, err := call(t, stdin, "timeline", file)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal([]byte(out), &tl))
		return tl
	}
	assert.InDelta(t, total("", demoFile).Total, total(session, "-").Total, 1e-9)

	session, err = call(t, "# Build\nbird dog 8 each side\nsquat 10\n", "import", "--from", "text", "-")
	require.NoError(t, err)
	assert.Contains(t, session, `"movement": "bird-dog"`)
	again, err := call(t, session, "import", "--from", "json", "-")
	require.NoError(t, err)
	assert.Equal(t, session, again)

	read, err := call(t, "", "movements", "--read", "kneeling side bend with a block")
	require.NoError(t, err)
	for _, w := range []string{`"posture": "kneeling"`, `"side"`, `"block"`, `"like": "gate"`, `"asks": false`} {
		assert.Contains(t, read, w)
	}
	read, err = call(t, "", "movements", "--read", "flying trapeze")
	require.NoError(t, err)
	assert.Contains(t, read, `"asks": true`)
	session, err = call(t, "# Build\nbird dog 8\nlevitate 8\n", "import", "--from", "text", "-")
	require.NoError(t, err, "a text is never refused")
	assert.Contains(t, session, `"kept": "levitate 8"`)
	report, err := call(t, "Build:\nbrid dog 8\nlevitate 8\n", "import", "--from", "text", "--report", "-")
	require.NoError(t, err)
	for _, l := range []string{`{"n":1,"text":"Build:","as":"heading","says":"Build"}`, `{"n":2,"text":"brid dog 8","as":"row","row":"1.1.1","says":"Bird dog 8 reps"}`, `{"n":3,"text":"levitate 8","as":"kept",`} {
		assert.Contains(t, report, l)
	}

	for _, c := range []struct{ from, text, want string }{
		{"csv", "movement,dose\nlevitation,8\n", "line 2: no movement"},
		{"json", "{", "$"},
		{"scroll", "x", "expected csv, text or json"},
	} {
		out, err := call(t, c.text, "import", "--from", c.from, "-")
		assert.ErrorContains(t, err, c.want)
		assert.Empty(t, out)
	}
}

func TestLedgerAndSheets(t *testing.T) {
	out, err := call(t, "", "ledger", demoFile)
	require.NoError(t, err)
	var l struct {
		Regions, Spine, Sides []struct {
			Name     string
			S, Share float64
		}
		Load float64
	}
	require.NoError(t, json.Unmarshal([]byte(out), &l))
	require.NotEmpty(t, l.Regions)
	var share float64
	for _, r := range l.Regions {
		share += r.Share
	}
	assert.InDelta(t, 1, share, .02)
	for _, who := range []string{"teacher", "mover"} {
		out, err = call(t, "", "export", "--as", "pdf", "--for", who, demoFile)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(out, "%PDF-1."))
		assert.True(t, strings.HasSuffix(strings.TrimSpace(out), "%%EOF"))
	}
	_, err = call(t, "", "export", "--as", "pdf", "--for", "cat", demoFile)
	assert.ErrorContains(t, err, "expected teacher or mover")
}

// A file of a studio's own movement is one more movement for that call.
func TestOwnMovementFromAFile(t *testing.T) {
	bird, ok := movement.Shipped().Get("bird-dog")
	require.True(t, ok)
	own := *bird
	own.Slug, own.Name = "own-kiln-dog", "Kiln dog"
	text, err := json.Marshal(&own)
	require.NoError(t, err)
	file := t.TempDir() + "/kiln-dog.json"
	require.NoError(t, os.WriteFile(file, text, 0o600))
	class := `{"format":"wavekine.session/1","title":"x","sections":[{"title":"a","blocks":[{"rule":"straight","rows":[{"movement":"own-kiln-dog","dose":"8 each side"}]}]}]}`
	_, err = call(t, class, "timeline", "-")
	require.ErrorContains(t, err, "own-kiln-dog")
	out, err := call(t, class, "timeline", "--with", file, "-")
	require.NoError(t, err)
	plain, err := call(t, strings.ReplaceAll(class, "own-kiln-dog", "bird-dog"), "timeline", "-")
	require.NoError(t, err)
	var a, b struct{ Total float64 }
	require.NoError(t, json.Unmarshal([]byte(out), &a))
	require.NoError(t, json.Unmarshal([]byte(plain), &b))
	assert.InDelta(t, b.Total, a.Total, 1e-9)
	require.NoError(t, os.WriteFile(file, []byte(`{"format":"wavekine.movement/1"}`), 0o600))
	_, err = call(t, class, "timeline", "--with", file, "-")
	assert.ErrorContains(t, err, "kiln-dog.json: $")
}

// The rules print as the page of the docs and as JSON.
func TestRulesPrinted(t *testing.T) {
	out, err := call(t, "", "rules", "--as", "markdown")
	require.NoError(t, err)
	assert.Equal(t, review.Markdown(), out)
	out, err = call(t, "", "rules")
	require.NoError(t, err)
	var list struct {
		Rules []struct{ Name, Looks string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	assert.Len(t, list.Rules, len(review.Rules()))
}

// What a session has set aside itself stands apart in the answer.
func TestCheckKnowsWhatIsSetAside(t *testing.T) {
	text, err := os.ReadFile(demoFile)
	require.NoError(t, err)
	aside := strings.Replace(string(text), `"sections"`, `"aside":[{"rule":"sides","amount":1,"reason":"her left hip"}],"sections"`, 1)
	out, err := call(t, aside, "check", "-")
	require.NoError(t, err)
	var got struct {
		Findings, Aside []struct{ Rule, Severity string }
	}
	require.NoError(t, json.Unmarshal([]byte(out), &got))
	for _, f := range got.Findings {
		assert.False(t, f.Rule == "sides" && f.Severity != "good")
	}
	require.Len(t, got.Aside, 1)
	assert.Equal(t, "sides", got.Aside[0].Rule)
}

// What somebody watches makes their version on the command line, in the published form; what is no topic is refused with those there are.
func TestAdaptVerb(t *testing.T) {
	var out bytes.Buffer
	require.NoError(t, run([]string{"adapt", "--watch", "neck,wrists", "--level", "2", "../../demo/sessions/thursday-mat.json"}, nil, &out))
	var v struct {
		Session  json.RawMessage
		Seconds  float64
		Findings []any
		Changes  []struct {
			Row, Movement, Topic, Does, Why string
			Level                           int
			Now                             *struct {
				Movement string
				Level    int
			}
		}
	}
	require.NoError(t, json.Unmarshal(out.Bytes(), &v))
	assert.Greater(t, v.Seconds, 1000.0)
	assert.NotNil(t, v.Findings)
	kinds := map[string]bool{}
	for _, c := range v.Changes {
		kinds[c.Does] = true
		assert.NotEmpty(t, c.Why, c.Row)
		assert.Equal(t, c.Does == "leave", c.Now == nil, c.Row)
	}
	assert.True(t, kinds["level"] && kinds["words"] && kinds["instead"], kinds)
	_, err := plan.ReadSession(v.Session, movement.Shipped())
	require.NoError(t, err)
	for args, says := range map[string]string{"left-handed": "is not known as something to watch", "neck": "adapt --level"} {
		level := map[bool]string{true: "1", false: "99"}[args == "left-handed"]
		assert.ErrorContains(t, run([]string{"adapt", "--watch", args, "--level", level, "../../demo/sessions/thursday-mat.json"}, nil, &out), says)
	}
}

// A film of a class, from the plan and from a run, moved by an offset; what is wrong is said.
func TestExportOfAFilm(t *testing.T) {
	for as, want := range map[string]string{"vtt": "WEBVTT\n", "srt": "1\r\n00:00:", "chapters": "WEBVTT\n", "chapter-list": "00:00 ", "ffmetadata": ";FFMETADATA1", "description": "minutes"} {
		out, err := call(t, "", "export", "--as", as, demoFile)
		require.NoError(t, err, as)
		assert.Contains(t, out, want, as)
	}
	moved, err := call(t, "", "export", "--as", "chapters", "--offset", "12.5", demoFile)
	require.NoError(t, err)
	assert.Contains(t, moved, "Opening")
	led := `{"format":"wavekine.run/1","id":"0123456789","session":"s","rev":1,"title":"Led","teacher":"m","started":"2026-05-14T08:00:00Z","steps":[{"row":"1.1.1","movement":"squat","name":"Squat","side":"both","kind":"work","s":30,"usual":30,"reps":10}],"events":[{"at":0,"does":"began"},{"at":0,"does":"work","step":0},{"at":41,"does":"ended"}]}`
	out, err := call(t, led, "export", "--as", "vtt", "-")
	require.NoError(t, err)
	assert.Contains(t, out, "Squat\n10 times")
	file := filepath.Join(t.TempDir(), "run.json")
	require.NoError(t, os.WriteFile(file, []byte(led), 0o600))
	out, err = call(t, "", "export", "--as", "srt", "--run", file, "--offset", "2", demoFile)
	require.NoError(t, err)
	assert.Contains(t, out, "00:00:02,000 --> ")
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"--as", "vtt", "--offset", "-9000", demoFile}, "before the film begins"},
		{[]string{"--as", "vtt", "--offset", "1e9", demoFile}, "at most a day"},
		{[]string{"--as", "vtt", "--film", "60", demoFile}, "behind the end of the film"},
		{[]string{"--as", "vtt", "--run", "nowhere.json", demoFile}, "nowhere.json"},
		{[]string{"--as", "description", file}, "written from the plan"},
		{[]string{"--as", "pdf", file}, "of a run expected"},
		{[]string{"--as", "chapter-list", file}, "three at least"},
	} {
		_, err := call(t, "", append([]string{"export"}, c.args...)...)
		assert.ErrorContains(t, err, c.says)
	}
}

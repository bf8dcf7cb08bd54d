package film

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

var lib = movement.Shipped()

func class(t testing.TB, head, rows string) (*plan.Session, *timeline.Timeline) {
	t.Helper()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1.3","title":"Hips & <back> = 1; #2","target":"10:00"`+head+`,"sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+rows+`]}]}]}`), lib)
	require.NoError(t, err)
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return s, tl
}

// some is a class of any movements of the library.
func some(t testing.TB, r *rand.Rand, n int) (*plan.Session, *timeline.Timeline) {
	t.Helper()
	var rows []string
	for all := lib.All(); len(rows) < n; {
		m := all[r.IntN(len(all))]
		rows = append(rows, fmt.Sprintf(`{"movement":%q,"level":%d}`, m.Slug, 1+r.IntN(len(m.Levels))))
	}
	return class(t, []string{"", `,"style":{"mirrored":false}`}[r.IntN(2)], strings.Join(rows, ","))
}

// taken is a run of a class, each step as long as a factor of its planned time.
func taken(t testing.TB, s *plan.Session, tl *timeline.Timeline, of func(i int) float64) *run.Run {
	t.Helper()
	r := &run.Run{ID: "a-run-of-it", Session: "s", Rev: 1, Title: s.Title, Teacher: "maren", Started: time.Date(2026, 5, 14, 8, 0, 0, 0, time.UTC), Asked: s.Target, Steps: run.StepsOf(tl, tl)}
	r.Events = []run.Event{{Does: run.Began}}
	at := clock.Span(0)
	for i := range r.Steps {
		does := run.SetUp
		if r.Steps[i].Kind.Working() {
			does = run.Work
		}
		r.Events = append(r.Events, run.Event{At: at, Does: does, Step: i})
		at += r.Steps[i].S.Times(of(i))
		if i < len(r.Steps)-1 {
			r.Events = append(r.Events, run.Event{At: at, Does: run.MovedOn})
		}
	}
	r.Events = append(r.Events, run.Event{At: at, Does: run.Ended})
	doc, err := json.Marshal(r)
	require.NoError(t, err)
	back, err := run.Read(doc)
	require.NoError(t, err)
	return back
}

// Whatever class, planned or taken at whatever pace: labels follow each other, are read in the time they stand, and fit the picture; chapters ascend from 0, ten
// seconds apart (limits: common subtitling practice).
func TestLabelsCanBeRead(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 20))
	labels := 0
	for range 120 {
		s, tl := some(t, r, 1+r.IntN(30))
		offset := clock.Seconds(r.Float64()*300 - 60)
		f, err := OfPlan(s, tl, offset)
		if r.IntN(2) == 0 {
			pace := .2 + 2*r.Float64()
			f, err = OfRun(taken(t, s, tl, func(int) float64 { return pace * (.5 + r.Float64()) }), s, tl, offset)
		}
		if err != nil {
			require.ErrorIs(t, err, ErrBefore)
			continue
		}
		before := clock.Span(0)
		for _, l := range f.Labels() {
			labels++
			require.GreaterOrEqual(t, l.From, before)
			before = l.To
			on := l.To - l.From
			require.GreaterOrEqual(t, on, ShortestOn)
			require.LessOrEqual(t, on, LongestOn)
			require.NotEmpty(t, l.Lines)
			require.LessOrEqual(t, len(l.Lines), 2)
			n := 0
			for _, line := range l.Lines {
				require.LessOrEqual(t, utf8.RuneCountInString(line), 42)
				require.NotEmpty(t, line)
				n += utf8.RuneCountInString(line)
			}
			require.LessOrEqual(t, float64(n), 17*on.Seconds(), "%v", l)
			require.LessOrEqual(t, l.To, f.End)
		}
		cs := f.Chapters()
		require.NotEmpty(t, cs)
		require.Zero(t, cs[0].At)
		for i, c := range cs {
			require.NotEmpty(t, c.Title)
			if i > 0 {
				require.GreaterOrEqual(t, c.At-cs[i-1].At, 10*clock.Second)
			}
		}
	}
	assert.Greater(t, labels, 1000)
}

// The side is that of the mover, said as the viewer sees it.
func TestSidesAsSeen(t *testing.T) {
	s, tl := class(t, `,"style":{"mirrored":false}`, `{"movement":"standing-leg-side","dose":"8 each side"},{"movement":"clam","dose":"6 each side"}`)
	f, err := OfPlan(s, tl, 0)
	require.NoError(t, err)
	sides := map[string]bool{}
	for _, x := range f.Shots {
		if x.Works {
			sides[x.Name+": "+x.Side+", "+x.Dose] = true
		}
	}
	assert.Equal(t, map[string]bool{
		"Standing leg to the side: right leg, on the left of the picture, 8 times": true, "Standing leg to the side: left leg, on the right of the picture, 8 times": true,
		"Clam: right leg, 6 times": true, "Clam: left leg, 6 times": true,
	}, sides)
}

// Each way is said, not added up.
func TestEachWay(t *testing.T) {
	s, tl := class(t, "", `{"movement":"single-leg-circle","dose":"5 each way each side"}`)
	f, err := OfPlan(s, tl, 0)
	require.NoError(t, err)
	assert.Equal(t, "5 each way", f.Shots[len(f.Shots)-1].Dose)
	f, err = OfRun(taken(t, s, tl, func(int) float64 { return 1 }), s, tl, 0)
	require.NoError(t, err)
	assert.Equal(t, "5 each way", f.Shots[len(f.Shots)-1].Dose)
	lines := Script(s, tl, lead.Talk{}, lead.Talk{}, Who{})
	assert.Equal(t, "5 each way", lines[1].Dose)
	assert.Equal(t, "left leg", lines[2].Side)
}

// outside runs a program that is not ours on a file.
func outside(t *testing.T, name string, args ...string) string {
	t.Helper()
	path, err := exec.LookPath(name)
	require.NoError(t, err, "%s is installed by scripts/test.sh", name)
	out, err := exec.Command(path, args...).CombinedOutput()
	require.NoError(t, err, "%s", out)
	return string(out)
}

// python3-webvtt and ffprobe read labels and chapters back; chapters burnt into a short film by ffmpeg are found there, where they were put.
func TestReadBackByOtherPrograms(t *testing.T) {
	s, tl := class(t, "", `{"movement":"standing-leg-side","dose":"8 each side"},{"movement":"bird-dog","level":2,"dose":"8 each side"},{"movement":"side-plank","dose":"hold 20 s each side"},{"movement":"constructive-rest","dose":"60 s"}`)
	s.Title = "Hips & <back> = 1; #2 \\ 3"
	dir := t.TempDir()
	put := func(name string, b []byte) string {
		p := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(p, b, 0o600))
		return p
	}
	f, err := OfRun(taken(t, s, tl, func(i int) float64 { return 1 + float64(i%3)/10 }), s, tl, 12500*clock.Millisecond)
	require.NoError(t, err)
	vtt, srt := put("a.vtt", f.VTT()), put("a.srt", f.SRT())
	lines := strings.Split(strings.TrimSpace(outside(t, "/usr/bin/python3", "-c", `
import sys, webvtt
for c in webvtt.read(sys.argv[1]): print(c.start_in_seconds, c.end_in_seconds, c.text.replace("\n", " / "))`, vtt)), "\n")
	labels := f.Labels()
	require.Len(t, lines, len(labels))
	for i, l := range labels {
		w := strings.SplitN(lines[i], " ", 3)
		from, _ := strconv.ParseFloat(w[0], 64)
		assert.InDelta(t, l.From.Seconds(), from, .002)
		assert.Equal(t, strings.Join(l.Lines, " / "), w[2])
	}
	assert.Contains(t, lines[0], "Standing leg to the side")
	assert.GreaterOrEqual(t, labels[0].From, 12500*clock.Millisecond, "moved by the offset")
	n := strings.Count(outside(t, "/usr/bin/python3", "-c", `
import sys, webvtt
for c in webvtt.from_srt(sys.argv[1]): print(c.start)`, srt), "\n")
	assert.Len(t, labels, n)
	for _, p := range []string{vtt, srt} {
		assert.Equal(t, len(labels), strings.Count(outside(t, "ffprobe", "-v", "error", "-show_entries", "packet=pts_time", "-of", "default=nk=1:nw=1", p), "."), "ffprobe reads as many of %s", p)
	}

	meta, end := put("meta.txt", f.Metadata()), int(f.End.Seconds())+5
	movie := filepath.Join(dir, "film.mkv")
	outside(t, "ffmpeg", "-v", "error", "-f", "lavfi", "-i", fmt.Sprintf("color=c=gray:s=64x36:r=1:d=%d", end), "-i", meta, "-map_metadata", "1", "-map_chapters", "1", "-c:v", "mpeg4", movie)
	var got struct {
		Chapters []struct {
			Start string            `json:"start_time"`
			Tags  map[string]string `json:"tags"`
		} `json:"chapters"`
		Format struct {
			Tags map[string]string `json:"tags"`
		} `json:"format"`
	}
	require.NoError(t, json.Unmarshal([]byte(outside(t, "ffprobe", "-v", "error", "-show_chapters", "-show_format", "-of", "json", movie)), &got))
	cs := f.Chapters()
	require.Len(t, got.Chapters, len(cs))
	for i, c := range cs {
		at, _ := strconv.ParseFloat(got.Chapters[i].Start, 64)
		assert.InDelta(t, c.At.Seconds(), at, .01)
		assert.Equal(t, c.Title, got.Chapters[i].Tags["title"])
	}
	assert.Equal(t, s.Title, got.Format.Tags["title"])
	list, err := f.ChapterList()
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(string(list), "00:00 Opening"), string(list))
	assert.Equal(t, len(cs), strings.Count(outside(t, "/usr/bin/python3", "-c", `
import sys, webvtt
for c in webvtt.read(sys.argv[1]): print(c.start)`, put("c.vtt", f.ChapterVTT())), "\n"))
}

// A run that refers to rows gone since is said from itself alone; what is beyond a film or before it is said.
func TestBadInput(t *testing.T) {
	s, tl := class(t, "", `{"movement":"clam","dose":"8 each side"},{"movement":"squat","dose":"10 reps"},{"movement":"roll-up","dose":"6 reps"}`)
	r := taken(t, s, tl, func(int) float64 { return 1.2 })
	s2, tl2 := class(t, "", `{"movement":"squat","dose":"10 reps"}`)
	f, err := OfRun(r, s2, tl2, 0)
	require.NoError(t, err)
	assert.Equal(t, "Clam", f.Shots[0].Name)
	assert.Contains(t, string(f.VTT()), "Clam, right side")
	_, err = OfRun(r, nil, nil, 0)
	require.NoError(t, err)
	_, err = OfRun(r, s, tl, -2000*clock.Second)
	require.ErrorIs(t, err, ErrBefore)
	_, err = OfPlan(s, tl, 30*60*clock.Minute)
	require.ErrorContains(t, err, "at most a day")
	f, err = OfPlan(s, tl, 20*clock.Second)
	require.NoError(t, err)
	require.NoError(t, f.Within(0))
	require.NoError(t, f.Within(f.End))
	require.ErrorContains(t, f.Within(60*clock.Second), "behind the end of the film")
	_, err = OfRun(r.Remember(600*clock.Second), s, tl, 0)
	require.ErrorContains(t, err, "only the length is known")
	few, tf := class(t, "", `{"movement":"squat","dose":"10 reps"}`)
	one, err := OfPlan(few, tf, 0)
	require.NoError(t, err)
	_, err = one.ChapterList()
	require.ErrorIs(t, err, ErrFew)
}

// Slips are told with their time in the film: a side that got more, a count that was lost, talk that can be cut, a pause, and the length.
func TestSlips(t *testing.T) {
	s, tl := class(t, "", `{"movement":"clam","dose":"8 each side"},{"movement":"squat","dose":"10 reps"}`)
	r := taken(t, s, tl, func(int) float64 { return 1 })
	assert.Empty(t, SlipsOf(r, 0), "what went as planned has none")
	var events []run.Event
	late := clock.Span(0)
	for _, e := range r.Events {
		e.At += late
		events = append(events, e)
		switch {
		case e.Does == run.SetUp && e.Step == 0: // talked 40 s longer
			late += 40 * clock.Second
		case e.Does == run.Work && r.Steps[e.Step].Side == timeline.Left:
			for k := range 6 { // six of eight counted, then on
				events = append(events, run.Event{At: e.At + clock.Span(k+1)*2*clock.Second, Does: run.Rep, Hand: true})
			}
		case e.Does == run.Work && r.Steps[e.Step].Name == "Squat":
			events = append(events, run.Event{At: e.At, Does: run.Paused}, run.Event{At: e.At + 30*clock.Second, Does: run.Resumed})
			late += 30 * clock.Second
		}
	}
	r.Events = events
	doc, err := json.Marshal(r)
	require.NoError(t, err)
	r, err = run.Read(doc)
	require.NoError(t, err)
	var says []string
	for _, x := range SlipsOf(r, 10*clock.Second) {
		says = append(says, x.Says)
		assert.GreaterOrEqual(t, x.At, 10*clock.Second)
	}
	all := strings.Join(says, "\n")
	for _, want := range []string{"Clam: setting up 0:40 longer than planned", "Clam on the left: 6 counted, 8 planned", "Clam: right 8 as planned, left 6 of 8 counted", "Paused for 0:30"} {
		assert.Contains(t, all, want)
	}
}

func TestDescription(t *testing.T) {
	s, tl := class(t, `,"focus":["hips"],"audience":"beginners"`, `{"movement":"bird-dog","level":2,"dose":"8 each side"},{"movement":"roll-up","dose":"6 reps"}`)
	d := Description(s, tl, lib, lead.Frame{Day: 3, Days: 12, Kit: []string{"roller"}, Cautions: []string{"wrists: forearms instead"}, Tomorrow: "Roller and hips"}, 0)
	for _, w := range []string{"Day 3 of 12.", "minutes", "About: hips.", "For: beginners.", "levels 1 to 2", "Bring: roller.", "Take care, wrists: forearms instead.", "ask whoever treats you", "Next: Roller and hips."} {
		assert.Contains(t, d, w)
	}
}

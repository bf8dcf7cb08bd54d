package draw

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/body"
	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

func demoSession(t *testing.T, name string) (*plan.Session, *timeline.Timeline) {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("../demo/sessions", name))
	require.NoError(t, err)
	s, err := plan.ReadSession(text, movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	return s, tl
}

// cueAt is a sheet at a scale, with the number of its pages.
func cueAt(sh export.Sheet, k float64, fine int) ([]byte, int, error) {
	p := newPaper(sh.Title)
	cueOn(p, sh, k, fine)
	var out bytes.Buffer
	err := p.Output(&out)
	return out.Bytes(), p.PageCount(), err
}

// What to take care of is never cut off, of any movement at any level, on the teacher's sheet; nor what is at the
// foot of either sheet.
func TestCareIsWholeOnPaper(t *testing.T) {
	lib := movement.Shipped()
	words := func(s string) string { return strings.Join(strings.Fields(strings.ReplaceAll(s, "\f", " ")), " ") }
	text := func(pdf []byte) string {
		file := filepath.Join(t.TempDir(), "sheet.pdf")
		require.NoError(t, os.WriteFile(file, pdf, 0o600))
		out, err := exec.Command("pdftotext", "-raw", file, "-").Output()
		require.NoError(t, err)
		return words(string(out))
	}
	all := lib.All()
	tried := 0
	for from := 0; from < len(all); from += 20 {
		s := &plan.Session{Title: "All", Sections: []plan.Section{{Title: "A", Blocks: []plan.Block{{Rounds: 1}}}}}
		rows := &s.Sections[0].Blocks[0].Rows
		for _, m := range all[from:min(from+20, len(all))] {
			*rows = append(*rows, plan.Row{Movement: m.Slug, Level: len(m.Levels), Note: "note of " + m.Slug + " " + strings.Repeat("and on ", 30) + "to the end."})
		}
		tl, err := timeline.Build(s, lib)
		require.NoError(t, err)
		sh := export.SheetOf(s, tl, lib)
		pdf, err := CueSheet(sh)
		require.NoError(t, err)
		got := text(pdf)
		for _, b := range sh.Sections[0].Blocks {
			for _, r := range b.Rows {
				if r.Care != "" {
					tried++
					assert.Contains(t, got, words(strings.TrimSuffix(r.Care, ".")), r.Name)
				}
				assert.Contains(t, got, words(strings.TrimSuffix(r.Note, ".")), r.Name)
			}
		}
		pdf, err = MoverSheet(sh)
		require.NoError(t, err)
		hand := text(pdf)
		for i, c := range sh.Main(4) {
			assert.Contains(t, got, words(c.Says))
			if i < 2 {
				assert.Contains(t, hand, words(c.Says))
			}
		}
		assert.Contains(t, hand, "defers to them and to local rules")
	}
	assert.Greater(t, tried, 60)
}

// A circuit on both sheets: the time on, one side's own dose, and a mark down to its end.
func TestACircuitOnPaper(t *testing.T) {
	s, tl := demoSession(t, "kiln-circuit.json")
	sh := export.SheetOf(s, tl, movement.Shipped())
	for name, write := range map[string]func(export.Sheet) ([]byte, error){"teacher": CueSheet, "mover": MoverSheet} {
		pdf, err := write(sh)
		require.NoError(t, err)
		file := filepath.Join(t.TempDir(), "sheet.pdf")
		require.NoError(t, os.WriteFile(file, pdf, 0o600))
		out, err := exec.Command("pdftotext", "-raw", file, "-").Output()
		require.NoError(t, err)
		for _, sec := range sh.Sections {
			for _, b := range sec.Blocks {
				for _, r := range b.Rows {
					assert.Contains(t, string(out), r.Dose, "%s: %s", name, r.Name)
				}
			}
		}
	}
}

// Every class of the demo up to twenty minutes is one page; a long one goes over and loses no row.
func TestCueSheetPages(t *testing.T) {
	files, err := filepath.Glob("../demo/sessions/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		s, tl := demoSession(t, filepath.Base(f))
		pdf, pages, err := cueAt(export.SheetOf(s, tl, movement.Shipped()), .8, 1)
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF-")), f)
		if tl.Total <= 21*clock.Minute {
			assert.Equal(t, 1, pages, f)
		}
		hand, err := MoverSheet(export.SheetOf(s, tl, movement.Shipped()))
		require.NoError(t, err)
		assert.True(t, bytes.HasPrefix(hand, []byte("%PDF-")), f)
	}
	row := `{"movement":"bird-dog","dose":"8 each side","note":"` + strings.Repeat("long words ", 30) + `"},`
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"`+strings.Repeat("T", 120)+`","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+strings.TrimSuffix(strings.Repeat(row, 90), ",")+`]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	_, pages, err := cueAt(export.SheetOf(s, tl, movement.Shipped()), 1, 2)
	require.NoError(t, err)
	assert.Greater(t, pages, 4)
	empty, err := CueSheet(export.SheetOf(&plan.Session{Title: "Empty"}, &timeline.Timeline{}, movement.Shipped()))
	require.NoError(t, err)
	assert.NotEmpty(t, empty)
}

func TestWrappingLosesNoWord(t *testing.T) {
	p := newPaper("T")
	p.SetFont("Helvetica", "", 9)
	text := "Slide the leg long and let it float, a cup of tea stays on the low back the whole way"
	lines := p.wrapped(text, 40, 9)
	assert.Greater(t, len(lines), 2)
	assert.Equal(t, text, strings.Join(lines, " "))
	for _, l := range lines {
		assert.LessOrEqual(t, p.GetStringWidth(l), 40.0)
	}
	cut := p.wrapped(text, 40, 2)
	require.Len(t, cut, 2)
	assert.True(t, strings.HasSuffix(cut[1], "..."), "what does not fit is seen to be cut")
	assert.Equal(t, []string{"extraordinarilylong..."}, p.wrapped("extraordinarilylongwordwithoutaspace", p.GetStringWidth("extraordinarilylong...")+.1, 1))
}

// bars are the x and width of the bars of a wave.
func bars(svg string) (out [][2]float64) {
	for _, m := range regexp.MustCompile(`<rect class="w-(?:right|left|both)" x="([\d.]+)" y="[\d.-]+" width="([\d.]+)"`).FindAllStringSubmatch(svg, -1) {
		x, _ := strconv.ParseFloat(m[1], 64)
		w, _ := strconv.ParseFloat(m[2], 64)
		out = append(out, [2]float64{x, w})
	}
	return out
}

// Length on the wave is time: a bar is as long as its step and begins when it does.
func TestTheWaveIsToScale(t *testing.T) {
	tl, svg := wave(t, `{"movement":"squat","dose":"20 reps"},{"movement":"bird-dog","dose":"8 each side"},{"movement":"swan","dose":"5 reps"}`)
	got := bars(svg)
	var working []*timeline.Step
	for i := range tl.Steps {
		if tl.Steps[i].Kind.Working() {
			working = append(working, &tl.Steps[i])
		}
	}
	require.Len(t, got, len(working))
	scale := (waveW - 10) / float64(tl.Total)
	for i, s := range working {
		assert.InDelta(t, 8+scale*float64(s.At)+.6, got[i][0], .1, s.Move.Name)
		assert.InDelta(t, scale*float64(s.S)-1.2, got[i][1], .1, s.Move.Name)
	}
}

// Two classes on one scale: the shorter ends where its time is over.
func TestWavesOnOneScale(t *testing.T) {
	_, long := demoSession(t, "wheel-side-hips.json")
	_, short := demoSession(t, "kiln-circuit.json")
	require.Less(t, short.Total, long.Total)
	end := func(svg []byte) float64 {
		wellFormed(t, svg)
		m := regexp.MustCompile(`class="w-line" d="M0 [\d.]+H([\d.]+)"`).FindSubmatch(svg)
		require.NotNil(t, m)
		x, err := strconv.ParseFloat(string(m[1]), 64)
		require.NoError(t, err)
		return x
	}
	assert.InDelta(t, 1000*float64(short.Total)/float64(long.Total), end(WaveOnScale(short, long.Total, 1000, 100, "s")), .1)
	assert.InDelta(t, 1000, end(WaveOnScale(long, short.Total, 1000, 100, "l")), .1, "never cut off")
	assert.InDelta(t, 1000, end(SmallWave(short, 1000, 100, "s")), .1)
}

func TestRailsOfLowBackAndBreath(t *testing.T) {
	_, svg := wave(t, `{"movement":"double-leg-stretch","level":3,"dose":"6 reps"},{"movement":"hip-flexor-stretch","dose":"hold 40 s each side"}`)
	assert.Contains(t, svg, "legs levered to")
	assert.Contains(t, svg, "breath: 0:40 from")
	_, calm := wave(t, `{"movement":"squat","dose":"6 reps"}`)
	assert.NotContains(t, calm, "w-load")
	for _, name := range []string{"neck", "wrists", "low back", "breath"} {
		assert.Contains(t, calm, ">"+name+"<", "an empty rail is still named")
	}
	assert.Contains(t, svg, ">half-kneeling<")
}

func TestGridFitsEveryLength(t *testing.T) {
	for _, m := range []clock.Span{1, 5, 20, 59, 90, 240, 600, 1440} {
		n := m * clock.Minute / gridStep(m*clock.Minute)
		assert.LessOrEqual(t, n, clock.Span(12), "%d minutes", m)
		if m > 1 && m < 1000 {
			assert.GreaterOrEqual(t, n, clock.Span(2), "%d minutes", m)
		}
	}
}

func TestSmallBars(t *testing.T) {
	bars := string(LoadBars([]float64{10, 0, 40}, []float64{12, 0, 40}, 40, 3))
	wellFormed(t, []byte(bars))
	assert.Equal(t, 2, strings.Count(bars, "<rect"), "a rest day has no bar")
	assert.Contains(t, bars, "day 3: 10 of 12, day 4: 0, day 5: 40 of 40")
	assert.Equal(t, 2, strings.Count(bars, "w-asked"))
	for part, width := range map[float64]string{-1: `width="0"`, 0: `width="0"`, .5: `width="100"`, 1: `width="200"`, 9: `width="200"`} {
		assert.Contains(t, string(Bar(part, "bar")), width)
	}
	wellFormed(t, BarMark(.3, .6))
	wellFormed(t, TwoBars(.3, 2))
	scale := DemandScale([]float64{1, 4.5, 9}, 200, 40)
	wellFormed(t, scale)
}

// Where a joint is drawn is where a pointer takes hold of it: back and forth between screen and body.
func TestPointerToBody(t *testing.T) {
	for _, name := range body.Poses().Names() {
		p, _ := body.Poses().Pose(name)
		f := body.Solve(p)
		pen := posable(f, 560, 400)
		for _, h := range body.Handles() {
			if f.Front && strings.HasPrefix(h, "ball") {
				continue // toes seen from the front are not pulled
			}
			at := f.Handle(h)
			px, py := pen.xy(at)
			x, y := PosableAt(f, 560, 400, px, py)
			assert.InDelta(t, at.X, x, 1e-9, "%s: %s", name, h)
			assert.InDelta(t, at.Y, y, 1e-9, "%s: %s", name, h)
			assert.True(t, px >= 0 && px <= 560 && py >= 0 && py <= 400, "%s: %s is outside the picture", name, h)
		}
		tags := wellFormed(t, Posable(f, 560, 400, name))
		assert.GreaterOrEqual(t, tags["circle"], 12, name)
	}
}

func TestMarksOfTheSecondLook(t *testing.T) {
	s, tl := demoSession(t, "wheel-side-hips.json")
	var marks []Mark
	found, err := review.Check(t.Context(), s, tl, movement.Shipped(), review.Limits{})
	require.NoError(t, err)
	for _, f := range found {
		marks = append(marks, Mark{At: f.At, Grav: f.Severity, Says: f.Says})
	}
	svg := Wave(tl, nil, review.Rails(s, tl, movement.Shipped(), review.Limits{}), marks)
	wellFormed(t, svg)
	n := 0
	for _, m := range marks {
		if m.Grav != review.Good {
			n++
		}
	}
	assert.Equal(t, n, bytes.Count(svg, []byte(`class="w-mark`)), "one mark a finding, none for praise")
}

// All that will do instead of the kit, and is good to have, stands whole on the mover's sheet.
func TestKitOnTheMoversSheet(t *testing.T) {
	var rows []string
	for _, r := range []string{"rib-breathing 1", "roller-march 1", "wall-push-up 2", "wall-ball-squat 2", "long-lunge 1", "hamstring-strap 2"} {
		slug, level, _ := strings.Cut(r, " ")
		rows = append(rows, `{"movement":"`+slug+`","level":`+level+`}`)
	}
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"Kit","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+strings.Join(rows, ",")+`]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	sh := export.SheetOf(s, tl, movement.Shipped())
	assert.Equal(t, "roller, wall, big ball, strap", sh.Kit)
	pdf, err := MoverSheet(sh)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftotext", "-raw", file, "-").Output()
	require.NoError(t, err)
	got := strings.Join(strings.Fields(string(out)), " ")
	for _, part := range strings.Split(sh.KitElse, "; ") {
		assert.Contains(t, got, part)
	}
	assert.Contains(t, sh.KitElse, "good to have: 2 blocks, or a thick book")
}

package draw

import (
	"encoding/xml"
	"io"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

func wellFormed(t *testing.T, svg []byte) (tags map[string]int) {
	t.Helper()
	tags = map[string]int{}
	d := xml.NewDecoder(strings.NewReader(string(svg)))
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return tags
		}
		require.NoError(t, err, string(svg))
		if e, ok := tok.(xml.StartElement); ok {
			tags[e.Name.Local]++
		}
	}
}

func wave(t *testing.T, rows string) (*timeline.Timeline, string) {
	t.Helper()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"<b>T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+rows+`]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	tl, err := timeline.Build(s, movement.Shipped())
	require.NoError(t, err)
	out := Wave(tl, nil, review.Rails(s, tl, movement.Shipped(), review.Limits{}), []Mark{{At: 10, Grav: review.Stop, Says: `<&"'>`}})
	wellFormed(t, out)
	return tl, string(out)
}

func TestWaveTellsTheSidesApart(t *testing.T) {
	tl, w := wave(t, `{"movement":"bird-dog","dose":"8 each side"},{"movement":"hundred","level":2},{"movement":"criss-cross","dose":"10 pairs"}`)
	assert.Contains(t, w, `class="w-right" x=`)
	assert.Contains(t, w, `aria-label="Bird dog, left: 8 reps`)
	assert.Equal(t, 4, strings.Count(w, `class="w-bar"`), "one bar a working step")
	assert.Contains(t, w, "href=\"#row-1-1-2\"")
	assert.Contains(t, w, ">hands and knees<")
	assert.Contains(t, w, "&lt;&amp;&#34;")
	assert.Contains(t, WaveWords(tl), "Right 1:16, left 1:16. 1 changes of position")
	wellFormed(t, SmallWave(tl, 120, 40, "x"))
	// A forgotten side leaves nothing below the line.
	_, lop := wave(t, `{"movement":"bird-dog","sides":"right","dose":"8 reps"}`)
	assert.NotContains(t, lop, `<rect class="w-left"`)
}

func TestRailWarnsPastTheLimit(t *testing.T) {
	_, w := wave(t, `{"movement":"hundred","level":2,"dose":"20 breaths, 5 in 5 out"},{"movement":"scissors","level":2,"dose":"30 pairs"}`)
	assert.Contains(t, w, "w-over")
	assert.Contains(t, w, "head up, no rest")
}

func TestEmptySession(t *testing.T) {
	wellFormed(t, Wave(&timeline.Timeline{}, nil, nil, nil))
	wellFormed(t, SmallWave(nil, 100, 30, "empty"))
}

func TestLevelMark(t *testing.T) {
	m := string(LevelMark(2, 3))
	assert.Equal(t, 2, strings.Count(m, "l-on"))
	assert.Equal(t, 1, strings.Count(m, "l-off"))
	wellFormed(t, LevelMark(1, 1))
}

func TestEveryFigureDrawsAtEverySize(t *testing.T) {
	for _, name := range body.Poses().Names() {
		p, _ := body.Poses().Pose(name)
		f := body.Solve(p)
		for _, size := range [][2]float64{{46, 30}, {160, 110}, {560, 360}} {
			out := Figure(f, size[0], size[1], nil, "f", name)
			tags := wellFormed(t, out)
			assert.GreaterOrEqual(t, tags["path"], 4, name)
			assert.NotContains(t, string(out), "NaN", name)
			assert.Less(t, len(out), 24<<10, name)
		}
	}
}

func BenchmarkWave(b *testing.B) {
	s, _ := plan.ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[`+strings.TrimSuffix(strings.Repeat(`{"movement":"bird-dog","dose":"8 each side"},{"movement":"hundred","level":2},`, 30), ",")+`]}]}]}`), movement.Shipped())
	tl, _ := timeline.Build(s, movement.Shipped())
	for b.Loop() {
		Wave(tl, nil, review.Rails(s, tl, movement.Shipped(), review.Limits{}), nil)
	}
}

// The line of a breath ends as full as it began, whatever the shares, stays in its box, and is not drawn where no pattern is set.
func TestBreathLine(t *testing.T) {
	ends := regexp.MustCompile(`M([\d.]+) ([\d.]+)C.*? ([\d.]+) ([\d.]+)"`)
	for _, m := range movement.Shipped().All() {
		phases := movement.BreathPhases(m.Breath)
		line := BreathLine(phases, 180, 34)
		if len(phases) < 2 {
			assert.Nil(t, line, m.Slug)
			continue
		}
		parts := ends.FindAllStringSubmatch(string(line), -1)
		require.Len(t, parts, len(phases), m.Slug)
		assert.Equal(t, parts[0][2], parts[len(parts)-1][4], "%s: %s", m.Slug, m.Breath)
		for _, p := range parts {
			for _, v := range []string{p[2], p[4]} {
				y, err := strconv.ParseFloat(v, 64)
				require.NoError(t, err)
				assert.GreaterOrEqual(t, y, 2.9, m.Slug)
				assert.LessOrEqual(t, y, 31.1, m.Slug)
			}
		}
	}
}

// Somebody who faces one has their right on one's left; from behind it is on one's right. Every spot lies within the picture, none on another's middle, and a sided one lies on its own half.
func TestPlacesToTouch(t *testing.T) {
	const w, h = 170., 260.
	at := regexp.MustCompile(`data-place="([^"]+)"(?: data-side="(right|left)")? cx="([0-9.]+)" cy="([0-9.]+)" rx="([0-9.]+)" ry="([0-9.]+)"`)
	said := map[string]bool{}
	for _, back := range []bool{false, true} {
		svg := string(Places(back, w, h))
		middles := map[string]string{}
		for _, m := range at.FindAllStringSubmatch(svg, -1) {
			said[m[1]] = true
			num := func(i int) float64 { v, err := strconv.ParseFloat(m[i], 64); require.NoError(t, err); return v }
			x, y := num(3), num(4)
			assert.True(t, x > 0 && x < w && y > 0 && y < h, m[0])
			if m[2] != "" {
				assert.Equal(t, (m[2] == "right") == back, x > w/2, "%s, back %v", m[0], back)
			}
			assert.Empty(t, middles[m[3]+" "+m[4]], m[0])
			middles[m[3]+" "+m[4]] = m[1]
		}
		r := regexp.MustCompile(`<text class="right"[^>]* x="([0-9.]+)"`).FindStringSubmatch(svg)
		require.NotNil(t, r)
		x, _ := strconv.ParseFloat(r[1], 64)
		assert.Equal(t, back, x > w/2)
	}
	for _, p := range progress.Places() {
		assert.True(t, said[p.Name], "%s can be touched", p.Name)
	}
}

package draw

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
)

// pagesIn are the pages of a PDF as pdftotext reads them.
func pagesIn(t *testing.T, pdf []byte) []string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "s.pdf")
	require.NoError(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	require.NoError(t, err)
	return strings.Split(strings.TrimSuffix(string(out), "\f"), "\f")
}

func laidDays(t *testing.T, words string, g *group.Group) (*plan.Series, []export.SeriesDay) {
	t.Helper()
	lib := movement.Shipped()
	b, err := brief.Parse(words, lib, time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	l, err := lay.Series(context.Background(), lib, b, lay.Options{})
	require.NoError(t, err)
	s, err := l.Document(lib, b.Start, 0)
	require.NoError(t, err)
	days, err := export.DaysOf(s, g, lib, nil)
	require.NoError(t, err)
	return s, days
}

// In the booklet each day is on the page that the index says, with all its movements, for the teacher and to hand out; a long series has a long index.
func TestBooklet(t *testing.T) {
	lib := movement.Shipped()
	for words, index := range map[string]int{
		"9 days from 4 january 2027, 15 min, hips, no kit, ramp, rest sundays":    1,
		"45 days from 4 january 2027, 5 min, hips, no kit, rest sundays":          2,
		"3 days from 4 january 2027, 60 min, hips and core, with roller and band": 1,
	} {
		s, days := laidDays(t, words, nil)
		sheets := SheetsOf(days, func(d *export.SeriesDay) export.Sheet { return export.SheetOf(d.Class, d.TL, lib) })
		for _, hand := range []bool{false, true} {
			pdf, err := Booklet(s, days, sheets, hand)
			require.NoError(t, err)
			pages := pagesIn(t, pdf)
			require.Greater(t, len(pages), index)
			at := map[int]int{}
			for _, m := range regexp.MustCompile(`(?m)^ *(\d+) .* page (\d+)$`).FindAllStringSubmatch(strings.Join(pages[:index], "\n"), -1) {
				day, _ := strconv.Atoi(m[1])
				at[day], _ = strconv.Atoi(m[2])
			}
			assert.Len(t, at, len(sheets), words)
			for i := range days {
				d := &days[i]
				if d.Class == nil {
					assert.Zero(t, at[d.N])
					continue
				}
				assert.Contains(t, pages[at[d.N]-1], fmt.Sprintf("Day %d, %s", d.N, d.Theme), "%s: day %d, handed out: %v", words, d.N, hand)
			}
		}
	}
}

// The poster is one page, whatever the series: every day of a plain one, every class of a group's, and no more.
func TestPoster(t *testing.T) {
	for _, words := range []string{"1 day from 4 january 2027, 15 min, hips", "21 days from 6 january 2027, 15 min, hips and spine, rest sundays, ramp, learn bird dog", "60 days from 4 january 2027, 5 min, hips", "8 tuesdays from 5 january 2027, 10 min, core"} {
		for _, g := range []*group.Group{nil, {Name: "G", Start: time.Date(2027, 1, 6, 0, 0, 0, 0, time.UTC), Weekdays: []time.Weekday{time.Wednesday, time.Saturday}, Off: []int{3}}} {
			s, days := laidDays(t, words, g)
			pdf, err := Poster(s, days, []string{"Bird dog"})
			require.NoError(t, err)
			pages := pagesIn(t, pdf)
			require.Len(t, pages, 1, words)
			slots, _ := posterSlots(days)
			seen := map[int]bool{}
			for i, k := range slots {
				if k < 0 {
					assert.True(t, days[i].Rest, "%s: day %d", words, i+1)
					continue
				}
				assert.False(t, seen[k], "%s: two days in one place", words)
				seen[k] = true
			}
			assert.Contains(t, pages[0], "Stop if it hurts")
			assert.Contains(t, pages[0], "Bird dog")
		}
	}
	s, days := laidDays(t, "7 days from 6 january 2027, 15 min, hips and spine, rest sundays, ramp", nil)
	pdf, err := Poster(s, days, nil)
	require.NoError(t, err)
	text := pagesIn(t, pdf)[0]
	for _, w := range []string{"Mon", "Sun", "6 Jan", "12 Jan", "rest", "spine", "15 min"} {
		assert.Contains(t, text, w)
	}
	sh, err := export.TakeHomeOf(s, days, []string{movementOf(&days[0])}, movement.Shipped())
	require.NoError(t, err)
	pdf, err = TakeHome(sh, "every day, mornings")
	require.NoError(t, err)
	assert.Contains(t, pagesIn(t, pdf)[0], "every day, mornings")
}

func movementOf(d *export.SeriesDay) (slug string) {
	d.Class.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if slug == "" && !r.IsRest() {
			slug = r.Movement
		}
	})
	return slug
}

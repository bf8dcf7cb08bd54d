package board

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/export"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/series"
)

// demoClasses are real classes, with chains, rounds, rests, words for one side, movements that no library has.
func demoClasses(t *testing.T) (out []lay.Kept) {
	files, err := filepath.Glob("../../demo/sessions/*.json")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		s, err := plan.ReadSession(text, lib)
		require.NoError(t, err, f)
		out = append(out, lay.Kept{ID: strings.TrimSuffix(filepath.Base(f), ".json"), Rev: 2, Session: s})
	}
	return out
}

// Series that were made by hand of real classes: whatever is pinned of them stays byte for byte when the rest is laid, by a brief of any school, and everything
// that reads a series reads them.
func TestRealClassesAroundPins(t *testing.T) {
	kept := demoClasses(t)
	r := rand.New(rand.NewPCG(81, 82))
	with := With{Kept: map[string]lay.Kept{}, Own: kept}
	for _, k := range kept {
		with.Kept[k.ID] = k
	}
	briefs := []string{
		"12 days, 20 min, hips and core, mixed, ramp", "12 days, 15 min, core, no kit, beginners, wave, one side through", "12 days, same set growing, 20 min, hips", "12 days, two long holds, hips",
		"12 days, on and off, 20 min, core", "12 days, 20 min, core, able, classical order", "12 days, 20 min, hips, from my sessions, learn bird dog, every day cat-cow", "12 days, 25 min, older, with chair, counted in breaths", "12 days, 20 min, spine, from what we taught last, different every day, rest days 4 and 8",
	}
	rounds := 18
	if testing.Short() {
		rounds = 3
	}
	pinnedRows := 0
	for k := range rounds {
		s := &plan.Series{Title: "By hand", Start: time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC), Zone: "Europe/Berlin", Time: "18:00", Days: make([]plan.Day, 12)}
		for i := range s.Days {
			one := kept[r.IntN(len(kept))]
			switch r.IntN(6) {
			case 0:
				s.Days[i] = plan.Day{Ref: one.ID}
			case 1:
				s.Days[i] = plan.Day{Rest: true, Note: "nothing"}
			case 2:
			default:
				s.Days[i] = plan.Day{Session: one.Session, Title: one.Session.Title, Note: "Come early", From: plan.Made{Session: one.ID, Rev: one.Rev}}
				var slugs []string
				one.Session.Each(func(_ plan.Path, _ *plan.Block, row *plan.Row) {
					if row.Movement != "" && !slices.Contains(slugs, row.Movement) {
						slugs = append(slugs, row.Movement)
					}
				})
				for range r.IntN(4) {
					if slug := slugs[r.IntN(len(slugs))]; !slices.Contains(s.Days[i].Pinned, slug) {
						s.Days[i].Pinned = append(s.Days[i].Pinned, slug)
					}
				}
			}
			if r.IntN(5) == 0 && !s.Days[i].Empty() {
				s.Days[i].Pin.Day = true
			}
		}
		if r.IntN(2) == 0 {
			s.Ladders = []plan.Ladder{{Movement: "bird-dog", Steps: []plan.Rung{{Level: 1}, {Movement: "clam", Level: 2}, {Level: 3}}, Climb: plan.Climb{When: plan.EveryTime, Times: 2}}}
		}
		words := briefs[k%len(briefs)]
		ch, err := plan.ApplySeries(s, lib, &Lay{With: with, Brief: words, Seed: n(k)})
		require.NoError(t, err, words)
		now := ch.Series
		require.GreaterOrEqual(t, len(now.Days), 12)
		for i := range s.Days {
			a, z := &s.Days[i], &now.Days[i]
			if a.Pin.Day {
				require.Equal(t, text(t, a), text(t, z), "%s: day %d", words, i+1)
				continue
			}
			if a.Rest || z.Rest {
				continue
			}
			assert.Equal(t, a.Note, z.Note)
			for _, slug := range a.Pinned {
				pinnedRows++
				assert.Subset(t, rowsOfSlug(t, z.Session, slug), rowsOfSlug(t, a.Session, slug), "%s: day %d: %s", words, i+1, slug)
			}
		}
		for i := range now.Days {
			if now.Days[i].Session == nil || now.Days[i].Pin.Day {
				continue
			}
			again, _, _, err := lay.Again(t.Context(), lib, now, i+1, lay.Options{Seed: 99, Material: kept})
			require.NoError(t, err, "%s: day %d", words, i+1)
			_, err = plan.SealSeries(again, lib)
			require.NoError(t, err)
			break
		}
		found, err := series.Over(now, lib, nil)
		require.NoError(t, err)
		for _, f := range found[:min(len(found), 3)] {
			Tried(now, lib, nil, f, with)
		}
		days, err := export.DaysOf(now, nil, lib, nil)
		require.NoError(t, err)
		_, err = export.BoardCSV(now, days, lib)
		require.NoError(t, err)
		assert.NotContains(t, string(export.Announce(now, nil, days, export.UsualWording(), lib).Text()), "{")
	}
	t.Logf("%d rows pinned", pinnedRows)
	assert.Greater(t, pinnedRows, rounds)
}

func rowsOfSlug(t *testing.T, s *plan.Session, slug string) (out []string) {
	if s == nil {
		return nil
	}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		if movement.BaseSlug(r.Movement) == movement.BaseSlug(slug) {
			out = append(out, text(t, r))
		}
	})
	return out
}

package board

import (
	"fmt"
	"math/rand/v2"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/lay"
	"wavekine/core/plan"
)

// place finds a movement in the class of a day.
func place(t *testing.T, s *plan.Series, day int, slug string) (at plan.Path) {
	t.Helper()
	s.Days[day-1].Session.Each(func(p plan.Path, _ *plan.Block, r *plan.Row) {
		if isOf(r, slug) && at.Row == 0 {
			at = p
		}
	})
	require.NotZero(t, at.Row, "%s on day %d", slug, day)
	return at
}

func TestAnEditIsOfItsDay(t *testing.T) {
	s := laid(t, "14 days from 4 january 2027, 15 min, hips, no kit, mixed, rest sundays, learn bird dog and bridge")
	on := func(s *plan.Series, day int, c plan.Command) *plan.Series {
		return do(t, s, &EditClass{Day: n(day), Command: c})
	}
	next := on(s, 3, &plan.SetDose{At: place(t, s, 3, "bird-dog"), Dose: "9 each side"})
	for i := range s.Days {
		assert.Equal(t, i == 2, text(t, s.Days[i]) != text(t, next.Days[i]), "day %d", i+1)
	}
	assert.Contains(t, cells(next, "bird-dog")[2], "9 each side")
	assert.Len(t, next.Days[2].Rows, next.Days[2].Session.Rows())

	added := on(s, 3, &plan.AddLine{Line: "teaser 3", After: plan.MaybePath{Path: place(t, s, 3, "bird-dog")}})
	rows := added.Days[2].Rows
	assert.Len(t, rows, added.Days[2].Session.Rows(), "a reason beside each row")
	found := false
	for _, w := range rows {
		found = found || w.Movement == "teaser" && w.Because == "put in by hand"
	}
	assert.True(t, found)

	title := "Slow hips"
	assert.Equal(t, title, on(s, 3, &plan.SetHead{Title: &title}).Days[2].Session.Title)
	pinned := do(t, s, &Pin{What: "row", Day: n(3), Movement: "bird-dog"})
	assert.Empty(t, on(pinned, 3, &plan.DeleteRows{At: plan.Paths{place(t, s, 3, "bird-dog")}}).Days[2].Pinned, "a pin goes with its row")
	refused(t, s, &EditClass{Day: n(7), Command: &plan.AddLine{Line: "teaser 3"}}, "day 7 is a rest day")
	refused(t, s, &EditClass{Day: n(15), Command: &plan.AddLine{Line: "teaser 3"}}, "expected 1 to 14")
	refused(t, s, &EditClass{Day: n(3), Command: &plan.AddLine{Line: "flying 3"}}, "flying")

	empty := do(t, s, &plan.ClearDay{Day: n(4)})
	begun := on(empty, 4, &plan.AddLine{Line: "teaser 3"})
	assert.Equal(t, "Day 4", begun.Days[3].Session.Title)
	assert.Equal(t, 1, begun.Days[3].Session.Rows())
}

// A kept session that a day names stays as it is: the day gets its own.
func TestAnEditOfADayThatNamesASession(t *testing.T) {
	k := demoClasses(t)[0]
	with := With{Kept: map[string]lay.Kept{k.ID: k}}
	s := &plan.Series{Title: "By hand", Start: time.Date(2027, 1, 4, 0, 0, 0, 0, time.UTC), Days: []plan.Day{{Ref: k.ID, Title: k.Session.Title}, {Ref: k.ID}}}
	before := text(t, k.Session)
	next := do(t, s, &EditClass{With: with, Day: n(1), Command: &plan.AddLine{Line: "teaser 3"}})
	assert.Equal(t, before, text(t, k.Session))
	assert.Empty(t, next.Days[0].Ref)
	assert.Equal(t, plan.Made{Session: k.ID, Rev: k.Rev}, next.Days[0].From)
	assert.Equal(t, k.Session.Rows()+1, next.Days[0].Session.Rows())
	assert.Equal(t, k.ID, next.Days[1].Ref)

	carried := do(t, next, &Carry{With: with, Day: n(1), Scope: EveryDay, Was: s})
	assert.True(t, has(carried.Days[1].Session, "teaser"), "it comes to the day that named the session too")
}

func TestAnEditIsTakenToOtherDays(t *testing.T) {
	s := laid(t, "21 days from 4 january 2027, 15 min, hips, no kit, mixed, rest sundays, learn bird dog and bridge")
	at := place(t, s, 5, "bird-dog")
	level := do(t, s, &EditClass{Day: n(5), Command: &plan.SetLevel{At: at, Level: n(3)}})
	c := &Carry{Day: n(5), Scope: FromHere, Was: s}
	what, later, every := c.Offer(level, lib)
	assert.Equal(t, "Bird dog", what)
	assert.Greater(t, every, later)
	next := do(t, level, c)
	was, now := cells(level, "bird-dog"), cells(next, "bird-dog")
	for i := range now {
		switch {
		case i < 4 || was[i] == "":
			assert.Equal(t, was[i], now[i], "day %d", i+1)
		default:
			assert.Equal(t, "3"+was[i][1:], now[i], "day %d: the level as there, the dose its own", i+1)
		}
	}
	refused(t, next, &Carry{Day: n(5), Scope: FromHere, Was: level}, "nothing of this day's rows")
	refused(t, s, &Carry{Day: n(5), Scope: FromHere}, "nothing of this day's rows")
	refused(t, level, &Carry{Day: n(5), Was: s}, "expected from here on")

	in := do(t, s, &EditClass{Day: n(5), Command: &plan.AddLine{Line: "teaser 3", After: plan.MaybePath{Path: at}}})
	every1 := do(t, in, &Carry{Day: n(5), Scope: EveryDay, Was: s})
	for i, dog := range cells(s, "bird-dog") {
		assert.Equal(t, dog != "", cells(every1, "teaser")[i] != "", "day %d: after bird dog, where it is", i+1)
	}
	out := do(t, s, &EditClass{Day: n(5), Command: &plan.DeleteRows{At: plan.Paths{at}}})
	gone := do(t, out, &Carry{Day: n(5), Scope: FromHere, Was: s})
	for i, dog := range cells(gone, "bird-dog") {
		assert.Equal(t, i < 4 && cells(s, "bird-dog")[i] != "", dog != "", "day %d", i+1)
	}
	pinned := do(t, s, &Pin{What: "day", Day: n(9)})
	level = do(t, pinned, &EditClass{Day: n(5), Command: &plan.SetLevel{At: at, Level: n(3)}})
	assert.Equal(t, text(t, pinned.Days[8]), text(t, do(t, level, &Carry{Day: n(5), Scope: EveryDay, Was: pinned}).Days[8]), "a pinned day stays")

	moved := do(t, s, &EditClass{Day: n(5), Command: &plan.StepRow{At: at, By: n(-1)}})
	what, _, _ = (&Carry{Day: n(5), Was: s}).Offer(moved, lib)
	assert.Empty(t, what, "where a row stands is the day's own")
}

// Whatever is done to the class of a day, and taken to the others: only the days that are meant change, each keeps a reason beside each row, and every
// state can be read again.
func TestAnyEditsOfDays(t *testing.T) {
	r := rand.New(rand.NewPCG(91, 92))
	s := laid(t, "14 days from 4 january 2027, 15 min, hips and core, no kit, mixed, rest sundays, learn bird dog, bridge and side plank")
	lines := []string{"teaser 3", "bird dog 5 each side", "rest 20 s", "swan 6", "side plank hold 20 s each side", "bridge 3 x 8, rest 20 s"}
	carried, done, edits := 0, 0, 400
	if testing.Short() {
		edits = 60
	}
	for range edits {
		day := 1 + r.IntN(len(s.Days))
		class := s.Days[day-1].Session
		if class == nil {
			continue
		}
		var at []plan.Path
		class.Each(func(p plan.Path, _ *plan.Block, _ *plan.Row) { at = append(at, p) })
		p := at[r.IntN(len(at))]
		c := []plan.Command{
			&plan.AddLine{Line: lines[r.IntN(len(lines))], After: plan.MaybePath{Path: p}}, &plan.DeleteRows{At: plan.Paths{p}}, &plan.DuplicateRow{At: p},
			&plan.SetDose{At: p, Dose: []string{"6 each side", "hold 30 s", "12 reps", "20 s"}[r.IntN(4)]}, &plan.SetLevel{At: p, Level: n(1 + r.IntN(3))},
			&plan.SetSides{At: p, Sides: plan.SidesWord{Next: true}}, &plan.SetNote{At: p, Note: "slowly " + strconv.Itoa(r.IntN(9))}, &plan.LockRow{At: p},
			&plan.WrapRows{At: plan.Paths{p}}, &plan.StepRow{At: p, By: n(1)},
		}[r.IntN(10)]
		ch, err := plan.ApplySeries(s, lib, &EditClass{Day: n(day), Command: c})
		if err != nil {
			continue
		}
		done++
		for i := range s.Days {
			if i != day-1 {
				assert.Equal(t, text(t, s.Days[i]), text(t, ch.Series.Days[i]))
			}
		}
		carry := &Carry{Day: n(day), Scope: []Scope{FromHere, EveryDay}[r.IntN(2)], Was: s}
		what, later, every := carry.Offer(ch.Series, lib)
		got, err := plan.ApplySeries(ch.Series, lib, carry)
		said := fmt.Sprintf("%T on day %d, %s: %s", c, day, carry.Scope, what)
		if num := map[Scope]int{FromHere: later, EveryDay: every}[carry.Scope]; num == 0 {
			require.Error(t, err, said)
			s = ch.Series
			continue
		} else if err != nil { // it would empty a day, or be too much
			s = ch.Series
			continue
		}
		carried++
		back, err := plan.ReadSeries(got.Sealed.Text(), lib)
		require.NoError(t, err, said)
		assert.Equal(t, text(t, got.Series), text(t, back), said)
		for i := range back.Days {
			d := &back.Days[i]
			if len(d.Rows) > 0 {
				assert.Len(t, d.Rows, d.Session.Rows(), said)
			}
			if i == day-1 || carry.Scope == FromHere && i < day-1 {
				assert.Equal(t, text(t, ch.Series.Days[i]), text(t, back.Days[i]), said)
			}
		}
		s = got.Series
	}
	t.Logf("%d edits, %d taken to other days", done, carried)
	assert.Greater(t, carried, edits/10)
}

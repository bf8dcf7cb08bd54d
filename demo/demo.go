// Package demo is the demo scenario: a community pottery whose throwers want their hips, wrists and
// upper back back. People and places are invented.
package demo

import (
	"context"
	"embed"
	"fmt"
	"sync"
	"time"

	"wavekine/core/brief"
	"wavekine/core/clock"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/store"
)

//go:embed sessions/*.json
var files embed.FS

// How to get in.
const (
	Email    = "maren@claybank.example"
	Second   = "tobias@claybank.example"
	Password = "wheel-thrown-clay"
)

// names of the sessions' files, in the order they are listed.
var names = []string{"between-firings", "wrists-and-upper-back", "two-long-holds", "kiln-circuit", "thursday-mat", "wheel-side-hips"}

// Session reads a demo session by the name of its file.
func Session(name string) (*plan.Session, error) {
	b, err := files.ReadFile("sessions/" + name + ".json")
	if err != nil {
		return nil, err
	}
	return plan.ReadSession(b, movement.Shipped())
}

// Load makes the demo studio unless there is any studio already; made tells whether it did.
// now decides the dates; hash makes the password's hash.
func Load(ctx context.Context, st *store.Store, now time.Time, hash func(string) string) (made bool, err error) {
	there, err := st.AnyStudio(ctx)
	if err != nil || there {
		return false, err
	}
	const studio = "claybank"
	s := store.Studio{ID: studio, Name: "Claybank Pottery", Zone: "Europe/Lisbon"}
	zone, err := time.LoadLocation(s.Zone)
	if err != nil {
		return false, err
	}
	if err := st.CreateFirst(ctx, s, store.Teacher{ID: "maren", Email: Email, Name: "Maren Holloway", PasswordHash: hash(Password)}); err != nil {
		return false, err
	}
	if err := st.AddTeacher(ctx, store.Teacher{StudioID: studio, ID: "tobias", Email: Second, Name: "Tobias Quill", PasswordHash: hash(Password)}); err != nil {
		return false, err
	}
	for _, m := range []store.Mover{
		{ID: "perpetua", Name: "Perpetua Lyle", Watch: "wrists", Note: "throws four days a week", Email: "perpetua@claybank.example", Remind: true},
		{ID: "anselm", Name: "Anselm Okafor", Note: "came with the kiln repair"},
		{ID: "ines", Name: "Ines Caldecott", Watch: "neck", Note: "head down in the abdominals", Level: 2, Email: "ines@claybank.example"},
		{ID: "odile", Name: "Odile Brandt", Watch: "low bone density", Note: "no loaded rounding"},
		{ID: "bartholomew", Name: "Bartholomew Finch", Watch: "knees, does not get down to the floor on cold days"},
		{ID: "marit", Name: "Marit Sloane"},
		{ID: "jonah", Name: "Jonah Reddy", Watch: "low back when bending", Note: "lifts clay"},
	} {
		m.StudioID, m.Topics = studio, store.Topics{}
		for _, t := range movement.TopicsIn(m.Watch) {
			m.Topics = append(m.Topics, string(t))
		}
		if err := st.SaveMover(ctx, m, "maren"); err != nil {
			return false, err
		}
	}
	plans := map[string]*plan.Session{}
	for _, n := range names {
		p, err := Session(n)
		if err != nil {
			return false, fmt.Errorf("demo session %s: %w", n, err)
		}
		plans[n] = p
		ch, err := plan.New(movement.Shipped(), &plan.Become{Session: p, Says: "New session"})
		if err != nil {
			return false, err
		}
		if err := st.Sessions.Create(ctx, studio, n, store.Change{Doc: ch.Sealed, Says: ch.Says, By: "maren"}); err != nil {
			return false, err
		}
	}
	local := now.In(zone)
	today := time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, time.UTC)
	if err := series(ctx, st, studio, today.AddDate(0, 0, -4)); err != nil {
		return false, err
	}
	if err := throwers(ctx, st, studio, today); err != nil {
		return false, err
	}
	for _, sl := range []store.Slot{
		{ID: "slot-mat", PlanID: "thursday-mat", Day: today, Time: "18:30"},
		{ID: "slot-firings", PlanID: "between-firings", Day: today.AddDate(0, 0, 1), Time: "11:00"},
	} {
		sl.StudioID = studio
		if err := st.SaveSlot(ctx, sl); err != nil {
			return false, err
		}
	}
	return true, runs(ctx, st, studio, plans, today, zone)
}

// series lays the twelve days, of which this is the fifth.
func series(ctx context.Context, st *store.Store, studio string, start time.Time) error {
	on := func(ref, title string) plan.Day { return plan.Day{Ref: ref, Title: title} }
	s := &plan.Series{
		Format: plan.SeriesFormat, Title: "Off the wheel", Start: start, Time: "09:30", Zone: "Europe/Lisbon", Minutes: 20, Shape: "ramp",
		Note: "Twelve days for people who throw pots: hips, wrists and the upper back. A mat, and a block on two days.",
		Days: []plan.Day{
			on("wrists-and-upper-back", "Find the ribs"), on("two-long-holds", "Long hips"), on("between-firings", "On your feet"),
			{Rest: true, Title: "Rest"},
			on("wheel-side-hips", "Hips and back"), on("wrists-and-upper-back", "Wrists, easy"), on("kiln-circuit", "Circuit"), on("two-long-holds", "Long hips"),
			on("wheel-side-hips", "Hips again"),
			{Rest: true, Title: "Rest"},
			on("thursday-mat", "Peak, whole mat"), on("two-long-holds", "Soft close"),
		},
	}
	ch, err := plan.ApplySeries(&plan.Series{}, movement.Shipped(), &plan.BecomeSeries{Series: s, Says: "New series"})
	if err != nil {
		return err
	}
	if err := st.Series.Create(ctx, studio, "off-the-wheel", store.Change{Doc: ch.Sealed, Says: ch.Says, By: "maren"}); err != nil {
		return err
	}
	return laidSeries(ctx, st, studio, start)
}

// laidSeries are series that were laid from what was said: twelve days that two groups are in the midst of, and for later four weeks with a theme each,
// given to two groups, and a week of long holds.
func laidSeries(ctx context.Context, st *store.Store, studio string, start time.Time) error {
	monday := start.AddDate(0, 0, 21+(8-int(start.Weekday()))%7)
	for _, d := range []struct {
		id, title, brief string
	}{
		{"clay-hands", "Clay hands", "12 days, 15 min, hips and upper back, no kit, mixed, rest days 4 and 10, ramp, peak day 11, soft last day, learn bird dog, bridge and side plank, test side plank on days 1, 6 and 12 in seconds"},
		{"four-weeks", "Four weeks at the kiln", "28 days, 15 min, no kit, mixed, week 1 spine, week 2 hips, week 3 upper back and shoulders, week 4 core, weekly themes, rest sundays, soft last day, learn bird dog, bridge and side plank"},
		{"seven-holds", "Seven days, the long lunge", "7 days, two long holds, every day long lunge, hips and hamstrings, no kit"},
	} {
		from := monday
		if d.id == "clay-hands" {
			from = start
		}
		doc, err := laid(d.brief, from)
		if err != nil {
			return err
		}
		s := doc.Clone()
		s.Title, s.Time, s.Zone = d.title, "07:30", "Europe/Lisbon"
		ch, err := plan.ApplySeries(&plan.Series{}, movement.Shipped(), &plan.BecomeSeries{Series: s, Says: "Laid from a brief"})
		if err != nil {
			return err
		}
		if err := st.Series.Create(ctx, studio, d.id, store.Change{Doc: ch.Sealed, Says: ch.Says, By: "maren"}); err != nil {
			return err
		}
	}
	for id, g := range map[string]*group.Group{
		"morning-wheel": {Name: "Morning wheel", Start: start.AddDate(0, 0, -3), Time: "07:45", Zone: "Europe/Lisbon", Alarm: 15},
		"throwers":      {Name: "Throwers", Start: start.AddDate(0, 0, -2), Weekdays: []time.Weekday{start.AddDate(0, 0, 2).Weekday(), start.AddDate(0, 0, 5).Weekday()}, Time: "12:30", Zone: "Europe/Lisbon", Alarm: 30},
		"early-kiln":    {Name: "Early kiln", Start: monday, Time: "07:30", Zone: "Europe/Lisbon", Alarm: 15},
		"evening":       {Name: "Evening wheel", Start: monday.AddDate(0, 0, 1), Weekdays: []time.Weekday{time.Tuesday, time.Thursday}, Time: "19:00", Zone: "Europe/Lisbon", Alarm: 30},
	} {
		of := "four-weeks"
		if id == "morning-wheel" || id == "throwers" {
			of = "clay-hands"
		}
		if err := st.CreateGroup(ctx, studio, of, id, "maren", g); err != nil {
			return err
		}
	}
	return nil
}

// throwers are in the morning group and have said how their days went, as made-up people do.
func throwers(ctx context.Context, st *store.Store, studio string, today time.Time) error {
	lib := movement.Shipped()
	g, err := st.GetGroup(ctx, studio, "morning-wheel")
	if err != nil {
		return err
	}
	d, err := st.Series.Get(ctx, studio, g.SeriesID)
	if err != nil {
		return err
	}
	s, err := plan.ReadSeries(d.Doc, lib)
	if err != nil {
		return err
	}
	dates, err := g.Group.Dates(s)
	if err != nil {
		return err
	}
	gone := 0
	for _, x := range dates {
		if x.Date.Before(today) {
			gone++
		}
	}
	people, err := simulated(s, g.Group, gone)
	if err != nil {
		return err
	}
	for i, id := range []string{"perpetua", "anselm", "ines", "odile", "bartholomew", "marit", "jonah"} {
		if err := st.Join(ctx, studio, g.ID, id, time.Time{}); err != nil {
			return err
		}
		for _, x := range dates {
			said := people[i].Who.Said[x.Day]
			if said == nil {
				continue
			}
			c := *said
			c.ID = fmt.Sprintf("demo-%s-day-%03d-told", id, x.Day)
			if err := st.SaveCheckIn(ctx, studio, id, g.ID, g.SeriesID, &c); err != nil {
				return err
			}
		}
		for k, ch := range people[i].Who.Choices {
			if err := st.SaveChoice(ctx, studio, id, g.ID, fmt.Sprintf("demo-%s-%d", id, k), ch); err != nil {
				return err
			}
		}
	}
	return nil
}

// simulatedBefore keeps what made-up people did: it is the same whenever they do it again.
var simulatedBefore sync.Map

func simulated(s *plan.Series, g *group.Group, days int) ([]progress.Simulated, error) {
	key := fmt.Sprint(g.Start.Format(time.DateOnly), days)
	if p, ok := simulatedBefore.Load(key); ok {
		return p.([]progress.Simulated), nil
	}
	p, err := progress.Simulate(context.Background(), movement.Shipped(), s, g, 7, days, 1)
	if err == nil {
		simulatedBefore.Store(key, p)
	}
	return p, err
}

// laidBefore keeps what was laid: it is the same whenever it is laid again.
var laidBefore sync.Map

// laid lays a brief from a day on.
func laid(words string, from time.Time) (*plan.Series, error) {
	key := words + from.Format(time.DateOnly)
	if s, ok := laidBefore.Load(key); ok {
		return s.(*plan.Series), nil
	}
	b, err := brief.Parse(words, movement.Shipped(), from)
	if err != nil {
		return nil, err
	}
	b.Start = from
	l, err := lay.Series(context.Background(), movement.Shipped(), b, lay.Options{})
	if err != nil {
		return nil, err
	}
	s, err := l.Document(movement.Shipped(), from, 0)
	if err == nil {
		laidBefore.Store(key, s)
	}
	return s, err
}

// runs logs four classes of the last days. Set-ups take longer than planned, as they do; where repetitions were
// counted aloud with the pedal, two were lost on the left of one row.
func runs(ctx context.Context, st *store.Store, studio string, plans map[string]*plan.Session, today time.Time, zone *time.Location) error {
	for i, r := range []struct {
		plan, teacher, note string
		ago, hour, min      int
		slow                float64 // set-ups and changes, taken over planned
		short               int     // repetitions lost on the left of one row
	}{
		{"thursday-mat", "tobias", "The order is known by now. Criss-cross lost its count.", 7, 18, 30, 1.5, 0},
		{"wrists-and-upper-back", "maren", "", 4, 9, 30, 1.1, 0},
		{"two-long-holds", "maren", "Cushions for two.", 3, 9, 30, 1, 0},
		{"between-firings", "tobias", "Bartholomew sat for the lunges.", 2, 9, 30, 1.35, 2},
	} {
		p := plans[r.plan]
		tl, err := timeline.Build(p, movement.Shipped())
		if err != nil {
			return err
		}
		day := today.AddDate(0, 0, -r.ago)
		led := &run.Run{
			ID: fmt.Sprintf("demo-run-%d", i+1), Session: r.plan, Rev: 1, Title: p.Title, Teacher: r.teacher, Asked: p.Target, Steps: run.StepsOf(tl, tl),
			Started: time.Date(day.Year(), day.Month(), day.Day(), r.hour, r.min, 0, 0, zone).UTC(),
		}
		led.Events = happened(led.Steps, r.slow, r.short, r.note)
		if err := st.SaveRun(ctx, studio, led); err != nil {
			return err
		}
	}
	return nil
}

// happened leads the steps: talk and changes slower by a factor, ended by hand; in the first row with a left side
// of more than four repetitions, the left counted by hand and cut short.
func happened(steps []run.Step, slow float64, short int, note string) []run.Event {
	out := []run.Event{{Does: run.Began}}
	at, counted := clock.Span(0), plan.Path{}
	for i := range steps {
		s := &steps[i]
		does, taken, byHand := run.SetUp, s.S, false
		switch {
		case s.Kind.Working():
			does = run.Work
		case s.Kind != timeline.Rest:
			taken, byHand = s.S.Times(slow), slow != 1
		}
		out = append(out, run.Event{At: at, Does: does, Step: i})
		if short > 0 && (s.Side == timeline.Right || s.Side == timeline.Left) && s.Reps > 4 && (counted == plan.Path{} || counted == s.Row) {
			counted = s.Row
			n, each := s.Reps, s.S/clock.Span(s.Reps)
			if s.Side == timeline.Left {
				n -= short
			}
			taken, byHand = each*clock.Span(n), true
			for k := range n {
				out = append(out, run.Event{At: at + each*clock.Span(k+1), Does: run.Rep, Hand: true})
			}
		}
		at += taken
		if byHand {
			out = append(out, run.Event{At: at, Does: run.MovedOn})
		}
	}
	if note != "" {
		out = append(out, run.Event{At: at, Does: run.Note, Text: note})
	}
	return append(out, run.Event{At: at, Does: run.Ended})
}

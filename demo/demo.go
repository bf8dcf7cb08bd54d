// Package demo is the demo scenario: a community pottery whose throwers want their hips, wrists and
// upper back back. People and places are invented.
package demo

import (
	"context"
	"embed"
	"encoding/json"
	"fmt"
	"time"

	"wavekine/core/movement"
	"wavekine/core/plan"
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
		{ID: "perpetua", Name: "Perpetua Lyle", Watch: "wrists", Note: "throws four days a week", Level: 2},
		{ID: "anselm", Name: "Anselm Okafor", Note: "came with the kiln repair", Level: 2},
		{ID: "ines", Name: "Ines Caldecott", Watch: "neck", Note: "head down in the abdominals", Level: 1},
		{ID: "bartholomew", Name: "Bartholomew Finch", Watch: "knees, does not get down to the floor on cold days", Level: 1},
		{ID: "odile", Name: "Odile Brandt", Watch: "low bone density", Note: "no loaded rounding", Level: 1},
	} {
		m.StudioID = studio
		if err := st.SaveMover(ctx, m); err != nil {
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
		doc, err := json.Marshal(p)
		if err != nil {
			return false, err
		}
		c := store.Change{Title: p.Title, Doc: doc, Says: "New session", By: "maren"}
		p.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if r.Movement != "" {
				c.Rows = append(c.Rows, store.Row{Movement: r.Movement, Level: max(1, r.Level), Dose: r.Dose.String()})
			}
		})
		if err := st.CreatePlan(ctx, studio, n, c); err != nil {
			return false, err
		}
	}
	local := now.In(zone)
	today := time.Date(local.Year(), local.Month(), local.Day(), 0, 0, 0, 0, time.UTC)
	if err := series(ctx, st, studio, today.AddDate(0, 0, -4)); err != nil {
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
	doc, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return st.CreateSeries(ctx, studio, "off-the-wheel", store.Change{Title: s.Title, Doc: doc, Says: "New series", By: "maren", Start: s.Start, Days: len(s.Days)})
}

// runs logs four classes of the last days. Set-ups take longer than planned, as they do.
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
		run := store.Run{
			StudioID: studio, ID: fmt.Sprintf("demo-run-%d", i+1), PlanID: r.plan, PlanRev: 1, Title: p.Title, TeacherID: r.teacher, Note: r.note, Finished: true,
			StartedAt: time.Date(day.Year(), day.Month(), day.Day(), r.hour, r.min, 0, 0, zone), PromisedMS: int64(p.Target), PlannedMS: int64(tl.Total),
		}
		at := map[string]int{}
		lost := r.short
		for k := range tl.Steps {
			s := &tl.Steps[k]
			name := "Rest"
			if s.Move != nil {
				name = s.Move.Name
			}
			taken, reps := s.S, s.Reps
			if !s.Kind.Working() && s.Kind != timeline.Rest {
				taken = s.S.Times(r.slow)
			}
			if lost > 0 && s.Side == timeline.Left && s.Reps > 4 {
				taken, reps, lost = s.S.Times(float64(s.Reps-lost)/float64(s.Reps)), s.Reps-lost, 0
			}
			key := s.Row.String() + s.Side.String() + s.Kind.String()
			n, ok := at[key]
			if !ok {
				n = len(run.Rows)
				at[key] = n
				run.Rows = append(run.Rows, store.RunRow{Place: s.Row.String(), Name: name, Side: s.Side.String(), Kind: s.Kind.String()})
			}
			w := &run.Rows[n]
			w.PlannedMS += int64(s.S)
			w.TakenMS += int64(taken)
			w.PlannedReps += s.Reps
			w.Reps += reps
			run.TakenMS += int64(taken)
		}
		if err := st.SaveRun(ctx, run); err != nil {
			return err
		}
	}
	return nil
}

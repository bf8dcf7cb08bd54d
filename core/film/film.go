// Package film is what a class needs that is taught to a camera: labels to lay over the picture, chapters, a description, and where the film could be cut. All of it
// comes from the plan or, better, from a run: what was really taken, at the time it was.
package film

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/lead"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// Shot is one thing that is done in a film: from when to when, and what is said of it on the picture.
type Shot struct {
	From, To clock.Span // in the film
	Row      plan.Path
	Name     string
	Side     string // as the viewer sees it: "right leg", "right leg, on the left of the picture"; empty: both or none
	Dose     string // what was done of it, or is planned: "8 times", "hold 0:30"
	Easier   string
	Works    bool // it is work; else the way to it
	First    bool // the first of its row
}

// Film is a class on film.
type Film struct {
	Title string
	Shots []Shot
	End   clock.Span // of the class, in the film
	Begin clock.Span // and its begin
}

// ErrBefore says that an offset leaves nothing of a class in the film.
var ErrBefore = errors.New("with this offset all of the class lies before the film begins: the offset is how many seconds of film there are before the class begins")

// FarOffset is the largest offset that is taken either way; judgement: no film of a class begins a day before it.
const FarOffset = 24 * 60 * clock.Minute

// OfPlan is a class as it is planned, beginning at an offset in the film.
func OfPlan(s *plan.Session, tl *timeline.Timeline, offset clock.Span) (*Film, error) {
	f := &Film{Title: s.Title, Begin: offset, End: tl.Total + offset}
	steps := lead.Steps(s, tl)
	met := map[plan.Path]bool{}
	for i := range tl.Steps {
		st := &tl.Steps[i]
		x := Shot{From: st.At + offset, To: st.End() + offset, Row: st.Row, Works: st.Kind.Working(), First: !met[st.Row], Dose: muchSaid(st.Kind, st.Side, st.Reps, st.Breaths, st.S)}
		met[st.Row] = true
		x.said(&steps[i], s)
		f.Shots = append(f.Shots, x)
	}
	return f.cut()
}

// said puts in what the plan says of a step.
func (x *Shot) said(st *lead.Step, s *plan.Session) {
	x.Name, x.Easier = st.Name, st.Easier
	if n, times := strings.CutSuffix(x.Dose, " times"); st.EachWay && times {
		if k, err := strconv.Atoi(n); err == nil && k%2 == 0 {
			x.Dose = fmt.Sprintf("%d each way", k/2)
		}
	}
	if st.Limb != "" || st.Side == "right" || st.Side == "left" {
		x.Side = sideSeen(st, s.Style.Mirror != plan.NotMirrored)
	}
}

// sideSeen is a side as the viewer sees it.
func sideSeen(st *lead.Step, mirrored bool) string {
	if st.Side != "right" && st.Side != "left" {
		if st.Side == "alternating" {
			return "one side, then the other"
		}
		return ""
	}
	limb := st.Limb
	if limb == "" {
		limb = "side"
	}
	said := st.Side + " " + limb
	if st.Facing == "front" && !mirrored {
		other := map[string]string{"right": "left", "left": "right"}[st.Side]
		return said + ", on the " + other + " of the picture"
	}
	return said
}

// muchSaid is how much is done in words.
func muchSaid(kind timeline.Kind, side timeline.Side, reps, breaths int, s clock.Span) string {
	switch {
	case !kind.Working():
		return ""
	case kind == timeline.Pulse && reps > 0:
		return count(reps, "pulse")
	case reps > 0 && side == timeline.Alternating:
		return fmt.Sprintf("%d in all", reps)
	case reps > 0:
		return count(reps, "time")
	case breaths > 0:
		return count(breaths, "breath")
	case kind == timeline.Hold:
		return "hold " + s.String()
	}
	return s.String()
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// OfRun is a class as it was taken, beginning at an offset in the film. The plan may be nil, or have changed since: what of it stands no longer where it did is said
// from the run alone.
func OfRun(r *run.Run, s *plan.Session, tl *timeline.Timeline, offset clock.Span) (*Film, error) {
	f := &Film{Title: r.Title, Begin: offset, End: offset}
	if n := len(r.Events); n > 0 {
		f.End += r.Events[n-1].At
	}
	var steps []lead.Step
	same := s != nil && tl != nil && len(tl.Steps) == len(r.Steps)
	if same {
		steps = lead.Steps(s, tl)
	}
	met := map[plan.Path]bool{}
	visits := r.Visits()
	for i := range visits {
		v := &visits[i]
		st := &r.Steps[v.Step]
		if v.Ended == run.ByBack && v.Taken() < 3*clock.Second { // only passed through on the way back
			continue
		}
		x := Shot{From: v.From + offset, To: v.To + offset, Row: st.Row, Name: st.Name, Works: st.Kind.Working(), First: !met[st.Row]}
		met[st.Row] = true
		reps, breaths := v.Count, 0
		if n, how := r.Reps(v); how != run.LeftOut {
			reps = n
		}
		if st.Reps == 0 && st.Breaths > 0 {
			reps, breaths = 0, reps
		}
		x.Dose = muchSaid(st.Kind, st.Side, reps, breaths, (v.Taken()+clock.Second/2)/clock.Second*clock.Second)
		if same && steps[v.Step].Row == st.Row.String() && steps[v.Step].Name == st.Name {
			x.said(&steps[v.Step], s)
			if v.Level > 0 && steps[v.Step].EasyLvl == v.Level {
				x.Easier = "" // it is what is shown
			}
		} else if st.Side == timeline.Right || st.Side == timeline.Left {
			x.Side = st.Side.String() + " side"
		}
		f.Shots = append(f.Shots, x)
	}
	if len(f.Shots) == 0 {
		return nil, errors.New("of this class only the length is known: there is nothing to put on a film")
	}
	return f.cut()
}

// cut leaves out what lies before the film begins.
func (f *Film) cut() (*Film, error) {
	if f.Begin > FarOffset || f.Begin < -FarOffset {
		return nil, fmt.Errorf("an offset of %s: at most a day either way", f.Begin)
	}
	if f.End <= 0 {
		return nil, ErrBefore
	}
	f.Shots = slices.DeleteFunc(f.Shots, func(x Shot) bool { return x.To <= 0 })
	if len(f.Shots) == 0 {
		return nil, ErrBefore
	}
	for i := range f.Shots {
		f.Shots[i].From = max(0, f.Shots[i].From)
	}
	f.Begin = max(0, f.Begin)
	return f, nil
}

// Within says that what a class has lies within a film of a length; the error names what does not.
func (f *Film) Within(length clock.Span) error {
	if length <= 0 || f.End <= length {
		return nil
	}
	for i := range f.Shots {
		if x := &f.Shots[i]; x.To > length {
			return fmt.Errorf("the film is %s long, and with this offset the class ends at %s: from %s at %s on it lies behind the end of the film", length, f.End, x.Name, x.From)
		}
	}
	return nil
}

// Description says what the film is: what, how long, kit, who it is for, cautions, days.
func Description(s *plan.Session, tl *timeline.Timeline, lib *movement.Library, fr lead.Frame, length clock.Span) string {
	var b strings.Builder
	b.WriteString(s.Title + "\n")
	if fr.Day > 0 {
		fmt.Fprintf(&b, "Day %d of %d.\n", fr.Day, fr.Days)
	}
	if length == 0 {
		length = tl.Total
	}
	fmt.Fprintf(&b, "%s\n", Minutes(length))
	if len(s.Focus) > 0 {
		fmt.Fprintf(&b, "About: %s.\n", lead.And(s.Focus))
	}
	if a := s.Audience.String(); a != "" {
		fmt.Fprintf(&b, "For: %s.\n", a)
	}
	if lo, hi := levels(s, lib); hi > 0 {
		if lo == hi {
			fmt.Fprintf(&b, "Shown at level %d; easier options are said.\n", hi)
		} else {
			fmt.Fprintf(&b, "Shown at levels %d to %d; easier options are said.\n", lo, hi)
		}
	}
	if len(fr.Kit) > 0 {
		fmt.Fprintf(&b, "Bring: %s.\n", lead.And(fr.Kit))
	} else {
		b.WriteString("No kit.\n")
	}
	for _, c := range fr.Cautions {
		fmt.Fprintf(&b, "Take care, %s\n", strings.TrimRight(c, ".")+".")
	}
	b.WriteString("Stop where it hurts, and ask whoever treats you.\n")
	if fr.Tomorrow != "" {
		fmt.Fprintf(&b, "Next: %s.\n", strings.TrimRight(fr.Tomorrow, "."))
	}
	return b.String()
}

// Minutes says a length the way films are announced.
func Minutes(s clock.Span) string {
	m := int((s + 30*clock.Second) / clock.Minute)
	if m < 2 {
		return s.Said()
	}
	return fmt.Sprintf("%d minutes", m)
}

// levels are the lowest and the highest that are shown.
func levels(s *plan.Session, lib *movement.Library) (lo, hi int) {
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(lib)
		if err != nil || m == nil || len(m.Levels) < 2 {
			return
		}
		n := max(1, r.Level)
		if r.Demo > 0 {
			n = r.Demo
		}
		if lo == 0 || n < lo {
			lo = n
		}
		hi = max(hi, n)
	})
	return lo, hi
}

// Unshown are the rows whose easier option nobody in the picture shows: there is one who shows it where somebody does the easier track.
func Unshown(s *plan.Session, lib *movement.Library, easierShown bool) (out []string) {
	if easierShown {
		return nil
	}
	s.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(lib)
		if err != nil || m == nil || m.Inline || r.Demo > 0 && r.Demo < max(1, r.Level) {
			return
		}
		if e := review.EasierOffered(r, m); len(e) > 0 && !slices.Contains(out, m.Name) {
			out = append(out, m.Name)
		}
	})
	return out
}

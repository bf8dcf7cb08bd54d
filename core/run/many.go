package run

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"time"

	"wavekine/core/clock"
	"wavekine/core/timeline"
)

// What many runs say together. All bounds are judgement.
const (
	leastOften = 3                // classes in which something was before "always" is said of it
	oftenShare = 2. / 3           // of them, in which it must have been over
	overBy     = 5 * clock.Second // in the middle
	goneFor    = 28 * 24 * time.Hour
)

// Often is a movement, or the way to one, that runs over the plan in most classes.
type Often struct {
	Movement, Name string
	Way            bool // setting it up and getting there; else its work
	Classes        int
	Over           int        // in so many of them it was over
	By             clock.Span // in the middle, a class
}

// Promise is how a session was planned beside how long it took.
type Promise struct {
	Session, Title string
	Classes        int
	Asked, Taken   clock.Span // of the last; taken in the middle
	Off            float64    // taken over what was asked for, less one, in the middle
	Wrong          bool       // it is off by more than a tenth, in two classes at least
}

// Percent says how far off it is: "+12 %".
func (p Promise) Percent() string { return fmt.Sprintf("%+.0f %%", 100*p.Off) }

// Rested is a movement that was led before and has not been for a while.
type Rested struct {
	Movement, Name string
	Last           time.Time
	Classes        int
}

// Point is a class in time: by how much it was off what was asked for, as a share.
type Point struct {
	At    time.Time
	Off   float64
	Title string
}

// Many is what many runs say together.
type Many struct {
	Classes  int
	Points   []Point // in time
	Often    []Often // those first that cost most time
	Promises []Promise
	Rested   []Rested // those first that rested longest
	Landed   int      // classes in which something was changed to land
}

// Together looks over runs, in any order. now is when it is asked: what was led last 28 days before is rested. Cost grows linearly with the events.
func Together(runs []*Run, now time.Time) (m Many) {
	runs = slices.SortedFunc(slices.Values(runs), func(a, b *Run) int { return a.Started.Compare(b.Started) })
	type key struct {
		movement string
		way      bool
	}
	by := map[key][]clock.Span{}
	names := map[string]string{}
	rested := map[string]*Rested{}
	sessions := map[string][]*Run{}
	for _, r := range runs {
		if !r.Finished() {
			continue
		}
		m.Classes++
		taken, _ := r.Taken()
		if promised := r.promised(); promised > 0 {
			m.Points = append(m.Points, Point{r.Started, float64(taken)/float64(promised) - 1, r.Title})
			sessions[r.Session] = append(sessions[r.Session], r)
		}
		if r.Remembered() {
			continue
		}
		if len(r.Landings()) > 0 {
			m.Landed++
		}
		over := map[key]clock.Span{}
		for _, v := range r.Visits() {
			s := &r.Steps[v.Step]
			if s.Movement == "" || v.Ended == ByBack || v.Ended == ByStop {
				continue
			}
			names[s.Movement] = s.Name
			over[key{s.Movement, !s.Kind.Working()}] += v.Taken() - v.S
			if s.Kind.Working() {
				x := rested[s.Movement]
				if x == nil {
					x = &Rested{Movement: s.Movement, Name: s.Name}
					rested[s.Movement] = x
				}
				if !x.Last.Equal(r.Started) {
					x.Last = r.Started
					x.Classes++
				}
			}
		}
		for k, o := range over {
			by[k] = append(by[k], o)
		}
	}
	for k, os := range by {
		o := Often{Movement: k.movement, Name: names[k.movement], Way: k.way, Classes: len(os), By: middle(os)}
		for _, x := range os {
			if x >= overBy {
				o.Over++
			}
		}
		if o.Classes >= leastOften && float64(o.Over) >= oftenShare*float64(o.Classes) && o.By >= overBy {
			m.Often = append(m.Often, o)
		}
	}
	slices.SortFunc(m.Often, func(a, b Often) int {
		return cmp.Or(cmp.Compare(b.By, a.By), cmp.Compare(a.Name, b.Name), cmp.Compare(b2i(a.Way), b2i(b.Way)))
	})
	for _, id := range slices.Sorted(maps.Keys(sessions)) {
		m.Promises = append(m.Promises, promiseOf(id, sessions[id]))
	}
	slices.SortStableFunc(m.Promises, func(a, b Promise) int { return cmp.Compare(max(b.Off, -b.Off), max(a.Off, -a.Off)) })
	for _, x := range rested {
		if now.Sub(x.Last) >= goneFor {
			m.Rested = append(m.Rested, *x)
		}
	}
	slices.SortFunc(m.Rested, func(a, b Rested) int { return cmp.Or(a.Last.Compare(b.Last), cmp.Compare(a.Name, b.Name)) })
	return m
}

// promised is the length that was asked for, else the one planned.
func (r *Run) promised() clock.Span {
	if r.Asked > 0 {
		return r.Asked
	}
	return r.Planned()
}

func promiseOf(id string, runs []*Run) Promise {
	last := runs[len(runs)-1]
	p := Promise{Session: id, Title: last.Title, Classes: len(runs), Asked: last.promised()}
	var took []clock.Span
	var off []float64
	for _, r := range runs {
		taken, _ := r.Taken()
		took = append(took, taken)
		off = append(off, float64(taken)/float64(r.promised())-1)
	}
	p.Taken = middle(took)
	slices.Sort(off)
	p.Off = (off[(len(off)-1)/2] + off[len(off)/2]) / 2
	p.Wrong = len(runs) >= 2 && max(p.Off, -p.Off) > 1./farOff
	return p
}

func middle(v []clock.Span) clock.Span {
	v = slices.Sorted(slices.Values(v))
	return (v[(len(v)-1)/2] + v[len(v)/2]) / 2
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// PartLed is planned beside taken for one part of a row on one side: its work, its pulses, its hold.
type PartLed struct {
	Row            string
	Name           string
	Side           timeline.Side
	Kind           timeline.Kind
	Planned, Taken clock.Span
	PlannedReps    int
	Reps           SideLed // what can be said of its repetitions
}

// PartsOf lists the working parts of a run, by row and side, in the order planned.
func PartsOf(lines []Line) (out []PartLed) {
	for i := range lines {
		l := &lines[i]
		if !l.Kind.Working() {
			continue
		}
		p := PartLed{Row: l.Row.String(), Name: l.Name, Side: l.Side, Kind: l.Kind, Planned: l.Planned, Taken: l.Taken, PlannedReps: l.PlannedReps}
		p.Reps.add(l)
		out = append(out, p)
	}
	return out
}

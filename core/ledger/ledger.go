// Package ledger adds up what a class works: seconds and effort-seconds by region of the body, by direction
// of the spine and by side, and says in words what the class is about.
package ledger

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/timeline"
)

// Entry is one line of the ledger.
type Entry struct {
	Name   string
	Time   clock.Span // working time, weighted by how much the movement works it
	Effort float64    // effort x seconds, weighted likewise
	Right  clock.Span // the part of Time on one side only
	Left   clock.Span
	Share  float64 // of the effort of all entries of its kind, 0..1
}

// Ledger is what a class works. Entries come with the greatest effort first.
type Ledger struct {
	Regions    []Entry
	Directions []Entry // forward, back, side, turn: time in which the spine goes there
	Right      Entry
	Left       Entry
	Both       Entry
	Load       float64 // effort x minutes, as in the series
}

// Of adds up a timeline. Cost grows linearly with the steps.
func Of(tl *timeline.Timeline) Ledger {
	var l Ledger
	regions := make([]Entry, len(movement.Regions()))
	dirs := map[movement.Direction]*Entry{}
	order := []movement.Direction{movement.Forward, movement.Backward, movement.Sideways, movement.Turned}
	names := []string{"forward", "back", "to the side", "turned"}
	for i, d := range order {
		dirs[d] = &Entry{Name: names[i]}
	}
	for i, r := range movement.Regions() {
		regions[i].Name = r
	}
	sides := [4]*Entry{&l.Both, &l.Right, &l.Left, nil}
	l.Right.Name, l.Left.Name, l.Both.Name = "right", "left", "both"
	for i := range tl.Steps {
		s := &tl.Steps[i]
		if !s.Kind.Working() || s.Move == nil {
			continue
		}
		sec := s.S.Seconds()
		l.Load += s.Effort * sec / 60
		add := func(e *Entry, weight float64) {
			e.Time += s.S.Times(weight)
			e.Effort += weight * s.Effort * sec
			switch s.Side {
			case timeline.Right:
				e.Right += s.S.Times(weight)
			case timeline.Left:
				e.Left += s.S.Times(weight)
			case timeline.Alternating:
				e.Right += s.S.Times(weight / 2)
				e.Left += s.S.Times(weight / 2)
			}
		}
		for _, p := range s.Move.Shares() {
			add(&regions[p.Region], p.Weight)
		}
		for _, d := range s.Move.Spine {
			add(dirs[d], 1)
		}
		if s.Side == timeline.Alternating {
			add(&l.Right, .5)
			add(&l.Left, .5)
		} else if e := sides[s.Side]; e != nil {
			add(e, 1)
		}
	}
	sum := 0.0
	for _, e := range regions {
		sum += e.Effort
	}
	for _, e := range regions {
		if e.Time > 0 {
			if sum > 0 {
				e.Share = e.Effort / sum
			}
			l.Regions = append(l.Regions, e)
		}
	}
	slices.SortStableFunc(l.Regions, func(a, b Entry) int { return int(b.Effort*10) - int(a.Effort*10) })
	total := 0.0
	for _, d := range order {
		total += dirs[d].Effort
	}
	for _, d := range order {
		e := *dirs[d]
		if total > 0 {
			e.Share = e.Effort / total
		}
		l.Directions = append(l.Directions, e)
	}
	return l
}

// aboutFrom is the share of the effort from which a region is what a class is about, and the most that are
// named; judgement.
const (
	aboutFrom = .1
	aboutMost = 4
)

// About names what the class is about, from what it works most.
func (l Ledger) About() (out []string) {
	for _, e := range l.Regions {
		if e.Share >= aboutFrom && len(out) < aboutMost && e.Name != "breath" && e.Name != "balance" || len(out) == 0 && e.Share > 0 {
			out = append(out, e.Name)
		}
	}
	return out
}

// focusWords are the regions that words of a focus stand for.
var focusWords = map[string][]string{
	"core": {"abdominals", "deep core", "obliques"}, "abs": {"abdominals", "obliques"}, "waist": {"obliques"}, "glutes": {"gluteals"}, "seat": {"gluteals"},
	"back": {"upper back", "low back"}, "spine": {"upper back", "low back"}, "legs": {"thighs", "hamstrings", "gluteals"}, "arms": {"shoulders", "chest"},
	"hips": {"hips", "hip flexors", "gluteals"}, "hip": {"hips", "hip flexors", "gluteals"}, "shoulders": {"shoulders", "upper back"}, "feet": {"ankles"}, "calves": {"ankles"},
}

// RegionsOf are the regions a word of a focus stands for; none for words such as "whole body".
func RegionsOf(word string) []string {
	w := strings.ToLower(strings.TrimSpace(word))
	if rs, ok := focusWords[w]; ok {
		return rs
	}
	if slices.Contains(movement.Regions(), w) {
		return []string{w}
	}
	return nil
}

// meets is the share of the effort that a focus should get at least; judgement.
const meets = .15

// Compare says what the class is about and how that goes with what it says it is about. met is false where
// a word of the focus gets too little.
func (l Ledger) Compare(focus []string) (says string, met bool) {
	about := l.About()
	if len(about) == 0 {
		return "Nothing is worked yet.", true
	}
	says, met = "Works mostly "+join(about)+".", true
	var short []string
	for _, w := range focus {
		rs := RegionsOf(w)
		if rs == nil {
			continue
		}
		share := 0.0
		for _, e := range l.Regions {
			if slices.Contains(rs, e.Name) {
				share += e.Share
			}
		}
		if share < meets {
			short = append(short, fmt.Sprintf("%s gets %.0f %%", w, 100*share))
		}
	}
	if short != nil {
		return says + " It says it is about " + join(focus) + ": " + join(short) + " of the effort.", false
	}
	if len(focus) > 0 {
		says += " That goes with what it says it is about."
	}
	return says, true
}

func join(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}

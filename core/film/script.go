package film

import (
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/lead"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// Who shows which way where there are two or three in the picture; empty: nobody, and as planned whoever leads.
type Who struct{ Planned, Easier, Harder string }

// Line is a line of the running script: what is on from when, in keywords that are read at a glance.
type Line struct {
	At       clock.Span
	S        clock.Span // how long, with the way to it
	Part     string     // the title of its section, where it begins one
	What     string
	Dose     string
	Side     string // as the viewer sees it
	Do       string // the teacher's own limb, how they face, where on the mat
	Keywords string
	Easier   string // with who shows it
	Harder   string
	Care     string
	Way      string // how to get there, and kit to fetch
	Talk     bool   // it is opening or closing
}

// Script is the running script of a class: a line for each row, and for each other side or round of it. Opening and closing are the first and the last line.
func Script(s *plan.Session, tl *timeline.Timeline, opening, closing lead.Talk, who Who) []Line {
	steps := lead.Steps(s, tl)
	mirrored := s.Style.Mirror != plan.NotMirrored
	out := []Line{{S: opening.S, What: "Opening", Keywords: keywordsOf(strings.Join(opening.Lines, " "), 12), Talk: true}}
	kit, section := "", 0
	type key struct {
		row   plan.Path
		side  timeline.Side
		round int
		set   int
	}
	var last key
	var way []string
	at := clock.Span(-1)
	for i := range tl.Steps {
		st, l := &tl.Steps[i], &steps[i]
		if at < 0 {
			at = st.At
		}
		if !st.Kind.Working() {
			switch {
			case st.Move == nil || st.Kind == timeline.Rest:
				out = append(out, Line{At: st.At, S: st.S, What: l.Name, Keywords: st.Says})
				at = -1
			case st.Kind == timeline.Position:
				way = append(way, st.Says)
			}
			continue
		}
		k := key{st.Row, st.Side, st.Round, st.Set}
		if k == last { // another part of the same
			x := &out[len(out)-1]
			x.S += st.S
			x.Dose += " + " + muchSaid(st.Kind, st.Side, st.Reps, st.Breaths, st.S)
			at = -1
			continue
		}
		x := Line{At: at, S: st.End() - at, What: l.Name, Dose: muchSaid(st.Kind, st.Side, st.Reps, st.Breaths, st.S), Side: sideSeen(l, mirrored)}
		if l.EachWay {
			x.Dose = fmt.Sprintf("%d each way", st.Reps/2)
		}
		if st.Row.Section != section {
			section = st.Row.Section
			x.Part = s.Sections[section-1].Title
		}
		told := l.Plain
		if mirrored {
			told = l.Mirrored
		}
		x.Do = join(", ", strings.SplitN(told.Rest, ";", 2)[0], told.Lie, map[string]string{"side": "from the side", "back": "back to the camera"}[l.Facing], onMat(l.OnMat))
		if st.Row != last.row {
			x.Keywords = keywordsOf(l.Says, 9)
			x.Easier, x.Harder, x.Care = shownBy(l.Easier, who.Easier), shownBy(l.Harder, who.Harder), l.Care // cautions are said whole
			if l.Kit != kit {
				if kit = l.Kit; kit != "" {
					way = append(way, "fetch "+kit)
				}
			}
		} else if l.Check != nil {
			x.Keywords = keywordsOf(l.Check.Feel+" "+l.Check.Look, 8)
		}
		if who.Planned != "" && (who.Easier != "" || who.Harder != "") {
			x.Do = join(", ", x.Do, "as planned: "+who.Planned)
		}
		x.Way = strings.Join(way, ", ")
		out, last, way, at = append(out, x), k, nil, -1
	}
	return append(out, Line{At: tl.Total, S: closing.S, What: "Closing", Keywords: keywordsOf(strings.Join(closing.Lines, " "), 12), Talk: true})
}

func onMat(where string) string {
	if where == "" {
		return ""
	}
	return where + " of the mat"
}

func shownBy(option, who string) string {
	if option == "" || who == "" {
		return option
	}
	return option + " (" + who + ")"
}

func join(with string, ws ...string) string {
	return strings.Join(slices.DeleteFunc(ws, func(w string) bool { return w == "" }), with)
}

// small are words that keywords do without.
var small = strings.Fields("the a an and then is are it its your you")

// keywordsOf are the words of a text that are needed to say it, sentence by sentence, about so many: what is begun is said to its end.
func keywordsOf(text string, most int) string {
	var out []string
	n := 0
	for _, sentence := range strings.FieldsFunc(text, func(r rune) bool { return r == '.' || r == ';' || r == '?' || r == '!' }) {
		var ws []string
		if n >= most {
			break
		}
		for _, w := range strings.Fields(sentence) {
			if slices.Contains(small, strings.ToLower(strings.Trim(w, ",:()"))) {
				continue
			}
			n++
			ws = append(ws, w)
		}
		if len(ws) > 0 {
			out = append(out, strings.TrimRight(strings.Join(ws, " "), ",:"))
		}
	}
	return strings.Join(out, " · ")
}

// Head says what a script is of.
func Head(tl *timeline.Timeline, opening, closing lead.Talk) string {
	return fmt.Sprintf("%s moving, opening %s, closing %s, %s in all", tl.Total, opening.S, closing.S, tl.Total+opening.S+closing.S)
}

package bench

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/board"
	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/solve"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/web/kit"
)

// proposal is a change shown before it is made: fitting to the promised length, or the best order.
type proposal struct {
	Op, Title, Says         string
	Changes                 []solve.Change
	Else                    []string // what else could change, where the doses do not do
	Before, After           []byte
	BeforeWords, AfterWords string
	Take                    bool
	Mend                    string
	Days                    []board.Change // of a series
	Scope                   string
	To                      string // the length of a cut
	Watch                   string // what those on the list watch
	Kinder                  []kinderChange
}

// kinderChange is one row that is changed for somebody on the list.
type kinderChange struct{ Row, Name, Now, Why, Whose string }

// listed is for whom a class is made kinder.
type listed struct {
	who, said string
	changes   []kinderChange
}

// kinder works out what would be changed for those on the list of a class, and for whom.
func kinder(a *kit.Kit, c *gin.Context, cl *kit.Class) (*adapt.Version, listed, error) {
	var l listed
	list := a.OnList(c, cl.ID)
	var topics []movement.Topic
	var who, said []string
	for _, w := range list {
		who = append(who, w.Name)
		for _, t := range w.Topics {
			if !slices.Contains(topics, t) {
				topics, said = append(topics, t), append(said, string(t))
			}
		}
	}
	if len(topics) == 0 {
		return nil, l, adapt.ErrNobody
	}
	l.who, l.said = strings.Join(who, ", "), strings.Join(said, "; ")
	v, err := adapt.As(kit.Bounded(c), cl.Plan, a.Lib, kit.Who(c).House.Limits, adapt.Mover{Topics: movement.TopicsIn(l.said)})
	if err != nil {
		return nil, l, err
	}
	for i := range v.Changes {
		ch := &v.Changes[i]
		k := kinderChange{Row: ch.Row.String(), Name: ch.Name, Why: ch.Why, Whose: strings.Join(ch.Whose(list), ", ")}
		switch ch.Does {
		case adapt.Leave:
			k.Now = "left out"
		case adapt.Instead:
			k.Now = ch.Now.Name
		case adapt.AtLevel:
			k.Now = fmt.Sprintf("level %d", ch.Now.Level)
		default:
			k.Now = ch.Says
		}
		l.changes = append(l.changes, k)
	}
	return v, l, nil
}

// propose previews what a command would change, before it does: fit, best order, a mend of a finding. What is
// shown has been through the gate, so that it can be taken.
func propose(a *kit.Kit, c *gin.Context) {
	cl, err := a.Class(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := proposal{Op: c.Query("what")}
	var cmd plan.Command
	switch v.Op {
	case "fit":
		if cl.Plan.Target == 0 {
			a.Refuse(c, review.ErrNoTarget)
			return
		}
		f, err := review.FitTo(kit.Bounded(c), cl.Plan, a.Lib, cl.Plan.ToMove(), kit.Who(c).House.Limits)
		if err != nil {
			a.Fail(c, err)
			return
		}
		cmd, v.Changes, v.Says, v.Else, v.Take = &plan.Become{Session: f.Session}, f.Changes, f.Says, f.Else, len(f.Changes) > 0
		v.Title = "Fit to " + cl.Plan.Target.String()
		if f.Reached && len(f.Changes) == 0 {
			v.Says = "It fits already."
		}
	case "order":
		o, err := review.OrderOf(kit.Bounded(c), cl.Plan, a.Lib, kit.Who(c).House.Limits)
		if err != nil {
			a.Fail(c, err)
			return
		}
		cmd, v.Title, v.Take, v.Says = &plan.Become{Session: o.Session}, "Best order", o.Better(), o.Says()
	case "cut":
		var to plan.Length
		if err := to.UnmarshalText([]byte(c.Query("to"))); err != nil || to.Span == 0 {
			a.Refuse(c, fmt.Errorf("cut to %q: say how long it may be, as in 5:00", c.Query("to")))
			return
		}
		cut, err := solve.CutTo(kit.Bounded(c), cl.Plan, a.Lib, to.Span)
		if err != nil {
			a.FailEdit(c, err)
			return
		}
		cmd, v.Title, v.Says, v.Take, v.To = &plan.Become{Session: cut.Session}, "Cut to "+to.String(), cut.Says(), len(cut.Dropped) > 0, to.String()
	case "kinder":
		k, watch, err := kinder(a, c, cl)
		if err != nil {
			a.FailEdit(c, err)
			return
		}
		cmd, v.Title, v.Kinder, v.Watch, v.Take = &plan.Become{Session: k.Session}, "Kinder for those on the list", watch.changes, watch.said, len(k.Changes) > 0
		v.Says = "For " + watch.who + "."
		if !v.Take {
			v.Says += " Nothing has to be changed for them."
		}
		if len(k.Notes) > 0 {
			v.Says += " " + strings.Join(k.Notes, " ")
		}
	case "mend":
		f, m, ok := review.Find(cl.Findings, c.Query("id"))
		if !ok {
			a.Refuse(c, review.ErrGone)
			return
		}
		cmd, v.Title, v.Take, v.Mend = m, m.Says, true, m.ID
		v.Says = f.Says + ". " + f.Detail
	case "carry":
		v.Scope = c.Query("scope")
		ch, err := carried(a, c, cl, c.Request.URL.Query())
		if err != nil {
			a.FailEdit(c, err)
			return
		}
		v.Title, v.Days, v.Take = ch.Says, board.Diff(cl.Series, ch.Series, a.Lib), true
		a.Render(c, http.StatusOK, "bench", "proposal", v)
		return
	default:
		a.Refuse(c, kit.ErrUnknown)
		return
	}
	ch, err := plan.Apply(cl.Plan, a.Lib, cmd)
	if err != nil {
		a.FailEdit(c, err)
		return
	}
	next := ch.Session
	tl, err := timeline.Build(next, a.Lib)
	if err != nil {
		a.Fail(c, err)
		return
	}
	words := func(t clock.Span, tl *timeline.Timeline) string {
		return fmt.Sprintf("%s, %d changes of position", t, tl.Sums.PositionsChanged)
	}
	v.BeforeWords, v.AfterWords = words(cl.TL.Total, cl.TL), words(tl.Total, tl)
	v.Before, v.After = draw.SmallWave(cl.TL, 300, 56, "Now: "+draw.WaveWords(cl.TL)), draw.SmallWave(tl, 300, 56, "Then: "+draw.WaveWords(tl))
	a.Render(c, http.StatusOK, "bench", "proposal", v)
}

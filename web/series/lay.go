package series

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/brief"
	"wavekine/core/lay"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

// briefView is a brief as it is understood while it is typed.
type briefView struct {
	Said   string // in its normal form
	Days   int    // class days
	Rest   int
	Before string // the words before what was not understood, the word, and what was expected
	Word   string
	Wants  string
	Could  []string // what cannot be had
	Fields []fieldView
	Line   string // the whole brief, where a field was said anew
}

// fieldView is one field of a brief.
type fieldView struct {
	Name, ID, Words, Like string
}

// likes are how a field is said.
var likes = map[brief.Field]string{
	"days": "21 days from monday", "weekdays": "on mondays and thursdays", "minutes": "12 to 15 min", "easy days": "easy days 8 min", "about": "hips and upper back", "weeks": "week 1 spine, week 2 hips",
	"kit": "no kit, or: with chair and band", "people": "mixed", "rest": "rest sundays", "shape": "ramp", "peak": "peak day 20", "soft days": "soft last day", "stretch days": "stretch day 7", "learn": "learn bird dog and bridge",
	"leave out": "leave out roll-over", "new": "2 new a day", "every day": "every day low lunge stretch 2 min each side", "levels": "levels 1 to 3 over the weeks", "stretching": "stretch every day 5 min",
	"tests": "test side plank on days 1, 10 and 20 in seconds", "from": "from my sessions", "order": "classical order", "sides": "one side through", "count": "counted in breaths",
	"hardest": "hardest as a finisher", "warm-up": "warm-up assumed",
}

// fieldsOf are all fields with what a brief says of them.
func fieldsOf(a *kit.Kit, b *brief.Brief) (out []fieldView) {
	said := map[brief.Field]string{}
	if b != nil {
		for _, p := range b.Parts(a.Lib) {
			said[p.Field] = p.Words
		}
	}
	for _, f := range brief.Fields() {
		name := string(f)
		out = append(out, fieldView{strings.ToUpper(name[:1]) + name[1:], strings.ReplaceAll(name, " ", "-"), said[f], likes[f]})
	}
	return out
}

// understood reads a brief for the studio's day; nothing typed is nothing said.
func understood(a *kit.Kit, c *gin.Context, words string) (b *brief.Brief, v briefView, err error) {
	if strings.TrimSpace(words) == "" {
		return nil, v, nil
	}
	if b, err = brief.Parse(words, a.Lib, a.Now(c)); err != nil {
		v.pointAt(err, words)
		return nil, v, err
	}
	v.say(a, b)
	return b, v, nil
}

// pointAt shows which word was not understood.
func (v *briefView) pointAt(err error, words string) {
	var e *brief.Error
	if !errors.As(err, &e) {
		return
	}
	runes := []rune(words)
	v.Before, v.Word = string(runes[:min(max(e.Column-1, 0), len(runes))]), e.Word
	if v.Wants = "expected " + e.Expected; len(e.Readings) > 0 {
		v.Wants = "could be " + strings.Join(e.Readings, ", ") + ": say which"
	}
}

// say says a brief in its normal form, with its days and its fields.
func (v *briefView) say(a *kit.Kit, b *brief.Brief) {
	days, _ := lay.Days(b)
	v.Said, v.Could = b.String(a.Lib), lay.Before(a.Lib, b)
	for _, d := range days {
		if d.Kind == lay.Rest {
			v.Rest++
		} else {
			v.Days++
		}
	}
	v.Fields = fieldsOf(a, b)
}

// showBrief says how a brief is understood; with a field it is said anew by that field first, and the line follows.
func showBrief(a *kit.Kit, c *gin.Context) {
	field, said := c.GetQuery("field")
	if !said {
		_, v, _ := understood(a, c, c.Query("brief")) // what is wrong with it is in the view
		a.Render(c, http.StatusOK, "serieslist", "briefed", v)
		return
	}
	var v briefView
	of := brief.Field(strings.ReplaceAll(field, "-", " "))
	if of == "warm up" {
		of = "warm-up"
	}
	b, err := brief.Set(c.Query("brief"), of, c.Query("words"), a.Lib, a.Now(c))
	switch {
	case err != nil && strings.TrimSpace(c.Query("words")) == "" && len(strings.Split(c.Query("brief"), ",")) == 1: // nothing is said of anything any more
		v.Fields, v.Line = fieldsOf(a, nil), " "
	case err != nil:
		v.pointAt(err, c.Query("words"))
	default:
		v.say(a, b)
		v.Line = v.Said
	}
	a.Render(c, http.StatusOK, "serieslist", "briefed", v)
}

// laySeries lays a brief and keeps the series. Where a script waits it is laid in the background, with how far it is and a way to stop.
func (js *jobs) laySeries(a *kit.Kit, c *gin.Context) {
	words := c.Request.PostForm.Get("brief")
	b, v, err := understood(a, c, words)
	if err == nil && b == nil {
		err = errors.New("say what the series should be: 21 days from monday, 15 min, hips")
	}
	if err != nil {
		if v.Word != "" {
			err = fmt.Errorf("%q: %s", v.Word, v.Wants)
		}
		a.Refuse(c, err)
		return
	}
	seed := 0
	if s := c.Request.PostForm.Get("seed"); s != "" {
		if seed, err = strconv.Atoi(s); err != nil || seed < 0 || seed > math.MaxInt32 {
			a.Refuse(c, kit.ErrUnknown)
			return
		}
	}
	now := a.Now(c)
	if b.Start.IsZero() { // where nothing is said it begins tomorrow
		d := now.AddDate(0, 0, 1)
		b.Start = time.Date(d.Year(), d.Month(), d.Day(), 0, 0, 0, 0, time.UTC)
	}
	own, err := material(a, c, b.From)
	if err != nil {
		a.Fail(c, err)
		return
	}
	templates, err := pieces(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	o := lay.Options{Seed: uint64(seed), Pieces: templates, Limits: kit.Who(c).House.Limits, Material: own}
	who, id := kit.Who(c), store.NewID()
	work := func(ctx context.Context, progress func(day, of int)) (string, error) {
		o.Progress = progress
		laid, err := lay.Series(ctx, a.Lib, b, o)
		if err != nil {
			return "", err
		}
		doc, err := laid.Document(a.Lib, now, seed)
		if err != nil {
			return "", err
		}
		doc.Zone = who.Studio.Zone
		doc.Note = plan.Joined(laid.CouldNot)
		ch, err := plan.ApplySeries(&plan.Series{}, a.Lib, &plan.BecomeSeries{Series: doc, Says: "Laid from a brief"})
		if err != nil {
			return "", err
		}
		if err := context.Cause(ctx); err != nil { // stopped: nothing is kept
			return "", err
		}
		if err := a.Store.Series.Create(ctx, who.Studio.ID, id, store.Change{Doc: ch.Sealed, Says: ch.Says, By: who.Teacher.ID}); err != nil {
			return "", &layTrouble{err}
		}
		return "/series/" + id, nil
	}
	if c.GetHeader("HX-Request") == "" { // without a script the page waits
		to, err := work(c.Request.Context(), nil)
		var trouble *layTrouble
		switch {
		case c.Request.Context().Err() != nil: // whoever asked has gone
		case errors.As(err, &trouble):
			a.FailSave(c, trouble.err)
		case err != nil:
			a.Refuse(c, err)
		default:
			c.Redirect(http.StatusSeeOther, to)
		}
		return
	}
	j := js.start(who.Teacher.ID, work)
	select {
	case <-j.ended:
	case <-time.After(atOnce):
	}
	j.answer(a, c)
}

// rowView is a row of a day's class with its reason.
type rowView struct {
	Name, Level, Dose, Because string
}

// rowsOf lists the rows of a day that has its class with it.
func rowsOf(a *kit.Kit, d *plan.Day) (out []rowView) {
	if d.Session == nil {
		return nil
	}
	i := 0
	d.Session.Each(func(_ plan.Path, b *plan.Block, r *plan.Row) {
		v := rowView{Name: r.Name(), Dose: r.Dose.String()}
		if m, ok := a.Lib.Get(r.Movement); ok {
			v.Name = m.Name
			if len(m.Levels) > 1 {
				v.Level = fmt.Sprintf("level %d", max(1, r.Level))
			}
			if v.Dose == "" {
				v.Dose = m.As(max(1, r.Level)).Dose.String()
			}
		}
		if b.On > 0 {
			v.Dose = fmt.Sprintf("%s on, %s off, %d rounds", b.On, b.Off, b.Rounds)
		}
		if i < len(d.Rows) {
			v.Because = d.Rows[i].Because
		}
		i++
		out = append(out, v)
	})
	return out
}

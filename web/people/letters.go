package people

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/post"
	"wavekine/store"
	"wavekine/web/kit"
)

// Letters to movers: the invitation with the link, a reminder on the day and for the week to who asked for it, one when days were missed, and what a teacher writes.

// writer writes letters in a house's wording.
type writer struct {
	office  *post.Office
	studio  store.Studio
	house   kit.House
	teacher string
	by      string
	today   time.Time // in the studio's zone, midnight UTC
}

func writerOf(a *kit.Kit, c *gin.Context) writer {
	w := kit.Who(c)
	return writer{a.Post, w.Studio, w.House, w.Teacher.Name, w.Teacher.ID, kit.Midnight(a.Now(c))}
}

// values are what every letter may have.
func (w *writer) values(m store.Mover, series string) map[string]string {
	return map[string]string{"name": kit.First(m.Name), "series": series, "teacher": kit.First(w.teacher), "studio": w.studio.Name}
}

func (w *writer) letter(m store.Mover, kind, once, subject, words string) store.Letter {
	return store.Letter{StudioID: w.studio.ID, MoverID: m.ID, Once: once, Kind: kind, Name: m.Name, Address: m.Email, Subject: plan.Clip(subject, 180), Words: words}
}

// invite writes the letter with the link. again makes another one where one was written.
func (w *writer) invite(ctx context.Context, m store.Mover, co *kit.Course, again bool) (bool, error) {
	v := w.values(m, co.Series.Title)
	if ds, err := co.Group.Group.Dates(co.Series); err == nil && len(ds) > 0 {
		from := ds[0].Date
		for _, d := range ds { // who comes later begins with what is next
			if !d.Off && !d.Date.Before(w.today) {
				from = d.Date
				break
			}
		}
		v["from"] = from.Format("Monday 2 January")
	}
	wording := w.house.Wording.Whole()
	subject, words := export.Letter(wording.Invite, v)
	once := "invite " + co.Group.ID
	if again {
		once += " " + store.NewID()
	}
	return w.office.Write(ctx, w.letter(m, "invite", once, subject, words), w.by)
}

// writeLetter writes to one person: the invitation, or a teacher's own words.
func writeLetter(a *kit.Kit, c *gin.Context) {
	ctx, who, f := c.Request.Context(), kit.Who(c), c.Request.PostForm
	m, err := a.Store.GetMover(ctx, who.Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	w := writerOf(a, c)
	if g := f.Get("invite"); g != "" {
		gs, gerr := a.Store.MoverGroups(ctx, who.Studio.ID, m.ID)
		if err = gerr; err == nil {
			i := slices.IndexFunc(gs, func(o store.Group) bool { return o.ID == g })
			if i < 0 {
				a.Refuse(c, errors.New("they are not in that group: put them into it first"))
				return
			}
			var co *kit.Course
			if co, err = a.CourseOf(ctx, who.Studio.ID, a.Lib, who.House.Limits, gs[i]); err == nil {
				_, err = w.invite(ctx, m, co, f.Get("again") != "")
			}
		}
	} else {
		err = w.own(ctx, m, f.Get("subject"), f.Get("words"))
	}
	if answerLetter(a, c, err) {
		c.Redirect(http.StatusSeeOther, "/people/"+m.ID)
	}
}

// answerLetter answers what went wrong with a letter; true where nothing did.
func answerLetter(a *kit.Kit, c *gin.Context, err error) bool {
	var bad badLetter
	switch {
	case err == nil:
		return true
	case errors.As(err, &bad) || errors.Is(err, post.ErrNoKey):
		a.Refuse(c, err)
	default:
		a.Fail(c, err)
	}
	return false
}

// badLetter is a letter that cannot be written as it is.
type badLetter struct{ says string }

func (e badLetter) Error() string { return e.says }

// own writes a teacher's own words, with the link under them.
func (w *writer) own(ctx context.Context, m store.Mover, subject, words string) error {
	subject, words = strings.Join(strings.Fields(subject), " "), strings.TrimSpace(strings.ReplaceAll(words, "\r\n", "\n"))
	if subject == "" || words == "" || utf8.RuneCountInString(subject) > 180 || utf8.RuneCountInString(words) > 4000 {
		return badLetter{"a letter needs a subject of up to 180 characters and words of up to 4000"}
	}
	words = strings.ReplaceAll(words, "{link}", "")
	if w.office.Seals() {
		words += "\n\nYour page: {link}"
	}
	words += fmt.Sprintf("\n\n%s, %s\n", kit.First(w.teacher), w.studio.Name)
	// Told twice, by a second press or after half of a group was written to, it is the same letter for as long as it is the same day.
	sum := sha256.Sum256([]byte(subject + "\x00" + words))
	_, err := w.office.Write(ctx, w.letter(m, "own", fmt.Sprintf("own %s %x", w.today.Format(time.DateOnly), sum[:12]), subject, words), w.by)
	return err
}

// writeGroup writes to everybody in a group.
func writeGroup(a *kit.Kit, c *gin.Context) {
	ctx, f := c.Request.Context(), c.Request.PostForm
	r, err := roomOf(a, c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	w := writerOf(a, c)
	for _, m := range r.Movers {
		if f.Get("invite") != "" {
			_, err = w.invite(ctx, m.In.Mover, r.Course, false)
		} else {
			err = w.own(ctx, m.In.Mover, f.Get("subject"), f.Get("words"))
		}
		if err != nil {
			break
		}
	}
	if answerLetter(a, c, err) {
		c.Redirect(http.StatusSeeOther, "/letters")
	}
}

type letterView struct {
	store.Letter
	When, StateWords string
}

var stateWords = map[string]string{"waiting": "waits", "sending": "is being sent", "sent": "sent", "failed": "not sent", "unsure": "not known"}

func viewLetter(a *kit.Kit, c *gin.Context, l store.Letter) letterView {
	v := letterView{l, l.MadeAt.In(kit.Who(c).Zone).Format("Mon 2 Jan 15:04"), stateWords[l.State]}
	if a.Post.StandIn() && l.State == "sent" {
		v.StateWords = "in the letterbox"
	}
	if l.Address == "" && l.State == "waiting" {
		v.StateWords = "no address"
	}
	return v
}

type letterboxView struct {
	Letters      []letterView
	StandIn, Off bool
}

// letterbox lists the studio's letters.
func letterbox(a *kit.Kit, c *gin.Context) {
	ls, err := a.Store.Letters(c.Request.Context(), kit.Who(c).Studio.ID, "", 200)
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := letterboxView{StandIn: a.Post.StandIn(), Off: kit.Who(c).House.PostOff}
	for _, l := range ls {
		v.Letters = append(v.Letters, viewLetter(a, c, l))
	}
	a.Show(c, "letters", "Letters", "People", v)
}

type oneLetterView struct {
	letterView
	Body, Link string
	StandIn    bool
}

// showLetter shows a letter as it arrives. In the stand-in its link works; where letters are really sent nobody but the mover sees it.
func showLetter(a *kit.Kit, c *gin.Context) {
	l, err := a.Store.GetLetter(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err != nil {
		a.Fail(c, err)
		return
	}
	v := oneLetterView{letterView: viewLetter(a, c, l), StandIn: a.Post.StandIn()}
	if v.StandIn && a.Post != nil {
		v.Body, v.Link, _ = a.Post.Words(&l, a.AddressOf(c))
	} else {
		v.Body = strings.ReplaceAll(l.Words, "{link}", "(their own link)")
	}
	a.Show(c, "letter", l.Subject, "People", v)
}

// letterFile gives a letter of the stand-in as an .eml file.
func letterFile(a *kit.Kit, c *gin.Context) {
	l, err := a.Store.GetLetter(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err == nil && !a.Post.StandIn() {
		err = store.ErrNotFound // its link is nobody's but the mover's
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	m, err := a.Post.Message(&l, a.AddressOf(c))
	if err != nil {
		a.Problem(c, http.StatusConflict, kit.Sentence(err))
		return
	}
	var b strings.Builder
	if _, err := m.WriteTo(&b); err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, "letter-"+l.ID+".eml", "message/rfc822", []byte(b.String()))
}

func sendAgain(a *kit.Kit, c *gin.Context) {
	_, err := a.Store.GetLetter(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"))
	if err == nil {
		if err = a.Store.SendAgain(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id")); errors.Is(err, store.ErrNotFound) { // it was sent meanwhile
			err = nil
		}
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/letters/"+c.Param("id"))
}

// When letters go out, in the studio's own time; judgement.
const (
	remindFrom = 6  // o'clock: reminders of the day
	remindTo   = 20 // later nobody is reminded of today
	missedFrom = 2  // days missed before we miss somebody
)

// Rounds writes the letters that are due in every studio: a reminder on the day and one on Monday for the week to who asked for it, and one, once a group, to who missed days. Each is written
// once however often this is asked.
func Rounds(ctx context.Context, a *kit.Kit, now time.Time) error {
	studios, err := a.Store.PostedStudios(ctx)
	if err != nil {
		return err
	}
	var errs []error
	for _, st := range studios {
		if err := roundOf(ctx, a, st, now); err != nil {
			errs = append(errs, err)
			slog.ErrorContext(ctx, "rounds", "studio", st.ID, "err", err)
		}
	}
	return errors.Join(errs...)
}

func roundOf(ctx context.Context, a *kit.Kit, st store.Studio, now time.Time) error {
	h := kit.ReadHouse(st.House)
	zone, err := time.LoadLocation(st.Zone)
	if err != nil {
		zone = time.UTC
	}
	now = now.In(zone)
	if h.PostOff || now.Hour() < remindFrom || now.Hour() >= remindTo || !a.Post.Seals() {
		return nil
	}
	today := kit.Midnight(now)
	lib, err := a.LibraryAt(ctx, st.ID, st.Library)
	if err != nil {
		return err
	}
	owner, err := a.Store.OwnerName(ctx, st.ID)
	if err != nil {
		return err
	}
	w := writer{a.Post, st, h, owner, "", today}
	rooms, err := Rooms(a, ctx, st.ID, lib, h, today)
	if err != nil {
		return err
	}
	for _, r := range rooms {
		if err := w.round(ctx, a, r, now); err != nil {
			return err
		}
	}
	return nil
}

// round writes to the movers of a group.
func (w *writer) round(ctx context.Context, a *kit.Kit, r *Room, now time.Time) error {
	co := r.Course
	var texts *export.Announcements
	announce := func() (*export.Announcements, error) {
		if texts == nil {
			days, err := export.DaysOf(co.Series, co.Group.Group, co.Lib, nil)
			if err != nil {
				return nil, err
			}
			t := export.Announce(co.Series, co.Group.Group, days, w.house.Wording.Whole(), co.Lib)
			texts = &t
		}
		return texts, nil
	}
	wording := w.house.Wording.Whole()
	for _, m := range r.Movers {
		if !m.In.Remind || m.In.Email == "" {
			continue
		}
		v := w.values(m.In.Mover, co.Series.Title)
		for _, d := range m.Days {
			if d.State != progress.OnNow {
				continue
			}
			t, err := announce()
			if err != nil {
				return err
			}
			v["title"], v["announcement"] = co.Title(d.Day), dayText(t, d.Day)
			subject, words := export.Letter(wording.Remind, v)
			if _, err := w.office.Write(ctx, w.letter(m.In.Mover, "remind", fmt.Sprintf("remind %s %d %s", co.Group.ID, d.Day, d.Date.Format(time.DateOnly)), subject, words), w.by); err != nil {
				return err
			}
		}
		if now.Weekday() == time.Monday {
			week := 0
			for _, d := range m.Days {
				if (d.State == progress.OnNow || d.State == progress.Coming) && d.Date.Sub(r.Today) < 7*24*time.Hour && week == 0 {
					week = (d.Day-1)/7 + 1
				}
			}
			t, err := announce()
			if err != nil {
				return err
			}
			if week > 0 && week <= len(t.Weeks) {
				v["announcement"] = t.Weeks[week-1]
				subject, words := export.Letter(wording.Weekly, v)
				if _, err := w.office.Write(ctx, w.letter(m.In.Mover, "weekly", fmt.Sprintf("weekly %s %s", co.Group.ID, r.Today.Format(time.DateOnly)), subject, words), w.by); err != nil {
					return err
				}
			}
		}
		if n := progress.Behind(m.Days); n >= missedFrom {
			v["days"] = counted(n, "day", "days")
			subject, words := export.Letter(wording.Missed, v)
			if _, err := w.office.Write(ctx, w.letter(m.In.Mover, "missed", "missed "+co.Group.ID, subject, words), w.by); err != nil {
				return err
			}
		}
	}
	return nil
}

func dayText(t *export.Announcements, day int) string {
	for _, d := range t.Days {
		if d.N == day {
			return d.Text
		}
	}
	return ""
}

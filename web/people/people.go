package people

import (
	"embed"
	"errors"
	"fmt"
	"html/template"
	"maps"
	"net/http"
	"net/mail"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html
var files embed.FS

// Screen is who comes, and what they watch.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.GET("/people", a.With(showPeople))
		in.POST("/people", a.With(saveMover))
		in.GET("/people-read", a.Bare(readBack))
		in.GET("/people/:id", a.With(showPerson))
		in.POST("/people/:id/delete", a.With(deleteMover))
		in.POST("/people/:id/erase", a.With(erase))
		in.POST("/people/:id/notes", a.With(notes))
		in.POST("/people/:id/groups", a.With(inGroups))
		in.POST("/people/:id/link", a.With(makeLink))
		in.POST("/people/:id/links/end", a.With(endLinks))
		in.POST("/people/:id/letter", a.With(writeLetter))
		in.GET("/people/:id/version", a.With(showVersion))
		in.GET("/groups/:id", a.With(showGroup))
		in.GET("/groups/:id/review", a.With(showReview))
		in.POST("/groups/:id/decide", a.With(decide))
		in.POST("/groups/:id/steps", a.With(steps))
		in.POST("/groups/:id/people", a.With(groupPeople))
		in.POST("/groups/:id/letter", a.With(writeGroup))
		in.GET("/letters", a.With(letterbox))
		in.GET("/letters/:id", a.With(showLetter))
		in.GET("/letters/:id/file", a.With(letterFile))
		in.POST("/letters/:id/again", a.With(sendAgain))
	},
	Funcs: func(*kit.Kit) template.FuncMap {
		return template.FuncMap{"nobody": func() personForm { return formOf(store.Mover{}) }, "joined": topicWords, "levels": func() []int { return []int{1, 2, 3, 4, 5} }}
	},
}

// watchView is what was understood of what somebody has to watch: the topics, and what is only kept as a note.
type watchView struct {
	Topics []topicView
	Notes  string
	Words  string // that were read
}

// topicView is a topic that can be confirmed.
type topicView struct {
	Name string
	On   bool
}

func readWatch(words string) (topics []movement.Topic, notes string) {
	topics, only := movement.WatchOf(words)
	return topics, strings.Join(only, "; ")
}

func topicWords(ts []movement.Topic) string {
	names := make([]string, len(ts))
	for i, t := range ts {
		names[i] = string(t)
	}
	return strings.Join(names, "; ")
}

// watched is what was read of somebody's words, with what was confirmed of it. What was confirmed and is not in the words stays, ticked.
func watched(words string, confirmed store.Topics) watchView {
	topics, only := readWatch(words)
	v := watchView{Notes: only, Words: strings.TrimSpace(words)}
	for _, t := range topics {
		v.Topics = append(v.Topics, topicView{string(t), confirmed == nil || slices.Contains(confirmed, string(t))})
	}
	for _, t := range confirmed {
		if !slices.ContainsFunc(v.Topics, func(o topicView) bool { return o.Name == t }) {
			v.Topics = append(v.Topics, topicView{t, true})
		}
	}
	return v
}

// readBack says what is understood of what is being typed, so that it can be confirmed.
func readBack(a *kit.Kit, c *gin.Context) {
	words := c.Query("watch")
	if utf8.RuneCountInString(words) > 500 {
		words = string([]rune(words)[:500])
	}
	a.Render(c, http.StatusOK, "people", "understood", watched(words, nil))
}

// personForm is the form of a person.
type personForm struct {
	store.Mover
	Watched  watchView
	Unlooked bool // nobody has confirmed what was read
}

func formOf(m store.Mover) personForm {
	return personForm{m, watched(m.Watch, m.Topics), m.Topics == nil && m.ID != "" && m.Watch != ""}
}

// fields are what the form of a person holds, by the names of its fields.
func fields(m store.Mover) map[string]string {
	topics := notLooked
	if m.Topics != nil {
		topics = strings.Join(m.Topics, "; ")
	}
	return map[string]string{"name": m.Name, "watch": m.Watch, "note": m.Note, "level": strconv.Itoa(m.Level), "email": m.Email, "topics": topics}
}

// notLooked stands for topics that nobody has confirmed.
const notLooked = "not looked at"

// called is what a field is called on the page.
var called = map[string]string{"name": "Name", "watch": "To watch", "note": "Note", "level": "Usual level", "email": "E-mail", "topics": "What was read of it"}

// put makes a person of what the fields hold.
func put(m *store.Mover, f map[string]string) error {
	level, err := strconv.Atoi(f["level"])
	m.Name, m.Watch, m.Note, m.Level, m.Email = f["name"], f["watch"], f["note"], level, f["email"]
	m.Topics = nil
	if words := f["topics"]; words != notLooked {
		m.Topics = store.Topics{}
		for t := range strings.SplitSeq(words, "; ") {
			if t == "" {
				continue
			}
			if !known(t) {
				return kit.ErrUnknown
			}
			if !slices.Contains(m.Topics, t) {
				m.Topics = append(m.Topics, t)
			}
		}
	}
	switch {
	case m.Name == "" || utf8.RuneCountInString(m.Name) > 120 || !utf8.ValidString(m.Name):
		return errors.New("a name: from 1 to 120 characters")
	case utf8.RuneCountInString(m.Watch) > 500 || utf8.RuneCountInString(m.Note) > 2000 || !utf8.ValidString(m.Watch+m.Note):
		return errors.New("what to watch has at most 500 characters, a note 2000")
	case err != nil || level < 0 || level > 20:
		return errors.New("the usual level: 1 to 20, or 0 for as planned")
	}
	if m.Email != "" {
		if at, err := mail.ParseAddress(m.Email); err != nil || at.Address != m.Email || len(m.Email) > 254 {
			return fmt.Errorf("%q is no e-mail address: it looks like wren@example.org", m.Email)
		}
	}
	return nil
}

// known tells whether a topic is one.
func known(t string) bool {
	return slices.Contains(movement.Topics(), movement.Topic(t)) || t == string(movement.LowBack) || t == string(movement.Pregnancy)
}

// revOf reads a revision that a form names.
func revOf(text string) (int, error) {
	var rev plan.Number
	if err := rev.UnmarshalText([]byte(text)); err != nil || rev.N < 1 {
		return 0, kit.ErrUnknown
	}
	return rev.N, nil
}

func saveMover(a *kit.Kit, c *gin.Context) {
	w := kit.Who(c)
	typed := map[string]string{"level": "0"}
	for k := range called {
		if v, sent := c.GetPostForm(k); sent {
			typed[k] = strings.TrimSpace(v)
		}
	}
	// What was ticked counts for the words that it was read from. Words that came after were not looked at: then what they say holds until somebody does.
	switch read, looked := c.GetPostForm("looked"); {
	case looked && strings.TrimSpace(read) == typed["watch"] && typed["watch"]+strings.Join(c.PostFormArray("topic"), "") != "":
		typed["topics"] = strings.Join(c.PostFormArray("topic"), "; ")
	case looked || c.PostForm("id") == "":
		typed["topics"] = notLooked
	}
	m := store.Mover{StudioID: w.Studio.ID, ID: c.PostForm("id")}
	whole := maps.Clone(typed)
	if _, sent := whole["topics"]; !sent {
		whole["topics"] = notLooked
	}
	if err := put(&m, whole); err != nil {
		a.Refuse(c, err)
		return
	}
	if m.ID == "" {
		m.ID = store.NewID()
		if err := a.Store.SaveMover(c.Request.Context(), m, w.Teacher.ID); err != nil {
			a.Fail(c, err)
			return
		}
		a.Forget(w.Studio.ID) // what they watch is looked for in classes at once
		c.Redirect(http.StatusSeeOther, "/people/"+m.ID)
		return
	}
	rev, err := revOf(c.PostForm("rev"))
	seen := rev
	if over := c.PostForm("over"); over != "" && err == nil { // what was changed meanwhile was seen
		seen, err = revOf(over)
	}
	if err != nil {
		a.Refuse(c, err)
		return
	}
	changeMover(a, c, m.ID, rev, seen, typed)
}

// changeMover puts the form on top of what was changed since it was shown.
func changeMover(a *kit.Kit, c *gin.Context, id string, rev, seen int, typed map[string]string) {
	ctx, w := c.Request.Context(), kit.Who(c)
	for {
		past, err := a.Store.MoverSince(ctx, w.Studio.ID, id, rev)
		if err == nil && (len(past) == 0 || past[len(past)-1].Rev != rev) {
			err = store.ErrNotFound
		}
		if errors.Is(err, store.ErrNotFound) {
			a.Problem(c, http.StatusConflict, "They were removed meanwhile. What you typed is still here; add them again if they come.")
			return
		}
		if err != nil {
			a.Fail(c, err)
			return
		}
		now, was, known := past[0], past[len(past)-1], past[len(past)-1]
		for _, p := range past {
			if p.Rev == seen {
				known = p
			}
		}
		out, changed, clashes := kit.Merge(fields(was.Mover), fields(known.Mover), fields(now.Mover), typed)
		if len(clashes) > 0 {
			showClash(a, c, now, clashes)
			return
		}
		if len(changed) == 0 {
			c.Redirect(http.StatusSeeOther, "/people/"+id)
			return
		}
		if _, looked := typed["topics"]; !looked && slices.Contains(changed, "watch") { // other words, and nobody looked at what they mean
			out["topics"] = notLooked
		}
		if err := put(&now.Mover, out); err != nil {
			a.Refuse(c, err)
			return
		}
		err = a.Store.SaveMover(ctx, now.Mover, w.Teacher.ID)
		var conflict *store.Conflict
		switch {
		case errors.As(err, &conflict): // a third was faster: on top of theirs
			continue
		case err != nil && !errors.Is(err, store.ErrNotFound):
			a.Fail(c, err)
			return
		case err == nil:
			a.Forget(w.Studio.ID)
			c.Redirect(http.StatusSeeOther, "/people/"+id)
			return
		}
	}
}

// clashView is what two have changed differently of one person.
type clashView struct {
	ID, Name, By string
	Rev          int
	Clashes      []kit.Clash
}

func showClash(a *kit.Kit, c *gin.Context, now store.MoverRevision, clashes []kit.Clash) {
	for i := range clashes {
		clashes[i].Key = called[clashes[i].Key]
	}
	v := clashView{now.ID, now.Name, now.By, now.Rev, clashes}
	if !kit.IsPart(c) {
		a.Problem(c, http.StatusConflict, fmt.Sprintf("%s was changed meanwhile. Nothing of yours is kept; go back, and look again.", now.Name))
		return
	}
	c.Header("HX-Retarget", "#message")
	c.Header("HX-Reswap", "innerHTML")
	a.Render(c, http.StatusConflict, "people", "clash", v)
}

func deleteMover(a *kit.Kit, c *gin.Context) {
	rev, err := revOf(c.PostForm("rev"))
	if err != nil {
		a.Refuse(c, err)
		return
	}
	err = a.Store.DeleteMover(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("id"), rev)
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.Problem(c, http.StatusConflict, "They were changed meanwhile. Nothing was removed; reload the page and look, then remove them.")
	case err != nil:
		a.Fail(c, err)
	default:
		a.Forget(kit.Who(c).Studio.ID)
		c.Redirect(http.StatusSeeOther, "/people")
	}
}

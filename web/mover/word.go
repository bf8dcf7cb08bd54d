package mover

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/core/progress"
	"wavekine/core/strict"
	"wavekine/core/timeline"
	"wavekine/store"
	"wavekine/web/kit"
)

// longestWord is how much of a check-in is read, in bytes.
const longestWord = 16 << 10

// readWord reads what was sent, with an answer in words where it is none.
func readWord(c *gin.Context) (*progress.CheckIn, error) {
	text, err := io.ReadAll(io.LimitReader(c.Request.Body, longestWord+1))
	if err != nil {
		return nil, err
	}
	if len(text) > longestWord {
		return nil, errors.New("it is too long: a line has at most " + strconv.Itoa(progress.MaxLine) + " characters")
	}
	w, err := progress.ReadCheckIn(text)
	var se *strict.Error
	if errors.As(err, &se) {
		return nil, fmt.Errorf("%s (%s)", se.Says, se.Path)
	}
	return w, err
}

// How far a phone's clock may be off, and how late a word may come; judgement. What lies further off is kept with the time at which it came.
const (
	clockOff = 24 * time.Hour
	lateBy   = 60 * 24 * time.Hour
)

// settle puts a time that cannot be right: a phone's clock may be set to anything.
func settle(w *progress.CheckIn, now time.Time) {
	if w.Told.After(now.Add(clockOff)) || w.Told.Before(now.Add(-lateBy)) {
		w.Told = now.UTC().Truncate(time.Second)
	}
}

// takeWord keeps what a mover says of a day. It answers only when it is stored; the same again is kept once.
func takeWord(a *kit.Kit, c *gin.Context, v *visit) {
	ctx := c.Request.Context()
	says := func(status int, says string) { c.AbortWithStatusJSON(status, gin.H{"error": says}) }
	w, err := readWord(c)
	if err != nil {
		says(http.StatusUnprocessableEntity, err.Error())
		return
	}
	g, err := a.Store.GetGroup(ctx, v.StudioID, c.Query("g"))
	if err == nil {
		var mine []store.Group
		if mine, err = a.Store.MoverGroups(ctx, v.StudioID, v.ID); err == nil && !slices.ContainsFunc(mine, func(o store.Group) bool { return o.ID == g.ID }) {
			err = store.ErrNotFound
		}
	}
	if errors.Is(err, store.ErrNotFound) {
		says(http.StatusNotFound, "you are not in that series any more; your teacher knows")
		return
	}
	if err != nil {
		fail(a, c, err)
		return
	}
	co, err := a.CourseOf(ctx, v.StudioID, v.lib, v.house.Limits, g)
	if err != nil {
		fail(a, c, err)
		return
	}
	if class, _ := co.Class(w.Day); class == nil {
		says(http.StatusUnprocessableEntity, fmt.Sprintf("day %d of this series has no class", w.Day))
		return
	}
	settle(w, a.Opt.Now())
	switch err := a.Store.SaveCheckIn(ctx, v.StudioID, v.ID, g.ID, g.SeriesID, w); {
	case errors.Is(err, store.ErrSaidOtherwise):
		says(http.StatusConflict, err.Error())
	case errors.Is(err, store.ErrNotFound):
		says(http.StatusNotFound, words["gone"])
	case err != nil:
		fail(a, c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"saved": w.ID, "says": w.Says()})
	}
}

// choose does about missed days what the mover has seen. What it means is worked out anew: where that is not what they saw, they look again.
func choose(a *kit.Kit, c *gin.Context, v *visit) {
	ctx := c.Request.Context()
	f := c.Request.PostForm
	x, _, err := v.inSeries(a, ctx, f.Get("g"))
	if err != nil {
		fail(a, c, err)
		return
	}
	if x == nil || x.co.Group.ID != f.Get("g") {
		say(a, c, http.StatusNotFound, words["nogroup"])
		return
	}
	ch, err := x.me.Who.Offer(x.co.Series, x.co.Group.Group, x.co.Loads(), progress.Kind(f.Get("kind")), v.today)
	if err != nil {
		say(a, c, http.StatusUnprocessableEntity, kit.Sentence(err)+" "+words["nothingmissed"])
		return
	}
	if f.Get("seen") != ch.Sign() {
		c.Redirect(http.StatusSeeOther, v.path()+"?g="+x.co.Group.ID+"&again=1#m-missed")
		return
	}
	id := f.Get("id")
	if len(id) < 8 || len(id) > 64 {
		id = store.NewID()
	}
	if err := a.Store.SaveChoice(ctx, v.StudioID, v.ID, x.co.Group.ID, id, ch); err != nil {
		fail(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, v.path()+"?g="+x.co.Group.ID)
}

// unchoose takes the last choice back.
func unchoose(a *kit.Kit, c *gin.Context, v *visit) {
	f := c.Request.PostForm
	if err := a.Store.UndoChoice(c.Request.Context(), v.StudioID, v.ID, f.Get("g"), f.Get("id")); err != nil && !errors.Is(err, store.ErrNotFound) {
		fail(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, v.path()+"?g="+f.Get("g"))
}

func remind(a *kit.Kit, c *gin.Context, v *visit) {
	if err := a.Store.Remind(c.Request.Context(), v.StudioID, v.ID, c.Request.PostForm.Get("want") == "yes"); err != nil {
		fail(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, v.path())
}

func askToErase(a *kit.Kit, c *gin.Context, v *visit) {
	if err := a.Store.AskToErase(c.Request.Context(), v.StudioID, v.ID); err != nil {
		fail(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, v.path())
}

// TakeOut is everything that is kept of a mover.
type TakeOut struct {
	Format  string            `json:"format"`
	Studio  string            `json:"studio"`
	Name    string            `json:"name"`
	Watch   string            `json:"watch,omitempty"`
	Topics  []string          `json:"topics"`
	Level   int               `json:"usual_level,omitempty"`
	Note    string            `json:"note,omitempty"`
	Email   string            `json:"email,omitempty"`
	Remind  bool              `json:"reminders"`
	Groups  []string          `json:"groups"`
	Joined  map[string]string `json:"joined,omitempty"` // by group, the date on which they came, where that was after its beginning
	Faults  []takenFault      `json:"corrected"`        // in a class
	Said    []takenWord       `json:"said"`
	Chosen  []takenChoice     `json:"chosen"`
	Decided []takenDecision   `json:"decided"`
	Notes   []takenNote       `json:"notes"`
	Letters []takenLetter     `json:"letters"`
	Before  []takenRevision   `json:"before"` // as they were kept earlier
	Links   []store.MoverLink `json:"links"`
}

type takenFault struct {
	At       time.Time `json:"at"`
	Movement string    `json:"movement"`
	Fault    string    `json:"fault"`
}

type takenWord struct {
	Series string            `json:"series"`
	At     time.Time         `json:"stored"`
	Word   *progress.CheckIn `json:"word"`
}

type takenChoice struct {
	At     time.Time       `json:"at"`
	Choice progress.Choice `json:"choice"`
}

type takenDecision struct {
	At       time.Time       `json:"at"`
	By       string          `json:"by"`
	Movement string          `json:"movement"`
	Does     string          `json:"does"`
	Rungs    int             `json:"rungs"`
	Doc      json.RawMessage `json:"seen"`
	Undone   bool            `json:"undone"`
}

type takenNote struct {
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Words string    `json:"words"`
}

type takenLetter struct {
	At      time.Time `json:"at"`
	Subject string    `json:"subject"`
	Words   string    `json:"words"`
	State   string    `json:"state"`
}

type takenRevision struct {
	At    time.Time `json:"at"`
	Name  string    `json:"name"`
	Watch string    `json:"watch,omitempty"`
	Note  string    `json:"note,omitempty"`
	Level int       `json:"usual_level,omitempty"`
}

// takeOut gives a mover all that is kept of them as a file.
func takeOut(a *kit.Kit, c *gin.Context, v *visit) {
	out, err := v.all(a, c)
	if err != nil {
		fail(a, c, err)
		return
	}
	b, err := json.MarshalIndent(out, "", "  ")
	if err != nil {
		fail(a, c, err)
		return
	}
	kit.Attach(c, kit.FileName("my data "+v.studio(), "json"), "application/json", b)
}

func (v *visit) all(a *kit.Kit, c *gin.Context) (out TakeOut, err error) {
	ctx := c.Request.Context()
	out = TakeOut{
		Format: "wavekine.person/1", Studio: v.studio(), Name: v.Name, Watch: v.Watch, Level: v.Level, Note: v.Note, Email: v.Email, Remind: v.Remind, Topics: []string{}, Groups: []string{},
		Said: []takenWord{}, Chosen: []takenChoice{}, Decided: []takenDecision{}, Notes: []takenNote{}, Letters: []takenLetter{}, Before: []takenRevision{}, Links: []store.MoverLink{},
	}
	for _, t := range kit.TopicsOf(v.Mover) {
		out.Topics = append(out.Topics, string(t))
	}
	gs, err := a.Store.MoverGroups(ctx, v.StudioID, v.ID)
	if err != nil {
		return out, err
	}
	for _, g := range gs {
		out.Groups = append(out.Groups, g.Group.Name)
	}
	ws, err := a.Store.WordsOf(ctx, v.StudioID, v.ID)
	if err != nil {
		return out, err
	}
	for _, w := range ws {
		out.Said = append(out.Said, takenWord{w.SeriesID, w.At, w.Said})
	}
	p, err := a.Store.PersonalRows(ctx, v.StudioID, v.ID)
	if err != nil {
		return out, err
	}
	out.Faults = []takenFault{}
	for _, x := range p.Faults {
		out.Faults = append(out.Faults, takenFault{x.At, x.Slug, x.Fault})
	}
	for _, g := range gs {
		if on, ok := p.Joined[g.ID]; ok {
			if out.Joined == nil {
				out.Joined = map[string]string{}
			}
			out.Joined[g.Group.Name] = on.Format(time.DateOnly)
		}
	}
	for _, x := range p.Choices {
		out.Chosen = append(out.Chosen, takenChoice{x.At, x.Choice})
	}
	for _, x := range p.Steps {
		out.Decided = append(out.Decided, takenDecision{x.At, x.Teacher, x.Movement, x.Does, x.Rungs, json.RawMessage(x.Doc), x.Undone != nil})
	}
	for _, x := range p.Notes {
		out.Notes = append(out.Notes, takenNote{x.At, x.By, x.Words})
	}
	for _, x := range p.Letters {
		out.Letters = append(out.Letters, takenLetter{x.MadeAt, x.Subject, x.Words, x.State})
	}
	past, err := a.Store.MoverSince(ctx, v.StudioID, v.ID, 1)
	if err != nil {
		return out, err
	}
	for _, x := range past {
		out.Before = append(out.Before, takenRevision{x.At, x.Name, x.Watch, x.Note, x.Level})
	}
	out.Links = append(out.Links, p.Links...)
	return out, nil
}

// calendar gives a mover their own dates.
func calendar(a *kit.Kit, c *gin.Context, v *visit) {
	x, _, err := v.inSeries(a, c.Request.Context(), c.Query("g"))
	if err == nil && x == nil {
		err = store.ErrNotFound
	}
	if err != nil {
		fail(a, c, err)
		return
	}
	g := *x.co.Group.Group
	g.Moves, g.Off = nil, nil
	for _, d := range x.days {
		g.Moves = append(g.Moves, group.Move{Day: d.Day, To: d.Date})
		if d.State == progress.LetGo || d.State == progress.CallOff {
			g.Off = append(g.Off, d.Day)
		}
	}
	stamp := x.co.Doc.UpdatedAt
	if x.co.Group.UpdatedAt.After(stamp) {
		stamp = x.co.Group.UpdatedAt
	}
	for _, ch := range x.me.Chosen {
		if ch.At.After(stamp) {
			stamp = ch.At
		}
	}
	cal, err := export.GroupCalendar(x.co.Series, &g, export.Issue{Key: x.co.Group.ID + "-" + v.ID, Sequence: x.co.Doc.Rev + x.co.Group.Rev + len(x.me.Words) + 2*len(x.me.Chosen), Stamp: stamp})
	if err != nil {
		fail(a, c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=900")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", cal)
}

// showSheet gives the day as a sheet to print.
func showSheet(a *kit.Kit, c *gin.Context, v *visit) {
	x, _, err := v.inSeries(a, c.Request.Context(), c.Query("g"))
	if err != nil {
		fail(a, c, err)
		return
	}
	if x == nil {
		say(a, c, http.StatusOK, words["nogroup"])
		return
	}
	day := x.dayOf()
	if n, err := strconv.Atoi(c.Query("day")); err == nil && n > 0 && n <= len(x.co.Series.Days) {
		day = n
	}
	ver, ok, err := a.Version(c.Request.Context(), x.co, x.me, day)
	if err != nil {
		fail(a, c, err)
		return
	}
	if !ok {
		say(a, c, http.StatusNotFound, words["noclass"])
		return
	}
	renderSheet(a, c, x.co, day, ver.Session, ver.Timeline)
}

type sheetView struct {
	Title string
	Sheet export.Sheet
	Wave  []byte
}

func renderSheet(a *kit.Kit, c *gin.Context, co *kit.Course, day int, s *plan.Session, tl *timeline.Timeline) {
	a.Render(c, http.StatusOK, "mover", "sheet", sheetView{fmt.Sprintf("%s, day %d: %s", co.Series.Title, day, co.Title(day)), export.SheetOf(s, tl, co.Lib), smallWave(tl)})
}

// manifest lets the page be put on a phone's screen.
func manifest(_ *kit.Kit, c *gin.Context, v *visit) { writeManifest(c, v.studio(), v.path()) }

func writeManifest(c *gin.Context, name, path string) {
	b, err := json.Marshal(gin.H{
		"name": name, "short_name": name, "start_url": path, "scope": path, "display": "standalone", "background_color": "#f6f4ef", "theme_color": "#17253d",
		"icons": []gin.H{{"src": "/m-icon.svg", "sizes": "any", "type": "image/svg+xml", "purpose": "any"}},
	})
	if err != nil {
		c.Status(http.StatusInternalServerError)
		return
	}
	c.Data(http.StatusOK, "application/manifest+json", b)
}

// icon is a wave on paper.
func icon(c *gin.Context) {
	c.Header("Cache-Control", "public, max-age=604800")
	c.Data(http.StatusOK, "image/svg+xml", []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 96 96"><rect width="96" height="96" rx="18" fill="#f6f4ef"/><path d="M10 48h76" stroke="#17253d" stroke-width="3"/><rect x="16" y="36" width="12" height="12" rx="3" fill="#c55c34"/><rect x="30" y="48" width="12" height="14" rx="3" fill="#1f807e"/><rect x="46" y="24" width="18" height="48" rx="4" fill="#48597a"/><rect x="68" y="40" width="12" height="16" rx="3" fill="#48597a"/></svg>`))
}

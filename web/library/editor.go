package library

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict"
	"wavekine/store"
	"wavekine/web/kit"
)

// editorLevel is one level in the editor.
type editorLevel struct {
	I                                int
	Changes, Family, Demand, Why     string
	Lighter, Stance, PerRep          string
	Pose, From                       posePanel
	HasFrom, Differs                 bool
	DemandNow, Says                  string
	Loads                            []loadBar
	OwnLoads, OwnKit, ExtraLoadsText string
}

type editorView struct {
	Slug     string
	Version  int
	F        url.Values
	Levels   []editorLevel
	Phases   []string
	Postures []movement.Posture
	Sides    []string
	Families []string
	Loads    []string
	Spines   []string
	Regions  []string
	Patterns []string
	Roles    []movement.Role
	Themes   []string
	Namings  []movement.Naming
	Library  []*movement.Movement // of which it may be a version
	Says     string
	At       string // the field that was refused
	Key      string // under which the browser keeps the draft
}

func editorOf(a *kit.Kit, f url.Values, version int) editorView {
	v := editorView{
		Slug: f.Get("slug"), Version: version, F: f, Phases: movement.Phases(), Postures: movement.Postures(), Sides: []string{"both", "each", "alternating"},
		Loads: []string{"hands", "no hands", "head up", "legs out", "kneeling", "head low", "rolling", "impact"}, Spines: []string{"forward", "back", "side", "turn"},
		Regions: movement.Regions(), Families: movement.Families(), Key: f.Get("slug"),
		Patterns: movement.Patterns(), Roles: movement.Roles(), Themes: movement.Themes(), Namings: movement.Namings(), Library: movement.Shipped().All(),
	}
	if v.Version == 0 {
		v.Key = "new"
		if was := f.Get("was"); was != "" {
			v.Key = "new " + f.Get("class") + " " + was
		}
	}
	for i := range levelCount(f) {
		get := func(k string) string { return f.Get(fmt.Sprintf("levels.%d.%s", i, k)) }
		l := editorLevel{I: i, Changes: get("changes"), Family: get("family"), Demand: get("demand"), Why: get("why"), Lighter: get("lighter"), Stance: get("stance"), PerRep: get("seconds_per_rep")}
		read := func(k string) (body.Pose, bool) {
			text := get(k)
			p, err := body.ReadPose([]byte(text))
			if err != nil && text != "" {
				l.Says = err.Error()
			}
			return p, err == nil && text != ""
		}
		pose, ok := read("pose")
		if !ok {
			pose, _ = body.Poses().Pose("standing")
		}
		l.Pose = panel(fmt.Sprintf("levels.%d.pose", i), pose)
		from, ok := read("from")
		l.HasFrom = ok
		if ok {
			l.From = panel(fmt.Sprintf("levels.%d.from", i), from)
		}
		for _, k := range append([]string{"spine", "spine-own"}, levelsOwn...) {
			l.Differs = l.Differs || f.Get(fmt.Sprintf("levels.%d.%s", i, k)) != ""
		}
		l.DemandNow, l.Loads = demandNow(l.Family, l.Stance, from, ok, pose)
		v.Levels = append(v.Levels, l)
	}
	return v
}

func showEditor(a *kit.Kit, c *gin.Context, title string, f url.Values, version int) {
	a.Show(c, "movement-edit", title, "Movements", editorOf(a, f, version), "js/movement.js")
}

// newMovement begins a movement from nothing or from another.
func newMovement(a *kit.Kit, c *gin.Context) {
	if c.Query("class") != "" {
		newFromRow(a, c)
		return
	}
	m, ok := a.Lib.Get(c.Query("from"))
	if !ok {
		standing, _ := body.Poses().Pose("standing")
		text, err := json.Marshal(standing)
		if err != nil {
			a.Fail(c, err)
			return
		}
		f := url.Values{
			"phase": {"build"}, "posture": {"standing"}, "sides": {"both"}, "seconds_per_rep": {"4.5"}, "dose": {"8 reps"},
			"levels.0.pose": {string(text)}, "levels.0.from": {string(text)}, "levels.0.changes": {""}, "levels.0.demand": {"2"},
		}
		showEditor(a, c, "New movement", f, 0)
		return
	}
	f, err := FormOf(m)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f.Set("name", m.Name+", ours")
	if was := movement.BaseSlug(m.Slug); !movement.IsOwn(was) {
		f.Set("version_of", m.Name) // what is known of the one is known of the other
	}
	f.Del("also")
	f.Del("slug")
	showEditor(a, c, "New movement", f, 0)
}

// newFromRow begins a movement from a row of a class that no library has: all that is known of it is filled in, its figure is that of the nearest movement or
// of the position. The words that a teacher says are asked for.
func newFromRow(a *kit.Kit, c *gin.Context) {
	c.AddParam("id", c.Query("class"))
	cl, err := a.Opened(c)
	if err != nil {
		a.Fail(c, err)
		return
	}
	var at plan.Path
	if err := at.UnmarshalText([]byte(c.Query("row"))); err != nil {
		a.Refuse(c, err)
		return
	}
	r := cl.Plan.Row(at)
	if r == nil || r.Inline == nil {
		a.Problem(c, http.StatusNotFound, "That row is a movement of the library by now.")
		return
	}
	f, err := formOfRow(a.Lib, r)
	if err != nil {
		a.Fail(c, err)
		return
	}
	f.Set("class", cl.ID)
	f.Set("was", r.Inline.Name)
	showEditor(a, c, "New movement", f, 0)
}

// editMovement opens the newest version of an own movement.
func editMovement(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(movement.BaseSlug(c.Param("slug")))
	if !ok || !m.Own {
		a.Problem(c, http.StatusNotFound, "The shared library is read-only: make your own movement from this one.")
		return
	}
	f, err := FormOf(m)
	if err != nil {
		a.Fail(c, err)
		return
	}
	showEditor(a, c, m.Name, f, m.Version)
}

// refuseAt answers a form that cannot be stored with the words and the field; nothing is lost, the page stays.
func refuseAt(a *kit.Kit, c *gin.Context, err error) {
	says := err.Error()
	var se *strict.Error
	if errors.As(err, &se) {
		c.Header("X-Field", fieldOf(se.Path))
		says = strings.ReplaceAll(fieldOf(se.Path), "_", " ") + ": " + se.Says
		if rest, ok := strings.CutPrefix(fieldOf(se.Path), "levels."); ok {
			n, field, _ := strings.Cut(rest, ".")
			i, _ := strconv.Atoi(n)
			says = fmt.Sprintf("level %d, %s: %s", i+1, strings.ReplaceAll(field, "_", " "), se.Says)
		}
	}
	a.Refuse(c, errors.New(says))
}

// saveMovement stores the form as a new version; do=level-copy, level-remove and show only redraw it.
func saveMovement(a *kit.Kit, c *gin.Context) {
	f := c.Request.PostForm
	do := f.Get("do")
	version, _ := strconv.Atoi(f.Get("version"))
	f.Del("do")
	f.Del("version")
	if do != "" {
		if err := changeLevels(f, do); err != nil {
			a.Refuse(c, err)
			return
		}
		a.Render(c, http.StatusOK, "movement-edit", "editor", editorOf(a, f, version))
		return
	}
	if version == 0 {
		f.Set("slug", movement.SlugOf(f.Get("name")))
	}
	m, err := movement.ReadOwn(documentOf(a, f), movement.Shipped())
	if err == nil {
		err = a.Lib.CheckNames(m)
	}
	if err != nil {
		refuseAt(a, c, err)
		return
	}
	now, err := storeMovement(a, c, m, version)
	if err != nil {
		refuseStored(a, c, err)
		return
	}
	to := "/movements/" + m.Base + "~" + strconv.Itoa(now)
	if was := f.Get("was"); was != "" && takeRows(a, c, f.Get("class"), was, m.Base) {
		to = "/sessions/" + url.PathEscape(f.Get("class"))
	}
	c.Header("HX-Redirect", to)
	c.Status(http.StatusNoContent)
}

// takeRows makes the rows of a class that a movement was made from rows of it. It is false where that cannot be, as when the class was deleted or changed
// meanwhile: the movement is stored anyway, and the class offers to use it.
func takeRows(a *kit.Kit, c *gin.Context, class, was, slug string) bool {
	fresh, err := a.Fresh(c)
	if err == nil {
		c.AddParam("id", class)
		var cl *kit.Class
		if cl, err = fresh.Opened(c); err == nil {
			var ch kit.Changed
			if ch, err = fresh.Do(c, cl, &plan.TakeMovement{Name: was, Movement: slug}); err == nil {
				_, err = fresh.Save(c, cl, ch)
			}
		}
	}
	if err != nil {
		slog.WarnContext(c.Request.Context(), "rows of a new movement", "class", class, "movement", slug, "err", err)
	}
	return err == nil
}

func storeMovement(a *kit.Kit, c *gin.Context, m *movement.Movement, version int) (int, error) {
	doc, err := movement.Seal(m, movement.Shipped())
	if err != nil {
		return 0, err
	}
	return a.Store.SaveMovement(c.Request.Context(), kit.Who(c).Studio.ID, m.Base, m.Name, version, doc, kit.Who(c).Teacher.ID)
}

func refuseStored(a *kit.Kit, c *gin.Context, err error) {
	var conflict *store.Conflict
	switch {
	case errors.As(err, &conflict):
		a.Problem(c, http.StatusConflict, "Somebody else stored a newer version meanwhile. Yours is still here: open theirs in another window and compare, then reload to make your change on top.")
	case errors.Is(err, store.ErrTaken):
		c.Header("X-Field", "name")
		a.Problem(c, http.StatusUnprocessableEntity, "name: a movement of that name is there already.")
	default:
		var se *strict.Error
		if errors.As(err, &se) {
			refuseAt(a, c, err)
			return
		}
		a.Fail(c, err)
	}
}

func movementDocument(a *kit.Kit, c *gin.Context) {
	m, ok := a.Lib.Get(c.Param("slug"))
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	b, err := json.MarshalIndent(m, "", "  ")
	if err != nil {
		a.Fail(c, err)
		return
	}
	kit.Attach(c, kit.FileName(m.Name, "json"), "application/json", append(b, '\n'))
}

// importMovement reads a wavekine.movement/1 document as a new own movement, or as a new version of the
// one of that slug.
func importMovement(a *kit.Kit, c *gin.Context) {
	file, err := c.FormFile("file")
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "Choose a file first: a wavekine.movement/1 document of at most 2 MB.")
		return
	}
	r, err := file.Open()
	if err != nil {
		a.Fail(c, err)
		return
	}
	defer func() { _ = r.Close() }()
	text, err := io.ReadAll(io.LimitReader(r, strict.MaxBytes+1))
	if err != nil {
		a.Fail(c, err)
		return
	}
	m, err := movement.ReadOwn(text, movement.Shipped())
	if err == nil {
		err = a.Lib.CheckNames(m)
	}
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "The document was not read. "+err.Error()+". Nothing was stored.")
		return
	}
	version := 0
	if have, ok := a.Lib.Get(m.Base); ok {
		version = have.Version
	}
	now, err := storeMovement(a, c, m, version)
	if err != nil {
		refuseStored(a, c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/movements/"+m.Base+"~"+strconv.Itoa(now))
}

// changeMovement hides, shows, renames or re-words an entry of the library for this studio.
func changeMovement(a *kit.Kit, c *gin.Context) {
	slug := movement.BaseSlug(c.Param("slug"))
	m, ok := a.Lib.Get(slug)
	if !ok {
		a.Problem(c, http.StatusNotFound, "There is no movement of that name in the library.")
		return
	}
	do := c.PostForm("do")
	if m.Own {
		hideOwn(a, c, slug, do)
		return
	}
	shipped, _ := movement.Shipped().Get(slug)
	_, rows, err := a.Store.OwnMovements(c.Request.Context(), kit.Who(c).Studio.ID)
	if err != nil {
		a.Fail(c, err)
		return
	}
	ch := kit.ReadChanges(rows)[slug]
	ch.Hidden = m.Hidden
	ch.Name, ch.Setup, ch.Say, ch.Watch, ch.Care = differs(m.Name, shipped.Name), differs(m.Setup, shipped.Setup), differs(m.Say, shipped.Say), differs(m.Watch, shipped.Watch), differs(m.Care, shipped.Care)
	switch do {
	case "hide", "show":
		ch.Hidden = do == "hide"
	case "reset":
		ch = movement.Change{}
	case "words":
		if err := reword(a, c, &ch, shipped); err != nil {
			a.Refuse(c, err)
			return
		}
	default:
		a.Problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%q is not something that can be done to a movement.", do))
		return
	}
	var doc []byte
	if ch != (movement.Change{}) {
		if doc, err = json.Marshal(ch); err != nil {
			a.Fail(c, err)
			return
		}
	}
	if err := a.Store.ChangeMovement(c.Request.Context(), kit.Who(c).Studio.ID, slug, doc); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/movements/"+slug)
}

// hideOwn hides an own movement or shows it again.
func hideOwn(a *kit.Kit, c *gin.Context, slug, do string) {
	if do != "hide" && do != "show" {
		a.Problem(c, http.StatusUnprocessableEntity, "An own movement is changed in its editor.")
		return
	}
	if err := a.Store.HideMovement(c.Request.Context(), kit.Who(c).Studio.ID, slug, do == "hide"); err != nil {
		a.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/movements/"+slug)
}

// differs is what is now said instead of what was; nothing where it is the same.
func differs(now, was string) string {
	if now == was {
		return ""
	}
	return now
}

// reword reads a studio's own words for a shipped movement; what it says as shipped is no change.
func reword(a *kit.Kit, c *gin.Context, ch *movement.Change, shipped *movement.Movement) error {
	for _, word := range []struct {
		key  string
		at   *string
		was  string
		most int
	}{
		{"name", &ch.Name, shipped.Name, 80},
		{"setup", &ch.Setup, shipped.Setup, 600},
		{"say", &ch.Say, shipped.Say, 600},
		{"watch", &ch.Watch, shipped.Watch, 600},
		{"care", &ch.Care, shipped.Care, 600},
	} {
		v := strings.TrimSpace(strings.ToValidUTF8(c.PostForm(word.key), ""))
		if len([]rune(v)) > word.most || word.key == "name" && v == "" {
			return fmt.Errorf("%s: from 1 to %d characters", word.key, word.most)
		}
		*word.at = differs(v, word.was)
	}
	if o := a.Lib.NameTaken(c.PostForm("name"), shipped.Slug); o != nil {
		return fmt.Errorf("name: %q belongs to %s already", c.PostForm("name"), o.Name)
	}
	return nil
}

// deleteMovement removes an own movement that no session ever used.
func deleteMovement(a *kit.Kit, c *gin.Context) {
	slug := movement.BaseSlug(c.Param("slug"))
	m, ok := a.Lib.Get(slug)
	if !ok || !m.Own {
		a.Problem(c, http.StatusNotFound, "Only a studio's own movement can be deleted; one of the shared library can be hidden.")
		return
	}
	switch err := a.Store.DeleteMovement(c.Request.Context(), kit.Who(c).Studio.ID, slug); {
	case errors.Is(err, store.ErrUsed):
		a.Problem(c, http.StatusUnprocessableEntity, m.Name+" is used in a session or its history, which keeps it. Hide it instead: it is not offered any more then.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/movements")
	}
}

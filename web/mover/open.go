package mover

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/adapt"
	"wavekine/core/movement"
	"wavekine/core/progress"
	"wavekine/core/review"
	"wavekine/store"
	"wavekine/web/kit"
)

// A series that is open to anybody is the same page without a name: it starts today, and what was done is known to the device alone.

// opened finds the open series of the address; the answer is given where there is none.
func opened(a *kit.Kit, c *gin.Context) (co *kit.Course, ok bool) {
	quiet(c)
	d, err := a.Store.SeriesBy(c.Request.Context(), c.Param("token"))
	if errors.Is(err, store.ErrNotFound) {
		refuse(a, c)
		return nil, false
	}
	if err == nil {
		var st store.Studio
		if st, err = a.Store.StudioByID(c.Request.Context(), d.StudioID); err == nil {
			var lib *movement.Library
			if lib, err = a.LibraryAt(c.Request.Context(), d.StudioID, st.Library); err == nil {
				co, err = a.CourseFrom(c.Request.Context(), lib, review.Limits{}, store.Group{}, d)
			}
		}
	}
	if err != nil {
		fail(a, c, err)
		return nil, false
	}
	return co, true
}

// openVersion is a day of an open series: as planned.
func openVersion(co *kit.Course, day int) (*adapt.Version, bool) {
	class, tl := co.Class(day)
	if class == nil {
		return nil, false
	}
	return &adapt.Version{Session: class, Timeline: tl, Planned: tl.Total}, true
}

func showOpen(a *kit.Kit, c *gin.Context) {
	co, ok := opened(a, c)
	if !ok {
		return
	}
	who := progress.Who{Said: map[int]*progress.CheckIn{}}
	days, err := who.Days(co.Series, nil, kit.Midnight(a.Opt.Now()))
	if err != nil {
		fail(a, c, err)
		return
	}
	path := "/open/" + c.Param("token")
	p := &view{Open: true, Path: path, Title: co.Series.Title, Teacher: words["thestudio"], Note: fmt.Sprintf(words["open"], len(co.Series.Days), len(days)) + " " + words["alone"]}
	if co.Series.Brief == "" && co.Series.Note != "" { // of a series that was laid the note is for the teacher
		p.Asks = append(p.Asks, co.Series.Note)
	}
	day := 0
	if len(days) > 0 {
		day = days[0].Day
	}
	for _, d := range days {
		if n, err := strconv.Atoi(c.Query("day")); err == nil && n == d.Day {
			day = n
		}
	}
	p.Day, p.Heading = day, fmt.Sprintf("%s %d", words["theday"], day)
	for _, d := range days {
		y := dayView{N: d.Day, Kind: d.State, This: d.Day == day, Title: co.Title(d.Day), URL: fmt.Sprintf("%s?day=%d", path, d.Day)}
		if _, tl := co.Class(d.Day); tl != nil {
			y.Wave = smallWave(tl)
		}
		p.Days = append(p.Days, y)
	}
	if ver, ok := openVersion(co, day); ok {
		asks := p.Asks
		p.class(a, co, day, ver, nil)
		p.Asks, p.Changed = asks, ""
		p.Data.Path, p.Data.Day, p.Data.Open = path, day, true
		p.Data.Keep = []string{path, fmt.Sprintf("%s?day=%d", path, day), fmt.Sprintf("%s/sheet?day=%d", path, day)}
		if i := 1 + indexOf(days, day); i > 0 && i < len(days) {
			p.Data.Keep = append(p.Data.Keep, fmt.Sprintf("%s?day=%d", path, days[i].Day))
		}
	}
	a.Render(c, http.StatusOK, "mover", "page", p)
}

func indexOf(days []progress.MoverDay, day int) int {
	for i, d := range days {
		if d.Day == day {
			return i
		}
	}
	return -1
}

func openSheet(a *kit.Kit, c *gin.Context) {
	co, ok := opened(a, c)
	if !ok {
		return
	}
	day, _ := strconv.Atoi(c.Query("day"))
	ver, ok := openVersion(co, day)
	if !ok {
		say(a, c, http.StatusNotFound, words["noclass"])
		return
	}
	renderSheet(a, c, co, day, ver.Session, ver.Timeline)
}

// perWord is how many words an address may send about open series; judgement.
var perWord = store.Limit{Burst: 40, Every: 30 * time.Second}

// openWord counts a word on a day of an open series. Who said it is not known, and what they wrote is not kept.
func openWord(a *kit.Kit, c *gin.Context) {
	co, ok := opened(a, c)
	if !ok {
		return
	}
	says := func(status int, says string) { c.AbortWithStatusJSON(status, gin.H{"error": says}) }
	if wait, err := a.Store.Take(c.Request.Context(), "open "+c.ClientIP(), perWord); err != nil || wait > 0 {
		if err != nil {
			fail(a, c, err)
			return
		}
		says(http.StatusTooManyRequests, words["slow"])
		return
	}
	w, err := readWord(c)
	if err != nil {
		says(http.StatusUnprocessableEntity, err.Error())
		return
	}
	if class, _ := co.Class(w.Day); class == nil {
		says(http.StatusUnprocessableEntity, fmt.Sprintf("day %d of this series has no class", w.Day))
		return
	}
	settle(w, a.Opt.Now())
	if err := a.Store.SaveOpenWord(c.Request.Context(), co.Studio, co.Doc.ID, w); err != nil {
		fail(a, c, err)
		return
	}
	c.JSON(http.StatusOK, gin.H{"saved": w.ID, "says": w.Says()})
}

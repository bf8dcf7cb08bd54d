package sessions

import (
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/core/timeline"
	"wavekine/draw"
	"wavekine/web/kit"
)

// importView is a file or text as it was understood, before it is made a session.
type importView struct {
	Name, Title   string
	Wave          []byte
	Total         clock.Span
	Rows          int
	Sections      []export.SheetSection
	Bad           []badLine
	Text, Kind    string // carried along to the second step
	Says          string
	Understanding string
}

type badLine struct {
	N         int
	Raw, Says string
}

// importSession shows what a file means, and with do=make makes a session of it.
func importSession(a *kit.Kit, c *gin.Context) {
	text, name, err := kit.Uploaded(c)
	if err != nil {
		var tooLarge kit.TooLargeError
		if errors.As(err, &tooLarge) {
			a.Problem(c, http.StatusRequestEntityTooLarge, err.Error())
			return
		}
		a.Refuse(c, err)
		return
	}
	in, err := plan.Import(kit.Bounded(c), text, c.PostForm("kind"), a.Lib, kit.Who(c).House.Style)
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, "It was not read. "+kit.Sentence(err)+" Nothing was saved.")
		return
	}
	in.As = c.PostForm("title")
	if c.PostForm("do") == "make" {
		create(a, c, in)
		return
	}
	s := in.Session
	tl, err := timeline.Build(s, a.Lib)
	if err != nil {
		a.Problem(c, http.StatusUnprocessableEntity, kit.Sentence(err))
		return
	}
	v := importView{Name: name, Title: s.Title, Wave: draw.SmallWave(tl, 700, 70, draw.WaveWords(tl)), Total: tl.Total, Rows: s.Rows(), Text: string(text), Kind: in.Kind}
	for _, l := range in.Bad {
		v.Bad = append(v.Bad, badLine{l.N, l.Raw, l.Err.Error()})
	}
	v.Sections = export.SheetOf(s, tl, a.Lib).Sections
	if kit.IsPart(c) {
		c.Header("X-Fragment", "1") // shown beside what was chosen
		a.Render(c, http.StatusOK, "import", "preview", v)
		return
	}
	a.Show(c, "import", "Read "+name, "Sessions", v)
}

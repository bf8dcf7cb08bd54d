package lead

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"wavekine/core/clock"
	"wavekine/core/lead"
	"wavekine/core/plan"
	"wavekine/web/kit"
)

// moment is what is on at a moment of a class as it is planned.
type moment struct {
	lead.Step
	ID        string
	Clock     clock.Span
	Figure    []byte
	Said      lead.Told
	Much      string
	Breathing bool
}

// At0 is the moment in whole seconds.
func (m moment) At0() int64 { return int64(m.Clock / clock.Second) }

// showMoment shows what is on at a moment of a class: the figure, the words, the side and the clock; asked for where somebody puts the finger on its wave.
func showMoment(a *kit.Kit, c *gin.Context) {
	cl, err := a.Opened(c)
	if err == nil {
		err = a.WorkOut(c, cl)
	}
	if err == nil {
		err = a.OnItsDay(c, cl)
	}
	if err != nil {
		a.Fail(c, err)
		return
	}
	sec, err := strconv.ParseFloat(c.Query("at"), 64)
	if err != nil || !(sec >= 0 && sec <= 24*3600) || len(cl.TL.Steps) == 0 {
		c.Status(http.StatusNoContent)
		return
	}
	at, i := clock.Seconds(sec), 0
	for i < len(cl.TL.Steps)-1 && cl.TL.Steps[i].End() <= at {
		i++
	}
	st := &cl.TL.Steps[i]
	m := moment{Step: lead.Steps(cl.Plan, cl.TL)[i], ID: cl.ID, Clock: min(at, cl.TL.Total)}
	m.Said = m.Plain
	if cl.Plan.Style.Mirror != plan.NotMirrored {
		m.Said = m.Mirrored
	}
	if st.Move != nil {
		if d := st.Move.Drawn(); d != nil {
			m.Figure = a.Figures.Inline(d, max(1, m.Shown), "m")
		}
	}
	a.Render(c, http.StatusOK, "lead", "moment", m)
}

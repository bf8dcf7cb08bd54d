package kit

import (
	"log/slog"

	"github.com/gin-gonic/gin"

	"wavekine/core/pace"
	"wavekine/core/run"
	"wavekine/store"
)

// ledShown is how many of a teacher's newest classes are learnt from: enough for medians that stand, few enough
// that an old habit wears off; judgement.
const ledShown = 40

// Learnt is what a teacher's runs say, and the factors in use.
func (a *Kit) Learnt(c *gin.Context) (p pace.Proposal, inUse map[string]store.TeacherPace, err error) {
	w := Who(c)
	docs, err := a.Store.LedBy(c.Request.Context(), w.Studio.ID, w.Teacher.ID, ledShown)
	if err != nil {
		return p, nil, err
	}
	var runs []*run.Run
	for _, d := range docs {
		r, err := run.Read(d)
		if err != nil { // of a newer version: the others count
			slog.WarnContext(c.Request.Context(), "run", "studio", w.Studio.ID, "err", err)
			continue
		}
		runs = append(runs, r)
	}
	list, err := a.Store.Paces(c.Request.Context(), w.Studio.ID, w.Teacher.ID)
	inUse = make(map[string]store.TeacherPace, len(list))
	for _, p := range list {
		inUse[p.Slug] = p
	}
	return pace.Learn(runs), inUse, err
}

// TakeWhole takes into use at once what is known of the teacher's tempo, talk and changes: from then on every length is worked out with it.
func (a *Kit) TakeWhole(c *gin.Context) error {
	p, _, err := a.Learnt(c)
	if err != nil {
		return err
	}
	var list []store.TeacherPace
	for _, part := range pace.Parts() {
		if factor, runs, ok := p.Of(part.Key()); ok {
			list = append(list, store.TeacherPace{Slug: part.Key(), Pace: factor, Runs: runs, Since: a.Now(c).UTC()})
		}
	}
	return a.Store.SavePaces(c.Request.Context(), Who(c).Studio.ID, Who(c).Teacher.ID, list...)
}

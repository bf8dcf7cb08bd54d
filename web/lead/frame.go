package lead

import (
	"fmt"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/lead"
	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/web/kit"
)

// frameOf is what opening and closing a class are written from: the class, and the series it stands on.
func frameOf(a *kit.Kit, c *gin.Context, cl *kit.Class) (f lead.Frame, err error) {
	f = lead.Frame{Title: cl.Plan.Title, Opening: cl.Plan.Opening, Closing: cl.Plan.Closing}
	paces, err := a.Store.Paces(c.Request.Context(), kit.Who(c).Studio.ID, kit.Who(c).Teacher.ID)
	if err != nil {
		return f, err
	}
	for _, p := range paces {
		if p.Slug == lead.RateKey {
			f.Rate = p.Pace
		}
	}
	for _, k := range cl.TL.KitOf() {
		if !k.Optional {
			f.Kit = append(f.Kit, k.Name)
		}
	}
	for _, caution := range export.SheetOf(cl.Plan, cl.TL, a.Lib).Main(2) {
		f.Cautions = append(f.Cautions, string(caution.Topic)+": "+caution.Says)
	}
	d, s, day, err := a.SeriesDay(c, cl)
	if err != nil || s == nil {
		return f, err
	}
	f.Day, f.Days = day, len(s.Days)
	if f.Theme = s.Days[day-1].Theme; f.Theme == f.Title {
		f.Theme = ""
	}
	f.Last = day == len(s.Days)
	if !f.Last {
		next := &s.Days[day]
		f.Rest = next.Rest
		if n, err := a.ClassOfDay(c, d, s, day+1); err == nil && !next.Rest {
			f.Tomorrow = n.Plan.Title
		}
	}
	fresh, harder := newOf(a, c, cl, d, s, day)
	f.New, f.Harder = few(fresh), few(harder)
	return f, nil
}

// fewSaid is how many names are said in a breath; judgement.
const fewSaid = 3

// few says at most a few names, and how many more there are.
func few(names []string) []string {
	if len(names) <= fewSaid+1 {
		return names
	}
	return append(names[:fewSaid:fewSaid], fmt.Sprintf("%d more", len(names)-fewSaid))
}

// newOf are the movements that nobody has met on the days before, and those that are at a higher level than the last time; by name, in their order.
func newOf(a *kit.Kit, c *gin.Context, cl *kit.Class, d store.Document, s *plan.Series, day int) (fresh, harder []string) {
	met := map[string]int{} // the level the last time
	for n := 1; n < day; n++ {
		if x := &s.Days[n-1]; x.Rest || x.Empty() {
			continue
		}
		was, err := a.ClassOfDay(c, d, s, n)
		if err != nil {
			continue // it is gone: its own page says so
		}
		was.Plan.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
			if !r.IsRest() {
				met[r.Name()] = max(1, r.Level)
			}
		})
	}
	said := map[string]bool{}
	cl.Plan.Each(func(_ plan.Path, _ *plan.Block, r *plan.Row) {
		m, err := r.Of(a.Lib)
		if err != nil || m == nil || said[r.Name()] {
			return
		}
		said[r.Name()] = true
		switch level, there := met[r.Name()]; {
		case day == 1:
		case !there:
			fresh = append(fresh, m.Name)
		case max(1, r.Level) > level && !m.Stretch && !m.Rest:
			harder = append(harder, m.Name)
		}
	})
	return fresh, harder
}

// saidAgo is how long ago a correction may be that is shown.
const saidAgo = 120 * 24 * time.Hour

// correctionsOf are what people on the list were corrected in, by the movement, the newest first.
func correctionsOf(a *kit.Kit, c *gin.Context, on []store.Mover) (map[string][]string, error) {
	cs, err := a.Store.Corrections(c.Request.Context(), kit.Who(c).Studio.ID, a.Now(c).Add(-saidAgo))
	if err != nil {
		return nil, err
	}
	out := map[string][]string{}
	for _, x := range cs {
		for _, m := range on {
			if m.ID == x.Mover && len(out[x.Slug]) < 3 {
				out[x.Slug] = append(out[x.Slug], kit.First(x.Name)+": "+x.Fault)
			}
		}
	}
	return out, nil
}

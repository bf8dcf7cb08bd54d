package people

import (
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/core/progress"
	"wavekine/store"
	"wavekine/web/kit"
)

// Today is what the check-ins say on the first page: what is to be decided, the gravest first, and who told something since yesterday.
type Today struct {
	Suggest []suggestView
	More    int // that have no room here
	Groups  []groupLine
	Words   []arrived
	Erase   []store.Mover
}

// arrived is a word that came lately.
type arrived struct {
	Mover, MoverID, Group string
	Day                   int
	Says, Line            string
	Hurt                  bool
}

// Rooms on the first page; judgement.
const (
	mostSuggest = 5
	mostWords   = 6
	lately      = 36 * time.Hour
)

// ForToday works it out for a studio.
func ForToday(a *kit.Kit, c *gin.Context) (t Today, err error) {
	ctx, w := c.Request.Context(), kit.Who(c)
	rooms, err := Rooms(a, ctx, w.Studio.ID, a.Lib, w.House, kit.Midnight(a.Now(c)))
	if err != nil {
		return t, err
	}
	names, groups := map[string]string{}, map[string]string{}
	for _, r := range rooms {
		groups[r.Course.Group.ID] = r.Course.Group.Group.Name
		n := 0
		for _, m := range r.Movers {
			names[m.In.ID] = m.In.Name
			for _, s := range m.Suggest {
				t.Suggest = append(t.Suggest, suggestOf(a, ctx, r.Course, m, s))
				n++
			}
			if m.In.Erasing != nil && !slices.ContainsFunc(t.Erase, func(o store.Mover) bool { return o.ID == m.In.ID }) {
				t.Erase = append(t.Erase, m.In.Mover)
			}
		}
		if n > 0 {
			t.Groups = append(t.Groups, groupLine{ID: r.Course.Group.ID, Name: r.Course.Group.Group.Name})
		}
	}
	slices.SortStableFunc(t.Suggest, func(a, b suggestView) int {
		return grave[progress.Verdict(a.Verdict)] - grave[progress.Verdict(b.Verdict)]
	})
	if n := len(t.Suggest); n > mostSuggest {
		t.More, t.Suggest = n-mostSuggest, t.Suggest[:mostSuggest]
	}
	if len(t.Suggest) > 0 {
		t.Suggest[0].First = true
	}
	words, err := a.Store.WordsSince(ctx, w.Studio.ID, a.Opt.Now().Add(-lately))
	if err != nil {
		return t, err
	}
	seen := map[string]bool{}
	for _, x := range words { // the newest first; of a day only the latest word
		key := x.MoverID + x.GroupID + string(rune(x.Day))
		if seen[key] || names[x.MoverID] == "" || len(t.Words) == mostWords {
			continue
		}
		seen[key] = true
		t.Words = append(t.Words, arrived{names[x.MoverID], x.MoverID, groups[x.GroupID], x.Day, x.Said.Says(), x.Said.Line, x.Said.Hurt()})
	}
	slices.SortStableFunc(t.Words, func(a, b arrived) int { // pain first
		switch {
		case a.Hurt == b.Hurt:
			return 0
		case a.Hurt:
			return -1
		}
		return 1
	})
	return t, nil
}

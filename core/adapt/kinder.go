package adapt

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
)

// Kinder puts kinder levels into a class for those on its list: the same as a version, for what all of them watch together. Whoever makes the command gives the limits of the house.
type Kinder struct {
	Watch  string          `form:"watch"` // what they watch: topics, as in "neck; wrists"
	Limits review.Limits   `form:"-"`
	Within context.Context `form:"-"` // ends the search; nil: nothing does
}

// ErrNobody says that nobody on the list watches anything.
var ErrNobody = errors.New("nobody on the list watches anything that is known")

// Do puts them in.
func (c *Kinder) Do(s *plan.Session, lib *movement.Library) (plan.Done, error) {
	topics := movement.TopicsIn(c.Watch)
	if len(topics) == 0 {
		return plan.Done{}, ErrNobody
	}
	within := c.Within
	if within == nil {
		within = context.Background()
	}
	v, err := As(within, s, lib, c.Limits, Mover{Topics: topics})
	if err != nil {
		return plan.Done{}, err
	}
	*s = *v.Session
	return plan.Done{Says: "Kinder for " + strings.ToLower(c.Watch)}, nil
}

// Whose is who on a list watches one of the topics that asked for a change, in the order of the list.
func (c *Change) Whose(list []review.Watched) (out []string) {
	for _, w := range list {
		for _, t := range w.Topics {
			if slices.Contains(c.Topics, t) {
				out = append(out, fmt.Sprintf("%s (%s)", w.Name, t))
				break
			}
		}
	}
	return out
}

// Track is a way in which a class can be led beside the plan, kept in step row by row.
type Track struct {
	Name string
	Rows map[plan.Path]TrackRow
}

// TrackRow is what a row of the plan is in a track.
type TrackRow struct {
	Name, Dose, Says string
	Move             *movement.Movement // nil: it is left out; rest meanwhile
	Level            int
}

// TracksOf are the two ways beside the plan in which a mixed room can be led: easier, and seated or standing. Only rows that differ are in them.
func TracksOf(ctx context.Context, s *plan.Session, lib *movement.Library, lim review.Limits) ([]Track, error) {
	var out []Track
	for _, t := range []struct {
		name string
		m    Mover
	}{{"Easier", Mover{Level: 1}}, {"Seated or standing", Mover{Topics: []movement.Topic{movement.NoFloor}}}} {
		v, err := As(ctx, s, lib, lim, t.m)
		if err != nil {
			return nil, err
		}
		tr := Track{t.name, map[plan.Path]TrackRow{}}
		for _, c := range v.Changes {
			row := TrackRow{Says: c.Says}
			if c.Does == Leave {
				row.Name = "rest meanwhile"
				tr.Rows[c.Row] = row
				continue
			}
			r := v.Session.Row(c.At)
			m, err := r.Of(lib)
			if err != nil || m == nil {
				continue
			}
			row.Name, row.Dose, row.Move, row.Level = m.Name, r.DoseOf(m).String(), m, max(1, r.Level)
			tr.Rows[c.Row] = row
		}
		out = append(out, tr)
	}
	return out, nil
}

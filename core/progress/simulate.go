package progress

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"wavekine/core/adapt"
	"wavekine/core/group"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/timeline"
)

// Simulated is a made-up mover with what they did. It is for the demo, for tests, and for looking at what a series would ask of a group.
type Simulated struct {
	ID, Name string
	Watch    string // in their own words
	Topics   []movement.Topic
	Level    int
	Who      Who
	Days     []MoverDay
}

// made-up people, in the order in which they come; none of them is real.
var simulatedPeople = []struct{ name, watch string }{
	{"Perpetua Lyle", "wrists"},
	{"Anselm Okafor", ""},
	{"Ines Caldecott", "neck"},
	{"Odile Brandt", "low bone density"},
	{"Bartholomew Finch", "knees"},
	{"Marit Sloane", ""},
	{"Jonah Reddy", "low back when bending"},
	{"Wilhelmina Ashby", "shoulders"},
	{"Casimir Thorne", ""},
	{"Ottoline Vane", "blood pressure"},
	{"Leopold Marsh", ""},
	{"Sunniva Clay", "hips"},
}

// temper is how a simulated mover is; all of it made up.
type temper struct {
	off     float64 // how much harder than planned everything feels
	keen    float64 // share of days done
	half    float64 // of those, in part
	chooses Kind
	wrong   string // the movement they feel in the wrong place
	place   string
	hurts   int // the day on which it hurts; 0: none
}

// Simulate has people do the first days of a series with a group, each their own version. The same seed gives the same people and the same words. movers is from 1 to 200.
func Simulate(ctx context.Context, lib *movement.Library, s *plan.Series, g *group.Group, movers, days int, seed int64) ([]Simulated, error) {
	if movers < 1 || movers > 200 || days < 1 || days > plan.MaxDays {
		return nil, fmt.Errorf("from 1 to 200 movers and from 1 to %d days", plan.MaxDays)
	}
	dates, err := g.Dates(s)
	if err != nil {
		return nil, err
	}
	times := map[int]*timeline.Timeline{}
	for i := range s.Days {
		if c := s.Days[i].Session; c != nil {
			if times[i+1], err = timeline.Build(c.ForDay(i+1), lib); err != nil {
				return nil, err
			}
		}
	}
	loads := LoadsOf(s, times)
	var until time.Time
	for k, d := range dates {
		if k < days {
			until = d.Date
		}
	}
	out := make([]Simulated, movers)
	for k := range out {
		p := simulatedPeople[k%len(simulatedPeople)]
		m := &out[k]
		m.ID, m.Name, m.Watch, m.Who = fmt.Sprintf("simulated-%d-%d", seed, k+1), p.name, p.watch, Who{Said: map[int]*CheckIn{}}
		if n := k / len(simulatedPeople); n > 0 {
			m.Name = fmt.Sprintf("%s %d", p.name, n+1)
		}
		m.Topics = movement.TopicsIn(p.watch)
		r := rand.New(rand.NewPCG(uint64(seed), uint64(k)))
		if err := m.live(ctx, lib, s, g, loads, until, r, temperOf(k, r)); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func temperOf(k int, r *rand.Rand) temper {
	t := temper{off: 3*r.Float64() - 1.6, keen: .7 + .28*r.Float64(), half: .15 * r.Float64(), chooses: Kinds()[r.IntN(3)]}
	switch k % 7 { // the kinds of people whom a teacher knows
	case 0, 1:
		t.off, t.keen, t.half = -.8, .98, 0
	case 2:
		t.wrong, t.place, t.off, t.keen = "side-plank", "neck", 1.5, .95
	case 4:
		t.keen, t.chooses = .55, Along
	case 6:
		t.hurts, t.keen = 6, 1
	}
	return t
}

// live goes through the days.
func (m *Simulated) live(ctx context.Context, lib *movement.Library, s *plan.Series, g *group.Group, loads map[int]DayLoad, until time.Time, r *rand.Rand, t temper) error {
	for at := g.Start; !at.After(until); at = at.AddDate(0, 0, 1) {
		days, err := m.Who.Days(s, g, at)
		if err != nil {
			return err
		}
		if Behind(days) >= 2 {
			c, err := m.Who.Offer(s, g, loads, t.chooses, at)
			if err != nil {
				return err
			}
			m.Who.Choices = append(m.Who.Choices, c)
			if days, err = m.Who.Days(s, g, at); err != nil {
				return err
			}
		}
		for _, d := range days {
			class := s.Days[d.Day-1].Session
			if !d.Date.Equal(at) || d.State != OnNow || class == nil || r.Float64() > t.keen {
				continue
			}
			v, err := adapt.As(ctx, class.ForDay(d.Day), lib, review.Limits{}, adapt.Mover{Topics: m.Topics, Level: m.Level})
			if err != nil {
				return err
			}
			m.Who.Said[d.Day] = m.word(lib, d, v, r, t)
			m.measured(lib, s, d.Day, t)
		}
	}
	var err error
	m.Days, err = m.Who.Days(s, g, until)
	return err
}

// measured is what somebody measures on a day on which the series does.
func (m *Simulated) measured(lib *movement.Library, s *plan.Series, day int, t temper) {
	r := rand.New(rand.NewPCG(uint64(day), uint64(len(m.Name)))) // of its own: what is measured changes nothing of what is done
	for _, x := range TestsOf(lib, s) {
		mv, ok := lib.Get(x.Slug)
		if !ok || !slices.Contains(x.Days, day) {
			continue
		}
		best := map[string]int{"seconds": 28 + day + int(6*-t.off), "repetitions": 9 + day/3, "reach": 3, "level": 2}[x.Measure]
		sides := []string{""}
		if mv.Sides == movement.Each {
			sides = []string{"right", "left"}
		}
		for _, side := range sides {
			n := max(1, best+r.IntN(3))
			if side == "left" && x.Measure == "seconds" {
				n = max(1, n-int(4*math.Abs(t.off)))
			}
			if x.Measure == "reach" {
				n = min(n, len(reaches))
			}
			c := m.Who.Said[day]
			c.Tests = append(c.Tests, Test{x.Slug, side, n, x.Measure})
		}
	}
}

// word is what somebody says of a day.
func (m *Simulated) word(lib *movement.Library, d MoverDay, v *adapt.Version, r *rand.Rand, t temper) *CheckIn {
	c := &CheckIn{ID: fmt.Sprintf("%s-day-%03d", m.ID, d.Day), Day: d.Day, Did: All, Told: d.Date.Add(time.Duration(18*60+r.IntN(120)) * time.Minute)}
	if r.Float64() < t.half {
		c.Did = Part
	}
	c.Effort = min(max(int(math.Round(Planned(v.Timeline)+t.off+.8*r.NormFloat64()*.5)), 0), MostHard)
	row := rowOf(v.Session, t.wrong)
	if row == nil && t.wrong != "" { // what stands for it in this series: the first that works hard and is not felt there
		v.Session.Each(func(_ plan.Path, _ *plan.Block, x *plan.Row) {
			if mv, err := x.Of(lib); row == nil && err == nil && mv != nil && mv.At(max(1, x.Level)).Demand >= 4 && !Meant(mv, t.place) {
				row = x
			}
		})
	}
	if row != nil {
		c.Felt = append(c.Felt, Felt{Place: t.place, In: movement.BaseSlug(row.Name())})
	}
	if t.hurts > 0 && d.Day == t.hurts {
		c.Pain = append(c.Pain, Felt{Place: "low back"})
		var in *plan.Row
		v.Session.Each(func(_ plan.Path, _ *plan.Block, x *plan.Row) {
			if mv, err := x.Of(lib); in == nil && err == nil && mv != nil && !mv.Stretch && mv.At(max(1, x.Level)).Demand >= 3 && x.Inline == nil && !x.IsRest() {
				in = x
			}
		})
		if in != nil {
			c.Pain[0].In = movement.BaseSlug(in.Name())
		}
	}
	var felt []string
	v.Session.Each(func(_ plan.Path, _ *plan.Block, x *plan.Row) {
		if mv, err := x.Of(lib); err == nil && mv != nil {
			for _, p := range places {
				if len(felt) < 2 && Meant(mv, p.Name) && mv.At(max(1, x.Level)).Demand >= 2.5 && !slices.Contains(felt, p.Name) {
					felt = append(felt, p.Name)
				}
			}
		}
	})
	for _, p := range felt {
		c.Felt = append(c.Felt, Felt{Place: p})
	}
	return c
}

// History is what a teacher knows of a simulated mover.
func (m *Simulated) History(ctx context.Context, lib *movement.Library, s *plan.Series) (History, error) {
	h := History{Series: s, Said: m.Who.Said}
	for _, d := range m.Days {
		class := s.Days[d.Day-1].Session
		if m.Who.Said[d.Day] == nil || class == nil {
			continue
		}
		v, err := adapt.As(ctx, class.ForDay(d.Day), lib, review.Limits{}, adapt.Mover{Topics: m.Topics, Level: m.Level})
		if err != nil {
			return h, err
		}
		h.Classes = append(h.Classes, Class{Day: d.Day, Date: d.Date, Plan: v.Session, TL: v.Timeline})
	}
	return h, nil
}

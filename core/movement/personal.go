package movement

// Personal is a teacher's own pace: what the product's seconds are multiplied by. The zero value is the product's
// own pace.
type Personal struct {
	Tempo   float64            // counted work
	Talk    float64            // setting up
	Changes float64            // changing position and side
	Of      map[string]float64 // single movements, by slug without version, in place of Tempo
	Runs    int                // classes behind it
	Turned  map[string]bool    // movements, by slug without version, that they breathe the other way round
}

func orOne(f float64) float64 {
	if f <= 0 {
		return 1
	}
	return f
}

// TempoOf is what the seconds of a movement's counted work are multiplied by; 1 where nothing was learnt.
func (p Personal) TempoOf(m *Movement) float64 {
	if m != nil {
		if f := p.Of[m.base()]; f > 0 {
			return f
		}
	}
	return orOne(p.Tempo)
}

// TalkFactor and ChangesFactor are what setting up and changes are multiplied by; 1 where nothing was learnt.
func (p Personal) TalkFactor() float64 { return orOne(p.Talk) }

// ChangesFactor is what changes of position and side are multiplied by.
func (p Personal) ChangesFactor() float64 { return orOne(p.Changes) }

// At is the library at a teacher's own pace. It shares everything else.
func (l *Library) At(p Personal) *Library {
	out := *l
	out.pace, out.turned = p, nil
	for slug, yes := range p.Turned {
		if !yes {
			continue
		}
		for s, m := range l.bySlug {
			if m.base() != slug {
				continue
			}
			if out.turned == nil {
				out.turned = map[string]*Movement{}
			}
			out.turned[s] = m.Turned()
		}
	}
	return &out
}

// Pace is the pace that lengths are worked out at.
func (l *Library) Pace() Personal { return l.pace }

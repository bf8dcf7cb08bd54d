package movement

import (
	"fmt"
	"math"

	"wavekine/core/body"
)

// Family is a kind of movement whose demand the body model can weigh.
type Family string

// The families. Movements of none have a judged demand with a reason: mechanics says little about
// breathing, stretches and balance, and side-lying and front-view poses do not show their lever yet.
const (
	NoFamily Family = ""
	LegWork  Family = "legs"   // on the back or the seat, legs and head held against gravity
	Planks   Family = "planks" // hands or forearms and feet or knees
)

// Loaded is what the mechanics of a level's pose say. Zero values were not computed.
type Loaded struct {
	Hip      float64 // moment of the legs in the air about the hips, percent of body weight x height
	Neck     float64 // moment of the lifted head about the base of the neck, the same unit
	Curl     float64 // moment of lifted head and upper trunk about the middle of the back, the same unit
	Shoulder float64 // moment of arms held in the air, the same unit
	OnHands  float64 // percent of body weight on hands or forearms
}

// The scale of demand. Anchors, all judgement: in leg work 0 is legs and head carried by the mat, 2 the
// chest lift alone, 4 two straight legs at 60 degrees (3.7 percent), 7 at 30 degrees (6.4 percent),
// 9 and more those with head and arms lifted as well. In planks 4.5 is the knees-down plank (53 percent on the hands), 6.5 the full
// plank (68 percent).
const (
	perHip      = 1.1 // points of demand for one percent of body weight x height at the hips
	perCurl     = 1.7 // for one percent about the middle of the back
	perShoulder = .5
	plankSlope  = .14 // for one percent of body weight on the hands
	plankZero   = -3.0
)

// weigh computes loads from the pose, and for a family the demand too. Loads of the picture plane
// only: poses in front and plan view are left to judgement.
func (l *Level) weigh(f Family, pose body.Pose) error {
	fig := body.Solve(pose)
	if m, ok := fig.Moments(body.Mean); ok && (f == LegWork || l.bearsAny(OnBack, HeadUp, LegsOut)) {
		l.Loaded.Hip, l.Loaded.Neck, l.Loaded.Curl, l.Loaded.Shoulder = m.Hip, m.Neck, m.Curl, m.Shoulder
	}
	if share, ok := fig.HandShare(body.Mean); ok {
		l.Loaded.OnHands = share
	}
	switch {
	case f == NoFamily || l.Judged:
		return nil
	}
	switch f {
	case LegWork:
		l.Demand = perHip*l.Loaded.Hip + perCurl*l.Loaded.Curl + perShoulder*l.Loaded.Shoulder
	case Planks:
		if l.Loaded.OnHands == 0 {
			return fmt.Errorf("the pose %q does not stand on hands and feet", l.Figure)
		}
		l.Demand = plankSlope*l.Loaded.OnHands + plankZero
	default:
		return fmt.Errorf("family %q: expected legs or planks", f)
	}
	l.Demand = math.Round(10*max(0, min(l.Demand, 10))) / 10
	l.Computed = true
	return nil
}

func (l *Level) bearsAny(loads ...Load) bool {
	for _, w := range loads {
		for _, h := range l.bears {
			if w == h {
				return true
			}
		}
	}
	return false
}

// DemandFrom says where the demand comes from: "computed" or "judged".
func (l *Level) DemandFrom() string {
	if l.Computed {
		return "computed"
	}
	return "judged"
}

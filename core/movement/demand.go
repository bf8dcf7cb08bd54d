package movement

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wavekine/core/body"
)

// Family is a kind of movement whose demand the body model can weigh.
type Family string

// The families. Movements of none have a judged demand with a reason: mechanics says little about
// breathing, stretches, balance and rolling, and a view from above does not show the lever.
const (
	NoFamily   Family = ""
	LegWork    Family = "legs"           // on the back or the seat, legs and head held against gravity
	Planks     Family = "planks"         // hands or forearms and feet or knees
	SidePlanks Family = "side planks"    // one hand or forearm and the feet or knees
	Bridges    Family = "bridges"        // shoulders and feet
	Fronts     Family = "prone"          // lifts on the front
	Kneeling4  Family = "kneeling lifts" // limbs lifted on hands and knees
	SideLegs   Family = "side-lying"     // legs lifted on the side
	Standings  Family = "standing"       // squats, lunges, hinges
	OnRoller   Family = "roller"         // lying along a roller
	Hovers     Family = "hovers"         // hands and toes, knees just off the mat under the hips
)

// scale turns what the mechanics say into demand 0..10: zero + the sum of weight x moment (percent of
// body weight x height, the worst of the repetition) + hands x percent of body weight on the hands + press x the moment at
// elbows and shoulders of arms that bear + push x the push of a wall against the hands, in percent of body weight.
// The weights are judgement; the anchors that fix them stand beside them and are tested.
type scale struct {
	zero, hip, curl, shoulder, lumbar, knee, oneHip, hands, press, push float64
	anchors                                                             string
}

var scales = map[Family]scale{
	LegWork:    {hip: 1.1, curl: .9, shoulder: .2, anchors: "0 legs and head carried by the mat; 4 two straight legs at 60 degrees; 7 at 30 degrees; 9 and more those with head and arms lifted as well"},
	Planks:     {zero: -3.5, hands: .14, hip: .25, press: .1, anchors: "2 hands and knees; 4.5 the plank from the knees; 6.5 the full plank; 8 low in a push-up; 9 with one leg lifted"},
	SidePlanks: {zero: .9, lumbar: .6, anchors: "4 knees down; 6.5 the whole length; 10 out of the range of mat work"},
	Bridges:    {zero: 1.3, oneHip: .6, anchors: "1 the pelvis tilted; 3.5 both feet; 6 one foot"},
	Fronts:     {zero: .8, hip: .3, lumbar: .3, curl: .35, shoulder: .25, anchors: "0.8 at rest; 3 to 3.5 one long leg or the breastbone lifted; 7 arms and legs lifted; 8 all of it high"},
	Kneeling4:  {zero: 1, hip: .95, shoulder: .6, anchors: "1 all fours; 2.5 the knee bent and lifted; 4.5 the leg long with the opposite arm"},
	SideLegs:   {zero: .6, hip: .85, anchors: "1 at rest; 2.5 to 3.5 one long leg level; 5.5 both long legs"},
	Standings:  {zero: .6, knee: .42, lumbar: .2, oneHip: .12, shoulder: .2, press: .1, push: .04, anchors: "0.6 standing; 2.5 a push-up one step from the wall; 4 half a squat; 5 thighs nearly level; 6 a deep split lunge"},
	Hovers:     {zero: -1.6, hands: .09, hip: .4, shoulder: .6, anchors: "3 the knees light on the mat; 4.5 the knees off it; 6 one foot less"},
	OnRoller:   {zero: 8, anchors: "less 0.11 for each degree the body may sway before it tips; 3 feet wide with the hands down; 6 feet together"},
}

// perSway is the points of demand for one degree of sway on a roller; judgement.
const perSway = .11

// FamilyAnchors says what the numbers of a family's scale stand for; empty for judged movements.
func FamilyAnchors(f Family) string { return scales[f].anchors }

// families lists them for errors.
func families() string {
	return strings.Join(slices.Sorted(func(yield func(string) bool) {
		for f := range scales {
			if !yield(string(f)) {
				return
			}
		}
	}), ", ")
}

// samples is at how many moments of a repetition the mechanics look.
const samples = 4

// Weigh works out what gravity asks over a repetition of level n. ok is false where the picture does
// not show the lever (from above) or there is none.
func (m *Movement) Weigh(n int) (body.Loads, bool) { return weighed(m.Poses(n)) }

func weighed(strip body.Strip) (body.Loads, bool) {
	if len(strip) == 0 {
		return body.Loads{}, false
	}
	return strip.Repetition(body.Mean, samples)
}

// weigh works out the loads over the level's poses, and for a family the demand too.
func (l *Level) weigh(m *Movement, strip body.Strip) error {
	f := m.Family
	if l.Family != NoFamily { // the level's own
		f = l.Family
	}
	sc, known := scales[f]
	if f != NoFamily && !known {
		return fmt.Errorf("family %q: expected one of %s", f, families())
	}
	l.Computed = false
	if f == NoFamily || l.Judged {
		return nil
	}
	loads, ok := weighed(strip)
	if !ok {
		return fmt.Errorf("the pose %q is seen from above: its demand can only be judged", l.Figure)
	}
	if (f == Planks || f == Hovers) && loads.Hands == 0 {
		return fmt.Errorf("the pose %q does not stand on hands and feet", l.Figure)
	}
	w := loads.Worst
	l.Demand = sc.zero + sc.hip*w.Hip + sc.curl*w.Curl + sc.shoulder*w.Shoulder + sc.lumbar*w.Lumbar + sc.knee*w.Knee + sc.oneHip*w.OneHip + sc.hands*loads.Hands + sc.press*w.Press + sc.push*loads.Push
	if f == OnRoller {
		fig := body.Solve(strip[len(strip)-1].Pose)
		l.Demand -= perSway * body.Sway(l.Stance/100, fig.CentreOfMass(body.Mean).Y)
		if l.Stance == 0 {
			return fmt.Errorf("a level on the roller needs a stance")
		}
	}
	l.Demand = math.Round(10*max(0, min(l.Demand, 10))) / 10
	l.Computed = true
	return nil
}

// FamilyAt is the family that level n belongs to, its own or the movement's.
func (m *Movement) FamilyAt(n int) Family {
	if f := m.At(n).Family; f != NoFamily {
		return f
	}
	return m.Family
}

// DemandFrom says where the demand comes from: "computed" or "judged".
func (l *Level) DemandFrom() string {
	if l.Computed {
		return "computed"
	}
	return "judged"
}

// Families lists the families by name.
func Families() []string { return strings.Split(families(), ", ") }

// Demand is the demand and the loads of a strip of poses in a family; stance is the width of the base on
// a roller in hundredths of stature. Without a family the demand is 0 and only the loads count.
func Demand(f Family, strip body.Strip, stance float64) (demand float64, loads body.Loads, err error) {
	l := Level{Family: f, Stance: stance, Figure: "shown"}
	loads, _ = weighed(strip)
	if f == NoFamily {
		return 0, loads, nil
	}
	err = l.weigh(&Movement{}, strip)
	return l.Demand, loads, err
}

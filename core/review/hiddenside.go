package review

import (
	"fmt"
	"regexp"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// hiddenRule: the class is seen by a camera, and one of the two working sides is behind the body.
var hiddenRule = &Rule{
	Name: "hidden-side", Looks: "the class is seen by a camera, and of a movement done in profile one working side is behind the body; no note says to turn round", Fixed: "both sides seen", Source: practice,
	Mends: "a word: turn round for the second side", find: findHidden,
}

// turnSaid are words by which whoever leads turns round.
var turnSaid = regexp.MustCompile(`(?i)\b(?:turn(?:s|ed|ing)? (?:round|around|over|to face|away|end)|other end|swap ends?|change ends?|face (?:the )?(?:other|back|camera|front|away|wall)|facing|toward(?:s)? the camera|nearest the camera|seen)\b`)

// profiles are positions in which the side away from the camera is behind the other.
func inProfile(p movement.Posture) bool {
	switch p {
	case movement.HandsAndKnees, movement.ForearmsAndKnees, movement.Lunge, movement.KneelingSidePlank, movement.HalfKneeling, movement.Kneeling, movement.SideLying, movement.Plank, movement.Forearms, movement.SidePlank, movement.Prone:
		return true
	}
	return false
}

func findHidden(l *look, _ *Rule) []Finding {
	if l.s.Style.Seen != plan.SeenByCamera || turnSaid.MatchString(l.s.Note) {
		return nil
	}
	var rows []plan.Path
	var names []string
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		if turnSaid.MatchString(r.Note) || !inProfile(m.Posture) || r.Faces == plan.FacesThem || r.Faces == plan.FacesAway { // face to face, or from behind, both sides are seen
			return
		}
		if rule := r.SideRule(m); rule != movement.Each && rule != movement.RightOnly && rule != movement.LeftOnly {
			return
		}
		if pose, ok := m.Pose(r.Level); ok && pose.Front { // shown from the front: both sides are seen
			return
		}
		rows = append(rows, p)
		names = append(names, m.Name)
	})
	if rows == nil {
		return nil
	}
	f := Finding{
		Severity: Look, Row: rows[0], Amount: float64(len(rows)), Measured: many(len(rows), "movement") + " in profile", Limit: "both sides seen",
		Says: "The camera does not see both sides of " + l.name(rows[0]), Detail: strings.Join(names[:min(len(names), namedAtMost)], ", ") + ": one working side is behind the body.",
	}
	if len(rows) > 1 {
		f.Says = fmt.Sprintf("The camera does not see both sides of %d movements", len(rows))
	}
	f.At, _, _ = l.tl.RowSpan(rows[0])
	f.Mends = []Mend{{ID: "hidden-turn", Says: "Note: turn round for the second side", apply: func(s *plan.Session) error {
		for _, p := range rows {
			if err := addNote(s, p, "Turn round for the second side."); err != nil {
				return err
			}
		}
		return nil
	}}}
	return []Finding{f}
}

package movement

import "slices"

// Topic is something a mover may have to watch.
type Topic string

// The topics of the usual cautions. LowBack and Pregnancy are said where it is not known which of their parts it is: then
// the gravest counts.
const (
	Neck            Topic = "neck"
	LowBack         Topic = "low back"
	LowBackBending  Topic = "low back when bending"
	LowBackArching  Topic = "low back when arching"
	Wrists          Topic = "wrists"
	Shoulder        Topic = "shoulders"
	Elbow           Topic = "elbows"
	Knees           Topic = "knees"
	Hip             Topic = "hips"
	Ankle           Topic = "ankles and feet"
	Bones           Topic = "low bone density"
	Pregnancy       Topic = "pregnancy"
	Expecting1      Topic = "expecting, first third"
	Expecting2      Topic = "expecting, second third"
	Expecting3      Topic = "expecting, last third"
	AfterBirth      Topic = "after birth"
	AfterBirthLater Topic = "later after birth"
	PelvicFloor     Topic = "pelvic floor"
	Pressure        Topic = "blood or eye pressure"
	Vertigo         Topic = "vertigo"
	Balance         Topic = "balance"
	NoFloor         Topic = "not down to the floor"
	NoFront         Topic = "not on the front"
	NoBack          Topic = "not long on the back"
	Impact          Topic = "jumping and impact"
	NoTouch         Topic = "no touch"
	Treated         Topic = "under treatment"
)

var topics = []Topic{
	Neck, LowBackBending, LowBackArching, Wrists, Shoulder, Elbow, Knees, Hip, Ankle, Bones, Expecting1, Expecting2, Expecting3, AfterBirth, AfterBirthLater, PelvicFloor,
	Pressure, Vertigo, Balance, NoFloor, NoFront, NoBack, Impact, NoTouch, Treated,
}

// Topics lists every topic for which a level has an answer of its own.
func Topics() []Topic { return slices.Clone(topics) }

// IsState tells whether a topic says how somebody is or what they do not do, rather than what they watch.
func (t Topic) IsState() bool {
	switch t {
	case Pregnancy, Expecting1, Expecting2, Expecting3, AfterBirth, AfterBirthLater, NoFloor, NoFront, NoBack, NoTouch, Treated, Bones, Vertigo, Pressure:
		return true
	}
	return false
}

// generalTopics are said where it is not known which part is meant.
var generalTopics = map[Topic][]Topic{LowBack: {LowBackBending, LowBackArching}, Pregnancy: {Expecting1, Expecting2, Expecting3}}

// aloud are the topics that are said to everybody, on sheets and in the library; the others concern whoever watches them.
var aloud = []Topic{Neck, LowBack, Wrists, Shoulder, Knees, Bones, Pregnancy, AfterBirth, Pressure, Vertigo, Balance}

// spokenOf are the words by which a movement's own care covers a topic.
var spokenOf = map[Topic]string{
	Neck: "neck", LowBack: "low back", Wrists: "wrist", Shoulder: "shoulder", Knees: "knee", Bones: "bone", Pregnancy: "pregnan", AfterBirth: "birth", Pressure: "pressure", Vertigo: "vertigo", Balance: "balance",
}

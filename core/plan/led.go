package plan

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// Faces is how whoever leads stands to those who follow in a row; the zero value is not said: as the position has it.
type Faces uint8

// The ways of facing.
const (
	FacesThem Faces = iota + 1 // face to face
	FacesSide                  // seen from the side
	FacesAway                  // with the back to them
)

var faceWords = []string{"front", "side", "back"}

// String is the word; empty where nothing is said.
func (f Faces) String() string { return ledWord(faceWords, int(f)) }

// OnMat is where on the mat whoever leads is; the zero value is not said.
type OnMat uint8

// The places on the mat, from those who follow.
const (
	MatFront OnMat = iota + 1
	MatMiddle
	MatBack
)

var matWords = []string{"front", "middle", "back"}

// String is the word; empty where nothing is said.
func (m OnMat) String() string { return ledWord(matWords, int(m)) }

func ledWord(words []string, n int) string {
	if n < 1 || n > len(words) {
		return ""
	}
	return words[n-1]
}

// FacesIn is how whoever leads faces in a row: as it says, else from the position. Who stands, sits or half kneels faces those who follow; lying, on hands and
// knees and in planks they are seen from the side (common practice, no source).
func (r *Row) FacesIn(p movement.Posture) Faces {
	if r.Faces > 0 {
		return r.Faces
	}
	switch p {
	case movement.NoPosture, movement.Standing, movement.Chair, movement.Seated, movement.SeatedHeels, movement.Kneeling, movement.HalfKneeling:
		return FacesThem
	}
	return FacesSide
}

// ledWords tells whether the session says anything that SessionFormatLed has.
func (s *Session) ledWords() bool {
	if s.Opening != "" || s.Closing != "" || s.Whole || s.Style.Offered > 0 {
		return true
	}
	for i := range s.Sections {
		for j := range s.Sections[i].Blocks {
			if slices.ContainsFunc(s.Sections[i].Blocks[j].Rows, func(r Row) bool { return r.Faces > 0 || r.OnMat > 0 }) {
				return true
			}
		}
	}
	return false
}

// SetOpening takes what is said before the first movement, SetClosing what is said after the last; nothing is as it is written from the plan.
func (s *Session) SetOpening(text string) error { return setTalk(&s.Opening, text) }

// SetClosing takes what is said after the last movement.
func (s *Session) SetClosing(text string) error { return setTalk(&s.Closing, text) }

func setTalk(to *string, text string) error {
	text = strings.ReplaceAll(strings.TrimSpace(text), "\r\n", "\n")
	if len([]rune(text)) > MaxNote {
		return fmt.Errorf("opening and closing: at most %d characters each", MaxNote)
	}
	*to = text
	return nil
}

// SetCounts says what the length asked for counts: "whole", with opening and closing, or "moving".
func (s *Session) SetCounts(text string) error {
	if text != "whole" && text != "moving" {
		return errors.New("the length counts the whole class or what is moved: expected whole or moving")
	}
	s.Whole = text == "whole"
	return nil
}

// How many words open and close a class where nobody has written them yet, and how many are said in a minute; judgement, common practice (no source).
const (
	wordsOpening = 60
	wordsClosing = 8
	wordsAMinute = 151
)

// ToMove is the length asked for of what is moved: where it counts the whole class, without what is said at its ends. 0 where none is asked for.
func (s *Session) ToMove() clock.Span {
	if !s.Whole || s.Target == 0 {
		return s.Target
	}
	words := func(own string, usual int) int {
		if n := len(strings.Fields(own)); n > 0 {
			return n
		}
		return usual
	}
	n := words(s.Opening, wordsOpening) + words(s.Closing, wordsClosing)
	return max(leastTarget, s.Target-(clock.Minute.Times(float64(n)/wordsAMinute)+clock.Second-1)/clock.Second*clock.Second)
}

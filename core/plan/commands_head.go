package plan

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/movement"
)

// SetHead changes what is said of the whole session; what is nil stays. Values are as they are typed.
type SetHead struct {
	Title    *string `form:"title"`
	Target   *string `form:"target"` // "20", "20:00"; a bare number is minutes, as it is announced; "" is none
	Talk     *string `form:"talk"`
	Tempo    *string `form:"tempo"`
	First    *string `form:"first"`
	BPM      *string `form:"bpm"`
	Focus    *string `form:"focus"` // words parted by commas
	Audience *string `form:"audience"`
	Style    *string `form:"style"` // "breath nose-nose": a question of the school and its answer
	Opening  *string `form:"opening"`
	Closing  *string `form:"closing"`
	Counts   *string `form:"counts"` // what the length asked for counts: "whole", "moving"
}

// Do changes it; where one value is wrong, nothing changes.
func (c *SetHead) Do(s *Session, _ *movement.Library) (Done, error) {
	says := "Change the session"
	for _, f := range []struct {
		value *string
		says  string
		set   func(string) error
	}{
		{c.Title, "Title", s.SetTitle},
		{c.Target, "Length asked for ", s.SetTarget},
		{c.Talk, "Explaining ", func(v string) error { return s.Talk.UnmarshalText([]byte(v)) }},
		{c.Tempo, "Tempo ", func(v string) error { return s.Tempo.UnmarshalText([]byte(v)) }},
		{c.First, "First side ", func(v string) error { return s.Style.Set("first_side", v) }},
		{c.BPM, "Beat ", s.SetBeat},
		{c.Focus, "Focus", s.SetFocus},
		{c.Audience, "For ", s.SetAudience},
		{c.Style, "Style: ", s.setStyle},
		{c.Opening, "Opening", s.SetOpening},
		{c.Closing, "Closing", s.SetClosing},
		{c.Counts, "The length counts ", s.SetCounts},
	} {
		if f.value == nil {
			continue
		}
		if err := f.set(*f.value); err != nil {
			return Done{}, err
		}
		says = f.says
		if strings.HasSuffix(says, " ") {
			v := strings.TrimSpace(*f.value)
			if v == "" {
				v = "none"
			}
			says += v
		}
	}
	return Done{Says: says}, nil
}

func (s *Session) setStyle(v string) error {
	key, answer, _ := strings.Cut(v, " ")
	return s.Style.Set(key, answer)
}

// checkTitle gives a title without space around it, where a document may carry it.
func checkTitle(what, title string) (string, error) {
	title = strings.TrimSpace(title)
	if title == "" || len([]rune(title)) > MaxTitle || title != shown(title) {
		return "", fmt.Errorf("%s needs a title of 1 to %d characters", what, MaxTitle)
	}
	return title, nil
}

// SetTitle names the session.
func (s *Session) SetTitle(title string) error {
	t, err := checkTitle("a session", title)
	if err == nil {
		s.Title = t
	}
	return err
}

// leastTarget is the shortest length a class is asked to have.
const leastTarget = clock.Minute

// SetTarget reads the length asked for: a bare number is minutes, nothing is none.
func (s *Session) SetTarget(text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		s.Target = 0
		return nil
	}
	if _, err := strconv.Atoi(text); err == nil {
		text += " min"
	}
	sp, err := clock.Parse(text)
	if err != nil {
		return err
	}
	if sp < leastTarget || sp > MaxTarget {
		return fmt.Errorf("a length of %s: expected 1 minute to %d hours", sp, MaxTarget/(60*clock.Minute))
	}
	s.Target = sp
	return nil
}

// SetBeat reads beats a minute; nothing counts freely.
func (s *Session) SetBeat(text string) error {
	text = strings.TrimSpace(text)
	if text == "" {
		s.BPM = 0
		return nil
	}
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(n) || n < MinBPM || n > MaxBPM {
		return fmt.Errorf("a beat of %q: expected %d to %d a minute, or nothing", Clip(text, maxShown), MinBPM, MaxBPM)
	}
	s.BPM = n
	return nil
}

// SetFocus reads words parted by commas.
func (s *Session) SetFocus(text string) error {
	var focus []string
	for _, w := range strings.Split(text, ",") {
		if w = strings.TrimSpace(w); w == "" {
			continue
		}
		if len([]rune(w)) > maxWord || len(focus) == maxFocus {
			return fmt.Errorf("focus: at most %d words of at most %d characters", maxFocus, maxWord)
		}
		focus = append(focus, w)
	}
	s.Focus = focus
	return nil
}

// SetAudience says who the session is for, in the words of movement.ReadAudience; or nobody in particular.
func (s *Session) SetAudience(text string) error {
	a, err := movement.ReadAudience(text)
	if errors.Is(err, movement.ErrBothWays) {
		return err
	}
	if err != nil {
		return fmt.Errorf("for %w", err)
	}
	s.Audience = a
	return nil
}

// SetSessionNote says something of the whole session.
func (s *Session) SetSessionNote(text string) error {
	if len([]rune(text)) > MaxNote {
		return fmt.Errorf("note: at most %d characters", MaxNote)
	}
	s.Note = text
	return nil
}

// SetAside sets a finding aside for this session, with the reason.
type SetAside struct {
	Rule   string `form:"rule"`
	About  string `form:"about"`
	Amount Amount `form:"amount,parser=encoding.TextUnmarshaler"`
	Reason string `form:"reason"`
}

// Amount is how bad a finding is, in a form: a number from 0.
type Amount float64

// UnmarshalText reads it; nothing is 0.
func (a *Amount) UnmarshalText(b []byte) error {
	t := strings.TrimSpace(string(b))
	if t == "" {
		*a = 0
		return nil
	}
	v, err := strconv.ParseFloat(t, 64)
	if err != nil || !(v >= 0 && v <= maxAmount) {
		return errors.New("that is no finding of the second look")
	}
	*a = Amount(v)
	return nil
}

// Do sets it aside.
func (c *SetAside) Do(s *Session, _ *movement.Library) (Done, error) {
	a := Aside{Rule: c.Rule, About: c.About, Amount: float64(c.Amount), Reason: strings.TrimSpace(c.Reason)}
	return Done{Says: "Set aside: " + a.Reason}, s.PutAside(a)
}

// BringBack takes a finding up again that was set aside for this session.
type BringBack struct {
	Rule  string `form:"rule"`
	About string `form:"about"`
}

// Do takes it up.
func (c *BringBack) Do(s *Session, _ *movement.Library) (Done, error) {
	for i, a := range s.Aside {
		if a.Rule == c.Rule && (a.About == c.About || a.About == "") {
			s.Aside = append(s.Aside[:i:i], s.Aside[i+1:]...)
			return Done{Says: "Bring back what was set aside"}, nil
		}
	}
	return Done{}, errors.New("that was set aside for every session of the studio: bring it back under Studio")
}

// NewSession makes an empty session in a school: three sections to begin with.
type NewSession struct {
	Title  string `form:"title"`
	Target string `form:"target"`
	Style  Style  `form:"-"`
}

// Do makes it.
func (c *NewSession) Do(s *Session, _ *movement.Library) (Done, error) {
	*s = Session{Format: SessionFormat, Style: c.Style, Sections: []Section{{Title: "Arrive"}, {Title: "Build"}, {Title: "Settle"}}}
	if err := s.SetTitle(c.Title); err != nil {
		return Done{}, err
	}
	return Done{Says: "New session"}, s.SetTarget(c.Target)
}

// CopySession makes a session like another, under a name that says so.
type CopySession struct{ From *Session }

// Do makes it.
func (c *CopySession) Do(s *Session, _ *movement.Library) (Done, error) {
	const more = " copy"
	*s = *c.From.Clone()
	s.Title = Clip(s.Title, MaxTitle-len(more)) + more
	return Done{Says: "Copied from " + c.From.Title}, nil
}

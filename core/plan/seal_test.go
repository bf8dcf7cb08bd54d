package plan

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

// odd is a command that makes what cannot be read again.
type odd func(s *Session)

func (c odd) Do(s *Session, _ *movement.Library) (Done, error) { c(s); return Done{Says: "odd"}, nil }

func gateSession(t *testing.T) *Session {
	t.Helper()
	s, err := ReadSession([]byte(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"Arrive","blocks":[]},{"title":"Build","blocks":[{"rule":"straight","rows":[{"movement":"squat","dose":"8 reps"},{"movement":"bird-dog","dose":"8 each side"}]}]}]}`), movement.Shipped())
	require.NoError(t, err)
	return s
}

// What cannot be read again is refused with its place in a teacher's words, and nothing has changed.
func TestTheGateRefusesWithThePlace(t *testing.T) {
	for says, c := range map[string]odd{
		"Build, row 2 (bird-dog), note: a character that cannot be shown": func(s *Session) { s.Row(Path{2, 1, 2}).Note = "a\x01" },
		"Build, row 1 (squat), dose: ":                                    func(s *Session) { s.Row(Path{2, 1, 1}).Dose.Parts[0].Count = dose.MaxReps + 1 },
		"Build, row 1 (squat), level: squat has":                          func(s *Session) { s.Row(Path{2, 1, 1}).Level = 9 },
		"Build, row 2 (nowhere), movement: no movement":                   func(s *Session) { s.Row(Path{2, 1, 2}).Movement = "nowhere" },
		"title: 201 characters: at most 200":                              func(s *Session) { s.Title = strings.Repeat("é", 201) },
		"section 2, title: 201 characters":                                func(s *Session) { s.Sections[1].Title = ""; s.Sections[1].Title = strings.Repeat("x", 201) },
		"target: ":                                                        func(s *Session) { s.Target = MaxTarget + 1 },
		"Build, rounds: ":                                                 func(s *Session) { s.Block(Path{2, 1, 1}).Rule, s.Block(Path{2, 1, 1}).Rounds = Rounds, MaxRounds+1 },
		"Build, row 1 (squat): sides that contradict": func(s *Session) {
			s.Row(Path{2, 1, 1}).Sides, s.Row(Path{2, 1, 1}).Dose.Per = movement.RightOnly, dose.EachSide
		},
		"what was set aside, reason: ": func(s *Session) { s.Aside = []Aside{{Rule: "sides", Reason: strings.Repeat("x", maxReason+1)}} },
		"at most 2 MB can be saved": func(s *Session) {
			s.extra = map[string]json.RawMessage{}
			for i := range 900 {
				s.Sections = append(s.Sections[:2:2], Section{Title: "x"})
				r := *s.Row(Path{2, 1, 1})
				r.Note = strings.Repeat("é", 1990)
				_ = i
				s.Sections[1].Blocks[0].Rows = append(s.Sections[1].Blocks[0].Rows, r)
			}
		},
	} {
		s := gateSession(t)
		before, err := json.Marshal(s)
		require.NoError(t, err)
		_, err = Apply(s, movement.Shipped(), c)
		var refused *Refused
		if assert.ErrorAs(t, err, &refused, says) {
			got := err.Error()
			if strings.HasPrefix(says, "section 2") { // a title too long to be shown is shown in part
				says = strings.Repeat("x", maxShown-1) + "…, title: 201 characters"
			}
			assert.Contains(t, got, says)
		}
		after, err := json.Marshal(s)
		require.NoError(t, err)
		assert.Equal(t, string(before), string(after), "nothing has changed")
	}
}

// What passes is what is stored: read back it is the same, with what is derived from it.
func TestWhatPassesTheGate(t *testing.T) {
	s := gateSession(t)
	line := "clam level 2 12 each side"
	ch, err := Apply(s, movement.Shipped(), &AddLine{Line: line})
	require.NoError(t, err)
	assert.Equal(t, Path{2, 1, 3}, ch.At)
	assert.Equal(t, "Add Clam", ch.Says)
	assert.Equal(t, 2, s.Rows(), "the session it was done on is as it was")
	back, err := ReadSession(ch.Sealed.Text(), movement.Shipped())
	require.NoError(t, err)
	assert.Equal(t, 3, back.Rows())
	assert.Equal(t, []Use{{"squat", 1, "8 reps"}, {"bird-dog", 1, "8 each side"}, {"clam", 2, "12 each side"}}, ch.Sealed.Uses())
	assert.Empty(t, ch.Sealed.Own())
	assert.Equal(t, "after row 2, in Build", ch.Session.Where(ch.At))
}

// Where a row goes that says no place: after the last row there is, a class without rows begins at the beginning.
func TestWhereARowGoes(t *testing.T) {
	lib := movement.Shipped()
	ch, err := New(lib, &NewSession{Title: "T", Target: "20"})
	require.NoError(t, err)
	s := ch.Session
	for _, c := range []struct{ after, want string }{{"", "Arrive"}, {"", "Arrive"}, {"3.0.0", "Settle"}, {"", "Settle"}, {"1.1.1", "Arrive"}, {"2.0.0", "Build"}, {"9.9.9", "Settle"}} {
		add := &AddLine{Line: "squat 8"}
		require.NoError(t, add.After.UnmarshalText([]byte(c.after)))
		ch, err := Apply(s, lib, add)
		require.NoError(t, err)
		s = ch.Session
		assert.Equal(t, c.want, s.Sections[ch.At.Section-1].Title, "after %q", c.after)
	}
}

// What a later version wrote is kept as it was meant; a number beyond what is kept is refused with its place.
func TestKeysOfALaterVersion(t *testing.T) {
	doc := func(v string) []byte {
		return []byte(`{"format":"wavekine.session/1.4","title":"T","sections":[],"mood":` + v + `}`)
	}
	for v, want := range map[string]string{`1e2`: `100`, `-0`: `0`, `0.5`: `0.5`, `[1,{"a":1.50}]`: `[1,{"a":1.5}]`, `"x"`: `"x"`, `null`: `null`} {
		s, err := ReadSession(doc(v), movement.Shipped())
		require.NoError(t, err, v)
		sealed, err := Seal(s, movement.Shipped())
		require.NoError(t, err, v)
		assert.Contains(t, string(sealed.Text()), `"mood":`+want)
	}
	for _, v := range []string{`1e300`, `1e400`, `[1e-30]`, `{"a":{"b":1e200000}}`, `"a\u0001"`, `{"\u0000":1}`, `"\ud800"`} {
		_, err := ReadSession(doc(v), movement.Shipped())
		var se *strict.Error
		require.ErrorAs(t, err, &se, v)
		assert.True(t, strings.HasPrefix(se.Path, "$.mood") || se.Path == "$", fmt.Sprint(v, " ", se.Path))
	}
}

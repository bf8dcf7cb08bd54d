package plan

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every line of the mails that is understood makes a session that is read back the same, in the version that has its words, and is said again the same.
func TestWhatIsReadFromNamesIsKept(t *testing.T) {
	text, err := os.ReadFile("testdata/mails.txt")
	require.NoError(t, err)
	named := 0
	for line := range strings.Lines(string(text)) {
		typed, _, ok := strings.Cut(line, "\t")
		if !ok {
			continue
		}
		row, err := Line(unbullet(typed), lib)
		if err != nil {
			continue
		}
		s := &Session{Title: "T", Sections: []Section{{Title: "A", Blocks: []Block{{Rounds: 1, Rows: []Row{row}}}}}}
		sealed, err := Seal(s, lib)
		require.NoError(t, err, typed)
		back, err := ReadSession(sealed.Text(), lib)
		require.NoError(t, err, typed)
		again, err := json.Marshal(back)
		require.NoError(t, err)
		assert.JSONEq(t, string(sealed.Text()), string(again), typed)
		later := row.Inline != nil || row.Dose.Later()
		assert.Equal(t, later, strings.Contains(string(again), SessionFormatSaid), typed)
		if row.Inline == nil {
			continue
		}
		named++
		m, err := row.Of(lib)
		require.NoError(t, err, typed)
		twice, err := Line(row.Spoken(m), lib)
		require.NoError(t, err, "%s said as %s", typed, row.Spoken(m))
		assert.Equal(t, row, twice, typed)
	}
	assert.Greater(t, named, 25)
}

// What was read is put right word by word; what was said is no guess any more, and one wrong value changes nothing.
func TestWhatWasReadIsPutRight(t *testing.T) {
	row, err := Line("kneeling leg sweeps with a band 8-10 each side", lib)
	require.NoError(t, err)
	require.NotNil(t, row.Inline)
	assert.Equal(t, "kneeling · each side · 4.5 s each · works hips, gluteals · needs band", row.Inline.Words())
	s := &Session{Title: "T", Sections: []Section{{Title: "A", Blocks: []Block{{Rounds: 1, Rows: []Row{row, {Movement: "squat"}}}}}}}
	at := Path{1, 1, 1}
	say := func(v string) *string { return &v }
	ch, err := Apply(s, lib, &SetInline{At: at, Spine: say("turn, Side"), Loads: say("hands"), Works: say("obliques, gluteals"), Ends: say("seated"), Seconds: say("3 s"), Kit: say("")})
	require.NoError(t, err)
	in := ch.Session.Row(at).Inline
	assert.Equal(t, "kneeling · ends seated · each side · 3 s each · spine turn and side · works obliques, gluteals · hands", in.Words())
	assert.NotContains(t, in.Read, "spine")
	assert.Contains(t, s.Row(at).Inline.Words(), "needs band", "the session that is given stays as it is")
	m, err := ch.Session.Row(at).Of(lib)
	require.NoError(t, err)
	assert.Equal(t, .4, m.Regions["gluteals"], "a region that stays keeps its share")
	whole := &SetInline{
		At: at, Name: say("Sweeps"), Posture: say("prone"), Ends: say(""), Sides: say("both"), Seconds: say("2"), Effort: say("3"), Spine: say(""), Loads: say(""), Works: say(""),
		Stretch: say("rest"), Kit: say("2 blocks"),
	}
	ch, err = Apply(s, lib, whole)
	require.NoError(t, err)
	assert.False(t, ch.Session.Row(at).Inline.Guessed(), "all of it is said")
	for says, c := range map[string]*SetInline{
		"no region":            {Works: say("wings")},
		"not one of the words": {Spine: say("up")},
		"stands twice":         {Loads: say("hands, hands")},
		"0.2 to 300":           {Seconds: say("0")},
		"0 to 10":              {Effort: say("NaN")},
		"not a posture":        {Posture: say("flying")},
		"not a side rule":      {Sides: say("up")},
		"a name of 1 to 100":   {Name: say("  ")},
		"yes, rest or nothing": {Stretch: say("maybe")},
	} {
		c.At = at
		_, err := Apply(s, lib, c)
		assert.ErrorContains(t, err, says)
	}
	_, err = Apply(s, lib, &SetInline{At: Path{1, 1, 2}, Posture: say("prone")})
	assert.ErrorContains(t, err, "a movement of the library")
}

// Rows that were read from their name become rows of a movement of the library, all of that name at once; what the rows say stays.
func TestRowsBecomeRowsOfTheLibrary(t *testing.T) {
	s := &Session{Title: "Wheel", Sections: []Section{{Title: "Build"}}}
	for _, line := range []string{"Kneeling leg sweeps 6 each side", "Squat x8", "kneeling leg sweeps 4 each side"} {
		ch, err := Apply(s, lib, &AddLine{Line: line})
		require.NoError(t, err, line)
		s = ch.Session
	}
	doses := func(s *Session) (out []string) {
		s.Each(func(_ Path, _ *Block, r *Row) { out = append(out, r.Name()+" "+r.Dose.String()) })
		return out
	}
	was := doses(s)
	ch, err := Apply(s, lib, &TakeMovement{Name: "Kneeling leg sweeps", Movement: "bird-dog"})
	require.NoError(t, err)
	assert.Contains(t, ch.Says, "in 2 rows")
	assert.Equal(t, was, doses(s), "what it was done to is as it was")
	assert.Len(t, doses(ch.Session), 3)
	assert.Contains(t, doses(ch.Session)[0], " 6 each side")
	assert.Contains(t, doses(ch.Session)[2], " 4 each side")
	_, err = Apply(ch.Session, lib, &TakeMovement{Name: "Kneeling leg sweeps", Movement: "squat"})
	assert.ErrorContains(t, err, "no row is written in")
	_, err = Apply(s, lib, &TakeMovement{Name: "Kneeling leg sweeps", Movement: "no-such"})
	assert.ErrorContains(t, err, "no movement")
}

// Several of a movement are that movement, whatever other names begin so: "press ups" are push-ups and not the press-up on the front.
func TestSeveralOfAMovement(t *testing.T) {
	for _, m := range lib.All() {
		for _, name := range append([]string{m.Name}, m.Also...) {
			if strings.HasSuffix(name, "s") || strings.HasPrefix(strings.ToLower(name), "rest ") || strings.ContainsAny(name, ",()") {
				continue
			}
			for _, line := range []string{name + "s", name + "s 8", "8 " + name + "s"} {
				row, err := Line(line, lib)
				if err == nil && row.Inline == nil {
					assert.Equal(t, m.Slug, row.Movement, line)
				}
			}
		}
	}
	row, err := Line("press ups 8", lib)
	require.NoError(t, err)
	assert.Equal(t, "push-up", row.Movement)
}

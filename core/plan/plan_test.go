package plan

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

const example = `{
  "format": "wavekine.session/1",
  "title": "Wheel-side hips and upper back",
  "focus": ["hips", "upper back"],
  "target": "20:00",
  "beat": {"bpm": 120},
  "pace": {"talk": "coached", "tempo": "even"},
  "style": {"first_side": "right", "pelvis": "by load", "breath": "nose-mouth", "mirrored": true},
  "sections": [
    {"title": "Arrive", "blocks": [
      {"rule": "straight", "rows": [
        {"movement": "rib-breathing", "dose": "6 breaths"},
        {"movement": "cat-cow", "level": 1, "dose": "5 reps"},
        {"movement": "thread-the-needle", "dose": "4 each side"}]}]},
    {"title": "Build", "blocks": [
      {"rule": "chain", "rest": "20 s", "rows": [
        {"movement": "bird-dog", "level": 2, "dose": "8 reps + 10 pulses"},
        {"movement": "rainbow-leg", "level": 2, "dose": "8 reps", "left": {"dose": "6 reps"}}]},
      {"rule": "rounds", "rounds": 2, "on": "40 s", "off": "20 s", "rest": "20 s", "rows": [
        {"movement": "heel-taps"},
        {"movement": {"name": "Star reach", "posture": "supine", "sides": "alternating", "seconds_per_rep": 3, "effort": 5}, "note": "ours"},
        {"rest": "15 s", "say": "Head down, look right, look left"}]}]}
  ]
}`

var lib = movement.Shipped()

func mustRead(t testing.TB, text string) *Session {
	t.Helper()
	s, err := ReadSession([]byte(text), lib)
	require.NoError(t, err)
	return s
}

func TestDocumentComesBackTheSame(t *testing.T) {
	s := mustRead(t, example)
	out, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, example, string(out))
	again := mustRead(t, string(out))
	assert.Equal(t, s, again)
	b := s.Sections[1].Blocks
	assert.Equal(t, Chain, b[0].Rule)
	assert.Equal(t, 20*clock.Second, b[0].Rest)
	assert.Equal(t, "6 reps", b[0].Rows[1].Left.Dose.String())
	assert.Equal(t, "Star reach", b[1].Rows[1].Inline.Name)
	assert.Equal(t, 3*clock.Second, b[1].Rows[1].Inline.PerRep)
}

func TestLaterMinorVersionKeepsItsKeys(t *testing.T) {
	text := strings.NewReplacer(`session/1"`, `session/1.4"`, `"note": "ours"`, `"note": "ours", "colour": {"b": [1, null], "a": "x"}`).Replace(example)
	s := mustRead(t, text)
	out, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, text, string(out))
}

func TestBadDocumentsNameThePlace(t *testing.T) {
	with := func(old, new string) string { return strings.Replace(example, old, new, 1) }
	for name, c := range map[string]struct{ doc, want string }{
		"unknown movement": {with("rib-breathing", "rib-breeding"), `$.sections[0].blocks[0].rows[0].movement: no movement "rib-breeding" in the library`},
		"zero":             {with("6 breaths", "0 reps"), `$.sections[0].blocks[0].rows[0].dose: dose: column 1: "0": expected a whole number of repetitions from 1 to 500`},
		"negative":         {with("6 breaths", "-3"), `$.sections[0].blocks[0].rows[0].dose: dose: column 1: "-3"`},
		"too many":         {with("6 breaths", "10000 reps"), `"10000": expected a whole number`},
		"nine hours":       {with("6 breaths", "hold 9 h"), `"9 h": expected a time from 0.5 s to 60 min`},
		"type":             {with(`"level": 1`, `"level": "1"`), `$.sections[0].blocks[0].rows[1].level: expected a whole number, found text`},
		"level":            {with(`"level": 1`, `"level": 7`), `$.sections[0].blocks[0].rows[1].level: cat-cow has 2 levels`},
		"unknown key":      {with(`"note"`, `"nota"`), `$.sections[1].blocks[1].rows[1].nota: unknown key`},
		"twice":            {with(`"level": 1`, `"level": 1, "level": 2`), `$.sections[0].blocks[0].rows[1].level: the key is there twice`},
		"format":           {with("session/1", "session/2"), `$.format: "wavekine.session/2": expected "wavekine.session/1"`},
		"no format":        {with(`"format"`, `"fmt"`), `$: "format" is missing`},
		"target":           {with("20:00", "20"), `$.target: "20" is not a time`},
		"sides":            {with(`"dose": "4 each side"`, `"dose": "4 each side", "sides": "both"`), `sides that contradict`},
		"one side":         {with(`"6 reps"`, `"6 each side"`), `the dose of one side cannot itself be per side`},
		"rounds":           {with(`"rounds": 2`, `"rounds": 0`), `$.sections[1].blocks[1].rounds: 0: expected a whole number from 1 to 20`},
		"rule":             {with(`"rule": "chain"`, `"rule": "snake"`), `"snake" is not a rule`},
		"chain in a chain": {with(`{"movement": "bird-dog", "level": 2, "dose": "8 reps + 10 pulses"}`, `{"rule": "chain", "rows": []}`), `a block stands where a row is expected`},
		"cut off":          {example[:400], "the document ends too early"},
		"after the end":    {example + "{}", "there is more after the end"},
		"not JSON":         {with(`{"bpm": 120}`, `{bpm: 120}`), "not JSON at byte"},
		"UTF-8":            {with("Wheel", "Wh\xffeel"), "not text in UTF-8 (byte "},
		"deep":             {`{"format":` + strings.Repeat("[", 100) + strings.Repeat("]", 100) + "}", "nested more than 24 deep"},
		"5 MB":             {strings.Repeat(" ", 5<<20), "the document is 5.0 MB: at most 2 MB are read"},
		"bpm":              {with("120", "1e400"), `$.beat.bpm: 1e400: expected a number from 30 to 240`},
		"inline posture":   {with(`"posture": "supine"`, `"posture": "flying"`), `"flying" is not a posture`},
		"null":             {"null", "$: expected an object, found null"},
	} {
		_, err := ReadSession([]byte(c.doc), lib)
		var se *strict.Error
		require.ErrorAs(t, err, &se, name)
		assert.Contains(t, err.Error(), c.want, name)
	}
}

const seriesExample = `{"format":"wavekine.series/1","title":"Off the wheel","start":"2026-05-01","time":"18:30","zone":"Europe/Lisbon","minutes":20,
	"shape":"ramp","rest_days":["sunday"],"ladders":[{"movement":"bird-dog","steps":[{"level":1,"dose":"6 each side"},{"level":2,"dose":"6 each side"}]}],
	"days":[{"session":"abc","title":"Hips"},{"rest":true},{"session":` + `{"format":"wavekine.session/1","title":"In","target":"5:00","sections":[]}` + `,"pinned":["bird-dog"]},{}]}`

func TestSeriesComesBackTheSame(t *testing.T) {
	s, err := ReadSeries([]byte(seriesExample), lib)
	require.NoError(t, err)
	out, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, seriesExample, string(out))
	assert.True(t, s.Days[3].Empty())
	assert.Equal(t, "2026-05-03", s.Date(2).Format("2006-01-02"))
	assert.Equal(t, 5*clock.Minute, s.Length(s.Days[2]))
	assert.Equal(t, 20*clock.Minute, s.Length(s.Days[0]))
	for old, c := range map[string][2]string{
		"2026-05-01":     {"2026-02-31", "$.start: expected a date that exists"},
		"18:30":          {"25:00", `$.time: "25:00": expected a time of day`},
		"Europe/Lisbon":  {"Europe/Atlantis", "$.zone"},
		`"sunday"`:       {`"someday"`, "$.rest_days[0]"},
		`{"rest":true}`:  {`{"rest":true,"session":"x"}`, "$.days[1].session: a rest day has no session"},
		`"title":"In"`:   {`"titel":"In"`, "$.days[2].session"},
		`"shape":"ramp"`: {`"shape":"zigzag"`, "$.shape"},
		`{"level":1,`:    {`{"level":9,`, "bird-dog has 3 levels"},
	} {
		_, err := ReadSeries([]byte(strings.Replace(seriesExample, old, c[0], 1)), lib)
		require.Error(t, err, old)
		assert.Contains(t, err.Error(), c[1])
	}
}

func TestLineAsSaid(t *testing.T) {
	for said, want := range map[string]Row{
		"bird dog 8 each side + 10 pulses": {Movement: "bird-dog", Dose: d("8 reps + 10 pulses each side")},
		"side plank hold 20 s each side":   {Movement: "side-plank", Dose: d("hold 20 s each side")},
		"10 breaths hundred":               {Movement: "hundred", Dose: d("10 breaths")},
		"rest 20":                          {Rest: &Rest{For: 20 * clock.Second}},
		"rest 1:30 head down, look right":  {Rest: &Rest{For: 90 * clock.Second, Say: "head down, look right"}},
		"rest":                             {Rest: &Rest{For: 15 * clock.Second}},
		"rest on the back 8 breaths":       {Movement: "constructive-rest", Dose: d("8 breaths")},
		"swan level 2 5 reps":              {Movement: "swan", Level: 2, Dose: d("5 reps")},
		"The Hundred":                      {Movement: "hundred"},
		"clam right only 8":                {Movement: "clam", Sides: movement.RightOnly, Dose: d("8")},
		"thread the needle":                {Movement: "thread-the-needle"},
		"criss-cross 10 pairs":             {Movement: "criss-cross", Dose: d("10 pairs")},
		"roll like 4":                      {Movement: "rolling-like-a-ball", Dose: d("4")},
	} {
		r, err := Line(said, lib)
		require.NoError(t, err, said)
		assert.Equal(t, want, r, said)
		if m, _ := r.Of(lib); m != nil {
			again, err := Line(r.Spoken(m), lib)
			require.NoError(t, err, r.Spoken(m))
			assert.Equal(t, r, again, "said back: %s", r.Spoken(m))
		}
	}
}

func d(s string) dose.Dose {
	v, err := dose.Parse(s)
	if err != nil {
		panic(err)
	}
	return v
}

func TestLinePointsAtTheWord(t *testing.T) {
	for said, want := range map[string]string{
		"side circles 5 each":         `column 16: "each": could be each side or each way: say which`,
		"bird dog 8 bananas":          `column 12: "bananas": expected "each side"`,
		"flying trapeze 8":            `column 1: "flying": no movement of that name in the library`,
		"bird zebra 8":                `column 6: "zebra": no movement of that name in the library`,
		"swan level 9":                `column 12: "9": Swan lift has 2 levels`,
		"leg 8":                       `say which`,
		"rest 20 h":                   `column 6: "20": expected a rest from 1 s to 10 min`,
		"":                            `column 1: say a movement and how much`,
		"8 each side":                 `column 1: "8": expected a movement first`,
		"clam 8 each side right only": `sides that contradict`,
		"\xff\xfe":                    "not text in UTF-8",
		strings.Repeat("x", 10000):    "10000 characters: at most 400 in a line",
		"'; DROP TABLE movements; --": `no movement of that name`,
	} {
		_, err := Line(said, lib)
		var le *LineError
		require.ErrorAs(t, err, &le, said)
		assert.Contains(t, err.Error(), want)
	}
}

func rowsOf(s *Session) string {
	var b strings.Builder
	for _, sec := range s.Sections {
		b.WriteString(sec.Title + "[")
		for _, bl := range sec.Blocks {
			b.WriteString(bl.Rule.String()[:1] + "(")
			for i, r := range bl.Rows {
				if i > 0 {
					b.WriteString(" ")
				}
				b.WriteString(r.Name())
			}
			b.WriteString(")")
		}
		b.WriteString("]")
	}
	return b.String()
}

func three(t *testing.T) *Session {
	return mustRead(t, `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[
		{"rule":"straight","rows":[{"movement":"squat"},{"movement":"lunge"},{"movement":"clam"},{"movement":"swan"}]}]},{"title":"B","blocks":[]}]}`)
}

func TestEdits(t *testing.T) {
	p := func(s string) Path { v, err := ParsePath(s); require.NoError(t, err); return v }
	s := three(t)
	at, err := s.Wrap([]Path{p("1.1.3"), p("1.1.2")}, Chain, 0, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, "A[s(squat)c(lunge clam)s(swan)]B[]", rowsOf(s))
	assert.Equal(t, p("1.2.1"), at)

	_, err = s.Wrap([]Path{p("1.2.1")}, Rounds, 2, 0, 0)
	assert.EqualError(t, err, "row 1.2.1 is in a chain already: take it out first")
	_, err = s.Wrap([]Path{p("1.1.1"), p("1.3.1")}, Chain, 0, 0, 0)
	assert.EqualError(t, err, "choose rows that follow each other in one section")

	at, err = s.Step(p("1.1.1"), 1) // into the chain
	require.NoError(t, err)
	assert.Equal(t, "A[c(squat lunge clam)s(swan)]B[]", rowsOf(s))
	assert.Equal(t, p("1.1.1"), at)
	at, err = s.Step(at, -1) // and out again
	require.NoError(t, err)
	assert.Equal(t, "A[s(squat)c(lunge clam)s(swan)]B[]", rowsOf(s))
	assert.Equal(t, p("1.1.1"), at)
	at, err = s.Step(p("1.3.1"), 1) // into the next section
	require.NoError(t, err)
	assert.Equal(t, "A[s(squat)c(lunge clam)]B[s(swan)]", rowsOf(s))
	assert.Equal(t, p("2.1.1"), at)
	at, err = s.Step(at, 1) // the end is the end
	require.NoError(t, err)
	assert.Equal(t, p("2.1.1"), at)

	at, err = s.Unwrap(p("1.2.1"))
	require.NoError(t, err)
	assert.Equal(t, "A[s(squat lunge clam)]B[s(swan)]", rowsOf(s))
	assert.Equal(t, p("1.1.2"), at)

	at, err = s.Move([]Path{p("1.1.1"), p("1.1.2")}, p("2.1.2"))
	require.NoError(t, err)
	assert.Equal(t, "A[s(clam)]B[s(swan squat lunge)]", rowsOf(s))
	assert.Equal(t, p("2.1.2"), at)
	at, err = s.Move([]Path{p("2.1.1")}, p("2.1.4"))
	require.NoError(t, err)
	assert.Equal(t, "A[s(clam)]B[s(squat lunge swan)]", rowsOf(s))
	assert.Equal(t, p("2.1.3"), at)

	at, err = s.Duplicate(p("2.1.1"))
	require.NoError(t, err)
	assert.Equal(t, p("2.1.2"), at)
	require.NoError(t, s.Delete(p("1.1.1"), p("2.1.2")))
	assert.Equal(t, "A[]B[s(squat lunge swan)]", rowsOf(s))
	assert.ErrorIs(t, s.Delete(p("9.1.1")), ErrNoRow)

	at, err = s.Add(Path{Section: 1}, Row{Movement: "bridge"})
	require.NoError(t, err)
	assert.Equal(t, p("1.1.1"), at)
	n, err := s.AddSection(1, " Peak ")
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	assert.Equal(t, "A[s(bridge)]Peak[]B[s(squat lunge swan)]", rowsOf(s))
	_, err = s.AddSection(0, "")
	assert.Error(t, err)
}

func TestDosesAndSidesOfARow(t *testing.T) {
	s := three(t)
	p := Path{1, 1, 2}
	require.NoError(t, s.SetDose(p, movement.SidesUnsaid, d("8 each side")))
	require.NoError(t, s.SetDose(p, movement.LeftOnly, d("6 reps")))
	assert.Equal(t, "6 reps", s.Row(p).Left.Dose.String())
	require.NoError(t, s.SetDose(p, movement.LeftOnly, d("8 reps")))
	assert.Nil(t, s.Row(p).Left, "the same as the row says nothing")
	before := rowsOf(s)
	assert.Error(t, s.SetDose(p, movement.LeftOnly, d("8 each side")))
	assert.Nil(t, s.Row(p).Left)
	require.NoError(t, s.SetSides(p, movement.RightOnly))
	assert.Equal(t, "8 reps", s.Row(p).Dose.String(), "the side rule is the newer word")
	require.NoError(t, s.SetLevel(p, 2, lib))
	assert.EqualError(t, s.SetLevel(p, 5, lib), "Split lunge has levels 1 to 4")
	assert.Equal(t, before, rowsOf(s))
	assert.Error(t, s.SetBlock(p, 0, 0, 0, -1))
}

func TestCloneSharesNothing(t *testing.T) {
	s := mustRead(t, example)
	c := s.Clone()
	c.Sections[1].Blocks[0].Rows[1].Left.Dose = d("3 reps")
	c.Sections[1].Blocks[1].Rows[1].Inline.Name = "x"
	c.Sections[0].Title = "y"
	out, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, example, string(out))
}

func FuzzReadSession(f *testing.F) {
	f.Add([]byte(example))
	f.Add([]byte(`{"format":"wavekine.session/1.2","title":"","sections":[],"x":{"y":1e5}}`))
	f.Fuzz(func(t *testing.T, b []byte) {
		s, err := ReadSession(b, lib)
		if err != nil {
			var se *strict.Error
			require.True(t, errors.As(err, &se))
			return
		}
		out, err := json.Marshal(s)
		require.NoError(t, err)
		again, err := ReadSession(out, lib)
		require.NoError(t, err, "%s", out)
		twice, err := json.Marshal(again)
		require.NoError(t, err)
		require.Equal(t, string(out), string(twice))
	})
}

func FuzzLine(f *testing.F) {
	f.Add("bird dog 8 each side + 10 pulses")
	f.Add("rest 20 s head down")
	f.Fuzz(func(t *testing.T, s string) {
		_, err := Line(s, lib)
		var le *LineError
		require.True(t, err == nil || errors.As(err, &le))
	})
}

// A first side that goes by the day: right on odd days, left on even ones; said otherwise it stays.
func TestForDay(t *testing.T) {
	s := three(t)
	s.Style.First = FirstByDay
	for day, want := range map[int]FirstSide{1: RightFirst, 2: LeftFirst, 29: RightFirst, 30: LeftFirst} {
		assert.Equal(t, want, s.ForDay(day).Style.First, "day %d", day)
	}
	assert.Equal(t, FirstByDay, s.Style.First, "the session itself stays")
	for _, f := range []FirstSide{RightFirst, LeftFirst} {
		s.Style.First = f
		assert.Same(t, s, s.ForDay(2))
	}
}

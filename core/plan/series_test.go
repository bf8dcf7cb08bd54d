package plan

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

func seriesDoc(head, days string) string {
	return `{"format":"wavekine.series/1","title":"S","start":"2026-05-01"` + head + `,"days":[` + days + `]}`
}

// What a series document may hold: all of it up to the limit is read, kept and read again, one more is refused.
func TestASeriesHoldsSoMuch(t *testing.T) {
	x := func(n int) string { return strings.Repeat("ø", n) }
	ladder := func(steps string) string {
		return seriesDoc(`,"ladders":[{"movement":"bird-dog","steps":[`+steps+`]}]`, "")
	}
	for name, c := range map[string]struct {
		most int
		doc  func(n int) string
	}{
		"title":   {200, func(n int) string { return strings.Replace(seriesDoc("", ""), `"S"`, `"`+x(n)+`"`, 1) }},
		"note":    {2000, func(n int) string { return seriesDoc(`,"note":"`+x(n)+`"`, "") }},
		"year":    {2199, func(n int) string { return strings.Replace(seriesDoc("", ""), "2026", fmt.Sprint(n), 1) }},
		"minutes": {180, func(n int) string { return seriesDoc(fmt.Sprintf(`,"minutes":%d`, n), "") }},
		"rest":    {7, func(n int) string { return seriesDoc(`,"rest_days":[`+many(n, `"sunday"`)+`]`, "") }},
		"ladders": {100, func(n int) string {
			return seriesDoc(`,"ladders":[`+many(n, `{"movement":"bird-dog","steps":[{"level":1}]}`)+`]`, "")
		}},
		"steps":    {60, func(n int) string { return ladder(many(n, `{"level":1,"dose":"8 reps"}`)) }},
		"level":    {3, func(n int) string { return ladder(fmt.Sprintf(`{"level":%d}`, n)) }},
		"days":     {60, func(n int) string { return seriesDoc("", many(n, `{}`)) }},
		"of a day": {200, func(n int) string { return seriesDoc("", `{"title":"`+x(n)+`"}`) }},
		"its note": {2000, func(n int) string { return seriesDoc("", `{"note":"`+x(n)+`"}`) }},
		"session":  {100, func(n int) string { return seriesDoc("", `{"session":"`+x(n)+`"}`) }},
		"pinned":   {60, func(n int) string { return seriesDoc("", `{"pinned":[`+many(n, `"bridge"`)+`]}`) }},
	} {
		text := c.doc(c.most)
		s, err := ReadSeries([]byte(text), lib)
		if !assert.NoError(t, err, name) {
			continue
		}
		sealed, err := SealSeries(s, lib)
		if assert.NoError(t, err, name) {
			assert.JSONEq(t, text, string(sealed.Text()), name)
		}
		_, err = ReadSeries([]byte(c.doc(c.most+1)), lib)
		var se *strict.Error
		if assert.ErrorAs(t, err, &se, "%s: one more", name) {
			assert.NotEqual(t, "$", se.Path, name)
		}
	}
	for head, fine := range map[string]bool{
		`,"time":"18:30"`: true, `,"time":"24:00"`: false, `,"time":"6:5"`: false, `,"time":""`: false,
		`,"zone":"Europe/Lisbon"`: true, `,"zone":""`: false, `,"zone":"Local"`: false, `,"zone":"Nowhere/Here"`: false,
		`,"shape":"ramp"`: true, `,"shape":"square"`: false, `,"rest_days":["sonntag"]`: false, `,"minutes":0`: false,
	} {
		_, err := ReadSeries([]byte(seriesDoc(head, "")), lib)
		assert.Equal(t, fine, err == nil, "%s: %v", head, err)
	}
	for year, fine := range map[string]bool{"1989": false, "1990": true, "2199": true, "2200": false} {
		_, err := ParseDate(year + "-06-30")
		assert.Equal(t, fine, err == nil, year)
	}
}

// What a teacher does to a series, and what is refused.
func TestCommandsOfASeries(t *testing.T) {
	n := func(i int) Number { return Number{true, i} }
	str := func(s string) *string { return &s }
	s := &Series{}
	do := func(c SeriesCommand) error {
		ch, err := ApplySeries(s, lib, c)
		if err == nil {
			s = ch.Series
		}
		return err
	}
	for _, days := range []int{0, 61} {
		require.Error(t, do(&NewSeries{Title: "S", Start: "2026-05-01", Days: n(days)}))
	}
	require.Error(t, do(&NewSeries{Title: "", Start: "2026-05-01", Days: n(5)}))
	require.Error(t, do(&NewSeries{Title: "S", Start: "2026-02-30", Days: n(5)}))
	require.NoError(t, do(&NewSeries{Title: "S", Start: "2026-05-01", Days: n(60)}))
	require.NoError(t, do(&NewSeries{Title: "S", Start: "2026-05-01", Days: n(1)}))
	require.NoError(t, do(&NewSeries{Title: "S", Start: "2026-05-01", Days: n(5)}))
	assert.Equal(t, "2026-05-05", s.Date(4).Format("2006-01-02"))
	shape := func() (out string) {
		for _, d := range s.Days {
			switch {
			case d.Rest:
				out += "r"
			case d.Ref != "":
				out += d.Ref
			case d.Session != nil:
				out += "S"
			default:
				out += "-"
			}
			assert.Equal(t, out[len(out)-1] == '-', d.Empty())
		}
		return out
	}
	assert.Equal(t, "-----", shape())
	require.NoError(t, do(&SetDay{Day: n(2), Session: "a"}))
	require.Error(t, do(&SetDay{Day: n(2)}))
	require.NoError(t, do(&RestDay{Day: n(3)}))
	require.NoError(t, do(&SetDay{Day: n(4), Session: "b"}))
	assert.Equal(t, "-arb-", shape())
	for _, day := range []int{0, 6, -1} {
		require.Error(t, do(&SetDay{Day: n(day), Session: "a"}))
		require.Error(t, do(&RestDay{Day: n(day)}))
		require.Error(t, do(&ClearDay{Day: n(day)}))
		require.Error(t, do(&MoveDay{Day: n(day), To: n(1)}))
		require.Error(t, do(&MoveDay{Day: n(1), To: n(day)}))
		require.Error(t, do(&CopyDay{Day: n(day), To: n(1)}))
		require.Error(t, do(&CopyDay{Day: n(1), To: n(day)}))
	}
	require.NoError(t, do(&MoveDay{Day: n(2), To: n(5)}))
	assert.Equal(t, "--rba", shape())
	require.NoError(t, do(&CopyDay{Day: n(5), To: n(1)}))
	assert.Equal(t, "a-rba", shape())
	require.Error(t, do(&SetDays{Days: n(4)}), "day 5 has a session")
	require.NoError(t, do(&ClearDay{Day: n(5)}))
	require.Error(t, do(&SetDays{Days: n(3)}), "day 4 has a session")
	require.NoError(t, do(&SetDays{Days: n(4)}))
	assert.Equal(t, "a-rb", shape())
	require.NoError(t, do(&ClearDay{Day: n(4)}))
	require.NoError(t, do(&SetDays{Days: n(2)}), "a rest day may go")
	assert.Equal(t, "a-", shape())
	require.Error(t, do(&SetDays{Days: n(0)}))
	require.Error(t, do(&SetDays{Days: n(61)}))
	require.NoError(t, do(&SetDays{Days: n(60)}))
	require.NoError(t, do(&SetDays{Days: n(1)}))
	for _, bad := range []SetSeriesHead{{Title: str("")}, {Start: str("1.5.2026")}, {Time: str("25:00")}, {Shape: str("square")}} {
		require.Error(t, do(&bad))
	}
	require.NoError(t, do(&SetSeriesHead{Title: str(" T "), Start: str("2026-06-01"), Time: str("7:05"), Shape: str("ramp")}))
	assert.Equal(t, []string{"T", "2026-06-01", "07:05", "ramp"}, []string{s.Title, s.Start.Format("2006-01-02"), s.Time, s.Shape})
	require.NoError(t, do(&SetSeriesHead{Time: str(""), Shape: str("")}))
	assert.Equal(t, []string{"T", "", ""}, []string{s.Title, s.Time, s.Shape})
}

// Every command on a row answers ErrNoRow where there is none; those on a movement also where a rest stands.
func TestCommandsWithoutTheirRow(t *testing.T) {
	rest, squat := Path{1, 1, 1}, Path{1, 1, 2}
	at := func(p Path) map[string]error {
		out := map[string]error{}
		for name, do := range map[string]func(s *Session) error{
			"dose":    func(s *Session) error { return s.SetDose(p, movement.SidesUnsaid, d("8 reps")) },
			"level":   func(s *Session) error { return s.SetLevel(p, 2, lib) },
			"sides":   func(s *Session) error { return s.SetSides(p, movement.Each) },
			"rest":    func(s *Session) error { return s.SetRest(p, 20*clock.Second) },
			"note":    func(s *Session) error { return s.SetNote(p, "n") },
			"delete":  func(s *Session) error { return s.Delete(p) },
			"options": func(s *Session) error { _, err := (&SetOptions{At: p, Options: "1"}).Do(s, lib); return err },
			"move":    func(s *Session) error { _, err := s.Move([]Path{p}, Path{1, 1, 1}); return err },
			"double":  func(s *Session) error { _, err := s.Duplicate(p); return err },
		} {
			out[name] = do(mustRead(t, docRow(`{"rest":"20 s"},{"movement":"squat"}`)))
		}
		return out
	}
	for _, p := range []Path{{}, {1, 1, 0}, {1, 1, 3}, {1, 2, 1}, {2, 1, 1}, {1, 0, 1}, {-1, 1, 1}} {
		for name, err := range at(p) {
			assert.Error(t, err, "%s at %s", name, p)
		}
	}
	for name, err := range at(rest) {
		movements := name == "dose" || name == "level" || name == "sides" || name == "options"
		assert.Equal(t, movements, err != nil, "%s on a rest: %v", name, err)
	}
	for name, err := range at(squat) {
		assert.Equal(t, name == "rest", err != nil, "%s on a movement: %v", name, err)
	}
}

// Numbers of forms: whole, of a size that means something.
func TestNumbersOfForms(t *testing.T) {
	for text, want := range map[string]Number{"": {}, " 7 ": {true, 7}, "-3": {true, -3}, "1000000000": {true, 1e9}, "-1000000000": {true, -1e9}} {
		var n Number
		require.NoError(t, n.UnmarshalText([]byte(text)), text)
		assert.Equal(t, want, n)
		assert.Equal(t, map[bool]int{true: want.N, false: 5}[want.Said], n.Or(5))
	}
	for _, text := range []string{"1000000001", "-1000000001", "1.5", "x", "99999999999999999999"} {
		assert.Error(t, new(Number).UnmarshalText([]byte(text)), text)
	}
	for text, want := range map[string]string{"": "0:00", "0": "0:00", "20": "0:20", "20 s": "0:20", "1:30": "1:30", "2 min": "2:00"} {
		var s Seconds
		require.NoError(t, s.UnmarshalText([]byte(text)), text)
		assert.Equal(t, want, s.String())
	}
	var ps Paths
	require.NoError(t, ps.UnmarshalText([]byte(strings.Repeat("1.1.1 ", 1000))))
	require.Error(t, ps.UnmarshalText([]byte(strings.Repeat("1.1.1 ", 1001))))
	var a Amount
	require.NoError(t, a.UnmarshalText([]byte("1e9")))
	require.Error(t, a.UnmarshalText([]byte("1.000001e9")))
	require.Error(t, a.UnmarshalText([]byte("-1")))
}

// What is set aside again takes the place of what was, under the same rule about the same thing only.
func TestSetAsideAgain(t *testing.T) {
	s := three(t)
	for _, a := range []Aside{
		{Rule: "sides", About: "clam", Amount: 1, Reason: "a"},
		{Rule: "sides", About: "squat", Amount: 1, Reason: "b"},
		{Rule: "hold", About: "clam", Amount: 1, Reason: "c"},
		{Rule: "sides", About: "clam", Amount: 2, Reason: "d"},
	} {
		require.NoError(t, s.PutAside(a))
	}
	b, err := json.Marshal(s.Aside)
	require.NoError(t, err)
	for _, reason := range []string{`"b"`, `"c"`, `"d"`} {
		assert.Contains(t, string(b), reason)
	}
	assert.Len(t, s.Aside, 3)
	require.NoError(t, s.PutAside(Aside{Rule: "a", Amount: maxAmount, Reason: "most"}))
	require.Error(t, s.PutAside(Aside{Rule: "a", Amount: maxAmount * 1.01, Reason: "more"}))
}

// What a layout says of a series and its days is kept; a document of the first version that has a word of it is refused.
func TestLaidSeriesDocument(t *testing.T) {
	lib := movement.Shipped()
	const doc = `{"format":"wavekine.series/1.1","title":"T","brief":"2 days, hips","seed":7,"start":"2027-01-04","days":[{"kind":"work","theme":"hips","peak":true,"because":"the peak","rows":[{"movement":"clam","because":"build"}]},{"rest":true,"kind":"rest"}]}`
	s, err := ReadSeries([]byte(doc), lib)
	require.NoError(t, err)
	out, err := json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, doc, string(out))
	for from, want := range map[string]string{
		`"format":"wavekine.series/1"`:    "$.brief: unknown key",
		`"format":"wavekine.series/1.1" `: "",
	} {
		_, err := ReadSeries([]byte(strings.Replace(doc, `"format":"wavekine.series/1.1"`, from, 1)), lib)
		if want == "" {
			require.NoError(t, err)
			continue
		}
		require.Error(t, err)
		assert.Contains(t, err.Error(), "unknown key", want)
	}
	for _, c := range []struct{ from, to, want string }{
		{`"kind":"work"`, `"kind":"play"`, "$.days[0].kind: "},
		{`"kind":"work"`, `"kind":"rest"`, "$.days[0].kind: \"rest\": a day of rest is one of rest in both words"},
		{`"theme":"hips"`, `"theme":"tail"`, "$.days[0].theme: "},
		{`"rest":true,"kind":"rest"`, `"rest":true,"kind":"rest","peak":true`, "$.days[1].peak: a rest day is no peak"},
		{`"because":"build"`, `"becaus":"build"`, "$.days[0].rows[0]"},
		{`"seed":7`, `"seed":-1`, "$.seed: "},
		{`"seed":7`, `"seed":7,"glow":1`, "$.glow: unknown key"},
	} {
		_, err := ReadSeries([]byte(strings.Replace(doc, c.from, c.to, 1)), lib)
		require.Error(t, err, c.to)
		assert.Contains(t, err.Error(), c.want)
	}
	later := strings.Replace(doc, "series/1.1", "series/1.3", 1)
	later = strings.Replace(later, `"seed":7`, `"seed":7,"glow":1`, 1)
	s, err = ReadSeries([]byte(later), lib)
	require.NoError(t, err)
	out, err = json.Marshal(s)
	require.NoError(t, err)
	assert.JSONEq(t, later, string(out), "what a later version adds is kept")
	plain := &Series{Title: "T", Start: s.Start, Days: []Day{{Rest: true}}}
	out, err = json.Marshal(plain)
	require.NoError(t, err)
	assert.Contains(t, string(out), `"wavekine.series/1"`, "a series that was not laid stays of the first version")
}

// What the board says of a series and its days is kept; a document of a version before that has a word of it is refused, and so is what cannot be.
func TestBoardSeriesDocument(t *testing.T) {
	const doc = `{"format":"wavekine.series/1.2","title":"T","start":"2027-01-04","ladders":[{"movement":"bridge","climb":"every 2nd time","pinned":true,"because":"asked for","steps":[{"level":1,"dose":"8 reps"},{"movement":"bridge-march","level":1,"dose":"8 alternating"}]}],"days":[{"kind":"work","target":51.2,"pin":["day","theme"],"pinned":["bridge"],"made_from":{"session":"x","rev":3}},{"made_from":{"day":1},"pin":["kind"]},{"made_from":{"layout":true}}]}`
	s, err := ReadSeries([]byte(doc), lib)
	require.NoError(t, err)
	sealed, err := SealSeries(s, lib)
	require.NoError(t, err)
	assert.JSONEq(t, doc, string(sealed.Text()))
	assert.Equal(t, []string{"bridge", "bridge-march"}, s.Ladders[0].Movements())
	assert.Equal(t, &s.Ladders[0], s.Ladder("bridge-march"))
	for _, older := range []string{"1", "1.1"} {
		_, err := ReadSeries([]byte(strings.Replace(doc, "series/1.2", "series/"+older, 1)), lib)
		assert.Error(t, err, older)
	}
	for _, c := range []struct{ from, to, want string }{
		{`"every 2nd time"`, `"now and then"`, "$.ladders[0].climb: "},
		{`"every 2nd time"`, `"every 99th time"`, "$.ladders[0].climb: "},
		{`["day","theme"]`, `["day","night"]`, `$.days[0].pin[1]: "night": expected day, theme or kind`},
		{`["bridge"]`, `["quux"]`, `$.days[0].pinned[0]: no movement "quux" in the library`},
		{`"bridge-march"`, `"quux"`, "$.ladders[0].steps[1].movement"},
		{`"bridge-march"`, `"bridge"`, "leave it out"},
		{`[{"level":1,"dose":"8 reps"},{"movement":"bridge-march","level":1,"dose":"8 alternating"}]`, `[]`, "$.ladders[0].steps: a ladder has at least one step"},
		{`51.2`, `-1`, "$.days[0].target"},
		{`"day":1`, `"day":4`, "made from day 4, and there are 3 days"},
		{`"rev":3`, `"rev":0`, "$.days[0].made_from.rev"},
		{`"layout":true`, `"layout":true,"by":1`, "$.days[2].made_from"},
	} {
		require.Contains(t, doc, c.from)
		_, err := ReadSeries([]byte(strings.Replace(doc, c.from, c.to, 1)), lib)
		require.Error(t, err, c.to)
		assert.Contains(t, err.Error(), c.want)
	}
}

// A climb is said in words and read again.
func TestClimbs(t *testing.T) {
	for _, words := range []string{"every time", "every 2nd time", "every 3rd time", "every 11th time", "every 22nd time", "every day", "every week", "when ready", "never"} {
		var c Climb
		require.NoError(t, c.UnmarshalText([]byte(" "+strings.ToUpper(words))), words)
		assert.Equal(t, words, c.String())
	}
	for _, words := range []string{"", "every 0th time", "every 61st time", "sometimes"} {
		var c Climb
		assert.Error(t, c.UnmarshalText([]byte(words)), words)
	}
}

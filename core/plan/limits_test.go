package plan

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/dose"
	"wavekine/core/movement"
	"wavekine/core/strict"
)

func many(n int, text string) string {
	return strings.TrimSuffix(strings.Repeat(text+",", n), ",")
}

func doc(head, sections string) string {
	return `{"format":"wavekine.session/1","title":"T"` + head + `,"sections":[` + sections + `]}`
}

func docRow(row string) string {
	return doc("", `{"title":"A","blocks":[{"rule":"straight","rows":[`+row+`]}]}`)
}

func docBlock(block string) string {
	return doc("", `{"title":"A","blocks":[{"rule":"rounds","rounds":2,`+block+`"rows":[{"movement":"squat"}]}]}`)
}

// What a session document may hold: all of it up to the limit is read, kept and read again, one more is refused.
func TestASessionHoldsSoMuch(t *testing.T) {
	x := func(n int) string { return strings.Repeat("ø", n) }
	for name, c := range map[string]struct {
		most int
		doc  func(n int) string
	}{
		"title":   {200, func(n int) string { return strings.Replace(doc("", ""), `"T"`, `"`+x(n)+`"`, 1) }},
		"note":    {2000, func(n int) string { return doc(`,"note":"`+x(n)+`"`, "") }},
		"focus":   {20, func(n int) string { return doc(`,"focus":[`+many(n, `"hips"`)+`]`, "") }},
		"a focus": {60, func(n int) string { return doc(`,"focus":["`+x(n)+`"]`, "") }},
		"beat":    {240, func(n int) string { return doc(fmt.Sprintf(`,"beat":{"bpm":%d}`, n), "") }},
		"target":  {14400, func(n int) string { return doc(fmt.Sprintf(`,"target":"%d s"`, n), "") }},
		"aside": {200, func(n int) string {
			return doc(`,"aside":[`+many(n, `{"rule":"sides","reason":"r"}`)+`]`, "")
		}},
		"an aside": {40, func(n int) string { return doc(`,"aside":[{"rule":"`+x(n)+`","reason":"r"}]`, "") }},
		"its about": {100, func(n int) string {
			return doc(`,"aside":[{"rule":"sides","about":"`+x(n)+`","reason":"r"}]`, "")
		}},
		"its reason": {2000, func(n int) string { return doc(`,"aside":[{"rule":"sides","reason":"`+x(n)+`"}]`, "") }},
		"its amount": {1e9, func(n int) string {
			return doc(fmt.Sprintf(`,"aside":[{"rule":"sides","reason":"r","amount":%d}]`, n), "")
		}},
		"switches":  {2, func(n int) string { return doc(fmt.Sprintf(`,"style":{"switches":%d}`, n), "") }},
		"countdown": {20, func(n int) string { return doc(fmt.Sprintf(`,"style":{"countdown":%d}`, n), "") }},
		"sections":  {60, func(n int) string { return doc("", many(n, `{"title":"A","blocks":[]}`)) }},
		"a section": {200, func(n int) string { return doc("", `{"title":"`+x(n)+`","blocks":[]}`) }},
		"blocks": {200, func(n int) string {
			return doc("", `{"title":"A","blocks":[`+many(n, `{"rule":"straight","rows":[{"movement":"squat"}]}`)+`]}`)
		}},
		"rows": {1000, func(n int) string { return docRow(many(n, `{"movement":"squat"}`)) }},
		"rows of two": {1000, func(n int) string {
			return doc("", many(2, `{"title":"A","blocks":[{"rule":"straight","rows":[`+many((n+1)/2, `{"movement":"squat"}`)+`]}]}`))
		}},
		"rounds": {20, func(n int) string {
			return strings.Replace(docBlock(""), `"rounds":2`, fmt.Sprintf(`"rounds":%d`, n), 1)
		}},
		"on":              {600, func(n int) string { return docBlock(fmt.Sprintf(`"on":"%d s",`, n)) }},
		"off":             {600, func(n int) string { return docBlock(fmt.Sprintf(`"on":"20 s","off":"%d s",`, n)) }},
		"rest after":      {600, func(n int) string { return docBlock(fmt.Sprintf(`"rest":"%d s",`, n)) }},
		"rest":            {600, func(n int) string { return docRow(fmt.Sprintf(`{"rest":"%d s"}`, n)) }},
		"what is said":    {2000, func(n int) string { return docRow(`{"rest":"20 s","say":"` + x(n) + `"}`) }},
		"note of a rest":  {2000, func(n int) string { return docRow(`{"rest":"20 s","note":"` + x(n) + `"}`) }},
		"note of a row":   {2000, func(n int) string { return docRow(`{"movement":"squat","note":"` + x(n) + `"}`) }},
		"level":           {3, func(n int) string { return docRow(fmt.Sprintf(`{"movement":"bird-dog","level":%d}`, n)) }},
		"options":         {20, func(n int) string { return docRow(`{"movement":"squat","options":[` + many(n, "1") + `]}`) }},
		"an option":       {4, func(n int) string { return docRow(fmt.Sprintf(`{"movement":"squat","options":[%d]}`, n)) }},
		"demo":            {4, func(n int) string { return docRow(fmt.Sprintf(`{"movement":"squat","demo":%d}`, n)) }},
		"level of a side": {3, func(n int) string { return docRow(fmt.Sprintf(`{"movement":"bird-dog","right":{"level":%d}}`, n)) }},
		"reps":            {500, func(n int) string { return docRow(fmt.Sprintf(`{"movement":"squat","dose":"%d reps"}`, n)) }},
		"name": {100, func(n int) string {
			return docRow(`{"movement":{"name":"` + x(n) + `","posture":"supine","sides":"both"}}`)
		}},
		"seconds a rep": {300, func(n int) string {
			return docRow(fmt.Sprintf(`{"movement":{"name":"x","posture":"supine","sides":"both","seconds_per_rep":%d}}`, n))
		}},
		"effort": {10, func(n int) string {
			return docRow(fmt.Sprintf(`{"movement":{"name":"x","posture":"supine","sides":"both","effort":%d}}`, n))
		}},
		"rule of an aside": {40, func(n int) string { return doc(`,"aside":[{"rule":"`+x(n)+`","reason":"r"}]`, "") }},
	} {
		text := c.doc(c.most)
		s, err := ReadSession([]byte(text), lib)
		if !assert.NoError(t, err, name) {
			continue
		}
		sealed, err := Seal(s, lib)
		if assert.NoError(t, err, name) {
			assert.JSONEq(t, plainer(t, text), plainer(t, string(sealed.Text())), name)
		}
		_, err = ReadSession([]byte(c.doc(c.most+1)), lib)
		var se *strict.Error
		if assert.ErrorAs(t, err, &se, "%s: one more", name) {
			assert.NotEqual(t, "$", se.Path, "%s: the place is named", name)
		}
	}
}

// plainer leaves out what may be written in two ways: times.
func plainer(t *testing.T, text string) string {
	var v any
	require.NoError(t, json.Unmarshal([]byte(text), &v))
	var walk func(v any)
	walk = func(v any) {
		switch v := v.(type) {
		case map[string]any:
			for k, e := range v {
				if s, ok := e.(string); ok {
					if sp, err := clock.Parse(s); err == nil {
						v[k] = sp.String()
					}
				}
				if k == "options" || k == "demo" || k == "level" { // offered or said levels there are none of are read and left out of the class
					continue
				}
				walk(e)
			}
		case []any:
			for _, e := range v {
				walk(e)
			}
		}
	}
	walk(v)
	out, err := json.Marshal(v)
	require.NoError(t, err)
	return string(out)
}

// The commands take as much as the documents do.
func TestCommandsTakeAsMuchAsDocuments(t *testing.T) {
	x := func(n int) string { return strings.Repeat("ø", n) }
	full := func(sections, blocks, rows int) *Session {
		s := mustRead(t, doc("", many(sections, `{"title":"A","blocks":[`+many(blocks, `{"rule":"chain","rows":[`+many(rows, `{"movement":"squat"}`)+`]}`)+`]}`)))
		return s
	}
	str := func(s string) *string { return &s }
	rounds := func() *Session { return mustRead(t, docBlock("")) }
	for name, c := range map[string]struct {
		least, most int // least: 0 where there is none
		do          func(n int) error
	}{
		"title":   {1, 200, func(n int) error { return full(1, 1, 1).SetTitle(x(n)) }},
		"section": {1, 200, func(n int) error { _, err := full(1, 1, 1).AddSection(1, x(n)); return err }},
		"rename":  {1, 200, func(n int) error { return full(1, 1, 1).Rename(1, x(n)) }},
		"template": {1, 200, func(n int) error {
			_, err := New(lib, &PickRows{Title: x(n), At: Paths{{1, 1, 1}}, From: full(1, 1, 1)})
			return err
		}},
		"sections":  {0, 60, func(n int) error { _, err := full(n-1, 1, 1).AddSection(1, "B"); return err }},
		"target":    {60, 14400, func(n int) error { return full(1, 1, 1).SetTarget(fmt.Sprintf("%d s", n)) }},
		"minutes":   {1, 240, func(n int) error { return full(1, 1, 1).SetTarget(fmt.Sprint(n)) }},
		"beat":      {30, 240, func(n int) error { return full(1, 1, 1).SetBeat(fmt.Sprint(n)) }},
		"focus":     {0, 20, func(n int) error { return full(1, 1, 1).SetFocus(many(n, "hips")) }},
		"a focus":   {0, 60, func(n int) error { return full(1, 1, 1).SetFocus(x(n)) }},
		"note":      {0, 2000, func(n int) error { return full(1, 1, 1).SetNote(Path{1, 1, 1}, x(n)) }},
		"countdown": {0, 20, func(n int) error { return (&Style{}).Set("countdown", fmt.Sprint(n)) }},
		"switches":  {1, 2, func(n int) error { return (&Style{}).Set("switches", fmt.Sprint(n)) }},
		"round":     {1, 20, func(n int) error { return rounds().SetBlock(Path{1, 1, 1}, n, 0, 0, 0) }},
		"on": {0, 600, func(n int) error {
			return rounds().SetBlock(Path{1, 1, 1}, 2, clock.Span(n)*clock.Second, 0, 0)
		}},
		"off": {0, 600, func(n int) error {
			return rounds().SetBlock(Path{1, 1, 1}, 2, clock.Second, clock.Span(n)*clock.Second, 0)
		}},
		"rest": {0, 600, func(n int) error {
			return full(1, 1, 1).SetBlock(Path{1, 1, 1}, 1, 0, 0, clock.Span(n)*clock.Second)
		}},
		"rows": {0, 1000, func(n int) error {
			s := full(1, 1, n-1)
			_, err := s.Add(Path{1, 1, 1}, *s.Row(Path{1, 1, 1}))
			return err
		}},
		"piece rows": {0, 1000, func(n int) error { _, err := full(1, 1, n-2).Insert(1, full(1, 1, 2).Sections); return err }},
		"pieces":     {0, 60, func(n int) error { _, err := full(n-2, 1, 1).Insert(1, full(2, 1, 1).Sections); return err }},
		"pasted lines": {0, 1000, func(n int) error {
			_, err := LinesIn(t.Context(), strings.TrimSuffix(strings.Repeat("squat 8\n", n), "\n"), lib, Style{})
			return err
		}},
		"pasted text": {0, 256 << 10, func(n int) error {
			_, err := LinesIn(t.Context(), strings.Repeat(" ", n), lib, Style{})
			return err
		}},
		"table": {0, 256 << 10, func(n int) error {
			_, _, err := ReadCSV(t.Context(), []byte("movement\n"+strings.Repeat(" ", n-9)), lib)
			return err
		}},
		"table lines": {0, 1000, func(n int) error {
			_, _, err := ReadCSV(t.Context(), []byte("movement\n"+strings.Repeat("squat\n", n)), lib)
			return err
		}},
		"line": {0, 400, func(n int) error { _, err := Line("squat"+strings.Repeat(" ", n-6)+"8", lib); return err }},
		"rounds of a table": {1, 20, func(n int) error {
			_, bad, err := ReadCSV(t.Context(), []byte(fmt.Sprintf("movement,rule,rounds\nsquat,rounds,%d\n", n)), lib)
			if err == nil && len(bad) > 0 {
				err = bad[0].Err
			}
			return err
		}},
		"level of a table": {1, 3, func(n int) error {
			_, bad, err := ReadCSV(t.Context(), []byte(fmt.Sprintf("movement,level\nbird-dog,%d\n", n)), lib)
			if err == nil && len(bad) > 0 {
				err = bad[0].Err
			}
			return err
		}},
		"place": {0, 1000, func(n int) error { _, err := ParsePath(fmt.Sprintf("1.1.%d", n)); return err }},
		"new":   {1, 200, func(n int) error { _, err := New(lib, &NewSession{Title: x(n)}); return err }},
		"head":  {1, 200, func(n int) error { _, err := Apply(full(1, 1, 1), lib, &SetHead{Title: str(x(n))}); return err }},
	} {
		assert.NoError(t, c.do(c.most), "%s: %d", name, c.most)
		assert.Error(t, c.do(c.most+1), "%s: %d", name, c.most+1)
		if c.least > 0 {
			assert.NoError(t, c.do(c.least), "%s: %d", name, c.least)
			assert.Error(t, c.do(c.least-1), "%s: %d", name, c.least-1)
		}
	}
}

// What fills a session: how much more it takes, and the least and the most of its doses.
func TestRoom(t *testing.T) {
	s := mustRead(t, example)
	rows, blocks, sections := s.Room()
	assert.Equal(t, []int{992, 198, 58}, []int{rows, blocks, sections})
	for text, want := range map[string][2]float64{
		`{"movement":"squat"}`:                       {-1, 0},
		`{"movement":"squat","dose":"250 reps"}`:     {-1, .5},
		`{"movement":"hundred","dose":"50 breaths"}`: {-1, .25},

		`{"movement":"full-plank","dose":"30 s"},{"movement":"full-plank","dose":"15 min"}`:      {30, .25},
		`{"movement":"bird-dog","dose":"8 reps","left":{"dose":"6 min"},"right":{"dose":"9 s"}}`: {9, .1},
	} {
		s := mustRead(t, docRow(text))
		if want[0] < 0 {
			assert.Greater(t, s.LeastDose(), dose.MaxSpan, text)
		} else {
			assert.Equal(t, clock.Seconds(want[0]), s.LeastDose(), text)
		}
		assert.InDelta(t, want[1], s.MostDose(), 1e-9, text)
	}
}

// A dose and a side rule that contradict each other, over every pair of them: which say the same and which do not.
func TestWhatContradicts(t *testing.T) {
	for sides, pers := range map[movement.Sides]string{
		movement.SidesUnsaid: "each side, pairs, alternating, right, left", movement.Each: "each side",
		movement.Alternating: "each side, pairs, alternating", movement.Both: "", movement.RightOnly: "", movement.LeftOnly: "",
	} {
		for _, per := range []dose.Per{dose.EachSide, dose.Pairs, dose.Alternating} {
			r := Row{Movement: "bird-dog", Sides: sides, Dose: dose.Dose{Parts: []dose.Part{{Kind: dose.Reps, Count: 8}}, Per: per}}
			fits := strings.Contains(pers, map[dose.Per]string{dose.EachSide: "each side", dose.Pairs: "pairs", dose.Alternating: "alternating"}[per])
			assert.Equal(t, fits, r.Contradicts() == nil, "%v and %v", sides, per)
			s := &Session{Sections: []Section{{Title: "A", Blocks: []Block{{Rule: Straight, Rounds: 1, Rows: []Row{{Movement: "bird-dog", Dose: r.Dose, Right: &Override{Level: 2}}}}}}}}
			require.NoError(t, s.SetSides(Path{1, 1, 1}, sides))
			got := s.Row(Path{1, 1, 1})
			assert.NoError(t, got.Contradicts(), "the side rule is the newer word")
			assert.Equal(t, fits, got.Dose.Per == per, "%v and %v", sides, per)
			assert.Equal(t, sides == movement.SidesUnsaid || sides == movement.Each, got.Right != nil, "%v: what is said of one side", sides)
		}
	}
}

// Where two texts part, with what stands around it.
func TestFirstDifference(t *testing.T) {
	for _, c := range [][3]string{
		{"abc", "abd", `"abc" became "abd"`},
		{"abc", "abcd", `"abc" became "abcd"`},
		{"abcd", "abc", `"abcd" became "abc"`},
		{strings.Repeat("a", 40) + "b" + strings.Repeat("c", 40), strings.Repeat("a", 40) + "d", `"` + strings.Repeat("a", 20) + "b" + strings.Repeat("c", 19) + `" became "` + strings.Repeat("a", 20) + `d"`},
	} {
		assert.Equal(t, c[2], firstDifference([]byte(c[0]), []byte(c[1])))
	}
}

// Whom a session is for is read in 200 characters at most; what cannot be read is named with its place.
func TestAudienceOfADocument(t *testing.T) {
	doc := func(a string) []byte {
		return []byte(fmt.Sprintf(`{"format":"wavekine.session/1","title":"T","audience":%q,"sections":[]}`, a))
	}
	s, err := ReadSession(doc("seniors with osteoporosis"+strings.Repeat(" ", 175)), lib)
	require.NoError(t, err)
	assert.Equal(t, movement.Older|movement.LowBone, s.Audience)
	b, err := json.Marshal(s)
	require.NoError(t, err)
	assert.Contains(t, string(b), `"audience":"older, low bone density"`)
	for _, a := range []string{"seniors with osteoporosis" + strings.Repeat(" ", 176), "the Tuesday lot", "not pregnant", "beginners, able"} {
		_, err := ReadSession(doc(a), lib)
		var se *strict.Error
		if assert.ErrorAs(t, err, &se, a) {
			assert.Equal(t, "$.audience", se.Path)
		}
	}
}

// Package schema holds the published JSON Schemas of the documents.
package schema

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/brief"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/plan/made"
	"wavekine/core/progress"
	"wavekine/core/run"
)

func compiled(t *testing.T, id string) *jsonschema.Schema {
	t.Helper()
	c := jsonschema.NewCompiler()
	for _, name := range []string{"session", "series", "movement", "run", "group", "checkin"} {
		b, err := os.ReadFile(name + ".json")
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
		require.NoError(t, err)
		require.NoError(t, c.AddResource("urn:wavekine:"+name+":1", doc))
	}
	s, err := c.Compile(id)
	require.NoError(t, err)
	return s
}

func valid(t *testing.T, s *jsonschema.Schema, text []byte) error {
	t.Helper()
	v, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	return s.Validate(v)
}

// Documents with every word are taken by the schema; spoiled by one word, or said in a version before, the reader and the schema agree on most of them: what
// the reader knows of movements is not in a schema.
func TestEveryWordIsInTheSchema(t *testing.T) {
	s := compiled(t, "urn:wavekine:session:1")
	r := rand.New(rand.NewPCG(27, 11))
	older := 0
	for range 300 {
		text := made.Session(r, movement.Shipped())
		require.NoError(t, valid(t, s, text), string(text))
		p, err := plan.ReadSession(text, movement.Shipped())
		require.NoError(t, err)
		out, err := json.Marshal(p)
		require.NoError(t, err)
		require.NoError(t, valid(t, s, out), "as written back: %s", out)
		for _, v := range []string{"wavekine.session/1.1", "wavekine.session/1"} {
			old := bytes.Replace(text, []byte("wavekine.session/1.2"), []byte(v), 1)
			_, err := plan.ReadSession(old, movement.Shipped())
			if serr := valid(t, s, old); (err == nil) != (serr == nil) {
				require.Fail(t, "they do not agree", "%s\nreader: %v\nschema: %v\n%s", v, err, serr, old)
			}
			if err == nil {
				older++
			}
		}
	}
	assert.Positive(t, older)
}

// The reader and the published schema agree, on what is right and on what is wrong.
func TestReaderAndSchemaAgree(t *testing.T) {
	s := compiled(t, "urn:wavekine:session:1")
	files, err := filepath.Glob("../demo/sessions/*.json")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 6)
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		require.NoError(t, valid(t, s, text), f)
		p, err := plan.ReadSession(text, movement.Shipped())
		require.NoError(t, err)
		out, err := json.Marshal(p)
		require.NoError(t, err)
		require.NoError(t, valid(t, s, out), "%s as written back", f)
		assert.JSONEq(t, string(text), string(out))
	}
	row := func(r string) string {
		return `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[` + r + `]}]}]}`
	}
	row1 := func(r string) string { return strings.Replace(row(r), "session/1", "session/1.1", 1) }
	block := func(b string) string {
		return `{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[` + b + `]}]}`
	}
	for text, ok := range map[string]bool{
		row(`{"movement":"squat","dose":"8","level":2,"locked":true,"note":"x","options":[1]}`): true,
		row(`{"rest":"20 s","say":"x"}`):                                                    true,
		row(`{"movement":"squat","rest":"20 s"}`):                                           false,
		row(`{"movement":"squat","level":"2"}`):                                             false,
		row(`{"movement":"squat","lvl":2}`):                                                 false,
		row(`{"movement":{"name":"X","posture":"supine"}}`):                                 false,
		row(`{"dose":"8"}`):                                                                 false,
		row(`{"movement":{"name":"X","posture":"supine","sides":"both","spine":["turn"]}}`): false, // of a later version
		row1(`{"movement":{"name":"X","posture":"supine","ends":"seated","sides":"both","spine":["turn"],"regions":{"hips":0.5},"loads":["head up","no hands"],"stretch":true,"is_rest":true,"kit":["block"],"read":["spine"]},"dose":"8 to 10 reps"}`): true,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","spine":["up"]}}`):          false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","spine":["turn","turn"]}}`): false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","regions":{"wings":0.5}}}`): false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","regions":{"hips":2}}}`):    false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","loads":["heavy"]}}`):       false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","read":["name"]}}`):         false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","ends":"flying"}}`):         false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","kit":[""]}}`):              false,
		row1(`{"movement":{"name":"X","posture":"supine","sides":"both","wings":2}}`):               false,
		block(`{"rule":"rounds","rounds":2,"on":"40 s","rows":[]}`):                                 true,
		block(`{"rule":"rounds","rounds":0,"rows":[]}`):                                             false,
		block(`{"rule":"rounds","off":"20 s","rows":[]}`):                                           false,
		block(`{"rule":"chain","on":"20 s","rows":[]}`):                                             false,
		block(`{"rows":[]}`): false,
		`{"format":"wavekine.session/2","title":"T","sections":[]}`:                        false,
		`{"format":"wavekine.session/1","title":"T","sections":[],"pace":{"talk":"loud"}}`: false,
	} {
		_, err := plan.ReadSession([]byte(text), movement.Shipped())
		assert.Equal(t, ok, err == nil, "reader: %s: %v", text, err)
		assert.Equal(t, ok, valid(t, s, []byte(text)) == nil, "schema: %s", text)
	}
}

func TestSeriesReaderAndSchemaAgree(t *testing.T) {
	s := compiled(t, "urn:wavekine:series:1")
	for text, ok := range map[string]bool{
		`{"format":"wavekine.series/1","title":"T","start":"2026-05-01","days":[{"rest":true},{"session":"abc"},{"session":{"format":"wavekine.session/1","title":"I","sections":[]}},{}]}`:              true,
		`{"format":"wavekine.series/1","title":"T","start":"2026-05-01","shape":"ramp","minutes":20,"rest_days":["sunday"],"ladders":[{"movement":"squat","steps":[{"level":1,"dose":"8"}]}],"days":[]}`: true,
		`{"format":"wavekine.series/1","title":"T","start":"May","days":[]}`:                                   false,
		`{"format":"wavekine.series/1","title":"T","start":"2026-05-01","days":[{"rest":true,"session":"x"}]}`: false,
		`{"format":"wavekine.series/1","title":"T","start":"2026-05-01","days":[{"session":{"title":"I"}}]}`:   false,
		`{"format":"wavekine.series/1","title":"T","start":"2026-05-01","shape":"zigzag","days":[]}`:           false,
		`{"format":"wavekine.series/1","start":"2026-05-01","days":[]}`:                                        false,
	} {
		_, err := plan.ReadSeries([]byte(text), movement.Shipped())
		assert.Equal(t, ok, err == nil, "reader: %s: %v", text, err)
		assert.Equal(t, ok, valid(t, s, []byte(text)) == nil, "schema: %s", text)
	}
}

// Every shipped movement, written out, is valid by the published schema; what the reader refuses for its
// shape the schema refuses too.
func TestMovementsBySchema(t *testing.T) {
	s := compiled(t, "urn:wavekine:movement:1")
	var doc []byte
	for _, m := range movement.Shipped().All() {
		text, err := json.Marshal(m)
		require.NoError(t, err)
		require.NoError(t, valid(t, s, text), m.Slug)
		doc = text
	}
	for from, to := range map[string]string{
		`"phase":"`: `"phase":"un`, `"levels":`: `"level":`, `"seconds_per_rep":`: `"seconds_per_rep":-`, `"sides":"`: `"sides":"no`, `"pelvis":`: `"pelvic":`,
		`"pattern":"`: `"pattern":"un`, `"roles":["`: `"roles":["no `, `"themes":["`: `"themes":["no `, `"skill":`: `"skill":9`, `"range":{"min":`: `"range":{"least":`, `"when_lost":`: `"if_lost":`,
	} {
		bad := bytes.Replace(doc, []byte(from), []byte(to), 1)
		require.NotEqual(t, doc, bad, from)
		assert.Error(t, valid(t, s, bad), to)
		_, err := movement.ReadOwn(bad, movement.Shipped())
		assert.Error(t, err, to)
	}
}

func TestRunReaderAndSchemaAgree(t *testing.T) {
	s := compiled(t, "urn:wavekine:run:1")
	doc := func(step, events string) string {
		return `{"format":"wavekine.run/1","id":"0123456789","session":"mat","rev":1,"title":"T","teacher":"maren","started":"2026-05-14T08:00:00Z","steps":[` + step + `],"events":[` + events + `]}`
	}
	step := `{"row":"1.1.1","movement":"clam","name":"Clam","side":"right","kind":"work","level":1,"s":20.5,"usual":20,"reps":8}`
	for text, ok := range map[string]bool{
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"work","step":0},{"at":1.5,"does":"rep","hand":true},{"at":2,"does":"note","row":"1.1.1","text":"x"},{"at":3,"does":"level","level":2},{"at":4,"does":"ended","early":true}`):                                                                                                                                                                 true,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","text":"6 instead of 8 in Clam","steps":[{"step":0,"s":15,"reps":6}]},{"at":0,"does":"landed","text":"taken back","steps":[]},{"at":1,"does":"landed","text":"leave out Clam","steps":[{"step":0,"out":true}]},{"at":1,"does":"correction","row":"1.1.1","who":"ines","text":"rolls back"},{"at":2,"does":"correction","text":"x"}`): true,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","text":"x"}`):                             false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","steps":[]}`):                             false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","text":"x","steps":[{"s":15}]}`):          false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","text":"x","steps":[{"step":0,"s":-1}]}`): false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"landed","text":"x","steps":[],"who":"ines"}`):     false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"note","text":"x","who":"ines"}`):                  false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"correction","row":"1.1.1"}`):                      false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"mark","steps":[]}`):                               false,
		doc("", ""): true,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"work"}`):                             false,
		doc(step, `{"at":0,"does":"began","step":0}`):                                           false,
		doc(step, `{"at":-1,"does":"began"}`):                                                   false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"paused","early":true}`):              false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"note"}`):                             false,
		doc(step, `{"at":0,"does":"began"},{"at":0,"does":"level"}`):                            false,
		doc(`{"row":"1.1","name":"x","side":"both","kind":"work","s":1,"usual":1}`, ""):         false,
		doc(`{"row":"1.1.1","name":"x","side":"up","kind":"work","s":1,"usual":1}`, ""):         false,
		doc(`{"row":"1.1.1","name":"x","side":"both","kind":"work","s":1}`, ""):                 false,
		doc(`{"row":"1.1.1","name":"x","side":"both","kind":"work","s":1,"usual":1,"x":1}`, ""): false,
	} {
		r, err := run.Read([]byte(text))
		assert.Equal(t, ok, err == nil, "reader: %s: %v", text, err)
		assert.Equal(t, ok, valid(t, s, []byte(text)) == nil, "schema: %s", text)
		if err == nil {
			out, err := json.Marshal(r)
			require.NoError(t, err)
			assert.NoError(t, valid(t, s, out))
		}
	}
}

// A laid series is valid, read and written alike; a word of it in the first version is refused by both.
func TestLaidSeriesAndSchemaAgree(t *testing.T) {
	s := compiled(t, "urn:wavekine:series:1")
	lib := movement.Shipped()
	b, err := brief.Parse("5 days from 4 january 2027, 15 min, hips, ramp, rest day 3, learn clam", lib, time.Date(2026, 5, 14, 0, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	l, err := lay.Series(context.Background(), lib, b, lay.Options{})
	require.NoError(t, err)
	doc, err := l.Document(lib, b.Start, 3)
	require.NoError(t, err)
	text, err := json.Marshal(doc)
	require.NoError(t, err)
	require.NoError(t, valid(t, s, text))
	_, err = plan.ReadSeries(text, lib)
	require.NoError(t, err)
	for from, to := range map[string]string{
		`"wavekine.series/1.2"`: `"wavekine.series/1.1"`, `"layout":true`: `"layout":1`, `"climb":"every`: `"climb":"ever`, `"kind":"work"`: `"kind":"play"`, `"theme":"hips"`: `"theme":"tail"`, `"seed":3`: `"seed":-3`, `"because":"`: `"becaus":"`, `"brief":`: `"briefly":`,
	} {
		bad := bytes.Replace(text, []byte(from), []byte(to), 1)
		require.NotEqual(t, text, bad, from)
		assert.Error(t, valid(t, s, bad), to)
		_, err := plan.ReadSeries(bad, lib)
		assert.Error(t, err, to)
	}
}

// What the board says of a series and what is said of a group is valid in the reader's eyes and in the schema's, and wrong in both.
func TestBoardAndGroupsAgree(t *testing.T) {
	lib := movement.Shipped()
	for _, c := range []struct {
		id, doc string
		read    func([]byte) (any, error)
		wrong   map[string]string
	}{
		{
			"urn:wavekine:series:1",
			`{"format":"wavekine.series/1.2","title":"T","start":"2027-01-04","ladders":[{"movement":"bridge","steps":[{"level":1,"dose":"8 reps"},{"movement":"bridge-march","level":1}],"climb":"every 3rd time","pinned":true,"because":"x"}],"days":[{"target":51.2,"pin":["day","theme"],"theme":"hips","pinned":["bridge"],"made_from":{"session":"x","rev":3}},{"made_from":{"day":1}},{"made_from":{"layout":true}}]}`,
			func(text []byte) (any, error) { return plan.ReadSeries(text, lib) },
			map[string]string{`series/1.2`: `series/1.1`, `3rd time`: `third time`, `51.2`: `-1`, `"theme"]`: `"night"]`, `"rev":3`: `"rev":0`, `"layout":true`: `"layout":"x"`, `[{"level":1,"dose":"8 reps"},{"movement":"bridge-march","level":1}]`: `[]`, `"day":1`: `"day":61`},
		},
		{
			"urn:wavekine:group:1",
			`{"format":"wavekine.group/1","name":"Evening","start":"2027-03-01","weekdays":["tuesday"],"time":"18:30","zone":"Europe/Berlin","alarm":30,"pauses":[{"from":"2027-03-10","to":"2027-03-12"}],"moved":[{"day":4,"to":"2027-03-20"}],"off":[6],"skip":["2027-03-26"]}`,
			func(text []byte) (any, error) { return group.Read(text) },
			map[string]string{`group/1`: `group/2`, `"tuesday"`: `"someday"`, `"18:30"`: `"6 pm"`, `"alarm":30`: `"alarm":-1`, `"Evening"`: `" "`, `"off":[6]`: `"off":[0]`, `"day":4`: `"day":"four"`, `"skip"`: `"skips"`, `"2027-03-26"`: `"26 March"`},
		},
	} {
		s := compiled(t, c.id)
		require.NoError(t, valid(t, s, []byte(c.doc)))
		back, err := c.read([]byte(c.doc))
		require.NoError(t, err)
		out, err := json.Marshal(back)
		require.NoError(t, err)
		assert.JSONEq(t, c.doc, string(out))
		require.NoError(t, valid(t, s, out))
		for from, to := range c.wrong {
			bad := bytes.Replace([]byte(c.doc), []byte(from), []byte(to), 1)
			require.NotEqual(t, c.doc, string(bad), from)
			assert.Error(t, valid(t, s, bad), to)
			_, err := c.read(bad)
			assert.Error(t, err, to)
		}
	}
}

// What people say is taken by the schema as it is written; what the reader refuses the schema refuses, but for what it knows of places and amounts.
func TestCheckInsAreInTheSchema(t *testing.T) {
	s := compiled(t, "urn:wavekine:checkin:1")
	var places []string
	for _, p := range progress.Places() {
		places = append(places, p.Name)
	}
	r := rand.New(rand.NewPCG(1, 10))
	for i := range 300 {
		c := progress.CheckIn{ID: fmt.Sprintf("said-in-the-schema-%d", i), Day: 1 + r.IntN(60), Did: []progress.Did{progress.All, progress.Part, progress.Nothing}[r.IntN(3)], Effort: -1, Told: time.Date(2026, 5, 14, 18, 0, 0, 0, time.UTC)}
		if c.Did != progress.Nothing {
			c.Effort = r.IntN(12) - 1
			c.Felt = append(c.Felt, progress.Felt{Place: places[r.IntN(len(places))], In: "bird-dog"})
			c.Taken = map[string]int{"bird-dog": 2}
			c.Tests = append(c.Tests, progress.Test{Movement: "side-plank", Side: "left", Amount: 30, Unit: "seconds"})
		}
		if r.IntN(3) == 0 {
			c.Pain = append(c.Pain, progress.Felt{Place: places[r.IntN(len(places))]})
		}
		b, err := json.Marshal(&c)
		require.NoError(t, err)
		_, err = progress.ReadCheckIn(b)
		require.NoError(t, err, string(b))
		require.NoError(t, valid(t, s, b), string(b))
	}
	for _, bad := range []string{`"did":"most"`, `"effort":11`, `"day":0`, `"id":"short"`, `"more":1`, `"felt":[{"place":"soul"}]`} {
		key, _, _ := strings.Cut(bad, ":")
		text := `{"format":"wavekine.checkin/1","id":"0123456789abcdef","day":1,"did":"all","told":"2026-05-14T18:00:00Z"}`
		if i := strings.Index(text, key); i >= 0 {
			end := strings.IndexAny(text[i:], ",}")
			text = text[:i] + bad + text[i+end:]
		} else {
			text = strings.Replace(text, `"told"`, bad+`,"told"`, 1)
		}
		_, err := progress.ReadCheckIn([]byte(text))
		require.Error(t, err, text)
		require.Error(t, valid(t, s, []byte(text)), text)
	}
}

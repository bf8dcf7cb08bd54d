package strict

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestFirstErrorStaysAndNamesThePlace(t *testing.T) {
	r, v := Parse([]byte(`{"a":{"b":[1,"x",true]},"n":5,"t":"text"}`))
	require.NoError(t, r.Err())
	o := v.Object()
	assert.Equal(t, "text", o.Need("t").Text(10))
	assert.Equal(t, 5, o.Need("n").Int(1, 9))
	a := o.Need("a").Object()
	var got []int
	a.Need("b").List(10, func(_ int, e Value) { got = append(got, e.Int(0, 10)) })
	require.Error(t, r.Err())
	assert.Equal(t, `$.a.b[1]: expected a whole number, found text`, r.Err().Error())
	o.Need("missing")
	assert.Contains(t, r.Err().Error(), "$.a.b[1]", "the first error stays")
	assert.Equal(t, []int{1, 0}, got, "and nothing is visited after it")
}

func TestWhatIsRefused(t *testing.T) {
	read := func(text string, use func(o *Object)) string {
		r, v := Parse([]byte(text))
		if r.Err() == nil {
			use(v.Object())
		}
		if r.Err() == nil {
			return ""
		}
		return r.Err().Error()
	}
	nothing := func(*Object) {}
	for text, want := range map[string]string{
		"":                      "$: the document ends too early",
		"{":                     "$: the document ends too early",
		`{"a":1}{`:              "there is more after the end",
		`{"a":1,}`:              "not JSON at byte",
		`{'a':1}`:               "not JSON at byte",
		`[1]`:                   "$: expected an object, found a list",
		`"x"`:                   "$: expected an object, found text",
		`{"a":1,"a":2}`:         "$.a: the key is there twice",
		"{\"a\":\"\xc3\x28\"}":  "not text in UTF-8 (byte 6)",
		strings.Repeat("[", 60): "nested more than 24 deep",
	} {
		assert.Contains(t, read(text, nothing), want, text)
	}
	for want, c := range map[string]struct {
		text string
		use  func(*Object)
	}{
		"$.t: 5 characters: at most 3":                       {`{"t":"12345"}`, func(o *Object) { o.Need("t").Text(3) }},
		"$.t: a character that cannot be shown, at byte 1":   {`{"t":"a\u0000b"}`, func(o *Object) { o.Need("t").Text(30) }},
		"$.n: 1.5: expected a whole number from 0 to 9":      {`{"n":1.5}`, func(o *Object) { o.Need("n").Int(0, 9) }},
		"$.n: 99999999999999999999: expected a whole number": {`{"n":99999999999999999999}`, func(o *Object) { o.Need("n").Int(0, 9) }},
		"$.n: -1: expected a number from 0 to 9":             {`{"n":-1}`, func(o *Object) { o.Need("n").Float(0, 9) }},
		"$.b: expected true or false, found null":            {`{"b":null}`, func(o *Object) { o.Need("b").Bool() }},
		"$.l: 3 entries: at most 2":                          {`{"l":[1,2,3]}`, func(o *Object) { o.Need("l").List(2, func(int, Value) {}) }},
		`$: "x" is missing`:                                  {`{}`, func(o *Object) { o.Need("x") }},
		"$.extra: unknown key":                               {`{"extra":1}`, func(o *Object) { o.Done(false) }},
	} {
		assert.Contains(t, read(c.text, c.use), want)
	}
}

func TestExtraKeysAreKeptAndWrittenBack(t *testing.T) {
	r, v := Parse([]byte(`{"known":1,"z":{"deep":[1,{"x":null}]},"a":"<&>"}`))
	o := v.Object()
	o.Need("known")
	extra := o.Done(true)
	require.NoError(t, r.Err())
	require.Len(t, extra, 2)
	b, err := Join(struct {
		Known int `json:"known"`
	}{1}, extra)
	require.NoError(t, err)
	assert.JSONEq(t, `{"known":1,"z":{"deep":[1,{"x":null}]},"a":"<&>"}`, string(b))
	none, err := Join(struct{}{}, map[string]json.RawMessage{"k": json.RawMessage("1")})
	require.NoError(t, err)
	assert.Equal(t, `{"k":1}`, string(none))
}

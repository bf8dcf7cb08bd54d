// Package strict reads JSON documents without leniency: wrong types, unknown and repeated keys,
// too deep or too large documents are errors that name the place as a JSON path.
package strict

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"sort"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"
)

// MaxBytes is the size of the largest document read, 2 MiB; MaxDepth how deep it may nest; MaxValues how many values it may
// hold, ten times what the largest run of a four-hour class does. They bound the time to read one: about 150 ms.
const (
	MaxBytes  = 2 << 20
	MaxDepth  = 24
	MaxValues = 400_000
)

// Error is what is wrong with a document, and where.
type Error struct {
	Path string // "$.sections[0].title"
	Says string
	Err  error // the cause, where there is one
}

func (e *Error) Error() string { return e.Path + ": " + e.Says }
func (e *Error) Unwrap() error { return e.Err }

// object is a JSON object as it was read: keys and values in their order, and an index where they are many.
type object struct {
	keys []string
	vals []any
	at   map[string]int // nil for a few keys
}

// fewKeys are looked for one after the other; what documents hold has no more.
const fewKeys = 16

func (o *object) find(key string) (v any, ok bool) {
	if o.at != nil {
		i, ok := o.at[key]
		if !ok {
			return nil, false
		}
		return o.vals[i], true
	}
	for i, k := range o.keys {
		if k == key {
			return o.vals[i], true
		}
	}
	return nil, false
}

func (o *object) add(key string, v any) {
	if o.at != nil {
		o.at[key] = len(o.keys)
	} else if len(o.keys) == fewKeys {
		o.at = make(map[string]int, 4*fewKeys)
		for i, k := range o.keys {
			o.at[k] = i
		}
		o.at[key] = len(o.keys)
	}
	o.keys, o.vals = append(o.keys, key), append(o.vals, v)
}

// Reader remembers the first error; after it every read gives a zero value.
type Reader struct {
	err *Error
}

// Err is the first error met.
func (r *Reader) Err() error {
	if r.err == nil {
		return nil
	}
	return r.err
}

// Fail records an error at a path.
func (r *Reader) Fail(path, format string, a ...any) {
	if r.err == nil {
		r.err = &Error{Path: path, Says: fmt.Sprintf(format, a...)}
	}
}

// Wrap records a cause at a path.
func (r *Reader) Wrap(path string, err error) {
	if r.err == nil {
		r.err = &Error{Path: path, Says: err.Error(), Err: err}
	}
}

// Parse reads the text of a document.
func Parse(text []byte) (*Reader, Value) {
	r := &Reader{}
	v := Value{r: r, Path: "$"}
	switch {
	case len(text) > MaxBytes:
		r.Fail("$", "the document is %.1f MB: at most %d MB are read", float64(len(text))/(1<<20), MaxBytes>>20)
	case !utf8.Valid(text):
		r.Fail("$", "the document is not text in UTF-8 (byte %d)", firstBad(text))
	}
	if r.err != nil {
		return r, v
	}
	p := parser{r: r, dec: jsontext.NewDecoder(bytes.NewBuffer(text), jsontext.AllowDuplicateNames(true), jsontext.AllowInvalidUTF8(true))}
	v.v = p.value(0)
	if r.err == nil {
		if _, err := p.dec.ReadToken(); !errors.Is(err, io.EOF) {
			r.Fail("$", "there is more after the end of the document, at byte %d", p.dec.InputOffset())
		}
	}
	return r, v
}

func firstBad(text []byte) int {
	for i := 0; i < len(text); {
		c, n := utf8.DecodeRune(text[i:])
		if c == utf8.RuneError && n == 1 {
			return i
		}
		i += n
	}
	return len(text)
}

// trail is a place while a text is gone through: its JSON path is only put together where something is wrong.
type trail []step

// step leads to a key, or to a place in a list.
type step struct {
	key string
	i   int // -1 for a key
}

// longestKey is how much of a key is shown in a path, in bytes.
const longestKey = 60

func clip(key string) string {
	if len(key) <= longestKey {
		return key
	}
	return strings.ToValidUTF8(key[:longestKey], "") + "..."
}

func (t trail) String() string {
	var b strings.Builder
	b.WriteByte('$')
	for _, s := range t {
		if s.i >= 0 {
			b.WriteString("[" + strconv.Itoa(s.i) + "]")
		} else {
			b.WriteString("." + clip(s.key))
		}
	}
	return b.String()
}

// parser goes through a text once, from token to token.
type parser struct {
	r    *Reader
	dec  *jsontext.Decoder
	path trail
	n    int // values so far
}

func (p *parser) fail(format string, a ...any) { p.r.Fail(p.path.String(), format, a...) }

// value reads one value; after the first error there is none.
func (p *parser) value(depth int) any {
	if depth > MaxDepth {
		p.fail("nested more than %d deep", MaxDepth)
		return nil
	}
	if p.n++; p.n > MaxValues {
		p.fail("more than %d values", MaxValues)
		return nil
	}
	t, err := p.dec.ReadToken()
	if err != nil {
		p.syntax(err)
		return nil
	}
	switch t.Kind() {
	case 't', 'f':
		return t.Bool()
	case '"':
		return t.String()
	case '0':
		return json.Number(t.String())
	case '[':
		return p.list(depth)
	case '{':
		return p.object(depth)
	}
	return nil
}

func (p *parser) list(depth int) any {
	list := []any{}
	p.path = append(p.path, step{i: 0})
	for p.dec.PeekKind() != ']' {
		p.path[len(p.path)-1].i = len(list)
		if list = append(list, p.value(depth+1)); p.r.err != nil {
			return nil
		}
	}
	p.end()
	return list
}

func (p *parser) object(depth int) any {
	o := &object{}
	for p.dec.PeekKind() != '}' {
		k, err := p.dec.ReadToken()
		if err != nil {
			p.syntax(err)
			return nil
		}
		key := k.String()
		p.path = append(p.path, step{key, -1})
		if _, twice := o.find(key); twice {
			p.fail("the key is there twice")
			return nil
		}
		v := p.value(depth + 1)
		if p.r.err != nil {
			return nil
		}
		o.add(key, v)
		p.path = p.path[:len(p.path)-1]
	}
	p.path = append(p.path, step{})
	p.end()
	return o
}

// end reads the end of a list or an object, and leaves its last step.
func (p *parser) end() {
	p.path = p.path[:len(p.path)-1]
	if _, err := p.dec.ReadToken(); err != nil {
		p.syntax(err)
	}
}

func (p *parser) syntax(err error) {
	var wrong *jsontext.SyntacticError
	switch {
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		p.fail("the document ends too early")
	case errors.As(err, &wrong):
		p.fail("not JSON at byte %d: %v", wrong.ByteOffset, wrong.Err)
	default:
		p.fail("not JSON at byte %d", p.dec.InputOffset())
	}
}

// Numbers that a document may hold, besides 0: far beyond what any key of the job means, and the same in every
// store and language. What is kept of a later version's keys is kept as such a number.
const (
	leastNumber = 1e-9
	mostNumber  = 1e15
)

// plain gives a number its plain form, "1e2" is 100; ok is false beyond what is kept.
func plain(n json.Number) (out json.Number, ok bool) {
	if isPlain(string(n)) {
		return n, true
	}
	f, err := n.Float64()
	if a := math.Abs(f); err != nil || f != 0 && (a < leastNumber || a > mostNumber) {
		return "0", false
	}
	return json.Number(strconv.FormatFloat(f+0, 'f', -1, 64)), true // -0 becomes 0
}

// isPlain tells at once of the usual whole numbers that they are in their plain form.
func isPlain(n string) bool {
	for i := range len(n) {
		if n[i] < '0' || n[i] > '9' {
			return false
		}
	}
	return len(n) > 0 && len(n) < 16 // below mostNumber, and JSON has no zeros in front
}

// keeper goes through a value that nobody asked for.
type keeper struct {
	r    *Reader
	base string // the path of the object it stands in
	path trail
}

func (k *keeper) fail(format string, a ...any) {
	k.r.Fail(k.base+strings.TrimPrefix(k.path.String(), "$"), format, a...)
}

// check refuses what cannot be kept: a text that cannot be shown, a number beyond what is kept.
func (k *keeper) check(v any) {
	if k.r.err != nil {
		return
	}
	switch v := v.(type) {
	case string:
		if i := Hidden(v); i >= 0 {
			k.fail("a character that cannot be shown, at byte %d", i)
		}
	case json.Number:
		if _, ok := plain(v); !ok {
			k.fail("%.20s is not a number that is kept: expected 0, or %g to %g", v, leastNumber, mostNumber)
		}
	case []any:
		k.path = append(k.path, step{})
		for i, e := range v {
			k.path[len(k.path)-1].i = i
			k.check(e)
		}
		k.path = k.path[:len(k.path)-1]
	case *object:
		for i, key := range v.keys {
			if Hidden(key) >= 0 {
				k.fail("a key with a character that cannot be shown")
			}
			k.path = append(k.path, step{key, -1})
			k.check(v.vals[i])
			k.path = k.path[:len(k.path)-1]
		}
	}
}

// Value is one value with its path.
type Value struct {
	r    *Reader
	v    any
	Path string
}

// Object is a JSON object being read; Done reports keys nobody asked for.
type Object struct {
	Value
	o     *object
	asked map[string]bool
}

func kindOf(v any) string {
	switch v.(type) {
	case nil:
		return "null"
	case string:
		return "text"
	case json.Number:
		return "a number"
	case bool:
		return "true or false"
	case []any:
		return "a list"
	}
	return "an object"
}

func (v Value) want(what string) { v.r.Fail(v.Path, "expected %s, found %s", what, kindOf(v.v)) }

// Object opens an object.
func (v Value) Object() *Object {
	o, ok := v.v.(*object)
	if !ok {
		v.want("an object")
		o = &object{}
	}
	return &Object{v, o, map[string]bool{}}
}

// IsText tells whether the value is text.
func (v Value) IsText() bool { _, ok := v.v.(string); return ok }

// Raw is the value as JSON.
func (v Value) Raw() json.RawMessage { return appendRaw(nil, v.v) }

// Fail records an error here.
func (v Value) Fail(format string, a ...any) { v.r.Fail(v.Path, format, a...) }

// Wrap records a cause here.
func (v Value) Wrap(err error) {
	if err != nil {
		v.r.Wrap(v.Path, err)
	}
}

// Hidden is the byte at which a text has its first character that cannot be shown, a control character
// other than a new line or what is not UTF-8; -1 where it has none. No document holds such text.
func Hidden(s string) int {
	return strings.IndexFunc(s, func(c rune) bool { return unicode.IsControl(c) && c != '\n' || c == utf8.RuneError })
}

// Text reads text of at most limit characters, without control characters.
func (v Value) Text(limit int) string {
	s, ok := v.v.(string)
	if !ok {
		v.want("text")
		return ""
	}
	if n := utf8.RuneCountInString(s); n > limit {
		v.Fail("%d characters: at most %d", n, limit)
		return ""
	}
	if i := Hidden(s); i >= 0 {
		v.Fail("a character that cannot be shown, at byte %d", i)
		return ""
	}
	return s
}

// Int reads a whole number within lo and hi.
func (v Value) Int(lo, hi int) int {
	n, ok := v.v.(json.Number)
	if !ok {
		v.want("a whole number")
		return 0
	}
	i, err := strconv.Atoi(n.String())
	if err != nil || i < lo || i > hi {
		v.Fail("%s: expected a whole number from %d to %d", n, lo, hi)
		return 0
	}
	return i
}

// Float reads a number within lo and hi.
func (v Value) Float(lo, hi float64) float64 {
	n, ok := v.v.(json.Number)
	if !ok {
		v.want("a number")
		return 0
	}
	f, err := n.Float64()
	if err != nil || f < lo || f > hi {
		v.Fail("%s: expected a number from %v to %v", n, lo, hi)
		return 0
	}
	return f
}

// Bool reads true or false.
func (v Value) Bool() bool {
	b, ok := v.v.(bool)
	if !ok {
		v.want("true or false")
	}
	return b
}

// List visits a list of at most limit values.
func (v Value) List(limit int, visit func(i int, e Value)) {
	l, ok := v.v.([]any)
	if !ok {
		v.want("a list")
		return
	}
	if len(l) > limit {
		v.Fail("%d entries: at most %d", len(l), limit)
		return
	}
	for i, e := range l {
		if v.r.err != nil {
			return
		}
		visit(i, Value{v.r, e, v.Path + "[" + strconv.Itoa(i) + "]"})
	}
}

// Get finds a key; ok is false when it is not there.
func (o *Object) Get(key string) (Value, bool) {
	v, ok := o.o.find(key)
	if !ok {
		return Value{r: o.r, Path: o.Path}, false
	}
	o.asked[key] = true
	return Value{o.r, v, o.Path + "." + key}, true
}

// Need finds a key that must be there.
func (o *Object) Need(key string) Value {
	v, ok := o.Get(key)
	if !ok {
		o.r.Fail(o.Path, "%q is missing", key)
	}
	return v
}

// Into reads text with a type's own UnmarshalText, if the key is there.
func (o *Object) Into(key string, limit int, to interface{ UnmarshalText([]byte) error }) bool {
	v, ok := o.Get(key)
	if !ok {
		return false
	}
	s := v.Text(limit)
	if o.r.err == nil {
		v.Wrap(to.UnmarshalText([]byte(s)))
	}
	return true
}

// Done gives the keys nobody asked for: an error, or kept when the document is of a later minor version.
func (o *Object) Done(keep bool) map[string]json.RawMessage {
	var extra map[string]json.RawMessage
	for i, k := range o.o.keys {
		if o.asked[k] || o.r.err != nil {
			continue
		}
		if !keep {
			o.r.Fail(o.Path+"."+clip(k), "unknown key")
			return nil
		}
		if Hidden(k) >= 0 {
			o.r.Fail(o.Path, "a key with a character that cannot be shown")
		}
		kept := keeper{o.r, o.Path, trail{{k, -1}}}
		kept.check(o.o.vals[i])
		if extra == nil {
			extra = map[string]json.RawMessage{}
		}
		extra[k] = appendRaw(nil, o.o.vals[i])
	}
	return extra
}

// appendRaw writes a value as JSON behind b.
func appendRaw(b []byte, v any) []byte {
	switch v := v.(type) {
	case *object:
		b = append(b, '{')
		for i, k := range v.keys {
			if i > 0 {
				b = append(b, ',')
			}
			b = append(appendText(b, k), ':')
			b = appendRaw(b, v.vals[i])
		}
		return append(b, '}')
	case []any:
		b = append(b, '[')
		for i, e := range v {
			if i > 0 {
				b = append(b, ',')
			}
			b = appendRaw(b, e)
		}
		return append(b, ']')
	case json.Number:
		n, _ := plain(v)
		return append(b, n...)
	case string:
		return appendText(b, v)
	case bool:
		return strconv.AppendBool(b, v)
	}
	return append(b, "null"...)
}

func appendText(b []byte, s string) []byte {
	b, _ = jsontext.AppendQuote(b, s) // it only fails for what is not UTF-8, and writes it all the same
	return b
}

// Join writes a struct as JSON and adds the extra keys of a later minor version at its end.
func Join(v any, extra map[string]json.RawMessage) ([]byte, error) {
	b, err := encode(v)
	if err != nil {
		return nil, err
	}
	return more(b, extra), nil
}

// JoinList is Join with a list of items at the end of the struct's keys, in front of the extra ones. The items are taken
// as they write themselves: encoding/json would read what each level wrote once more.
func JoinList[T json.Marshaler](v any, key string, items []T, extra map[string]json.RawMessage) ([]byte, error) {
	b, err := encode(v)
	if err != nil {
		return nil, err
	}
	b = b[:len(b)-1]
	if len(b) > 1 {
		b = append(b, ',')
	}
	b = append(append(append(b, '"'), key...), `":[`...)
	for i, item := range items {
		if i > 0 {
			b = append(b, ',')
		}
		text, err := item.MarshalJSON()
		if err != nil {
			return nil, err
		}
		b = append(b, text...)
	}
	return more(append(b, "]}"...), extra), nil
}

// more adds the extra keys to an object.
func more(b []byte, extra map[string]json.RawMessage) []byte {
	if len(extra) == 0 {
		return b
	}
	keys := make([]string, 0, len(extra))
	for k := range extra {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	b = b[:len(b)-1]
	for _, k := range keys {
		if len(b) > 1 {
			b = append(b, ',')
		}
		b = append(append(appendText(b, k), ':'), extra[k]...)
	}
	return append(b, '}')
}

func encode(v any) ([]byte, error) {
	var b bytes.Buffer
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(v)
	return bytes.TrimRight(b.Bytes(), "\n"), err
}

// Sound tells whether nothing was wrong so far.
func (v Value) Sound() bool { return v.r.err == nil }

// At is the value with a place below it in its path, for an error that only shows once it is read: "rows[2]". Empty is the value itself.
func (v Value) At(place string) Value {
	if place != "" {
		v.Path += "." + place
	}
	return v
}

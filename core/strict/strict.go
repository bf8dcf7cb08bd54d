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
)

// MaxBytes is the size of the largest document read, 2 MiB; MaxDepth how deep it may nest.
const (
	MaxBytes = 2 << 20
	MaxDepth = 24
)

// Error is what is wrong with a document, and where.
type Error struct {
	Path string // "$.sections[0].title"
	Says string
	Err  error // the cause, where there is one
}

func (e *Error) Error() string { return e.Path + ": " + e.Says }
func (e *Error) Unwrap() error { return e.Err }

type object struct {
	keys []string
	at   map[string]any
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
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.UseNumber()
	v.v = r.value(dec, &trail{}, 0)
	if r.err == nil {
		if _, err := dec.Token(); !errors.Is(err, io.EOF) {
			r.Fail("$", "there is more after the end of the document, at byte %d", dec.InputOffset())
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

// trail is a place while a text is parsed: its JSON path is only put together where something is wrong.
type trail struct {
	up  *trail
	key string
	i   int // the index in a list; -1 for a key
}

func (t *trail) String() string {
	switch {
	case t.up == nil:
		return "$"
	case t.i >= 0:
		return t.up.String() + "[" + strconv.Itoa(t.i) + "]"
	}
	return t.up.String() + "." + t.key
}

func (r *Reader) value(dec *json.Decoder, path *trail, depth int) any {
	if depth > MaxDepth {
		r.Fail(path.String(), "nested more than %d deep", MaxDepth)
		return nil
	}
	t, err := dec.Token()
	if err != nil {
		r.syntax(dec, path, err)
		return nil
	}
	d, ok := t.(json.Delim)
	if !ok {
		return t
	}
	if d == '[' {
		list := []any{}
		for i := 0; dec.More() && r.err == nil; i++ {
			list = append(list, r.value(dec, &trail{up: path, i: i}, depth+1))
		}
		r.close(dec, path)
		return list
	}
	o := &object{at: map[string]any{}}
	for dec.More() && r.err == nil {
		k, err := dec.Token()
		if err != nil {
			r.syntax(dec, path, err)
			return nil
		}
		key := k.(string)
		if _, twice := o.at[key]; twice {
			r.Fail(path.String()+"."+key, "the key is there twice")
			return nil
		}
		o.keys = append(o.keys, key)
		o.at[key] = r.value(dec, &trail{up: path, key: key, i: -1}, depth+1)
	}
	r.close(dec, path)
	return o
}

// Numbers that a document may hold, besides 0: far beyond what any key of the job means, and the same in every
// store and language. What is kept of a later version's keys is kept as such a number.
const (
	leastNumber = 1e-9
	mostNumber  = 1e15
)

// plain gives a number its plain form, "1e2" is 100; ok is false beyond what is kept.
func plain(n json.Number) (out json.Number, ok bool) {
	f, err := n.Float64()
	if a := math.Abs(f); err != nil || f != 0 && (a < leastNumber || a > mostNumber) {
		return "0", false
	}
	return json.Number(strconv.FormatFloat(f+0, 'f', -1, 64)), true // -0 becomes 0
}

// keepable refuses what cannot be kept of a value that nobody asked for: a text that cannot be shown, a number
// beyond what is kept.
func (r *Reader) keepable(v any, path string) {
	switch v := v.(type) {
	case string:
		if i := Hidden(v); i >= 0 {
			r.Fail(path, "a character that cannot be shown, at byte %d", i)
		}
	case json.Number:
		if _, ok := plain(v); !ok {
			r.Fail(path, "%.20s is not a number that is kept: expected 0, or %g to %g", v, leastNumber, mostNumber)
		}
	case []any:
		for i, e := range v {
			r.keepable(e, path+"["+strconv.Itoa(i)+"]")
		}
	case *object:
		for _, k := range v.keys {
			if Hidden(k) >= 0 {
				r.Fail(path, "a key with a character that cannot be shown")
			}
			r.keepable(v.at[k], path+"."+k)
		}
	}
}

func (r *Reader) close(dec *json.Decoder, path *trail) {
	if r.err != nil {
		return
	}
	if _, err := dec.Token(); err != nil {
		r.syntax(dec, path, err)
	}
}

func (r *Reader) syntax(dec *json.Decoder, path *trail, err error) {
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		r.Fail(path.String(), "the document ends too early")
		return
	}
	r.Fail(path.String(), "not JSON at byte %d: %s", dec.InputOffset(), strings.TrimPrefix(err.Error(), "json: "))
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
func (v Value) Raw() json.RawMessage { return raw(v.v) }

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
	v, ok := o.o.at[key]
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
	for _, k := range o.o.keys {
		if o.asked[k] || o.r.err != nil {
			continue
		}
		if !keep {
			o.r.Fail(o.Path+"."+k, "unknown key")
			return nil
		}
		o.r.keepable(o.o.at[k], o.Path+"."+k)
		if Hidden(k) >= 0 {
			o.r.Fail(o.Path, "a key with a character that cannot be shown")
		}
		if extra == nil {
			extra = map[string]json.RawMessage{}
		}
		extra[k] = raw(o.o.at[k])
	}
	return extra
}

func raw(v any) json.RawMessage {
	switch v := v.(type) {
	case *object:
		var b bytes.Buffer
		b.WriteByte('{')
		for i, k := range v.keys {
			if i > 0 {
				b.WriteByte(',')
			}
			kb, _ := json.Marshal(k)
			b.Write(kb)
			b.WriteByte(':')
			b.Write(raw(v.at[k]))
		}
		b.WriteByte('}')
		return b.Bytes()
	case []any:
		parts := make([][]byte, len(v))
		for i, e := range v {
			parts[i] = raw(e)
		}
		return append(append([]byte{'['}, bytes.Join(parts, []byte{','})...), ']')
	}
	if n, ok := v.(json.Number); ok {
		v, _ = plain(n)
	}
	b, _ := json.Marshal(v)
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
		kb, _ := json.Marshal(k)
		b = append(append(append(b, kb...), ':'), extra[k]...)
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

package edit

import (
	"encoding"
	"fmt"
	"os"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict/golden"
)

// base is a class with all that a class can have.
const base = `{"format":"wavekine.session/1.2","title":"Base","focus":["hips"],"target":"10:00","audience":"beginners","aside":[{"rule":"early","reason":"warm already"}],"sections":[
	{"title":"Arrive","blocks":[{"rule":"straight","rows":[{"movement":"cat-cow","dose":"5 reps"},{"movement":"clam","dose":"12 reps","note":"slow"},{"rest":"20 s","say":"Sip"}]}]},
	{"title":"Build","blocks":[{"rule":"chain","rest":"10 s","rows":[{"movement":"bird-dog","dose":"8 reps","left":{"dose":"7 reps"}},{"movement":"rainbow-leg","level":2,"dose":"8 reps","locked":true}]},{"rule":"straight","rows":[{"movement":"bridge","dose":"6 reps","options":[2]}]}]},
	{"title":"Round","blocks":[{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"squat"},{"movement":"lunge"}]}]},
	{"title":"Settle","blocks":[]},
	{"title":"Kept","blocks":[{"rule":"straight","rows":[{"kept":"flumox the gribble 7","note":"whose?"}]}]}]}`

// filled puts a form into a command by the names of its fields, as the site does.
func filled(c any, form map[string]string) error {
	v := reflect.ValueOf(c).Elem()
	for i := range v.NumField() {
		name, _, _ := strings.Cut(v.Type().Field(i).Tag.Get("form"), ",")
		text, said := form[name]
		if !said {
			continue
		}
		f := v.Field(i)
		if u, ok := f.Addr().Interface().(encoding.TextUnmarshaler); ok {
			if err := u.UnmarshalText([]byte(text)); err != nil {
				return err
			}
			continue
		}
		switch f.Kind() {
		case reflect.String:
			f.SetString(text)
		case reflect.Pointer:
			f.Set(reflect.ValueOf(&text))
		}
	}
	return nil
}

// short is a class in one line.
func short(s *plan.Session, lib *movement.Library) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%q %v %s %q bpm %v %s %s", s.Title, s.Focus, s.Target, s.Audience, s.BPM, s.Talk, s.Tempo)
	for _, k := range plan.StyleKeys() {
		if a := s.Style.Answer(k); a != (plan.Style{}).Answer(k) {
			fmt.Fprintf(&b, " %s=%s", k, a)
		}
	}
	for _, a := range s.Aside {
		fmt.Fprintf(&b, " aside(%s %s %v %s)", a.Rule, a.About, a.Amount, a.Reason)
	}
	for _, sec := range s.Sections {
		fmt.Fprintf(&b, "; %s:", plan.JoinClauses(append([]string{sec.Title}, sec.Clauses()...)))
		for _, blk := range sec.Blocks {
			fmt.Fprintf(&b, " %s", blk.Words())
			for i := range blk.Rows {
				m, _ := blk.Rows[i].Of(lib)
				fmt.Fprintf(&b, " [%s]", blk.Rows[i].Line(m))
			}
		}
	}
	return b.String()
}

// changed is what of a class in one line is not as it was.
func changed(was, is string) string {
	parts := strings.Split(is, "; ")
	before := strings.Split(was, "; ")
	for i, p := range parts {
		if i < len(before) && before[i] == p {
			parts[i] = "~"
		}
	}
	return strings.Join(parts, "; ")
}

// What every command makes of one class, or says why not. The file was read through line by line when it was written.
func TestCommandsOnAClass(t *testing.T) {
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(base), lib)
	require.NoError(t, err)
	text, err := os.ReadFile("testdata/commands.txt")
	require.NoError(t, err)
	var out strings.Builder
	fmt.Fprintf(&out, "%s\n", short(s, lib))
	tried := map[string]bool{}
	for line := range strings.Lines(string(text)) {
		line = strings.TrimSuffix(line, "\n")
		name, rest, _ := strings.Cut(line, " ")
		c, ok := Session(name)
		require.True(t, ok, line)
		tried[name] = true
		form := map[string]string{}
		for _, f := range strings.Split(rest, "; ") {
			if k, v, ok := strings.Cut(f, "="); ok {
				form[k] = v
			}
		}
		fmt.Fprintf(&out, "%s\n", line)
		err := filled(c, form)
		var ch plan.Changed
		if err == nil {
			ch, err = plan.Apply(s, lib, c)
		}
		if err != nil {
			fmt.Fprintf(&out, "  no: %s\n", strings.ReplaceAll(err.Error(), "\n", " / "))
			continue
		}
		fmt.Fprintf(&out, "  %s (%s) %s\n", ch.Says, ch.At, changed(short(s, lib), short(ch.Session, lib)))
	}
	assert.Equal(t, SessionNames(), sorted(tried), "every command is tried")
	golden.Equal(t, "testdata/changed.txt", out.String())
}

func sorted(m map[string]bool) []string {
	var out []string
	for _, n := range SessionNames() {
		if m[n] {
			out = append(out, n)
		}
	}
	return out
}

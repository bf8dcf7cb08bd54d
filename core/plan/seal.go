package plan

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"wavekine/core/movement"
	"wavekine/core/strict"
)

// Sealed is a document as it may be stored: written, read back by the reader's own limits and found the same.
// Only Seal and SealSeries make one, and the store takes nothing else, so that what is stored can be read
// again. The zero value is no document.
type Sealed struct {
	title string
	text  []byte
	uses  []Use
	own   []string
	start time.Time
	days  int
}

// Use is a movement in a document, for the search of where it stands.
type Use struct {
	Movement string // slug without a version
	Level    int    // from 1
	Dose     string
}

// Title is the document's title.
func (d Sealed) Title() string { return d.title }

// Text is the document as JSON.
func (d Sealed) Text() []byte { return d.text }

// Uses lists the movements of a session in order; nothing for a series.
func (d Sealed) Uses() []Use { return d.uses }

// Own lists the studio's own movements that the document needs, without versions.
func (d Sealed) Own() []string { return d.own }

// Start is the first day of a series, Days how many it has.
func (d Sealed) Start() time.Time { return d.start }

// Days is how many days a series has.
func (d Sealed) Days() int { return d.days }

// Refused says that a change would make a document that cannot be read again, where and why.
type Refused struct {
	Place string // in a teacher's words: "Build, row 3 (Bird dog), note"
	Err   *strict.Error
}

func (e *Refused) Error() string {
	if e.Place == "" {
		return e.Err.Says
	}
	return e.Place + ": " + e.Err.Says
}

func (e *Refused) Unwrap() error { return e.Err }

// Seal checks a session as it would be stored. The error is *Refused; the session is left as it is. Cost grows
// linearly with the size of the document.
func Seal(s *Session, lib *movement.Library) (Sealed, error) {
	text, err := sealed(s, func(text []byte) (any, error) { return ReadSession(text, lib) })
	if err != nil {
		return Sealed{}, refused(err, s)
	}
	d := Sealed{title: s.Title, text: text}
	d.use(s)
	return d, nil
}

// SealSeries checks a series as it would be stored, like Seal.
func SealSeries(s *Series, lib *movement.Library) (Sealed, error) {
	text, err := sealed(s, func(text []byte) (any, error) { return ReadSeries(text, lib) })
	if err != nil {
		return Sealed{}, refused(err, nil)
	}
	d := Sealed{title: s.Title, text: text, start: s.Start, days: len(s.Days)}
	for _, l := range s.Ladders {
		for _, m := range l.Movements() {
			d.needs(m)
		}
	}
	for _, day := range s.Days {
		for _, m := range day.Pinned {
			d.needs(m)
		}
		if day.Session != nil {
			d.use(day.Session)
		}
	}
	d.uses = nil // a series' days are found by their dates
	return d, nil
}

func (d *Sealed) needs(slug string) {
	if base := movement.BaseSlug(slug); movement.IsOwn(slug) && !slices.Contains(d.own, base) {
		d.own = append(d.own, base)
	}
}

func (d *Sealed) use(s *Session) {
	s.Each(func(_ Path, _ *Block, r *Row) {
		if r.IsRest() || r.Inline != nil {
			return
		}
		d.needs(r.Movement)
		d.uses = append(d.uses, Use{movement.BaseSlug(r.Movement), max(1, r.Level), r.Dose.String()})
	})
}

// indentFactor is how much longer a document can be with a space and a new line at every place than without;
// it saves measuring small ones. Nested MaxDepth deep at two spaces a step, a byte may take so many.
const indentFactor = 2*strict.MaxDepth + 2

// sealed writes a document, reads it back and compares. It must be readable in its longest written form too,
// the indented one that is exported.
func sealed(doc json.Marshaler, read func([]byte) (any, error)) ([]byte, error) {
	text, err := doc.MarshalJSON()
	if err != nil {
		return nil, err
	}
	if len(text)*indentFactor > strict.MaxBytes {
		var long bytes.Buffer
		if err := json.Indent(&long, text, "", "  "); err != nil {
			return nil, err
		}
		if long.Len() > strict.MaxBytes {
			return nil, &strict.Error{Path: "$", Says: fmt.Sprintf("it would be %.1f MB: at most %d MB can be saved. Shorten the notes, or part it in two", float64(long.Len())/(1<<20), strict.MaxBytes>>20)}
		}
	}
	back, err := read(text)
	if err != nil {
		return nil, err
	}
	again, err := back.(json.Marshaler).MarshalJSON()
	if err != nil {
		return nil, err
	}
	if !bytes.Equal(text, again) {
		return nil, &strict.Error{Path: "$", Says: "it would not be read back as it is: " + firstDifference(text, again)}
	}
	return text, nil
}

// firstDifference shows where two texts part.
func firstDifference(a, b []byte) string {
	i := 0
	for i < len(a) && i < len(b) && a[i] == b[i] {
		i++
	}
	part := func(t []byte) string { return strings.ToValidUTF8(string(t[max(0, i-20):min(len(t), i+20)]), "") }
	return fmt.Sprintf("%q became %q", part(a), part(b))
}

func refused(err error, s *Session) error {
	var se *strict.Error
	if !errors.As(err, &se) {
		return err
	}
	return &Refused{Place(se.Path, s), se}
}

var placeParts = regexp.MustCompile(`\[(\d+)\]`)

// Place says a path of a session document for a teacher: "Build, row 3 (Bird dog), note". The session may be
// nil; what is not there is left out.
func Place(path string, s *Session) string {
	var words []string
	at := placeParts.FindAllStringSubmatch(path, -1)
	n := make([]int, 0, len(at))
	for _, m := range at {
		i, _ := strconv.Atoi(m[1])
		n = append(n, i+1)
	}
	switch {
	case s != nil && strings.HasPrefix(path, "$.sections[") && len(n) > 0:
		title := "section " + strconv.Itoa(n[0])
		if n[0] <= len(s.Sections) && s.Sections[n[0]-1].Title != "" {
			title = Clip(s.Sections[n[0]-1].Title, maxShown)
		}
		words = append(words, title)
		if len(n) > 2 {
			if no := s.number(Path{n[0], n[1], n[2]}); no > 0 {
				words = append(words, fmt.Sprintf("row %d (%s)", no, Clip(s.Row(Path{n[0], n[1], n[2]}).Name(), maxShown)))
			}
		}
	case strings.HasPrefix(path, "$.days[") && len(n) > 0:
		words = append(words, "day "+strconv.Itoa(n[0]))
	case strings.HasPrefix(path, "$.aside["):
		words = append(words, "what was set aside")
	}
	place := strings.Join(words, ", ")
	key := placeParts.ReplaceAllString(path[strings.LastIndexByte(path, '.')+1:], "")
	if key = strings.ReplaceAll(key, "_", " "); key != "$" && !strings.HasSuffix(path, "]") {
		if place != "" {
			place += ", "
		}
		place += key
	}
	return place
}

// number is the number of a row in the class, from 1; 0 where there is none.
func (s *Session) number(at Path) (n int) {
	i := 0
	s.Each(func(p Path, _ *Block, _ *Row) {
		if i++; p == at {
			n = i
		}
	})
	return n
}

// maxShown is how much of a name a message shows, in characters.
const maxShown = 40

// Clip shortens a text to at most n characters, n >= 1, on whole ones; what was cut ends in "…".
func Clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}

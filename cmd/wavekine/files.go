package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/strict"
	"wavekine/core/timeline"
)

// text is the document a verb is given: one file, or - for standard input.
func (c *job) text() ([]byte, error) {
	if len(c.args) != 1 {
		return nil, fmt.Errorf("%s: expected one file, or - for standard input", c.name)
	}
	return readFile(c.args[0], c.in)
}

// session reads the one session a verb is given.
func (c *job) session() (*plan.Session, error) {
	text, err := c.text()
	if err != nil {
		return nil, err
	}
	if isSeries(text) {
		return nil, fmt.Errorf("%s reads one session, not a series", c.name)
	}
	return plan.ReadSession(text, c.lib)
}

// eachDay answers for a session, or for a series with {"days": [...]}: one answer for every day that has its session
// with it, done as on that day.
func eachDay(c *job, one func(*plan.Session, *timeline.Timeline) (any, error), of func(n int, date string, s *plan.Session, tl *timeline.Timeline) (any, error)) error {
	text, err := c.text()
	if err != nil {
		return err
	}
	if !isSeries(text) {
		s, err := plan.ReadSession(text, c.lib)
		if err != nil {
			return err
		}
		tl, err := timeline.Build(s, c.lib)
		if err != nil {
			return err
		}
		v, err := one(s, tl)
		if err != nil {
			return err
		}
		return indented(c.out, v)
	}
	series, err := plan.ReadSeries(text, c.lib)
	if err != nil {
		return err
	}
	days := []any{}
	for i, d := range series.Days {
		if d.Session == nil {
			if d.Ref != "" {
				days = append(days, keptElsewhere{i + 1, series.Date(i).Format(time.DateOnly), d.Ref, elsewhere})
			}
			continue
		}
		s := d.Session.ForDay(i + 1)
		tl, err := timeline.Build(s, c.lib)
		if err != nil {
			return fmt.Errorf("day %d: %w", i+1, err)
		}
		v, err := of(i+1, series.Date(i).Format(time.DateOnly), s, tl)
		if err != nil {
			return err
		}
		days = append(days, v)
	}
	return indented(c.out, struct {
		Days []any `json:"days"`
	}{days})
}

// keptElsewhere is a day of a series that names a session: the document alone does not have it.
type keptElsewhere struct {
	Day     int    `json:"day"`
	Date    string `json:"date"`
	Session string `json:"session"`
	Says    string `json:"says"`
}

const elsewhere = "its session is kept elsewhere: it is not in this file"

// libraryWith is the shipped library with a studio's own movements from files.
func libraryWith(files []string) (*movement.Library, error) {
	lib := movement.Shipped()
	if files == nil {
		return lib, nil
	}
	var own []movement.OwnVersion
	for _, f := range files {
		text, err := os.ReadFile(f)
		if err != nil {
			return nil, err
		}
		m, err := movement.ReadOwn(text, lib)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f, err)
		}
		own = append(own, movement.OwnVersion{Movement: m, Version: 1, Newest: true})
	}
	return lib.With(own, nil)
}

// gated writes a session that a verb has made, where it can be read again.
func gated(s *plan.Session, lib *movement.Library, out io.Writer) error {
	ch, err := plan.New(lib, &plan.Become{Session: s})
	if err != nil {
		return err
	}
	return indented(out, ch.Session)
}

// readFile reads a document, no more than is ever read of one.
func readFile(name string, in io.Reader) ([]byte, error) {
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return nil, err
		}
		defer func() { _ = f.Close() }()
		in = f
	}
	return io.ReadAll(io.LimitReader(in, 3*strict.MaxBytes))
}

// isSeries looks at the format only; the strict reading comes after.
func isSeries(text []byte) bool {
	var head struct {
		Format string `json:"format"`
	}
	_ = json.Unmarshal(text, &head)
	return strings.HasPrefix(head.Format, "wavekine.series/")
}

func indented(out io.Writer, v any) error {
	b, err := json.Marshal(v)
	if err != nil {
		return err
	}
	var buf bytes.Buffer
	if err := json.Indent(&buf, b, "", "  "); err != nil {
		return err
	}
	buf.WriteByte('\n')
	_, err = buf.WriteTo(out)
	return err
}

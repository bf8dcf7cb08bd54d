package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"time"

	"wavekine/core/board"
	"wavekine/core/brief"
	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/lay"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/series"
	"wavekine/core/timeline"
	"wavekine/draw"
)

// seriesVerb lays series out and looks at them.
var seriesVerb = verb{
	name: "series", args: "lay [--seed N] [--report] [--from FILE,...] BRIEF|FILE | check FILE | step [--day N] FILE | export --as ics|csv|markdown|text|pdf [--what WHAT] [--group FILE] FILE",
	says: "a series laid from a brief, or again around its pins; its second look; its next day; for other programs and for paper",
	run: func(c *job) error {
		if len(c.args) == 0 {
			return errors.New("series: expected lay, check, step or export")
		}
		what := c.args[0]
		flags := flag.NewFlagSet("series "+what, flag.ContinueOnError)
		flags.SetOutput(new(strings.Builder))
		seed := flags.Int("seed", 0, "another way: another number")
		report := flags.Bool("report", false, "figures instead of the document")
		day := flags.Int("day", 0, "the day that has been done")
		from := flags.String("from", "", "files of the sessions to lay, with commas between, where the brief says from my sessions")
		var e seriesExport
		flags.StringVar(&e.as, "as", "", "ics, csv, markdown, text or pdf")
		flags.StringVar(&e.what, "what", "booklet", "of a pdf: booklet, handouts, poster or takehome")
		flags.StringVar(&e.group, "group", "", "a group's document: its dates")
		flags.StringVar(&e.busy, "busy", "", "a calendar file (.ics) of times to plan around")
		flags.StringVar(&e.rows, "rows", "", "of a takehome: its movements, with commas between")
		flags.StringVar(&e.often, "often", "every day", "of a takehome: how often and when")
		if err := flags.Parse(c.args[1:]); err != nil {
			return err
		}
		c.args, c.name = flags.Args(), "series "+what
		switch what {
		case "lay":
			return layVerb(c, *seed, *report, *from)
		case "check":
			return checkSeries(c)
		case "step":
			return stepVerb(c, *day)
		}
		if what == "export" {
			return e.write(c)
		}
		return fmt.Errorf("series: %q: expected lay, check, step or export", what)
	},
}

// layVerb lays a brief, or a series document again: from its own brief, around what is pinned in it.
func layVerb(c *job, seed int, report bool, from string) error {
	if seed < 0 {
		return errors.New("--seed: expected a number from 0")
	}
	own, err := keptFiles(c, from)
	if err != nil {
		return err
	}
	var keep *plan.Series
	words := strings.Join(c.args, " ")
	if len(c.args) == 1 && (words == "-" || strings.HasSuffix(words, ".json")) {
		text, err := c.text()
		if err != nil {
			return err
		}
		if isSeries(text) {
			s, err := plan.ReadSeries(text, c.lib)
			if err != nil {
				return err
			}
			if s.Brief == "" {
				return errors.New("series lay: the series was not laid from a brief: say one")
			}
			words, keep = s.Brief, s
			if seed == 0 {
				seed = s.Seed
			}
		} else {
			words = string(text)
		}
	}
	today := time.Now()
	b, err := brief.Parse(strings.TrimSpace(words), c.lib, today)
	if err != nil {
		return err
	}
	if keep != nil {
		b.Start = keep.Start
	}
	if b.Start.IsZero() { // where nothing is said it begins today
		b.Start = time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	}
	l, err := lay.Series(c.ctx, c.lib, b, lay.Options{Seed: uint64(seed), Keep: keep, Material: own})
	if err != nil {
		return err
	}
	if report {
		return indented(c.out, l.Report(c.lib))
	}
	s, err := l.Document(c.lib, today, seed)
	if err != nil {
		return err
	}
	doc, err := json.MarshalIndent(s, "", "  ")
	if err != nil {
		return err
	}
	if _, err := plan.ReadSeries(doc, c.lib); err != nil { // nothing is written that cannot be read
		return err
	}
	_, err = c.out.Write(append(doc, '\n'))
	return err
}

// keptFiles reads the sessions to be laid.
func keptFiles(c *job, from string) (out []lay.Kept, err error) {
	for _, name := range strings.FieldsFunc(from, func(r rune) bool { return r == ',' }) {
		text, err := os.ReadFile(name)
		if err != nil {
			return nil, err
		}
		s, err := plan.ReadSession(text, c.lib)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		out = append(out, lay.Kept{ID: filepath.Base(name), Rev: 1, Session: s})
	}
	return out, nil
}

// seriesExport is what a series is written as.
type seriesExport struct {
	as, what, group, busy, rows, often string
}

// write writes a series for other programs and for paper.
func (e *seriesExport) write(c *job) error {
	s, err := seriesOf(c)
	if err != nil {
		return err
	}
	g := &group.Group{Name: "the series", Start: s.Start, Time: s.Time, Zone: s.Zone, Alarm: 15}
	if e.group != "" {
		text, err := os.ReadFile(e.group)
		if err != nil {
			return err
		}
		if g, err = group.Read(text); err != nil {
			return fmt.Errorf("%s: %w", e.group, err)
		}
	}
	if e.busy != "" {
		text, err := os.ReadFile(e.busy)
		if err != nil {
			return err
		}
		zone, err := time.LoadLocation(g.Zone)
		if err != nil {
			return err
		}
		busy, err := group.ReadBusy(text, g.Start, g.Start.AddDate(1, 0, 0), zone)
		if err != nil {
			return fmt.Errorf("%s: %w", e.busy, err)
		}
		if _, err := g.Around(s, busy); err != nil {
			return err
		}
	}
	days, err := export.DaysOf(s, g, c.lib, nil)
	if err != nil {
		return err
	}
	said := export.Announce(s, g, days, export.UsualWording(), c.lib)
	var b []byte
	switch e.as {
	case "ics":
		details := map[int]string{}
		for _, d := range said.Days {
			details[d.N] = d.Text
		}
		b, err = export.GroupCalendar(s, g, export.Issue{Key: seriesKey(s), Stamp: s.Start, Details: details})
	case "csv":
		b, err = export.BoardCSV(s, days, c.lib)
	case "markdown":
		b = said.Markdown()
	case "text":
		b = said.Text()
	case "pdf":
		b, err = e.paper(s, days, c.lib)
	default:
		return fmt.Errorf("series export --as %q: expected ics, csv, markdown, text or pdf", e.as)
	}
	if err != nil {
		return err
	}
	_, err = c.out.Write(b)
	return err
}

// paper is a series as a PDF.
func (e *seriesExport) paper(s *plan.Series, days []export.SeriesDay, lib *movement.Library) ([]byte, error) {
	switch e.what {
	case "booklet", "handouts":
		sheets := draw.SheetsOf(days, func(d *export.SeriesDay) export.Sheet { return export.SheetOf(d.Class, d.TL, lib) })
		return draw.Booklet(s, days, sheets, e.what == "handouts")
	case "poster":
		return draw.Poster(s, days, export.Learned(s, lib))
	case "takehome":
		sh, err := export.TakeHomeOf(s, days, strings.FieldsFunc(e.rows, func(r rune) bool { return r == ',' || r == ' ' }), lib)
		if err != nil {
			return nil, err
		}
		return draw.TakeHome(sh, e.often)
	}
	return nil, fmt.Errorf("series export --what %q: expected booklet, handouts, poster or takehome", e.what)
}

// seriesOf reads the one series a verb is given.
func seriesOf(c *job) (*plan.Series, error) {
	text, err := c.text()
	if err != nil {
		return nil, err
	}
	if !isSeries(text) {
		return nil, fmt.Errorf("%s reads a series", c.name)
	}
	return plan.ReadSeries(text, c.lib)
}

// checkSeries takes the second look at every day, each finding with its day, and over the days.
func checkSeries(c *job) error {
	s, err := seriesOf(c)
	if err != nil {
		return err
	}
	out, not := []any{}, []keptElsewhere(nil)
	for i := range s.Days {
		if s.Days[i].Session == nil {
			if ref := s.Days[i].Ref; ref != "" {
				not = append(not, keptElsewhere{i + 1, s.Date(i).Format(time.DateOnly), ref, elsewhere})
			}
			continue
		}
		class := s.Days[i].Session.ForDay(i + 1)
		tl, err := timeline.Build(class, c.lib)
		if err != nil {
			return fmt.Errorf("day %d: %w", i+1, err)
		}
		all, err := review.Check(c.ctx, class, tl, c.lib, review.Limits{})
		if err != nil {
			return err
		}
		shown, _ := review.SetAside(all, class.Aside)
		for _, f := range shown {
			if f.Mends == nil {
				f.Mends = []review.Mend{}
			}
			out = append(out, struct {
				Day int `json:"day"`
				review.Finding
			}{i + 1, f})
		}
	}
	over, err := series.Over(s, c.lib, nil)
	if err != nil {
		return err
	}
	for _, f := range over {
		mends := board.Tried(s, c.lib, nil, f, board.With{Within: c.ctx})
		if mends == nil {
			mends = []board.Mend{}
		}
		out = append(out, struct {
			series.Finding
			Mends []board.Mend `json:"mends"`
		}{f, mends})
	}
	return indented(c.out, struct {
		Findings []any           `json:"findings"`
		Not      []keptElsewhere `json:"not_looked_at,omitempty"`
	}{out, not})
}

// stepVerb says what comes after a day: without one, what today is.
func stepVerb(c *job, done int) error {
	s, err := seriesOf(c)
	if err != nil {
		return err
	}
	next := done
	if done == 0 {
		for next < len(s.Days) && s.Date(next).Format(time.DateOnly) < time.Now().Format(time.DateOnly) {
			next++
		}
	}
	if done < 0 || next >= len(s.Days) {
		return fmt.Errorf("series step: the series has %d days, and no day comes after day %d", len(s.Days), next)
	}
	d := s.Days[next]
	return indented(c.out, struct {
		Day     int           `json:"day"`
		Date    string        `json:"date"`
		Kind    string        `json:"kind,omitempty"`
		Rest    bool          `json:"rest,omitempty"`
		Title   string        `json:"title,omitempty"`
		Because string        `json:"because,omitempty"`
		Session *plan.Session `json:"session,omitempty"`
		Rows    []plan.Why    `json:"rows,omitempty"`
	}{next + 1, s.Date(next).Format(time.DateOnly), d.Kind, d.Rest, d.Title, d.Because, d.Session, d.Rows})
}

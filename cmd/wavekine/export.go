package main

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"flag"
	"fmt"

	"wavekine/core/export"
	"wavekine/core/plan"
	"wavekine/core/timeline"
	"wavekine/draw"
)

// exportVerb writes a session or a series for another program or for paper.
var exportVerb = verb{
	name: "export", args: "--as ics|csv|markdown|text|pdf [--for mover] [--day N] FILE", says: "for other programs and for paper",
	flags: func(f *flag.FlagSet, o *options) {
		f.StringVar(&o.as, "as", "", "ics, csv, markdown, text or pdf")
		f.StringVar(&o.who, "for", "teacher", "of a pdf: teacher or mover")
		f.IntVar(&o.day, "day", 1, "which day of a series it is, where the first side goes by the day")
	},
	run: exported,
}

func exported(c *job) error {
	text, err := c.text()
	if err != nil {
		return err
	}
	if isSeries(text) {
		return exportedSeries(c, text)
	}
	s, err := plan.ReadSession(text, c.lib)
	if err != nil {
		return err
	}
	if c.opt.day < 1 {
		return fmt.Errorf("export --day %d: expected 1 or more", c.opt.day)
	}
	if c.opt.as != "text" { // the text is the class itself, not a day of it
		s = s.ForDay(c.opt.day)
	}
	tl, err := timeline.Build(s, c.lib)
	if err != nil {
		return err
	}
	var b []byte
	switch as := c.opt.as; {
	case as == "pdf" && c.opt.who == "teacher":
		b, err = draw.CueSheet(export.SheetOf(s, tl, c.lib))
	case as == "pdf" && c.opt.who == "mover":
		b, err = draw.MoverSheet(export.SheetOf(s, tl, c.lib))
	case as == "pdf":
		return fmt.Errorf("export --for %q: expected teacher or mover", c.opt.who)
	case as == "csv":
		b, err = export.CSV(s, tl, c.lib)
	case as == "markdown":
		b = export.Markdown(s, tl, c.lib)
	case as == "text":
		b = []byte(s.Text(c.lib))
	case as == "ics":
		return errors.New("a session has no date: export a series --as ics")
	default:
		return fmt.Errorf("export --as %q: expected ics, csv, markdown, text or pdf", as)
	}
	if err != nil {
		return err
	}
	_, err = c.out.Write(b)
	return err
}

func exportedSeries(c *job, text []byte) error {
	s, err := plan.ReadSeries(text, c.lib)
	if err != nil {
		return err
	}
	if c.opt.as != "ics" {
		return fmt.Errorf("export --as %q: a series is exported --as ics; series export writes its board, texts and booklet", c.opt.as)
	}
	b, err := export.SeriesCalendar(s, seriesKey(s), 0, s.Start)
	if err != nil {
		return err
	}
	_, err = c.out.Write(b)
	return err
}

// seriesKey is a name for a series that has none, for the names of its events.
func seriesKey(s *plan.Series) string {
	sum := sha256.Sum256([]byte(s.Title + s.Start.String()))
	return hex.EncodeToString(sum[:8])
}

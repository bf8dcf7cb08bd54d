package main

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"slices"
	"strings"

	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/film"
	"wavekine/core/lead"
	"wavekine/core/plan"
	led "wavekine/core/run"
	"wavekine/core/timeline"
	"wavekine/draw"
)

// exportVerb writes a session or a series for another program or for paper.
var exportVerb = verb{
	name: "export", args: "--as ics|csv|markdown|text|pdf|vtt|srt|chapters|chapter-list|ffmetadata|description [--for mover] [--day N] [--run FILE] [--offset 12.5] FILE", says: "for other programs and for paper",
	flags: func(f *flag.FlagSet, o *options) {
		f.StringVar(&o.as, "as", "", "ics, csv, markdown, text or pdf; of a film vtt or srt (labels), chapters (WebVTT), chapter-list, ffmetadata or description")
		f.StringVar(&o.run, "run", "", "of a film: the run, a wavekine.run/1 document; its times are what was taken")
		f.Float64Var(&o.offset, "offset", 0, "of a film: seconds of film before the class begins; under 0 the film begins later")
		f.Float64Var(&o.film, "film", 0, "of a film: how many seconds it is long; what would lie behind its end is an error")
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
	switch {
	case isSeries(text):
		return exportedSeries(c, text)
	case isRun(text):
		return exportedFilm(c, nil, nil, text)
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
	if c.opt.as == "description" || slices.Contains(film.As(), c.opt.as) {
		return exportedFilm(c, s, tl, nil)
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
		return fmt.Errorf("export --as %q: expected ics, csv, markdown, text, pdf, vtt, srt, chapters, chapter-list, ffmetadata or description", as)
	}
	if err != nil {
		return err
	}
	_, err = c.out.Write(b)
	return err
}

// exportedFilm writes what a film of a class needs: of a plan, of a run, or of both. The plan may be nil where there is a run.
func exportedFilm(c *job, s *plan.Session, tl *timeline.Timeline, text []byte) error {
	if math.IsNaN(c.opt.offset) || math.Abs(c.opt.offset) > film.FarOffset.Seconds() {
		return fmt.Errorf("export --offset %v: seconds, at most a day either way", c.opt.offset)
	}
	offset := clock.Seconds(c.opt.offset)
	if c.opt.run != "" {
		var err error
		if text, err = os.ReadFile(c.opt.run); err != nil {
			return err
		}
	}
	var f *film.Film
	var err error
	switch {
	case text != nil:
		r, rerr := led.Read(text)
		if rerr != nil {
			return rerr
		}
		f, err = film.OfRun(r, s, tl, offset)
	default:
		f, err = film.OfPlan(s, tl, offset)
	}
	if err != nil {
		return err
	}
	if err := f.Within(clock.Seconds(c.opt.film)); err != nil {
		return err
	}
	if c.opt.as == "description" {
		if s == nil {
			return errors.New("a description is written from the plan: export --as description --run RUN PLAN")
		}
		fr := lead.Frame{}
		for _, k := range tl.KitOf() {
			if !k.Optional {
				fr.Kit = append(fr.Kit, k.Name)
			}
		}
		for _, x := range export.SheetOf(s, tl, c.lib).Main(2) {
			fr.Cautions = append(fr.Cautions, string(x.Topic)+": "+x.Says)
		}
		_, err = io.WriteString(c.out, film.Description(s, tl, c.lib, fr, f.End-f.Begin))
		return err
	}
	b, ok, err := f.Write(c.opt.as)
	switch {
	case err != nil:
		return err
	case !ok:
		return fmt.Errorf("export --as %q: of a run expected %s", c.opt.as, strings.Join(film.As(), ", "))
	}
	_, err = c.out.Write(b)
	return err
}

// isRun tells whether a document says that it is a run.
func isRun(text []byte) bool {
	var d struct {
		Format string `json:"format"`
	}
	return json.Unmarshal(text, &d) == nil && d.Format == led.Format
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

package main

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"html"
	"io"
	"os"
	"strings"
	"time"

	"wavekine/core/body"
	"wavekine/core/clock"
	"wavekine/core/export"
	"wavekine/core/ledger"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/core/solve"
	"wavekine/core/strict"
	"wavekine/core/timeline"
	"wavekine/draw"
)

// verb does one of the core's computations on a file.
func verb(name string, args []string, in io.Reader, out io.Writer) error {
	flags := flag.NewFlagSet(name, flag.ContinueOnError)
	flags.SetOutput(io.Discard)
	as, to, from, who := "json", "", "", ""
	var own []string
	flags.Func("with", "a studio's own movement, a wavekine.movement/1 file; as often as there are", func(f string) error {
		own = append(own, f)
		return nil
	})
	if name == "export" {
		flags.StringVar(&as, "as", "", "ics, csv, markdown or pdf")
		flags.StringVar(&who, "for", "teacher", "of a pdf: teacher or mover")
	}
	if name == "import" {
		flags.StringVar(&from, "from", "", "csv, text or json")
	}
	if name == "fit" {
		flags.StringVar(&to, "to", "", "a length, as in 20:00; without it the promised one")
	}
	if err := flags.Parse(args); err != nil {
		return err
	}
	lib, err := libraryWith(own)
	if err != nil {
		return err
	}
	switch name {
	case "movements":
		return movements(flags.Args(), lib, out)
	case "figures":
		return figures(out)
	}
	if flags.NArg() != 1 {
		return fmt.Errorf("%s: expected one file, or - for standard input", name)
	}
	text, err := readFile(flags.Arg(0), in)
	if err != nil {
		return err
	}
	if name == "import" {
		return imported(text, from, lib, out)
	}
	if isSeries(text) {
		s, err := plan.ReadSeries(text, lib)
		if err != nil {
			return err
		}
		switch {
		case name == "timeline" || name == "check":
			return days(name, s, lib, out)
		case name != "export":
			return fmt.Errorf("%s reads one session, not a series", name)
		case as != "ics":
			return fmt.Errorf("export --as %q: a series is exported --as ics, its sessions one by one --as csv or markdown", as)
		}
		sum := sha256.Sum256([]byte(s.Title + s.Start.String()))
		b, err := export.SeriesCalendar(s, hex.EncodeToString(sum[:8]), 0, s.Start)
		if err != nil {
			return err
		}
		_, err = out.Write(b)
		return err
	}
	s, err := plan.ReadSession(text, lib)
	if err != nil {
		return err
	}
	tl, err := timeline.Build(s, lib)
	if err != nil {
		return err
	}
	switch {
	case name == "fit":
		return fit(s, to, lib, out)
	case name == "order":
		o, err := solve.Order(s, lib)
		if err != nil {
			return err
		}
		return gated(o.Session, lib, out)
	case name == "timeline":
		return indented(out, tl)
	case name == "ledger":
		return ledgerOut(tl, s, out)
	case as == "pdf" && who != "teacher" && who != "mover":
		return fmt.Errorf("export --for %q: expected teacher or mover", who)
	case as == "pdf":
		write := draw.CueSheet
		if who == "mover" {
			write = draw.MoverSheet
		}
		b, err := write(export.SheetOf(s, tl, lib))
		if err != nil {
			return err
		}
		_, err = out.Write(b)
		return err
	case name == "check":
		b, err := review.MarshalFindings(review.Check(s, tl, lib, review.DefaultLimits()))
		if err != nil {
			return err
		}
		_, err = out.Write(append(b, '\n'))
		return err
	case as == "csv":
		b, err := export.CSV(s, tl, lib)
		if err != nil {
			return err
		}
		_, err = out.Write(b)
		return err
	case as == "markdown":
		_, err := out.Write(export.Markdown(s, tl, lib))
		return err
	case as == "ics":
		return errors.New("a session has no date: export a series --as ics")
	}
	return fmt.Errorf("export --as %q: expected ics, csv, markdown or pdf", as)
}

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

// imported writes the session that a table, a text or a document means. When a line was not understood, all such lines are
// named in the error and nothing is written.
func imported(text []byte, from string, lib *movement.Library, out io.Writer) error {
	if from == "" {
		return fmt.Errorf("import --from %q: expected csv, text or json", from)
	}
	in, err := plan.Import(text, from, lib, plan.Style{})
	if err != nil {
		return err
	}
	if in.Bad != nil {
		bad := make([]string, len(in.Bad))
		for i, l := range in.Bad {
			bad[i] = fmt.Sprintf("line %d: %v", l.N, l.Err)
		}
		return fmt.Errorf("%d lines were not understood, nothing was written\n%s", len(bad), strings.Join(bad, "\n"))
	}
	return gated(in.Session, lib, out)
}

// gated writes a session that a verb has made, where it can be read again.
func gated(s *plan.Session, lib *movement.Library, out io.Writer) error {
	ch, err := plan.New(lib, &plan.Become{Session: s})
	if err != nil {
		return err
	}
	return indented(out, ch.Session)
}

// ledgerOut writes what a class works.
func ledgerOut(tl *timeline.Timeline, s *plan.Session, out io.Writer) error {
	type entry struct {
		Name   string     `json:"name"`
		Time   clock.Span `json:"s"`
		Effort float64    `json:"effort_s"`
		Right  clock.Span `json:"right"`
		Left   clock.Span `json:"left"`
		Share  float64    `json:"share"`
	}
	of := func(es []ledger.Entry) []entry {
		list := []entry{}
		for _, e := range es {
			list = append(list, entry{e.Name, e.Time, e.Effort, e.Right, e.Left, e.Share})
		}
		return list
	}
	l := ledger.Of(tl)
	says, met := l.Compare(s.Focus)
	return indented(out, map[string]any{
		"regions": of(l.Regions), "spine": of(l.Directions), "sides": of([]ledger.Entry{l.Right, l.Left, l.Both}), "load": l.Load, "about": l.About(), "says": says, "focus_met": met,
	})
}

// days does a verb on every day of a series that has its session inline.
func days(name string, s *plan.Series, lib *movement.Library, out io.Writer) error {
	type day struct {
		Day      int                `json:"day"`
		Date     string             `json:"date"`
		Title    string             `json:"title"`
		Timeline *timeline.Timeline `json:"timeline,omitempty"`
		Findings []review.Finding   `json:"findings,omitempty"`
	}
	list := []day{}
	for i, d := range s.Days {
		if d.Session == nil {
			continue
		}
		tl, err := timeline.Build(d.Session, lib)
		if err != nil {
			return fmt.Errorf("day %d: %w", i+1, err)
		}
		o := day{Day: i + 1, Date: s.Date(i).Format(time.DateOnly), Title: d.Session.Title}
		if name == "timeline" {
			o.Timeline = tl
		} else {
			o.Findings = review.Check(d.Session, tl, lib, review.DefaultLimits())
		}
		list = append(list, o)
	}
	return indented(out, map[string]any{"days": list})
}

// fit writes the session brought to a length. When it cannot be reached nothing is written but why.
func fit(s *plan.Session, to string, lib *movement.Library, out io.Writer) error {
	target := s.Target
	if to != "" {
		sp, err := clock.Parse(to)
		if err != nil {
			return fmt.Errorf("--to: %w", err)
		}
		target = sp
	}
	if target <= 0 {
		return errors.New("fit: the session promises no length: say one with --to 20:00")
	}
	f, err := solve.Fit(s, lib, target)
	if err != nil {
		return err
	}
	if !f.Reached {
		return errors.New(f.Says)
	}
	f.Session.Target = target
	return gated(f.Session, lib, out)
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

type levelOut struct {
	Level      int             `json:"level"`
	Changes    string          `json:"changes"`
	Demand     float64         `json:"demand"`
	DemandFrom string          `json:"demand_from"`
	Why        string          `json:"why"`
	PerRep     float64         `json:"seconds_per_rep"`
	Loads      []movement.Load `json:"loads"`
	Kit        []string        `json:"kit,omitempty"`
	Figure     string          `json:"figure"`
}

type movementOut struct {
	Slug    string               `json:"slug"`
	Name    string               `json:"name"`
	Also    []string             `json:"also,omitempty"`
	Posture movement.Posture     `json:"posture"`
	Sides   movement.Sides       `json:"sides"`
	Phase   string               `json:"phase"`
	Purpose string               `json:"purpose"`
	Dose    string               `json:"dose"`
	Spine   []movement.Direction `json:"spine,omitempty"`
	Regions map[string]float64   `json:"regions"`
	Levels  []levelOut           `json:"levels"`
	Words   *wordsOut            `json:"words,omitempty"`
	Gives   []string             `json:"gives_back,omitempty"`
}

type wordsOut struct {
	Setup  string `json:"setup"`
	Say    string `json:"say"`
	Breath string `json:"breath"`
	Watch  string `json:"watch"`
	Care   string `json:"care"`
}

func movementJSON(m *movement.Movement, whole bool) movementOut {
	o := movementOut{Slug: m.Slug, Name: m.Name, Also: m.Also, Posture: m.Posture, Sides: m.Sides, Phase: m.Phase, Purpose: m.Purpose, Dose: m.Dose.String(), Spine: m.Spine, Regions: m.Regions, Gives: m.Gives}
	for i := range m.Levels {
		l := &m.Levels[i]
		o.Levels = append(o.Levels, levelOut{i + 1, l.Changes, l.Demand, l.DemandFrom(), l.Why, m.SecondsPerRep(i + 1).Seconds(), m.Bears(i + 1), m.Things(i + 1), l.Figure})
	}
	if whole {
		o.Words = &wordsOut{m.Setup, m.Say, m.Breath, m.Watch, m.Care}
	}
	return o
}

func movements(args []string, lib *movement.Library, out io.Writer) error {
	switch len(args) {
	case 0:
		list := []movementOut{}
		for _, m := range lib.All() {
			list = append(list, movementJSON(m, false))
		}
		return indented(out, map[string]any{"movements": list})
	case 1:
		m, ok := lib.Get(args[0])
		if !ok {
			return fmt.Errorf("no movement %q in the library", args[0])
		}
		return indented(out, movementJSON(m, true))
	}
	return errors.New("movements: expected no slug, or one")
}

// figures writes every pose at two sizes, to be looked at; a pose with complaints says so.
func figures(out io.Writer) error {
	var b strings.Builder
	b.WriteString(`<!doctype html><meta charset="utf-8"><title>Figures</title><style>body{font:11px sans-serif;color:#1c2630}main{display:grid;grid-template-columns:repeat(auto-fill,160px);gap:12px}div{background:#f4f5f6;--paper:#f4f5f6}svg{display:block}</style><main>`)
	for _, name := range body.Poses().Names() {
		p, _ := body.Poses().Pose(name)
		f := body.Solve(p)
		fmt.Fprintf(&b, `<figure><div>%s</div><div style="width:46px">%s</div>%s %s</figure>`, draw.Figure(f, 160, 110, nil, "", name), draw.Figure(f, 46, 30, nil, "", ""), html.EscapeString(name), html.EscapeString(strings.Join(f.Complaints(), "; ")))
	}
	b.WriteString("</main>\n")
	_, err := io.WriteString(out, b.String())
	return err
}

package main

import (
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"strings"

	"wavekine/core/plan"
)

// importVerb reads a session from a table, a text or a document.
var importVerb = verb{
	name: "import", args: "--from csv|text|json [--report] FILE", says: "the session that a table, a text or a document means",
	flags: func(f *flag.FlagSet, o *options) {
		f.StringVar(&o.from, "from", "", "csv, text or json")
		f.BoolVar(&o.report, "report", false, "of a text: what became of each line")
	},
	run: func(c *job) error {
		text, err := c.text()
		if err != nil {
			return err
		}
		return imported(c, text)
	},
}

// imported writes the session that a table, a text or a document means. A text is never refused: a line that was not understood stands as a note to
// mend. When a line of a table was not understood, all such lines are named in the error and nothing is written.
func imported(c *job, text []byte) error {
	from := c.opt.from
	if from == "" {
		return fmt.Errorf("import --from %q: expected csv, text or json", from)
	}
	in, err := plan.Import(c.ctx, text, from, c.lib, plan.Style{})
	if err != nil {
		return err
	}
	if c.opt.report {
		if from != "text" {
			return errors.New("--report tells of the lines of a text: import --from text")
		}
		return json.NewEncoder(c.out).Encode(struct {
			Session *plan.Session     `json:"session"`
			Lines   []plan.LineReport `json:"lines"`
		}{in.Session, in.Lines})
	}
	if in.Bad != nil && from != "text" {
		bad := make([]string, len(in.Bad))
		for i, l := range in.Bad {
			bad[i] = fmt.Sprintf("line %d: %v", l.N, l.Err)
		}
		return fmt.Errorf("%d lines were not understood, nothing was written\n%s", len(bad), strings.Join(bad, "\n"))
	}
	return gated(in.Session, c.lib, c.out)
}

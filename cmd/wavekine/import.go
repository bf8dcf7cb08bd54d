package main

import (
	"flag"
	"fmt"
	"strings"

	"wavekine/core/plan"
)

// importVerb reads a session from a table, a text or a document.
var importVerb = verb{
	name: "import", args: "--from csv|text|json FILE", says: "the session that a table, a text or a document means",
	flags: func(f *flag.FlagSet, o *options) { f.StringVar(&o.from, "from", "", "csv, text or json") },
	run: func(c *job) error {
		text, err := c.text()
		if err != nil {
			return err
		}
		return imported(c, text)
	},
}

// imported writes the session that a table, a text or a document means. When a line was not understood, all such lines are
// named in the error and nothing is written.
func imported(c *job, text []byte) error {
	from := c.opt.from
	if from == "" {
		return fmt.Errorf("import --from %q: expected csv, text or json", from)
	}
	in, err := plan.Import(c.ctx, text, from, c.lib, plan.Style{})
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
	return gated(in.Session, c.lib, c.out)
}

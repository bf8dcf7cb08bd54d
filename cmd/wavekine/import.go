package main

import (
	"flag"
	"fmt"
	"io"
	"strings"

	"wavekine/core/movement"
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
		return imported(text, c.opt.from, c.lib, c.out)
	},
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

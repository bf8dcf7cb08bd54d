// Command wavekine serves the web application, and does the core's work on files; without a verb it lists them.
//
// FILE is a wavekine.session/1 or wavekine.series/1 document; - is standard input. Results go to standard output, errors
// to standard error with a non-zero exit.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"
	_ "time/tzdata" // time zones are there without the system's own

	"wavekine/core/movement"
)

// verb is one thing the program does; each has a file of its own.
type verb struct {
	name, args, says string
	flags            func(*flag.FlagSet, *options)
	run              func(*job) error
	bare             bool // it needs no library
}

// verbs are all of them, as they are listed.
func verbs() []verb {
	return []verb{
		serveVerb, demoVerb, migrateVerb, linkVerb, timelineVerb, checkVerb, rulesVerb, fitVerb, orderVerb, ledgerVerb, movementsVerb, importVerb, exportVerb, figuresVerb, seriesVerb, adaptVerb, simulateVerb,
	}
}

// options are what the flags of a verb say.
type options struct {
	as, to, from, who string
	day               int
	run               string  // a file
	offset, film      float64 // seconds
	watch             string
	level             int
	movers, days      int
	seed              int64
	report, read      bool
	with              []string // files of own movements
}

// job is a verb being done.
type job struct {
	ctx  context.Context
	name string
	args []string
	opt  options
	in   io.Reader
	out  io.Writer
	lib  *movement.Library
}

func main() {
	if err := run(os.Args[1:], os.Stdin, os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "wavekine:", err)
		os.Exit(1)
	}
}

// usage lists the verbs.
func usage() string {
	var b strings.Builder
	b.WriteString("expected a verb:")
	for _, v := range verbs() {
		fmt.Fprintf(&b, "\n  %-9s %-44s %s", v.name, v.args, v.says)
	}
	b.WriteString("\nFILE is a document, - standard input; --with FILE adds an own movement.")
	return b.String()
}

func run(args []string, in io.Reader, out io.Writer) error {
	if len(args) == 0 {
		return errors.New(usage())
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	context.AfterFunc(ctx, stop) // a second Ctrl-C does not wait
	for _, v := range verbs() {
		if v.name == args[0] {
			return v.do(ctx, args[1:], in, out)
		}
	}
	return fmt.Errorf("%q is not a command: %s", args[0], usage())
}

// do reads the flags of a verb and does it.
func (v verb) do(ctx context.Context, args []string, in io.Reader, out io.Writer) error {
	c := &job{ctx: ctx, name: v.name, in: in, out: out}
	flags := flag.NewFlagSet(v.name, flag.ContinueOnError)
	flags.SetOutput(io.Discard)
	flags.Func("with", "a studio's own movement, a wavekine.movement/1 file; as often as there are", func(f string) error {
		c.opt.with = append(c.opt.with, f)
		return nil
	})
	if v.flags != nil {
		v.flags(flags, &c.opt)
	}
	if err := flags.Parse(args); err != nil {
		return err
	}
	c.args = flags.Args()
	if !v.bare {
		var err error
		if c.lib, err = libraryWith(c.opt.with); err != nil {
			return err
		}
	}
	return v.run(c)
}

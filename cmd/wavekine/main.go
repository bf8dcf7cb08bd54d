// Command wavekine serves the web application, and does the core's work on files:
//
//	wavekine serve                       the web application (DATABASE_URL, PORT)
//	wavekine demo | migrate              load the demo studio if there is none | only migrate
//	wavekine timeline FILE               the timeline of a session as JSON
//	wavekine check FILE                  the second look as JSON
//	wavekine fit [--to 20:00] FILE       the session fitted to a length
//	wavekine order FILE                  the session in the order that changes position least
//	wavekine movements [SLUG]            the library, or one movement whole
//	wavekine export --as ics|csv|markdown FILE
//	wavekine figures                     a contact sheet of every pose, as HTML
//
// FILE is a wavekine.session/1 or wavekine.series/1 document; - is standard input. Results go to
// standard output, errors to standard error with a non-zero exit.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"regexp"
	"strings"
	"syscall"
	"time"
	_ "time/tzdata" // time zones are there without the system's own

	"wavekine/demo"
	"wavekine/store"
	"wavekine/web"
)

func main() {
	if err := run(os.Args[1:], os.Stdin, os.Stdout); err != nil {
		fmt.Fprintln(os.Stderr, "wavekine:", err)
		os.Exit(1)
	}
}

const usage = "expected one of: serve, demo, migrate, timeline FILE, check FILE, fit [--to 20:00] FILE, order FILE, ledger FILE, movements [SLUG], import --from csv|text|json FILE, export --as ics|csv|markdown|pdf [--for mover] FILE, figures; --with FILE adds an own movement"

func run(args []string, in io.Reader, out io.Writer) error {
	if len(args) == 0 {
		return errors.New(usage)
	}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	switch args[0] {
	case "serve":
		return serve(ctx, out)
	case "demo", "migrate":
		st, err := open(ctx)
		if err != nil {
			return err
		}
		defer st.Close()
		if args[0] == "migrate" {
			return nil
		}
		made, err := demo.Load(ctx, st, time.Now(), web.HashPassword)
		if made {
			fmt.Fprintln(out, "The demo studio is loaded.")
		}
		return err
	case "timeline", "check", "fit", "order", "ledger", "movements", "import", "export", "figures":
		return verb(args[0], args[1:], in, out)
	}
	return fmt.Errorf("%q is not a command: %s", args[0], usage)
}

// open connects to the database and brings it up to date.
func open(ctx context.Context) (*store.Store, error) {
	url := os.Getenv("DATABASE_URL")
	if url == "" {
		return nil, errors.New("DATABASE_URL is not set: start with make run, which sets it")
	}
	st, err := store.Open(ctx, url, 10)
	if err != nil {
		return nil, err
	}
	if _, err := st.Migrate(ctx); err != nil {
		st.Close()
		return nil, err
	}
	return st, nil
}

var portNumber = regexp.MustCompile(`^[0-9]{1,5}$`)

func serve(ctx context.Context, out io.Writer) error {
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, nil)))
	port := os.Getenv("PORT")
	if port == "" {
		port = "8080"
	}
	if !portNumber.MatchString(port) {
		return fmt.Errorf("PORT is %q: expected a number", port)
	}
	ln, err := net.Listen("tcp", "127.0.0.1:"+port)
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %s is taken by another program: choose another with PORT=8090 make run", port)
	}
	if err != nil {
		return err
	}
	st, err := open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	opt := web.Options{Secure: os.Getenv("WAVEKINE_SECURE") == "1"}
	if _, err := st.TeacherByEmail(ctx, demo.Email); err == nil {
		opt.Demo = fmt.Sprintf("The demo studio: %s, password %s", demo.Email, demo.Password)
	}
	h, err := web.New(st, opt)
	if err != nil {
		return err
	}
	go st.CleanSessions(ctx, 10*time.Minute)
	srv := &http.Server{
		Handler: h, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
	}
	fmt.Fprintf(out, "\nWavekine is at http://127.0.0.1:%s\n", port)
	if opt.Demo != "" {
		fmt.Fprintf(out, "%s (or %s with the same password)\n", opt.Demo, demo.Second)
	} else {
		fmt.Fprintln(out, "Open it to make the first studio, or sign in.")
	}
	fmt.Fprintln(out, strings.TrimSpace("Ctrl-C stops it; the data stays."))
	go func() {
		<-ctx.Done()
		sctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		_ = srv.Shutdown(sctx)
	}()
	if err := srv.Serve(ln); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

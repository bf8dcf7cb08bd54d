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
	"regexp"
	"strings"
	"syscall"
	"time"

	"wavekine/demo"
	"wavekine/store"
	"wavekine/web"
	"wavekine/web/kit"
)

// serveVerb serves the web application.
var serveVerb = verb{name: "serve", bare: true, says: "the web application (DATABASE_URL, PORT, WAVEKINE_SECURE=1 behind TLS)", run: func(c *job) error { return serve(c.ctx, c.out) }}

// migrateVerb brings the database up to date.
var migrateVerb = verb{name: "migrate", bare: true, says: "only bring the database up to date", run: func(c *job) error {
	st, err := open(c.ctx)
	if err == nil {
		st.Close()
	}
	return err
}}

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
	opt := kit.Options{Secure: os.Getenv("WAVEKINE_SECURE") == "1"}
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

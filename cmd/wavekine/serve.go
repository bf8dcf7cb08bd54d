package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"regexp"
	"strings"
	"syscall"
	"time"

	"wavekine/demo"
	"wavekine/post"
	"wavekine/store"
	"wavekine/web"
	"wavekine/web/kit"
)

// serveVerb serves the web application.
var serveVerb = verb{name: "serve", bare: true, says: "the web application; its settings are in docs/running.md", run: func(c *job) error { return serve(c.ctx, c.out) }}

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

// settings are what the environment says about serving; docs/running.md lists them.
type settings struct {
	port, metrics string
	web           kit.Options
	letters       letters
}

// letters are how the post goes.
type letters struct {
	key, address, dir string
	server            *post.Server
}

func readLetters() (l letters, err error) {
	l = letters{key: os.Getenv("WAVEKINE_LETTER_KEY"), address: os.Getenv("WAVEKINE_ADDRESS"), dir: os.Getenv("WAVEKINE_LETTERS")}
	if l.address != "" {
		if u, err := url.Parse(l.address); err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" {
			return l, fmt.Errorf("WAVEKINE_ADDRESS is %q: expected how movers reach the site, such as https://studio.example.org", l.address)
		}
	}
	if s := os.Getenv("WAVEKINE_SMTP"); s != "" {
		if l.server, err = post.ParseServer(s, os.Getenv("WAVEKINE_SMTP_FROM")); err != nil {
			return l, fmt.Errorf("WAVEKINE_SMTP, WAVEKINE_SMTP_FROM: %w", err) // never the value: it holds a password
		}
	}
	return l, nil
}

func readSettings() (s settings, err error) {
	s = settings{port: cmp.Or(os.Getenv("PORT"), "8080"), metrics: os.Getenv("WAVEKINE_METRICS")}
	if !portNumber.MatchString(s.port) {
		return s, fmt.Errorf("PORT is %q: expected a number", s.port)
	}
	switch v := os.Getenv("WAVEKINE_SECURE"); v {
	case "", "0":
	case "1":
		s.web.Secure = true
	default:
		return s, fmt.Errorf("WAVEKINE_SECURE is %q: expected 1 where the site is reached over https, else nothing", v)
	}
	for _, p := range strings.FieldsFunc(os.Getenv("WAVEKINE_PROXIES"), func(r rune) bool { return r == ',' || r == ' ' }) {
		if _, err := netip.ParseAddr(p); err != nil {
			if _, err := netip.ParsePrefix(p); err != nil {
				return s, fmt.Errorf("WAVEKINE_PROXIES has %q: expected addresses or ranges such as 127.0.0.1, 10.0.0.0/8", p)
			}
		}
		s.web.Proxies = append(s.web.Proxies, p)
	}
	if s.metrics != "" {
		if _, _, err := net.SplitHostPort(s.metrics); err != nil {
			return s, fmt.Errorf("WAVEKINE_METRICS is %q: expected an address of its own such as 127.0.0.1:9180", s.metrics)
		}
	}
	s.letters, err = readLetters()
	return s, err
}

// lettersEvery is how often the post looks for letters that are due; judgement.
const (
	lettersEvery = 5 * time.Second
	roundEvery   = 10 * time.Minute
)

// finishIn is how long requests that are being answered may take when the program is told to stop.
const finishIn = 10 * time.Second

func serve(ctx context.Context, out io.Writer) error {
	slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, nil)))
	set, err := readSettings()
	if err != nil {
		return err
	}
	ln, err := net.Listen("tcp", "127.0.0.1:"+set.port)
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %s is taken by another program: choose another with PORT=8090 make run", set.port)
	}
	if err != nil {
		return err
	}
	defer func() { _ = ln.Close() }()
	st, err := open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	if _, _, err := st.TeacherByEmail(ctx, demo.Email, ""); err == nil {
		set.web.Demo = fmt.Sprintf("The demo studio: %s, password %s", demo.Email, demo.Password)
	}
	if set.web.Post, err = post.Open(st, set.letters.key, set.letters.address, set.letters.dir, set.letters.server); err != nil {
		return err
	}
	set.web.Post.Local = "http://127.0.0.1:" + set.port
	h, err := web.New(st, set.web)
	if err != nil {
		return err
	}
	go st.CleanUp(ctx, 10*time.Minute)
	go set.web.Post.Run(ctx, lettersEvery)
	go h.Rounds(ctx, roundEvery)
	servers := []*http.Server{server(h)}
	servers[0].RegisterOnShutdown(h.Stop)
	ended := make(chan error, 2)
	go func() { ended <- servers[0].Serve(ln) }()
	if set.metrics != "" {
		mln, err := net.Listen("tcp", set.metrics)
		if err != nil {
			return fmt.Errorf("WAVEKINE_METRICS: %w", err)
		}
		servers = append(servers, server(h.Metrics))
		go func() { ended <- servers[1].Serve(mln) }()
	}
	fmt.Fprintf(out, "\nWavekine is at http://%s\n", ln.Addr())
	if set.web.Demo != "" {
		fmt.Fprintf(out, "%s (or %s with the same password)\n", set.web.Demo, demo.Second)
	} else {
		fmt.Fprintln(out, "Open it to make the first studio, or sign in.")
	}
	fmt.Fprintln(out, strings.TrimSpace("Ctrl-C stops it; the data stays."))
	select {
	case err := <-ended:
		return err
	case <-ctx.Done():
	}
	return finish(servers)
}

func server(h http.Handler) *http.Server {
	return &http.Server{
		Handler: h, ReadHeaderTimeout: 5 * time.Second, ReadTimeout: 30 * time.Second, WriteTimeout: 60 * time.Second,
		IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
	}
}

// finish takes no new request, and waits for those that are being answered.
func finish(servers []*http.Server) error {
	ctx, cancel := context.WithTimeout(context.Background(), finishIn)
	defer cancel()
	var errs []error
	for _, s := range servers {
		if err := s.Shutdown(ctx); err != nil {
			errs = append(errs, fmt.Errorf("some requests were not finished after %s: %w", finishIn, err), s.Close())
		}
	}
	return errors.Join(errs...)
}

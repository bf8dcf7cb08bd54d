package storetest

import (
	"context"
	"io"
	"net"
	"net/url"
	"strconv"
	"sync"
	"testing"

	"wavekine/store"
)

// Frozen is a way to a database that can be frozen: the connections stay, and nothing comes through any more, as when a
// server hangs, its disk is full or the network swallows what is sent.
type Frozen struct {
	mu       sync.Mutex
	thaw     chan struct{} // nil: nothing is frozen
	asksPass bool          // only answers are held
	conns    []net.Conn
}

// Through opens the database of a store once more, through a way that can be frozen.
func Through(t testing.TB, st *store.Store) (*store.Store, *Frozen) {
	t.Helper()
	cfg := st.Pool.Config().ConnConfig
	to := net.JoinHostPort(cfg.Host, strconv.Itoa(int(cfg.Port)))
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	f := &Frozen{}
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			s, err := net.Dial("tcp", to)
			if err != nil {
				_ = c.Close()
				continue
			}
			f.mu.Lock()
			f.conns = append(f.conns, c, s)
			f.mu.Unlock()
			go f.carry(s, c, false)
			go f.carry(c, s, true)
		}
	}()
	u, err := url.Parse(cfg.ConnString())
	if err != nil {
		t.Fatal(err)
	}
	u.Host = ln.Addr().String()
	out, err := store.Open(context.Background(), u.String(), 6)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		f.Thaw()
		_ = ln.Close()
		f.mu.Lock()
		for _, c := range f.conns {
			_ = c.Close()
		}
		f.mu.Unlock()
		out.Close()
	})
	return out, f
}

// carry passes on what comes, but for while it is frozen.
func (f *Frozen) carry(to, from net.Conn, answers bool) {
	defer func() { _ = to.Close() }()
	buf := make([]byte, 32<<10)
	for {
		n, err := from.Read(buf)
		f.mu.Lock()
		wait, holds := f.thaw, answers || !f.asksPass
		f.mu.Unlock()
		if wait != nil && holds {
			<-wait
		}
		if n > 0 {
			if _, err := to.Write(buf[:n]); err != nil {
				return
			}
		}
		if err != nil {
			if err != io.EOF {
				_ = from.Close()
			}
			return
		}
	}
}

// Freeze lets nothing through until Thaw.
func (f *Frozen) Freeze() { f.freeze(false) }

// FreezeAnswers lets what is asked through, but no answer: what is written is kept, and nobody hears of it.
func (f *Frozen) FreezeAnswers() { f.freeze(true) }

func (f *Frozen) freeze(asksPass bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.asksPass = asksPass; f.thaw == nil {
		f.thaw = make(chan struct{})
	}
}

// Thaw lets everything through again, what waited first.
func (f *Frozen) Thaw() {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.thaw != nil {
		close(f.thaw)
		f.thaw = nil
	}
}

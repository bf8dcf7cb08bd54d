// Package room is the room's screen: a second screen that follows a class while it is led, opened by a short code, without signing in, and only to look at.
package room

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

//go:embed *.html *.js
var files embed.FS

// Limits of what a page that leads may tell, and how often codes may be tried from one address. Judgement: with 25 letters in six places a guess that is right takes
// years at that rate.
const (
	mostClass = 1 << 20
	mostState = 32 << 10
	pulse     = 15 * time.Second // a screen is told that the line stands, and the line is looked after
	writeIn   = 10 * time.Second
)

var (
	wrongCodes = store.Limit{Burst: 12, Every: 20 * time.Second}
	guessing   = "Too many codes were tried from here. Wait a little and try again."
)

// Screen is the room's screen.
var Screen = kit.Screen{
	Files: files,
	Routes: func(a *kit.Kit, in gin.IRoutes) {
		in.POST("/sessions/:id/room", a.With(open))
		in.POST("/rooms/:code", a.With(tell))
	},
	Open: func(a *kit.Kit, door gin.IRoutes) {
		door.GET("/room", func(c *gin.Context) { ask(a, c, http.StatusOK, "") })
		door.POST("/room", func(c *gin.Context) { enter(a, c) })
		door.GET("/room/:code", func(c *gin.Context) { show(a, c) })
	},
	Free: func(a *kit.Kit, r gin.IRoutes) {
		h := &hub{store: a.Store, screens: map[*screen]bool{}}
		r.GET("/room/:code/live", func(c *gin.Context) { live(a, h, c) })
	},
}

func says(c *gin.Context, status int, words string) {
	c.AbortWithStatusJSON(status, gin.H{"error": words})
}

// body reads what a page that leads sends, as JSON of at most so many bytes into what it is read into.
func body(c *gin.Context, most int64, into any) bool {
	text, err := io.ReadAll(io.LimitReader(c.Request.Body, most+1))
	if err != nil || int64(len(text)) > most {
		says(c, http.StatusRequestEntityTooLarge, fmt.Sprintf("more than the %d KB that a screen in the room takes", most>>10))
		return false
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		says(c, http.StatusUnprocessableEntity, "that is not what a page that leads sends: "+err.Error())
		return false
	}
	return true
}

func object(raw json.RawMessage) bool { return len(raw) > 1 && raw[0] == '{' }

// open says that a class is led, and gives the code of its room. Where another page leads it, that is said: who, since when and where to follow.
func open(a *kit.Kit, c *gin.Context) {
	var in struct {
		Tab   string          `json:"tab"`
		Take  bool            `json:"take"`
		Class json.RawMessage `json:"class"`
	}
	id := c.Param("id")
	if err := a.ThereIs(c, id); err != nil {
		if errors.Is(err, store.ErrNotFound) {
			says(c, http.StatusNotFound, "this session is not there")
			return
		}
		a.Fail(c, err)
		return
	}
	if !body(c, mostClass, &in) {
		return
	}
	if len(in.Tab) < 8 || len(in.Tab) > 64 || !object(in.Class) {
		says(c, http.StatusUnprocessableEntity, "it does not say which page leads, or what class")
		return
	}
	w := kit.Who(c)
	r, err := a.Store.OpenRoom(c.Request.Context(), store.Room{StudioID: w.Studio.ID, TeacherID: w.Teacher.ID, SessionID: id, Leader: in.Tab, Class: in.Class}, in.Take)
	switch {
	case errors.Is(err, store.ErrLed):
		c.JSON(http.StatusOK, gin.H{"led": true, "who": r.Teacher, "code": r.Code, "state": aged(&r)}) // no error: it is what is asked
	case err != nil:
		a.Fail(c, err)
	default:
		c.JSON(http.StatusOK, gin.H{"code": r.Code, "state": r.State})
	}
}

// tell takes in what is on.
func tell(a *kit.Kit, c *gin.Context) {
	var in struct {
		Tab   string          `json:"tab"`
		State json.RawMessage `json:"state"`
		Ended bool            `json:"ended"`
	}
	if !body(c, mostState, &in) {
		return
	}
	if !object(in.State) {
		says(c, http.StatusUnprocessableEntity, "it does not say what is on")
		return
	}
	if !isCode(c.Param("code")) {
		says(c, http.StatusNotFound, "there is no such room")
		return
	}
	switch err := a.Store.TellRoom(c.Request.Context(), kit.Who(c).Studio.ID, c.Param("code"), in.Tab, in.State, in.Ended); {
	case errors.Is(err, store.ErrRoomGone):
		c.JSON(http.StatusOK, gin.H{"gone": true})
	case err != nil:
		a.Fail(c, err)
	default:
		c.Status(http.StatusNoContent)
	}
}

// said is a code as it was typed: small letters and spaces are as good.
func said(code string) string {
	return strings.ToUpper(strings.Map(func(r rune) rune {
		if r == ' ' || r == '-' {
			return -1
		}
		return r
	}, code))
}

// isCode tells whether a text can be a code at all.
func isCode(code string) bool {
	return len(code) > 0 && len(code) <= 12 && !strings.ContainsFunc(code, func(r rune) bool { return (r < 'A' || r > 'Z') && (r < '0' || r > '9') })
}

// find finds the room of a code. A wrong one is counted against the address it comes from; wait is how long until another may be tried.
func find(ctx context.Context, a *kit.Kit, c *gin.Context, code string) (r store.Room, wait time.Duration, err error) {
	code = said(code)
	if isCode(code) {
		if r, err = a.Store.RoomBy(ctx, code); !errors.Is(err, store.ErrNotFound) {
			return r, 0, err
		}
	}
	wait, err = a.Store.Take(ctx, "room "+kit.AddressKey(c.ClientIP()), wrongCodes)
	if err == nil {
		err = store.ErrNotFound
	}
	return r, wait, err
}

// aged is what was told of a room, with how many milliseconds ago that was: a screen that comes later goes on from there.
func aged(r *store.Room) json.RawMessage {
	var st map[string]json.RawMessage
	if json.Unmarshal(r.State, &st) != nil || len(st) == 0 {
		return json.RawMessage("{}")
	}
	st["age"] = json.RawMessage(strconv.FormatInt(r.Age, 10))
	b, err := json.Marshal(st)
	if err != nil {
		return json.RawMessage("{}")
	}
	return b
}

func ask(a *kit.Kit, c *gin.Context, status int, words string) {
	c.Header("Referrer-Policy", "no-referrer")
	a.Render(c, status, "room-code", "layout", kit.Page{Title: "Room's screen", Theme: "studio", Nav: "none", Data: gin.H{"Says": words, "Code": typed(c.PostForm("code"))}})
}

// typed is what was typed, as it is shown again.
func typed(code string) string {
	if len(code) > 20 {
		code = code[:20]
	}
	return strings.ToValidUTF8(code, "")
}

func enter(a *kit.Kit, c *gin.Context) {
	r, wait, err := find(c.Request.Context(), a, c, c.PostForm("code"))
	switch {
	case wait > 0:
		ask(a, c, http.StatusTooManyRequests, guessing)
	case errors.Is(err, store.ErrNotFound):
		ask(a, c, http.StatusNotFound, "No class is led under this code now. It stands on the page that leads, under Room's screen; look at it again.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/room/"+r.Code)
	}
}

func show(a *kit.Kit, c *gin.Context) {
	r, wait, err := find(c.Request.Context(), a, c, c.Param("code"))
	switch {
	case wait > 0:
		ask(a, c, http.StatusTooManyRequests, guessing)
	case errors.Is(err, store.ErrNotFound):
		ask(a, c, http.StatusNotFound, "No class is led under this code now: it has ended, or the code is another.")
	case err != nil:
		a.Fail(c, err)
	default:
		c.Header("Referrer-Policy", "no-referrer")
		c.Header("X-Robots-Tag", "noindex")
		a.Render(c, http.StatusOK, "room", "layout", kit.Page{Title: "Room's screen", Theme: "studio", Nav: "none", Scripts: []string{"js/view.js", "js/room.js"}, Data: gin.H{"code": r.Code, "class": r.Class, "state": aged(&r)}})
	}
}

// hub wakes the screens that hang on this instance. It listens to the database while there is one.
type hub struct {
	store   *store.Store
	mu      sync.Mutex
	screens map[*screen]bool
	stop    context.CancelFunc
}

// screen is one that follows.
type screen struct {
	code string
	wake chan struct{} // of one: what was told meanwhile is read at once
}

func (h *hub) add(s *screen) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.screens[s] = true
	if len(h.screens) == 1 {
		ctx, stop := context.WithCancel(context.Background())
		h.stop = stop
		go h.store.ListenRooms(ctx, h.told)
	}
}

func (h *hub) remove(s *screen) {
	h.mu.Lock()
	defer h.mu.Unlock()
	delete(h.screens, s)
	if len(h.screens) == 0 {
		h.stop()
	}
}

// told wakes the screens of a room; of all where no code is said.
func (h *hub) told(code string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s := range h.screens {
		if code == "" || s.code == code {
			select {
			case s.wake <- struct{}{}:
			default:
			}
		}
	}
}

// live tells a screen what is on, as it is told, over Server-Sent Events.
func live(a *kit.Kit, h *hub, c *gin.Context) {
	ctx := c.Request.Context()
	r, wait, err := find(ctx, a, c, c.Param("code"))
	switch {
	case wait > 0:
		c.Status(http.StatusTooManyRequests)
		return
	case errors.Is(err, store.ErrNotFound):
		c.Status(http.StatusNotFound)
		return
	case err != nil:
		c.Status(http.StatusServiceUnavailable)
		return
	}
	s := &screen{r.Code, make(chan struct{}, 1)}
	h.add(s)
	defer h.remove(s)
	head := c.Writer.Header()
	head.Set("Content-Type", "text/event-stream")
	head.Set("Cache-Control", "no-store")
	head.Set("X-Accel-Buffering", "no")
	c.Writer.WriteHeaderNow()
	rc := http.NewResponseController(c.Writer)
	send := func(event string, data []byte) bool {
		_ = rc.SetWriteDeadline(time.Now().Add(writeIn))
		var err error
		if event == "" {
			_, err = io.WriteString(c.Writer, ": here\n\n")
		} else {
			_, err = fmt.Fprintf(c.Writer, "event: %s\ndata: %s\n\n", event, data)
		}
		return err == nil && rc.Flush() == nil
	}
	var class []byte
	seq := int64(-1)
	tick := time.NewTicker(pulse)
	defer tick.Stop()
	for {
		r, err = a.Store.RoomBy(ctx, s.code)
		switch {
		case ctx.Err() != nil:
			return
		case errors.Is(err, store.ErrNotFound):
			send("ended", []byte("{}"))
			return
		case err != nil: // the database is away: the screen goes on by itself, and is told when it is back
			if !send("", nil) {
				return
			}
		default:
			if !bytes.Equal(class, r.Class) {
				class = r.Class
				if !send("class", oneLine(r.Class)) {
					return
				}
			}
			if r.Seq != seq {
				seq = r.Seq
				if !send("state", aged(&r)) {
					return
				}
			} else if !send("", nil) {
				return
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-a.Stopping:
			return
		case <-s.wake:
		case <-tick.C:
		}
	}
}

// oneLine is JSON without line breaks, as an event's data needs it.
func oneLine(raw json.RawMessage) []byte {
	var b bytes.Buffer
	if json.Compact(&b, raw) != nil {
		return []byte("{}")
	}
	return b.Bytes()
}

package series

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"wavekine/store"
	"wavekine/web/kit"
)

// Judgement constants of laying in the background.
const (
	atOnce      = 250 * time.Millisecond // what is laid by then needs no progress
	longestLay  = time.Minute            // nothing is laid for longer
	jobKept     = 5 * time.Minute        // after which an answer that nobody fetched is forgotten
	layTogether = 4                      // series laid at once by all teachers; the others wait
)

var errStopped = errors.New("stopped")

// job is a series being laid.
type job struct {
	id      string
	teacher string
	ended   chan struct{}
	stop    context.CancelCauseFunc

	mu       sync.Mutex
	day, of  int
	to       string // the address of what was laid
	err      error
	finished time.Time
}

// jobs are the series that are being laid. A server that is started again has none: what was typed is still in its field.
type jobs struct {
	mu   sync.Mutex
	all  map[string]*job
	room chan struct{}
}

func newJobs() *jobs { return &jobs{all: map[string]*job{}, room: make(chan struct{}, layTogether)} }

// start lays in the background. A teacher lays one series at a time: what they began before is stopped.
func (js *jobs) start(teacher string, lay func(ctx context.Context, progress func(day, of int)) (to string, err error)) *job {
	ctx, stop := context.WithCancelCause(context.Background())
	ctx, cancel := context.WithTimeoutCause(ctx, longestLay, fmt.Errorf("it took longer than %s, and was stopped: ask for fewer days", longestLay))
	j := &job{id: store.NewID(), teacher: teacher, ended: make(chan struct{}), stop: stop}
	js.mu.Lock()
	for id, o := range js.all {
		o.mu.Lock()
		old := !o.finished.IsZero() && time.Since(o.finished) > jobKept
		o.mu.Unlock()
		if o.teacher == teacher {
			o.stop(errStopped)
		}
		if old {
			delete(js.all, id)
		}
	}
	js.all[j.id] = j
	js.mu.Unlock()
	go func() {
		defer cancel()
		var to string
		var err error
		select {
		case js.room <- struct{}{}:
			to, err = lay(ctx, func(day, of int) {
				j.mu.Lock()
				j.day, j.of = day, of
				j.mu.Unlock()
			})
			<-js.room
		case <-ctx.Done():
			err = context.Cause(ctx)
		}
		if cause := context.Cause(ctx); err != nil && cause != nil {
			err = cause
		}
		j.mu.Lock()
		j.to, j.err, j.finished = to, err, time.Now()
		j.mu.Unlock()
		close(j.ended)
	}()
	return j
}

// find is a teacher's own job.
func (js *jobs) find(teacher, id string) *job {
	js.mu.Lock()
	defer js.mu.Unlock()
	if j := js.all[id]; j != nil && j.teacher == teacher {
		return j
	}
	return nil
}

// layingView is how far a series has been laid.
type layingView struct {
	ID      string
	Day, Of int
}

// answer tells how far a job is, what was wrong, or goes to what was laid.
func (j *job) answer(a *kit.Kit, c *gin.Context) {
	j.mu.Lock()
	to, err, v, done := j.to, j.err, layingView{j.id, j.day, j.of}, !j.finished.IsZero()
	j.mu.Unlock()
	switch {
	case !done:
		c.Header("X-Fragment", "laying")
		a.Render(c, http.StatusOK, "serieslist", "laying", v)
	case errors.Is(err, errStopped):
		said := "Stopped. Nothing was kept; what you typed is still in its field."
		if v.Of > 0 {
			said = fmt.Sprintf("Stopped at day %d of %d. Nothing was kept; what you typed is still in its field.", v.Day, v.Of)
		}
		a.Problem(c, http.StatusOK, said)
	case err != nil:
		var trouble *layTrouble
		if errors.As(err, &trouble) {
			a.FailSave(c, trouble.err)
			return
		}
		a.Refuse(c, err)
	default:
		c.Header("HX-Redirect", to)
		c.Status(http.StatusOK)
	}
}

// layTrouble is an error of the store, which is not the teacher's.
type layTrouble struct{ err error }

func (t *layTrouble) Error() string { return t.err.Error() }

// laying shows how far a series has been laid.
func (js *jobs) laying(a *kit.Kit, c *gin.Context) {
	j := js.find(kit.Who(c).Teacher.ID, c.Param("job"))
	if j == nil {
		a.Problem(c, http.StatusNotFound, "That is not being laid any more. What you typed is still in its field: lay it again.")
		return
	}
	j.answer(a, c)
}

// stopLaying stops it; it is waited for, so that the answer says what came of it.
func (js *jobs) stopLaying(a *kit.Kit, c *gin.Context) {
	if j := js.find(kit.Who(c).Teacher.ID, c.Param("job")); j != nil {
		j.stop(errStopped)
		select {
		case <-j.ended:
		case <-time.After(2 * time.Second):
		}
	}
	js.laying(a, c)
}

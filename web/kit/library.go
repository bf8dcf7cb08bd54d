package kit

import (
	"context"
	"encoding/json"
	"log/slog"

	"github.com/gin-gonic/gin"

	"wavekine/core/movement"
	"wavekine/core/pace"
	"wavekine/store"
)

// studioLibrary is the library of a teacher of a studio, good as long as its revision is the newest. Keeping it only
// saves work: what is in it follows from the database, so that any number of instances may each have their own.
type studioLibrary struct {
	rev int
	lib *movement.Library
}

// maxLibraries bounds the memory of an instance that serves many teachers; judgement.
const maxLibraries = 200

// library is the library of the teacher who asks: the shipped one with the studio's own movements and
// changes, at the teacher's own pace.
func (a *Kit) library(c *gin.Context) *movement.Library {
	w := Who(c)
	if w == nil || w.Studio.Library == 0 {
		return movement.Shipped()
	}
	key := w.Studio.ID + " " + w.Teacher.ID
	if have, ok := a.libs.Get(key); ok && have.rev == w.Studio.Library {
		return have.lib
	}
	lib, err := a.readLibrary(c.Request.Context(), w.Studio.ID, w.Teacher.ID)
	if err != nil {
		slog.ErrorContext(c.Request.Context(), "library", "studio", w.Studio.ID, "err", err)
		if lib == nil {
			return movement.Shipped()
		}
	}
	a.libs.Add(key, studioLibrary{w.Studio.Library, lib})
	return lib
}

func (a *Kit) readLibrary(ctx context.Context, studio, teacher string) (*movement.Library, error) {
	rows, changed, err := a.Store.OwnMovements(ctx, studio)
	if err != nil {
		return nil, err
	}
	var own []movement.OwnVersion
	for _, r := range rows {
		m, err := movement.ReadOwn(r.Doc, movement.Shipped())
		if err != nil { // an own movement may lead to another own one: names are looked up among the shipped only
			slog.ErrorContext(ctx, "own movement", "studio", studio, "movement", r.ID, "version", r.Version, "err", err)
			continue
		}
		m.Slug, m.Base, m.Stamp = r.ID, r.ID, hashOf(r.Doc)
		own = append(own, movement.OwnVersion{Movement: m, Version: r.Version, Newest: r.Newest, Hidden: r.Hidden})
	}
	changes := ReadChanges(changed)
	paces, err := a.Store.Paces(ctx, studio, teacher)
	if err != nil {
		return nil, err
	}
	factors, behind := make(map[string]float64, len(paces)), 0
	for _, p := range paces {
		factors[p.Slug] = p.Pace
		if p.Pace > 0 {
			behind = max(behind, p.Runs)
		}
	}
	lib, err := movement.Shipped().With(own, changes)
	if lib != nil {
		lib = lib.At(pace.Personal(factors, behind))
	}
	return lib, err
}

// Fresh is the kit with the library as it is stored now: what a request has just stored of it is in it.
func (a *Kit) Fresh(c *gin.Context) (*Kit, error) {
	b := *a
	var err error
	b.Lib, err = a.readLibrary(c.Request.Context(), Who(c).Studio.ID, Who(c).Teacher.ID)
	if b.Lib == nil {
		return nil, err
	}
	return &b, nil
}

// LibraryOf is the library of a studio at nobody's own pace: for those who have not signed in.
func (a *Kit) LibraryOf(c *gin.Context, studio string) (*movement.Library, error) {
	return a.readLibrary(c.Request.Context(), studio, "")
}

// LibraryAt is LibraryOf for a studio whose library has a revision: it is kept as long as that is the newest.
func (a *Kit) LibraryAt(ctx context.Context, studio string, rev int) (*movement.Library, error) {
	if rev == 0 {
		return movement.Shipped(), nil
	}
	key := studio + " "
	if have, ok := a.libs.Get(key); ok && have.rev == rev {
		return have.lib, nil
	}
	lib, err := a.readLibrary(ctx, studio, "")
	if lib == nil {
		return nil, err
	}
	a.libs.Add(key, studioLibrary{rev, lib})
	return lib, nil
}

// ReadChanges are what a studio changed of shipped movements, by movement.
func ReadChanges(rows []store.MovementChange) map[string]movement.Change {
	out := make(map[string]movement.Change, len(rows))
	for _, r := range rows {
		var one movement.Change
		if err := json.Unmarshal(r.Change, &one); err == nil { // written by ChangeMovement only
			out[r.Slug] = one
		}
	}
	return out
}

// Bare makes a handler of one that needs no library.
func (a *Kit) Bare(do func(*Kit, *gin.Context)) gin.HandlerFunc {
	return func(c *gin.Context) { do(a, c) }
}

// With makes a handler of one that needs the studio's library: it gets an app of its own for the request.
func (a *Kit) With(do func(*Kit, *gin.Context)) gin.HandlerFunc {
	return func(c *gin.Context) {
		b := *a
		b.Lib = a.library(c)
		do(&b, c)
	}
}

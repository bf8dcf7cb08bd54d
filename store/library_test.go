package store_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/plan"
	"wavekine/store"
	"wavekine/store/storetest"
)

func TestOwnMovementsKeepEveryVersion(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	save := func(was int, doc string) (int, error) {
		return st.SaveMovement(ctx, "a", "own-x", "X", was, []byte(doc), "ta")
	}
	for was := range 3 {
		now, err := save(was, fmt.Sprintf(`{"v":%d}`, was+1))
		require.NoError(t, err)
		assert.Equal(t, was+1, now)
	}
	_, err := save(0, `{}`)
	assert.ErrorIs(t, err, store.ErrTaken)
	var c *store.Conflict
	_, err = save(2, `{}`)
	require.ErrorAs(t, err, &c)
	require.NoError(t, st.HideMovement(ctx, "a", "own-x", true))
	own, changes, err := st.OwnMovements(ctx, "a")
	require.NoError(t, err)
	require.Len(t, own, 3)
	assert.Empty(t, changes)
	for i, o := range own {
		assert.JSONEq(t, fmt.Sprintf(`{"v":%d}`, i+1), string(o.Doc))
		assert.Equal(t, i == 2, o.Newest)
		assert.True(t, o.Hidden)
	}
	other, _, err := st.OwnMovements(ctx, "b")
	require.NoError(t, err)
	assert.Empty(t, other)
	assert.Error(t, st.HideMovement(ctx, "b", "own-x", true))
	assert.Error(t, st.DeleteMovement(ctx, "b", "own-x"))
}

// withRow is a session with one movement.
func withRow(slug string) string {
	return fmt.Sprintf(`{"format":"wavekine.session/1","title":"T","sections":[{"title":"A","blocks":[{"rule":"straight","rows":[{"movement":%q}]}]}]}`, slug)
}

// A movement that something uses, or used in a revision that can be restored, stays.
func TestWhatUsesAMovement(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	lib := storetest.WithOwn(t, "own-x", "own-xy")
	again := func() {
		t.Helper()
		for _, id := range []string{"own-x", "own-xy"} {
			if _, err := st.SaveMovement(ctx, "a", id, id, 0, []byte(`{}`), "ta"); err != nil {
				require.ErrorIs(t, err, store.ErrTaken)
			}
		}
	}
	again()
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", storetest.Change(t, "ta", "new", withRow("own-xy~1"), lib)))
	require.NoError(t, st.DeleteMovement(ctx, "a", "own-x"), "a longer name is another movement")
	again()
	require.NoError(t, st.SaveTemplate(ctx, "a", "t", storetest.Sealed(t, withRow("own-x~1"), lib), "ta"))
	require.ErrorIs(t, st.DeleteMovement(ctx, "a", "own-x"), store.ErrUsed, "in a template")
	require.NoError(t, st.DeleteTemplate(ctx, "a", "t"))
	require.NoError(t, st.DeleteMovement(ctx, "a", "own-x"))
	again()
	series, err := plan.SealSeries(&plan.Series{Format: plan.SeriesFormat, Title: "S", Start: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC), Ladders: []plan.Ladder{{Movement: "own-x", Steps: []plan.Rung{{Level: 1}}}}}, lib)
	require.NoError(t, err)
	require.NoError(t, st.Series.Create(ctx, "a", "s", store.Change{Doc: series, Says: "new", By: "ta"}))
	require.ErrorIs(t, st.DeleteMovement(ctx, "a", "own-x"), store.ErrUsed, "in a ladder, without its version")

	_, err = st.Sessions.Save(ctx, "a", "p", 1, storetest.Change(t, "ta", "without", withRow("squat")))
	require.NoError(t, err)
	require.ErrorIs(t, st.DeleteMovement(ctx, "a", "own-xy"), store.ErrUsed, "an older revision can be restored, so it still counts")
	old, says, err := st.Sessions.Revision(ctx, "a", "p", 1)
	require.NoError(t, err)
	assert.JSONEq(t, withRow("own-xy~1"), string(old))
	assert.Equal(t, "new", says)
	_, _, err = st.Sessions.Revision(ctx, "a", "p", 9)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = st.Sessions.Revision(ctx, "b", "p", 2)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, st.DeleteMovement(ctx, "b", "own-xy"), store.ErrNotFound)
}

// A movement that is deleted at the moment it is used: one of the two is refused, in every race.
func TestDeletingWhatIsBeingUsed(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	lib := storetest.WithOwn(t, "own-x")
	require.NoError(t, st.Sessions.Create(ctx, "a", "p", storetest.Change(t, "ta", "new", withRow("squat"))))
	rev, deleted, saved := 1, 0, 0
	for i := range 40 {
		_, err := st.SaveMovement(ctx, "a", "own-x", "X", 0, []byte(`{}`), "ta")
		require.NoError(t, err)
		var wg sync.WaitGroup
		var del, put error
		id := fmt.Sprint("new", i)
		wg.Go(func() { del = st.DeleteMovement(ctx, "a", "own-x") })
		wg.Go(func() {
			c := storetest.Change(t, "ta", "with", withRow("own-x~1"), lib)
			switch i % 3 {
			case 0:
				_, put = st.Sessions.Save(ctx, "a", "p", rev, c)
			case 1:
				put = st.Sessions.Create(ctx, "a", id, c)
			case 2:
				put = st.SaveTemplate(ctx, "a", id, c.Doc, "ta")
			}
		})
		wg.Wait()
		var gone *store.GoneError
		switch {
		case del == nil:
			require.ErrorAs(t, put, &gone, "race %d: deleted, so nothing may use it", i)
			assert.Equal(t, "own-x", gone.Movement)
			deleted++
		default:
			require.ErrorIs(t, del, store.ErrUsed, "race %d", i)
			require.NoError(t, put, "race %d: used, so it stays", i)
			saved++
		}
		for _, q := range []string{`DELETE FROM plan_rows`, `DELETE FROM plan_revisions`, `DELETE FROM plans`, `DELETE FROM templates`, `DELETE FROM movement_versions`, `DELETE FROM movements`} {
			_, err = st.DB.Exec(q)
			require.NoError(t, err)
		}
		require.NoError(t, st.Sessions.Create(ctx, "a", "p", storetest.Change(t, "ta", "new", withRow("squat"))))
	}
	t.Logf("of 40 races %d deleted, %d saved", deleted, saved)
}

func TestTemplatesOfAStudio(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	for i, title := range []string{"settle", "Arrive", "five abdominals"} {
		require.NoError(t, st.SaveTemplate(ctx, "a", fmt.Sprint("t", i), storetest.Sealed(t, strings.Replace(withRow("squat"), `"T"`, `"`+title+`"`, 1)), "ta"))
	}
	ts, err := st.Templates(ctx, "a")
	require.NoError(t, err)
	var titles []string
	for _, x := range ts {
		titles = append(titles, x.Title)
	}
	assert.Equal(t, []string{"Arrive", "five abdominals", "settle"}, titles)
	_, err = st.Template(ctx, "b", "t0")
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.Error(t, st.DeleteTemplate(ctx, "b", "t0"))
	require.NoError(t, st.DeleteTemplate(ctx, "a", "t0"))
	assert.Error(t, st.DeleteTemplate(ctx, "a", "t0"), "it is gone")
}

// Every change of a library is seen by whoever holds an older copy of it.
func TestLibraryRevisionRises(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	rev := func() (n int) {
		require.NoError(t, st.DB.Get(&n, `SELECT library_rev FROM studios WHERE studio_id = 'a'`))
		return n
	}
	last := rev()
	for name, do := range map[string]func() error{
		"new":    func() error { _, err := st.SaveMovement(ctx, "a", "own-x", "X", 0, []byte(`{}`), "ta"); return err },
		"change": func() error { return st.ChangeMovement(ctx, "a", "squat", []byte(`{"hidden":true}`)) },
		"again":  func() error { return st.ChangeMovement(ctx, "a", "squat", []byte(`{"name":"Sit and stand"}`)) },
		"back":   func() error { return st.ChangeMovement(ctx, "a", "squat", nil) },
	} {
		require.NoError(t, do(), name)
		assert.Greater(t, rev(), last, name)
		last = rev()
	}
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() { assert.NoError(t, st.ChangeMovement(ctx, "a", "lunge", []byte(`{"hidden":true}`))) })
	}
	wg.Wait()
	assert.Equal(t, last+8, rev(), "none is lost")
}

func TestPacesBelongToTeachers(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "a", ID: "tb", Email: "b@example.org", Name: "B", PasswordHash: "x"}))
	at := time.Date(2026, 5, 14, 9, 0, 0, 0, time.UTC)
	require.NoError(t, st.SavePaces(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: 1.2, Runs: 4, Since: at}))
	require.NoError(t, st.SavePaces(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: 1.3, Runs: 5, Since: at.Add(time.Hour)}))
	mine, err := st.Paces(ctx, "a", "ta")
	require.NoError(t, err)
	require.Len(t, mine, 1)
	assert.InDelta(t, 1.3, mine[0].Pace, 1e-12)
	assert.True(t, mine[0].Since.Equal(at.Add(time.Hour)))
	theirs, err := st.Paces(ctx, "a", "tb")
	require.NoError(t, err)
	assert.Empty(t, theirs)
	assert.Error(t, st.SavePaces(ctx, "a", "nobody", store.TeacherPace{Slug: "squat", Pace: 1.2, Since: at}))
	assert.Error(t, st.SavePaces(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: -1, Since: at}))
}

// downTo takes the schema back to a version.
func downTo(t *testing.T, st *store.Store, version int64) {
	t.Helper()
	p, err := store.Migrations(st.DB.DB.DB)
	require.NoError(t, err)
	_, err = p.DownTo(ctx, version)
	require.NoError(t, err)
}

// Data of the version before, in which a pace counted for the whole studio.
func TestPacesOfTheVersionBefore(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	downTo(t, st, 3)
	_, err := st.DB.Exec(`
		INSERT INTO movement_changes (studio_id, slug, change) VALUES ('a', 'squat', '{"pace":1.25,"runs":6,"since":"2026-05-01T10:00:00Z"}'), ('a', 'lunge', '{"name":"Long step","since":"2026-05-01T10:00:00Z"}'), ('a', '~talk', '{"pace":1.4,"runs":5,"since":"2026-05-01T10:00:00Z"}'), ('a', 'clam', '{"hidden":true}')`)
	require.NoError(t, err)
	n, err := st.Migrate(ctx)
	require.NoError(t, err)
	assert.Equal(t, 12, n)
	ps, err := st.Paces(ctx, "a", "ta")
	require.NoError(t, err)
	of := map[string]store.TeacherPace{}
	for _, p := range ps {
		of[p.Slug] = p
	}
	require.Len(t, of, 4)
	assert.InDelta(t, 1.25, of["squat"].Pace, 1e-12)
	assert.Equal(t, 6, of["squat"].Runs)
	assert.Zero(t, of["lunge"].Pace, "put back then, the same now")
	assert.InDelta(t, 1.4, of["~talk"].Pace, 1e-12)
	assert.InDelta(t, 1.4, of["~changes"].Pace, 1e-12, "what counted for both counts for each")
	_, changes, err := st.OwnMovements(ctx, "a")
	require.NoError(t, err)
	require.Len(t, changes, 2)
	assert.JSONEq(t, `{"hidden":true}`, string(changes[0].Change))
	assert.JSONEq(t, `{"name":"Long step"}`, string(changes[1].Change))
}

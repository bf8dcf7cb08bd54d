package store_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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

func TestWhatUsesAMovement(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	used := func() bool {
		u, err := st.EverUsed(ctx, "a", "own-x")
		require.NoError(t, err)
		return u
	}
	doc := []byte(`{"rows":[{"movement":"own-x~2"}]}`)
	require.NoError(t, st.CreatePlan(ctx, "a", "p", store.Change{Title: "T", Doc: []byte(`{"rows":[{"movement":"own-xy~2"}]}`), Says: "new", By: "ta"}))
	assert.False(t, used(), "a longer name is another movement")
	require.NoError(t, st.SaveTemplate(ctx, "a", "t", "T", doc, "ta"))
	assert.True(t, used(), "in a template")
	require.NoError(t, st.DeleteTemplate(ctx, "a", "t"))
	assert.False(t, used())
	_, err := st.SavePlan(ctx, "a", "p", 1, store.Change{Title: "T", Doc: doc, Says: "with", By: "ta"})
	require.NoError(t, err)
	_, err = st.SavePlan(ctx, "a", "p", 2, store.Change{Title: "T", Doc: []byte(`{}`), Says: "without", By: "ta"})
	require.NoError(t, err)
	assert.True(t, used(), "an older revision can be restored, so it still counts")
	old, says, err := st.PlanRevision(ctx, "a", "p", 2)
	require.NoError(t, err)
	assert.JSONEq(t, string(doc), string(old))
	assert.Equal(t, "with", says)
	_, _, err = st.PlanRevision(ctx, "a", "p", 9)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = st.PlanRevision(ctx, "b", "p", 2)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestTemplatesOfAStudio(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	for i, title := range []string{"settle", "Arrive", "five abdominals"} {
		require.NoError(t, st.SaveTemplate(ctx, "a", fmt.Sprint("t", i), title, []byte(`{"n":1}`), "ta"))
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

func TestWhatRunsTeach(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	save := func(id, teacher string, finished bool, name string, taken int64) {
		require.NoError(t, st.SaveRun(ctx, store.Run{
			StudioID: "a", ID: id, PlanID: "p", PlanRev: 1, Title: "T", TeacherID: teacher, StartedAt: time.Now(), PlannedMS: 1000, TakenMS: taken, Finished: finished,
			Rows: []store.RunRow{{Place: "1.1.1", Name: name, Side: "both", Kind: "work", PlannedMS: 900, TakenMS: taken}},
		}))
	}
	save("r1", "ta", true, "Squat", 700)
	save("r2", "ta", false, "Lunge", 300)
	save("r3", "tx", true, "Swan", 500)
	save("r4", "ta", true, "Saw", 0)
	rows, err := st.LedRows(ctx, "a", "ta")
	require.NoError(t, err)
	var names []string
	for _, r := range rows {
		names = append(names, r.Name)
	}
	assert.ElementsMatch(t, []string{"Squat", "Saw"}, names, "finished runs of this teacher")
	met, runs, err := st.MetMovements(ctx, "a")
	require.NoError(t, err)
	assert.Equal(t, 4, runs)
	assert.ElementsMatch(t, []string{"Squat", "Lunge", "Swan"}, met, "what was skipped was not met")
	met, runs, err = st.MetMovements(ctx, "b")
	require.NoError(t, err)
	assert.Zero(t, runs)
	assert.Empty(t, met)
}

func TestPacesBelongToTeachers(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "a", ID: "tb", Email: "b@example.org", Name: "B", PasswordHash: "x"}))
	at := time.Date(2026, 5, 14, 9, 0, 0, 0, time.UTC)
	require.NoError(t, st.SavePace(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: 1.2, Runs: 4, Since: at}))
	require.NoError(t, st.SavePace(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: 1.3, Runs: 5, Since: at.Add(time.Hour)}))
	mine, err := st.Paces(ctx, "a", "ta")
	require.NoError(t, err)
	require.Len(t, mine, 1)
	assert.InDelta(t, 1.3, mine[0].Pace, 1e-12)
	assert.True(t, mine[0].Since.Equal(at.Add(time.Hour)))
	theirs, err := st.Paces(ctx, "a", "tb")
	require.NoError(t, err)
	assert.Empty(t, theirs)
	assert.Error(t, st.SavePace(ctx, "a", "nobody", store.TeacherPace{Slug: "squat", Pace: 1.2, Since: at}))
	assert.Error(t, st.SavePace(ctx, "a", "ta", store.TeacherPace{Slug: "squat", Pace: -1, Since: at}))
}

// Data of the version before, in which a pace counted for the whole studio.
func TestPacesOfTheVersionBefore(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	_, err := st.DB.Exec(`DROP TABLE teacher_paces; DELETE FROM goose_db_version WHERE version_id >= 4;
		INSERT INTO movement_changes (studio_id, slug, change) VALUES ('a', 'squat', '{"pace":1.25,"runs":6,"since":"2026-05-01T10:00:00Z"}'), ('a', 'lunge', '{"name":"Long step","since":"2026-05-01T10:00:00Z"}'), ('a', 'clam', '{"hidden":true}')`)
	require.NoError(t, err)
	n, err := st.Migrate(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	ps, err := st.Paces(ctx, "a", "ta")
	require.NoError(t, err)
	require.Len(t, ps, 2)
	assert.Equal(t, "squat", ps[1].Slug)
	assert.InDelta(t, 1.25, ps[1].Pace, 1e-12)
	assert.Equal(t, 6, ps[1].Runs)
	assert.Zero(t, ps[0].Pace, "put away then, put away now")
	_, changes, err := st.OwnMovements(ctx, "a")
	require.NoError(t, err)
	require.Len(t, changes, 2)
	assert.JSONEq(t, `{"hidden":true}`, string(changes[0].Change))
	assert.JSONEq(t, `{"name":"Long step"}`, string(changes[1].Change))
}

package store_test

import (
	"errors"
	"fmt"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/store"
	"wavekine/store/storetest"
)

// A limit lets a burst through and then one in each interval; what was refused takes nothing, what was right gives back
// its own try, and no more of them can be taken at once than there are.
func TestTriesAreCounted(t *testing.T) {
	st := storetest.New(t)
	l := store.Limit{Burst: 3, Every: 300 * time.Millisecond}
	for range 3 {
		wait, err := st.Take(ctx, "a", l)
		require.NoError(t, err)
		assert.Zero(t, wait)
	}
	wait, err := st.Take(ctx, "a", l)
	require.NoError(t, err)
	assert.Positive(t, wait)
	assert.LessOrEqual(t, wait, time.Second)
	wait, err = st.Take(ctx, "another", l)
	require.NoError(t, err)
	assert.Zero(t, wait, "each key has its own")
	require.NoError(t, st.GiveBack(ctx, "a", l))
	wait, err = st.Take(ctx, "a", l)
	require.NoError(t, err)
	assert.Zero(t, wait)
	require.Eventually(t, func() bool { w, err := st.Take(ctx, "a", l); return err == nil && w == 0 }, 2*time.Second, 50*time.Millisecond, "one comes back in each interval")

	slow := store.Limit{Burst: 5, Every: time.Hour}
	var through atomic.Int32
	var wg sync.WaitGroup
	for range 40 { // from many instances at once
		wg.Go(func() {
			if w, err := st.Take(ctx, "many", slow); err == nil && w == 0 {
				through.Add(1)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 5, through.Load())

	var keys []string
	require.NoError(t, st.DB.Select(&keys, `SELECT encode(key, 'escape') FROM tries`))
	assert.Len(t, keys, 3)
	assert.NotContains(t, fmt.Sprint(keys), "many", "keys are hashed")
	_, err = st.DB.Exec(`UPDATE tries SET empty_at = now() - interval '1 second'`)
	require.NoError(t, err)
	require.NoError(t, st.CleanDoor(ctx))
	var n int
	require.NoError(t, st.DB.Get(&n, `SELECT count(*) FROM tries`))
	assert.Zero(t, n, "what has come back is forgotten")
}

func TestLinksWorkOnce(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.MakeLink(ctx, "a", "ta", "first", "", time.Hour))
	require.NoError(t, st.MakeLink(ctx, "a", "ta", "second", "", time.Hour))
	_, err := st.LinkOf(ctx, "first")
	assert.ErrorIs(t, err, store.ErrNotFound, "a new one makes it void")
	l, err := st.LinkOf(ctx, "second")
	require.NoError(t, err)
	assert.Equal(t, "ta", l.ID)
	assert.Equal(t, "S", l.Studio)
	var used atomic.Int32
	var wg sync.WaitGroup
	for range 10 {
		wg.Go(func() {
			if _, err := st.UseLink(ctx, "second", "hash"); err == nil {
				used.Add(1)
			} else {
				assert.ErrorIs(t, err, store.ErrNotFound)
			}
		})
	}
	wg.Wait()
	assert.EqualValues(t, 1, used.Load(), "of ten who try at once one comes in")
	tt, _, err := st.TeacherByEmail(ctx, "a@example.org", "")
	require.NoError(t, err)
	assert.Equal(t, "hash", tt.PasswordHash)
	assert.Equal(t, 2, tt.Epoch)
	_, _, err = st.SignedIn(ctx, "a", "ta", 1)
	assert.ErrorIs(t, err, store.ErrNotFound, "sign-ins until then have ended")

	require.NoError(t, st.MakeLink(ctx, "a", "ta", "old", "", -time.Second))
	_, err = st.UseLink(ctx, "old", "x")
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, st.CleanDoor(ctx))
	assert.ErrorIs(t, st.MakeLink(ctx, "a", "nobody", "x", "", time.Hour), store.ErrNotFound)
	var plain int
	require.NoError(t, st.DB.Get(&plain, `SELECT count(*) FROM door_links WHERE encode(token_hash, 'escape') LIKE '%old%'`))
	assert.Zero(t, plain)
	require.NoError(t, st.MakeLink(ctx, "a", "ta", "third", "", time.Hour))
	_, err = st.SetPassword(ctx, "a", "ta", 2, "own")
	require.NoError(t, err)
	_, err = st.LinkOf(ctx, "third")
	assert.ErrorIs(t, err, store.ErrNotFound, "a password that was changed makes it void")
	_, err = st.SetPassword(ctx, "a", "ta", 2, "late")
	assert.ErrorIs(t, err, store.ErrNotFound, "of two who change it at once the second hears of it")
}

// A teacher who was removed cannot come in; what they made keeps their name, and their e-mail is free.
func TestRemovedTeachers(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	studio(t, st, "b")
	require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "a", ID: "nell", Email: "nell@example.org", Name: "Nell", PasswordHash: "x"}))
	c := change(t, 1)
	c.By = "nell"
	require.NoError(t, st.Sessions.Create(ctx, "a", "hers", c))
	require.NoError(t, st.KnowDevice(ctx, store.Teacher{StudioID: "a", ID: "nell"}, "dev"))
	require.NoError(t, st.MakeLink(ctx, "a", "nell", "link", "ta", time.Hour))
	require.NoError(t, st.RemoveTeacher(ctx, "a", "nell"))
	_, _, err := st.TeacherByEmail(ctx, "nell@example.org", "")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = st.SignedIn(ctx, "a", "nell", 1)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.LinkOf(ctx, "link")
	assert.ErrorIs(t, err, store.ErrNotFound)
	h, err := st.Sessions.History(ctx, "a", "hers", 5)
	require.NoError(t, err)
	require.Len(t, h, 1)
	assert.Equal(t, "Nell", h[0].By, "their work stays, with their name")
	assert.ErrorIs(t, st.RemoveTeacher(ctx, "a", "nell"), store.ErrNotFound)
	assert.ErrorIs(t, st.MakeLink(ctx, "a", "nell", "x", "ta", time.Hour), store.ErrNotFound)

	require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "b", ID: "nell2", Email: "Nell@example.org", Name: "Nell"}), "another studio may have her")
	assert.ErrorIs(t, st.ReturnTeacher(ctx, "a", "nell"), store.ErrTaken)
	require.NoError(t, st.RemoveTeacher(ctx, "b", "nell2"))
	require.NoError(t, st.ReturnTeacher(ctx, "a", "nell"))
	tt, known, err := st.TeacherByEmail(ctx, "nell@example.org", "dev")
	require.NoError(t, err)
	assert.Empty(t, tt.PasswordHash, "she sets a new one")
	assert.Equal(t, store.AsTeacher, tt.Role)
	assert.False(t, known, "and her devices are forgotten")
}

// A studio always has an owner, also when two go at the same moment.
func TestTheLastOwnerStays(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	assert.ErrorIs(t, st.RemoveTeacher(ctx, "a", "ta"), store.ErrLastOwner)
	assert.ErrorIs(t, st.SetRole(ctx, "a", "ta", store.AsTeacher), store.ErrLastOwner)
	for n := range 8 {
		id := fmt.Sprint("o", n)
		require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "a", ID: id, Email: id + "@example.org", Name: id}))
		require.NoError(t, st.SetRole(ctx, "a", id, store.AsOwner))
		last := "ta"
		if n > 0 {
			var owners []string
			require.NoError(t, st.DB.Select(&owners, `SELECT teacher_id FROM teachers WHERE role = 'owner' AND removed_at IS NULL AND teacher_id <> $1`, id))
			require.Len(t, owners, 1)
			last = owners[0]
		}
		var gone atomic.Int32
		var wg sync.WaitGroup
		for _, who := range []string{last, id} {
			wg.Go(func() {
				switch err := st.RemoveTeacher(ctx, "a", who); {
				case err == nil:
					gone.Add(1)
				default:
					assert.True(t, errors.Is(err, store.ErrLastOwner), "%v", err)
				}
			})
		}
		wg.Wait()
		assert.EqualValues(t, 1, gone.Load())
	}
}

func TestDevicesAreFew(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	who := store.Teacher{StudioID: "a", ID: "ta"}
	for n := range 30 {
		require.NoError(t, st.KnowDevice(ctx, who, fmt.Sprint("d", n)))
	}
	var kept int
	require.NoError(t, st.DB.Get(&kept, `SELECT count(*) FROM known_devices`))
	assert.LessOrEqual(t, kept, 12)
	_, known, err := st.TeacherByEmail(ctx, "a@example.org", "d29")
	require.NoError(t, err)
	assert.True(t, known)
	_, known, err = st.TeacherByEmail(ctx, "a@example.org", "d0")
	require.NoError(t, err)
	assert.False(t, known)
	_, err = st.SignOutEverywhere(ctx, "a", "ta")
	require.NoError(t, err)
	_, known, err = st.TeacherByEmail(ctx, "a@example.org", "d29")
	require.NoError(t, err)
	assert.False(t, known)
}

// The first teacher of a studio made by the version before owns it, whoever that was.
func TestOwnersOfTheVersionBefore(t *testing.T) {
	st := storetest.New(t)
	studio(t, st, "a")
	require.NoError(t, st.AddTeacher(ctx, store.Teacher{StudioID: "a", ID: "0-later", Email: "later@example.org", Name: "Later"}))
	require.NoError(t, st.SaveMover(ctx, store.Mover{StudioID: "a", ID: "m", Name: "M", Level: 2}, "ta"))
	require.NoError(t, st.RemoveTeacher(ctx, "a", "0-later"))
	downTo(t, st, 5)
	n, err := st.Migrate(ctx)
	require.NoError(t, err)
	assert.Equal(t, 10, n)
	ts, err := st.Teachers(ctx, "a")
	require.NoError(t, err)
	require.Len(t, ts, 2)
	for _, x := range ts {
		assert.Equal(t, x.ID == "ta", x.Role == store.AsOwner, x.ID)
	}
	h, err := st.HouseHistory(ctx, "a", 9)
	require.NoError(t, err)
	require.Len(t, h, 1)
	ms, err := st.MoverSince(ctx, "a", "m", 1)
	require.NoError(t, err)
	require.Len(t, ms, 1)
	assert.Equal(t, 2, ms[0].Level)
}

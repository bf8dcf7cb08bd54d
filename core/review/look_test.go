package review

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

// A sentence goes on in the middle of another; a name in capitals stays.
func TestLower(t *testing.T) {
	for in, want := range map[string]string{
		"Squat": "squat", "A": "A", "": "", "Add it": "add it", "ZZ top": "ZZ top", "Zoom": "zoom", "squat": "squat", "Éa": "Éa", "1 row": "1 row",
		"A row": "a row", "AZ": "AZ", "AA": "AA", "[a": "[a", "@a": "@a", "Za": "za", "Aa": "aa", "X[": "x[", "X@": "x@",
	} {
		assert.Equal(t, want, lower(in), in)
	}
}

// What is said as easier and harder: the next level either way, or what the row names, whatever of it there is.
func TestWhatIsOffered(t *testing.T) {
	m, ok := lib.Get("double-leg-lower")
	require.True(t, ok)
	require.Len(t, m.Levels, 4)
	for _, c := range []struct {
		level          int
		options        []int
		easier, harder []int
	}{
		{0, nil, nil, []int{2}},
		{1, nil, nil, []int{2}},
		{2, nil, []int{1}, []int{3}},
		{3, nil, []int{2}, []int{4}},
		{4, nil, []int{3}, nil},
		{2, []int{}, nil, nil},
		{2, []int{1, 2, 3}, []int{1}, []int{3}},
		{3, []int{1, 2}, []int{1, 2}, nil},
		{1, []int{3, 2, 4, 5, 9, 0}, nil, []int{3, 2, 4}},
		{9, []int{4, 5}, []int{4}, nil},
	} {
		r := &plan.Row{Level: c.level, Options: c.options}
		assert.Equal(t, c.easier, EasierOffered(r, m), "%+v", c)
		assert.Equal(t, c.harder, HarderOffered(r, m), "%+v", c)
	}
}

// The rows of a run are those that work during it, from its first moment up to its last.
func TestRowsFrom(t *testing.T) {
	s := read(t, rows("squat 8", "rest 20 s", "bridge 8", "clam 8 each side"), "")
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	l := &look{s: s, tl: tl, lib: lib}
	at, end, _ := tl.RowSpan(plan.Path{Section: 1, Block: 1, Row: 3})
	work := tl.Steps[0].At
	for i := range tl.Steps {
		if st := &tl.Steps[i]; st.Row.Row == 3 && st.Kind.Working() {
			work = st.At
		}
	}
	got := func(from, to clock.Span) (out []int) {
		for _, p := range l.rowsFrom(Finding{At: from, end: to, Row: plan.Path{Section: 1, Block: 1, Row: 9}}) {
			out = append(out, p.Row)
		}
		return out
	}
	assert.Equal(t, []int{1, 3, 9}, got(0, end))
	assert.Equal(t, []int{3, 9}, got(at, end))
	assert.Equal(t, []int{3, 9}, got(work, work+1), "its first moment")
	assert.Equal(t, []int{9}, got(work+1, end), "what began before")
	assert.Equal(t, []int{9}, got(at, work), "what begins at its end")
	assert.Equal(t, []int{1, 3, 4, 4, 9}, got(0, tl.Total))
}

// Every mend of a class is found by its name, with the finding it belongs to, and no other.
func TestFind(t *testing.T) {
	fs := check(t, read(t, rows("teaser level 3 8", "squat 10", "squat 10", "single leg circle 10 each side"), ""))
	seen := map[string]bool{}
	for _, f := range fs {
		for _, m := range f.Mends {
			assert.False(t, seen[m.ID], "%s is there once", m.ID)
			seen[m.ID] = true
			gotF, gotM, ok := Find(fs, m.ID)
			assert.True(t, ok)
			assert.Equal(t, []string{f.Says, m.ID, m.Says}, []string{gotF.Says, gotM.ID, gotM.Says})
		}
	}
	assert.Greater(t, len(seen), 5)
	_, _, ok := Find(fs, "nothing")
	assert.False(t, ok)
	assert.Equal(t, "stop", Stop.String())
	assert.Equal(t, "good", Good.String())
	assert.NotPanics(t, func() { _ = Severity(3).String() })
	for i := range fs {
		if r := fs[i].Row; r.Row > 0 {
			assert.NotEmpty(t, fs[i].About, fs[i].Says)
		} else {
			assert.Empty(t, fs[i].About, fs[i].Says)
		}
	}
}

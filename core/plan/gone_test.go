package plan

import (
	"context"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/clock"
)

// Nothing is read for whoever has gone; what a command reads ends too.
func TestReadingEndsWithWhoeverAsked(t *testing.T) {
	gone, cancel := context.WithCancelCause(t.Context())
	why := errors.New("they have gone")
	cancel(why)
	lines := strings.Repeat("bird dog 8 each side\n", 900)
	for name, read := range map[string]func(context.Context) error{
		"lines": func(ctx context.Context) error { _, err := LinesIn(ctx, lines, lib, Style{}); return err },
		"table": func(ctx context.Context) error {
			_, _, err := ReadCSV(ctx, []byte("movement,dose\n"+strings.Repeat("squat,8\n", 900)), lib)
			return err
		},
		"text": func(ctx context.Context) error {
			_, err := Import(ctx, []byte(lines), "text", lib, Style{})
			return err
		},
		"csv": func(ctx context.Context) error {
			_, err := Import(ctx, []byte("movement,dose\nsquat,8\n"), "csv", lib, Style{})
			return err
		},
		"paste": func(ctx context.Context) error {
			_, err := New(lib, &NewSession{Title: "x"})
			assert.NoError(t, err)
			_, err = (&PasteLines{Text: lines, Within: ctx}).Do(&Session{Title: "x", Sections: []Section{{Title: "A"}}}, lib)
			return err
		},
	} {
		assert.ErrorIs(t, read(gone), why, name)
	}
	_, err := LinesIn(t.Context(), lines, lib, Style{})
	assert.NoError(t, err)
}

// Where the length asked for counts the whole class, what is said at its ends is none of what is moved.
func TestToMove(t *testing.T) {
	s := &Session{Target: 20 * clock.Minute}
	assert.Equal(t, 20*clock.Minute, s.ToMove())
	s.Whole = true
	assert.Equal(t, 20*clock.Minute-28*clock.Second, s.ToMove())
	s.Opening, s.Closing = strings.Repeat("word ", 151), strings.Repeat("word ", 151)
	assert.Equal(t, 18*clock.Minute, s.ToMove())
	s.Target = clock.Minute
	assert.Equal(t, clock.Minute, s.ToMove())
	s.Target = 0
	assert.Zero(t, s.ToMove())
}

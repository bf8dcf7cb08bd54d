package solve

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/plan"
)

// hardest is a class of sections whose sixteen pieces all differ: as much as the order may search, and again for every
// place that the section before can end on.
func hardest(t testing.TB, sections int) *plan.Session {
	t.Helper()
	var rows []string
	seen := map[string]bool{}
	for _, m := range lib.All() {
		p := Pieces(&read(t, section(fmt.Sprintf(`{"movement":%q}`, m.Slug))).Sections[0], lib)[0]
		if key := fmt.Sprint(p.Enter, p.Leave, p.kit, p.fetches, p.phase); !seen[key] {
			seen[key] = true
			rows = append(rows, fmt.Sprintf(`{"movement":%q,"dose":"hold %d.%d s"}`, m.Slug, 11+len(rows), len(rows)%10))
		}
	}
	require.Greater(t, len(rows), 15)
	all := make([]string, sections)
	for i := range all {
		all[i] = section(rows[:16]...)
	}
	return read(t, all...)
}

// Whoever has gone is not searched for: the solvers end soon after, however much there is to search, and say why.
func TestSolversEndWithWhoeverAsked(t *testing.T) {
	s := hardest(t, 12)
	for name, solve := range map[string]func(context.Context) error{
		"order": func(ctx context.Context) error {
			remembered.Purge()
			_, err := Order(ctx, s, lib, Thorough)
			return err
		},
		"fit": func(ctx context.Context) error {
			_, err := Fit(ctx, s, lib, 180*clock.Minute, Terms{})
			return err
		},
	} {
		gone, cancel := context.WithCancel(t.Context())
		cancel()
		assert.ErrorIs(t, solve(gone), context.Canceled, name)
		for _, after := range []time.Duration{time.Millisecond, 100 * time.Millisecond} {
			ctx, cancel := context.WithTimeout(t.Context(), after)
			begin := time.Now()
			err := solve(ctx)
			cancel()
			if err != nil || name == "order" {
				assert.ErrorIs(t, err, context.DeadlineExceeded, name)
			}
			assert.Less(t, time.Since(begin), after+2*time.Second, name)
		}
	}
}

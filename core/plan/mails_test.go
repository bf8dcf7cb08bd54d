package plan

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
)

// Lines of mails: what share of the rows becomes the row that was meant, and how many become another without a mark.
func TestMails(t *testing.T) {
	text, err := os.ReadFile("testdata/mails.txt")
	require.NoError(t, err)
	rows, right, silent := 0, 0, 0
	for line := range strings.Lines(string(text)) {
		typed, want, ok := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		kind, want, _ := strings.Cut(want, " ")
		if kind != "r" && kind != "n" {
			continue
		}
		rows++
		row, err := Line(unbullet(typed), lib)
		got := "not understood"
		if err == nil {
			got = rowSays(&row)
		}
		if err == nil && meant(&row, kind, want) {
			right++
			continue
		}
		if err == nil && row.Inline == nil {
			silent++
		}
		t.Logf("%-60s %s %-45s %s", typed, kind, want, got)
	}
	t.Logf("%d rows, %.1f %% as meant, %.1f %% another without a mark", rows, 100*float64(right)/float64(rows), 100*float64(silent)/float64(rows))
	assert.GreaterOrEqual(t, float64(right)/float64(rows), .95)
	assert.LessOrEqual(t, float64(silent)/float64(rows), .02)
}

func rowSays(r *Row) string {
	if r.Inline != nil {
		return r.Inline.Posture.String() + " " + r.Inline.Sides.String() + " " + r.Dose.String() + " (" + r.Inline.Name + ")"
	}
	return r.Movement + " " + r.Dose.String()
}

// meant tells whether a row is what was meant; a row that a library has may be one read from its name in the same position.
func meant(r *Row, kind, want string) bool {
	head, said := want, ""
	if kind == "r" {
		head, said, _ = strings.Cut(want, " ")
		for slug := range strings.SplitSeq(head, "/") {
			if r.Movement == slug && one(said, r.Dose.String()) {
				return true
			}
		}
		return false
	}
	if r.Inline == nil {
		m, ok := lib.Get(r.Movement)
		return ok && postureIn(want, m.Posture) && dosePart(want, r)
	}
	return postureIn(want, r.Inline.Posture) && strings.Contains(want, " "+r.Inline.Sides.String()) && dosePart(want, r)
}

func postureIn(want string, p movement.Posture) bool {
	for w := range strings.SplitSeq(want, "/") {
		if strings.HasPrefix(w, p.String()) {
			return true
		}
	}
	return false
}

func dosePart(want string, r *Row) bool {
	for _, s := range []string{" both", " each", " alternating"} {
		if _, said, ok := strings.Cut(want, s); ok {
			return one(strings.TrimSpace(said), r.Dose.String())
		}
	}
	return false
}

func one(of, is string) bool {
	for w := range strings.SplitSeq(of, "/") {
		if strings.TrimSpace(w) == is {
			return true
		}
	}
	return of == "" || of == is
}

// BenchmarkNamed reads a line whose movement no library has: how it grows with the library.
func BenchmarkNamed(b *testing.B) {
	for _, line := range []string{"bird dog 8 each side", "kneeling leg sweeps with a band 8-10 each side", "flying trapeze 8", strings.Repeat("side 8 ", 57), strings.Repeat("leg lift ", 44), strings.Repeat("8 to ", 79)} {
		b.Run(line[:min(len(line), 30)], func(b *testing.B) {
			for b.Loop() {
				_, _ = Line(line, lib)
			}
		})
	}
}

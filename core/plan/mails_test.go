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

// Whole mails: every line is kept, nearly all become what was meant, hardly any another without a mark.
func TestWholeMails(t *testing.T) {
	text, err := os.ReadFile("testdata/mails-whole.txt")
	require.NoError(t, err)
	all, right, silent, mails := 0, 0, 0, 0
	for mail := range strings.SplitSeq(string(text), "\n@ ") {
		_, mail, _ = strings.Cut(mail, "\n")
		var typed, want []string
		for line := range strings.Lines(mail) {
			i := strings.LastIndex(strings.TrimSuffix(line, "\n"), "\t")
			if strings.HasPrefix(line, "#") || i < 0 {
				continue
			}
			typed, want = append(typed, line[:i]), append(want, strings.TrimSuffix(line[i+1:], "\n"))
		}
		if len(typed) == 0 {
			continue
		}
		mails++
		in, err := Import(t.Context(), []byte(strings.Join(typed, "\n")), "text", lib, Style{})
		require.NoError(t, err)
		require.Len(t, in.Lines, len(typed), "every line once")
		lines, err := LinesIn(t.Context(), strings.Join(typed, "\n"), lib, Style{})
		require.NoError(t, err)
		for i := range lines {
			all++
			kind, of, _ := strings.Cut(want[lines[i].N-1], " ")
			ok, quiet := lines[i].is(kind, of)
			if ok {
				right++
				continue
			}
			if quiet {
				silent++
			}
			t.Logf("%-55s wanted %-40s got %-8s %s", typed[lines[i].N-1], want[lines[i].N-1], lines[i].As, lines[i].Says(lib))
		}
	}
	t.Logf("%d mails, %d lines, %.1f %% as meant, %.1f %% another without a mark", mails, all, 100*float64(right)/float64(all), 100*float64(silent)/float64(all))
	assert.GreaterOrEqual(t, float64(right)/float64(all), .95)
	assert.LessOrEqual(t, float64(silent)/float64(all), .02)
}

// is tells whether a line is what was meant, and where it is not, whether it is something else without a mark.
func (l *TextLine) is(kind, of string) (ok, quiet bool) {
	switch kind {
	case "r", "n":
		if !l.IsRow() || len(l.more) > 0 || l.block != nil {
			return false, l.As == RowLine
		}
		if kind == "n" && l.As == KeptLine {
			return false, false
		}
		return meant(&l.Row, kind, of), l.As == RowLine
	case "m":
		slugs := []string{l.Row.Movement}
		for i := range l.more {
			slugs = append(slugs, l.more[i].Movement)
		}
		return strings.Join(slugs, " ") == of, l.As == RowLine
	case "u":
		return l.As == RowLine && l.Row.IsTurn(), l.As == RowLine
	case "s":
		return l.As == RowLine && l.Row.IsRest() || l.As == RowLine && l.Row.Movement == "side-breathing", l.As == RowLine
	case "h":
		return l.As == HeadingLine && l.circle == nil && l.block == nil, l.As == RowLine
	case "b":
		return l.circle != nil || l.block != nil, l.As == RowLine
	case "t":
		return l.title != "" || l.As == HeadingLine, l.As == RowLine
	case "o":
		return l.As == NoteLine, l.As == RowLine
	case "x":
		return l.same || l.side != movement.SidesUnsaid, l.As == RowLine && !l.same
	case "k":
		return l.As == KeptLine || l.As == NoteLine || l.As == NamedLine, l.As == RowLine
	}
	return false, true
}

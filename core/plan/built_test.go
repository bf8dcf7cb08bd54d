package plan

import (
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/movement"
	"wavekine/core/plan/made"
)

// soMany is how many of so many are tried: a tenth where time is short.
func soMany(n int) int {
	if testing.Short() {
		return n / 10
	}
	return n
}

// Documents with every word are read, stored, and said in clauses that make the same document again.
func TestWhatIsSaidOfRowsAndBlocksIsReadBack(t *testing.T) {
	lib := movement.Shipped()
	r := rand.New(rand.NewPCG(12, 27))
	seen := map[string]int{}
	for range soMany(900) {
		doc := made.Session(r, lib)
		s, err := ReadSession(doc, lib)
		require.NoError(t, err, string(doc))
		was, err := Seal(s, lib)
		require.NoError(t, err, string(doc))
		again := s.Clone()
		again.Each(func(p Path, b *Block, row *Row) {
			if row.IsRest() {
				return
			}
			m, err := row.Of(lib)
			require.NoError(t, err)
			words := JoinClauses(row.Clauses(m))
			for _, c := range row.Clauses(m) {
				seen[strings.SplitN(c, " ", 2)[0]]++
			}
			_, err = (&SetWords{At: p, Words: words}).Do(again, lib)
			require.NoError(t, err, "%s: %s\n%s", p, words, doc)
			require.Equal(t, words, JoinClauses(again.Row(p).Clauses(m)))
		})
		for i := range again.Sections {
			sec := &again.Sections[i]
			_, err := (&SetSectionWords{Section: Number{true, i + 1}, Words: JoinClauses(sec.Clauses())}).Do(again, lib)
			require.NoError(t, err)
			for j := range sec.Blocks {
				n, err := ReadBlock(sec.Blocks[j].Words())
				require.NoError(t, err, sec.Blocks[j].Words())
				n.Rows = sec.Blocks[j].Rows
				sec.Blocks[j] = n
			}
		}
		now, err := Seal(again, lib)
		require.NoError(t, err, string(doc))
		require.JSONEq(t, string(was.Text()), string(now.Text()))
	}
	if testing.Short() {
		return
	}
	for _, c := range []string{"say:", "cue:", "caution:", "option:", "note:", "other", "in", "at", "by", "ends", "right:", "left:", "left", "a", "pelvis", "breath", "offers", "shows", "locked", "slow", "phases:"} {
		assert.Positive(t, seen[c], c)
	}
}

// The same text out and in again is the same class: documents with every word, written as lines.
func TestTheSameTextIsTheSameClass(t *testing.T) {
	lib := movement.Shipped()
	r := rand.New(rand.NewPCG(11, 27))
	n := 0
	for range soMany(700) {
		doc := made.Session(r, lib)
		s, err := ReadSession(doc, lib)
		require.NoError(t, err, string(doc))
		inline := false
		s.Each(func(_ Path, _ *Block, r *Row) { inline = inline || r.Inline != nil })
		if inline { // its facts are no lines
			continue
		}
		n++
		s.tidy(nil)
		s.Sections = slices.DeleteFunc(s.Sections, func(sec Section) bool { return len(sec.Blocks) == 0 }) // rows go on in an empty one of the same name
		s.Format = SessionFormat                                                                           // it is written in the lowest that has its words
		was, err := Seal(s, lib)
		require.NoError(t, err)
		text := s.Text(lib)
		in, err := Import(t.Context(), []byte(text), "text", lib, Style{})
		require.NoError(t, err, text)
		require.Empty(t, in.Bad, text)
		now, err := Seal(in.Session, lib)
		require.NoError(t, err, "%s\n%s", text, doc)
		require.JSONEq(t, string(was.Text()), string(now.Text()), text)
	}
	assert.Greater(t, n, soMany(150))
}

// Where rows share their sides, which side is first is the block's to say: a row that says it is refused, and one that comes into such a block stops saying it.
func TestFirstSideOfRowsThatShareTheirSides(t *testing.T) {
	lib := movement.Shipped()
	for _, rule := range []Rule{Straight, Flow, Rounds, Chain, BuildUp} {
		row := Row{Movement: "bird-dog", Style: Style{First: LeftFirst}}
		b := Block{Rule: rule, Rounds: 1, Rows: []Row{row, {Movement: "hydrant"}}}
		s := &Session{Title: "T", Sections: []Section{{Title: "A", Blocks: []Block{b}}}}
		place, err := b.check(lib)
		if rule == Chain || rule == BuildUp {
			require.ErrorContains(t, err, "which side is first is said of the whole block", rule)
			assert.Contains(t, place, "[0]")
		} else {
			require.NoError(t, err, rule)
			continue
		}
		_, err = Apply(s, lib, &SetWords{At: Path{1, 1, 2}, Words: "left side first"})
		assert.ErrorContains(t, err, "whole block", rule)
		s.Sections[0].Blocks[0].Manner.Style.First = RightFirst
		c, err := Apply(s, lib, &SetWords{At: Path{1, 1, 1}, Words: ""})
		require.NoError(t, err, rule)
		assert.Equal(t, RightFirst, c.Session.Sections[0].Blocks[0].Manner.Style.First, "the block's own answer stays")

		straight := b
		straight.Rule = Straight
		s = &Session{Title: "T", Sections: []Section{{Title: "A", Blocks: []Block{straight}}}}
		s.Settle(lib)
		require.Equal(t, LeftFirst, s.Row(Path{1, 1, 1}).Style.First)
		s.Sections[0].Blocks[0].Rule = rule
		s.Settle(lib)
		assert.Zero(t, s.Row(Path{1, 1, 1}).Style.First, rule)
	}
}

func FuzzWords(f *testing.F) {
	for _, s := range []string{"slow; say: a\\; b; option: x", "by round: 8 / out / level 2", "phases: level 1 3 breaths / level 2 2", "right: 6; left: note: x", "at 5 s: a; at 1:30: b", "3 rounds; 40 s on; lead in 0 s", "\\", ";;;", "ends \\n", "offers level"} {
		f.Add(s)
	}
	lib := movement.Shipped()
	f.Fuzz(func(t *testing.T, words string) {
		if b, err := ReadBlock(words); err == nil {
			again, err := ReadBlock(b.Words())
			if err != nil || again.Words() != b.Words() {
				t.Fatalf("%q: %q became %q, %v", words, b.Words(), again.Words(), err)
			}
		}
		s := &Session{Title: "T", Sections: []Section{{Title: "A", Blocks: []Block{{Rule: Chain, Rounds: 1, Rows: []Row{{Movement: "bird-dog"}}}}}}}
		c, err := Apply(s, lib, &SetWords{At: Path{1, 1, 1}, Words: words})
		if err != nil {
			return
		}
		m, _ := lib.Get("bird-dog")
		said := JoinClauses(c.Session.Row(Path{1, 1, 1}).Clauses(m))
		again, err := Apply(s, lib, &SetWords{At: Path{1, 1, 1}, Words: said})
		if err != nil || string(again.Sealed.Text()) != string(c.Sealed.Text()) {
			t.Fatalf("%q: %q is not the same again: %v", words, said, err)
		}
	})
}

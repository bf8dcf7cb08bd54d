package plan

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestPastedClass(t *testing.T) {
	lines, err := LinesIn(t.Context(), "# Arrive\n1. rib breathing 6 breaths\n- cat cow 5 reps\r\n\nBuild:\n  2) bird dog 8 each side + 10 pulses  \nsomething odd 8\n• rest 20 s head down\n10 breaths hundred\n", lib, Style{})
	require.NoError(t, err)
	var got []string
	for _, l := range lines {
		switch {
		case l.Section != "":
			got = append(got, "["+l.Section+"]")
		case l.Err != nil:
			got = append(got, "? "+strings.TrimSpace(l.Raw))
		default:
			got = append(got, l.Row.Name()+" "+l.Row.Dose.String())
		}
	}
	assert.Equal(t, []string{
		"[Arrive]", "rib-breathing 6 breaths", "cat-cow 5 reps", "[Build]", "bird-dog 8 reps + 10 pulses each side",
		"? something odd 8", "rest ", "hundred 10 breaths",
	}, got)
	assert.Equal(t, 7, lines[5].N, "a line not understood says which it is")
	var le *LineError
	require.ErrorAs(t, lines[5].Err, &le)

	s := three(t)
	at, err := s.AddLines(Path{Section: 1, Block: 1, Row: 1}, lines[1:3], lib)
	require.NoError(t, err)
	assert.Equal(t, Path{1, 1, 3}, at)
	_, err = s.AddLines(at, lines[3:], lib)
	require.NoError(t, err)
	assert.Equal(t, "A[s(squat rib-breathing cat-cow lunge clam swan)]B[]Build[s(bird-dog rest hundred)]", rowsOf(s))
}

func TestPastedTextHasLimits(t *testing.T) {
	_, err := LinesIn(t.Context(), strings.Repeat("x", 2<<20), lib, Style{})
	assert.EqualError(t, err, "the text is 2048 KB: at most 256 KB are read")
	_, err = LinesIn(t.Context(), strings.Repeat("\n", 1500), lib, Style{})
	assert.EqualError(t, err, "1501 lines: at most 1000 are read")
	lines, err := LinesIn(t.Context(), strings.Repeat("y", 10000)+"\n\xff", lib, Style{})
	require.NoError(t, err)
	require.Len(t, lines, 2)
	assert.ErrorContains(t, lines[0].Err, "10000 characters")
	assert.ErrorContains(t, lines[1].Err, "UTF-8")
	for in, want := range map[string]string{"3. x": "x", "- x": "x", "12) x": "x", "3 x 8": "3 x 8", "8 reps": "8 reps", "1:30": "1:30"} {
		assert.Equal(t, want, unbullet(in))
	}
}

// A line means the same typed, pasted and read from a text, in every school: the documents are the same.
func TestALineMeansTheSameTypedOrPasted(t *testing.T) {
	lines := []string{
		"bird dog 8", "clam 12", "criss-cross 10", "side-lying leg lift 8", "squat 10", "lunge 8", "lunge 8 each side", "hundred", "clam 8 right only", "clam 8 left only",
		"rest 20 s head down", "saw 6", "half pigeon 30 s", "swan 5", "criss-cross 8 pairs", "single leg circle 5 each way each side", "scissors ten", "scissors 10 sets",
	}
	for _, sides := range []string{"each", "chain", "alternating"} {
		for _, count := range []string{"singles", "pairs"} {
			for _, sets := range []string{"ask", "pairs"} {
				var st Style
				require.NoError(t, st.Set("sides", sides))
				require.NoError(t, st.Set("count", count))
				require.NoError(t, st.Set("sets", sets))
				typed := &Session{Format: SessionFormat, Title: "From text", Style: st}
				var good []string
				at := Path{}
				for _, line := range lines {
					ch, err := Apply(typed, lib, &AddLine{Line: line, After: MaybePath{at}})
					if err != nil {
						continue
					}
					typed, at, good = ch.Session, ch.At, append(good, line)
				}
				text := strings.Join(good, "\n")
				pasted, err := Apply(&Session{Format: SessionFormat, Title: "From text", Style: st}, lib, &PasteLines{Text: text})
				require.NoError(t, err)
				in, err := Import(t.Context(), []byte(text), "text", lib, st)
				require.NoError(t, err)
				require.Empty(t, in.Bad)
				want, err := typed.MarshalJSON()
				require.NoError(t, err)
				for how, s := range map[string]*Session{"pasted": pasted.Session, "imported": in.Session} {
					got, err := s.MarshalJSON()
					require.NoError(t, err)
					assert.JSONEq(t, string(want), string(got), "%s, %s %s %s", how, sides, count, sets)
				}
			}
		}
	}
}

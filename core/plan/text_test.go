package plan

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
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

// A class copied out of a mail: every line becomes what it is, the sides one side through, what follows "3 rounds" a circuit; what cannot be read stands in its
// place to be mended.
func TestAMailIsReadWhole(t *testing.T) {
	text := `> Hips & back, 25 min
> --------
>
> Hi all, here is the class for thursday, as promised

WARM UP
1. pelvic tilts x8
2) knee sways 5 each side (keep the shoulders heavy)
bridge 6 slow
easier: half way
ALL FOURS
RIGHT SIDE
fire hydrants 10
donkey kicks 10 + 10 pulses
LEFT SIDE
fire hydrants 10
donkey kicks 10 + 10 pulses
cat cow 5
3 rounds, 40 s on 20 s off:
squat jumps
plank shoulder taps
FLOOR
side lying leg lifts 12
clamshells 12
repeat on the other side
flumox the gribble 7
child's pose 5 breaths
ABS x2
chest lift 8
`
	in, err := Import(t.Context(), []byte(text), "text", lib, Style{})
	require.NoError(t, err)
	var kinds []string
	for i, l := range in.Lines {
		assert.Equal(t, i+1, l.N)
		kinds = append(kinds, strings.TrimSpace(string(l.As)+" "+l.Row))
	}
	assert.Equal(t, strings.Split("heading|note|note|note|note|heading|row 1.1.1|row 1.1.2|row 1.1.3|note|heading|heading|row 2.1.1|row 2.1.2|heading|row 2.1.1|row 2.1.2|row 2.2.1|heading|named 3.1.1|row 3.1.2|heading|row 4.1.1|row 4.1.2|row 4.1.2|kept 4.2.1|row 4.2.2|heading|row 5.1.1", "|"), kinds)
	s := in.Session
	assert.Equal(t, "Hips & back", s.Title)
	assert.Equal(t, "25:00", s.Target.String())
	assert.Equal(t, "Hi all, here is the class for thursday, as promised", s.Note)
	assert.Equal(t, "WARM UP[s(pelvic-tilt knee-sway bridge)]ALL FOURS[c(hydrant kickback)s(cat-cow)]Circuit[r(Squat jumps shoulder-tap)]FLOOR[c(side-lying-leg-lift clam)s(to mend childs-pose)]ABS[r(chest-lift)]", rowsOf(s))
	assert.Equal(t, Block{Rule: Rounds, Rounds: 3, On: 40 * clock.Second, Off: 20 * clock.Second}, Block{Rule: Rounds, Rounds: s.Sections[2].Blocks[0].Rounds, On: s.Sections[2].Blocks[0].On, Off: s.Sections[2].Blocks[0].Off})
	assert.Equal(t, 2, s.Sections[4].Blocks[0].Rounds)
	assert.Equal(t, "keep the shoulders heavy", s.Row(Path{1, 1, 2}).Note)
	assert.Equal(t, "easier: half way", s.Row(Path{1, 1, 3}).Note)
	assert.Equal(t, "flumox the gribble 7", s.Row(Path{4, 2, 1}).Rest.Kept)
	require.Len(t, in.Bad, 1)
	_, err = New(lib, in)
	require.NoError(t, err)
}

// What nobody means as a class: nothing is lost, nothing breaks, and what comes of it can be kept.
func TestOddTextsAreKept(t *testing.T) {
	for _, text := range []string{
		"....\n----\n____\n", "constructor\n__proto__\ntoString", "the a an of\nand\nor", "8\n10 each side\nhold 30 s", strings.Repeat("n", 200) + " 8", "SQUATS\nsquat 8\nSQUATS", "right side\nleft side\nright side\nsquat 8",
		"repeat on the other side\nother side", "99 rounds of nothing\n0 rounds\n3 rounds", "שלום עולם 8\nمرحبا\n\u202esquat 8", "name\tdose\nsquat\t8\nbridge\t6", "> > > squat 8\n>> bridge 6", "x3\n x 3\n3x", "Title:\n:\n::\n#", "(8)\n[squat]\nsquat (", "1)\na)\n-\n*",
	} {
		in, err := Import(t.Context(), []byte(text), "text", lib, Style{})
		require.NoError(t, err, text)
		assert.Len(t, in.Lines, 1+strings.Count(strings.TrimSpace(text), "\n"), text)
		kept := ""
		b, err := in.Session.MarshalJSON()
		require.NoError(t, err)
		kept = string(b)
		for _, l := range in.Bad {
			words := strings.Fields(unbullet(unquote(l.Raw)))
			if len(words) > 0 && !strings.ContainsAny(words[0], "\u202e<>&") && len(words[0]) < 60 {
				assert.Contains(t, kept, strings.Trim(strings.ReplaceAll(words[0], `"`, `\"`), "\t"), text)
			}
		}
		if in.Session.understood() {
			_, err = New(lib, in)
			assert.NoError(t, err, text)
		}
	}
	_, err := Import(t.Context(), []byte(strings.Repeat("squat 8\n", 5000)), "text", lib, Style{})
	assert.ErrorContains(t, err, "at most 1000 are read")
}

func FuzzText(f *testing.F) {
	for _, s := range []string{
		"> Hips, 25 min\nWARM UP x2\nRIGHT SIDE\nhydrants 10\nLEFT SIDE\nhydrants 10\nsame on the left", "3 rounds, 40/20:\nkneeling leg sweeps 8-10 slow (easier: less)\nrepeat on the other side", "hold the plank 30 s\nright 8 left 6 clam\nbrid dog x8", "....\n(8)\n#",
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		in, err := Import(t.Context(), []byte(s), "text", lib, Style{})
		if err != nil {
			return // too long, or more rows than a class holds
		}
		for i, l := range in.Lines {
			require.Equal(t, i+1, l.N)
			require.NotEmpty(t, l.As)
		}
		if in.Session.Rows() == 0 {
			return
		}
		ch, err := New(lib, in)
		if err != nil {
			return // what the gate does not take, it says
		}
		back, err := ReadSession(ch.Sealed.Text(), lib)
		require.NoError(t, err, "%q", s)
		require.Equal(t, in.Session.Rows(), back.Rows())
	})
}

// A class out of a mail: greeting and thanks are words, a title in capitals may come after them, parts of a class are headings without a colon, a circuit is said
// in one line and ends with "then", what stands in brackets is a note.
func TestAClassOutOfAMail(t *testing.T) {
	text := `Subject: Fwd: thursday
> > Hi Anna, can you cover Thursday? This is what I do:

LUNCH CLASS (45 mins)

Warm up
- standing roll down x 3
- shoulder rolls 5 back 5 forward
Circuit x3, 45s on / 15s off
press ups (on knees ok)
squat
then
Side lying (all on the right, then turn over)
 * leg circles 8 each way
7) 100s
lunges 8
Thanks so much, x`
	s, _, report, err := readText(t.Context(), text, lib, Style{})
	require.NoError(t, err)
	var got []string
	for _, l := range report {
		got = append(got, string(l.As)+" "+l.Row+" "+l.Says)
	}
	assert.Equal(t, []string{
		"note  Subject: Fwd: thursday", "note  Hi Anna, can you cover Thursday? This is what I do:", "note  ", "heading  the title LUNCH CLASS, 45:00", "note  ",
		"heading  Warm up", "row 1.1.1 Standing roll-down 3 reps", "named 1.1.2 Shoulder rolls 5 each way · standing · both sides at once · 4.5 s each · works shoulders, upper back",
		"heading  Circuit", "row 2.1.1 Push-up", "row 2.1.2 Squat", "note  ", "heading  Side lying (all on the right, then turn over)", "row 3.1.1 Side-lying circles 8 each way",
		"row 3.1.2 The hundred", "row 3.1.3 Split lunge 8 reps", "note  Thanks so much, x",
	}, got)
	assert.Equal(t, "LUNCH CLASS", s.Title)
	assert.Equal(t, 45*clock.Minute, s.Target)
	b := s.Sections[1].Blocks[0]
	assert.Equal(t, Rounds, b.Rule)
	assert.Equal(t, 3, b.Rounds)
	assert.Equal(t, 45*clock.Second, b.On)
	assert.Equal(t, 15*clock.Second, b.Off)
	assert.Equal(t, "on knees ok", b.Rows[0].Note)
	assert.Contains(t, s.Note+s.Sections[2].Blocks[0].Rows[2].Note, "Thanks so much")
}

package movement

import (
	"encoding/json"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/dose"
)

func each(visit func(m *Movement, n int)) {
	for _, m := range Shipped().All() {
		for n := range m.Levels {
			visit(m, n+1)
		}
	}
}

// What is known of every level: how much of it, what comes first, what names its side, what is looked at.
func TestEveryLevelIsProgrammed(t *testing.T) {
	lib := Shipped()
	each(func(m *Movement, n int) {
		at := m.Slug + " " + m.At(n).Changes
		b, ok := m.Bounds(n)
		require.True(t, ok, at)
		assert.LessOrEqual(t, b.Min, b.Usual, at)
		assert.LessOrEqual(t, b.Usual, b.Max, at)
		assert.Positive(t, b.Step, at)
		assert.Less(t, b.Min, b.Max, at)
		d := m.As(n).Dose
		for _, v := range []int{b.Min, b.Usual, b.Max} { // every amount can be said, and counts what was asked for
			made := WithAmount(d, v)
			assert.True(t, made.Sayable(), "%s: %s", at, made)
			got, unit, _ := Amount(made)
			assert.Equal(t, v, got, "%s: %s", at, made)
			assert.Equal(t, b.Unit, unit, at)
		}
		assert.Equal(t, d.String(), WithAmount(d, b.Usual).String(), at)
		assert.Contains(t, []int{1, 2, 3}, m.Skill(n), at)
		if n > 1 {
			assert.GreaterOrEqual(t, m.Skill(n), m.Skill(n-1), at)
		}
		for _, need := range m.At(n).Needs {
			o, _ := lib.Get(need.Slug)
			assert.LessOrEqual(t, o.Skill(need.Level), m.Skill(n), "%s needs %s, which asks for more", at, need)
			if !m.Judged(n) && !o.Judged(need.Level) {
				assert.LessOrEqual(t, o.At(need.Level).Demand, m.At(n).Demand+2, "%s needs %s, which is far heavier", at, need)
			}
		}
		c := m.CheckOf(n)
		for _, w := range []string{c.Look, c.Lost, c.Then, c.Felt, c.Not} {
			assert.NotEmpty(t, w, at)
		}
		if s := m.As(n).Sides; s == Both {
			assert.Empty(t, m.NamedBy(n), at)
		} else {
			assert.NotEmpty(t, m.NamedBy(n), at)
		}
		if p := m.As(n).Posture; p == SideLying && m.As(n).Sides == Each {
			assert.Contains(t, []Naming{ByTop, ByBottom}, m.NamedBy(n), at)
		}
		if m.Has(n, Lands) {
			assert.NotEmpty(t, m.At(n).Quiet, at)
			for _, a := range []Audience{Older, Expecting, ExpectingFirst, LowBone, SinceBirth} {
				assert.False(t, m.Suits(n, a), "%s lands and is kept for %s", at, a.Called())
			}
			assert.NotEqual(t, Keep, m.CareOf(n, Impact).Does, at)
		} else {
			assert.Equal(t, Keep, m.CareOf(n, Impact).Does, at)
		}
	})
	for _, m := range lib.All() {
		if m.Rest || m.Pattern == "breathe" || m.Pattern == "rest" {
			assert.NotContains(t, m.RolesOf(), Peak, m.Slug)
		}
	}
}

// Judged tells whether level n is, of one level or all.
func (m *Movement) Judged(n int) bool { return !m.At(n).Computed }

// Prerequisites lead nowhere in circles.
func TestNeedsEnd(t *testing.T) {
	lib := Shipped()
	var depth func(slug string, level, left int) int
	depth = func(slug string, level, left int) int {
		require.Positive(t, left, "what %s %d needs goes round in a circle", slug, level)
		m, _ := lib.Get(slug)
		deepest := 0
		for _, n := range m.NeedsAt(level) {
			deepest = max(deepest, 1+depth(n.Slug, n.Level, left-1))
		}
		return deepest
	}
	each(func(m *Movement, n int) { assert.LessOrEqual(t, depth(m.Slug, n, 20), 8, m.Slug) })
}

// The classical mat repertory has its prerequisites by common practice, no source: the roll-up before the roll-over and the
// teaser, the bridge before its march, the plank before the leg pull and the push-up.
func TestNeedsOfTheTrade(t *testing.T) {
	lib := Shipped()
	var reaches func(slug string, level int, want string) bool
	reaches = func(slug string, level int, want string) bool {
		m, _ := lib.Get(slug)
		for _, n := range m.NeedsAt(level) {
			if n.Slug == want || reaches(n.Slug, n.Level, want) {
				return true
			}
		}
		return false
	}
	for _, c := range []string{
		"roll-over roll-up", "teaser roll-up", "neck-pull roll-up", "jackknife roll-over", "boomerang roll-over", "control-balance roll-over", "leg-pull-front full-plank",
		"push-up full-plank", "full-plank forearm-plank", "bridge-march bridge", "roller-bridge bridge", "swan-dive swan", "open-leg-rocker rolling-like-a-ball", "seal rolling-like-a-ball",
		"criss-cross chest-lift", "hundred chest-lift", "side-bend side-plank", "rocking dart", "swimming locust",
	} {
		from, want, _ := strings.Cut(c, " ")
		m, ok := lib.Get(from)
		require.True(t, ok, from)
		assert.True(t, reaches(from, len(m.Levels), want), "%s does not ask for %s", from, want)
	}
}

// A class can be laid for every theme, and an arc from what there is.
func TestThereIsMaterial(t *testing.T) {
	byTheme, byRole, byPattern := map[string]map[string]bool{}, map[Role]int{}, map[string]int{}
	for _, m := range Shipped().All() {
		byPattern[m.Pattern]++
		for _, r := range m.Roles {
			byRole[r]++
		}
		for _, th := range m.Themes {
			if byTheme[th] == nil {
				byTheme[th] = map[string]bool{}
			}
			byTheme[th][m.Pattern] = true
		}
	}
	for _, r := range Roles() {
		assert.GreaterOrEqual(t, byRole[r], 8, r)
	}
	for _, p := range Patterns() {
		assert.Positive(t, byPattern[p], p)
	}
	for _, th := range []string{"spine", "back", "upper back", "shoulders", "core", "waist", "hips", "seat", "legs", "balance", "hamstrings"} {
		assert.GreaterOrEqual(t, len(byTheme[th]), 3, "%s: patterns", th)
	}
}

// Every word of breath is read, its phases fill the repetition, in the order of the words.
func TestBreathIsPhases(t *testing.T) {
	each(func(m *Movement, n int) {
		ps, over := m.PhasesOf(n)
		at := m.Slug + ": " + m.As(n).Breath
		require.NotEmpty(t, ps, at)
		assert.Positive(t, over, at)
		sum := 0.
		for _, p := range ps {
			sum += p.Share
			assert.Positive(t, p.Share, at)
			if p.Breath == AnyBreath || p.Breath == BreathHeld || p.Does == "" { // "longer out": the way in goes without saying
				continue
			}
			assert.Contains(t, m.As(n).Breath, string(p.Breath), at)
		}
		assert.InDelta(t, 1, sum, 1e-9, at)
		if f, _, _ := strings.Cut(m.As(n).Breath, " "); f == "in" || f == "out" {
			assert.Equal(t, Breath(f), ps[0].Breath, at)
			assert.Equal(t, Breath(f), m.BreathAt(n, 0).Breath, at)
			assert.Equal(t, Breath(f), m.BreathAt(n, float64(over)*3).Breath, at)
		}
		assert.Equal(t, ps[len(ps)-1], m.BreathAt(n, float64(over)*.9999), at)
	})
	stretch, _ := Shipped().Get("single-leg-stretch")
	var said []string // two switches in, two out: a switch is a repetition
	for k := range 8 {
		said = append(said, string(stretch.BreathAt(2, float64(k)+.5).Breath))
	}
	assert.Equal(t, "in in out out in in out out", strings.Join(said, " "))
	for words, want := range map[string]string{
		"out to lift, in to lower": "out 0.50, in 0.50", "out to roll up, in at the top, out to roll down": "out 0.40, in 0.20, out 0.40", "slow, and longer out": "in 0.40, out 0.60",
		"in by the nose, longer out": "in 0.40, out 0.60", "easy, do not hold it": "any 1.00", "in and out by the nose": "any 1.00", "five beats in, five beats out": "in 0.50, out 0.50",
		"": "any 1.00", "in": "any 1.00", "in, hold it, out": "in 0.33, hold 0.33, out 0.33", "quick, out": "any 1.00", "in to reach, hold nothing while they open, out to come home": "in 0.33, any 0.33, out 0.33",
		",,,": "any 1.00", "in,": "any 1.00", "and out to lift, and in": "out 0.50, in 0.50",
	} {
		var got []string
		for _, p := range BreathPhases(words) {
			got = append(got, string(p.Breath)+" "+twoPlaces(p.Share))
		}
		assert.Equal(t, want, strings.Join(got, ", "), words)
	}
}

func twoPlaces(v float64) string {
	b, _ := json.Marshal(math.Round(v * 100))
	s := string(b)
	for len(s) < 3 {
		s = "0" + s
	}
	return s[:len(s)-2] + "." + s[len(s)-2:]
}

func FuzzBreathPhases(f *testing.F) {
	for _, m := range Shipped().All() {
		f.Add(m.Breath)
	}
	f.Fuzz(func(t *testing.T, words string) {
		ps, sum := BreathPhases(words), 0.
		require.NotEmpty(t, ps)
		for _, p := range ps {
			sum += p.Share
		}
		assert.InDelta(t, 1, sum, 1e-9)
		require.NoError(t, checkPhases(ps, words))
	})
}

// A family is whole from whichever of its movements one looks, and is found by the name of its head.
func TestFamilies(t *testing.T) {
	lib := Shipped()
	families := 0
	for _, m := range lib.All() {
		fam := lib.FamilyOf(m)
		if fam == nil {
			assert.Empty(t, m.VersionOf, m.Slug)
			continue
		}
		if fam[0] == m {
			families++
			found := lib.Search(m.Name)
			for _, o := range fam {
				assert.Contains(t, found, o, "%s: searched by %q", o.Slug, m.Name)
				assert.Equal(t, fam, lib.FamilyOf(o))
			}
			assert.Equal(t, m, found[0])
		}
		assert.Contains(t, fam, m)
	}
	assert.GreaterOrEqual(t, families, 25)
	bridge, _ := lib.Get("bridge")
	var slugs []string
	for _, o := range lib.FamilyOf(bridge) {
		slugs = append(slugs, o.Slug)
	}
	assert.Subset(t, slugs, []string{"bridge", "bridge-march", "bridge-dips", "bridge-toes", "bridge-arms", "bridge-squeeze", "roller-bridge"})
}

func TestKitIsReadAsItIsSaid(t *testing.T) {
	for said, want := range map[string]Thing{
		"roller":                            {"roller", 1, false, "two rolled towels, end to end"},
		"hand weights":                      {"hand weights", 2, false, "two small bottles of water"},
		"2 blocks":                          {"block", 2, false, "a thick book"},
		"3 boxes":                           {"boxes", 3, false, ""},
		"wall or sofa":                      {"wall", 1, false, "sofa"},
		"cushion, optional":                 {"cushion", 1, true, "a folded blanket"},
		"block, or a brick (optional)":      {"block", 1, true, "a brick"},
		" magic   circle ":                  {"magic circle", 1, false, ""},
		"":                                  {"", 1, false, ""},
		"optional":                          {"optional", 1, false, ""},
		"strap, or a towel, or a scarf":     {"strap", 1, false, "a towel, or a scarf"},
		"2 cushions, or blankets, optional": {"cushion", 2, true, "blankets"},
	} {
		got := ReadThing(said)
		assert.Equal(t, want, got, said)
		assert.Equal(t, got, ReadThing(got.String()), "said again: %s", got)
	}
	each(func(m *Movement, n int) {
		for _, k := range m.KitAt(n) {
			assert.Contains(t, KnownKit(), k.Name, m.Slug)
			assert.Equal(t, k, ReadThing(k.String()), m.Slug)
			assert.Equal(t, !k.Optional, slices.Contains(m.Things(n), k.Name), m.Slug)
		}
	})
}

func FuzzReadThing(f *testing.F) {
	f.Add("2 blocks, or books, optional")
	f.Fuzz(func(t *testing.T, s string) {
		if k := ReadThing(s); k.Count < 1 {
			t.Fatal(k)
		}
	})
}

// What programming needs is kept by the document, and refused where it is wrong, with the place.
func TestProgrammingInADocument(t *testing.T) {
	lib := Shipped()
	full := strings.Replace(own, `"gives_back":`, `"pattern":"side bend","range":{"min":3,"usual":6,"max":9,"step":1},"roles":["mobilise","counter"],"themes":["waist"],"version_of":"standing-side-bend",
"named_by":"towards","breath_over":2,"feel":"a hand on the ribs","when_lost":"smaller","felt":"the long side","not_felt":"the low back","assist":"hold the hips","alone":"hips against the wheel","kit":["2 blocks, or books","cushion, optional"],"gives_back":`, 1)
	full = strings.Replace(full, `"breath":"out to lean"`, `"breath":"out to lean, in to come back","phases":[{"breath":"out","does":"to lean","share":0.7},{"breath":"in","share":0.3}]`, 1)
	full = strings.Replace(full, `"why":"longer lever"`, `"why":"longer lever","skill":2,"needs":["standing-side-bend 2","march"],"range":{"min":2,"max":6,"step":2},"quiet":"without the hop","loads":["impact"],"felt":"further up"`, 1)
	m, err := ReadOwn([]byte(full), lib)
	require.NoError(t, err)
	out, err := Seal(m, lib)
	require.NoError(t, err)
	for _, w := range []string{
		`"pattern":"side bend"`, `"range":{"min":3,"usual":6,"max":9,"step":1}`, `"roles":["mobilise","counter"]`, `"themes":["waist"]`, `"version_of":"standing-side-bend"`, `"named_by":"towards"`, `"breath_over":2`,
		`"feel":"a hand on the ribs"`, `"when_lost":"smaller"`, `"felt":"the long side"`, `"not_felt":"the low back"`, `"assist":"hold the hips"`, `"alone":"hips against the wheel"`, `"skill":2`,
		`"needs":["standing-side-bend 2","march 1"]`, `"range":{"min":2,"usual":6,"max":6,"step":2}`, `"quiet":"without the hop"`, `"felt":"further up"`, `{"breath":"out","does":"to lean","share":0.7}`,
	} {
		assert.Contains(t, string(out), w)
	}
	st, err := lib.With([]OwnVersion{{Movement: m, Version: 1, Newest: true}}, nil)
	require.NoError(t, err)
	got, _ := st.Get("own-wheel-lean")
	assert.Equal(t, Bounds{2, 6, 6, 2, CountReps}, must(got.Bounds(2)))
	assert.Equal(t, "further up", got.CheckOf(2).Felt)
	assert.Equal(t, BreatheOut, got.BreathAt(1, 1.3).Breath)
	assert.Equal(t, BreatheIn, got.BreathAt(1, 1.5).Breath)
	assert.Contains(t, st.FamilyOf(got), got)
	assert.Equal(t, Lighter, got.CareOf(2, Impact).Does)
	assert.Equal(t, []string{"block"}, got.Things(1))
	for _, c := range []struct{ from, to, want string }{
		{`"pattern":"side bend"`, `"pattern":"wiggle"`, "$.pattern: \"wiggle\": expected one of breathe"},
		{`"usual":6,"max":9`, `"usual":7,"max":9`, "$.range.usual: 7: the usual dose asks for 6"},
		{`"min":3,"usual":6,"max":9`, `"min":7,"max":9`, "$.range: 7 to 9 by 1: the usual dose asks for 6"},
		{`"min":3,"usual":6,"max":9,"step":1`, `"min":9,"max":3`, "$.range: 9 to 3 by 1: expected"},
		{`"step":1`, `"step":0`, "$.range.step: "},
		{`"mobilise","counter"`, `"mobilise","mobilise"`, "$.roles[1]: "},
		{`"themes":["waist"]`, `"themes":["tail"]`, "$.themes[0]: \"tail\": expected spine"},
		{`"version_of":"standing-side-bend"`, `"version_of":"own-wheel-lean"`, "$.version_of: no movement"},
		{`"named_by":"towards"`, `"named_by":"up"`, "$.named_by: "},
		{`"breath_over":2`, `"breath_over":0`, "$.breath_over: "},
		{`"share":0.7`, `"share":0.9`, "$.phases: the shares add up to 1.2"},
		{`{"breath":"out","does"`, `{"breath":"in","does"`, "$.phases: the phases go in, in, and the words out, in"},
		{`"assist":"hold the hips",`, ``, "$.alone: "},
		{`"alone":"hips against the wheel",`, ``, "$.assist: say also what to do alone"},
		{`"skill":2`, `"skill":4`, "$.levels[1].skill: "},
		{`"standing-side-bend 2"`, `"standing-side-bend 9"`, "$.levels[1].needs[0]: "},
		{`"standing-side-bend 2"`, `"standing-side-bend x"`, "$.levels[1].needs[0]: "},
		{`"quiet":"without the hop",`, ``, "$.levels[1]: \"quiet\" is missing"},
		{`"range":{"min":2`, `"range":{"least":2,"min":2`, "$.levels[1].range.least: unknown key"},
	} {
		require.Contains(t, full, c.from)
		_, err := ReadOwn([]byte(strings.Replace(full, c.from, c.to, 1)), lib)
		require.Error(t, err, c.to)
		assert.Contains(t, err.Error(), c.want)
	}
}

func must[T any](v T, ok bool) T {
	if !ok {
		panic("not there")
	}
	return v
}

// A movement that says nothing of it, as all documents so far, has what follows from the rest.
func TestWhatFollowsWhereNothingIsSaid(t *testing.T) {
	m, err := ReadOwn([]byte(own), Shipped())
	require.NoError(t, err)
	_, err = Shipped().With([]OwnVersion{{Movement: m, Version: 1, Newest: true}}, nil)
	require.NoError(t, err)
	assert.Equal(t, []Role{Mobilise}, m.RolesOf())
	assert.Equal(t, []string{"waist"}, m.ThemesOf())
	assert.Equal(t, Bounds{3, 6, 9, 1, CountReps}, must(m.Bounds(1)))
	assert.Equal(t, ByWorking, m.NamedBy(1))
	assert.Equal(t, 1, m.Skill(2))
	assert.Equal(t, "smaller", m.CheckOf(1).Then)
	m.Ease = "Éasier."
	assert.Equal(t, "éasier", m.CheckOf(1).Then)
	for text, want := range map[string]string{"hold 20 s": "20 seconds", "hold 5 breaths": "5 breaths", "8 alternating": "4 repetitions", "10 pairs": "10 repetitions", "5 each way each side": "5 repetitions", "3 x 8": "8 repetitions", "30 s": "30 seconds"} {
		d, err := dose.Parse(text)
		require.NoError(t, err, text)
		n, unit, ok := Amount(d)
		require.True(t, ok, text)
		assert.Equal(t, want, jsonOf(n)+" "+string(unit), text)
	}
}

func jsonOf(v any) string {
	b, _ := json.Marshal(v)
	return string(b)
}

// A studio's own version of a shipped movement answers with the lines the table has for that one: making it our own loses no
// caution.
func TestOwnVersionsKeepTheirCautions(t *testing.T) {
	lib := Shipped()
	weaker := 0
	for _, m := range lib.All() {
		text, err := json.Marshal(m)
		require.NoError(t, err)
		c, err := ReadOwn(text, lib)
		require.NoError(t, err)
		c.VersionOf = m.Slug
		_, err = lib.With([]OwnVersion{{Movement: c, Version: 1, Newest: true}}, nil)
		require.NoError(t, err)
		for n := range m.Levels {
			for _, topic := range Topics() {
				want, got := m.CareOf(n+1, topic), c.CareOf(n+1, topic)
				if want.Does != got.Does {
					weaker++
					assert.Equal(t, want, got, "%s %d: %s", m.Slug, n+1, topic)
				}
			}
		}
	}
	assert.Zero(t, weaker)
}

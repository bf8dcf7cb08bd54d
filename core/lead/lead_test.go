package lead

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"wavekine/core/clock"
	"wavekine/core/movement"
	"wavekine/core/plan"
	"wavekine/core/timeline"
)

func steps(t testing.TB, style, blocks string) ([]Step, *timeline.Timeline) {
	t.Helper()
	lib := movement.Shipped()
	s, err := plan.ReadSession([]byte(`{"format":"wavekine.session/1.3","title":"T","style":{`+style+`},"sections":[{"title":"A","blocks":[`+blocks+`]}]}`), lib)
	require.NoError(t, err)
	tl, err := timeline.Build(s, lib)
	require.NoError(t, err)
	return Steps(s, tl), tl
}

// Every rule of sides, mirrored and not, either side first: what is said is the mover's side, mirrored the other limb
// of whoever leads moves, not mirrored the same one and they see it on the other side.
func TestSideOfEveryRule(t *testing.T) {
	other := map[string]string{"right": "left", "left": "right"}
	for _, rule := range []string{
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"2 x 8 each side"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps","sides":"right"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps","sides":"left"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps","left":{"dose":"6 reps"}}]}`,
		`{"rule":"straight","rows":[{"movement":"criss-cross","dose":"8 pairs"}]}`,
		`{"rule":"straight","rows":[{"movement":"squat","dose":"8 reps"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps","faces":"front"}]}`,
		`{"rule":"straight","rows":[{"movement":"clam","dose":"8 reps","faces":"back"}]}`,
		`{"rule":"straight","rows":[{"movement":"standing-leg-side","dose":"8 reps"}]}`,
		`{"rule":"chain","rows":[{"movement":"clam","dose":"8 reps"},{"movement":"side-lying-leg-lift","dose":"8 reps"}]}`,
		`{"rule":"rounds","rounds":2,"rows":[{"movement":"clam","dose":"8 reps"}]}`,
		`{"rule":"rounds","rounds":2,"on":"40 s","off":"20 s","rows":[{"movement":"clam"},{"movement":"criss-cross"},{"movement":"squat"}]}`,
	} {
		for _, first := range []string{"right", "left"} {
			ss, tl := steps(t, `"first_side":"`+first+`"`, rule)
			sided, before := 0, ""
			for i, s := range ss {
				side := tl.Steps[i].Side.String()
				require.Equal(t, side, s.Side)
				if !tl.Steps[i].Kind.Working() {
					continue
				}
				switch side {
				case "right", "left":
					sided++
					limb := tl.Steps[i].Move.Limb
					lie := ""
					if tl.Steps[i].Posture == movement.SideLying {
						lie = "lie on your " + other[side]
					}
					plain := Told{side + " " + limb, "your " + side, lie}
					switch s.Facing {
					case "front":
						assert.Equal(t, Told{strings.ToUpper(side) + " " + limb, "your " + other[side], lie}, s.Mirrored)
						plain.Rest += "; they see it on the " + other[side]
					default: // from the side, or with the back to them, there is nothing to mirror
						assert.Equal(t, plain, s.Mirrored)
					}
					assert.Equal(t, plain, s.Plain)
					if before == "" && strings.Contains(rule, `"dose":"8 reps"}`) {
						assert.Equal(t, first, side, "the first side comes first: %s", rule)
					}
					before = side
				case "alternating":
					assert.Equal(t, Told{Say: "alternating sides"}, s.Mirrored)
				default:
					assert.Equal(t, Told{}, s.Plain)
				}
			}
			assert.Equal(t, strings.Contains(rule, "clam") || strings.Contains(rule, "leg-side"), sided > 0)
		}
	}
}

// The breath follows the dose where it counts breaths, else the repetitions, and is never shorter than 3 s.
func TestBreathOfEveryMovement(t *testing.T) {
	for _, m := range movement.Shipped().All() {
		for n := range m.Levels {
			ss, tl := steps(t, "", fmt.Sprintf(`{"rule":"straight","rows":[{"movement":%q,"level":%d}]}`, m.Slug, n+1))
			for i, s := range ss {
				st := &tl.Steps[i]
				one := clock.Span(s.In + s.Out)
				require.Positive(t, s.In, m.Slug)
				require.Positive(t, s.Out, m.Slug)
				switch {
				case st.BreathIn > 0:
					assert.Equal(t, st.BreathIn, clock.Span(s.In))
				case st.Reps > 0:
					assert.GreaterOrEqual(t, one, leastBreath)
					assert.Zero(t, one%(st.S/clock.Span(st.Reps)), "whole repetitions a breath: %s", m.Slug)
				default:
					assert.Equal(t, calmBreath, one)
				}
			}
		}
	}
	ss, _ := steps(t, "", `{"rule":"straight","rows":[{"movement":"hundred","dose":"10 breaths, 5 in 5 out"}]}`)
	for _, s := range ss {
		if s.Kind == "work" {
			assert.EqualValues(t, 2750, s.In, "five beats of 0.55 s (common practice)")
		}
	}
}

// A cue of a step that turns out longer or shorter comes where it would have been planned then.
func TestCuesComeFromTheirRule(t *testing.T) {
	ss, tl := steps(t, "", `{"rule":"straight","rows":[{"movement":"squat","dose":"12 reps"},{"movement":"full-plank","dose":"hold 40 s"},{"movement":"clam","dose":"8 each side"}]}`)
	seen := map[string]bool{}
	for i, s := range ss {
		st := &tl.Steps[i]
		for k, c := range s.Cues {
			seen[c.Cue] = true
			per := int64(0)
			if s.Reps > 0 {
				per = s.S / int64(s.Reps)
			}
			at := max(0, int64(float64(s.S)*c.Share)-c.Before-int64(c.Reps)*per)
			assert.Equal(t, int64(st.Cues[k].At-st.At), at, c.Cue)
			longer := st.Cues[k].In(2*st.S, 2*clock.Span(per))
			switch c.Cue {
			case "start":
				assert.Zero(t, longer)
			case "halfway":
				assert.Equal(t, st.S, longer)
			case "last two":
				assert.Equal(t, 2*st.S-4*clock.Span(per), longer)
			case "ten seconds":
				assert.Equal(t, 2*st.S-10*clock.Second, longer)
			}
		}
	}
	for _, c := range []string{"start", "halfway", "last two", "ten seconds", "five to go", "next"} {
		assert.True(t, seen[c], c)
	}
}

func TestOptionsAndWords(t *testing.T) {
	ss, _ := steps(t, `"pelvis":"neutral"`, `{"rule":"straight","rows":[{"movement":"hundred","level":2,"demo":1},{"movement":"squat","level":1},{"rest":"20 s","say":"Sip"},{"movement":{"name":"Clay press","posture":"standing","sides":"both"}}]}`)
	byName := map[string]Step{}
	for _, s := range ss {
		if s.Kind == "work" || s.Kind == "rest" || s.Kind == "hold" {
			byName[s.Name] = s
		}
	}
	h := byName["The hundred"]
	assert.Equal(t, 1, h.EasyLvl)
	assert.Equal(t, 1, h.Shown)
	assert.NotEmpty(t, h.Harder)
	assert.Contains(t, h.Says, "Pelvis neutral.")
	q := byName["Squat"]
	assert.Zero(t, q.EasyLvl)
	assert.NotEmpty(t, q.Easier, "the word for easier than the first level")
	assert.Equal(t, "Sip", byName["Rest"].Says)
	assert.Empty(t, byName["Clay press"].Easier)
}

package door

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"wavekine/web/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/trustelem/zxcvbn"

	"wavekine/demo"
)

// What is refused and what is not. Those refused are the ways people make a short habit long (common practice; the words
// are the first of the published lists of leaked passwords).
func TestWeakPasswords(t *testing.T) {
	own := []string{"Maren Holloway", "maren@claybank.example", "Claybank Pottery"}
	for _, weak := range []string{
		"passwordpassword", "password12345678", "Password1234567!", "123456789012345", "1234567890123456", "000000000000000", "qwertyuiopasdfgh", "qwertzuiopyxcvb", "1qaz2wsx3edc4rfv", "asdfghjklasdfghjkl",
		"iloveyouiloveyou", "letmeinletmeinletmein", "abcdefghijklmnop", "zyxwvutsrqponmlk", "aaaaaaaaaaaaaaaa", "abababababababab", "abc123abc123abc123", "dragonmonkeydragon", "P@ssw0rdP@ssw0rd", "pilatespilatespilates",
		"wavekinewavekine", "marenholloway123", "MarenHolloway!!!", "maren@claybank.example", "claybank pottery", "Claybank-Pottery-1", "               ", "- - - - - - - - -", "..............................",
	} {
		assert.Contains(t, weakness(weak, own...), "easy to guess", weak)
	}
	for _, fine := range []string{
		demo.Password, "three odd kettles", "correct horse battery staple", "ein langer satz mit wörtern", "quiet lamps on stairs", "lantern voyage teapot", "Xk9$wQ2m!vR7pLz", "4815 clay and 162342 rain", "käsekuchen und zwei löffel", "каждый охотник желает", "盛んに踊る三匹の猫がいる午後の日",
		strings.Repeat("one long sentence about nothing ", 4),
	} {
		assert.Empty(t, weakness(fine, own...), fine)
	}
	assert.Contains(t, weakness("fourteen chars"), "from 15 to 128")
	assert.Contains(t, weakness(strings.Repeat("x", 129)), "from 15 to 128")
	assert.Contains(t, weakness("a tab\tin the middle of it"), "cannot be typed")
	assert.Contains(t, weakness("not text \xff at all, no"), "cannot be typed")
	assert.Len(t, strings.Fields(common), 30000)
	assert.True(t, strings.HasPrefix(common, "123456\npassword\n"))
}

// Against the estimator that the list and the model come from, an independent program: what that calls easy (fewer than
// 10^8 guesses, its score below 3) is refused here too, and what it calls hard by far (10^15) is taken.
func TestWeakPasswordsAgainstTheReference(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 1126))
	words := strings.Fields(common)
	odd := strings.Fields("kettle lantern stairs voyage marble teapot anchor willow copper thunder pebble harvest cinder orchard velvet")
	easy, hard, taken := 0, 0, 0
	for range 1500 {
		var b strings.Builder
		lazy := r.IntN(2) == 0 // one thing again and again
		for b.Len() < MinPassword || !lazy && b.Len() < 2*MinPassword {
			n := r.IntN(7)
			if lazy {
				n = []int{0, 2, 4, 6}[r.IntN(4)]
			}
			if lazy && b.Len() > 0 {
				n = 5
			}
			switch n {
			case 0, 1:
				b.WriteString(words[r.IntN(200)])
			case 2:
				b.WriteString(words[r.IntN(len(words))])
			case 3:
				b.WriteString(odd[r.IntN(len(odd))] + " ")
			case 4:
				b.WriteString(strings.Repeat(string(rune('0'+r.IntN(10))), 2+r.IntN(4)))
			case 5:
				b.WriteString(b.String())
			default:
				b.WriteString([]string{"123", "abc", "!", "qwe", "2019", "-"}[r.IntN(6)])
			}
		}
		p := b.String()
		if len(p) > 60 {
			p = p[:60]
		}
		ref := math.Log10(zxcvbn.PasswordStrength(p, nil).Guesses)
		mine := guesses(p, nil)
		switch {
		case ref < 8:
			easy++
			assert.Less(t, mine, enough, "%q: the reference says 10^%.1f, we 10^%.1f", p, ref, mine)
		case ref > 15:
			hard++
			if mine >= enough {
				taken++
			}
		}
	}
	require.Greater(t, easy, 150)
	require.Greater(t, hard, 150)
	t.Logf("%d easy ones all refused, %d of %d hard ones taken", easy, taken, hard)
	assert.GreaterOrEqual(t, float64(taken), .95*float64(hard))
}

func BenchmarkWeakness(b *testing.B) {
	for _, n := range []int{16, 32, 64, 128} {
		p := strings.Repeat("a1Qz9-", 30)[:n]
		b.Run(fmt.Sprint(n, "characters"), func(b *testing.B) {
			for b.Loop() {
				_ = weakness(p)
			}
		})
	}
}

func TestAddressesThatCountAsOne(t *testing.T) {
	for ip, want := range map[string]string{
		"203.0.113.7": "203.0.113.7", "::ffff:203.0.113.7": "203.0.113.7", "2001:db8:1:2:3:4:5:6": "2001:db8:1:2::/64", "2001:db8:1:2:ffff::1": "2001:db8:1:2::/64", "fe80::1%eth0": "fe80::/64", "odd": "odd",
	} {
		assert.Equal(t, want, kit.AddressKey(ip))
	}
}

package door

import (
	"context"
	_ "embed"
	"fmt"
	"math"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/gin-gonic/gin"
	"golang.org/x/text/unicode/norm"

	"wavekine/web/kit"
)

// hashing is argon2id with 19 MiB, two passes, one lane (OWASP Password Storage Cheat Sheet).
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// atOnce bounds how many passwords are worked on at the same moment, each in 19 MiB; others wait.
var atOnce = make(chan struct{}, 4)

func hold(ctx context.Context) error {
	select {
	case atOnce <- struct{}{}:
		return nil
	case <-ctx.Done():
		return context.Cause(ctx)
	}
}

func letGo() { <-atOnce }

// HashPassword makes a salted argon2id hash in the usual $-separated form.
func HashPassword(password string) string {
	h, err := argon2id.CreateHash(normal(password), hashing)
	if err != nil {
		panic(err) // only without a source of randomness
	}
	return h
}

func hashPassword(c *gin.Context, password string) (string, error) {
	if err := hold(kit.Bounded(c)); err != nil {
		return "", err
	}
	defer letGo()
	return HashPassword(password), nil
}

// CheckPassword compares in constant time; a hash that cannot be read matches nothing.
func CheckPassword(hash, password string) bool {
	same, err := argon2id.ComparePasswordAndHash(normal(password), hash)
	if n := normal(password); err == nil && !same && n != password { // stored before passwords were brought into one form
		same, err = argon2id.ComparePasswordAndHash(password, hash)
	}
	return err == nil && same
}

// nobodysHash costs as much to check as somebody's, so that timing does not tell who has an account.
var nobodysHash = sync.OnceValue(func() string { return HashPassword("nobody has this password") })

func checkPassword(c *gin.Context, hash, password string) (right bool, err error) {
	if err := hold(kit.Bounded(c)); err != nil {
		return false, err
	}
	defer letGo()
	if hash == "" { // nobody, or nobody yet
		CheckPassword(nobodysHash(), password)
		return false, nil
	}
	return CheckPassword(hash, password), nil
}

// normal is a password in the one form in which it is hashed, however a keyboard has put its letters together
// (NIST SP 800-63B-4, 3.1.1.2: NFKC).
func normal(password string) string { return norm.NFKC.String(password) }

// Lengths of a password. The least is that of NIST SP 800-63B-4, 3.1.1.2 for a password without a second factor, from
// memory; the most keeps what is hashed small.
const (
	MinPassword      = 15 // characters
	maxPassword      = 128
	maxPasswordBytes = 4 * maxPassword
)

// enough is the number of guesses, as a power of ten, that a new password must stand: what the zxcvbn estimator calls
// "safely unguessable" (Wheeler 2016, USENIX Security).
const enough = 10.0

// weakness says what is wrong with a new password; empty when nothing is. own are words that belong to whoever chooses
// it: their name, e-mail, studio. Length comes first; no kind of character is asked for (NIST SP 800-63B-4, 3.1.1.2).
func weakness(password string, own ...string) string {
	p := normal(password)
	switch n := utf8.RuneCountInString(p); {
	case !utf8.ValidString(password) || strings.ContainsFunc(p, func(r rune) bool { return !unicode.IsPrint(r) }):
		return "The password has a character that cannot be typed."
	case n < MinPassword || n > maxPassword || len(password) > maxPasswordBytes:
		return fmt.Sprintf("The password: from %d to %d characters. Three or four words that do not belong together are long enough.", MinPassword, maxPassword)
	case guesses(p, own) < enough:
		return "That password is easy to guess: it is made of what others use often, of runs and repeats, or of your own name. Three or four words that do not belong together are better."
	}
	return ""
}

// common are the passwords that are used most, the most used first: the first 30,000 of the list that zxcvbn ships (MIT), but for two names, from
// M. Burnett's list of ten million leaked ones.
//
//go:embed common.txt
var common string

var ranks = sync.OnceValue(func() map[string]float64 {
	m := make(map[string]float64, 30000)
	for i, w := range strings.Fields(common) {
		m[w] = math.Log10(float64(i + 2))
	}
	return m
})

// longestPiece is the longest entry of the list that is looked for, in characters; longest the part of a password that is
// looked at: what comes behind makes no password worse.
const (
	longestPiece = 20
	longest      = 64
)

// guesses estimates how many guesses a password stands, as a power of ten: the cheapest way to put it together from
// common passwords, own words, runs, repeats of what stands before, and single characters at ten guesses each. That
// is zxcvbn's model without its dates and dictionaries: whole words of a language are only cheap here where they
// are used as passwords.
func guesses(password string, own []string) float64 {
	plain := []rune(unLeet(strings.ToLower(password)))
	raw := []rune(strings.ToLower(password))
	if len(raw) > longest || len(plain) != len(raw) {
		raw = raw[:min(len(raw), longest)]
		plain = []rune(unLeet(string(raw)))
	}
	mine := map[string]float64{"wavekine": 0.3, "pilates": 0.6, "mobility": 1}
	for _, text := range own {
		text = strings.ToLower(normal(text))
		for _, w := range append(strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), text) {
			if utf8.RuneCountInString(w) > 2 {
				mine[w] = 0.3
			}
		}
	}
	best := make([]float64, len(raw)+1)
	for end := 1; end <= len(raw); end++ {
		best[end] = best[end-1] + 1
		for from := max(0, end-longest); from < end; from++ {
			if cost, ok := piece(raw, plain, from, end, mine); ok {
				best[end] = min(best[end], best[from]+cost)
			}
		}
	}
	return best[len(raw)]
}

// piece is what the characters from..end cost as one thing.
func piece(raw, plain []rune, from, end int, mine map[string]float64) (cost float64, ok bool) {
	n := end - from
	cost = math.Inf(1)
	if n <= longestPiece {
		for _, w := range []string{string(raw[from:end]), string(plain[from:end])} {
			if c, there := ranks()[w]; there && n > 1 {
				cost = min(cost, c)
			}
		}
	}
	if c, there := mine[string(raw[from:end])]; there {
		cost = min(cost, c)
	}
	if n >= 3 && isRun(raw[from:end]) {
		cost = min(cost, 1+math.Log10(float64(n)))
	}
	if n >= 2 && from >= n && string(raw[from-n:from]) == string(raw[from:end]) { // what stands before, again
		cost = min(cost, 0.5)
	}
	if n == 1 && !unicode.IsLetter(raw[from]) && !unicode.IsDigit(raw[from]) { // what stands between words
		cost = min(cost, 0.7)
	}
	return cost, !math.IsInf(cost, 1)
}

// rows are the keys of keyboards side by side, and the alphabet and digits.
var rows = []string{"abcdefghijklmnopqrstuvwxyz", "01234567890", "qwertyuiop", "asdfghjkl", "zxcvbnm", "qwertzuiopü", "yxcvbnm", "azertyuiop", "qsdfghjklm", "wxcvbn", "1qaz2wsx3edc4rfv5tgb6yhn7ujm8ik", "q1w2e3r4t5y6u7i8o9p0"}

// isRun tells whether characters are one again and again, or follow each other on a keyboard or in the alphabet.
func isRun(rs []rune) bool {
	same := true
	for _, r := range rs {
		same = same && r == rs[0]
	}
	if same {
		return true
	}
	forth := string(rs)
	back := make([]rune, len(rs))
	for i, r := range rs {
		back[len(rs)-1-i] = r
	}
	for _, row := range rows {
		if strings.Contains(row, forth) || strings.Contains(row, string(back)) {
			return true
		}
	}
	return false
}

// unLeet undoes the usual replacements of letters.
func unLeet(s string) string {
	return strings.NewReplacer("0", "o", "1", "i", "3", "e", "4", "a", "5", "s", "7", "t", "@", "a", "$", "s", "!", "i", "+", "t").Replace(s)
}

package strict_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"wavekine/core/strict"
)

// shapes are texts of about n bytes that are hard on one part of the reader each: what a reader could do over and over.
func shapes(n int) map[string]string {
	fill := func(open, one, end string) string {
		return open + strings.TrimSuffix(strings.Repeat(one, max(1, (n-len(open)-len(end))/len(one))), ",") + end
	}
	var keys strings.Builder
	for i := 0; keys.Len() < n; i++ {
		fmt.Fprintf(&keys, `"k%d":1,`, i)
	}
	return map[string]string{
		"numbers":                       fill(`{"a":[`, `1,`, `]}`),
		"long numbers":                  fill(`{"a":[`, strings.Repeat("1", 400)+",", `]}`),
		"one number":                    fill(`{"a":`, `1`, `}`),
		"one text":                      fill(`{"a":"`, `x`, `"}`),
		"one text of escapes":           fill(`{"a":"`, `\u00e9`, `"}`),
		"texts":                         fill(`{"a":[`, `"xy",`, `]}`),
		"empty lists":                   fill(`{"a":[`, `[],`, `]}`),
		"empty objects":                 fill(`{"a":[`, `{},`, `]}`),
		"keys":                          `{` + strings.TrimSuffix(keys.String(), ",") + `}`,
		"a key as long as half of it":   fill(`{"`+strings.Repeat("k", n/2)+`":[`, `1,`, `]}`),
		"long keys inside one another":  strings.Repeat(`{"`+strings.Repeat("k", n/24)+`":`, 22) + "1" + strings.Repeat("}", 22),
		"lists inside lists":            fill(`{"a":[`, strings.Repeat("[", 20)+strings.Repeat("]", 20)+",", `]}`),
		"deep":                          strings.Repeat("[", n),
		"white space":                   strings.Repeat(" ", n-2) + "{}",
		"cut off":                       fill(`{"a":[`, `1,`, ``),
		"a mistake at the end":          fill(`{"a":[`, `1,`, `?]}`),
		"more behind":                   fill(`{"a":[`, `1,`, `]}[`),
		"not text":                      strings.Repeat("x", n-1) + "\xff",
		"a hidden character at the end": fill(`{"a":"`, `x`, `\u0001"}`),
		"same keys":                     fill(`{`, `"a":1,`, `}`),
	}
}

// read reads a text as a document of a later version is read: every key is kept.
func read(text string) error {
	r, v := strict.Parse([]byte(text))
	v.Object().Done(true)
	return r.Err()
}

// What reading a text asks of the memory grows with its length, for every shape: nothing is gone through again for each
// part of it. That is counted, not timed; the benchmark below times it.
func TestReadingGrowsWithTheText(t *testing.T) {
	cost := func(text string) float64 {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		_ = read(text)
		runtime.ReadMemStats(&after)
		return float64(after.TotalAlloc - before.TotalAlloc)
	}
	const n = 64 << 10
	large := shapes(4 * n)
	for name, text := range shapes(n) {
		small := cost(text) + 64<<10 // what every reading takes
		assert.Less(t, cost(large[name]), 6*small, "%s: four times as long", name)
		if name == "deep" || name == "cut off" {
			assert.Error(t, read(text), name)
		}
	}
	assert.ErrorContains(t, read("["+strings.Repeat("1,", strict.MaxValues)+"1]"), "more than 400000 values")
	assert.NoError(t, read(`{"a":[`+strings.Repeat("1,", strict.MaxValues-10)+"1]}"))
	long := strings.Repeat("k", 1000)
	err := read(`{"` + long + `":{"` + long + `":["\u0001"]}}`)
	assert.ErrorContains(t, err, "kkk...[0]: a character that cannot be shown")
	assert.Less(t, len(err.Error()), 250, "a long key is shown in part")
}

// How the time to read grows with the length of a text: twice as long, twice the time, for every shape.
func BenchmarkStrict(b *testing.B) {
	for _, n := range []int{1 << 19, 1 << 20, strict.MaxBytes} {
		for name, text := range shapes(n) {
			text = text[:min(len(text), strict.MaxBytes)]
			b.Run(fmt.Sprintf("%s/%d KB", name, n>>10), func(b *testing.B) {
				b.SetBytes(int64(len(text)))
				for b.Loop() {
					_ = read(text)
				}
			})
		}
	}
}

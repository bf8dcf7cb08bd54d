//go:build race

package browsertest

// raced: the race detector watches. A browser would be as slow as that and find nothing by it: what is driven through
// one is tested without.
const raced = true

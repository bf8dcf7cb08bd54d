//go:build !race

package browsertest

const raced = false

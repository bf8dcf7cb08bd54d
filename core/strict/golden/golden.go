// Package golden holds what tests made against a file that was read through when it was written.
package golden

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

var rewrite = flag.Bool("rewrite", false, "write the files of testdata anew; then read them through")

// Equal fails at the first line of got that is not the file's; with -rewrite it writes the file instead.
func Equal(t *testing.T, file, got string) {
	t.Helper()
	if *rewrite {
		require.NoError(t, os.WriteFile(file, []byte(got), 0o644))
		return
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	w, g := strings.Split(string(want), "\n"), strings.Split(got, "\n")
	for i := range w {
		require.Less(t, i, len(g), "%s has more lines", file)
		require.Equal(t, w[i], g[i], "%s, line %d", file, i+1)
	}
	require.Len(t, g, len(w), "%s has fewer lines", file)
}

package wavekine

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Everything that is compiled in or served has its licence text in the tree, as its own source gives it.
func TestLicencesAreWhole(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "-tags=nomsgpack", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/wavekine").Output()
	require.NoError(t, err)
	modules := map[string]string{}
	for line := range strings.Lines(string(out)) {
		if name, dir, ok := strings.Cut(strings.TrimSpace(line), "\t"); ok {
			modules[name] = dir
		}
	}
	require.Greater(t, len(modules), 25)
	have, err := filepath.Glob("web/licences/go-*.txt")
	require.NoError(t, err)
	assert.Len(t, have, len(modules)+1, "and Go itself: make licences")
	for name, dir := range modules {
		path, _, _ := strings.Cut(name, " ")
		text, err := os.ReadFile("web/licences/go-" + strings.ReplaceAll(path, "/", "-") + ".txt")
		if !assert.NoError(t, err, "make licences") {
			continue
		}
		assert.True(t, strings.HasPrefix(string(text), name+"\n"), "%s: make licences", name)
		found := false
		for _, n := range []string{"LICENSE", "LICENSE.txt", "LICENSE.md", "LICENCE", "COPYING"} {
			own, err := os.ReadFile(filepath.Join(dir, n))
			if err != nil {
				continue
			}
			found = true
			assert.Contains(t, string(text), strings.TrimSpace(strings.ReplaceAll(string(own), "\r\n", "\n")), name)
		}
		assert.True(t, found, name)
	}
	manifest, err := os.ReadFile("web/assets/MANIFEST.json")
	require.NoError(t, err)
	for _, n := range []string{"htmx.org", "idiomorph", "sortablejs", "hanken-grotesk", "newsreader", "tailwindcss"} {
		assert.Contains(t, string(manifest), `"licences/npm-`+n+`.txt"`)
	}
}

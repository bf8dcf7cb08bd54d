// Package wavekine holds the test that keeps the house in order.
package wavekine

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Arrows point downward only: core knows neither screens, drawing, database nor templates.
func TestArrowsPointDown(t *testing.T) {
	forbidden := map[string][]string{
		"wavekine/core/":  {"wavekine/web", "wavekine/draw", "wavekine/store", "wavekine/demo", "github.com/gin-gonic", "github.com/jmoiron/sqlx", "github.com/jackc", "html/template", "net/http", "database/sql"},
		"wavekine/draw":   {"wavekine/web", "wavekine/store", "wavekine/demo", "html/template", "net/http", "database/sql"},
		"wavekine/store":  {"wavekine/web", "wavekine/draw", "wavekine/demo", "html/template", "github.com/gin-gonic"},
		"wavekine/web":    {"wavekine/cmd"},
		"wavekine/demo":   {"wavekine/web", "wavekine/draw", "github.com/gin-gonic"},
		"wavekine/schema": {"wavekine/"},
	}
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "./...").Output()
	require.NoError(t, err)
	dec := json.NewDecoder(strings.NewReader(string(out)))
	seen := 0
	for dec.More() {
		var p struct {
			ImportPath string
			Imports    []string
		}
		require.NoError(t, dec.Decode(&p))
		for from, bad := range forbidden {
			if !strings.HasPrefix(p.ImportPath, from) {
				continue
			}
			seen++
			for _, imp := range p.Imports {
				for _, b := range bad {
					assert.False(t, strings.HasPrefix(imp, b), "%s imports %s: the arrow points up", p.ImportPath, imp)
				}
			}
		}
	}
	assert.Greater(t, seen, 12)
}

// The built browser files are what the manifest says, so that nobody edits them by hand.
func TestBuiltFilesMatchTheManifest(t *testing.T) {
	text, err := os.ReadFile("web/assets/MANIFEST.json")
	require.NoError(t, err)
	var list []struct{ Name, Package, Version, License, Sha256 string }
	require.NoError(t, json.Unmarshal(text, &list))
	require.GreaterOrEqual(t, len(list), 6)
	for _, f := range list {
		b, err := os.ReadFile("web/" + f.Name)
		require.NoError(t, err)
		assert.Equal(t, f.Sha256, sha(b), f.Name)
		assert.NotEmpty(t, f.License, f.Name)
	}
}

// Nothing shipped asks anybody outside: no address in scripts, styles and templates but namespaces.
func TestNothingAsksOutside(t *testing.T) {
	seen := 0
	require.NoError(t, fs.WalkDir(os.DirFS("web"), ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (p == "assets" || p == "browsertest") {
			return cmp.Or(err, fs.SkipDir)
		}
		if ext := path.Ext(p); ext != ".html" && ext != ".js" && ext != ".css" || strings.HasSuffix(p, ".min.js") {
			return nil
		}
		seen++
		b, err := os.ReadFile("web/" + p)
		require.NoError(t, err)
		text := strings.ReplaceAll(strings.ReplaceAll(string(b), "http://www.w3.org/", ""), "https://tailwindcss.com", "")
		assert.NotContains(t, text, "http://", p)
		assert.NotContains(t, text, "https://", p)
		return nil
	}))
	assert.Greater(t, seen, 30)
}

func sha(b []byte) string { s := sha256.Sum256(b); return hex.EncodeToString(s[:]) }

// Every column that is read is named: an older instance goes on while a newer one has added columns.
func TestSQLNamesItsColumns(t *testing.T) {
	files, err := filepath.Glob("store/*.go")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		assert.NotRegexp(t, `(?i)select\s+(\w+\.)?\*|,\s*\w+\.\*`, string(b), f)
	}
}

// What is listed by hand is what there is: rules, verbs, screens, and the map of the house in the docs.
func TestListsAreWhole(t *testing.T) {
	text := func(name string) string {
		b, err := os.ReadFile(name)
		require.NoError(t, err)
		return string(b)
	}
	declared := func(pattern, says string) (out []string) {
		files, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, f := range files {
			if strings.HasSuffix(f, "_test.go") {
				continue
			}
			found := regexp.MustCompile(says).FindAllStringSubmatch(text(f), -1)
			if strings.Contains(pattern, "review") {
				assert.LessOrEqual(t, len(found), 1, "%s: one rule a file", f)
			}
			for _, m := range found {
				out = append(out, m[1])
				if strings.Contains(pattern, "review") {
					_, err := os.Stat(strings.TrimSuffix(f, ".go") + "_test.go")
					assert.NoError(t, err, "a rule has its test beside it")
				}
			}
		}
		return out
	}
	rules := declared("core/review/*.go", `var (\w+Rule) = &Rule\{`)
	assert.Len(t, rules, 40)
	for _, r := range rules {
		assert.Regexp(t, `\b`+r+`,`, text("core/review/rule.go"), r)
	}
	verbs := declared("cmd/wavekine/*.go", `var (\w+Verb) = verb\{`)
	assert.GreaterOrEqual(t, len(verbs), 13)
	for _, v := range verbs {
		assert.Regexp(t, `\b`+v+`,`, text("cmd/wavekine/main.go"), v)
	}
	architecture := text("docs/architecture.md")
	screens := declared("web/*/*.go", `var (Screen) = kit\.Screen\{`)
	dirs, err := filepath.Glob("web/*/*.html")
	require.NoError(t, err)
	seen := map[string]bool{}
	for _, d := range dirs {
		seen[filepath.Base(filepath.Dir(d))] = true
	}
	delete(seen, "kit")
	assert.Len(t, screens, len(seen), "every folder with pages is a screen")
	for d := range seen {
		assert.Contains(t, text("web/web.go"), d+".Screen", d)
		assert.Contains(t, architecture, d+"/", d)
	}
	packages, err := filepath.Glob("core/*/")
	require.NoError(t, err)
	for _, p := range packages {
		assert.Contains(t, architecture, filepath.Base(p)+"/", "the map of the house")
		_, err := os.Stat(filepath.Join(p, "example_test.go"))
		assert.NoError(t, err, "%s has an example of its main use", p)
	}
}

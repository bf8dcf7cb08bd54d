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

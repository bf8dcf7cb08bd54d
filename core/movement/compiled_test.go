package movement

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var write = flag.Bool("write", false, "write library.json from the YAML files: make library")

// What ships is what the YAML files say, with every pose found and every demand weighed anew.
func TestShippedIsTheSource(t *testing.T) {
	src, err := Source()
	require.NoError(t, err)
	text, err := compile(src)
	require.NoError(t, err)
	text = append(text, '\n')
	if *write {
		require.NoError(t, os.WriteFile("library.json", text, 0o600))
		return
	}
	require.True(t, bytes.Equal(text, compiled), "the library has changed: make library writes library.json again")
	shipped := Shipped()
	require.Len(t, shipped.All(), len(src.All()))
	for i, m := range src.All() {
		s := shipped.All()[i]
		want, err := json.Marshal(m)
		require.NoError(t, err)
		got, err := json.Marshal(s)
		require.NoError(t, err)
		assert.JSONEq(t, string(want), string(got), m.Slug)
		assert.Equal(t, m.names, s.names)
		assert.Equal(t, m.search, s.search)
		assert.Equal(t, m.Pace, s.Pace)
		assert.Equal(t, m.Ends, s.Ends)
		assert.Equal(t, m.DoseIsIt, s.DoseIsIt)
		for n := range m.Levels {
			assert.Equal(t, m.Levels[n].bears, s.Levels[n].bears)
			assert.Equal(t, m.Levels[n].Computed, s.Levels[n].Computed)
			assert.Equal(t, m.Poses(n+1), s.Poses(n+1))
		}
	}
}

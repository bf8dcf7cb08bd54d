package kit

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMerge(t *testing.T) {
	type m = map[string]string
	for _, c := range []struct {
		says                         string
		base, seen, now, typed, want m
		changed                      []string
		clashes                      []Clash
	}{
		{"nobody else", m{"a": "1", "b": "2"}, nil, m{"a": "1", "b": "2"}, m{"a": "9", "b": "2"}, m{"a": "9", "b": "2"}, []string{"a"}, nil},
		{"each another field", m{"a": "1", "b": "2"}, nil, m{"a": "1", "b": "3"}, m{"a": "9", "b": "2"}, m{"a": "9", "b": "3"}, []string{"a"}, nil},
		{"both the same", m{"a": "1"}, nil, m{"a": "9"}, m{"a": "9"}, m{"a": "9"}, nil, nil},
		{"both, differently", m{"a": "1", "b": "2"}, nil, m{"a": "8", "b": "2"}, m{"a": "9", "b": "7"}, m{"a": "8", "b": "7"}, []string{"b"}, []Clash{{"a", "9", "8"}}},
		{"seen, and meant", m{"a": "1", "b": "2"}, m{"a": "8", "b": "3"}, m{"a": "8", "b": "3"}, m{"a": "9", "b": "2"}, m{"a": "9", "b": "3"}, []string{"a"}, nil},
		{"seen, and changed again", m{"a": "1"}, m{"a": "8"}, m{"a": "5"}, m{"a": "9"}, m{"a": "5"}, nil, []Clash{{"a", "9", "5"}}},
		{"not sent", m{"a": "1", "b": "2"}, nil, m{"a": "4", "b": "2"}, m{"b": "3"}, m{"a": "4", "b": "3"}, []string{"b"}, nil},
		{"sent, but no field", m{"a": "1"}, nil, m{"a": "1"}, m{"x": "3"}, m{"a": "1"}, nil, nil},
	} {
		if c.seen == nil {
			c.seen = c.base
		}
		out, changed, clashes := Merge(c.base, c.seen, c.now, c.typed)
		assert.Equal(t, c.want, out, c.says)
		assert.Equal(t, c.changed, changed, c.says)
		assert.Equal(t, c.clashes, clashes, c.says)
	}
}

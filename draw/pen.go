// Package draw makes the pictures: the wave with its rails, level marks and figures, as SVG text.
// It is pure (same input, same bytes) and imports only core.
package draw

import (
	"html"
	"strconv"
)

// num appends a number with at most one decimal.
func num(b []byte, v float64) []byte {
	if v > -.05 && v < .05 {
		return append(b, '0')
	}
	n := len(b)
	b = strconv.AppendFloat(b, v, 'f', 1, 64)
	if len(b) > n+2 && b[len(b)-1] == '0' {
		b = b[:len(b)-2]
	}
	return b
}

// svg is a growing picture.
type svg struct{ b []byte }

func (s *svg) str(parts ...string) *svg {
	for _, p := range parts {
		s.b = append(s.b, p...)
	}
	return s
}

func (s *svg) num(v float64) *svg { s.b = num(s.b, v); return s }

func (s *svg) int(v int) *svg { s.b = strconv.AppendInt(s.b, int64(v), 10); return s }

// attr appends name="number".
func (s *svg) attr(name string, v float64) *svg {
	return s.str(" ", name, `="`).num(v).str(`"`)
}

// text appends escaped character data, safe in attributes too.
func (s *svg) text(t string) *svg { return s.str(html.EscapeString(t)) }

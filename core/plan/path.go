package plan

import (
	"fmt"
	"strconv"
	"strings"
)

// Path is the place of a row: section, block, row, from 1. The zero Path is no place; with a row of 0 it is the section
// or block itself.
type Path struct{ Section, Block, Row int }

// String is the place as documents and forms name it: "2.1.3".
func (p Path) String() string {
	return strconv.Itoa(p.Section) + "." + strconv.Itoa(p.Block) + "." + strconv.Itoa(p.Row)
}

// MarshalText writes "2.1.3".
func (p Path) MarshalText() ([]byte, error) { return []byte(p.String()), nil }

// ParsePath reads "2.1.3".
func ParsePath(s string) (p Path, err error) {
	parts := strings.Split(s, ".")
	if len(parts) != 3 {
		return p, fmt.Errorf("%q is not a place: expected section.block.row, as in 2.1.3", s)
	}
	for i, to := range []*int{&p.Section, &p.Block, &p.Row} {
		n, e := strconv.Atoi(parts[i])
		if e != nil || n < 0 || n > maxRows {
			return p, fmt.Errorf("%q is not a place: expected section.block.row, as in 2.1.3", s)
		}
		*to = n
	}
	return p, nil
}

func comparePaths(a, b Path) int {
	if a.Section != b.Section {
		return a.Section - b.Section
	}
	if a.Block != b.Block {
		return a.Block - b.Block
	}
	return a.Row - b.Row
}

// UnmarshalText reads "2.1.3".
func (p *Path) UnmarshalText(b []byte) (err error) {
	*p, err = ParsePath(strings.TrimSpace(string(b)))
	return err
}

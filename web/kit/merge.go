package kit

import "slices"

// Clash is a field that two people have changed to different things at the same time.
type Clash struct {
	Key          string
	Yours, Their string
}

// Merge puts a form on top of what was changed since the form was shown: base is what the form was made from, seen what
// whoever typed has been shown of it since, now what is kept, typed what came back. What was not touched stays as it is
// now. A field that both have changed differently is a clash, and is given as it is now, unless what it is now was
// seen: then what was typed is meant. Keys of now are those that count.
func Merge(base, seen, now, typed map[string]string) (out map[string]string, changed []string, clashes []Clash) {
	out = make(map[string]string, len(now))
	for k, is := range now {
		out[k] = is
		to, sent := typed[k]
		switch {
		case !sent || to == base[k] || to == is:
		case is != base[k] && is != seen[k]:
			clashes = append(clashes, Clash{k, to, is})
		default:
			out[k], changed = to, append(changed, k)
		}
	}
	slices.Sort(changed)
	slices.SortFunc(clashes, func(a, b Clash) int {
		if a.Key < b.Key {
			return -1
		}
		return 1
	})
	return out, changed, clashes
}

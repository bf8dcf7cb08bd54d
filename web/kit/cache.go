package kit

import (
	lru "github.com/hashicorp/golang-lru/v2"

	"wavekine/store"
)

// NewCache keeps the last size values.
func NewCache[K comparable, V any](size int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](size)
	if err != nil {
		panic(err) // only for a size below 1
	}
	return c
}

// HistoryView is what was changed of a document.
type HistoryView struct {
	Kind      string // "sessions" or "series", as in its address
	ID        string
	Rev       int
	Revisions []store.Revision
}

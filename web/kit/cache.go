package kit

import (
	lru "github.com/hashicorp/golang-lru/v2"
)

// NewCache keeps the last size values.
func NewCache[K comparable, V any](size int) *lru.Cache[K, V] {
	c, err := lru.New[K, V](size)
	if err != nil {
		panic(err) // only for a size below 1
	}
	return c
}

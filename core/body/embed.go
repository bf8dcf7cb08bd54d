package body

import (
	_ "embed"
	"sync"
)

//go:embed poses.json
var posesJSON []byte

// Poses is the book of poses that ships with the product.
var Poses = sync.OnceValue(func() *Book {
	b, err := ReadBook(posesJSON)
	if err != nil {
		panic(err) // the file is compiled in and read by the tests
	}
	return b
})

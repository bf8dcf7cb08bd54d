package body

import (
	"embed"
	"io/fs"
	"sync"
)

//go:embed poses/*.json
var poseFiles embed.FS

// Poses is the book of poses that ships with the product.
var Poses = sync.OnceValue(func() *Book {
	names, err := fs.Glob(poseFiles, "poses/*.json")
	if err != nil {
		panic(err)
	}
	var texts [][]byte
	for _, n := range names {
		text, err := fs.ReadFile(poseFiles, n)
		if err != nil {
			panic(err)
		}
		texts = append(texts, text)
	}
	b, err := ReadBook(texts...)
	if err != nil {
		panic(err) // the files are compiled in and read by the tests
	}
	return b
})

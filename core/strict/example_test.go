package strict_test

import (
	"fmt"

	"wavekine/core/strict"
)

// A document is read strictly: the first error stays, with its place.
func Example() {
	r, v := strict.Parse([]byte(`{"title":"Short","days":[{"n":1},{"n":"two"}]}`))
	o := v.Object()
	fmt.Println(o.Need("title").Text(80))
	o.Need("days").List(10, func(_ int, e strict.Value) { e.Object().Need("n").Int(1, 60) })
	fmt.Println(r.Err())
	// Output:
	// Short
	// $.days[1].n: expected a whole number, found text
}

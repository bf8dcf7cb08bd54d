package main

import (
	"fmt"
	"time"

	"wavekine/demo"
	"wavekine/web/door"
)

// demoVerb loads the demo studio where there is none.
var demoVerb = verb{name: "demo", bare: true, says: "load the demo studio if there is none", run: func(c *job) error {
	st, err := open(c.ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	made, err := demo.Load(c.ctx, st, time.Now(), door.HashPassword)
	if made {
		fmt.Fprintln(c.out, "The demo studio is loaded.")
	}
	return err
}}

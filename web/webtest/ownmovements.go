package webtest

import (
	"net/url"

	"wavekine/core/movement"
	"wavekine/web/browsertest"
	"wavekine/web/library"
)

func OwnForm(m *movement.Movement, name string) url.Values {
	f, _ := library.FormOf(m)
	f.Set("name", name)
	f.Del("also")
	f.Del("slug")
	return f
}

// A movement is made from another, used in a session, changed; the session keeps what it had until it
// takes the newer version.
func JsText(p *browsertest.Page, expr string) string { return browsertest.JS[string](p, expr) }

package webtest

import (
	"net/url"

	"wavekine/core/movement"
	"wavekine/web/browsertest"
	"wavekine/web/library"
)

// OwnForm is the form of an own movement like m.
func OwnForm(m *movement.Movement, name string) url.Values {
	f, _ := library.FormOf(m)
	f.Set("name", name)
	f.Del("also")
	f.Del("slug")
	return f
}

// JsText is the text that an expression of the page gives.
func JsText(p *browsertest.Page, expr string) string { return browsertest.JS[string](p, expr) }

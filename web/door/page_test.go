package door_test

import (
	"testing"

	cdp "github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"wavekine/demo"
	"wavekine/web/browsertest"
	"wavekine/web/webtest"
)

// What is typed as a password can be looked at (NIST SP 800-63B-4, 3.1.1.2), and is kept in no draft even then.
func TestLookingAtAPassword(t *testing.T) {
	base, _ := webtest.Site(t)
	p := browsertest.NewPage(t, 390, 844)
	p.Go(base + "/signin?back=%2Faccount")
	p.Until(`document.readyState === 'complete' && window.wavekineDrafts`)
	p.Click("input[name=email]")
	p.Keys(demo.Email)
	p.Click("input[name=password]")
	p.Keys(demo.Password)
	assert.Equal(t, "password", browsertest.JS[string](p, `document.querySelector('[name=password]').type`))
	p.Click("input[data-show]")
	assert.Equal(t, "text", browsertest.JS[string](p, `document.querySelector('[name=password]').type`))
	assert.Empty(t, p.Axe())
	p.Click("input[name=password]")
	p.Keys("\r")
	p.Until(`location.pathname === '/account' && document.readyState === 'complete' && window.wavekineDrafts`)
	p.Click("input[data-show]")
	p.Click("input[name=old_password]")
	p.Keys("secret while looked at")
	assert.Equal(t, 0, browsertest.JS[int](p, `Object.keys(localStorage).filter(k => localStorage[k].includes('secret while')).length`))

	// What is wrong with a new one is said beside it, and what was typed stays.
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[name=old_password]').value = 'x'; document.querySelector('[name=password]').value = 'passwordpassword'; void 0`))
	p.Click(`form[action="/account/password"] button`)
	p.Until(`document.querySelector('#message').textContent.includes('easy to guess')`)
	assert.Equal(t, "passwordpassword", browsertest.JS[string](p, `document.querySelector('[name=password]').value`))
	p.Expect("422")
	p.Do(cdp.Evaluate[cdp.Void](`document.querySelector('[name=old_password]').value = '` + demo.Password + `'; document.querySelector('[name=password]').value = 'three odd kettles'; void 0`))
	p.Click(`form[action="/account/password"] button`)
	p.Until(`document.readyState === 'complete' && document.querySelector('#message').textContent.includes('The password is changed')`)
	assert.Empty(t, p.Axe())
	assert.LessOrEqual(t, browsertest.JS[int](p, `document.documentElement.scrollWidth`), 390)
}

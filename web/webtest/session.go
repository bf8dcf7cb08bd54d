package webtest

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/require"
)

// NewSession makes an empty session and gives where it is.
func NewSession(t *testing.T, v *Visitor, title, target string) string {
	t.Helper()
	code, _, h := v.Do("POST", "/sessions", url.Values{"title": {title}, "target": {target}})
	require.Equal(t, 303, code)
	return h.Get("Location")
}

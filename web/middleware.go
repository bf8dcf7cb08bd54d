package web

import (
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/web/kit"
)

// How much of a request is read: files and runs of those who have signed in, and the small forms of the door.
const (
	largestBody   = 5 << 20
	anonymousBody = 16 << 10
)

func limitBody(most int64) gin.HandlerFunc {
	return func(c *gin.Context) {
		if c.Request.Body != nil {
			c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		}
		c.Next()
	}
}

// securityHeaders follows the OWASP Secure Headers recommendations. secure: the site is served over https.
func securityHeaders(secure bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		h := c.Writer.Header()
		if secure || c.Request.TLS != nil {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; worker-src 'self'; manifest-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=(), screen-wake-lock=(self)")
		if !strings.HasPrefix(c.Request.URL.Path, kit.AssetPrefix) && !strings.HasPrefix(c.Request.URL.Path, "/figures/") {
			h.Set("Cache-Control", "no-store")
		}
		c.Next()
	}
}

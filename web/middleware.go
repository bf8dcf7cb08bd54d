package web

import (
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"wavekine/web/kit"
)

// limitBody bounds what is read of a request: 5 MiB for files and runs.
func limitBody(c *gin.Context) {
	if c.Request.Body != nil {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 5<<20)
	}
	c.Next()
}

func localOnly(c *gin.Context) {
	if ip := c.ClientIP(); ip != "127.0.0.1" && ip != "::1" {
		c.AbortWithStatus(http.StatusNotFound)
	}
}

// securityHeaders follows the OWASP Secure Headers recommendations.
func securityHeaders(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'")
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

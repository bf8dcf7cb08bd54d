package web

import (
	"bytes"
	"embed"
	"io/fs"
	"net/http"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
)

//go:embed licences/*.txt
var licences embed.FS

// allLicences is the text of every licence of what ships with the program, one behind the other.
var allLicences = sync.OnceValue(func() []byte {
	var b bytes.Buffer
	b.WriteString("Wavekine ships with the following, under their own licences.\n")
	names, _ := fs.Glob(licences, "licences/*.txt")
	for _, n := range names {
		text, _ := licences.ReadFile(n)
		b.WriteString("\n" + string(bytes.Repeat([]byte("-"), 72)) + "\n\n")
		if name, ok := strings.CutPrefix(strings.TrimSuffix(n, ".txt"), "licences/npm-"); ok { // those of Go modules begin with their names
			b.WriteString(name + "\n\n")
		}
		b.Write(bytes.TrimSpace(text))
		b.WriteByte('\n')
	}
	return b.Bytes()
})

func licencesPage(c *gin.Context) {
	c.Data(http.StatusOK, "text/plain; charset=utf-8", allLicences())
}

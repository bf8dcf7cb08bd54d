package kit

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"path"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"wavekine/core/body"
	"wavekine/core/movement"
	"wavekine/draw"
)

const AssetPrefix = "/static/"

type assetFile struct {
	body, gz []byte
	ctype    string
}

// assets serves the embedded browser files under names that carry their hash, compressed once at
// start, and cacheable for ever.
type assets struct {
	files  fs.FS
	byPath map[string]*assetFile
	urls   map[string]string
}

var cssURL = regexp.MustCompile(`url\("?([^")]+)"?\)`)

// assetTypes fixes the content types, as the machine's own list may lack some.
var assetTypes = map[string]string{
	".css": "text/css; charset=utf-8", ".js": "text/javascript; charset=utf-8", ".woff2": "font/woff2", ".svg": "image/svg+xml",
}

func loadAssets(static fs.FS, screens []Screen) (*assets, error) {
	s := &assets{files: static, byPath: map[string]*assetFile{}, urls: map[string]string{}}
	from := map[string]fs.FS{} // where a file that is served comes from
	var plain, css []string
	if err := fs.WalkDir(static, ".", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		from[p] = static
		if path.Ext(p) == ".css" {
			css = append(css, p) // last, so that its url()s can be put to hashed names
		} else {
			plain = append(plain, p)
		}
		return nil
	}); err != nil {
		return nil, err
	}
	for _, sc := range screens {
		scripts, err := fs.Glob(sc.Files, "*.js")
		if err != nil {
			return nil, err
		}
		for _, f := range scripts {
			if from["js/"+f] != nil {
				return nil, fmt.Errorf("two scripts are called %s", f)
			}
			from["js/"+f] = sc.Files
			plain = append(plain, "js/"+f)
		}
	}
	for _, p := range append(plain, css...) {
		name := p
		if from[p] != static {
			name = strings.TrimPrefix(p, "js/")
		}
		b, err := fs.ReadFile(from[p], name)
		if err != nil {
			return nil, err
		}
		ext := path.Ext(p)
		if ext == ".css" {
			b = cssURL.ReplaceAllFunc(b, func(m []byte) []byte {
				if u, ok := s.urls[path.Join(path.Dir(p), string(cssURL.FindSubmatch(m)[1]))]; ok {
					return []byte("url(" + u + ")")
				}
				return m
			})
		}
		f := &assetFile{body: b, ctype: assetTypes[ext]}
		if f.ctype == "" {
			f.ctype = "application/octet-stream"
		}
		if ext != ".woff2" {
			var z bytes.Buffer
			w, _ := gzip.NewWriterLevel(&z, gzip.BestCompression)
			_, _ = w.Write(b)
			_ = w.Close()
			f.gz = z.Bytes()
		}
		hashed := strings.TrimSuffix(p, ext) + "." + hashOf(b) + ext
		s.byPath[hashed] = f
		s.urls[p] = AssetPrefix + hashed
	}
	return s, nil
}

// url is the template function asset: an unknown name is an error, not a broken link.
func (s *assets) url(name string) (string, error) {
	if u, ok := s.urls[name]; ok {
		return u, nil
	}
	return "", &fs.PathError{Op: "asset", Path: name, Err: fs.ErrNotExist}
}

// ServeHTTP serves a file that ships with the product; its name changes with its content, so it is kept for good.
func (s *assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	f, ok := s.byPath[strings.TrimPrefix(r.URL.Path, AssetPrefix)]
	if !ok {
		http.NotFound(w, r)
		return
	}
	h := w.Header()
	h.Set("Content-Type", f.ctype)
	h.Set("Cache-Control", "public, max-age=31536000, immutable")
	b := f.body
	if f.gz != nil {
		h.Add("Vary", "Accept-Encoding")
		if strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
			h.Set("Content-Encoding", "gzip")
			b = f.gz
		}
	}
	_, _ = w.Write(b)
}

// ServiceWorker is served from the root, so that it may look after leading a class.
func (a *Kit) ServiceWorker(c *gin.Context) {
	b, err := fs.ReadFile(a.Static.files, "js/sw.js")
	if err != nil {
		a.Fail(c, err)
		return
	}
	c.Header("Cache-Control", "no-cache")
	c.Data(http.StatusOK, assetTypes[".js"], b)
}

// figureCache draws each figure once.
type figureCache struct {
	mu   sync.Mutex
	svg  map[string][]byte
	urls sync.Map // "slug-level-size" to the address with its hash
}

func newFigures() *figureCache { return &figureCache{svg: map[string][]byte{}} }

// Sizes of a figure in pixels of its view box.
var figureSizes = map[string][2]float64{"s": {46, 30}, "m": {240, 150}, "l": {560, 360}, "a": {480, 264}}

// draw gives the figure of a level at a size, nil when there is none.
func (f *figureCache) draw(m *movement.Movement, level int, size string) []byte {
	wh, ok := figureSizes[size]
	if !ok {
		return nil
	}
	if m.Own {
		return drawLevel(m, level, size, wh)
	}
	key := m.Slug + "|" + strconv.Itoa(level) + "|" + size
	f.mu.Lock()
	defer f.mu.Unlock()
	if b, ok := f.svg[key]; ok {
		return b
	}
	b := drawLevel(m, level, size, wh)
	if b != nil {
		f.svg[key] = b
	}
	return b
}

// drawLevel draws the pose that shows a level, or for size "a" its whole repetition as frames.
func drawLevel(m *movement.Movement, level int, size string, wh [2]float64) []byte {
	p, ok := m.Pose(level)
	switch {
	case !ok:
		return nil
	case size == "a":
		return draw.Frames(m.Poses(level), wh[0], wh[1], stripFrames)
	}
	return draw.Figure(body.Solve(p), wh[0], wh[1], nil, "f", "")
}

// stripFrames is how many pictures make a repetition one way; judgement: smooth enough and small.
const stripFrames = 13

// Use refers to a figure of a movement's level: one small file, drawn in the colours of the page.
func (f *figureCache) Use(m *movement.Movement, level int, size string) template.HTML {
	return f.use(m, level, size, "href")
}

// Later is a figure that the page's script puts in when it comes into sight.
func (f *figureCache) Later(m *movement.Movement, level int, size string) template.HTML {
	return f.use(m, level, size, "data-href")
}

func (f *figureCache) use(m *movement.Movement, level int, size, at string) template.HTML {
	wh := figureSizes[size]
	if m != nil && m.Inline { // where the body is, and no more
		m, level = movement.Plain(m.Posture), 1
	}
	if m == nil {
		return template.HTML(fmt.Sprintf(`<svg class="fig fig-%s" viewBox="0 0 %g %g" aria-hidden="true"></svg>`, size, wh[0], wh[1]))
	}
	return template.HTML(fmt.Sprintf(`<svg class="fig fig-%s" viewBox="0 0 %g %g" aria-hidden="true"><use %s="%s"/></svg>`, size, wh[0], wh[1], at, f.Url(m, level, size)))
}

// Inline is a figure to be put into a page itself: one of a studio's own movements, for who has not signed in.
func (f *figureCache) Inline(m *movement.Movement, level int, size string) []byte {
	return f.draw(m, min(max(level, 1), len(m.Levels)), size)
}

// Moving is where the pictures of a repetition are; of a studio's own movement they are given themselves, for who has not signed in.
func (f *figureCache) Moving(m *movement.Movement, level int) string {
	if m.Own {
		return string(f.Inline(m, level, "a"))
	}
	return strings.TrimSuffix(f.Url(m, level, "a"), "#f")
}

// Url is where the figure of a level is, from 1; its name changes with the figure.
func (f *figureCache) Url(m *movement.Movement, level int, size string) string {
	n := min(max(level, 1), len(m.Levels))
	name := m.Slug + "-" + strconv.Itoa(n) + "-" + size
	if u, ok := f.urls.Load(name); ok {
		return u.(string)
	}
	dir := "/figures/"
	if m.Own { // of one studio only
		dir = "/own-figures/"
		return dir + name + ".svg?v=" + m.Stamp + "#f" // one deleted and made anew begins at version 1 again
	}
	u := dir + name + ".svg?v=" + hashOf(f.draw(m, n, size)) + "#f"
	f.urls.Store(name, u)
	return u
}

// Figure answers with the drawing of a level.
func (a *Kit) Figure(c *gin.Context) {
	name, ok := strings.CutSuffix(c.Param("file"), ".svg")
	i := strings.LastIndexByte(name, '-')
	if !ok || i < 0 {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	size, name := name[i+1:], name[:i]
	i = strings.LastIndexByte(name, '-')
	if i < 0 || len(name)-i > 3 {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	level := 0
	_, _ = fmt.Sscanf(name[i+1:], "%d", &level)
	m, ok := a.Lib.Get(name[:i])
	if !ok || level < 1 || level > len(m.Levels) {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	b := a.Figures.draw(m, level, size)
	if b == nil {
		c.AbortWithStatus(http.StatusNotFound)
		return
	}
	scope := "public"
	if m.Own {
		scope = "private"
	}
	c.Header("Cache-Control", scope+", max-age=31536000, immutable")
	c.Data(http.StatusOK, "image/svg+xml", b)
}

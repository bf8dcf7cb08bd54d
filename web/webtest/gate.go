package webtest

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/url"

	"github.com/stretchr/testify/require"
)

// Form posts a form as a browser could: with another spelling of its type, or as multipart.
func (v *Visitor) Form(path string, f url.Values, kind string) (int, string) {
	v.t.Helper()
	body, head := []byte(f.Encode()), "application/x-www-form-urlencoded"
	switch kind {
	case "capital":
		head = "Application/X-WWW-Form-Urlencoded; charset=UTF-8"
	case "multipart":
		var multi bytes.Buffer
		w := multipart.NewWriter(&multi)
		for k, vs := range f {
			for _, s := range vs {
				require.NoError(v.t, w.WriteField(k, s))
			}
		}
		require.NoError(v.t, w.Close())
		body, head = multi.Bytes(), w.FormDataContentType()
	case "query":
		path += "?%zz"
	case "semicolon":
		path += "?a;b"
	}
	return v.Raw("POST", path, body, head)
}

// Raw sends a body of some type, a file for example.
func (v *Visitor) Raw(method, path string, body []byte, kind string) (int, string) {
	v.t.Helper()
	r, err := http.NewRequest(method, v.Base+path, bytes.NewReader(body))
	require.NoError(v.t, err)
	r.Header.Set("Content-Type", kind)
	r.Header.Set("HX-Request", "true")
	res, err := v.HTTP.Do(r)
	require.NoError(v.t, err)
	defer func() { _ = res.Body.Close() }()
	var b bytes.Buffer
	_, _ = b.ReadFrom(res.Body)
	return res.StatusCode, b.String()
}

package site

import (
	"bytes"
	"context"
	"crypto/rand"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/ledger"
	"oldledger/store"
)

var editor = ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Editor}

// newSite makes a site over a ledger that holds one published description.
func newSite(t *testing.T, text string) (*ledger.Ledger, http.Handler) {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC) }, Random: rand.Reader})
	rec, err := l.Record(ctx, editor, ledger.Submission{Text: []byte(text)})
	require.NoError(t, err)
	_, err = l.Publish(ctx, editor, rec.Version.Ref(), nil)
	require.NoError(t, err)
	pages, err := New(l, "Saltmere Harbour", quiet())
	require.NoError(t, err)
	e := echo.New()
	pages.Register(e)
	return l, e
}

func quiet() *slog.Logger { return slog.New(slog.NewTextHandler(io.Discard, nil)) }

func get(t *testing.T, h http.Handler, path string) *httptest.ResponseRecorder {
	t.Helper()
	w := httptest.NewRecorder()
	h.ServeHTTP(w, httptest.NewRequest(http.MethodGet, path, nil))
	return w
}

// TestHostile publishes a description that tries to run in its readers' browsers, in every text that an author writes.
func TestHostile(t *testing.T) {
	evil := `<script>alert(1)</script><img src=x onerror=alert(1)>[x](javascript:alert(1))`
	text := strings.ReplaceAll(`openapi: 3.1.0
info: {title: 'EVIL', version: 1.0.0, description: 'EVIL', summary: 'EVIL', x-ledger-name: evil, contact: {name: 'EVIL', email: 'EVIL'}}
servers: [{url: 'https://a.example/EVIL', description: 'EVIL'}]
tags: [{name: 'EVIL', description: 'EVIL'}]
security: [{key: []}]
paths:
  '/EVIL':
    get:
      operationId: op
      summary: 'EVIL'
      description: 'EVIL'
      tags: ['EVIL']
      parameters: [{name: 'EVIL', in: query, description: 'EVIL', required: true, schema: {type: string, enum: ['EVIL'], default: 'EVIL', pattern: 'EVIL'}}]
      responses:
        '200': {description: 'EVIL', content: {application/json: {schema: {$ref: '#/components/schemas/Thing'}, example: {a: 'EVIL'}}}}
components:
  securitySchemes: {key: {type: apiKey, in: header, name: 'EVIL', description: 'EVIL'}}
  schemas:
    Thing: {type: object, description: 'EVIL', properties: {'EVIL': {type: string, description: 'EVIL', examples: ['EVIL']}}}
`, "EVIL", evil)
	l, h := newSite(t, text)
	_, err := l.Deprecate(context.Background(), editor, ledger.Announcement{Ref: "evil@1.0.0", Reason: evil, ReplacedBy: evil, Sunset: "2027-01-01"})
	require.NoError(t, err)
	for _, path := range []string{"/reference/", "/reference/evil/", "/reference/evil/1.0.0/operations/op", "/reference/evil/1.0.0/schemas/Thing", "/reference/evil/1.0.0/changes", "/reference/evil/notices"} {
		w := get(t, h, path)
		require.Equal(t, http.StatusOK, w.Code, "%s: %s", path, w.Body)
		page := w.Body.String()
		require.NotContains(t, strings.Replace(page, `<script defer src="/reference/assets/site.js"></script>`, "", 1), "<script", path)
		require.NotContains(t, page, "<img src=x onerror", path)
		require.NotContains(t, page, `href="javascript:`, path)
		require.NotContains(t, page, `href="mailto:<`, path)
	}
}

// TestFresh renders a page once, and anew after the next act.
func TestFresh(t *testing.T) {
	l, h := newSite(t, "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {/a: {get: {operationId: readA, responses: {'200': {description: A.}}}}}\n")
	first := get(t, h, "/reference/berths/").Body.Bytes()
	require.Equal(t, first, get(t, h, "/reference/berths/").Body.Bytes())
	require.NotContains(t, string(first), "deprecated")
	_, err := l.Deprecate(context.Background(), editor, ledger.Announcement{Ref: "berths@1.0.0", Reason: "it is old"})
	require.NoError(t, err)
	require.Contains(t, get(t, h, "/reference/berths/").Body.String(), "it is old")
}

// TestAddresses leads from short addresses to whole ones, and nowhere else.
func TestAddresses(t *testing.T) {
	_, h := newSite(t, "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {}\n")
	for path, want := range map[string]string{"/": "/reference/", "/reference": "/reference/", "/reference/berths": "/reference/berths/", "/reference/berths/1.0.0": "/reference/berths/1.0.0/"} {
		w := get(t, h, path)
		require.Equal(t, want, w.Header().Get("Location"), path)
	}
	for _, path := range []string{"/reference/assets/nothing.css", "/reference/berths/1.0.0/operations/x", "/reference/berths/1.0.0/schemas/x", "/reference/berths/guides/1.0.0", "/reference/berths/v1/"} {
		w := get(t, h, path)
		require.Equal(t, http.StatusNotFound, w.Code, path)
		require.Contains(t, w.Body.String(), "To all APIs", path)
	}
	css := get(t, h, "/reference/assets/site.css")
	require.Equal(t, "text/css; charset=utf-8", css.Header().Get("Content-Type"))
	require.Contains(t, css.Header().Get("Cache-Control"), "max-age")
	require.True(t, bytes.Contains(css.Body.Bytes(), []byte("@media print")))
}

func TestFunctions(t *testing.T) {
	require.Equal(t, "1 March 2027", day("2027-03-01"))
	require.Equal(t, "1 March 2027", day("2027-03-01T09:00:00Z"))
	require.Equal(t, "soon", day("soon"))
	for number, want := range map[string]string{"1.0.0": "1.0", "1.2.3": "1.2.3", "2.10.0": "2.10"} {
		require.Equal(t, want, short(number))
	}
	html := markdown("A *held* booking, see [here](https://saltmere.example).\n\n| a | b |\n|---|---|\n| 1 | 2 |\n")
	require.Contains(t, string(html), "<em>held</em>")
	require.Contains(t, string(html), "<table>")
	require.Contains(t, string(html), `href="https://saltmere.example"`)
}

// TestPlain holds the short way of rendering a text of one paragraph against the long way.
func TestPlain(t *testing.T) {
	letters := []rune("abcXYZ ,;?('%).-:/019é \n*_`<&>[#|\\\"!+~=")
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom(letters), 1, 30, -1).Draw(t, "text")
		if !plain(text) {
			return
		}
		var b bytes.Buffer
		require.NoError(t, commonMark.Convert([]byte(text), &b))
		require.Equal(t, string(policy.SanitizeBytes(b.Bytes())), string(markdown(text)), "%q", text)
	})
	require.True(t, plain("The date from which on it holds, in local time (see 3.2)."))
	require.False(t, plain("1. one"))
	require.False(t, plain("- one"))
	require.False(t, plain("see https://saltmere.example"))
}

package site

import (
	"bytes"
	"context"
	"crypto/rand"
	"html"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/commonmark"
	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
)

var editor = ledger.By(ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher})

// newSite makes a site over a ledger that holds one published description.
func newSite(t *testing.T, text string) (*ledger.Ledger, http.Handler) {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	day := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return day }, Random: rand.Reader}))
	rec, err := l.Record(ctx, editor, ledger.Submission{Text: []byte(text)})
	require.NoError(t, err)
	_, err = l.Publish(ctx, editor, rec.Version.Ref(), nil)
	require.NoError(t, err)
	pages, err := New(Options{Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: "example.com"}, Log: quiet()})
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
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
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
	_, err := l.Deprecate(context.Background(), editor, ledger.Announcement{
		Ref: "evil@1.0.0", Reason: evil, ReplacedBy: evil,
		Sunset: "2027-01-01",
	})
	require.NoError(t, err)
	for _, path := range []string{
		"/reference/", "/reference/evil/", "/reference/evil/1.0.0/operations/op",
		"/reference/evil/1.0.0/schemas/Thing", "/reference/evil/1.0.0/changes", "/reference/evil/notices",
	} {
		w := get(t, h, path)
		require.Equal(t, http.StatusOK, w.Code, "%s: %s", path, w.Body)
		page := w.Body.String()
		for _, ours := range []string{"site.js", "search.js"} {
			page = strings.Replace(page, `<script defer src="/reference/assets/`+ours+`"></script>`, "", 1)
		}
		require.NotContains(t, page, "<script", path)
		require.NotContains(t, page, "<img src=x onerror", path)
		require.NotContains(t, page, `href="javascript:`, path)
		require.NotContains(t, page, `href="mailto:<`, path)
	}
}

// TestFresh renders a page once, and anew after the next act.
func TestFresh(t *testing.T) {
	t.Parallel()
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
	t.Parallel()
	_, h := newSite(t, "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {}\n")
	for path, want := range map[string]string{
		"/": "/reference/", "/reference": "/reference/", "/reference/berths": "/reference/berths/",
		"/reference/berths/1.0.0": "/reference/berths/1.0.0/",
	} {
		w := get(t, h, path)
		require.Equal(t, want, w.Header().Get("Location"), path)
	}
	for _, path := range []string{
		"/reference/assets/nothing.css", "/reference/berths/1.0.0/operations/x", "/reference/berths/1.0.0/schemas/x",
		"/reference/berths/guides/1.0.0", "/reference/berths/v1/",
	} {
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
	t.Parallel()
	require.Equal(t, "1 March 2027", day("2027-03-01"))
	require.Equal(t, "1 March 2027", day("2027-03-01T09:00:00Z"))
	require.Equal(t, "soon", day("soon"))
	for number, want := range map[string]string{"1.0.0": "1.0", "1.2.3": "1.2.3", "2.10.0": "2.10"} {
		require.Equal(t, want, short(number))
	}
	html := markdown("A *held* booking, see [here](https://saltmere.example).\n\n| a | b |\n|---|---|\n| 1 | 2 |\n")
	require.Contains(t, html, "<em>held</em>")
	require.Contains(t, html, "<table>")
	require.Contains(t, html, `href="https://saltmere.example"`)
}

// TestPlain holds the short way of rendering a text of one paragraph against the long way.
func TestPlain(t *testing.T) {
	t.Parallel()
	letters := []rune("abcXYZ ,;?('%).-:/019é \n*_`<&>[#|\\\"!+~=")
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom(letters), 1, 30, -1).Draw(t, "text")
		if !plain(text) {
			return
		}
		require.Equal(t, commonmark.Safe(text), markdown(text), "%q", text)
	})
	require.True(t, plain("The date from which on it holds, in local time (see 3.2)."))
	require.False(t, plain("1. one"))
	require.False(t, plain("- one"))
	require.False(t, plain("see https://saltmere.example"))
}

// TestPublic reads the site below a path of another host: no address leads past it.
func TestPublic(t *testing.T) {
	t.Parallel()
	l, _ := newSite(t, "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {/a: {get: {operationId: readA, responses: {'200': {description: 'See [the harbour](https://saltmere.example/).'}}}}}\n")
	public, err := url.Parse("https://docs.saltmere.example/apis/")
	require.NoError(t, err)
	pages, err := New(Options{Ledger: l, House: "Saltmere Harbour", Public: public, Log: quiet()})
	require.NoError(t, err)
	e := echo.New()
	pages.Register(e)
	for _, path := range []string{
		"/reference/", "/reference/berths/", "/reference/berths/1.0.0/operations/readA", "/reference/search?q=a",
		"/embed/berths/1.0.0/",
	} {
		w := get(t, e, path)
		require.Equal(t, http.StatusOK, w.Code, path)
		require.NotContains(t, w.Body.String(), `="/reference`, path)
		require.Contains(t, w.Body.String(), `="/apis/reference/`, path)
	}
	w := get(t, e, "/reference/berths/1.0.0/operations/readA")
	require.Contains(t, w.Body.String(), `href="https://saltmere.example/"`)
	require.Contains(t, w.Header().Get("Link"), "</apis/reference/berths/>")
	require.Equal(t, "/apis/reference/berths/", get(t, e, "/reference/berths").Header().Get("Location"))
	require.Contains(t, get(t, e, "/reference/sitemap.xml").Body.String(), "https://docs.saltmere.example/apis/reference/berths/")
	require.Contains(t, get(t, e, "/oembed?url=/reference/berths/1.0.0/operations/readA").Body.String(),
		"https://docs.saltmere.example/apis/embed/berths/1.0.0/operations/readA")
}

// TestConditional answers a reader who has the page already, and one who cannot unpack it.
func TestConditional(t *testing.T) {
	t.Parallel()
	_, h := newSite(t, "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0, description: '"+strings.Repeat("Long. ", 200)+"'}\npaths: {}\n")
	ask := func(header ...string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(http.MethodGet, "/reference/berths/", nil)
		for i := 0; i < len(header); i += 2 {
			r.Header.Set(header[i], header[i+1])
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	plain, packed := ask(), ask("Accept-Encoding", "gzip, br")
	require.Equal(t, "gzip", packed.Header().Get("Content-Encoding"))
	require.Empty(t, plain.Header().Get("Content-Encoding"))
	require.Less(t, packed.Body.Len()*3, plain.Body.Len())
	require.NotEqual(t, plain.Header().Get("ETag"), packed.Header().Get("ETag"))
	for _, w := range []*httptest.ResponseRecorder{plain, packed} {
		tag := w.Header().Get("ETag")
		require.Regexp(t, `^"[0-9a-f]{24}(-z)?"$`, tag)
		again := ask("If-None-Match", tag, "Accept-Encoding", map[bool]string{true: "gzip", false: "identity"}[w == packed])
		require.Equal(t, http.StatusNotModified, again.Code)
		require.Zero(t, again.Body.Len())
	}
}

// TestWithdrawn takes a version's reference back, gives it back, and ends it when its day has come.
func TestWithdrawn(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	now := time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader}))
	pages, err := New(Options{Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: "example.com"}, Log: quiet()})
	require.NoError(t, err)
	e := echo.New()
	pages.Register(e)
	for _, number := range []string{"1.0.0", "2.0.0"} {
		_, err := l.Record(ctx, editor, ledger.Submission{Text: []byte("openapi: 3.1.0\ninfo: {title: Berths, version: " + number +
			"}\npaths: {}\n")})
		require.NoError(t, err)
		_, err = l.Publish(ctx, editor, "berths@"+number, nil)
		require.NoError(t, err)
	}
	pages.Wait()
	const address = "/reference/berths/1.0.0/"
	require.Equal(t, http.StatusOK, get(t, e, address).Code)
	_, err = l.Unpublish(ctx, editor, "berths@1.0.0", "It named a quay that is not there.")
	require.NoError(t, err)
	require.Equal(t, http.StatusNotFound, get(t, e, address).Code)
	require.NotContains(t, get(t, e, "/reference/berths/").Body.String(), address)
	_, err = l.Unpublish(ctx, editor, "berths@1.0.0", "Once more.")
	require.ErrorContains(t, err, "its reference is not shown")
	_, err = l.Publish(ctx, editor, "berths@1.0.0", nil)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, get(t, e, address).Code)

	_, err = l.Deprecate(ctx, editor, ledger.Announcement{Ref: "berths@1.0.0", Reason: "Line 2 is out.", Sunset: "2026-12-01"})
	require.NoError(t, err)
	_, err = l.Retire(ctx, editor, "berths@1.0.0", "Its day has come.", "No log tells who calls it.")
	require.ErrorContains(t, err, "berths@1.0.0 leaves on 2026-12-01, and not before")
	pages.Wait()
	now = now.AddDate(0, 1, 0)
	_, err = l.Retire(ctx, editor, "berths@1.0.0", "Its day has come.", "No log tells who calls it.")
	require.NoError(t, err)
	gone := get(t, e, address)
	require.Equal(t, http.StatusGone, gone.Code)
	require.Contains(t, gone.Body.String(), `The newest version is <a href="/reference/berths/">2.0.0</a>`)
	require.Contains(t, gone.Header().Get("Link"), `rel="latest-version"`)
	require.Equal(t, http.StatusGone, get(t, e, address+"changes").Code)
	require.Equal(t, http.StatusGone, get(t, e, "/embed/berths/1.0.0/").Code)

	// An address of a preview ends by itself.
	showing, err := l.CreatePreviewLink(ctx, editor, "berths@2.0.0", 2)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, get(t, e, showing.Path).Code)
	now = now.AddDate(0, 0, 3)
	require.Equal(t, http.StatusNotFound, get(t, e, showing.Path).Code)
	_, err = l.CreatePreviewLink(ctx, editor, "berths@2.0.0", 400)
	require.ErrorContains(t, err, "1 to 90 days")
}

// TestOddNames follows the links to a schema and an operation whose names mean something in an address: from the overview, the contents
// beside another page, the search of the version and that of all APIs.
func TestOddNames(t *testing.T) {
	t.Parallel()
	_, h := newSite(t, `{openapi: 3.1.0, info: {title: Berths, version: 1.0.0}, paths: {/a: {get: {operationId: "read a/50% #1?", responses: {"200": {
		description: A., content: {application/json: {schema: {$ref: "#/components/schemas/Wet berth?"}}}}}}}},
		components: {schemas: {"Wet berth?": {type: object, properties: {keel: {type: string}}}}}}`)
	link := regexp.MustCompile(`href="(/reference/berths/1\.0\.0/(?:schemas|operations)/[^"#]*)`)
	for _, page := range []string{
		"/reference/berths/1.0.0/", "/reference/berths/1.0.0/changes", "/reference/berths/1.0.0/search?q=wet", "/reference/berths/1.0.0/search?q=50",
		"/reference/search?q=keel", "/reference/search?q=50",
	} {
		links := link.FindAllStringSubmatch(get(t, h, page).Body.String(), -1)
		assert.NotEmpty(t, links, page)
		for _, to := range links {
			address := html.UnescapeString(to[1])
			assert.NotContains(t, address, " ", page)
			if parsed, err := url.Parse(address); assert.NoError(t, err, page) {
				assert.Equal(t, http.StatusOK, get(t, h, parsed.String()).Code, "%s leads to %s", page, address)
				assert.Empty(t, parsed.RawQuery, page)
			}
		}
	}
}

// TestAddressesThatRun shows a description whose addresses would run in a browser: they lead nowhere.
func TestAddressesThatRun(t *testing.T) {
	t.Parallel()
	_, h := newSite(t, `{openapi: 3.1.0, info: {title: Berths, version: 1.0.0, contact: {name: Q, email: "javascript:alert(1)"}},
		externalDocs: {url: "javascript:alert(2)"}, paths: {/a: {get: {operationId: readA, externalDocs: {url: " JavaScript:alert(3)"},
		responses: {"200": {description: A.}}}}}}`)
	for _, page := range []string{"/reference/berths/1.0.0/", "/reference/berths/1.0.0/operations/readA"} {
		for _, href := range regexp.MustCompile(`href="([^"]*)"`).FindAllStringSubmatch(get(t, h, page).Body.String(), -1) {
			assert.NotRegexp(t, `(?i)^\s*javascript:`, html.UnescapeString(href[1]), page)
		}
	}
}

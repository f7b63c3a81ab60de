package site

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/rand"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/store"
	"oldledger/tools/browser"
)

// TestExport writes a reference as files and follows every link: each leads to a file, and to a place that is there; none leads out.
func TestExport(t *testing.T) {
	t.Parallel()
	l, _ := newSite(t, strings.ReplaceAll(`openapi: 3.1.0
info: {title: Berths, version: 1.0.0, description: 'See the [bookings](#group-bookings).'}
x-ledger-pages: [{title: Getting started, content: 'First *sign in*.'}]
paths:
  /bookings:
    post:
      operationId: book
      tags: [Bookings]
      requestBody: {content: {application/json: {schema: {$ref: '#/components/schemas/A b%2F'}}}}
      responses: {'201': {description: Booked., content: {application/json: {schema: {$ref: '#/components/schemas/Booking'}}}}}
    get: {operationId: 'a/b:c', tags: [Bookings], x-ledger-order: -1, responses: {'200': {description: All.}}}
    delete: {operationId: gone, x-ledger-hidden: true, responses: {'204': {description: Gone.}}}
components:
  schemas:
    Booking: {type: object, properties: {berth: {type: string, description: Where.}, inner: {$ref: '#/components/schemas/Booking'}}}
    'A.b': {oneOf: [{$ref: '#/components/schemas/Booking'}, {type: object, properties: {berth: {type: integer}}}]}
`, "A b%2F", "A.b"))
	pages, err := New(Options{Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: "example.com"}, Log: quiet()})
	require.NoError(t, err)
	files := map[string][]byte{}
	require.NoError(t, pages.Export(context.Background(), ledger.Nobody, "berths@1.0.0", func(name string, body []byte) error {
		require.NotContains(t, files, name)
		files[name] = body
		return nil
	}))
	for _, name := range []string{
		"index.html", "operations/book.html", "schemas/A.b.html", "pages/getting-started.html", "search.html",
		"assets/site.css", "assets/search-index.js", "description.yaml", "openapi-3.0.yaml", "source.zip",
	} {
		require.Contains(t, files, name)
	}
	require.NotContains(t, files, "operations/gone.html")
	for name, page := range files {
		if strings.HasSuffix(name, ".html") {
			require.Contains(t, string(page), "<head>\n<meta http-equiv=\"Content-Security-Policy\" content=\"img-src data:;", name)
		}
	}
	require.Contains(t, string(files["assets/search-index.js"]), `"p":"schemas/Booking.html#berth"`)
	require.Contains(t, string(files["search.html"]), `data-index="assets/search-index.js"`)
	require.Contains(t, string(files["operations/book.html"]), `data-index="../assets/search-index.js"`)
	CheckLinks(t, files)

	archive, err := pages.Exported(context.Background(), ledger.Nobody, "berths@1.0.0", "site.zip")
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	require.NoError(t, err)
	for _, f := range z.File {
		require.Equal(t, "2026-11-20", f.Modified.UTC().Format(time.DateOnly), f.Name)
	}
}

// TestExportDemo takes every published version of the demo along, and follows every link of each; then it searches one from a folder.
func TestExportDemo(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	day := time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)
	require.NoError(t, demo.Play(ctx, s, day))
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return day }, Random: rand.Reader})
	pages, err := New(Options{Ledger: l, House: demo.House, Public: &url.URL{Scheme: "http", Host: "example.com"}, Log: quiet()})
	require.NoError(t, err)
	apis, err := l.APIs(ctx, ledger.Itself)
	require.NoError(t, err)
	folder := t.TempDir()
	exported := 0
	for _, a := range apis {
		for _, v := range published(a) {
			files := map[string][]byte{}
			require.NoError(t, pages.Export(ctx, l.TypicalReader(v.API), v.Ref(), func(name string, body []byte) error {
				files[name] = body
				return nil
			}))
			CheckLinks(t, files)
			for name, body := range files {
				unnamed := v.API != "ledger" && strings.Contains(string(body), "/{}") // the ledger's own description quotes keys
				require.False(t, unnamed, "%s of %s calls a path otherwise than its author", name, v.Ref())
			}
			exported++
			if v.Ref() == "berths@2.0.0" {
				for name, body := range files {
					at := filepath.Join(folder, filepath.FromSlash(name))
					require.NoError(t, os.MkdirAll(filepath.Dir(at), 0o755))
					require.NoError(t, os.WriteFile(at, body, 0o644))
				}
			}
		}
	}
	require.Greater(t, exported, 12)

	if _, err := exec.LookPath("chromium"); err != nil && os.Getenv("OLDLEDGER_BROWSER") != "required" {
		t.Skip("needs chromium: make test")
	}
	window, stop := browser.New(ctx, 1280, 800, io.Discard)
	defer stop()
	e, err := pages.edition(ctx, ledger.Nobody, "berths", "2.0.0")
	require.NoError(t, err)
	for _, question := range []string{"book", "lenghtOverall", "cancl booking", "overall", "vess", "quaymaster arrive", "b", "vessel arrives", "harbour"} {
		require.NoError(t, chromedp.Do(window, chromedp.Navigate("file://"+folder+"/search.html?q="+url.QueryEscape(question))))
		require.NoError(t, chromedp.Do(window, chromedp.WaitVisible(chromedp.CSS("#found a"))))
		found, err := chromedp.Run(window, chromedp.Evaluate[[]string](
			`[...document.querySelectorAll('#found a')].map(a => [a.firstChild.textContent, a.querySelector('small').textContent.split(', ').slice(1).join(', '), a.querySelector('span')?.textContent ?? ''].join(' '))`))
		require.NoError(t, err)
		hits := e.index().Find(question, maxHits)
		require.NotEmpty(t, hits)
		var want []string
		for _, h := range hits {
			want = append(want, h.Title+" "+h.Where+" "+readable(h.Says))
		}
		require.Equal(t, want, found, question)
	}
}

// CheckLinks follows the links of files.
func CheckLinks(t *testing.T, files map[string][]byte) {
	t.Helper()
	ids := map[string]map[string]bool{}
	type link struct{ from, to string }
	var links []link
	for name, body := range files {
		if !strings.HasSuffix(name, ".html") {
			continue
		}
		ids[name] = map[string]bool{}
		z := html.NewTokenizer(bytes.NewReader(body))
		for z.Next() != html.ErrorToken {
			for _, a := range z.Token().Attr {
				switch a.Key {
				case "id":
					require.False(t, ids[name][a.Val], "%s has two %s", name, a.Val)
					ids[name][a.Val] = true
				case "href", "src", "action":
					links = append(links, link{name, a.Val})
				}
			}
		}
	}
	require.NotEmpty(t, links)
	for _, l := range links {
		u, err := url.Parse(l.to)
		require.NoError(t, err)
		if u.Scheme != "" {
			continue // somebody else's
		}
		require.False(t, strings.HasPrefix(l.to, "/"), "%s leads out to %s", l.from, l.to)
		target := l.from
		if u.Path != "" {
			target = path.Join(path.Dir(l.from), u.Path)
		}
		require.Contains(t, files, target, "linked from %s as %s", l.from, l.to)
		if u.Fragment != "" && u.Fragment != "top" {
			require.True(t, ids[target][u.Fragment], "%s has no %s, to which %s leads", target, u.Fragment, l.from)
		}
	}
}

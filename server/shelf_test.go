package server_test

import (
	"io"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// askAt asks a service for a path as one that is reached at a host.
func askAt(t *testing.T, base, host, path, token string) answer {
	t.Helper()
	req, err := http.NewRequest(http.MethodGet, base+path, nil)
	require.NoError(t, err)
	req.Host = host
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	}
	client := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := client.Do(req)
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return answer{res, string(text)}
}

// shelvedDemo is the demo with two shelves more: one for everybody at a host of its own, with line 1 of the berths and all of the tides;
// one for Navigation, with what is for those who have a link.
func shelvedDemo(t *testing.T) (base string, l *ledger.Ledger) {
	t.Helper()
	base, l = startDemo(t)
	ctx := t.Context()
	set := func(name string, audience ledger.Audience, host string) {
		t.Helper()
		require.NoError(t, l.PutShelf(ctx, ledger.Itself, name, ledger.ShelfWish{
			Title: new("Set of " + name), Audience: &audience, Host: &host, Landing: new("# Greeting of " + name),
		}))
	}
	set("slipway", ledger.Audience{ledger.Everyone}, "slipway.saltmere.example")
	set("inner", ledger.Audience{ledger.OfTeam("Navigation")}, "inner.saltmere.example")
	require.NoError(t, l.Place(ctx, ledger.Itself, "slipway", "tides", nil))
	require.NoError(t, l.Place(ctx, ledger.Itself, "slipway", "berths", ledger.Picks{"1"}))
	require.NoError(t, l.Place(ctx, ledger.Itself, "inner", "pilotage", nil))
	return base, l
}

// TestShelfPages reads a shelf under its path: its landing page, what stands there in its order, its search, its feed and its calendar; and
// what is not on it, or not for who asks, is not there.
func TestShelfPages(t *testing.T) {
	t.Parallel()
	base, l := shelvedDemo(t)
	host := strings.TrimPrefix(base, "http://")
	page := askAt(t, base, host, "/shelves/slipway/", "")
	require.Equal(t, http.StatusOK, page.StatusCode)
	require.Equal(t, "no-cache", page.Header.Get("Cache-Control"), "everybody reads it")
	require.Contains(t, page.text, "<h1>Set of slipway</h1>")
	require.Contains(t, page.text, "Greeting of slipway")
	require.Contains(t, page.text, `href="/reference/tides/"`)
	require.NotContains(t, page.text, "ommons")
	require.Less(t, strings.Index(page.text, "tides/"), strings.Index(page.text, "berths/"), "in its order")
	require.Contains(t, page.text, `href="/reference/berths/1.2.0/"`, "the newest that stands there")
	require.NotContains(t, page.text, "2.0.0")
	all := askAt(t, base, host, "/reference/", "")
	require.Contains(t, all.text, `<a href="/shelves/slipway/">Set of slipway</a>`)
	require.NotContains(t, all.text, "Set of inner")
	require.Contains(t, askAt(t, base, host, "/reference/sitemap.xml", "").text, "/shelves/slipway/</loc>")
	require.NotContains(t, askAt(t, base, host, "/reference/sitemap.xml", "").text, "inner")

	feed := askAt(t, base, host, "/shelves/slipway/feed.atom", "")
	require.Contains(t, feed.text, "Berth Booking 1.2.0 is published")
	require.NotContains(t, feed.text, "Berth Booking 2.0.0 is published")
	found := askAt(t, base, host, "/shelves/slipway/search?q=berth", "")
	require.Contains(t, found.text, "/reference/berths/1.2.0/")
	require.NotContains(t, found.text, "2.0.0")
	require.Equal(t, `{"found":[]}`, strings.TrimSpace(askAt(t, base, host, "/shelves/slipway/search.json?q=moorage", "").text))
	require.Equal(t, http.StatusMovedPermanently, askAt(t, base, host, "/shelves/slipway", "").StatusCode)

	// What a shelf is not for answers as what is not there, to the letter.
	sanna, jonas := token(t, l, "sanna"), token(t, l, "jonas")
	for _, path := range []string{"berths/", "sitemap.xml", "../x", "none", "search/x"} {
		require.NotEqual(t, http.StatusOK, askAt(t, base, host, "/shelves/slipway/"+path, "").StatusCode, path)
	}
	for _, path := range []string{"", "search?q=pilot", "search.json?q=pilot", "feed.atom", "sunsets.ics", "sunsets"} {
		never := askAt(t, base, host, "/shelves/never/"+path, "")
		require.Equal(t, http.StatusNotFound, never.StatusCode, path)
		inner := askAt(t, base, host, "/shelves/inner/"+path, "")
		require.Equal(t, strings.ReplaceAll(never.text, "never", "inner"), inner.text, path)
		require.Equal(t, never.StatusCode, inner.StatusCode)
		mine := askAt(t, base, host, "/shelves/inner/"+path, sanna)
		require.Equal(t, http.StatusOK, mine.StatusCode, path)
		require.Equal(t, "private, no-cache", mine.Header.Get("Cache-Control"), path)
	}
	require.Contains(t, askAt(t, base, host, "/shelves/inner/", sanna).text, "Pilotage Orders")
	require.Contains(t, askAt(t, base, host, "/shelves/inner/", jonas).text, "Pilotage Orders", "who has a role in all teams")
	require.Contains(t, askAt(t, base, host, "/shelves/inner/", "").text, "/console/sign-in?to=%2Fshelves%2Finner%2F")
	require.Contains(t, askAt(t, base, host, "/reference/", sanna).text, "Set of inner")
}

// TestShelfHost reaches the service at the host of a shelf: nothing is there but what stands on it, in lists, searches, feeds, catalogue,
// on pages, in what they lead to, in embeds; for whom the shelf is not, nothing.
func TestShelfHost(t *testing.T) {
	t.Parallel()
	base, l := shelvedDemo(t)
	const at = "slipway.saltmere.example"
	ask := func(path string) answer { return askAt(t, base, at, path, "") }
	seen, ways := map[string]bool{}, []string{
		"/reference/", "/reference/berths/", "/reference/tides/", "/reference/sitemap.xml", "/.well-known/api-catalog", "/reference/feed.atom",
		"/reference/sunsets.ics", "/reference/sunsets", "/robots.txt", "/reference/search?q=berth", "/embed/berths/latest/",
		"/oembed?url=http://" + at + "/reference/berths/1.2.0/", "/shelves/slipway/",
	}
	for len(ways) > 0 {
		path := ways[0]
		if ways = ways[1:]; seen[path] {
			continue
		}
		seen[path] = true
		page := ask(path)
		for page.StatusCode == http.StatusFound || page.StatusCode == http.StatusMovedPermanently {
			page = ask(page.Header.Get("Location"))
		}
		require.Equal(t, http.StatusOK, page.StatusCode, path)
		if strings.HasPrefix(page.Header.Get("Content-Type"), "image/") || strings.HasSuffix(path, ".zip") || strings.Contains(path, "/assets/") {
			continue
		}
		require.NotRegexp(t, regexp.MustCompile(`berths[@/]2|reference/(commons|pilotage|ledger|harbour)|ilotage|Berth Booking 2`), page.text, path)
		for _, m := range regexp.MustCompile(`(?:href|src)="(/reference/[^"#]*)`).FindAllStringSubmatch(page.text, -1) {
			ways = append(ways, m[1])
		}
	}
	require.Greater(t, len(seen), 60)
	for _, path := range []string{
		"/reference/berths/2.0.0/", "/reference/commons/", "/reference/pilotage/", "/reference/berths/guides/1.2.0..2.0.0", "/embed/berths/2/",
		"/reference/berths/2.0.0/description.yaml", "/shelves/inner/", "/shelves/other/", "/oembed?url=http://" + at + "/reference/berths/2.0.0/",
	} {
		require.Equal(t, http.StatusNotFound, ask(path).StatusCode, path)
		require.NotContains(t, ask(path).text, "2.1.0")
	}
	require.Contains(t, ask("/.well-known/api-catalog").text, "http://"+at+"/reference/tides/")
	require.Contains(t, ask("/reference/sitemap.xml").text, "http://"+at+"/reference/tides/")
	require.Contains(t, ask("/robots.txt").text, "http://"+at+"/reference/sitemap.xml")
	require.Equal(t, "no-cache", ask("/reference/berths/").Header.Get("Cache-Control"), "everybody reads it")
	require.Contains(t, ask("/reference/berths/").text, "1.2.0")
	require.Contains(t, askAt(t, base, strings.TrimPrefix(base, "http://"), "/reference/berths/", "").text, "2.0.0", "elsewhere, all is there")

	// A host whose shelf is not for who asks shows nothing, and asks for a sign-in.
	const inner = "inner.saltmere.example"
	for _, path := range []string{"/reference/", "/reference/berths/", "/reference/pilotage/", "/reference/feed.atom", "/reference/search.json?q=berth", "/shelves/inner/"} {
		shut := askAt(t, base, inner, path, "")
		require.Equal(t, http.StatusNotFound, shut.StatusCode, path)
		require.NotContains(t, shut.text, "Berth Booking")
	}
	require.NotContains(t, askAt(t, base, inner, "/.well-known/api-catalog", "").text, "berths")
	require.NotContains(t, askAt(t, base, inner, "/reference/sitemap.xml", "").text, "berths")
	sanna := token(t, l, "sanna")
	require.Contains(t, askAt(t, base, inner, "/reference/", sanna).text, "Pilotage Orders")
	require.Equal(t, http.StatusOK, askAt(t, base, inner, "/reference/pilotage/", sanna).StatusCode)
	require.Equal(t, "private, no-cache", askAt(t, base, inner, "/reference/pilotage/", sanna).Header.Get("Cache-Control"))
	require.Equal(t, http.StatusNotFound, askAt(t, base, inner, "/reference/berths/", sanna).StatusCode, "it does not stand there")

	// Each change holds for the next request, in pages that were kept, too.
	require.NoError(t, l.Unplace(t.Context(), ledger.Itself, "slipway", "berths"))
	require.Equal(t, http.StatusNotFound, ask("/reference/berths/1.2.0/").StatusCode)
	require.NoError(t, l.PutShelf(t.Context(), ledger.Itself, "slipway", ledger.ShelfWish{Audience: &ledger.Audience{ledger.SignedIn}}))
	require.Equal(t, http.StatusNotFound, ask("/reference/tides/").StatusCode)
	require.NoError(t, l.DropShelf(t.Context(), ledger.Itself, "slipway"))
	require.Equal(t, http.StatusOK, ask("/reference/berths/2.0.0/").StatusCode, "a host of no shelf is the ledger's")
}

// TestShelvesOverHTTP makes a shelf, and refuses what is wrong with one in words.
func TestShelvesOverHTTP(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	imke, sanna := token(t, l, "imke"), token(t, l, "sanna")
	call := func(method, path, who, body string) answer {
		return send(t, method, base+"/api/v1"+path, who, map[string]string{"Content-Type": "application/json"}, strings.NewReader(body))
	}
	require.Equal(t, 204, call("PATCH", "/shelves/yard", imke, `{"title": "The yard", "audience": ["everyone"], "landing": "Welcome."}`).StatusCode)
	require.Equal(t, 204, call("PUT", "/shelves/yard/apis/tides", sanna, `{"versions": ["1"]}`).StatusCode)
	list := call("GET", "/shelves", sanna, "")
	require.Contains(t, list.text, `"address":"`+base+`/shelves/yard/"`)
	require.Contains(t, list.text, `"stands":[{"api":"tides","versions":["1"]}]`)
	for body, why := range map[string]string{
		`{"audience": ["link"]}`: "a link leads to one API", `{"audience": ["all"]}`: "is no group of readers", `{"x": 1}`: "x",
		`{"host": "` + strings.TrimPrefix(base, "http://") + `"}`: "the ledger itself is reached", `{"order": ["berths"]}`: "berths does not stand on yard",
	} {
		got := call("PATCH", "/shelves/yard", imke, body)
		require.True(t, slices.Contains([]int{400, 422}, got.StatusCode), got.text)
		require.Contains(t, got.text, why)
	}
	require.Contains(t, call("PUT", "/shelves/yard/apis/tides", sanna, `{"versions": ["one"]}`).text, "is no line and no number")
	require.Equal(t, 404, call("PUT", "/shelves/none/apis/tides", sanna, `{}`).StatusCode)
	require.Equal(t, 200, call("PATCH", "/apis/tides", sanna, `{"switcher": ["lines"]}`).StatusCode)
	require.Contains(t, call("GET", "/apis/tides", sanna, "").text, `"switcher":["lines"]`)
	require.NotContains(t, call("GET", "/apis/tides", "", "").text, "switcher")
	require.Equal(t, 204, call("DELETE", "/shelves/yard/apis/tides", sanna, "").StatusCode)
	require.Equal(t, 204, call("DELETE", "/shelves/yard", imke, "").StatusCode)
	require.Equal(t, 404, call("DELETE", "/shelves/yard", imke, "").StatusCode)
}

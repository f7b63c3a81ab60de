package server_test

import (
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
)

// visitor is a browser that follows no redirect.
func visitor(t *testing.T) *http.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

func visit(t *testing.T, c *http.Client, address string, form url.Values) answer {
	t.Helper()
	ask := func() (*http.Response, error) { return c.Get(address) }
	if form != nil {
		ask = func() (*http.Response, error) { return c.PostForm(address, form) }
	}
	res, err := ask()
	require.NoError(t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return answer{res, string(text)}
}

// TestLinkOfTheDemo reads what is for partners, as nobody, with a wrong password, with the right one, and once the link is withdrawn.
func TestLinkOfTheDemo(t *testing.T) {
	base, l := startDemo(t)
	c := visitor(t)
	const api = "/reference/pilotage/"
	never := visit(t, c, base+"/reference/never/", nil)
	shut := visit(t, c, base+api, nil)
	require.Equal(t, http.StatusNotFound, shut.StatusCode)
	require.Equal(t, strings.ReplaceAll(never.text, "never", "pilotage"), shut.text)
	require.NotContains(t, visit(t, c, base+"/reference/", nil).text, "Pilotage")

	link := base + demo.LinkPath
	page := visit(t, c, link, nil)
	require.Equal(t, http.StatusOK, page.StatusCode)
	require.NotContains(t, page.text, "ilotage", "what it opens is told to whoever knows the password")
	require.Equal(t, "no-store", page.Header.Get("Cache-Control"))
	require.Equal(t, "no-referrer", page.Header.Get("Referrer-Policy"))
	require.Equal(t, http.StatusNotFound, visit(t, c, base+"/open/none/", nil).StatusCode)
	require.Equal(t, http.StatusNotFound, visit(t, c, base+"/open/none/", url.Values{"password": {demo.Password}}).StatusCode)
	wrong := visit(t, c, link, url.Values{"password": {"wrong"}})
	require.Equal(t, http.StatusForbidden, wrong.StatusCode)
	require.Contains(t, wrong.text, "not the password of this link")
	require.NotContains(t, wrong.text, "ilotage")
	opened := visit(t, c, link, url.Values{"password": {demo.Password}})
	require.Equal(t, http.StatusSeeOther, opened.StatusCode)
	require.Equal(t, api, opened.Header.Get("Location"))
	cookie := opened.Header.Get("Set-Cookie")
	for _, part := range []string{"Path=" + api, "HttpOnly", "SameSite=Lax"} {
		require.Contains(t, cookie, part)
	}
	for _, path := range []string{"", "1.1.0/", "1.1.0/changes", "1.1.0/description.yaml", "notices", "feed.atom", "guides/1.0.0..1.1.0"} {
		for range 2 { // as made, and as kept
			res := visit(t, c, base+api+path, nil)
			require.Equal(t, http.StatusOK, res.StatusCode, path)
			require.Equal(t, "private, no-cache", res.Header.Get("Cache-Control"), path)
			require.Equal(t, http.StatusNotFound, visit(t, visitor(t), base+api+path, nil).StatusCode, path)
		}
	}
	require.NotContains(t, visit(t, c, base+"/reference/", nil).text, "Pilotage", "it opens that API alone")
	require.NotContains(t, visit(t, c, base+"/reference/sitemap.xml", nil).text, "pilotage")

	require.NotContains(t, visit(t, c, base+api, nil).text, "· for", "who else reads it is told to who may change that")
	lead := send(t, "GET", base+api, token(t, l, "sanna"), nil, nil)
	require.Contains(t, lead.text, "· for Quayside, whoever has a link")

	sanna, err := l.Actor(t.Context(), "sanna")
	require.NoError(t, err)
	links, err := l.Links(t.Context(), sanna, "pilotage")
	require.NoError(t, err)
	require.NoError(t, l.WithdrawLink(t.Context(), sanna, "pilotage", links[0].ID))
	require.Equal(t, http.StatusNotFound, visit(t, c, base+api, nil).StatusCode, "from the next request on")
	require.Equal(t, http.StatusNotFound, visit(t, c, link, nil).StatusCode)
}

// TestGuessingLinks slows down who tries passwords of a link.
func TestGuessingLinks(t *testing.T) {
	base, _ := startDemo(t)
	c, refused := visitor(t), 0
	for range 8 {
		res := visit(t, c, base+demo.LinkPath, url.Values{"password": {"wrong"}})
		if res.StatusCode == http.StatusTooManyRequests {
			require.NotEmpty(t, res.Header.Get("Retry-After"))
			refused++
		}
	}
	require.Equal(t, 3, refused)
	require.Equal(t, http.StatusTooManyRequests, visit(t, c, base+demo.LinkPath, url.Values{"password": {demo.Password}}).StatusCode)
}

// TestSignedInReads reads what is for those who are signed in, in the browser that signed in, until it signs out; what is for everybody is
// the same page for all.
func TestSignedInReads(t *testing.T) {
	base, l := startDemo(t)
	require.NoError(t, l.AddPerson(t.Context(), ledger.Itself, ledger.Person{Name: "vik", Full: "Vik"}, demo.Password))
	c := visitor(t)
	signIn := func() {
		res, err := c.Post(base+"/api/v1/sign-in", "application/json", strings.NewReader(`{"name": "vik", "password": "`+demo.Password+`"}`))
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		require.Equal(t, http.StatusOK, res.StatusCode)
	}
	at := base + "/reference/commons/"
	lost := visit(t, c, at, nil)
	require.Equal(t, http.StatusNotFound, lost.StatusCode)
	require.Contains(t, lost.text, `href="/console/sign-in?to=%2Freference%2Fcommons%2F"`, "a page may be for those who are signed in")
	berths := visit(t, c, base+"/reference/berths/", nil)
	signIn()
	require.Equal(t, http.StatusOK, visit(t, c, at, nil).StatusCode)
	shelf := visit(t, c, base+"/reference/", nil)
	require.Contains(t, shelf.text, "Shared Components")
	require.NotContains(t, shelf.text, "Pilotage", "which is for partners")
	require.Equal(t, "private, no-cache", shelf.Header.Get("Cache-Control"))
	again := visit(t, c, base+"/reference/berths/", nil)
	require.Equal(t, berths.Header.Get("Etag"), again.Header.Get("Etag"))
	require.Equal(t, "no-cache", again.Header.Get("Cache-Control"))

	require.NoError(t, l.SetAudience(t.Context(), ledger.Itself, "commons", ledger.AudienceWish{Published: &ledger.Audience{}}))
	require.Equal(t, http.StatusNotFound, visit(t, c, at, nil).StatusCode, "its audience changed")
	require.NoError(t, l.SetAudience(t.Context(), ledger.Itself, "commons", ledger.AudienceWish{Published: &ledger.Audience{ledger.SignedIn}}))
	require.Equal(t, http.StatusOK, visit(t, c, at, nil).StatusCode)
	require.NoError(t, l.DropPerson(t.Context(), ledger.Itself, "vik"))
	require.Equal(t, http.StatusNotFound, visit(t, c, at, nil).StatusCode, "who left is nobody")
}

// TestSecretFeeds reads, as a feed reader without a session does, what somebody reads, until the address is ended, replaced, or they leave.
func TestSecretFeeds(t *testing.T) {
	base, l := startDemo(t)
	sanna, err := l.Actor(t.Context(), "sanna")
	require.NoError(t, err)
	key, err := l.MakeFeed(t.Context(), sanna)
	require.NoError(t, err)
	read := func(path string) answer { return send(t, "GET", base+"/feeds/"+key+"/"+path, "", nil, nil) }
	everybody := send(t, "GET", base+"/reference/feed.atom", "", nil, nil)
	require.NotContains(t, everybody.text, "Pilotage")
	require.Contains(t, read("feed.atom").text, "Pilotage Orders 1.1.0 is published")
	require.Contains(t, read("feed.atom").text, "Berth Booking 2.0.0 is published")
	require.Contains(t, read("pilotage/feed.atom").text, "Pilotage Orders 1.1.0 is published")
	require.Contains(t, read("sunsets.ics").text, "BEGIN:VCALENDAR")
	require.Equal(t, "private, no-cache", read("feed.atom").Header.Get("Cache-Control"))
	for _, wrong := range []string{"", "feed", "none/feed.atom", "pilotage/description.yaml", "pilotage/1.1.0/", "../reference/"} {
		require.Equal(t, http.StatusNotFound, read(wrong).StatusCode, wrong)
	}
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/feeds/none/feed.atom", "", nil, nil).StatusCode)
	former := key
	key, err = l.MakeFeed(t.Context(), sanna)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, read("feed.atom").StatusCode)
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/feeds/"+former+"/feed.atom", "", nil, nil).StatusCode)
	require.NoError(t, l.DropFeed(t.Context(), sanna))
	require.Equal(t, http.StatusNotFound, read("feed.atom").StatusCode)
	require.Error(t, l.DropFeed(t.Context(), sanna))
	key, err = l.MakeFeed(t.Context(), sanna)
	require.NoError(t, err)
	require.NoError(t, l.DropPerson(t.Context(), ledger.Itself, "sanna"))
	require.Equal(t, http.StatusNotFound, read("feed.atom").StatusCode)
}

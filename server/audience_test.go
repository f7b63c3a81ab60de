package server_test

import (
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
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
	t.Parallel()
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
	guide := send(t, "GET", base+"/reference/berths/guides/1.2.0..2.0.0", token(t, l, "teodor"), nil, nil)
	require.Contains(t, guide.text, `/console/apis/berths/guide/1.2.0..2.0.0" title="In the console: step by step">· touches 4 consumers and callers that nobody knows`)
	for _, address := range []string{"berths/guides/1.2.0..2.0.0", "berths/guides/1.2.0..2.0.0?use=bookBerth"} {
		require.NotContains(t, send(t, "GET", base+"/reference/"+address, token(t, l, "sanna"), nil, nil).text, "· touches", "it is told to leads of its team alone")
		require.NotContains(t, send(t, "GET", base+"/reference/"+address, "", nil, nil).text, "touches")
	}

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
	t.Parallel()
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
	t.Parallel()
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
	t.Parallel()
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

// TestSeeAs has those look as others who may say who reads: they see what the other would, on every page marked as such, and change
// nothing.
func TestSeeAs(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	in := func(name string) *http.Client {
		c := visitor(t)
		res, err := c.Post(base+"/api/v1/sign-in", "application/json", strings.NewReader(`{"name": "`+name+`", "password": "`+demo.Password+`"}`))
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		require.Equal(t, http.StatusOK, res.StatusCode)
		return c
	}
	write := func(c *http.Client, method, path, body string) answer {
		t.Helper()
		req, err := http.NewRequest(method, base+"/api/v1"+path, strings.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/json")
		res, err := c.Do(req)
		require.NoError(t, err)
		defer res.Body.Close()
		text, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return answer{res, string(text)}
	}
	see := func(c *http.Client, as string) answer { return write(c, "PUT", "/me/view", `{"as": "`+as+`"}`) }
	sanna := in("sanna")
	const pilotage = "/reference/pilotage/"
	require.Equal(t, http.StatusOK, visit(t, sanna, base+pilotage, nil).StatusCode)
	before, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)

	require.Equal(t, http.StatusNoContent, see(sanna, "nobody").StatusCode)
	require.Equal(t, http.StatusNotFound, visit(t, sanna, base+pilotage, nil).StatusCode)
	for range 2 {
		page := visit(t, sanna, base+"/reference/berths/2.0.0/", nil)
		require.Contains(t, page.text, "You look as nobody.")
		require.Equal(t, "no-store", page.Header.Get("Cache-Control"))
		require.NotContains(t, visit(t, visitor(t), base+"/reference/berths/2.0.0/", nil).text, "You look as", "others' pages are not marked")
	}
	require.NotContains(t, visit(t, sanna, base+"/reference/", nil).text, "Pilotage")
	require.Contains(t, visit(t, sanna, base+"/api/v1/me", nil).text, `"name":"sanna"`)
	require.Contains(t, visit(t, sanna, base+"/api/v1/me", nil).text, `"seeing":"nobody"`)
	require.NotContains(t, visit(t, sanna, base+"/api/v1/apis", nil).text, "pilotage")
	require.Equal(t, http.StatusNotFound, visit(t, sanna, base+"/api/v1/apis/pilotage", nil).StatusCode)

	require.Equal(t, http.StatusNoContent, see(sanna, "link pilotage").StatusCode)
	require.Contains(t, visit(t, sanna, base+pilotage, nil).text, "You look as link pilotage.")
	require.Equal(t, http.StatusNotFound, visit(t, sanna, base+"/reference/commons/", nil).StatusCode)
	require.Equal(t, http.StatusNoContent, see(sanna, "signed-in").StatusCode)
	require.Equal(t, http.StatusNotFound, visit(t, sanna, base+pilotage, nil).StatusCode)
	require.Equal(t, http.StatusOK, visit(t, sanna, base+"/reference/commons/", nil).StatusCode)
	require.Equal(t, http.StatusNoContent, see(sanna, "reviewer of Navigation").StatusCode)
	require.Equal(t, http.StatusOK, visit(t, sanna, base+"/api/v1/apis/pilotage", nil).StatusCode)
	for _, c := range []struct{ method, path, body string }{
		{"PATCH", "/apis/pilotage/audience", `{"published": ["everyone"]}`},
		{"POST", "/tokens", `{"label": "x"}`},
		{"POST", "/me/feed", `{}`},
		{"PUT", "/me/password", `{"old": "x", "new": "y"}`},
		{"DELETE", "/versions/berths@2.1.0", ""},
		{"POST", "/dry-runs?api=pilotage", "openapi: 3.1.0"},
	} {
		res := write(sanna, c.method, c.path, c.body)
		require.Equal(t, http.StatusForbidden, res.StatusCode, c.path)
		require.Contains(t, res.text, "you look as reviewer of Navigation, and change nothing meanwhile", c.path)
	}
	for as, status := range map[string]int{
		"lead of Quayside": http.StatusForbidden, "link berths": http.StatusForbidden, "link none": http.StatusForbidden,
		"reader of None": http.StatusForbidden, "admin": http.StatusUnprocessableEntity, "": http.StatusUnprocessableEntity,
		"somebody": http.StatusUnprocessableEntity, "auditor of Navigation": http.StatusUnprocessableEntity,
	} {
		require.Equal(t, status, see(sanna, as).StatusCode, as)
	}
	require.Equal(t, http.StatusForbidden, see(in("jonas"), "nobody").StatusCode, "who may not say who reads")
	require.Equal(t, http.StatusUnauthorized, see(visitor(t), "nobody").StatusCode)
	byToken := send(t, "PUT", base+"/api/v1/me/view", token(t, l, "sanna"), nil, strings.NewReader(`{"as": "nobody"}`))
	require.Equal(t, http.StatusForbidden, byToken.StatusCode)

	require.Equal(t, http.StatusNoContent, write(sanna, "DELETE", "/me/view", "").StatusCode)
	page := visit(t, sanna, base+pilotage, nil)
	require.Equal(t, http.StatusOK, page.StatusCode)
	require.NotContains(t, page.text, "You look as")

	// Whoever signs in in the same browser looks as themselves.
	require.Equal(t, http.StatusNoContent, see(sanna, "nobody").StatusCode)
	require.Equal(t, http.StatusOK, write(sanna, "POST", "/sign-in", `{"name": "sanna", "password": "`+demo.Password+`"}`).StatusCode)
	require.NotContains(t, visit(t, sanna, base+"/api/v1/me", nil).text, "seeing")
	require.NotContains(t, visit(t, sanna, base+pilotage, nil).text, "You look as")

	// Whoever loses the right while they look is nobody until they look as themselves.
	require.Equal(t, http.StatusNoContent, see(sanna, "lead of Navigation").StatusCode)
	require.NoError(t, l.PutMember(t.Context(), ledger.Itself, "Navigation", "sanna", ledger.Reader))
	require.Equal(t, http.StatusNotFound, visit(t, sanna, base+pilotage, nil).StatusCode)
	require.Equal(t, http.StatusForbidden, visit(t, sanna, base+"/api/v1/apis/pilotage", nil).StatusCode)
	require.Equal(t, http.StatusNoContent, write(sanna, "DELETE", "/me/view", "").StatusCode)
	require.Equal(t, http.StatusOK, visit(t, sanna, base+pilotage, nil).StatusCode)
	after, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	require.Equal(t, before.Entries+4, after.Entries, "jonas and sanna signed in, the team was told, a token was made; looking is no act")
}

// TestEachPart opens each operation and each group of every API of the demo to nobody but its team, RAML and callbacks included: readers
// get every version without it, and the team gets it.
func TestEachPart(t *testing.T) {
	t.Parallel() // it computes while others wait for a browser
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	_, l := startDemo(t)
	ctx := t.Context()
	apis, err := l.APIs(ctx, ledger.Itself)
	require.NoError(t, err)
	parts := 0
	for _, a := range apis {
		if a.Name == "ledger" {
			continue // as many operations as all others together
		}
		require.NoError(t, l.SetAudience(ctx, ledger.Itself, a.Name, ledger.AudienceWish{Published: &ledger.Audience{ledger.Everyone}}))
		names := map[string]bool{}
		for _, v := range a.Versions {
			d, err := l.Description(ctx, ledger.Itself, v.Ref())
			require.NoError(t, err)
			for _, op := range d.Contract.All() {
				if op.Owner == "" {
					names["operation "+op.Written()] = true
				}
				for _, tag := range op.Tags {
					names["group "+tag] = true
				}
			}
		}
		for name := range names {
			parts++
			require.NoError(t, l.SetAudience(ctx, ledger.Itself, a.Name, ledger.AudienceWish{Part: name, Published: &ledger.Audience{}}), name)
			part, err := ledger.PartOf(name)
			require.NoError(t, err)
			for _, v := range a.Versions {
				if !v.Shown() {
					continue
				}
				all, err := l.Description(ctx, ledger.Itself, v.Ref())
				require.NoError(t, err)
				some, err := l.Description(ctx, ledger.Nobody, v.Ref())
				require.NoError(t, err, "%s without %s", v.Ref(), name)
				gone := 0
				for _, op := range all.Contract.All() {
					isPart := op.Owner == "" && op.Key() == methodAndWire(part.Operation) || slices.Contains(op.Tags, part.Group)
					if isPart {
						gone++
						require.Nil(t, some.Contract.Lookup(op.Key()), "%s without %s", v.Ref(), name)
					}
				}
				require.LessOrEqual(t, len(some.Contract.All()), len(all.Contract.All())-gone, "%s without %s", v.Ref(), name)
				if gone == 0 {
					require.Len(t, some.Contract.All(), len(all.Contract.All()))
				}
			}
			require.NoError(t, l.SetAudience(ctx, ledger.Itself, a.Name, ledger.AudienceWish{Part: name, AsLedger: true}))
		}
	}
	require.Greater(t, parts, 30)
}

func methodAndWire(operation string) string {
	method, path, _ := strings.Cut(operation, " ")
	if method == "webhook" {
		return operation
	}
	return method + " " + contract.WirePath(path)
}

// TestTwoReadersAtOnce asks for what is made anew as nobody and as its team at the same moment: neither gets what was made for the other.
func TestTwoReadersAtOnce(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	ctx := t.Context()
	inside := token(t, l, "teodor")
	const path, part = "/reference/sitemap.xml", "operation bookBerth"
	for range 12 {
		require.NoError(t, l.SetAudience(ctx, ledger.Itself, "berths", ledger.AudienceWish{Part: part, Published: &ledger.Audience{}}))
		answers := make([]answer, 6)
		var group sync.WaitGroup
		for i := range answers {
			group.Go(func() {
				who := ""
				if i%2 == 0 {
					who = inside
				}
				answers[i] = send(t, "GET", base+path, who, nil, nil)
			})
		}
		group.Wait()
		for i, a := range answers {
			require.Equal(t, i%2 == 0, strings.Contains(a.text, "/operations/bookBerth"), i)
		}
		require.NoError(t, l.SetAudience(ctx, ledger.Itself, "berths", ledger.AudienceWish{Part: part, AsLedger: true}))
	}
}

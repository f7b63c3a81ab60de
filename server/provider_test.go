package server_test

import (
	"crypto/rand"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/client"
	"oldledger/ledger"
	"oldledger/server"
	identities "oldledger/server/provider"
	"oldledger/store"
	"oldledger/tools/provider"
)

// withProvider is a ledger whose people sign in by a provider on loopback, and the address at which it answers.
func withProvider(t *testing.T) (*provider.Provider, *ledger.Ledger, string) {
	t.Helper()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
	require.NoError(t, l.AddPerson(t.Context(), ledger.Itself, ledger.Person{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin}, "long enough"))
	for _, team := range []string{"Quayside", "Navigation"} {
		require.NoError(t, l.AddTeam(t.Context(), ledger.Itself, team))
	}
	p := provider.New(t)
	var groups []ledger.GroupRole
	for _, text := range []string{
		"quay-leads=lead of Quayside", "all=reader of Quayside", `a=b "odd" ü/=editor of Navigation`, "watch=auditor", "gone=lead of Ferries", "admins=admin",
	} {
		g, err := ledger.ParseGroupRole(text)
		require.NoError(t, err)
		groups = append(groups, g)
	}
	web := httptest.NewUnstartedServer(nil)
	srv, err := server.New(server.Options{
		Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: web.Listener.Addr().String()},
		Log:      slog.New(slog.NewTextHandler(io.Discard, nil)),
		Provider: identities.Options{Issuer: p.URL, Client: provider.Client, Name: "Saltmere accounts", Claim: "groups", Groups: groups},
	})
	require.NoError(t, err)
	web.Config.Handler = srv.Handler()
	web.Start()
	t.Cleanup(web.Close)
	return p, l, web.URL
}

// signedIn follows a sign-in to its end, and gives the address at which it ends and who is signed in then, or why nobody is.
func signedIn(t *testing.T, c *http.Client, base string) (to, name, why string) {
	t.Helper()
	at := base + "/sign-in/provider?to=/console/journal"
	for range 6 {
		res := visit(t, c, at, nil)
		if res.StatusCode != http.StatusFound {
			break
		}
		next, err := res.Location()
		require.NoError(t, err)
		to = next.Path
		why = next.Query().Get("why")
		if strings.HasPrefix(next.String(), base+"/console/") {
			break
		}
		at = next.String()
	}
	me := visit(t, c, base+"/api/v1/me", nil)
	var is struct{ Name string }
	if me.StatusCode == http.StatusOK {
		require.NoError(t, json.Unmarshal([]byte(me.text), &is))
	}
	return to, is.Name, why
}

// TestProviderSignOut tells where to sign out at the provider, too: whoever was signed in by it, and nobody else.
func TestProviderSignOut(t *testing.T) {
	t.Parallel()
	p, _, base := withProvider(t)
	out := func(c *http.Client) string {
		var is struct{ To string }
		res := visit(t, c, base+"/sign-in/provider/out", nil)
		require.Equal(t, http.StatusOK, res.StatusCode)
		require.NoError(t, json.Unmarshal([]byte(res.text), &is))
		return is.To
	}
	require.Empty(t, out(visitor(t)))
	byPassword := visitor(t)
	res, err := byPassword.Post(base+"/api/v1/sign-in", "application/json", strings.NewReader(`{"name": "imke", "password": "long enough"}`))
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Empty(t, out(byPassword))
	c := visitor(t)
	p.Is(map[string]any{"sub": "s1", "preferred_username": "teodor", "name": "Teodor Brand", "groups": []string{"all"}})
	_, name, why := signedIn(t, c, base)
	require.Equal(t, "teodor", name, why)
	to, err := url.Parse(out(c))
	require.NoError(t, err)
	require.Equal(t, p.URL+"/out", to.Scheme+"://"+to.Host+to.Path)
	require.Equal(t, url.Values{
		"tenant": {"harbour"}, "client_id": {provider.Client}, "post_logout_redirect_uri": {base + "/console/sign-in"},
	}, to.Query())
	p.Down(true)
	require.NotEmpty(t, out(c), "what it said is known")
	res, err = c.Post(base+"/api/v1/sign-out", "application/json", nil)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Empty(t, out(c))
}

// TestProviderSignIn signs in by a provider: somebody new becomes a person, whoever comes again is the same, groups say what they are, and
// whoever is taken out of one is out at the next sign-in.
func TestProviderSignIn(t *testing.T) {
	t.Parallel()
	p, l, base := withProvider(t)
	p.Is(map[string]any{"sub": "s1", "preferred_username": "Teodor.Brand@saltmere.example", "name": "Teodor Brand", "groups": []string{"quay-leads", "all", "none"}})
	to, name, why := signedIn(t, visitor(t), base)
	require.Equal(t, []string{"/console/journal", "teodor.brand", ""}, []string{to, name, why})
	is := func(name string) ledger.Person {
		who, err := l.Actor(t.Context(), name)
		require.NoError(t, err)
		return who.Person
	}
	require.Equal(t, ledger.Person{Name: "teodor.brand", Full: "Teodor Brand", Teams: map[string]ledger.Role{"Quayside": ledger.Lead}}, is("teodor.brand"))
	require.NoError(t, l.PutMember(t.Context(), ledger.Itself, "Navigation", "teodor.brand", ledger.Reviewer))

	p.Is(map[string]any{"sub": "s1", "preferred_username": "renamed", "name": "Teodor B.", "groups": "all"})
	_, name, _ = signedIn(t, visitor(t), base)
	require.Equal(t, "teodor.brand", name, "the subject says who it is")
	require.Equal(t, ledger.Person{Name: "teodor.brand", Full: "Teodor B.", Teams: map[string]ledger.Role{"Quayside": ledger.Reader}}, is("teodor.brand"),
		"and the groups what, in the teams that they speak of")

	// Nobody becomes somebody who is here by a password, by having their name.
	p.Is(map[string]any{"sub": "s2", "preferred_username": "imke", "groups": []string{`a=b "odd" ü/`, "watch"}})
	_, name, _ = signedIn(t, visitor(t), base)
	require.Equal(t, "imke-2", name)
	require.Equal(t, ledger.Auditor, is("imke-2").Role)
	require.Equal(t, map[string]ledger.Role{"Navigation": ledger.Editor}, is("imke-2").Teams)
	p.Is(map[string]any{"sub": "s2", "groups": []string{}})
	c := visitor(t)
	_, name, _ = signedIn(t, c, base)
	require.Equal(t, "imke-2", name)
	require.Equal(t, ledger.NoRole, is("imke-2").Role)
	require.Empty(t, is("imke-2").Teams)

	// Signed out is signed out; whoever was let go stays out.
	res, err := c.Post(base+"/api/v1/sign-out", "application/json", nil)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusUnauthorized, visit(t, c, base+"/api/v1/me", nil).StatusCode)
	require.NoError(t, l.DropPerson(t.Context(), ledger.Itself, "imke-2"))
	_, name, why = signedIn(t, visitor(t), base)
	require.Empty(t, name)
	require.Contains(t, why, "imke-2 was let go here")

	// The last admin stays one, whatever the groups say.
	p.Is(map[string]any{"sub": "s3", "preferred_username": "sanna", "groups": []string{"admins"}})
	_, name, _ = signedIn(t, visitor(t), base)
	require.Equal(t, ledger.Admin, is(name).Role)
	require.NoError(t, l.SetRole(t.Context(), ledger.Itself, "imke", ledger.NoRole))
	p.Is(map[string]any{"sub": "s3", "preferred_username": "sanna", "groups": []string{}})
	_, name, _ = signedIn(t, visitor(t), base)
	require.Equal(t, ledger.Admin, is(name).Role)

	for sub, wish := range map[string]string{"s4": "Ünsal Ö", "s5": "../../etc", "s6": "", "s7": strings.Repeat("x", 300), "s8": "<script>", "s9": "4vik2"} {
		p.Is(map[string]any{"sub": sub, "preferred_username": wish})
		_, name, why := signedIn(t, visitor(t), base)
		require.Regexp(t, `^[a-z][a-z0-9.-]*$`, name, wish+why)
		require.LessOrEqual(t, len(name), 40)
	}
	v, err := l.VerifyJournal(t.Context(), ledger.Itself, "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestProviderForged comes back with what somebody forged, replayed, let expire or meant for others: nobody is signed in.
func TestProviderForged(t *testing.T) {
	t.Parallel()
	p, l, base := withProvider(t)
	people := func() int {
		all, err := l.People(t.Context(), ledger.Itself)
		require.NoError(t, err)
		return len(all)
	}
	for name, claims := range map[string]map[string]any{
		"expired":          {"exp": time.Now().Add(-time.Minute).Unix()},
		"another nonce":    {"nonce": "another"},
		"no nonce":         {"nonce": ""},
		"for others":       {"aud": "another-client"},
		"of another":       {"iss": "https://other.example"},
		"no subject":       {"sub": ""},
		"a subject of 300": {"sub": strings.Repeat("s", 300)},
	} {
		p.Is(claims)
		_, who, why := signedIn(t, visitor(t), base)
		require.Empty(t, who, name)
		require.NotEmpty(t, why, name)
	}
	p.Is(map[string]any{"preferred_username": "vik"})
	p.Forge()
	_, who, why := signedIn(t, visitor(t), base)
	require.Empty(t, who)
	require.Contains(t, why, "cannot be trusted")
	p.Rotate()
	_, who, why = signedIn(t, visitor(t), base)
	require.Equal(t, "vik", who, "another key is found: %s", why)
	require.Equal(t, 2, people())

	// A callback without a beginning, with another's state, twice.
	for _, q := range []string{"", "?code=x&state=y", "?state=", "?error=access_denied"} {
		res := visit(t, visitor(t), base+"/sign-in/provider/callback"+q, nil)
		require.Equal(t, http.StatusFound, res.StatusCode)
		require.Contains(t, res.Header.Get("Location"), "was+not+begun+in+this+browser")
	}
	c := visitor(t)
	away := visit(t, c, base+"/sign-in/provider?to=https://evil.example/", nil)
	back := visit(t, c, away.Header.Get("Location"), nil).Header.Get("Location")
	res := visit(t, visitor(t), back, nil)
	require.Contains(t, res.Header.Get("Location"), "was+not+begun+in+this+browser", "another browser")
	res = visit(t, c, back, nil)
	require.Equal(t, "/console/", res.Header.Get("Location"), "it leads to no other place")
	res = visit(t, c, back, nil)
	require.Contains(t, res.Header.Get("Location"), "was+not+begun", "the second time")
	c = visitor(t)
	visit(t, c, base+"/sign-in/provider", nil)
	state := visit(t, c, base+"/sign-in/provider", nil)
	at, err := state.Location()
	require.NoError(t, err)
	res = visit(t, c, base+"/sign-in/provider/callback?code=invented&state="+url.QueryEscape(at.Query().Get("state")), nil)
	require.Contains(t, res.Header.Get("Location"), "does+not+take+this+sign-in")
	res = visit(t, c, base+"/sign-in/provider", nil)
	at, err = res.Location()
	require.NoError(t, err)
	res = visit(t, c, base+"/sign-in/provider/callback?error=access_denied&error_description=%3Cb%3Eno&state="+url.QueryEscape(at.Query().Get("state")), nil)
	require.Contains(t, res.Header.Get("Location"), "access_denied%2C+bno")
	require.Equal(t, http.StatusUnauthorized, visit(t, c, base+"/api/v1/me", nil).StatusCode)
}

// TestProviderDown signs in while the provider does not answer, and once it does.
func TestProviderDown(t *testing.T) {
	t.Parallel()
	p, l, base := withProvider(t)
	p.Is(map[string]any{"preferred_username": "vik"})
	p.Down(true)
	_, who, why := signedIn(t, visitor(t), base)
	require.Empty(t, who)
	require.Contains(t, why, "does not answer")
	_, err := l.SignIn(t.Context(), "imke", "long enough", "192.0.2.1")
	require.NoError(t, err, "a password does not need it")
	p.Down(false)
	require.Eventually(t, func() bool {
		_, who, _ = signedIn(t, visitor(t), base)
		return who == "vik"
	}, 10*time.Second, 200*time.Millisecond)
	c := visitor(t)
	away := visit(t, c, base+"/sign-in/provider", nil)
	back := visit(t, c, away.Header.Get("Location"), nil).Header.Get("Location")
	p.Down(true)
	res := visit(t, c, back, nil)
	require.Contains(t, res.Header.Get("Location"), "does+not+answer", "between the two steps")
}

// TestDevice signs in a command line that has no browser.
func TestDevice(t *testing.T) {
	t.Parallel()
	p, l, base := withProvider(t)
	p.Is(map[string]any{"sub": "s1", "preferred_username": "teodor", "groups": []string{"quay-leads"}})
	c, err := client.New(base, "")
	require.NoError(t, err)
	d, err := c.SignInElsewhere(t.Context())
	require.NoError(t, err)
	require.Equal(t, "TIDE-1200", d.Code)
	_, _, err = c.Arrived(t.Context(), client.Device{Handle: "none"}, "test")
	require.ErrorContains(t, err, "no such sign-in is under way")
	p.Approve()
	token, name, err := c.Arrived(t.Context(), d, "test")
	require.NoError(t, err)
	require.Equal(t, "teodor", name)
	who, err := l.TokenActor(t.Context(), token)
	require.NoError(t, err)
	require.Equal(t, map[string]ledger.Role{"Quayside": ledger.Lead}, who.Teams)
	_, _, err = c.Arrived(t.Context(), d, "test")
	require.ErrorContains(t, err, "no such sign-in is under way", "once")

	for range 4 {
		_, err = c.SignInElsewhere(t.Context())
		require.NoError(t, err)
	}
	_, err = c.SignInElsewhere(t.Context())
	require.ErrorContains(t, err, "too many began to sign in from here")

	none, _ := startDemo(t)
	other, err := client.New(none, "")
	require.NoError(t, err)
	_, err = other.SignInElsewhere(t.Context())
	require.ErrorContains(t, err, "signs nobody in by a provider")
	require.JSONEq(t, `{"provider": ""}`, visit(t, visitor(t), none+"/sign-in/ways", nil).text)
	require.JSONEq(t, `{"provider": "Saltmere accounts"}`, visit(t, visitor(t), base+"/sign-in/ways", nil).text)
}

package server_test

import (
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
)

// call calls a route of the table with some headers. What it answers to the act, is told by its status.
func call(t *testing.T, base, route string, header map[string]string) answer {
	t.Helper()
	method, _, _ := strings.Cut(route, " ")
	return send(t, method, base+"/api/v1"+everyRoute[route].path, "", header, strings.NewReader(everyRoute[route].body))
}

func bearer(token string) map[string]string {
	return map[string]string{"Authorization": "Bearer " + token}
}

func isRefused(a answer) bool {
	return a.StatusCode == http.StatusUnauthorized || a.StatusCode == http.StatusForbidden
}

// session signs somebody of the demo in.
func session(t *testing.T, base, name string) map[string]string {
	t.Helper()
	signed := send(t, "POST", base+"/api/v1/sign-in", "", nil, strings.NewReader(`{"name": "`+name+`", "password": "`+demo.Password+`"}`))
	require.Equal(t, http.StatusOK, signed.StatusCode)
	return map[string]string{"Cookie": strings.Split(signed.Header.Get("Set-Cookie"), ";")[0]}
}

// TestEveryRouteByScope calls every route with a token of each scope, of somebody who may do everything; and with tokens for another team
// or another API alone: those do nothing to what is not theirs.
func TestEveryRouteByScope(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	admin, err := l.Actor(t.Context(), "imke")
	require.NoError(t, err)
	made := func(wish ledger.TokenWish) map[string]string {
		wish.Label = "test"
		token, err := l.MakeToken(t.Context(), admin, wish)
		require.NoError(t, err)
		return bearer(token)
	}
	for _, scope := range []ledger.Scope{
		ledger.ScopeRead, ledger.ScopeRecord, ledger.ScopePublish, ledger.ScopeSettle, ledger.ScopeTally, ledger.ScopeAdminister,
	} {
		by := made(ledger.TokenWish{Scopes: []ledger.Scope{scope}})
		for route, ask := range everyRoute {
			if route == "POST /sign-in" {
				continue
			}
			may := ask.act == "" || ledger.ScopeOf[ask.act] == scope || ledger.ScopeOf[ask.act] == ledger.ScopeRead
			got := call(t, base, route, by)
			if route == "PUT /me/password" && got.StatusCode == http.StatusTooManyRequests {
				continue // each of the scopes tries
			}
			require.Equal(t, !may, isRefused(got), "%s with %s answers %d: %s", route, scope, got.StatusCode, got.text)
		}
	}
	for name, by := range map[string]map[string]string{
		"another team": made(ledger.TokenWish{Teams: []string{"Navigation"}}), "another API": made(ledger.TokenWish{APIs: []string{"tides"}}),
	} {
		for route, ask := range everyRoute {
			if !strings.Contains(ask.path, "berths") || ask.act == "" {
				continue
			}
			got := call(t, base, route, by)
			require.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, got.StatusCode, "%s for %s: %s", route, name, got.text)
		}
	}
}

// TestEveryRouteOfNobodyAnyMore calls every route with what once let somebody in: a token that ended, was revoked, was never made, or whose
// maker left; a session that was ended; and with the cookie of a link, which opens pages and nothing else.
func TestEveryRouteOfNobodyAnyMore(t *testing.T) {
	t.Parallel()
	base, l, _ := startDemoAt(t)
	ctx := t.Context()
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "vik", Full: "Vik", Role: ledger.Admin}, demo.Password))
	vik, err := l.Actor(ctx, "vik")
	require.NoError(t, err)
	left, err := l.MakeToken(ctx, vik, ledger.TokenWish{Label: "left"})
	require.NoError(t, err)
	leftSession := session(t, base, "vik")
	imke, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	revoked, err := l.MakeToken(ctx, imke, ledger.TokenWish{Label: "revoked"})
	require.NoError(t, err)
	tokens, err := l.Tokens(ctx, imke)
	require.NoError(t, err)
	i := slices.IndexFunc(tokens, func(t ledger.Token) bool { return t.Label == "revoked" })
	require.NoError(t, l.DropToken(ctx, imke, tokens[i].ID))
	require.NoError(t, l.DropPerson(ctx, ledger.Itself, "vik"))
	ended := session(t, base, "jonas")
	jonas, err := l.Actor(ctx, "jonas")
	require.NoError(t, err)
	require.NoError(t, l.EndSessions(ctx, jonas))

	c := visitor(t)
	opened := visit(t, c, base+demo.LinkPath, map[string][]string{"password": {demo.Password}})
	require.Equal(t, http.StatusSeeOther, opened.StatusCode)
	holder := map[string]string{"Cookie": strings.Split(opened.Header.Get("Set-Cookie"), ";")[0]}

	trace := func(a answer) string { return regexp.MustCompile(`"trace":"[^"]*"`).ReplaceAllString(a.text, "") }
	for route := range everyRoute {
		if route == "POST /sign-in" || route == "POST /sign-out" {
			continue
		}
		for name, by := range map[string]map[string]string{
			"left": bearer(left), "revoked": bearer(revoked), "never made": bearer("olt_none"), "no token": bearer(""),
		} {
			got := call(t, base, route, by)
			require.Equal(t, http.StatusUnauthorized, got.StatusCode, "%s by %s: %s", route, name, got.text)
		}
		nobody := call(t, base, route, nil)
		for name, by := range map[string]map[string]string{
			"of who left": leftSession, "ended": ended, "never begun": {"Cookie": "oldledger=none"}, "of a link": holder,
		} {
			got := call(t, base, route, by)
			require.Equal(t, nobody.StatusCode, got.StatusCode, "%s with a session %s", route, name)
			require.Equal(t, trace(nobody), trace(got), "%s with a session %s", route, name)
		}
	}
}

// ownAffairs change the session itself with which they are asked, or something of whoever asks: they are tried by themselves.
var ownAffairs = []string{
	"POST /sign-in", "POST /sign-out", "DELETE /me/sessions", "PUT /me/password", "PUT /me/view", "POST /me/feed", "DELETE /me/feed", "POST /tokens",
}

// TestEveryRouteBySession calls every route as those who signed in with their password: what no token does, some of them may.
func TestEveryRouteBySession(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	ctx := t.Context()
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "vik", Full: "Vik"}, demo.Password))
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "ebba", Full: "Ebba", Role: ledger.Auditor}, demo.Password))
	for _, name := range []string{"vik", "ebba", "imke", "teodor", "sanna", "jonas"} {
		who, err := l.Actor(ctx, name)
		require.NoError(t, err)
		by := session(t, base, name)
		for route, ask := range everyRoute {
			if slices.Contains(ownAffairs, route) {
				continue
			}
			roles := []ledger.Role{who.Role, who.Teams["Quayside"]}
			switch ask.act {
			case ledger.SetPeople, ledger.SetTeams, ledger.Shelve, ledger.Verify:
				roles = roles[:1]
			}
			if route == "PATCH /audience" {
				roles = roles[:1]
			}
			may := ask.act == "" || slices.ContainsFunc(roles, func(r ledger.Role) bool { return slices.Contains(ledger.Access[ask.act], r) })
			got := call(t, base, route, by)
			if may {
				require.False(t, isRefused(got), "%s as %s answers %d: %s", route, name, got.StatusCode, got.text)
				continue
			}
			require.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, got.StatusCode, "%s as %s: %s", route, name, got.text)
		}
	}
}

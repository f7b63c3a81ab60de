package server_test

import (
	"bytes"
	"crypto/rand"
	"encoding/json"
	"log/slog"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/server"
	"oldledger/store"
	"oldledger/wire"
)

// TestNoSecretsKept goes through all that has a secret, well and badly, and looks for each in the log, in every answer that was given to
// somebody else, and in the records.
func TestNoSecretsKept(t *testing.T) {
	t.Parallel()
	folder := t.TempDir()
	s, err := store.Open(t.Context(), filepath.Join(folder, "ledger.sqlite"))
	require.NoError(t, err)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader}))
	require.NoError(t, l.AddPerson(t.Context(), ledger.Itself, ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin}, "first-secret-1"))
	var log bytes.Buffer
	web := httptest.NewUnstartedServer(nil)
	srv, err := server.New(server.Options{
		Ledger: l, House: "House", Public: &url.URL{Scheme: "http", Host: web.Listener.Addr().String()},
		Log: slog.New(slog.NewTextHandler(locked{&sync.Mutex{}, &log}, &slog.HandlerOptions{Level: slog.LevelDebug})),
	})
	require.NoError(t, err)
	web.Config.Handler = srv.Handler()
	web.Start()
	base := web.URL + "/api/v1"

	ask := func(method, path, body string, header map[string]string) answer {
		t.Helper()
		return send(t, method, base+path, "", header, strings.NewReader(body))
	}
	cookie := func(a answer) map[string]string {
		t.Helper()
		require.Less(t, a.StatusCode, 300, a.text)
		value, _, _ := strings.Cut(a.Header.Get("Set-Cookie"), ";")
		return map[string]string{"Cookie": value}
	}
	imke := cookie(ask("POST", "/sign-in", `{"name": "imke", "password": "first-secret-1"}`, nil))
	secrets := []string{"first-secret-1", "second-secret-2", "third-secret-3", "wrong-secret-4", strings.TrimPrefix(imke["Cookie"], "oldledger=")}
	ask("POST", "/sign-in", `{"name": "imke", "password": "wrong-secret-4"}`, nil)
	ask("POST", "/sign-in", `{"name": "imke", "password": "wrong-secret-4`, nil)
	once := map[string]string{"Cookie": imke["Cookie"], "Idempotency-Key": "again"}
	var token wire.Token
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/tokens", `{"label": "pipeline"}`, once).text), &token))
	ask("POST", "/tokens", `{"label": "pipeline"}`, once)
	require.Equal(t, 201, ask("POST", "/people", `{"name": "ebba", "full": "Ebba"}`, imke).StatusCode)
	var invitation wire.Invitation
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/people/ebba/invitation", "{}", imke).text), &invitation))
	_, key, found := strings.Cut(invitation.Address, "#")
	require.True(t, found)
	require.Equal(t, 200, ask("POST", "/invitations", `{"key": "`+key+`"}`, nil).StatusCode)
	require.Equal(t, 422, ask("POST", "/invitations", `{"key": "`+key+`", "password": "short"}`, nil).StatusCode)
	require.Equal(t, 200, ask("POST", "/invitations", `{"key": "`+key+`", "password": "second-secret-2"}`, nil).StatusCode)
	require.Equal(t, 404, ask("POST", "/invitations", `{"key": "`+key+`", "password": "second-secret-2"}`, nil).StatusCode)
	ebba := cookie(ask("POST", "/sign-in", `{"name": "ebba", "password": "second-secret-2"}`, nil))
	require.Equal(t, 422, ask("PUT", "/me/password", `{"old": "wrong-secret-4", "new": "third-secret-3"}`, ebba).StatusCode)
	require.Equal(t, 204, ask("PUT", "/me/password", `{"old": "second-secret-2", "new": "third-secret-3"}`, ebba).StatusCode)
	require.Equal(t, 401, ask("GET", "/me", "", ebba).StatusCode, "the session ended with the password")
	send(t, "GET", base+"/me", token.Token, nil, nil)
	send(t, "GET", base+"/me", token.Token+"x", nil, nil)
	secrets = append(secrets, opened(t, l, web.URL, ask, imke)...)
	secrets = append(secrets, token.Token, key, strings.TrimPrefix(ebba["Cookie"], "oldledger="))

	texts := map[string]string{"the log": log.String()}
	for _, path := range []string{"/journal?limit=1000", "/tokens", "/people", "/me/sessions", "/waiting"} {
		a := ask("GET", path, "", imke)
		require.Equal(t, 200, a.StatusCode, path)
		texts[path] = a.text
	}
	web.Close()
	require.NoError(t, s.Close())
	files, err := os.ReadDir(folder)
	require.NoError(t, err)
	for _, f := range files {
		texts[f.Name()] = read(t, filepath.Join(folder, f.Name()))
	}
	require.Contains(t, texts["the log"], "/api/v1/invitations", "what is asked is logged")
	require.Contains(t, texts["ledger.sqlite"], "person.invited")
	for where, text := range texts {
		for i, secret := range secrets {
			require.Greater(t, len(secret), 12)
			require.NotContains(t, text, secret, "secret %d stands in %s", i, where)
		}
	}
}

// opened makes, and uses well and badly, a link, a preview and the address of feeds, and gives all that is secret of them.
func opened(t *testing.T, l *ledger.Ledger, base string, ask func(method, path, body string, header map[string]string) answer,
	imke map[string]string,
) []string {
	t.Helper()
	who, err := l.Actor(t.Context(), "imke")
	require.NoError(t, err)
	for _, number := range []string{"1.0.0", "1.1.0"} {
		text := "openapi: 3.1.0\ninfo: {title: Quays, version: " + number + "}\npaths: {}\n"
		_, err = l.Record(t.Context(), who, ledger.Submission{API: "quays", Text: []byte(text)})
		require.NoError(t, err)
	}
	_, err = l.Publish(t.Context(), who, "quays@1.0.0", nil)
	require.NoError(t, err)
	require.Equal(t, 204, ask("PATCH", "/apis/quays/audience", `{"published": ["link"]}`, imke).StatusCode)
	var link wire.NewLink
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/apis/quays/links", `{"label": "Skerry"}`, imke).text), &link))
	var chosen wire.NewLink
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/apis/quays/links", `{"label": "Own", "password": "chosen-secret-9"}`, imke).text), &chosen))
	c := visitor(t)
	require.Equal(t, 403, visit(t, c, link.Address, url.Values{"password": {"wrong-secret-4"}}).StatusCode)
	res := visit(t, c, link.Address, url.Values{"password": {link.Password}})
	require.Equal(t, 303, res.StatusCode, res.text)
	_, opening, _ := strings.Cut(strings.Split(res.Header.Get("Set-Cookie"), ";")[0], "=")
	require.Equal(t, 200, visit(t, c, base+"/reference/quays/", nil).StatusCode)
	var feed wire.NewFeed
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/me/feed", "{}", imke).text), &feed))
	require.Equal(t, 200, visit(t, c, feed.Feed, nil).StatusCode)
	var preview wire.PreviewLink
	require.NoError(t, json.Unmarshal([]byte(ask("POST", "/versions/quays@1.1.0/previews", `{"days": 1}`, imke).text), &preview))
	require.Equal(t, 200, visit(t, c, base+preview.Path, nil).StatusCode)
	keyIn := func(address string) string {
		at, err := url.Parse(address)
		require.NoError(t, err)
		return strings.Split(at.Path, "/")[2]
	}
	return []string{
		keyIn(link.Address), link.Password, keyIn(chosen.Address), "chosen-secret-9", opening, keyIn(feed.Feed), keyIn(preview.Path),
	}
}

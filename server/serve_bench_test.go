package server_test

import (
	"crypto/rand"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
)

// BenchmarkServe answers a page: one that everybody reads, to nobody, to who is signed in, to who is told there who reads it, and at the
// host of a shelf; one for those who are signed in; and the same bytes from a file server. It tells each time as a multiple of the last,
// without the network.
func BenchmarkServe(b *testing.B) {
	ctx := b.Context()
	s, err := store.Open(ctx, filepath.Join(b.TempDir(), "ledger.sqlite"))
	require.NoError(b, err)
	defer s.Close()
	require.NoError(b, demo.Play(ctx, s, time.Now()))
	l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
	srv, err := server.New(server.Options{
		Ledger: l, House: demo.House, Public: &url.URL{Scheme: "http", Host: "127.0.0.1"},
		Log: slog.New(slog.NewTextHandler(io.Discard, &slog.HandlerOptions{Level: slog.LevelWarn})),
	})
	require.NoError(b, err)
	const harbour = "harbour.saltmere.example"
	require.NoError(b, l.PutShelf(ctx, ledger.Itself, "harbour", ledger.ShelfWish{Audience: &ledger.Audience{ledger.Everyone}, Host: new(harbour)}))
	require.NoError(b, l.Place(ctx, ledger.Itself, "harbour", "berths", nil))
	ask := func(h http.Handler, path, cookie string) *httptest.ResponseRecorder {
		host, path, at := strings.Cut(path, "|")
		if !at {
			host, path = "127.0.0.1", host
		}
		r := httptest.NewRequest(http.MethodGet, path, nil)
		r.Host = host
		if cookie != "" {
			r.Header.Set("Cookie", cookie)
		}
		r.Header.Set("Accept-Encoding", "gzip")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	in := httptest.NewRequest(http.MethodPost, "/api/v1/sign-in", strings.NewReader(`{"name": "sanna", "password": "`+demo.Password+`"}`))
	signed := httptest.NewRecorder()
	srv.Handler().ServeHTTP(signed, in)
	require.Equal(b, http.StatusOK, signed.Code)
	session, _, _ := strings.Cut(signed.Header().Get("Set-Cookie"), ";")
	const public, own, some = "/reference/berths/2.0.0/", "/reference/tides/1.2.0/", "/reference/commons/1.1.0/"
	page := ask(srv.Handler(), public, "")
	require.Equal(b, http.StatusOK, page.Code)
	require.Equal(b, http.StatusOK, ask(srv.Handler(), some, session).Code)
	folder := b.TempDir()
	require.NoError(b, os.WriteFile(filepath.Join(folder, "page"), page.Body.Bytes(), 0o600))
	files := http.FileServer(http.Dir(folder))
	took := map[string]float64{}
	for _, c := range []struct {
		name, path, cookie string
		from               http.Handler
	}{
		{"file", "/page", "", files},
		{"everyone", public, "", srv.Handler()},
		{"everyone-signed-in", public, session, srv.Handler()},
		{"told", own, session, srv.Handler()},
		{"shelf-host", harbour + "|" + public, "", srv.Handler()},
		{"signed-in", some, session, srv.Handler()},
	} {
		b.Run(c.name, func(b *testing.B) {
			for b.Loop() {
				if w := ask(c.from, c.path, c.cookie); w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
			took[c.name] = float64(b.Elapsed()) / float64(b.N)
			b.ReportMetric(took[c.name]/took["file"], "x-file")
		})
	}
}

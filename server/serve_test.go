package server_test

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
)

// startService starts the service itself, as the command does, on the demo; it ends with the test.
func startService(t *testing.T) (address string) {
	ctx, stop := context.WithCancel(context.Background())
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	require.NoError(t, demo.Play(ctx, s, day))
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return day.Add(10 * time.Hour) }, Random: rand.Reader})
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	public := &url.URL{Scheme: "http", Host: listener.Addr().String()}
	srv, err := server.New(server.Options{Ledger: l, House: demo.House, Public: public, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- srv.Serve(ctx, listener) }()
	t.Cleanup(func() {
		stop()
		require.NoError(t, <-ended, "with connections that are still open")
		require.NoError(t, s.Close())
	})
	return listener.Addr().String()
}

// TestPipelined reads pages from the service itself, many over one connection and several asked for at once, by readers who take gzip and
// who do not: each comes whole, and in its order.
func TestPipelined(t *testing.T) {
	t.Parallel()
	address := startService(t)
	paths := []string{
		"/reference/berths/1.2.0/operations/bookBerth", "/reference/berths/", "/reference/assets/site.css",
		"/reference/assets/literata-latin-600-normal.woff2",
		"/reference/nobody/", "/reference/berths/1.2.0/source", "/reference/looks.css", "/healthz", "/console/", "/api/v1/apis",
	}
	web, _ := startDemo(t)
	want := map[string]string{}
	for _, path := range paths {
		want[path] = send(t, "GET", web+path, "", nil, nil).text
	}
	for _, takes := range []string{"", "Accept-Encoding: gzip, br\r\n", "Accept-Encoding: gzip;q=0, br\r\n"} {
		conn, err := net.Dial("tcp", address)
		require.NoError(t, err)
		t.Cleanup(func() { _ = conn.Close() }) // after the service has ended
		in := bufio.NewReader(conn)
		ask := func(method, path string) {
			_, err := fmt.Fprintf(conn, "%s %s HTTP/1.1\r\nHost: a.example\r\n%s\r\n", method, path, takes)
			require.NoError(t, err)
		}
		read := func(path string) {
			r, err := http.ReadResponse(in, nil)
			require.NoError(t, err)
			if strings.Contains(takes, "q=0") {
				require.Empty(t, r.Header.Get("Content-Encoding"), path)
			}
			require.Equal(t, want[path], readAll(t, r), path)
		}
		for range 3 { // the first time each is made, then it is kept
			for _, path := range paths {
				ask("GET", path)
				read(path)
			}
		}
		for _, path := range paths {
			ask("GET", path)
		}
		for _, path := range paths {
			read(path)
		}
		for _, path := range paths {
			ask("HEAD", path)
			r, err := http.ReadResponse(in, &http.Request{Method: http.MethodHead})
			require.NoError(t, err)
			require.NotEqual(t, http.StatusMethodNotAllowed, r.StatusCode, path)
		}
	}
}

func readAll(t *testing.T, r *http.Response) string {
	body := io.Reader(r.Body)
	if r.Header.Get("Content-Encoding") == "gzip" {
		z, err := gzip.NewReader(r.Body)
		require.NoError(t, err)
		body = z
	}
	text, err := io.ReadAll(body)
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	return string(text)
}

// TestOneAddress asks for pages under other spellings of their addresses: each is led to the one, before anything is looked up; and what
// was taken back answers under none.
func TestOneAddress(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	quiet := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	spellings := map[string]string{
		"/reference/%62erths/1.2.0/":                     "/reference/berths/1.2.0/",
		"/reference/berths/1%2E2.0/":                     "/reference/berths/1.2.0/",
		"/reference/berths/1.2.0/operations/%62ookBerth": "/reference/berths/1.2.0/operations/bookBerth",
		"/reference/berths/1.2.0/search?q=a%62":          "",
		"/reference/berths/%31.2.0/search?q=a%62":        "/reference/berths/1.2.0/search?q=a%62",
		"/embed/berths/1.2.0/operations/%62ookBerth":     "/embed/berths/1.2.0/operations/bookBerth",
		"/reference/berths/1.2.0/operations/a%2fb":       "/reference/berths/1.2.0/operations/a%2Fb",
		"/reference/berths/1.2.0/operations/bookBerth":   "",
		"/reference/%7Enobody/1.2.0/":                    "/reference/~nobody/1.2.0/",
		"/reference/berths/1.2.0/schemas/%C3%A4":         "",
		"/reference/%6Eobody/":                           "/reference/nobody/",
	}
	for round := range 2 { // when the page is not kept yet, and when it is
		for spelt, one := range spellings {
			for _, method := range []string{"GET", "HEAD"} {
				req, err := http.NewRequest(method, base+spelt, nil)
				require.NoError(t, err)
				r, err := quiet.Do(req)
				require.NoError(t, err)
				require.NoError(t, r.Body.Close())
				require.Equal(t, one, r.Header.Get("Location"), "%s %s", method, spelt)
				require.Equal(t, one != "", r.StatusCode == http.StatusMovedPermanently, spelt)
			}
		}
		if round == 0 {
			send(t, "GET", base+"/reference/berths/1.2.0/", "", nil, nil)
		}
	}
	tag := send(t, "GET", base+"/reference/berths/1.2.0/", "", nil, nil).Header.Get("Etag")
	require.NotEmpty(t, tag)
	who, err := l.Actor(t.Context(), "teodor")
	require.NoError(t, err)
	_, err = l.Unpublish(t.Context(), who, "berths@1.2.0", "a mistake")
	require.NoError(t, err)
	require.Equal(t, http.StatusNotFound, send(t, "GET", base+"/reference/berths/1.2.0/", "", map[string]string{"If-None-Match": tag},
		nil).StatusCode)
	for spelt := range spellings {
		if strings.Contains(spelt, "2.0/") && !strings.Contains(spelt, "nobody") {
			require.Equal(t, http.StatusNotFound, send(t, "GET", base+spelt, "", nil, nil).StatusCode, spelt)
		}
	}
}

// TestHostIsNotBelieved names another host in a request: no address in any answer leads there.
func TestHostIsNotBelieved(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "teodor")
	for _, path := range []string{
		"/reference/sitemap.xml", "/robots.txt", "/reference/feed.atom", "/reference/sunsets.ics",
		"/oembed?url=/reference/berths/2.0.0/operations/bookBerth", "/api/v1/versions/berths@1.2.0/headers",
		"/.well-known/api-catalog", "/reference/berths/guides/1.1.0..1.2.0", "/reference", "/console",
	} {
		req, err := http.NewRequest("GET", base+path, nil)
		require.NoError(t, err)
		req.Host = "evil.example"
		req.Header.Set("X-Forwarded-Host", "evil.example")
		req.Header.Set("Authorization", "Bearer "+editor)
		r, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).Do(req)
		require.NoError(t, err)
		text := readAll(t, r)
		require.Less(t, r.StatusCode, 400, path)
		require.NotContains(t, text, "evil.example", path)
		require.NotContains(t, fmt.Sprint(r.Header), "evil.example", path)
	}
}

// TestCatalogue lists what is published for machines (RFC 9727), and its head says where it is.
func TestCatalogue(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	a := send(t, "GET", base+"/.well-known/api-catalog", "", nil, nil)
	require.Equal(t, http.StatusOK, a.StatusCode)
	require.Equal(t, `application/linkset+json; profile="https://www.rfc-editor.org/info/rfc9727"`, a.Header.Get("Content-Type"))
	type target struct{ Href, Type string }
	var set struct {
		Linkset []struct {
			Anchor      string
			Item        []target
			ServiceDesc []target `json:"service-desc"`
			ServiceDoc  []target `json:"service-doc"`
		}
	}
	require.NoError(t, json.Unmarshal([]byte(a.text), &set))
	require.Equal(t, base+"/.well-known/api-catalog", set.Linkset[0].Anchor)
	require.Len(t, set.Linkset[0].Item, 4, "those that everybody reads")
	require.Len(t, set.Linkset, 5)
	for _, one := range set.Linkset[1:] {
		for _, at := range append(one.ServiceDesc, one.ServiceDoc...) {
			require.Equal(t, http.StatusOK, send(t, "GET", at.Href, "", nil, nil).StatusCode, at.Href)
		}
	}
	head := send(t, "HEAD", base+"/.well-known/api-catalog", "", nil, nil)
	require.Equal(t, http.StatusOK, head.StatusCode)
	require.Contains(t, head.Header.Get("Link"), `rel="api-catalog"`)
	require.Equal(t, "image/x-icon", send(t, "GET", base+"/favicon.ico", "", nil, nil).Header.Get("Content-Type"))
}

// TestLogAndMetrics finds every request in the log, with its route and not its secret, refusals with why; and counts them.
func TestLogAndMetrics(t *testing.T) {
	t.Parallel()
	s, err := store.Open(t.Context(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	require.NoError(t, demo.Play(t.Context(), s, day))
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return day.Add(10 * time.Hour) }, Random: rand.Reader})
	var log bytes.Buffer
	var mu sync.Mutex
	srv, err := server.New(server.Options{
		Ledger: l, House: demo.House, Public: &url.URL{Scheme: "https", Host: "docs.saltmere.example"},
		Log: slog.New(slog.NewTextHandler(locked{&mu, &log}, nil)),
	})
	require.NoError(t, err)
	web := httptest.NewServer(srv.Handler())
	t.Cleanup(func() { web.Close(); require.NoError(t, s.Close()) })
	refused := send(t, "GET", web.URL+"/api/v1/versions/berths@9.9.9", "", nil, nil)
	for range 2 {
		send(t, "GET", web.URL+"/reference/berths/1.2.0/", "", nil, nil)
	}
	signed := send(t, "POST", web.URL+"/api/v1/sign-in", "", nil, strings.NewReader(`{"name": "imke", "password": "saltmere-demo"}`))
	require.Contains(t, signed.Header.Get("Set-Cookie"), "Secure")
	var p struct{ Trace string }
	require.NoError(t, json.Unmarshal([]byte(refused.text), &p))
	mu.Lock()
	lines := strings.Split(log.String(), "\n")
	mu.Unlock()
	require.Contains(t, lines[0], "method=GET route=/api/v1/versions/:ref path=/api/v1/versions/berths@9.9.9 status=404")
	require.Contains(t, lines[0], "trace="+p.Trace)
	require.Contains(t, lines[0], "berths has no version 9.9.9")
	require.Contains(t, lines[1], "route=/reference/* path=/reference/berths/1.2.0/ status=200")
	require.Contains(t, lines[2], "route=/reference/* path=/reference/berths/1.2.0/ status=200")
	require.NotContains(t, strings.Join(lines, "\n"), "saltmere-demo")
	far := httptest.NewRequest("GET", "/metrics", nil)
	far.RemoteAddr = "203.0.113.9:4711"
	answered := httptest.NewRecorder()
	srv.Handler().ServeHTTP(answered, far)
	require.Equal(t, http.StatusNotFound, answered.Code, "from far away")
	metrics := send(t, "GET", web.URL+"/metrics", "", nil, nil).text
	require.Contains(t, metrics, `oldledger_requests_total{method="GET",route="/api/v1/versions/:ref",status="404"} 1`)
	require.Contains(t, metrics, `oldledger_requests_total{method="GET",route="/reference/*",status="200"} 2`)
	require.Contains(t, metrics, "oldledger_kept_pages_bytes")
}

// locked is a writer for several at a time.
type locked struct {
	mu *sync.Mutex
	io.Writer
}

func (l locked) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.Writer.Write(p)
}

// TestWhatFollowsABody refuses a JSON body that something follows.
func TestWhatFollowsABody(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	editor := token(t, l, "imke")
	for body, status := range map[string]int{
		`{"ref": "tides", "reason": "why"}{"ref": "berths"}`: http.StatusUnprocessableEntity,
		`{"ref": "tides", "reason": "why"} x`:                http.StatusUnprocessableEntity,
		"{\"ref\": \"tides\", \"reason\": \"why\"} \n ":      http.StatusCreated,
	} {
		require.Equal(t, status, send(t, "POST", base+"/api/v1/notices", editor, nil, strings.NewReader(body)).StatusCode, body)
	}
}

package server_test

import (
	"bufio"
	"compress/gzip"
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
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

// startService starts the service itself, as the command does, on the demo; it ends with the test.
func startService(t *testing.T) (address string) {
	ctx, stop := context.WithCancel(context.Background())
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	require.NoError(t, demo.Play(ctx, s, day))
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return day.Add(10 * time.Hour) }, Random: rand.Reader})
	srv, err := server.New(server.Options{Ledger: l, House: demo.House, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
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

// TestFront reads pages from the service itself, many over one connection and several asked for at once, by readers who take gzip and who do
// not: each comes whole, and in its order.
func TestFront(t *testing.T) {
	address := startService(t)
	paths := []string{
		"/reference/berths/1.2.0/operations/bookBerth", "/reference/berths/", "/reference/assets/site.css", "/reference/assets/literata-latin-600-normal.woff2",
		"/reference/nobody/", "/reference/berths/1.2.0/source", "/reference/looks.css", "/healthz",
	}
	web, _ := startDemo(t)
	want := map[string]string{}
	for _, path := range paths {
		want[path] = send(t, "GET", web+path, "", nil, nil).text
	}
	for _, takes := range []string{"", "Accept-Encoding: gzip, br\r\n"} {
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
		ask("HEAD", paths[0])
		ask("GET", "/healthz")
		_, err = http.ReadResponse(in, &http.Request{Method: http.MethodHead})
		require.NoError(t, err)
		read("/healthz")
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

// TestFrontSameAnswer holds the answer that the front gives against that of the way which every other request takes, header by header, and
// sends the same request in pieces.
func TestFrontSameAnswer(t *testing.T) {
	address := startService(t)
	for _, path := range []string{"/reference/berths/1.1.0/operations/bookBerth", "/reference/", "/reference/assets/site.css", "/reference/nobody/", "/reference/berths/1.2.0/source"} {
		once := "GET " + path + " HTTP/1.1\r\nHost: a.example\r\nAccept-Encoding: gzip\r\n"
		ask := func(pieces ...string) *http.Response {
			conn, err := net.Dial("tcp", address)
			require.NoError(t, err)
			t.Cleanup(func() { _ = conn.Close() })
			in := bufio.NewReader(conn)
			var r *http.Response
			for _, piece := range pieces {
				_, err = conn.Write([]byte(piece))
				require.NoError(t, err)
				if strings.HasSuffix(piece, "\r\n\r\n") {
					r, err = http.ReadResponse(in, nil)
					require.NoError(t, err)
				}
			}
			r.Header.Set("Body", readAll(t, r))
			return r
		}
		usual := ask(once + "X-Other: 1\r\n\r\n") // makes the page, and is not for the front
		for name, pieces := range map[string][]string{
			"front": {once + "\r\n"}, "pieces": {once[:30], once[30:] + "\r\n"}, "a header more": {once, "X-Other: 2\r\n\r\n"},
		} {
			r := ask(pieces...)
			require.Equal(t, usual.StatusCode, r.StatusCode, "%s, %s", path, name)
			r.Header.Set("Date", usual.Header.Get("Date"))
			require.Equal(t, usual.Header, r.Header, "%s, %s", path, name)
		}
	}
}

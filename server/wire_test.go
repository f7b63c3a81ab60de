package server_test

import (
	"bufio"
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/demo"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
)

// TestWire reads pages from the service itself, many over one connection and several asked for at once: each comes whole, and in its order.
func TestWire(t *testing.T) {
	ctx, stop := context.WithCancel(context.Background())
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	require.NoError(t, demo.Play(ctx, s, day))
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return day.Add(10 * time.Hour) }, Random: rand.Reader})
	srv, err := server.New(server.Options{Store: s, Ledger: l, House: demo.House, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ended := make(chan error, 1)
	go func() { ended <- srv.Serve(ctx, listener) }()
	t.Cleanup(func() {
		stop()
		require.NoError(t, <-ended)
		require.NoError(t, s.Close())
	})

	paths := []string{
		"/reference/berths/1.2.0/operations/bookBerth", "/reference/berths/", "/reference/assets/site.css", "/reference/assets/literata-latin-600-normal.woff2",
		"/reference/nobody/", "/reference/berths/1.2.0/source", "/reference/looks.css", "/healthz",
	}
	web, _ := startDemo(t)
	want := map[string]string{}
	for _, path := range paths {
		want[path] = send(t, "GET", web+path, "", nil, nil).text
	}
	conn, err := net.Dial("tcp", listener.Addr().String())
	require.NoError(t, err)
	defer conn.Close()
	in := bufio.NewReader(conn)
	read := func(path string) {
		r, err := http.ReadResponse(in, nil)
		require.NoError(t, err)
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		require.Equal(t, want[path], string(body), path)
	}
	for range 3 { // the first time each is made, then it is kept
		for _, path := range paths {
			_, err := fmt.Fprintf(conn, "GET %s HTTP/1.1\r\nHost: a.example\r\n\r\n", path)
			require.NoError(t, err)
			read(path)
		}
	}
	for _, path := range paths {
		_, err := fmt.Fprintf(conn, "GET %s HTTP/1.1\r\nHost: a.example\r\n\r\n", path)
		require.NoError(t, err)
	}
	for _, path := range paths {
		read(path)
	}
	_, err = fmt.Fprintf(conn, "HEAD %s HTTP/1.1\r\nHost: a.example\r\n\r\nGET /healthz HTTP/1.1\r\nHost: a.example\r\n\r\n", paths[0])
	require.NoError(t, err)
	_, err = http.ReadResponse(in, &http.Request{Method: http.MethodHead})
	require.NoError(t, err)
	read("/healthz")
}

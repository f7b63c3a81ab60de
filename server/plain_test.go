package server

import (
	"bufio"
	"bytes"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

const whole = "GET /reference/berths/1.2.0/ HTTP/1.1\r\nHost: a.example:8080\r\nAccept-Encoding: gzip, deflate, br\r\n"

func TestPlain(t *testing.T) {
	for _, c := range []struct{ name, request, want string }{
		{"plain", whole + "\r\n", "/reference/berths/1.2.0/"},
		{"of a browser", whole + "User-Agent: A (B; C)\r\nConnection: keep-alive\r\nsec-fetch-mode: navigate\r\n\r\n", "/reference/berths/1.2.0/"},
		{"not whole", whole, ""},
		{"two", whole + "\r\n" + whole + "\r\n", ""},
		{"a body", whole + "Content-Length: 3\r\n\r\nabc", ""},
		{"chunks", whole + "Transfer-Encoding: chunked\r\n\r\n", ""},
		{"known already", whole + "If-None-Match: \"a\"\r\n\r\n", ""},
		{"a range", whole + "Range: bytes=0-3\r\n\r\n", ""},
		{"the last", whole + "Connection: close\r\n\r\n", ""},
		{"a host more", whole + "Host: b.example\r\n\r\n", ""},
		{"no host", "GET /reference/ HTTP/1.1\r\nAccept-Encoding: gzip\r\n\r\n", ""},
		{"no gzip", "GET /reference/ HTTP/1.1\r\nHost: a.example\r\n\r\n", ""},
		{"gzip refused", "GET /reference/ HTTP/1.1\r\nHost: a.example\r\nAccept-Encoding: gzip;q=0\r\n\r\n", ""},
		{"an old version", strings.Replace(whole, "HTTP/1.1", "HTTP/1.0", 1) + "\r\n", ""},
		{"elsewhere", strings.Replace(whole, "/reference/", "/api/", 1) + "\r\n", ""},
		{"a query", strings.Replace(whole, "1.2.0/", "1.2.0/?a=b", 1) + "\r\n", ""},
		{"escaped", strings.Replace(whole, "berths", "%62erths", 1) + "\r\n", ""},
		{"a folded line", whole + "Accept: a\r\n b\r\n\r\n", ""},
		{"a space before the colon", whole + "Accept : a\r\n\r\n", ""},
		{"bare line feeds", strings.ReplaceAll(whole, "\r\n", "\n") + "\n", ""},
		{"a carriage return within", whole + "Accept: a\rb\r\n\r\n", ""},
		{"nothing", "", ""},
	} {
		require.Equal(t, c.want, string(plain([]byte(c.request))), c.name)
	}
}

// FuzzPlain holds what is taken for a plain request against the reader of net/http: it must read the same, and no more.
func FuzzPlain(f *testing.F) {
	f.Add([]byte(whole + "\r\n"))
	f.Add([]byte(whole + "Accept: */*\r\nConnection: Keep-Alive\r\nCookie: a=b\r\n\r\n"))
	f.Add([]byte("GET /reference/a/../b//c HTTP/1.1\r\nhost: [::1]\r\naccept-encoding:gzip\r\n\r\n"))
	f.Fuzz(func(t *testing.T, request []byte) {
		address := plain(request)
		if address == nil {
			return
		}
		in := bufio.NewReader(bytes.NewReader(request))
		r, err := http.ReadRequest(in)
		require.NoError(t, err)
		body, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		require.Empty(t, body)
		_, err = in.ReadByte()
		require.ErrorIs(t, err, io.EOF)
		require.Equal(t, http.MethodGet, r.Method)
		require.True(t, r.ProtoAtLeast(1, 1) && !r.Close)
		require.Equal(t, string(address), r.URL.EscapedPath())
		require.Empty(t, r.URL.RawQuery)
		require.Contains(t, r.Header.Get("Accept-Encoding"), "gzip")
		for _, name := range []string{"If-None-Match", "If-Modified-Since", "Range", "Expect", "Upgrade", "Te", "Trailer"} {
			require.Empty(t, r.Header.Values(name))
		}
	})
}

package cli_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
)

// TestRecordInterrupted interrupts the recording of many: it says how many were not reached, and the same command goes on.
func TestRecordInterrupted(t *testing.T) {
	t.Parallel()
	base, stop := startLedger(t, filepath.Join(t.TempDir(), "ledger.sqlite"))
	defer stop()
	to, err := url.Parse(base)
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	var asked atomic.Int64
	proxy := httputil.NewSingleHostReverseProxy(to)
	proxy.ErrorLog = log.New(io.Discard, "", 0)
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost && asked.Add(1) == 12 {
			cancel()
		}
		proxy.ServeHTTP(w, r)
	}))
	defer web.Close()
	dir, home := t.TempDir(), t.TempDir()
	const n = 40
	for i := range n {
		text := fmt.Sprintf("openapi: 3.1.0\ninfo: {title: Copy %d, version: 1.0.0}\npaths: {}\n", i)
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.yaml", i)), []byte(text), 0o600))
	}
	run := func(ctx context.Context, at, in string, args ...string) (status int, out, told string) {
		var stdout, stderr bytes.Buffer
		env := map[string]string{"OLDLEDGER_URL": at, "OLDLEDGER_HOME": home}
		status = cli.Run(ctx, args, cli.Environment{
			In: strings.NewReader(in), Out: &stdout, Err: &stderr, Getenv: func(name string) string { return env[name] }, Dir: dir, Now: time.Now,
		})
		return status, stdout.String(), stderr.String()
	}
	status, _, told := run(t.Context(), web.URL, adminPassword+"\n", "sign-in", "--name", "admin")
	require.Zero(t, status, told)
	status, out, told := run(ctx, web.URL, "", "record", "--all", ".")
	require.Equal(t, 130, status, told)
	require.Regexp(t, `(?m)^[0-9]+ descriptions: [0-9]+ recorded as a draft$`, out)
	require.Regexp(t, `(?m)^[0-9]+ of 40 descriptions were not reached; the same command goes on$`, told)
	status, out, told = run(t.Context(), web.URL, "", "record", "--all", ".")
	require.Zero(t, status, told)
	require.Regexp(t, `^40 descriptions: [0-9]+ already recorded, unchanged · [0-9]+ recorded as a draft\n$`, out)
}

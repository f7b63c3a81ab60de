package cli_test

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
)

// runIn runs a command in a folder, with an environment.
func runIn(t *testing.T, dir string, env map[string]string, args ...string) (status int, out, errs string) {
	t.Helper()
	var o, e bytes.Buffer
	ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
	defer cancel()
	status = cli.Run(ctx, args, cli.Environment{
		In: strings.NewReader(""), Out: &o, Err: &e,
		Getenv: func(name string) string { return env[name] }, Dir: dir, Now: time.Now,
	})
	return status, o.String(), e.String()
}

// TestTokenGoesWhereItIsSent lets a project file name a ledger of somebody else's: no token goes there unless the person names it, too.
func TestTokenGoesWhereItIsSent(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	var sent []string
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		defer mu.Unlock()
		sent = append(sent, r.Header.Get("Authorization"))
		_, _ = io.WriteString(w, `{"items": []}`)
	}))
	t.Cleanup(elsewhere.Close)
	dir, home := t.TempDir(), t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, ".oldledger.yaml"), []byte("ledger: "+elsewhere.URL+"\n"), 0o600))

	status, _, errs := runIn(t, dir, map[string]string{"OLDLEDGER_HOME": home, "OLDLEDGER_TOKEN": "olt_secret"}, "list")
	require.Equal(t, 2, status)
	require.Contains(t, errs, "OLDLEDGER_TOKEN is sent only where you say: set OLDLEDGER_URL="+elsewhere.URL)
	require.Empty(t, sent)

	require.NoError(t, os.WriteFile(filepath.Join(home, "account.json"),
		[]byte(`{"ledger": "https://ledger.saltmere.example", "token": "olt_kept"}`), 0o600))
	status, _, errs = runIn(t, dir, map[string]string{"OLDLEDGER_HOME": home}, "list")
	require.Equal(t, 0, status, errs)
	require.Contains(t, errs, "you are signed in at https://ledger.saltmere.example, so nobody is signed in there")
	require.Equal(t, []string{""}, sent)

	for _, env := range []map[string]string{{"OLDLEDGER_URL": elsewhere.URL}, nil} {
		args := []string{"list"}
		if env == nil {
			env, args = map[string]string{}, []string{"list", "--ledger", elsewhere.URL}
		}
		env["OLDLEDGER_HOME"], env["OLDLEDGER_TOKEN"] = home, "olt_secret"
		status, _, errs = runIn(t, dir, env, args...)
		require.Equal(t, 0, status, errs)
		require.Equal(t, "Bearer olt_secret", sent[len(sent)-1])
	}
}

// TestPipesAreNotWaitedFor names, where a file should be, a pipe to which nobody writes.
func TestPipesAreNotWaitedFor(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, syscall.Mkfifo(filepath.Join(dir, "pipe.yaml"), 0o600))
	text := "openapi: 3.1.0\ninfo: {title: A, version: 1.0.0}\npaths: {}\ncomponents: {schemas: {A: {$ref: 'pipe.yaml#/A'}}}\n"
	require.NoError(t, os.WriteFile(filepath.Join(dir, "a.yaml"), []byte(text), 0o600))
	for _, arg := range []string{"a.yaml", "pipe.yaml"} {
		status, _, errs := runIn(t, dir, nil, "check", arg)
		require.Equal(t, 3, status, errs)
		require.Contains(t, errs, "it is no file; what another program writes is read from standard input, as -")
	}
}

// TestOneServiceAtATime starts a second service on the folder of a first: it is told who holds it, and the first goes on; once that has
// ended, it may.
func TestOneServiceAtATime(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	first, base := serveProcess(t, data)
	status, _, errs := runIn(t, t.TempDir(), nil, "serve", "--data", data, "--listen", "127.0.0.1:0")
	require.Equal(t, 3, status)
	require.Regexp(t, `is held by process \d+ on .+, at 127\.0\.0\.1:0 since 20.*; stop it first`, errs)
	r, err := http.Get(base + "/readyz")
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	require.Equal(t, http.StatusOK, r.StatusCode)
	require.NoError(t, first.Process.Kill())
	_ = first.Wait() // it was killed
	second, _ := serveProcess(t, data)
	require.NoError(t, second.Process.Signal(os.Interrupt))
	require.NoError(t, second.Wait())
	for _, name := range []string{"ledger.sqlite", "service.lock"} {
		info, err := os.Stat(filepath.Join(data, name))
		require.NoError(t, err)
		require.Zero(t, info.Mode().Perm()&0o077, "%s is its owner's alone", name)
	}
}

// TestReadyOnAFullDisk starts the service where hardly anything more can be written: it answers, and says that it is not ready.
func TestReadyOnAFullDisk(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	process, _ := serveProcess(t, data)
	require.NoError(t, process.Process.Signal(os.Interrupt))
	require.NoError(t, process.Wait())
	full, base := serveWith(t, exec.Command("bash", "-c", `ulimit -f 40; exec "$0" -test.run='^TestServeAsProcess$'`, os.Args[0]), data)
	get := func(path string) (int, string) {
		r, err := http.Get(base + path)
		require.NoError(t, err)
		text, err := io.ReadAll(r.Body)
		require.NoError(t, err)
		require.NoError(t, r.Body.Close())
		return r.StatusCode, string(text)
	}
	status, text := get("/readyz")
	for n := 0; status == http.StatusOK && n < 20; n++ { // each writes a little
		status, text = get("/readyz")
	}
	require.Equal(t, http.StatusServiceUnavailable, status)
	require.Equal(t, "the records cannot be written\n", text)
	status, _ = get("/healthz")
	require.Equal(t, http.StatusOK, status)
	status, _ = get("/reference/")
	require.Equal(t, http.StatusOK, status, "what can be read is read")
	require.NoError(t, full.Process.Kill())
	_ = full.Wait() // it was killed
}

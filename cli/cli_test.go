package cli_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"io"
	"log/slog"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"testing"
	"time"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/stretchr/testify/require"

	"oldledger/cli"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
	"oldledger/tools/described"
)

func TestMain(m *testing.M) {
	testscript.Main(m, map[string]func(){
		"oldledger": func() { os.Exit(cli.Main(os.Args[1:], cli.System())) },
	})
}

// TestScripts runs the command line as people do: testdata/*.txtar. `serve` starts an empty ledger on loopback with an
// admin, and names it in the environment.
func TestScripts(t *testing.T) {
	demo, err := filepath.Abs("../demo")
	require.NoError(t, err)
	examples, err := filepath.Abs("../docs/manual/examples")
	require.NoError(t, err)
	testscript.Run(t, testscript.Params{
		Dir: "testdata",
		Setup: func(env *testscript.Env) error {
			env.Setenv("OLDLEDGER_HOME", filepath.Join(env.WorkDir, "home"))
			env.Setenv("HOME", env.WorkDir)
			if err := os.CopyFS(filepath.Join(env.WorkDir, "examples"), os.DirFS(examples)); err != nil {
				return err
			}
			return os.CopyFS(filepath.Join(env.WorkDir, "demo"), os.DirFS(demo))
		},
		Cmds: map[string]func(*testscript.TestScript, bool, []string){
			"serve": func(ts *testscript.TestScript, _ bool, _ []string) {
				base, stop := startLedger(t, filepath.Join(ts.MkAbs("."), "ledger.sqlite"))
				ts.Defer(stop)
				ts.Setenv("OLDLEDGER_URL", base)
			},
			// project URL writes a project file that names the ledger.
			"project": func(ts *testscript.TestScript, _ bool, args []string) {
				ts.Check(os.WriteFile(ts.MkAbs(".oldledger.yaml"), []byte("ledger: "+args[0]+"\n"), 0o644))
			},
			// status STATUS COMMAND...: the command ends with exactly this exit status.
			"status": func(ts *testscript.TestScript, _ bool, args []string) {
				err := ts.Exec(args[1], args[2:]...)
				got := "0"
				if err != nil {
					got = exitStatus(err)
				}
				if got != args[0] {
					ts.Fatalf("exit status %s, not %s", got, args[0])
				}
			},
		},
		RequireExplicitExec: true,
	})
}

func exitStatus(err error) string {
	if e, ok := err.(interface{ ExitCode() int }); ok {
		return strconv.Itoa(e.ExitCode())
	}
	return err.Error()
}

// TestServeAsProcess is the service that TestKilled runs and kills; by itself it does nothing.
func TestServeAsProcess(t *testing.T) {
	t.Parallel()
	data := os.Getenv("OLDLEDGER_TEST_SERVE")
	if data == "" {
		t.Skip("runs as a process of TestKilled")
	}
	os.Exit(cli.Main([]string{"serve", "--data", data, "--listen", "127.0.0.1:0", "--log", "warn"}, cli.System()))
}

const adminPassword = "ropewalk-and-tide"

func startLedger(t *testing.T, path string) (base string, stop func()) {
	ctx := context.Background()
	s, err := store.Open(ctx, path)
	require.NoError(t, err)
	l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "admin", Full: "Admin", Role: ledger.Admin}, adminPassword))
	srv, err := server.New(server.Options{
		Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: "127.0.0.1"},
		Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
	})
	require.NoError(t, err)
	web := httptest.NewServer(described.Handler(t, srv.Handler()))
	return web.URL, func() {
		web.Close()
		require.NoError(t, s.Close())
	}
}

// TestServeStops runs the service as a process does and stops it as a signal does.
func TestServeStops(t *testing.T) {
	t.Parallel()
	ctx, cancel := context.WithCancel(context.Background())
	reader, writer := io.Pipe()
	var errors bytes.Buffer
	world := cli.Environment{
		In: bytes.NewReader(nil), Out: writer, Err: &errors, Getenv: func(string) string { return "" }, Dir: t.TempDir(),
		Now: time.Now,
	}
	ended := make(chan int, 1)
	go func() {
		ended <- cli.Run(ctx, []string{"serve", "--listen", "127.0.0.1:0"}, world)
		writer.Close()
	}()
	lines := readUntilReady(t, reader)
	require.Contains(t, lines, "sign in    admin, with the password ")
	cancel()
	go io.Copy(io.Discard, reader)
	require.Equal(t, 0, <-ended, errors.String())
}

func readUntilReady(t *testing.T, r io.Reader) string {
	var all bytes.Buffer
	buf := make([]byte, 256)
	for !bytes.Contains(all.Bytes(), []byte("ready http://127.0.0.1:")) {
		n, err := r.Read(buf)
		require.NoError(t, err, all.String())
		all.Write(buf[:n])
	}
	return all.String()
}

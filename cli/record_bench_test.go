package cli_test

import (
	"bytes"
	"crypto/rand"
	"fmt"
	"io"
	"log/slog"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"oldledger/cli"
	"oldledger/ledger"
	"oldledger/server"
	"oldledger/store"
)

// BenchmarkRecordMany records a thousand descriptions of 18 KB in one run, with a service on the same machine, and again, where nothing is
// new. of-parsing is how many it records of those that a program reads which only reads and parses the files.
func BenchmarkRecordMany(b *testing.B) {
	const n = 1000
	text, err := os.ReadFile("../demo/berths/1.2.0.yaml")
	require.NoError(b, err)
	var recording, again, parsing time.Duration
	for b.Loop() {
		dir := b.TempDir()
		for i := range n {
			own := strings.NewReplacer("title: Berth Booking", fmt.Sprintf("title: Copy %d", i), "x-ledger-name: berths", fmt.Sprintf("x-ledger-name: copy-%d", i)).Replace(string(text))
			require.NoError(b, os.MkdirAll(filepath.Join(dir, fmt.Sprint(i)), 0o700))
			require.NoError(b, os.WriteFile(filepath.Join(dir, fmt.Sprint(i), "api.yaml"), []byte(own), 0o600))
		}
		s, err := store.Open(b.Context(), filepath.Join(b.TempDir(), "ledger.sqlite"))
		require.NoError(b, err)
		l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
		require.NoError(b, l.AddPerson(b.Context(), ledger.Itself, ledger.Person{Name: "admin", Full: "Admin", Role: ledger.Admin}, adminPassword))
		srv, err := server.New(server.Options{
			Ledger: l, House: "House", Public: &url.URL{Scheme: "http", Host: "127.0.0.1"}, Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
		})
		require.NoError(b, err)
		web := httptest.NewServer(srv.Handler())
		home := b.TempDir()
		run := func(in string, args ...string) string {
			var out, errs bytes.Buffer
			env := map[string]string{"OLDLEDGER_URL": web.URL, "OLDLEDGER_HOME": home}
			status := cli.Run(b.Context(), args, cli.Environment{
				In: strings.NewReader(in), Out: &out, Err: &errs, Getenv: func(name string) string { return env[name] }, Dir: dir, Now: time.Now,
			})
			require.Zero(b, status, errs.String())
			return out.String()
		}
		run(adminPassword+"\n", "sign-in", "--name", "admin")
		began := time.Now()
		require.Contains(b, run("", "record", "--all", "."), "1000 recorded as a draft")
		recording += time.Since(began)
		began = time.Now()
		require.Contains(b, run("", "record", "--all", "."), "1000 already recorded")
		again += time.Since(began)
		began = time.Now()
		for i := range n {
			text, err := os.ReadFile(filepath.Join(dir, fmt.Sprint(i), "api.yaml"))
			require.NoError(b, err)
			require.NoError(b, yaml.Unmarshal(text, new(yaml.Node)))
		}
		parsing += time.Since(began)
		web.Close()
		require.NoError(b, s.Close())
	}
	b.ReportMetric(float64(parsing)/float64(recording), "of-parsing")
	b.ReportMetric(recording.Seconds()/float64(b.N), "s/recorded")
	b.ReportMetric(again.Seconds()/float64(b.N), "s/again")
}

package cli_test

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
	"oldledger/client"
	"oldledger/core/shape"
	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
	"oldledger/tools/hostile"
)

// maxHostileKB is how much memory a process may take for a hostile description.
const maxHostileKB = 1 << 20

// hostileEnd is after how long a process counts as one that never ends; on an idle machine the slowest takes eleven seconds.
const hostileEnd = 60 * time.Second

// TestCommandAsProcess is the command line in a process of its own.
func TestCommandAsProcess(t *testing.T) {
	t.Parallel()
	args := os.Getenv("OLDLEDGER_TEST_COMMAND")
	if args == "" {
		t.Skip("only as a process")
	}
	os.Exit(cli.Main(strings.Split(args, "\n"), cli.System()))
}

// TestHostile gives every hostile description to the commands: each has an answer or says what is wrong, in bounded memory.
func TestHostile(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	dir := t.TempDir()
	for _, p := range hostile.Pairs() {
		t.Run(p.Name, func(t *testing.T) {
			old, now := filepath.Join(dir, "old"+p.File), filepath.Join(dir, "new"+p.File)
			require.NoError(t, os.WriteFile(old, p.Old, 0o600))
			require.NoError(t, os.WriteFile(now, p.New, 0o600))
			for _, args := range [][]string{
				{"check", old},
				{"compare", old, now},
				{"compare", old, now, "--reading", "exact"},
				{"guide", old, now},
				{"convert", old, "--to", "openapi-3.0", "-o", filepath.Join(dir, "made.json")},
				{"export", old, "--site", filepath.Join(dir, "site.zip")},
			} {
				status, kb, stderr := process(t, args)
				require.Contains(t, []int{0, 1, 3}, status, "%s: %s", args[0], stderr)
				require.Less(t, kb, int64(maxHostileKB), "%s takes %d kB", args[0], kb)
				if status == 3 {
					require.Regexp(t, `^.*:\d+:\d+: `, stderr, "a clear error")
				}
			}
		})
	}
}

// BenchmarkHostile gives the hostile descriptions to the commands, each as a whole process: how long the slowest takes, and how much memory
// the largest.
func BenchmarkHostile(b *testing.B) {
	dir := b.TempDir()
	var slowest time.Duration
	var most int64
	for b.Loop() {
		for _, p := range hostile.Pairs() {
			old, now := filepath.Join(dir, "old"+p.File), filepath.Join(dir, "new"+p.File)
			require.NoError(b, os.WriteFile(old, p.Old, 0o600))
			require.NoError(b, os.WriteFile(now, p.New, 0o600))
			for _, args := range [][]string{
				{"check", old},
				{"compare", old, now},
				{"guide", old, now},
				{"convert", old, "--to", "openapi-3.0", "-o", filepath.Join(dir, "made.json")},
				{"export", old, "--site", filepath.Join(dir, "site.zip")},
			} {
				start := time.Now()
				_, kb, _ := process(b, args)
				slowest, most = max(slowest, time.Since(start)), max(most, kb)
			}
		}
	}
	b.ReportMetric(slowest.Seconds(), "s/slowest")
	b.ReportMetric(float64(most>>10), "MB/most")
}

// process runs a command in a process of its own, and says how it ended and how much memory it took.
func process(t testing.TB, args []string) (status int, kb int64, stderr string) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), hostileEnd)
	defer cancel()
	cmd := exec.CommandContext(ctx, os.Args[0], "-test.run=^TestCommandAsProcess$")
	cmd.Env = append(os.Environ(), "OLDLEDGER_TEST_COMMAND="+strings.Join(args, "\n"))
	var told bytes.Buffer
	cmd.Stderr = &told
	err := cmd.Run()
	require.NoError(t, ctx.Err(), "%s did not end", args[0])
	var exit *exec.ExitError
	if err != nil {
		require.True(t, errors.As(err, &exit), err)
	}
	return cmd.ProcessState.ExitCode(), cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss, told.String()
}

// TestHostileService hands hostile descriptions to a running service: meanwhile it answers others, who leaves takes his computation along,
// and it ends when it is told to.
func TestHostileService(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	data := t.TempDir()
	token := firstToken(t, data)
	service, base := serveProcess(t, data)
	c, err := client.New(base, token)
	require.NoError(t, err)
	ctx, cancel := context.WithTimeout(context.Background(), 4*hostileEnd)
	defer cancel()

	text := func(version string) []byte {
		return []byte("openapi: 3.1.0\ninfo: {title: Quays, version: " + version +
			"}\npaths: {/quays: {get: {responses: {'200': {description: Quays.}}}}}\n")
	}
	_, err = c.Record(ctx, client.Submission{API: "quays", Text: text("1.0.0")})
	require.NoError(t, err)
	_, err = c.Publish(ctx, "quays@1.0.0", nil)
	require.NoError(t, err)

	// While the worst are recorded and compared, others are answered.
	var working sync.WaitGroup
	pairs := hostile.Pairs()
	for worker := range 4 {
		working.Go(func() {
			for i := worker; i < len(pairs); i += 4 {
				name := fmt.Sprintf("hostile-%d", i)
				for _, text := range [][]byte{pairs[i].Old, pairs[i].New} {
					if _, err := c.Record(ctx, client.Submission{API: name, File: name + pairs[i].File, Text: text}); err != nil {
						return // it says why
					}
				}
				_, err := c.Compare(ctx, name+"@1.0.0", name+"@1.1.0", shape.Declared.String())
				require.NoError(t, err, pairs[i].Name)
				if _, err := c.Publish(ctx, name+"@1.0.0", nil); err != nil {
					continue // the gate says why
				}
				for _, page := range []string{"/", "/operations/moor", "/schemas/S0", "/search?q=moor"} {
					resp, err := http.Get(base + "/reference/" + name + "/1.0.0" + page)
					require.NoError(t, err, pairs[i].Name)
					require.Less(t, resp.StatusCode, 500, "%s %s", pairs[i].Name, page)
					require.NoError(t, resp.Body.Close())
				}
			}
		})
	}
	done := make(chan struct{})
	go func() { working.Wait(); close(done) }()
	var waits []time.Duration
	for asking := true; asking; {
		select {
		case <-done:
			asking = false
		default:
		}
		start := time.Now()
		resp, err := http.Get(base + "/reference/quays/1.0.0/")
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, resp.StatusCode)
		require.NoError(t, resp.Body.Close())
		_, err = c.APIs(ctx)
		require.NoError(t, err)
		waits = append(waits, time.Since(start))
	}
	require.Greater(t, len(waits), 10)
	slices.Sort(waits)
	t.Logf("%d readers meanwhile: half of them waited less than %v, nine of ten less than %v", len(waits), waits[len(waits)/2],
		waits[len(waits)*9/10])
	require.Less(t, waits[len(waits)/2], 100*time.Millisecond, "others are answered meanwhile")

	// Who leaves takes his computation along: then there is room for the next.
	for i := range 3 {
		left, leave := context.WithTimeout(ctx, 50*time.Millisecond)
		name := fmt.Sprintf("left-%d", i)
		_, err := c.Record(left, client.Submission{API: name, Text: hostileText(t, "three thousand renamed fields", i)})
		leave()
		if err != nil {
			require.ErrorIs(t, err, context.DeadlineExceeded)
		}
	}
	_, err = c.Record(ctx, client.Submission{API: "quays", Text: text("1.1.0")})
	require.NoError(t, err)

	// It ends when it is told to, whatever it computes.
	for i := range 3 {
		go func() {
			name := fmt.Sprintf("last-%d", i)
			c.DryRun(ctx, client.Submission{API: name, Text: hostileText(t, "a choice of two hundred", i)})
		}()
	}
	_, err = c.APIs(ctx)
	require.NoError(t, err)
	require.NoError(t, service.Process.Signal(syscall.SIGTERM))
	ended := make(chan error, 1)
	go func() { ended <- service.Wait() }()
	select {
	case <-ended:
	case <-time.After(10 * time.Second):
		t.Fatal("ten seconds after SIGTERM the service is still there")
	}
	require.Less(t, service.ProcessState.SysUsage().(*syscall.Rusage).Maxrss, int64(maxHostileKB))
}

// hostileText is the old version of a hostile description, under a version of its own.
func hostileText(t *testing.T, name string, i int) []byte {
	t.Helper()
	for _, p := range hostile.Pairs() {
		if p.Name == name {
			return bytes.Replace(p.Old, []byte("1.0.0"), fmt.Appendf(nil, "1.%d.0", i+10), 1)
		}
	}
	t.Fatalf("there is no hostile description called %s", name)
	return nil
}

// firstToken makes a data folder with an administrator, and gives the token of one.
func firstToken(t *testing.T, data string) string {
	t.Helper()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(data, "ledger.sqlite"))
	require.NoError(t, err)
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader}))
	admin := ledger.Person{Name: "admin", Full: "Admin", Role: ledger.Admin}
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, admin, adminPassword))
	token, err := l.MakeToken(ctx, ledger.By(admin), ledger.TokenWish{Label: "test"})
	require.NoError(t, err)
	require.NoError(t, s.Close())
	return token
}

package cli_test

import (
	"bytes"
	"context"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
)

// run runs a command and gives what it wrote.
func run(t *testing.T, ctx context.Context, env map[string]string, args ...string) (out, err string, status int) {
	t.Helper()
	var stdout, stderr bytes.Buffer
	status = cli.Run(ctx, args, cli.Environment{
		In: strings.NewReader(""), Out: &stdout, Err: &stderr, Getenv: func(name string) string { return env[name] }, Dir: "..", Now: time.Now,
	})
	return stdout.String(), stderr.String(), status
}

// TestHelp holds what the help of every command says: two examples, in the demo's names, and what its exit status means.
func TestHelp(t *testing.T) {
	t.Parallel()
	top, _, _ := run(t, t.Context(), nil, "--help")
	commands := regexp.MustCompile(`(?m)^  ([a-z-]+) +[A-Z]`).FindAllStringSubmatch(top, -1)
	require.Greater(t, len(commands), 25)
	for _, c := range commands {
		name := c[1]
		help, _, status := run(t, t.Context(), nil, name, "--help")
		require.Zero(t, status, name)
		require.Contains(t, help, "Exit status: 0 fine", name)
		if name == "help" || name == "completion" {
			continue
		}
		_, examples, _ := strings.Cut(help, "Examples:\n")
		examples, _, _ = strings.Cut(examples, "\n\n")
		lines := strings.Split(strings.TrimRight(examples, "\n"), "\n")
		require.GreaterOrEqual(t, len(lines), 2, name)
		for _, line := range lines {
			require.Regexp(t, `^  (printf .* \| )?oldledger `, line, name)
		}
	}
}

// TestCompletion completes commands' arguments: kinds and words without a ledger, APIs, versions and changes of one. What was let through
// says so where it is listed.
func TestCompletion(t *testing.T) {
	t.Parallel()
	base, stop := startLedger(t, t.TempDir()+"/ledger.sqlite")
	t.Cleanup(stop)
	env := map[string]string{"OLDLEDGER_URL": base, "OLDLEDGER_HOME": t.TempDir()}
	var signed bytes.Buffer
	require.Zero(t, cli.Run(t.Context(), []string{"sign-in"}, cli.Environment{
		In: strings.NewReader(adminPassword + "\n"), Out: &signed, Err: &signed, Dir: "..", Now: time.Now,
		Getenv: func(name string) string { return env[name] },
	}), signed.String())
	for _, file := range []string{"demo/berths/1.1.0.yaml", "demo/berths/1.2.0.yaml"} {
		_, wrong, status := run(t, t.Context(), env, "record", file)
		require.Zero(t, status, wrong)
	}
	_, wrong, status := run(t, t.Context(), env, "publish", "berths@1.1.0")
	require.Zero(t, status, wrong)
	_, wrong, status = run(t, t.Context(), env, "record", "demo/berths/2.0.0.yaml", "--version", "1.3.0")
	require.Zero(t, status, wrong)
	for _, c := range []struct {
		typed []string
		want  string
	}{
		{[]string{"show", "be"}, "berths@\n"},
		{[]string{"show", "berths@1.2"}, "berths@1.2.0\n"},
		{[]string{"compare", "berths@1.1.0", "berths@d"}, "berths@draft\n"},
		{[]string{"history", "b"}, "berths\n"},
		{[]string{"record", "demo/berths/2.0.0.yaml", "--api", "b"}, "berths\n"},
		{[]string{"kinds", "response.enum-w"}, "response.enum-widened\n"},
		{[]string{"compare", "--only", "response.enum-w"}, "response.enum-widened\n"},
		{[]string{"lineup", "berths", "--format", "m"}, "markdown\n"},
		{[]string{"person", "ad"}, "admin\n"},
		{[]string{"team", "Quay"}, ""},
		{[]string{"team", "Quayside", "--member", "ad"}, "admin=\n"},
		{[]string{"team", "Quayside", "--member", "admin=re"}, "admin=reviewer\nadmin=reader\n"},
		{[]string{"person", "admin", "--everywhere", "a"}, "admin\nauditor\n"},
		{[]string{"token", "pipeline", "--scope", "re"}, "read\nrecord\n"},
		{[]string{"settle", "berths", "--promise", "b"}, "backward\nboth-ways\n"},
		{[]string{"publish", "berths@1.3.0", "--waive", ""}, "\tall addresses begin with /v2, was /v1\n"},
	} {
		out, _, _ := run(t, t.Context(), env, append([]string{"__complete"}, c.typed...)...)
		require.Contains(t, out, c.want, c.typed)
	}
	var through []string
	out, _, _ := run(t, t.Context(), env, "__complete", "publish", "berths@1.3.0", "--waive", "")
	for line := range strings.Lines(out) {
		if id, _, is := strings.Cut(line, "\t"); is {
			through = append(through, "--waive", id)
		}
	}
	_, wrong, status = run(t, t.Context(), env, append([]string{"publish", "berths@1.3.0", "--reason", "All were asked."}, through...)...)
	require.Zero(t, status, wrong)
	out, _, _ = run(t, t.Context(), env, "list")
	require.Regexp(t, `1\.3\.0 +published  ! \d+ changes let through`, out)
	out, _, _ = run(t, t.Context(), env, "journal", "--act", "change")
	require.Contains(t, out, "all addresses begin with /v2, was /v1: All were asked.")
	out, _, _ = run(t, t.Context(), map[string]string{"OLDLEDGER_HOME": t.TempDir()}, "__complete", "show", "be")
	require.NotContains(t, out, "berths", "without a ledger, files are completed")
}

// TestInterrupted says what was not done.
func TestInterrupted(t *testing.T) {
	t.Parallel()
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	_, said, status := run(t, gone, nil, "compare", "demo/berths/1.2.0.yaml", "demo/berths/2.0.0.yaml")
	require.Equal(t, 130, status)
	require.Equal(t, "interrupted: nothing was changed, and nothing was written\n", said)
	_, said, status = run(t, gone, map[string]string{"OLDLEDGER_URL": "http://127.0.0.1:9", "OLDLEDGER_HOME": t.TempDir()}, "publish", "berths@1.2.0")
	require.Equal(t, 130, status)
	require.Equal(t, "interrupted: the ledger was asked already, so it may have been done all the same; oldledger journal tells\n", said)
}

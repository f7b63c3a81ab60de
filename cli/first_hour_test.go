package cli_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/cli"
)

// answersNo are the commands of the first hour that the ledger says no to, by how they begin, and what they say.
var answersNo = map[string]string{
	"record moorings-1.1.0.yaml --dry-run":       "its gate would be shut",
	"compare moorings@1.0.0 moorings-1.1.0.yaml": "nights is at most 14, was at most 28",
	"publish moorings@1.1.0":                     "waiver at the gate",
}

// TestFirstHour does what the manual's first hour says, with the files beside it.
func TestFirstHour(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../docs/manual/first-hour.md")
	require.NoError(t, err)
	dir := t.TempDir()
	require.NoError(t, os.CopyFS(dir, os.DirFS("../docs/manual/examples")))
	base, stop := startLedger(t, filepath.Join(t.TempDir(), "ledger.sqlite"))
	t.Cleanup(stop)
	env := map[string]string{"OLDLEDGER_URL": base, "OLDLEDGER_HOME": t.TempDir()}
	refused, ran := 0, 0
	for _, m := range regexp.MustCompile(`(?m)^    oldledger (.*)$`).FindAllStringSubmatch(string(text), -1) {
		line := m[1]
		if strings.HasPrefix(line, "serve") {
			continue // it runs already
		}
		var out strings.Builder
		status := cli.Run(t.Context(), words(line), cli.Environment{
			In: strings.NewReader(adminPassword + "\n"), Out: &out, Err: &out, Dir: dir, Now: time.Now,
			Getenv: func(name string) string { return env[name] },
		})
		ran++
		if status == 1 {
			refused++
			require.NotEmpty(t, answersNo[line], "%s\n%s", line, out.String())
			require.Contains(t, out.String(), answersNo[line], line)
			continue
		}
		require.Zero(t, status, "%s\n%s", line, out.String())
	}
	require.Equal(t, 3, refused, "the dry run, the comparison and the gate say no")
	require.Greater(t, ran, 16)
}

// words are those of a line in a shell.
func words(line string) []string {
	var all []string
	for _, m := range regexp.MustCompile(`'([^']*)'|(\S+)`).FindAllStringSubmatch(line, -1) {
		all = append(all, m[1]+m[2])
	}
	return all
}

package cli_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/client"
)

// serveProcess runs this test binary as the service on a data folder, and returns its address once it is ready.
func serveProcess(t *testing.T, data string) (*exec.Cmd, string) {
	t.Helper()
	cmd := exec.Command(os.Args[0], "-test.run=^TestServeAsProcess$")
	cmd.Env = append(os.Environ(), "OLDLEDGER_TEST_SERVE="+data)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if address, ok := strings.CutPrefix(lines.Text(), "ready "); ok {
			go func() {
				for lines.Scan() {
				}
			}()
			return cmd, strings.TrimSuffix(address, "/")
		}
	}
	t.Fatal("the service did not get ready")
	return nil, ""
}

// TestKilledMidWrite kills the service while it records, several times: what was answered is there after the next start,
// nothing is half there, and the journal's chain holds.
func TestKilledMidWrite(t *testing.T) {
	ctx := context.Background()
	data := t.TempDir()
	token := firstToken(t, data)

	answered := map[string]bool{}
	for round := range 3 {
		process, base := serveProcess(t, data)
		c, err := client.New(base, token)
		require.NoError(t, err)
		for i := 0; ; i++ {
			if i == 5 {
				go process.Process.Kill() // in the middle of one of the next writes
			}
			number := fmt.Sprintf("1.%d.%d", round, i)
			text := fmt.Sprintf("openapi: 3.1.0\ninfo: {title: Berths, version: %s}\npaths: {}\n", number)
			if _, err := c.Record(ctx, client.Submission{API: "berths", Text: []byte(text)}); err != nil {
				break
			}
			answered[number] = true
		}
		process.Wait() // it was killed
	}
	require.Greater(t, len(answered), 14)

	process, base := serveProcess(t, data)
	c, err := client.New(base, token)
	require.NoError(t, err)
	api, err := c.API(ctx, "berths")
	require.NoError(t, err)
	there := map[string]bool{}
	for _, v := range api.Versions {
		there[v.Number] = true
		_, err := c.Description(ctx, v.Ref())
		require.NoError(t, err)
	}
	for number := range answered {
		require.True(t, there[number], "%s was answered and is gone", number)
	}
	verification, err := c.VerifyJournal(ctx, "")
	require.NoError(t, err)
	require.True(t, verification.Intact)
	require.Equal(t, int64(len(there)+2), verification.Entries, "one entry for each recording, and for the person and the token")
	require.NoError(t, process.Process.Signal(os.Interrupt))
	require.NoError(t, process.Wait())
}

package cli_test

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/client"
)

// TestKilledWhileCounting kills the service at random moments while a log that grows is added: it is sent again each time, and each of its
// calls counts once.
func TestKilledWhileCounting(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	ctx := context.Background()
	data := t.TempDir()
	token := firstToken(t, data)
	random := rand.New(rand.NewPCG(20261202, 4))
	at := time.Now().UTC().AddDate(0, 0, -20).Truncate(24 * time.Hour)
	var log bytes.Buffer
	calls := int64(0)
	grow := func(lines int) {
		for range lines {
			at = at.Add(time.Duration(random.IntN(20)) * time.Second)
			fmt.Fprintf(&log, "192.0.2.1 - u%d [%s] \"GET /a HTTP/1.1\" 200 5 \"-\" \"x\"\n", random.IntN(300), at.Format("02/Jan/2006:15:04:05 -0700"))
			calls++
		}
	}
	asked := url.Values{"from": {at.AddDate(0, 0, -1).Format(time.DateOnly)}, "by": {"consumer"}}
	for round := range 12 {
		process, base := serveProcess(t, data)
		c, err := client.New(base, token)
		require.NoError(t, err)
		if round == 0 {
			text := "openapi: 3.1.0\ninfo: {title: A, version: 1.0.0}\npaths: {/a: {get: {operationId: read, responses: {'200': {description: A.}}}}}\n"
			_, err := c.Record(ctx, client.Submission{API: "a", Text: []byte(text)})
			require.NoError(t, err)
			_, err = c.Publish(ctx, "a@1.0.0", nil)
			require.NoError(t, err)
		}
		grow(2000)
		kill := time.AfterFunc(time.Duration(random.IntN(100_000))*time.Microsecond, func() { process.Process.Kill() })
		_, sent := c.AddLog(ctx, "growing.log", nil, "", bytes.NewReader(log.Bytes()))
		if kill.Stop() {
			process.Process.Kill()
		}
		process.Wait() // it was killed
		t.Log(round, sent)
	}
	process, base := serveProcess(t, data)
	c, err := client.New(base, token)
	require.NoError(t, err)
	_, err = c.AddLog(ctx, "growing.log", nil, "", bytes.NewReader(log.Bytes()))
	require.NoError(t, err)
	use, err := c.Use(ctx, "a", asked)
	require.NoError(t, err)
	require.Equal(t, calls, use.Calls)
	v, err := c.VerifyJournal(ctx, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
	require.NoError(t, process.Process.Signal(os.Interrupt))
	require.NoError(t, process.Wait())
}

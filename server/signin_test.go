package server_test

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestGuessing guesses at a password: after a few tries the guesser waits, at once and without a password being checked, and nobody else
// does. What failed and what did not stands in the journal.
func TestGuessing(t *testing.T) {
	t.Parallel()
	base, l := startDemo(t)
	try := func(name, password string) answer {
		return send(t, "POST", base+"/api/v1/sign-in", "", nil, strings.NewReader(fmt.Sprintf(`{"name": %q, "password": %q}`, name, password)))
	}
	for range 5 {
		require.Equal(t, http.StatusUnauthorized, try("imke", "wrong").StatusCode)
	}
	for range 3 {
		a := try("imke", "saltmere-demo")
		require.Equal(t, http.StatusTooManyRequests, a.StatusCode, a.text)
		require.Contains(t, a.text, "problems/too-often")
		seconds, err := strconv.Atoi(a.Header.Get("Retry-After"))
		require.NoError(t, err)
		require.InDelta(t, 60, seconds, 10)
	}
	require.Equal(t, http.StatusOK, try("teodor", "saltmere-demo").StatusCode, "another name")
	for i := range 25 {
		try("guess-"+strconv.Itoa(i), "wrong")
	}
	require.Equal(t, http.StatusTooManyRequests, try("teodor", "saltmere-demo").StatusCode, "one address tried thirty names")

	acts := map[string]int{}
	for after := int64(0); ; {
		entries, err := l.Journal(t.Context(), ledger.Itself, ledger.Question{}, after, 100)
		require.NoError(t, err)
		for _, e := range entries {
			acts[e.Act+" "+e.Subject]++
			after = e.Seq
			if e.Act == "sign-in.failed" {
				require.Contains(t, string(e.Detail), "127.0.0.1")
			}
		}
		if len(entries) == 0 {
			break
		}
	}
	require.Equal(t, 5, acts["sign-in.failed imke"])
	require.Equal(t, 1, acts["person.signed-in teodor"])
	require.Equal(t, 1, acts["sign-in.failed guess-0"])
}

// TestManyGuesses tries many passwords at the same moment: no more are checked than one after the other would be.
func TestManyGuesses(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	var group sync.WaitGroup
	var checked atomic.Int64
	for range 40 {
		group.Go(func() {
			if send(t, "POST", base+"/api/v1/sign-in", "", nil, strings.NewReader(
				`{"name": "imke", "password": "wrong"}`)).StatusCode == http.StatusUnauthorized {
				checked.Add(1)
			}
		})
	}
	group.Wait()
	require.Equal(t, int64(5), checked.Load())
}

// TestManyAtTheDoor signs somebody in a few times at once, and often: each time it works.
func TestManyAtTheDoor(t *testing.T) {
	t.Parallel()
	base, _ := startDemo(t)
	var group sync.WaitGroup
	for range 6 {
		answers := make([]answer, 4)
		for i := range answers {
			group.Go(func() {
				answers[i] = send(t, "POST", base+"/api/v1/sign-in", "", nil, strings.NewReader(`{"name": "jonas", "password": "saltmere-demo"}`))
			})
		}
		group.Wait()
		for _, a := range answers {
			require.Equal(t, http.StatusOK, a.StatusCode, a.text)
		}
	}
}

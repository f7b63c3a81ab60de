package ledger_test

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"runtime"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
)

// TestFlight makes a thing once for all who ask for it at the same time, and lets it go when the last of them has left.
func TestFlight(t *testing.T) {
	t.Parallel()
	var f ledger.Flight[int]
	made, ended := 0, make(chan error, 1)
	begun, answer := make(chan struct{}), make(chan struct{})
	slow := func(ctx context.Context) (int, error) {
		made++
		close(begun)
		select {
		case <-answer:
			return 7, nil
		case <-ctx.Done():
			ended <- ctx.Err()
			return 0, ctx.Err()
		}
	}
	// The first leaves, the second still gets it.
	first, leave := context.WithCancel(t.Context())
	var group sync.WaitGroup
	group.Go(func() {
		_, err := f.Do(first, "a", slow)
		require.ErrorIs(t, err, context.Canceled)
	})
	<-begun
	got := make(chan int)
	joined := make(chan struct{})
	go func() {
		close(joined)
		v, err := f.Do(t.Context(), "a", func(context.Context) (int, error) { return 0, errors.New("it is being made") })
		require.NoError(t, err)
		got <- v
	}()
	<-joined
	for f.Waiting("a") < 2 {
		runtime.Gosched() // until the second waits
	}
	leave()
	group.Wait()
	close(answer)
	require.Equal(t, 7, <-got)
	require.Equal(t, 1, made)

	// The last leaves, and it ends.
	begun, answer = make(chan struct{}), make(chan struct{})
	last, leave := context.WithCancel(t.Context())
	group.Go(func() {
		_, err := f.Do(last, "a", slow)
		require.ErrorIs(t, err, context.Canceled)
	})
	<-begun
	leave()
	require.ErrorIs(t, <-ended, context.Canceled)
	group.Wait()

	// What panics is an error, for whoever waits.
	_, err := f.Do(t.Context(), "b", func(context.Context) (int, error) { panic("no") })
	require.ErrorContains(t, err, "computing: no")
	v, err := f.Do(t.Context(), "b", func(context.Context) (int, error) { return 3, nil })
	require.NoError(t, err)
	require.Equal(t, 3, v)
}

// TestReplacedMeanwhile publishes a draft while somebody else replaces it again and again by one that breaks the promise, or that has an
// error: what is published is what the gate let through.
func TestReplacedMeanwhile(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return at(t, "2026-01-10") }, Random: rand.Reader, Engine: "one"}))
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	contents := []string{"a: {type: string}, b: {type: string}", "a: {type: string, maxLength: 3}", "a: {type: string}, c: {type: strng}"}
	published := 0
	for round := range 30 {
		number := "1." + string(rune('1'+round/10)) + string(rune('0'+round%10)) + ".0"
		_, err := l.Record(ctx, teodor, ledger.Submission{File: "berths.yaml", Text: describe(number, contents[0])})
		require.NoError(t, err)
		var group sync.WaitGroup
		group.Go(func() {
			for i := 1; i < 4; i++ {
				if _, err := l.Record(ctx, teodor, ledger.Submission{File: "berths.yaml", Text: describe(number, contents[i%3])}); err != nil {
					return // it is published by then
				}
			}
		})
		group.Go(func() {
			if _, err := l.Publish(ctx, teodor, "berths@"+number, nil); err == nil {
				published++
			}
		})
		group.Wait()
		v, err := l.Resolve(ctx, teodor, "berths@"+number)
		require.NoError(t, err)
		if v.State != ledger.Draft {
			files, err := l.Files(ctx, teodor, v.Ref())
			require.NoError(t, err)
			require.Contains(t, files[0].Text, contents[0], "only what the gate lets through is published")
		}
	}
	t.Logf("%d of 30 were published", published)
}

// TestTwoAtOnce has several change one notice, and take one version back, at the same moment: each change is made to what the one before it
// left, and the version is taken back once.
func TestTwoAtOnce(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l := openAt(t, "2026-01-10")
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	notice, err := l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.0.0", Reason: "why"})
	require.NoError(t, err)
	var group sync.WaitGroup
	var ended atomic.Int64
	for i := range 6 {
		group.Go(func() {
			sunset := fmt.Sprintf("2026-03-0%d", i+1)
			_, err := l.Amend(ctx, teodor, notice.ID, ledger.Amendment{Sunset: &sunset})
			assert.NoError(t, err)
		})
		group.Go(func() {
			if _, err := l.Unpublish(ctx, teodor, "berths@1.0.0", "twice"); err == nil {
				ended.Add(1)
			}
		})
	}
	group.Wait()
	require.Equal(t, int64(1), ended.Load())
	entries, err := l.Journal(ctx, teodor, ledger.Question{}, 0, 100)
	require.NoError(t, err)
	before := ""
	for _, e := range entries {
		if e.Act == "notice.changed" {
			var d map[string]string
			require.NoError(t, json.Unmarshal(e.Detail, &d))
			require.Equal(t, before, d["sunsetBefore"], "what the one before it left")
			before = d["sunset"]
		}
	}
	require.NotEmpty(t, before)
	v, err := l.VerifyJournal(ctx, teodor, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

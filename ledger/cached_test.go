package ledger_test

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/ledger/records"
	"oldledger/store"
)

// TestComparisonsAreKept computes a comparison once for each two contents and each build; what is kept reads as what was computed.
func TestComparisonsAreKept(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	open := func(engine string) *ledger.Ledger {
		return ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return at(t, "2026-01-10") }, Random: rand.Reader, Engine: engine}))
	}
	l := open("one")
	record(t, l, "1.0.0", "a: {type: string}")
	record(t, l, "1.1.0", "a: {type: string, maxLength: 4}, b: {type: number, default: 0.50}")
	compared := func(l *ledger.Ledger) *compare.Comparison {
		c, err := l.Compare(ctx, teodor, "berths@1.0.0", "berths@1.1.0", compare.Options{})
		require.NoError(t, err)
		return c
	}
	text := func(c *compare.Comparison) string {
		out, err := json.Marshal(c)
		require.NoError(t, err)
		return string(out)
	}
	rows := func() (n int) {
		for _, engine := range []string{"one", "two"} {
			versions, err := s.Read().Versions(ctx, "berths")
			require.NoError(t, err)
			basis := versions[0].Digest + " " + versions[0].File + " " + versions[1].Digest + " " + versions[1].File + " " + engine
			if _, err := s.Read().Comparison(ctx, "berths@1.0.0", "berths@1.1.0", "declared", basis); err == nil {
				n++
			}
		}
		return n
	}
	require.Equal(t, 1, rows(), "recording keeps what it compares")
	first := compared(l)
	require.Equal(t, 1, rows(), "the result is kept")
	require.Equal(t, text(first), text(compared(l)), "and reads as it was computed")
	require.Equal(t, text(first), text(compared(open(""))), "as without keeping anything")

	record(t, l, "1.1.0", "a: {type: string}")
	require.Equal(t, 1, rows(), "other contents have a result of their own")
	require.Equal(t, compare.Editorial, compared(l).Backward)
	require.Equal(t, 1, rows())
	compared(open("two"))
	require.Equal(t, 1, rows(), "another build computes anew and takes its place")

	up, err := l.Lineup(ctx, teodor, "berths")
	require.NoError(t, err)
	require.Len(t, up.Cells, 2)
	require.True(t, up.DropIn(0, 1))
}

// TestNothingIsComputedTwice records a draft, asks for its gate and publishes it: what recording computed serves the rest, also in a
// service that was started anew meanwhile, and under a promise that asks for both directions.
func TestNothingIsComputedTwice(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	started := func() *ledger.Ledger {
		return ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return at(t, "2026-01-10") }, Random: rand.Reader, Engine: "one"}))
	}
	l := started()
	for _, number := range []string{"1.0.0", "1.1.0"} {
		record(t, l, number, "a: {type: string}")
		publish(t, l, "berths@"+number)
	}
	require.NoError(t, s.Write(ctx, func(r records.Rows) error {
		row, err := r.API(ctx, "berths")
		require.NoError(t, err)
		row.Promise = string(promise.BothWays)
		return r.PutAPI(ctx, row)
	}))

	l = started()
	draft := record(t, l, "1.2.0", "a: {type: string, description: Any text.}")
	require.Equal(t, int64(2), l.Computed(), "against each version of its line, once")
	again := started()
	for _, l := range []*ledger.Ledger{l, again} {
		before := l.Computed()
		gate, err := l.Gate(ctx, teodor, "berths@1.2.0")
		require.NoError(t, err)
		require.True(t, gate.Open)
		c, err := l.Compare(ctx, teodor, "berths@1.1.0", "berths@1.2.0", compare.Options{})
		require.NoError(t, err)
		require.Equal(t, draft.Changes.Recommended, c.Recommended)
		require.Equal(t, before, l.Computed())
	}
	publish(t, again, "berths@1.2.0")
	require.Zero(t, again.Computed())
}

// TestFormerIDs reads what was kept under the ids of earlier builds, which were made of kind, places and title: a waiver still holds, and a
// text in a guide still stands at its step.
func TestFormerIDs(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	l := ledgertest.Opened(t, ledger.New(s, ledger.Options{Now: func() time.Time { return at(t, "2026-01-10") }, Random: rand.Reader}))
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	record(t, l, "1.1.0", "a: {type: string}")
	record(t, l, "1.2.0", "a: {type: string, maxLength: 4}")
	gate, err := l.Gate(ctx, teodor, "berths@1.2.0")
	require.NoError(t, err)
	require.False(t, gate.Open)
	ch := gate.Obstacles[0].Change
	sum := sha256.Sum256([]byte(strings.Join([]string{ch.Kind, ch.Old.Pointer, ch.New.Pointer, ch.Title}, "\n")))
	former := hex.EncodeToString(sum[:6])
	require.NotEqual(t, ch.ID, former)
	require.NoError(t, s.Write(ctx, func(r records.Rows) error {
		if err := r.PutGuideText(ctx, records.GuideText{
			API: "berths", Pair: "1.0.0..1.2.0", Anchor: former, Title: "as it was called",
			Text: "Shorten it.", MadeBy: "teodor", MadeAt: "2026-01-02T00:00:00Z",
		}); err != nil {
			return err
		}
		return r.AddWaiver(ctx, records.Waiver{
			API: "berths", Version: "1.1.0", Change: former, Kind: ch.Kind, Title: ch.Title,
			Reason: "nobody sends more", MadeBy: "teodor", MadeAt: "2026-01-02T00:00:00Z",
		})
	}))
	gate, err = l.Gate(ctx, teodor, "berths@1.2.0")
	require.NoError(t, err)
	require.True(t, gate.Open, "what was waived stays waived")
	g, err := l.Guide(ctx, teodor, "berths@1.0.0", "berths@1.2.0")
	require.NoError(t, err)
	require.Empty(t, g.Gone)
	require.Equal(t, "Shorten it.", g.Must[0].Words.Text)
}

// TestFiles keeps a description of several files, leaves out what nothing refers to, and gives it back apart or as one.
func TestFiles(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := openAt(t, "2026-01-10")
	submission := ledger.Submission{
		File: "api/berths.yaml",
		Text: []byte("openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {}\ncomponents: {schemas: {Booking: {$ref: ../schemas/Booking.yaml}}}\n"),
		Others: map[string][]byte{
			"schemas/Booking.yaml": []byte("type: object\nproperties: {vessel: {type: string}}\n"), "schemas/Unused.yaml": []byte("{"),
			"../outside.yaml": []byte("{}"),
		},
	}
	rec, err := l.Record(ctx, teodor, submission)
	require.NoError(t, err)
	files, err := l.Files(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Len(t, files, 2)
	require.Equal(t, "api/berths.yaml", files[0].Path)
	require.Equal(t, "schemas/Booking.yaml", files[1].Path)
	_, whole, err := l.Bundled(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Contains(t, string(whole), "vessel:")
	require.NotContains(t, string(whole), "$ref")

	submission.Others["schemas/Booking.yaml"] = []byte("type: object\nproperties: {vessel: {type: string, maxLength: 3}}\n")
	again, err := l.Record(ctx, teodor, submission)
	require.NoError(t, err)
	require.Equal(t, "replaced", again.Outcome)
	require.NotEqual(t, rec.Version.Digest, again.Version.Digest, "a change in another file is a change of the version")

	delete(submission.Others, "schemas/Booking.yaml")
	_, err = l.Record(ctx, teodor, submission)
	var refused *ledger.Error
	require.ErrorAs(t, err, &refused)
	require.Equal(t, ledger.Unreadable, refused.Fault)
	require.Contains(t, refused.Text, "api/berths.yaml:4:")
	files, err = l.Files(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
	require.Contains(t, files[1].Text, "maxLength: 3", "a refused submission leaves nothing behind")
}

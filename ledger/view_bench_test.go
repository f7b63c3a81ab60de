package ledger_test

import (
	"crypto/rand"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/ledger/records"
	"oldledger/store"
)

// BenchmarkView reads an API of 10,000, and all of them, as nobody, as a member of the team that keeps a tenth of them, and as an admin:
// what asking who may see it costs.
func BenchmarkView(b *testing.B) {
	ctx := b.Context()
	s, err := store.Open(ctx, filepath.Join(b.TempDir(), "ledger.sqlite"))
	require.NoError(b, err)
	defer s.Close()
	require.NoError(b, s.Write(ctx, func(r records.Rows) error {
		for i := range 10_000 {
			name := fmt.Sprintf("api-%05d", i)
			if err := r.PutAPI(ctx, records.API{Name: name, Team: fmt.Sprintf("Team %d", i%10), Promise: "backward", CreatedAt: "2026-01-01T00:00:00Z"}); err != nil {
				return err
			}
			if err := r.Advance(ctx, name, true); err != nil {
				return err
			}
		}
		return nil
	}))
	l := ledgertest.Opened(b, ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader}))
	for name, who := range map[string]ledger.Actor{
		"nobody": ledger.Nobody,
		"member": ledger.By(ledger.Person{Name: "m", Full: "M", Teams: map[string]ledger.Role{"Team 3": ledger.Editor}}),
		"admin":  ledger.By(ledger.Person{Name: "a", Full: "A", Role: ledger.Admin}),
	} {
		b.Run("one/"+name, func(b *testing.B) {
			for i := range b.N {
				if _, err := l.API(ctx, who, fmt.Sprintf("api-%05d", i%1000*10+3)); (err == nil) != (name != "nobody") {
					b.Fatal(err)
				}
			}
		})
		b.Run("all/"+name, func(b *testing.B) {
			for range b.N {
				if _, err := l.APIs(ctx, who); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// BenchmarkShut asks for an API that is not for whoever asks, and for one that is not there: neither tells by its time which it is.
func BenchmarkShut(b *testing.B) {
	s, err := store.Open(b.Context(), filepath.Join(b.TempDir(), "ledger.sqlite"))
	require.NoError(b, err)
	defer s.Close()
	l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
	who := ledger.By(ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher})
	_, err = l.Record(b.Context(), who, ledger.Submission{API: "shut", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(b, err)
	_, err = l.Publish(b.Context(), who, "shut@1.0.0", nil)
	require.NoError(b, err)
	for _, name := range []string{"shut", "none"} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := l.API(b.Context(), ledger.Nobody, name); err == nil {
					b.Fatal("it is open")
				}
			}
		})
	}
}

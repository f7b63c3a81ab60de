package ledger_test

import (
	"crypto/rand"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/ledger/records"
	"oldledger/store"
)

// BenchmarkUse asks a ledger of 500 APIs, each of which 200 consumers call on every day of a year: three operations with two classes of
// answers of the one that is asked for. The others have what is read of them, which is who calls them.
func BenchmarkUse(b *testing.B) {
	ctx := b.Context()
	s, err := store.Open(ctx, filepath.Join(b.TempDir(), "ledger.sqlite"))
	require.NoError(b, err)
	defer s.Close()
	now := time.Date(2026, 12, 31, 12, 0, 0, 0, time.UTC)
	const apis, consumers, first = 500, 200, (2026 - 1970) * 12
	require.NoError(b, s.Write(ctx, func(r records.Rows) error {
		for i := range consumers {
			c := records.Consumer{Name: fmt.Sprintf("c-%03d", i), Title: "C", Team: "Quayside", Contacts: "[]"}
			if err := r.PutConsumer(ctx, c); err != nil {
				return err
			}
			if _, err := r.CallerID(ctx, records.Caller{Credential: c.Name}, true); err != nil {
				return err
			}
		}
		for i := range apis {
			name := fmt.Sprintf("api-%03d", i)
			if err := r.PutAPI(ctx, records.API{Name: name, Team: "Quayside", Promise: "backward", CreatedAt: "2026-01-01T00:00:00Z"}); err != nil {
				return err
			}
			for caller := range consumers {
				u := records.Use{Caller: int64(caller + 1), API: name, Consumer: fmt.Sprintf("c-%03d", caller), FirstDay: 20454, LastDay: 20818, Calls: 1}
				if err := r.AddUse(ctx, u); err != nil {
					return err
				}
				if err := r.Recognise(ctx, u); err != nil {
					return err
				}
			}
		}
		for op := range 3 {
			target, err := r.TargetID(ctx, records.Target{API: "api-007", Version: "1.0.0", Operation: fmt.Sprintf("GET /things/%d", op)})
			if err != nil {
				return err
			}
			for m := range 12 {
				length := time.Date(2026, time.Month(m+2), 0, 0, 0, 0, 0, time.UTC).Day()
				month := strings.TrimSuffix(strings.Repeat("17,", length), ",")
				for caller := range consumers {
					for _, class := range []int{2, 4} {
						c := records.Calls{API: "api-007", Month: first + m, Target: target, Caller: int64(caller + 1), Class: class, Days: month}
						if err := r.PutCalls(ctx, c); err != nil {
							return err
						}
					}
				}
			}
		}
		return nil
	}))
	l := ledgertest.Opened(b, ledger.New(s, ledger.Options{Now: func() time.Time { return now }, Random: rand.Reader}))
	who := ledger.By(ledger.Person{Name: "m", Full: "M", Teams: map[string]ledger.Role{"Quayside": ledger.Editor}})
	for _, by := range []ledger.UseBy{ledger.ByVersion, ledger.ByConsumer} {
		b.Run("a year by "+string(by), func(b *testing.B) {
			for b.Loop() {
				use, err := l.Use(ctx, who, ledger.UseQuestion{API: "api-007", By: by, From: "2026-01-01", Until: "2026-12-31"})
				require.NoError(b, err)
				require.EqualValues(b, 17*365*consumers*6, use.Calls)
			}
		})
	}
	b.Run("one consumer", func(b *testing.B) {
		for b.Loop() {
			c, err := l.Consumer(ctx, who, "c-100")
			require.NoError(b, err)
			require.Len(b, c.Uses, apis)
		}
	})
	for _, find := range []string{"", "api-4"} {
		b.Run(strings.TrimSuffix("a page of consumers of "+find, " of "), func(b *testing.B) {
			for b.Loop() {
				page, more, err := l.Consumers(ctx, who, ledger.ConsumersQuestion{Find: find, Limit: 25})
				require.NoError(b, err)
				require.True(b, more)
				require.Len(b, page, 25)
			}
		})
	}
}

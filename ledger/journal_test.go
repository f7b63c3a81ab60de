package ledger_test

import (
	"context"
	"crypto/rand"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/store"
)

func open(t *testing.T) (*store.Store, *ledger.Ledger) {
	t.Helper()
	s, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s, ledger.New(s, ledger.Options{Now: func() time.Time { return time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC) }, Random: rand.Reader})
}

// TestJournalIsChained changes an entry behind the ledger's back, past the triggers that forbid it: the chain tells.
func TestJournalIsChained(t *testing.T) {
	ctx := context.Background()
	for _, c := range []struct{ tamper, why string }{
		{`UPDATE journal SET actor = 'somebody' WHERE seq = 2`, "entry 2 was changed after it was written"},
		{`DELETE FROM journal WHERE seq = 2`, "entry 2 is missing"},
		{`UPDATE journal SET previous = '' WHERE seq = 3`, "entry 3 does not follow the one before it"},
	} {
		s, l := open(t)
		admin := ledger.By(ledger.Person{Name: "admin", Full: "Admin", Role: ledger.Admin})
		for _, name := range []string{"admin", "imke", "teodor"} {
			require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: name, Full: name, Role: ledger.Admin}, "long enough"))
		}
		_, err := s.DB().Exec(c.tamper)
		require.ErrorContains(t, err, "append-only")
		_, err = s.DB().Exec(`DROP TRIGGER journal_is_not_rewritten; DROP TRIGGER journal_is_not_shortened`)
		require.NoError(t, err)
		v, err := l.VerifyJournal(ctx, teodor)
		require.NoError(t, err)
		require.True(t, v.Intact)
		require.Equal(t, int64(3), v.Entries)
		_, err = s.DB().Exec(c.tamper)
		require.NoError(t, err)
		v, err = l.VerifyJournal(ctx, teodor)
		require.NoError(t, err)
		require.False(t, v.Intact)
		require.Equal(t, c.why, v.Why)
		_, err = l.MakeToken(ctx, admin, "still")
		require.NoError(t, err)
	}
}

// TestFirstAdmin is made once, and can sign in with the password that was shown.
func TestFirstAdmin(t *testing.T) {
	ctx := context.Background()
	_, l := open(t)
	password, err := l.FirstAdmin(ctx)
	require.NoError(t, err)
	p, err := l.SignIn(ctx, "admin", password)
	require.NoError(t, err)
	require.Equal(t, ledger.Admin, p.Role)
	again, err := l.FirstAdmin(ctx)
	require.NoError(t, err)
	require.Empty(t, again)
	_, err = l.SignIn(ctx, "admin", password+"x")
	require.Error(t, err)
}

// TestRefusedWritesLeaveNothing records what is refused in the middle of the act.
func TestRefusedWritesLeaveNothing(t *testing.T) {
	ctx := context.Background()
	_, l := open(t)
	editor := ledger.By(ledger.Person{Name: "teodor", Full: "Teodor", Role: ledger.Editor})
	text := []byte("openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {}\n")
	_, err := l.Record(ctx, editor, ledger.Submission{Text: text, IfMatch: "0000"})
	require.ErrorContains(t, err, "not as you last read it")
	_, err = l.Record(ctx, ledger.By(ledger.Person{Name: "r", Role: ledger.Reader}), ledger.Submission{Text: text})
	require.Error(t, err)
	apis, err := l.APIs(ctx, teodor)
	require.NoError(t, err)
	require.Empty(t, apis)
	entries, err := l.Journal(ctx, teodor, 0, 10)
	require.NoError(t, err)
	require.Empty(t, entries)
}

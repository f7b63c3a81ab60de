package ledger_test

import (
	"context"
	"crypto/rand"
	"database/sql"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/store"
)

func open(t *testing.T) (*store.Store, *ledger.Ledger) {
	t.Helper()
	s, l, _ := openFile(t)
	return s, l
}

// openFile opens a ledger, and its records once more, for what is done behind its back.
func openFile(t *testing.T) (*store.Store, *ledger.Ledger, func(statements string) error) {
	t.Helper()
	return openTampering(t, filepath.Join(t.TempDir(), "ledger.sqlite"))
}

func openTampering(t *testing.T, path string) (*store.Store, *ledger.Ledger, func(statements string) error) {
	t.Helper()
	s, err := store.Open(context.Background(), path)
	require.NoError(t, err)
	behind, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	t.Cleanup(func() {
		require.NoError(t, behind.Close())
		require.NoError(t, s.Close())
	})
	l := ledger.New(s, ledger.Options{Now: func() time.Time { return time.Date(2026, 11, 20, 9, 0, 0, 0, time.UTC) }, Random: rand.Reader})
	return s, l, func(statements string) error {
		_, err := behind.Exec(statements)
		return err
	}
}

// TestVerify changes, behind the ledger's back, past the triggers that forbid it, what the journal says and what decides: verifying tells.
func TestVerify(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l, behindAll := openFile(t)
	actOfEachKind(t, l)
	before, err := l.VerifyJournal(ctx, teodor, "")
	require.NoError(t, err)
	require.Empty(t, before.Why)
	require.True(t, before.Intact)
	require.Equal(t, int64(21), before.Entries)
	require.Equal(t, 3, before.Contents)
	for _, head := range []string{"", before.Head} {
		again, err := l.VerifyJournal(ctx, teodor, head)
		require.NoError(t, err)
		require.Equal(t, before, again)
	}

	const triggers = `DROP TRIGGER journal_is_not_rewritten; DROP TRIGGER journal_is_not_shortened; DROP TRIGGER revisions_never_change; DROP TRIGGER contents_never_change; DROP TRIGGER content_files_never_change; PRAGMA foreign_keys = 0;`
	for _, c := range []struct{ tamper, why string }{
		{`UPDATE journal SET actor = 'somebody' WHERE seq = 2`, "entry 2 was changed after it was written"},
		{`DELETE FROM journal WHERE seq = 2`, "entry 2 is missing"},
		{`UPDATE journal SET previous = '' WHERE seq = 3`, "entry 3 does not follow the one before it"},
		{
			`DELETE FROM journal WHERE seq = (SELECT max(seq) FROM journal)`,
			"the journal ends with entry 20, and the head of entry 21 was kept: its end was cut off",
		},
		{
			`UPDATE contents SET text = CAST(replace(text, 'Held', 'Told') AS BLOB) WHERE digest = (SELECT digest FROM revisions WHERE number = '1.0.0')`,
			"is not what was recorded",
		},
		{`DELETE FROM contents WHERE digest = (SELECT digest FROM revisions WHERE number = '1.1.0')`, "is not what was recorded"},
		{`UPDATE versions SET state = 'published' WHERE number = '2.0.0'`, "berths@2.0.0 is published, and the journal says draft"},
		{
			`UPDATE versions SET revision = (SELECT revision FROM versions WHERE number = '1.1.0') WHERE number = '1.0.0'`,
			"berths@1.0.0 says something else than the journal says was recorded",
		},
		{`DELETE FROM versions WHERE number = '2.0.0'`, "berths@2.0.0 is in the journal, and gone"},
		{`UPDATE people SET role = 'admin' WHERE name = 'jonas'`, "jonas is an admin, and the journal says reviewer"},
		{
			`INSERT INTO people (name, full, role, password) VALUES ('eve', 'Eve', 'admin', 'x')`,
			"eve can sign in, and the journal does not say who added them",
		},
		{`UPDATE people SET left_at = 'now' WHERE name = 'jonas'`, "jonas left, and the journal does not say so"},
		{`UPDATE members SET role = 'lead'`, "jonas is a lead in Quayside, and the journal says reviewer"},
		{`INSERT INTO members (team, person, role) VALUES ('Quayside', 'imke', 'reader')`, "imke is a reader in Quayside, and the journal says nothing"},
		{`DELETE FROM members`, "jonas is in Quayside by the journal, and gone"},
		{`INSERT INTO teams (name, made_at, made_by) VALUES ('Eve', 'now', 'imke')`, "there is a team Eve, and the journal does not say who made it"},
		{`UPDATE tokens SET scopes = 'read administer'`, `the token "pipeline" of imke is not in the journal as it is kept`},
		{`UPDATE tokens SET ends_at = ''`, `the token "pipeline" of imke is not in the journal as it is kept`},
		{
			`INSERT INTO tokens (hash, person, label, made_at) VALUES ('0123456789abcdef', 'imke', 'pipeline', 'now')`,
			`the token "pipeline" of imke is not in the journal as it is kept`,
		},
		{`UPDATE apis SET team = ''`, "berths is kept by no team, and the journal says Quayside"},
		{`UPDATE waivers SET reason = 'another'`, "is not in the journal as it is kept"},
		{`DELETE FROM waivers`, "a waiver of berths@1.1.0 is in the journal, and gone"},
		{`UPDATE notices SET sunset = '2026-11-01' WHERE id = 1`, "notice 1, of berths 1.0.0, is not as the journal says"},
		{`DELETE FROM notices WHERE id = 2`, "there are 1 notices, and the journal says that 2 were made"},
		{`UPDATE apis SET promise = 'none'`, "berths promises none, and the journal says nothing of its own"},
		{`UPDATE line_promises SET promise = 'none'`, "berths 1 promises none, and the journal says both-ways"},
		{`DELETE FROM line_promises`, "berths 1 promises nothing of its own, and the journal says both-ways"},
		{`INSERT INTO line_promises (api, line, promise) VALUES ('berths', '2', 'none')`, "berths 2 promises none, and the journal says nothing of its own"},
		{`UPDATE apis SET notice_days = 0`, "the notice period of berths is 0, and the journal says 30"},
		{`UPDATE overlays SET text = CAST('overlay: 1.0.0' AS BLOB)`, "how the reference of berths@1.0.0 reads is not as the journal says"},
		{`DELETE FROM overlays`, "how the reference of berths@1.0.0 reads is not as the journal says"},
		{
			`INSERT INTO allowances (api, version, finding, what, reason, made_by, made_at) VALUES ('berths', '2.0.0', 'abc', 'x', 'y', 'eve', 'now')`,
			"what was let through in berths@2.0.0 as abc is not in the journal as it is kept",
		},
	} {
		copied := filepath.Join(t.TempDir(), "ledger.sqlite")
		require.NoError(t, behindAll("VACUUM INTO '"+copied+"'"))
		_, l, behind := openTampering(t, copied)
		if strings.Contains(c.tamper, "journal") || strings.Contains(c.tamper, "UPDATE contents") {
			require.ErrorContains(t, behind(c.tamper), "constraint failed", c.tamper)
		}
		require.NoError(t, behind(triggers+c.tamper), c.tamper)
		after, err := l.VerifyJournal(ctx, teodor, before.Head)
		require.NoError(t, err)
		require.False(t, after.Intact, c.tamper)
		require.Contains(t, after.Why, c.why)
	}
	for _, head := range []string{"12", "x:" + strings.Repeat("a", 64), "0:" + strings.Repeat("a", 64)} {
		_, err := l.VerifyJournal(ctx, teodor, head)
		require.ErrorContains(t, err, "is no head of a journal")
	}
}

// actOfEachKind writes what verifying looks at, of each kind something.
func actOfEachKind(t *testing.T, l *ledger.Ledger) {
	t.Helper()
	ctx := t.Context()
	sunset := "2027-03-01"
	for name, role := range map[string]ledger.Role{"imke": ledger.Admin, "jonas": ledger.Reviewer} {
		require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: name, Full: name, Role: role}, "long enough"))
	}
	imke, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	_, err = l.MakeToken(ctx, imke, ledger.TokenWish{Label: "pipeline"})
	require.NoError(t, err)
	require.NoError(t, l.AddTeam(ctx, ledger.Itself, "Quayside"))
	require.NoError(t, l.PutMember(ctx, ledger.Itself, "Quayside", "jonas", ledger.Reviewer))
	record(t, l, "1.0.0", "a: {type: string}")
	require.NoError(t, l.Set(ctx, ledger.Itself, "berths", ledger.Settings{Team: new("Quayside")}))
	publish(t, l, "berths@1.0.0")
	rec := record(t, l, "1.1.0", "a: {type: string, maxLength: 4}")
	_, err = l.Publish(ctx, teodor, "berths@1.1.0", []ledger.Waive{{Change: rec.Gate.Obstacles[0].Change.ID, Reason: "nobody sends more"}})
	require.NoError(t, err)
	record(t, l, "2.0.0", "a: {type: integer}")
	_, err = l.Unpublish(ctx, teodor, "berths@1.1.0", "too early")
	require.NoError(t, err)
	_, err = l.Publish(ctx, teodor, "berths@1.1.0", nil)
	require.NoError(t, err)
	for range 2 {
		_, err = l.Deprecate(ctx, teodor, ledger.Announcement{Ref: "berths@1.0.0", Sunset: "2027-01-01", Reason: "it is old"})
		require.NoError(t, err)
	}
	_, err = l.Amend(ctx, teodor, 1, ledger.Amendment{Sunset: &sunset})
	require.NoError(t, err)
	require.NoError(t, l.Set(ctx, ledger.Itself, "berths", ledger.Settings{NoticeDays: new(30)}))
	require.NoError(t, l.Set(ctx, ledger.Itself, "berths", ledger.Settings{Promise: new("both-ways"), Line: "1", Reason: "r"}))
	_, err = l.PutOverlay(ctx, teodor, "berths@1.0.0",
		"overlay: 1.0.0\ninfo: {title: O, version: 1.0.0}\nactions: [{target: $.info, update: {description: Said.}}]\n", "")
	require.NoError(t, err)
	_, err = l.ShowOverlay(ctx, teodor, "berths@1.0.0")
	require.NoError(t, err)
}

// TestVerifyTellsAnotherJournal keeps the head of one journal, and asks another whether it leads there.
func TestVerifyTellsAnotherJournal(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	heads := make([]string, 2)
	for i, name := range []string{"imke", "jonas"} {
		_, l, _ := openFile(t)
		require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: name, Full: name, Role: ledger.Admin}, "long enough"))
		v, err := l.VerifyJournal(ctx, teodor, heads[0])
		require.NoError(t, err)
		require.Equal(t, i == 0, v.Intact)
		heads[i] = v.Head
		if i > 0 {
			require.Equal(t, "entry 1 is not the one whose head was kept: the journal was written anew", v.Why)
		}
	}
}

// TestFirstAdmin is made once, and can sign in with the password that was shown.
func TestFirstAdmin(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := open(t)
	password, err := l.FirstAdmin(ctx)
	require.NoError(t, err)
	p, err := l.SignIn(ctx, "admin", password, "192.0.2.1")
	require.NoError(t, err)
	require.Equal(t, ledger.Admin, p.Role)
	again, err := l.FirstAdmin(ctx)
	require.NoError(t, err)
	require.Empty(t, again)
	_, err = l.SignIn(ctx, "admin", password+"x", "192.0.2.1")
	require.Error(t, err)
}

// TestRefusedWritesLeaveNothing records what is refused in the middle of the act.
func TestRefusedWritesLeaveNothing(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	_, l := open(t)
	editor := ledger.By(ledger.Person{Name: "teodor", Full: "Teodor", Role: ledger.Publisher})
	text := []byte("openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\npaths: {}\n")
	_, err := l.Record(ctx, editor, ledger.Submission{Text: text, IfMatch: "0000"})
	require.ErrorContains(t, err, "not as you last read it")
	_, err = l.Record(ctx, ledger.By(ledger.Person{Name: "r", Role: ledger.Reader}), ledger.Submission{Text: text})
	require.Error(t, err)
	apis, err := l.APIs(ctx, teodor)
	require.NoError(t, err)
	require.Empty(t, apis)
	entries, err := l.Journal(ctx, teodor, ledger.Question{}, 0, 10)
	require.NoError(t, err)
	require.Empty(t, entries)
}

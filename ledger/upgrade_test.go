package ledger_test

import (
	"compress/gzip"
	"context"
	"crypto/rand"
	"database/sql"
	"io"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/store"
)

// unpacked is a data folder of an earlier day, as the service left it.
func unpacked(t *testing.T, name string) string {
	t.Helper()
	in, err := os.Open(filepath.Join("testdata", name))
	require.NoError(t, err)
	defer in.Close()
	z, err := gzip.NewReader(in)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "ledger.sqlite")
	out, err := os.Create(path)
	require.NoError(t, err)
	_, err = io.Copy(out, z)
	require.NoError(t, err)
	require.NoError(t, out.Close())
	return path
}

// TestUpgrade opens a data folder that an earlier service left, and finds all of it: what was recorded, where it stands, who may sign in,
// what was announced; and goes on.
func TestUpgrade(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	path := unpacked(t, "ledger-of-2026-11-27.sqlite.gz")
	var s *store.Store
	open := func() *ledger.Ledger {
		var err error
		s, err = store.Open(ctx, path)
		require.NoError(t, err)
		c := clock{at(t, "2026-11-28")}
		return ledger.New(s, ledger.Options{Now: func() time.Time { return c.now }, Random: rand.Reader, Engine: "new"})
	}
	l := open()
	for range 2 { // once upgraded, it opens as any other
		imke, err := l.SignIn(ctx, "imke", "saltmere-demo", "192.0.2.1")
		require.NoError(t, err)
		people, err := l.People(ctx, imke)
		require.NoError(t, err)
		require.Equal(t, []ledger.Person{
			{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin},
			{Name: "jonas", Full: "Jonas Wick", Role: ledger.Reviewer},
			{Name: "sanna", Full: "Sanna Varga", Role: ledger.Publisher},
			{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher},
		}, people, "who could write everywhere still can")
		teams, err := l.Teams(ctx, imke)
		require.NoError(t, err)
		require.Len(t, teams, 3)
		require.Equal(t, []string{"berths", "dues"}, teams[2].APIs)
		v, err := l.VerifyJournal(ctx, imke, "49:8e47bf9d1ca4ebee01efc790ad826458ff9fa885748db4486c246eca22fbaaa5")
		require.NoError(t, err)
		require.Empty(t, v.Why, "no entry was touched, and every record is as the journal says")
		require.Equal(t, 17, v.Contents)

		apis, err := l.APIs(ctx, imke)
		require.NoError(t, err)
		states := map[string]ledger.State{}
		notices := 0
		for _, a := range apis {
			notices += len(a.Notices)
			for _, v := range a.Versions {
				states[v.Ref()] = v.State
				files, err := l.Files(ctx, imke, v.Ref())
				require.NoError(t, err)
				require.NotEmpty(t, files[0].Text)
			}
		}
		require.Len(t, states, 17)
		require.Equal(t, 4, notices)
		for ref, want := range map[string]ledger.State{
			"berths@1.0.0": ledger.Unpublished, "berths@1.1.0": ledger.Deprecated, "berths@2.1.0": ledger.Draft, "tides@1.2.0": ledger.Published,
			"tides@9.0.0-rc.1": ledger.Draft, "dues@1.0.0": ledger.Deprecated,
		} {
			require.Equal(t, want, states[ref], ref)
		}
		tides, err := l.API(ctx, ledger.Nobody, "tides")
		require.NoError(t, err)
		require.Equal(t, "Tide Tables", tides.Title, "as its newest published version has it, not as the draft would")
		files, err := l.Files(ctx, imke, "tides@1.0.0")
		require.NoError(t, err)
		require.Greater(t, len(files), 1)
		overlay, err := l.Overlay(ctx, imke, "tides@9.0.0-rc.1")
		require.NoError(t, err)
		require.Equal(t, "draft", overlay.State)
		g, err := l.Guide(ctx, ledger.Nobody, "berths@1.2.0", "berths@2.0.0")
		require.NoError(t, err)
		require.NotNil(t, g.Intro)
		revisions, err := l.Revisions(ctx, imke, "berths@2.1.0")
		require.NoError(t, err)
		require.Len(t, revisions, 1)
		require.NoError(t, s.Close())
		l = open()
	}
	defer s.Close()
	imke, err := l.SignIn(ctx, "imke", "saltmere-demo", "192.0.2.1")
	require.NoError(t, err)
	_, err = l.Record(ctx, imke, ledger.Submission{API: "berths", Text: describe("3.0.0", "a: {type: string}"), Message: "After the upgrade."})
	require.NoError(t, err)
	_, err = l.Publish(ctx, imke, "berths@3.0.0", nil)
	require.NoError(t, err)
	_, err = l.Publish(ctx, imke, "berths@1.0.0", nil)
	require.NoError(t, err)
	v, err := l.VerifyJournal(ctx, imke, "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)

	// What the journal did not say before is entered once: from then on it tells, here too, whose an API is made behind its back.
	for range 2 {
		require.NoError(t, l.TakeOver(ctx))
	}
	taken, err := l.VerifyJournal(ctx, imke, v.Head)
	require.NoError(t, err)
	require.True(t, taken.Intact, taken.Why)
	require.Equal(t, v.Entries+2, taken.Entries)
	behind, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	defer behind.Close()
	_, err = behind.Exec(`UPDATE apis SET team = 'Navigation' WHERE name = 'berths'`)
	require.NoError(t, err)
	require.NoError(t, l.TakeOver(ctx))
	v, err = l.VerifyJournal(ctx, imke, taken.Head)
	require.NoError(t, err)
	require.Equal(t, "berths is kept by Navigation, and the journal says Quayside", v.Why)
}

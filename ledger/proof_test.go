package ledger_test

import (
	"bytes"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/proof"
	"oldledger/ledger"
)

// TestProofs proves from outside what a ledger did: a version that was published, that the journal goes on from a checkpoint, and an
// export, in which what somebody may not know is a hash.
func TestProofs(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	_, err := l.Record(ctx, as("editor.n"), ledger.Submission{API: "secret-lights", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	kept, err := l.Checkpoint(ctx, as("vik"), 0)
	require.NoError(t, err)
	old, err := proof.Open(kept.Signed, kept.Key)
	require.NoError(t, err)
	require.NoError(t, l.AddTeam(ctx, as("imke"), "Ferries"))

	is, err := l.Proof(ctx, ledger.Nobody, "berths@1.1.0")
	require.NoError(t, err)
	c, err := is.Check()
	require.NoError(t, err)
	require.Equal(t, old.Size+1, c.Size)
	require.Equal(t, []string{"lead.q", "version.published", "berths@1.1.0"}, []string{is.Entry.Actor, is.Entry.Act, is.Entry.Subject})
	v, err := l.Version(ctx, as("imke"), "berths@1.1.0")
	require.NoError(t, err)
	require.Contains(t, is.Entry.Detail, v.Digest)
	for ref, why := range map[string]ledger.Fault{"berths@1.2.0": ledger.NotFound, "secret-lights@1.0.0": ledger.NotFound, "none": ledger.NotFound} {
		_, err := l.Proof(ctx, ledger.Nobody, ref)
		require.Equal(t, why, fault(err), ref)
	}
	_, err = l.Proof(ctx, as("lead.q"), "berths@1.2.0")
	require.ErrorContains(t, err, "was not published yet")

	now, err := l.Checkpoint(ctx, as("vik"), old.Size)
	require.NoError(t, err)
	grown, err := proof.Open(now.Signed, now.Key)
	require.NoError(t, err)
	require.NoError(t, proof.CheckGrown(old, grown, now.Grown))
	_, err = l.Checkpoint(ctx, as("vik"), now.Size+1)
	require.Equal(t, ledger.Conflict, fault(err))
	_, err = l.Checkpoint(ctx, ledger.Nobody, 0)
	require.Equal(t, ledger.SignInFirst, fault(err))

	told := map[string]int64{}
	for _, name := range []string{"imke", "ebba", "reader.q", "reader.n", "vik"} {
		var b bytes.Buffer
		require.NoError(t, l.Export(ctx, as(name), &b))
		found, err := proof.CheckExport(bytes.NewReader(b.Bytes()), kept.Signed)
		require.NoError(t, err, name)
		require.Equal(t, now.Size, found.Checkpoint.Size)
		told[name] = found.Told
		knows := name == "imke" || name == "ebba" || name == "reader.n"
		require.Equal(t, knows, strings.Contains(b.String(), "secret-lights"), name)
	}
	require.Equal(t, told["imke"], now.Size)
	require.Equal(t, told["ebba"], now.Size)
	require.Equal(t, map[string]int64{"imke": now.Size, "ebba": now.Size, "reader.q": 6, "reader.n": 2, "vik": 0}, told)
	require.Equal(t, ledger.SignInFirst, fault(l.Export(ctx, ledger.Nobody, &bytes.Buffer{})))
}

// TestVerifyTree changes the tree behind the ledger's back.
func TestVerifyTree(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	for statements, why := range map[string]string{
		`UPDATE tree_hashes SET hash = (SELECT hash FROM tree_hashes WHERE id = 0) WHERE id = 1`: "the tree of the journal is not that of entry 2",
		`DELETE FROM tree_hashes WHERE id = 0`:                                                   "the tree of the journal is not that of entry 1",
		`DELETE FROM tree_hashes WHERE id = (SELECT max(id) FROM tree_hashes)`:                   "the tree of the journal has",
		`INSERT INTO tree_hashes SELECT max(id) + 1, hash FROM tree_hashes`:                      "the tree of the journal has",
		`UPDATE secrets SET value = 'aa' WHERE name = 'journal salt'`:                            "the tree of the journal is not that of entry 1",
	} {
		s, l, behind := openFile(t)
		record(t, l, "1.0.0", "a: {type: string}")
		publish(t, l, "berths@1.0.0")
		record(t, l, "1.1.0", "a: {type: string}, b: {type: string}")
		v, err := l.VerifyJournal(ctx, teodor, "")
		require.NoError(t, err)
		require.Empty(t, v.Why)
		require.NoError(t, behind(statements))
		fresh := ledger.New(s, ledger.Options{Now: time.Now})
		v, err = fresh.VerifyJournal(ctx, teodor, "")
		require.NoError(t, err)
		require.Contains(t, v.Why, why, statements)
	}
}

package proof_test

import (
	"bytes"
	"crypto/rand"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/mod/sumdb/note"
	"golang.org/x/mod/sumdb/tlog"

	"oldledger/core/proof"
)

// journal is one in memory, of so many entries.
type journal struct {
	t       *testing.T
	signer  note.Signer
	key     string
	entries []proof.Entry
	hashes  []tlog.Hash
}

func (j *journal) ReadHashes(ids []int64) ([]tlog.Hash, error) {
	var all []tlog.Hash
	for _, id := range ids {
		all = append(all, j.hashes[id])
	}
	return all, nil
}

func newJournal(t *testing.T, size int) *journal {
	t.Helper()
	skey, vkey, err := note.GenerateKey(rand.Reader, "test")
	require.NoError(t, err)
	j := &journal{t: t, key: vkey}
	j.signer, err = note.NewSigner(skey)
	require.NoError(t, err)
	for i := range int64(size) {
		e := proof.Entry{
			Seq: i + 1, At: "2026-11-20T09:00:00Z", Actor: "teodor", Act: "version.published", Subject: fmt.Sprintf("berths@1.%d.0", i),
			Detail: `{"digest":"<&>"}`, Salt: proof.Salt([]byte("secret"), i+1),
		}
		added, err := tlog.StoredHashesForRecordHash(i, e.Leaf(), j)
		require.NoError(t, err)
		j.entries, j.hashes = append(j.entries, e), append(j.hashes, added...)
	}
	return j
}

func (j *journal) checkpoint(size int64) string {
	root, err := tlog.TreeHash(size, j)
	require.NoError(j.t, err)
	text, err := proof.Checkpoint{Size: size, Root: root}.Sign(j.signer)
	require.NoError(j.t, err)
	return text
}

// export writes the journal; what hides tells stands there as its leaf.
func (j *journal) export(hides func(int) bool) string {
	var b bytes.Buffer
	out := json.NewEncoder(&b)
	require.NoError(j.t, out.Encode(proof.Head{Kind: proof.ExportKind, Key: j.key, Checkpoint: j.checkpoint(int64(len(j.entries)))}))
	for i, e := range j.entries {
		line := proof.Line{Entry: &e}
		if hides(i) {
			line = proof.Line{Leaf: e.Leaf().String()}
		}
		require.NoError(j.t, out.Encode(line))
	}
	return b.String()
}

// TestExport checks journals of all small sizes, with some entries hidden, and against checkpoints of before.
func TestExport(t *testing.T) {
	t.Parallel()
	for size := range 40 {
		j := newJournal(t, size)
		var kept []string
		for old := range size + 1 {
			kept = append(kept, j.checkpoint(int64(old)))
		}
		found, err := proof.CheckExport(strings.NewReader(j.export(func(i int) bool { return i%3 == 1 })), kept...)
		require.NoError(t, err, size)
		require.Equal(t, int64(size), found.Checkpoint.Size)
		require.Equal(t, int64(size)-int64((size+1)/3), found.Told)
	}
}

// TestExportForged changes an export in every way that would help somebody, and finds out each.
func TestExportForged(t *testing.T) {
	t.Parallel()
	j := newJournal(t, 9)
	good := j.export(func(i int) bool { return i == 4 })
	lines := strings.SplitAfter(good, "\n")
	other := newJournal(t, 9)
	join := func(parts ...[]string) string {
		var b strings.Builder
		for _, p := range parts {
			b.WriteString(strings.Join(p, ""))
		}
		return b.String()
	}
	for name, forged := range map[string]string{
		"a word":               strings.Replace(good, "berths@1.3.0", "berths@9.3.0", 1),
		"a name":               strings.Replace(good, "teodor", "sanna", 1),
		"a salt":               strings.Replace(good, j.entries[2].Salt, j.entries[3].Salt, 1),
		"one left out":         join(lines[:4], lines[5:]),
		"the last left out":    join(lines[:9]),
		"two changed places":   join(lines[:3], lines[4:5], lines[3:4], lines[5:]),
		"one put in":           join(lines, lines[9:10]),
		"a leaf for another":   join(lines[:2], lines[5:6], lines[3:]),
		"another's key":        strings.Replace(good, j.key, other.key, 1),
		"another's checkpoint": strings.Replace(other.export(func(int) bool { return false }), other.key, j.key, 1),
		"not signed":           strings.Replace(good, "test ", "tess ", 1),
		"no leaf":              strings.Replace(good, j.entries[4].Leaf().String(), "AAAA", 1),
		"no export":            "{}",
		"nothing":              "",
		"half a line":          good[:len(good)-20],
	} {
		require.NotEqual(t, good, forged, name)
		_, err := proof.CheckExport(strings.NewReader(forged))
		require.Error(t, err, name)
	}
	anew := newJournal(t, 5)
	anew.key, anew.signer = j.key, j.signer
	anew.entries[0].Actor = "sanna"
	kept := j.checkpoint(4)
	_, err := proof.CheckExport(strings.NewReader(good), kept)
	require.NoError(t, err)
	forged := newJournal(t, 0)
	forged.key, forged.signer = j.key, j.signer
	for i, e := range j.entries {
		if i == 1 {
			e.Actor = "sanna"
		}
		added, err := tlog.StoredHashesForRecordHash(int64(i), e.Leaf(), forged)
		require.NoError(t, err)
		forged.entries, forged.hashes = append(forged.entries, e), append(forged.hashes, added...)
	}
	all := func(int) bool { return false }
	_, err = proof.CheckExport(strings.NewReader(forged.export(all)))
	require.NoError(t, err, "by itself it holds")
	_, err = proof.CheckExport(strings.NewReader(forged.export(all)), kept)
	require.ErrorContains(t, err, "written anew")
	_, err = proof.CheckExport(strings.NewReader(good), j.checkpoint(9), kept)
	require.NoError(t, err)
	short := newJournal(t, 3)
	short.key, short.signer = j.key, j.signer
	_, err = proof.CheckExport(strings.NewReader(short.export(all)), kept)
	require.ErrorContains(t, err, "its end was cut off")
}

// TestInclusion proves each entry, and no other one in its place; and that a journal goes on from each of its checkpoints.
func TestInclusion(t *testing.T) {
	t.Parallel()
	j := newJournal(t, 21)
	for i, e := range j.entries {
		path, err := tlog.ProveRecord(21, int64(i), j)
		require.NoError(t, err)
		is := proof.Inclusion{Kind: proof.InclusionKind, Key: j.key, Checkpoint: j.checkpoint(21), Entry: e, Proof: proof.Texts(path)}
		_, err = is.Check()
		require.NoError(t, err)
		for _, forge := range []func(*proof.Inclusion){
			func(x *proof.Inclusion) { x.Entry.Subject = "berths@9.9.9" },
			func(x *proof.Inclusion) { x.Entry.Seq++ },
			func(x *proof.Inclusion) { x.Entry.Seq = 0 },
			func(x *proof.Inclusion) { x.Entry.Seq = 99 },
			func(x *proof.Inclusion) { x.Proof = x.Proof[1:] },
			func(x *proof.Inclusion) { x.Proof = append([]string{"x"}, x.Proof...) },
			func(x *proof.Inclusion) { x.Key = "none" },
			func(x *proof.Inclusion) { x.Checkpoint = strings.Replace(x.Checkpoint, "21", "22", 1) },
		} {
			forged := is
			forge(&forged)
			_, err = forged.Check()
			require.Error(t, err)
		}
	}
	now, err := proof.Open(j.checkpoint(21), j.key)
	require.NoError(t, err)
	for size := int64(1); size <= 21; size++ {
		old, err := proof.Open(j.checkpoint(size), j.key)
		require.NoError(t, err)
		path, err := tlog.ProveTree(21, size, j)
		require.NoError(t, err)
		require.NoError(t, proof.CheckGrown(old, now, proof.Texts(path)))
		old.Root[0] ^= 1
		require.ErrorContains(t, proof.CheckGrown(old, now, proof.Texts(path)), "written anew")
		require.Error(t, proof.CheckGrown(now, old, nil))
	}
}

// FuzzCheckExport reads what anybody may hand in.
func FuzzCheckExport(f *testing.F) {
	f.Add("{}")
	f.Add(`{"kind":"oldledger journal","key":"test+0+AA==","checkpoint":"oldledger journal\n1\nAA==\n\n— x"}` + "\n{\"leaf\":\"AA==\"}")
	f.Fuzz(func(t *testing.T, text string) {
		_, err := proof.CheckExport(strings.NewReader(text), text)
		require.Error(t, err, "nobody can sign")
	})
}

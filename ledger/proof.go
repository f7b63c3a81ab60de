package ledger

import (
	"bytes"
	"context"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"golang.org/x/mod/sumdb/note"
	"golang.org/x/mod/sumdb/tlog"

	"oldledger/core/proof"
	"oldledger/ledger/records"
)

// Beside the chain of hashes, which shows to whoever reads all of the journal that nothing was changed, its entries are the leaves of a
// tree (RFC 9162): whoever keeps its root proves with a few hashes that the journal goes on from it, or that an entry stands in it. The
// root is signed with a key that the ledger makes once.

// The names of what is made once.
const (
	signerSecret = "journal signer"
	saltSecret   = "journal salt"
	keySecret    = "journal key" // the public one
)

// keyName is the name that stands in a signature.
const keyName = "oldledger"

// treeKeys sign the journal and salt its entries.
type treeKeys struct {
	signer, key string
	salt        []byte
}

// keysOf reads the keys of the journal; in a transaction they are made where there are none.
func (w view) keysOf(ctx context.Context) (*treeKeys, error) {
	if known := w.treeKeys.Load(); known != nil {
		return known, nil
	}
	keys := &treeKeys{}
	salt := ""
	for name, to := range map[string]*string{signerSecret: &keys.signer, keySecret: &keys.key, saltSecret: &salt} {
		value, err := w.rows.Secret(ctx, name)
		if isNotFound(err) && w.rows.Writing() {
			return w.makeKeys(ctx)
		}
		if err != nil {
			return nil, fmt.Errorf("the keys of the journal: %w", err)
		}
		*to = value
	}
	var err error
	if keys.salt, err = hex.DecodeString(salt); err != nil {
		return nil, fmt.Errorf("the keys of the journal: %w", err)
	}
	w.treeKeys.Store(keys)
	return keys, nil
}

func (w view) makeKeys(ctx context.Context) (*treeKeys, error) {
	keys := &treeKeys{salt: make([]byte, 32)}
	var err error
	if keys.signer, keys.key, err = note.GenerateKey(w.options.Random, keyName); err != nil {
		return nil, err
	}
	if _, err = io.ReadFull(w.options.Random, keys.salt); err != nil {
		return nil, err
	}
	for name, value := range map[string]string{signerSecret: keys.signer, keySecret: keys.key, saltSecret: hex.EncodeToString(keys.salt)} {
		if err := w.rows.AddSecret(ctx, name, value); err != nil {
			return nil, err
		}
	}
	return keys, nil // they are known once the transaction has ended well
}

// grow adds the leaves of all entries up to seq that have none yet: of an act, its own; of a journal that had no tree, all.
func (w view) grow(ctx context.Context, seq int64) error {
	keys, err := w.keysOf(ctx)
	if err != nil {
		return err
	}
	count, err := w.rows.TreeHashCount(ctx)
	if err != nil {
		return err
	}
	size := leavesOf(count)
	for size < seq {
		entries, err := w.rows.Entries(ctx, size, 500)
		if err != nil {
			return err
		}
		if len(entries) == 0 {
			return fmt.Errorf("the journal has no entry %d", size+1)
		}
		for _, e := range entries[:min(int64(len(entries)), seq-size)] {
			hashes, err := tlog.StoredHashesForRecordHash(size, proofEntry(e, keys.salt).Leaf(), treeReader{ctx, w.rows})
			if err != nil {
				return err
			}
			for i, h := range hashes {
				if err := w.rows.AddTreeHash(ctx, records.TreeHash{ID: count + int64(i), Hash: h[:]}); err != nil {
					return err
				}
			}
			count += int64(len(hashes))
			size++
		}
	}
	return nil
}

// leavesOf is how many leaves a tree of so many stored hashes has.
func leavesOf(count int64) int64 {
	low, high := int64(0), count
	for low < high {
		if middle := (low + high + 1) / 2; tlog.StoredHashCount(middle) <= count {
			low = middle
		} else {
			high = middle - 1
		}
	}
	return low
}

// treeReader reads hashes for tlog.
type treeReader struct {
	ctx  context.Context
	rows records.Rows
}

// ReadHashes reads the hashes of some numbers.
func (t treeReader) ReadHashes(ids []int64) ([]tlog.Hash, error) {
	rows, err := t.rows.TreeHashes(t.ctx, ids)
	if err != nil {
		return nil, err
	}
	by := map[int64][]byte{}
	for _, row := range rows {
		by[row.ID] = row.Hash
	}
	all := make([]tlog.Hash, len(ids))
	for i, id := range ids {
		if len(by[id]) != tlog.HashSize {
			return nil, fmt.Errorf("the hash %d of the journal's tree is missing", id)
		}
		copy(all[i][:], by[id])
	}
	return all, nil
}

func proofEntry(e records.Entry, salt []byte) proof.Entry {
	return proof.Entry{
		Seq: e.Seq, At: e.At, Actor: e.Actor, Act: e.Act, Subject: e.Subject, Detail: e.Detail, Salt: proof.Salt(salt, e.Seq),
	}
}

// plantTree makes the tree of a journal that has none, or lacks leaves.
func (l *Ledger) plantTree(ctx context.Context) error {
	return l.store.Write(ctx, func(r records.Rows) error {
		last, _, err := r.LastEntry(ctx)
		if err != nil {
			return err
		}
		return l.view(Itself).in(r).grow(ctx, last.Seq)
	})
}

// treeAsWritten finds out whether the tree is that of the entries.
func (l *Ledger) treeAsWritten(ctx context.Context, r records.Rows, size int64) (why string, err error) {
	count, err := r.TreeHashCount(ctx)
	if err != nil || size == 0 {
		return "", err
	}
	if leaves := leavesOf(count); leaves != size || tlog.StoredHashCount(leaves) != count {
		if leaves == 0 {
			return "", nil // a journal of an earlier version of the ledger: its tree is made when the ledger starts
		}
		return fmt.Sprintf("the tree of the journal has %d entries, and the journal %d", leaves, size), nil
	}
	keys, err := l.view(Itself).keysOf(ctx)
	if err != nil {
		return "", err
	}
	var at int64
	reader := treeReader{ctx, r}
	for seq := int64(0); seq < size; {
		entries, err := r.Entries(ctx, seq, 500)
		if err != nil {
			return "", err
		}
		if len(entries) == 0 {
			return fmt.Sprintf("entry %d is missing", seq+1), nil
		}
		for _, e := range entries[:min(int64(len(entries)), size-seq)] {
			should, err := tlog.StoredHashesForRecordHash(seq, proofEntry(e, keys.salt).Leaf(), reader)
			if err != nil {
				return "", err
			}
			ids := make([]int64, len(should))
			for i := range ids {
				ids[i] = at + int64(i)
			}
			is, missing := reader.ReadHashes(ids)
			if missing != nil || !slices.Equal(is, should) {
				return fmt.Sprintf("the tree of the journal is not that of entry %d", e.Seq), nil //nolint:nilerr // that is the finding
			}
			at += int64(len(should))
			seq++
		}
	}
	return "", nil
}

// Checkpoint is the journal as it is now, signed; with what proves that it goes on from an earlier size.
type Checkpoint struct {
	Size   int64
	Signed string // a signed note
	Key    string // with which it can be checked
	Grown  []string
}

// Checkpoint signs the journal as it is now. from is the size of a checkpoint that was kept, 0 for none.
func (l *Ledger) Checkpoint(ctx context.Context, who Actor, from int64) (Checkpoint, error) {
	if err := l.may(who, SeeJournal, ""); err != nil {
		return Checkpoint{}, err
	}
	last, _, err := l.store.Read().LastEntry(ctx)
	if err != nil {
		return Checkpoint{}, err
	}
	if from < 0 || from > last.Seq {
		return Checkpoint{}, refuse(Conflict, "the journal has %d entries; a checkpoint of %d is not one of it, or its end was cut off", last.Seq, from)
	}
	c, err := l.signed(ctx, last.Seq)
	if err != nil || from == 0 || from == last.Seq {
		return c, err
	}
	grown, err := tlog.ProveTree(last.Seq, from, treeReader{ctx, l.store.Read()})
	c.Grown = proof.Texts(grown)
	return c, err
}

// signed signs the journal of a size.
func (l *Ledger) signed(ctx context.Context, size int64) (Checkpoint, error) {
	keys, err := l.view(Itself).keysOf(ctx)
	if err != nil {
		return Checkpoint{}, err
	}
	signer, err := note.NewSigner(keys.signer)
	if err != nil {
		return Checkpoint{}, fmt.Errorf("the keys of the journal: %w", err)
	}
	root, err := tlog.TreeHash(size, treeReader{ctx, l.store.Read()})
	if err != nil {
		return Checkpoint{}, err
	}
	text, err := proof.Checkpoint{Size: size, Root: root}.Sign(signer)
	return Checkpoint{Size: size, Signed: text, Key: keys.key}, err
}

// Proof proves that a version was published as it is: that the entry which says so, with the digest of what it says, stands in the journal.
func (l *Ledger) Proof(ctx context.Context, who Actor, ref string) (proof.Inclusion, error) {
	v, err := l.view(who).readable(ctx, ref)
	if err != nil {
		return proof.Inclusion{}, err
	}
	if v.PublishedAt == "" {
		return proof.Inclusion{}, refuse(Conflict, "%s was not published yet", v.Ref())
	}
	r := l.store.Read()
	entries, err := r.FindActs(ctx, records.Question{API: v.API, Act: "version.published"}, 0, true, 100_000)
	if err != nil {
		return proof.Inclusion{}, err
	}
	i := slices.IndexFunc(entries, func(e records.Entry) bool { return e.Subject == v.Ref() })
	if i < 0 {
		return proof.Inclusion{}, refuse(NotFound, "the journal does not say who published %s", v.Ref())
	}
	last, _, err := r.LastEntry(ctx)
	if err != nil {
		return proof.Inclusion{}, err
	}
	c, err := l.signed(ctx, last.Seq)
	if err != nil {
		return proof.Inclusion{}, err
	}
	path, err := tlog.ProveRecord(c.Size, entries[i].Seq-1, treeReader{ctx, r})
	if err != nil {
		return proof.Inclusion{}, err
	}
	keys, err := l.view(Itself).keysOf(ctx)
	return proof.Inclusion{
		Kind: proof.InclusionKind, Key: c.Key, Checkpoint: c.Signed, Entry: proofEntry(entries[i], keys.salt), Proof: proof.Texts(path),
	}, err
}

// Export writes the journal as lines of JSON (proof.CheckExport): what the actor may know of it, and of the rest the leaves, which tell
// nothing.
func (l *Ledger) Export(ctx context.Context, who Actor, to io.Writer) error {
	if err := l.may(who, SeeJournal, ""); err != nil {
		return err
	}
	c, err := l.Checkpoint(ctx, who, 0)
	if err != nil {
		return err
	}
	keys, err := l.view(Itself).keysOf(ctx)
	if err != nil {
		return err
	}
	write := func(v any) error {
		var line bytes.Buffer
		e := json.NewEncoder(&line)
		e.SetEscapeHTML(false)
		if err := e.Encode(v); err != nil {
			return err
		}
		_, err := to.Write(line.Bytes())
		return err
	}
	if err := write(proof.Head{Kind: proof.ExportKind, Key: c.Key, Checkpoint: c.Signed}); err != nil {
		return err
	}
	r := l.store.Read()
	for seq := int64(0); seq < c.Size; {
		const page = 500
		all, err := r.Entries(ctx, seq, page)
		if err != nil {
			return err
		}
		told, err := l.entries(ctx, who, Question{}, seq, false, page)
		if err != nil {
			return err
		}
		may := map[int64]bool{}
		for _, e := range told {
			may[e.Seq] = true
		}
		for _, row := range all[:min(int64(len(all)), c.Size-seq)] {
			e := proofEntry(row, keys.salt)
			line := proof.Line{Leaf: e.Leaf().String()}
			if may[e.Seq] {
				line = proof.Line{Entry: &e}
			}
			if err := write(line); err != nil {
				return err
			}
		}
		seq += int64(len(all))
	}
	return nil
}

// Package proof lets whoever keeps a few lines of a journal prove, without the service that wrote it, that nothing in it was changed, left
// out or put in since.
//
// A journal is a Merkle tree over its entries (RFC 9162, section 2.1), as golang.org/x/mod/sumdb/tlog has it. A checkpoint is its size and
// its root, signed as a note (golang.org/x/mod/sumdb/note). What goes in is text: an exported journal, the proof of one entry, a
// checkpoint; what comes out is whether they belong together.
package proof

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"golang.org/x/mod/sumdb/note"
	"golang.org/x/mod/sumdb/tlog"
)

// Entry is one entry of a journal. Its salt keeps whoever has nothing but its leaf from guessing what it says.
type Entry struct {
	Seq     int64  `json:"seq"` // from 1
	At      string `json:"at"`
	Actor   string `json:"actor"`
	Act     string `json:"act"`
	Subject string `json:"subject"`
	Detail  string `json:"detail"` // the text of a JSON object, as it was written
	Salt    string `json:"salt"`   // 32 hexadecimal digits
}

// Leaf is what stands for the entry in the tree: the hash of its fields as a JSON list, the salt first.
func (e Entry) Leaf() tlog.Hash {
	text, err := json.Marshal([]any{e.Salt, e.Seq, e.At, e.Actor, e.Act, e.Subject, e.Detail})
	if err != nil {
		panic(err) // numbers and strings always marshal
	}
	return tlog.RecordHash(text)
}

// Salt is that of an entry, made of a secret of the journal.
func Salt(secret []byte, seq int64) string {
	mac := hmac.New(sha256.New, secret)
	fmt.Fprintf(mac, "entry %d", seq)
	return hex.EncodeToString(mac.Sum(nil)[:16])
}

// Checkpoint is a journal as it was when it had so many entries.
type Checkpoint struct {
	Size int64
	Root tlog.Hash
}

// origin begins a checkpoint: a signature over one is none over anything else.
const origin = "oldledger journal"

// Sign is the checkpoint as a note: origin, size and root in base64, a line each, an empty line, and the signature.
func (c Checkpoint) Sign(by note.Signer) (string, error) {
	text, err := note.Sign(&note.Note{Text: fmt.Sprintf("%s\n%d\n%s\n", origin, c.Size, c.Root)}, by)
	return string(text), err
}

// Open reads a checkpoint that Sign wrote. key is the verifier's (note.NewVerifier); what it did not sign is an error.
func Open(signed, key string) (Checkpoint, error) {
	var c Checkpoint
	v, err := note.NewVerifier(strings.TrimSpace(key))
	if err != nil {
		return c, fmt.Errorf("the key cannot be read: %w", err)
	}
	n, err := note.Open([]byte(signed), note.VerifierList(v))
	if err != nil {
		return c, fmt.Errorf("the checkpoint is not signed by %s: %w", v.Name(), err)
	}
	lines := strings.Split(n.Text, "\n")
	if len(lines) != 4 || lines[0] != origin || lines[3] != "" {
		return c, fmt.Errorf("this is no checkpoint of a journal; one has three lines: %s, a number of entries, a root", origin)
	}
	if c.Size, err = strconv.ParseInt(lines[1], 10, 64); err != nil || c.Size < 0 {
		return c, fmt.Errorf("the checkpoint has %q entries", lines[1])
	}
	if c.Root, err = tlog.ParseHash(lines[2]); err != nil {
		return c, fmt.Errorf("the root of the checkpoint cannot be read: %w", err)
	}
	return c, nil
}

// Inclusion is the proof that an entry stands in a journal.
type Inclusion struct {
	Kind       string   `json:"kind"` // InclusionKind
	Key        string   `json:"key"`
	Checkpoint string   `json:"checkpoint"`
	Entry      Entry    `json:"entry"`
	Proof      []string `json:"proof"` // hashes in base64, from the leaf up
}

// The kinds of files.
const (
	InclusionKind = "oldledger proof"
	ExportKind    = "oldledger journal"
)

// Check holds the entry against the checkpoint.
func (i Inclusion) Check() (Checkpoint, error) {
	c, err := Open(i.Checkpoint, i.Key)
	if err != nil {
		return c, err
	}
	path, err := Hashes(i.Proof)
	if err != nil {
		return c, err
	}
	if i.Entry.Seq < 1 || i.Entry.Seq > c.Size {
		return c, fmt.Errorf("the checkpoint has %d entries, and this would be entry %d", c.Size, i.Entry.Seq)
	}
	if err := tlog.CheckRecord(path, c.Size, c.Root, i.Entry.Seq-1, i.Entry.Leaf()); err != nil {
		return c, fmt.Errorf("entry %d is not in the journal of the checkpoint: %w", i.Entry.Seq, err)
	}
	return c, nil
}

// CheckGrown proves that a journal of one checkpoint goes on as that of a later one: hashes are those of tlog.ProveTree, in base64.
func CheckGrown(old, now Checkpoint, hashes []string) error {
	path, err := Hashes(hashes)
	if err != nil {
		return err
	}
	switch {
	case now.Size < old.Size:
		return fmt.Errorf("the journal had %d entries and has %d: its end was cut off", old.Size, now.Size)
	case now.Size == old.Size && now.Root != old.Root,
		now.Size > old.Size && old.Size > 0 && tlog.CheckTree(path, now.Size, now.Root, old.Size, old.Root) != nil:
		return fmt.Errorf("the first %d entries are not those of the checkpoint that was kept: the journal was written anew", old.Size)
	}
	return nil
}

// Hashes reads hashes in base64.
func Hashes(texts []string) ([]tlog.Hash, error) {
	all := make([]tlog.Hash, len(texts))
	for i, text := range texts {
		raw, err := base64.StdEncoding.DecodeString(text)
		if err != nil || len(raw) != len(all[i]) {
			return nil, fmt.Errorf("%q is no hash", text)
		}
		copy(all[i][:], raw)
	}
	return all, nil
}

// Texts writes hashes in base64.
func Texts(hashes []tlog.Hash) []string {
	all := make([]string, len(hashes))
	for i, h := range hashes {
		all[i] = h.String()
	}
	return all
}

// Head is the first line of an exported journal.
type Head struct {
	Kind       string `json:"kind"` // ExportKind
	Key        string `json:"key"`
	Checkpoint string `json:"checkpoint"`
}

// Line is an entry of an exported journal: what it says or, for whoever may not know that, its leaf alone.
type Line struct {
	*Entry
	Leaf string `json:"leaf,omitempty"` // in base64
}

// ErrNoExport is returned for what is no exported journal at all.
var ErrNoExport = fmt.Errorf("this is no exported journal; one begins with {\"kind\":%q", ExportKind)

// Export is what an exported journal was found to be.
type Export struct {
	Checkpoint Checkpoint
	Key        string
	Told       int64 // how many of its entries say what was done; the others are leaves alone
}

// CheckExport reads an exported journal, one JSON object a line, and holds every entry against its checkpoint. kept are checkpoints of
// before (signed by the same key), to which the journal must lead.
func CheckExport(r io.Reader, kept ...string) (Export, error) {
	lines := json.NewDecoder(io.LimitReader(r, 1<<40))
	var head Head
	if err := lines.Decode(&head); err != nil || head.Kind != ExportKind {
		return Export{}, ErrNoExport
	}
	found := Export{Key: head.Key}
	var err error
	if found.Checkpoint, err = Open(head.Checkpoint, head.Key); err != nil {
		return found, err
	}
	olds := map[int64]Checkpoint{}
	for _, text := range kept {
		old, err := Open(text, head.Key)
		if err != nil {
			return found, fmt.Errorf("the checkpoint that was kept: %w", err)
		}
		if old.Size > found.Checkpoint.Size {
			return found, CheckGrown(old, found.Checkpoint, nil)
		}
		olds[old.Size] = old
	}
	t := &tree{}
	for {
		if old, there := olds[t.size]; there {
			if root, err := t.root(); err != nil || root != old.Root {
				return found, fmt.Errorf("the first %d entries are not those of the checkpoint that was kept: the journal was written anew", old.Size)
			}
		}
		var line Line
		err := lines.Decode(&line)
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return found, fmt.Errorf("entry %d cannot be read: %w", t.size+1, err)
		}
		leaf, err := line.leaf(t.size + 1)
		if err != nil {
			return found, err
		}
		if line.Entry != nil {
			found.Told++
		}
		if err := t.add(leaf); err != nil {
			return found, err
		}
	}
	if t.size != found.Checkpoint.Size {
		return found, fmt.Errorf("the checkpoint has %d entries, and the file %d", found.Checkpoint.Size, t.size)
	}
	root, err := t.root()
	if err == nil && root != found.Checkpoint.Root {
		err = fmt.Errorf("the entries are not those that the checkpoint was signed for: one was changed after the journal was exported, or stands in another place")
	}
	return found, err
}

func (l Line) leaf(seq int64) (tlog.Hash, error) {
	if l.Entry != nil {
		if l.Entry.Seq != seq {
			return tlog.Hash{}, fmt.Errorf("entry %d stands where entry %d would", l.Entry.Seq, seq)
		}
		return l.Entry.Leaf(), nil
	}
	all, err := Hashes([]string{l.Leaf})
	if err != nil {
		return tlog.Hash{}, fmt.Errorf("entry %d: %w", seq, err)
	}
	return all[0], nil
}

// tree is a tree that grows in memory.
type tree struct {
	size   int64
	hashes []tlog.Hash // as tlog.StoredHashes numbers them
}

// ReadHashes is for tlog.
func (t *tree) ReadHashes(indexes []int64) ([]tlog.Hash, error) {
	all := make([]tlog.Hash, len(indexes))
	for i, at := range indexes {
		if at >= int64(len(t.hashes)) {
			return nil, fmt.Errorf("there is no hash %d", at)
		}
		all[i] = t.hashes[at]
	}
	return all, nil
}

func (t *tree) add(leaf tlog.Hash) error {
	hashes, err := tlog.StoredHashesForRecordHash(t.size, leaf, t)
	t.hashes = append(t.hashes, hashes...)
	t.size++
	return err
}

func (t *tree) root() (tlog.Hash, error) { return tlog.TreeHash(t.size, t) }

package cli

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"

	"oldledger/client"
	"oldledger/core/proof"
)

// keepCheckpoint writes the journal's signed checkpoint to a file; where that has an earlier one, the journal must go on from it.
func (a *app) keepCheckpoint(ctx context.Context, file string) error {
	kept, err := os.ReadFile(a.path(file))
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	now, err := c.Checkpoint(ctx, 0)
	if err != nil {
		return refused(err)
	}
	checkpoint, err := proof.Open(now.Checkpoint, now.Key)
	if err != nil {
		return err
	}
	said := ""
	if len(kept) > 0 {
		old, err := openKept(kept, now.Key)
		if err != nil {
			return &inputError{fmt.Errorf("%s: %w", file, err)}
		}
		if old.Size <= now.Size {
			if now, err = c.Checkpoint(ctx, old.Size); err != nil {
				return refused(err)
			}
			if checkpoint, err = proof.Open(now.Checkpoint, now.Key); err != nil {
				return err
			}
		}
		if err := proof.CheckGrown(old, checkpoint, now.Proof); err != nil {
			return a.holdsNot(err)
		}
		said = fmt.Sprintf(", and goes on from the %d that %s had", old.Size, file)
	}
	if err := os.WriteFile(a.path(file), []byte(keptCheckpoint(now.Checkpoint, now.Key)), 0o600); err != nil {
		return err
	}
	return printf(a, "the journal has %d entries%s; wrote its checkpoint to %s\n", checkpoint.Size, said, file)
}

// keptCheckpoint is a checkpoint as it is kept: behind the key that signed it.
func keptCheckpoint(signed, key string) string { return key + "\n" + signed }

// openKept reads a checkpoint that was kept. It must be signed by the key that the ledger has now.
func openKept(text []byte, key string) (proof.Checkpoint, error) {
	was, signed, _ := bytes.Cut(text, []byte("\n"))
	if string(was) != key {
		return proof.Checkpoint{}, errors.New("it was signed with another key than the ledger has: either this is no checkpoint of it, or its records were made anew")
	}
	return proof.Open(string(signed), key)
}

// holdsNot says that a journal does not hold; the answer is "no".
func (a *app) holdsNot(why error) error {
	return errors.Join(printf(a, "the journal does not hold: %v\n", why), errNo)
}

// exportJournal writes the journal to a file that can be checked without the service.
func (a *app) exportJournal(ctx context.Context, file string) error {
	c, err := a.client()
	if err != nil {
		return err
	}
	folder := os.TempDir()
	if file != "-" {
		folder = filepath.Dir(a.path(file))
	}
	taken, err := os.CreateTemp(folder, ".journal-*") // it is checked before it is there under its name
	if err != nil {
		return err
	}
	defer os.Remove(taken.Name())
	defer taken.Close()
	if err := c.ExportJournal(ctx, taken); err != nil {
		return refused(err)
	}
	if _, err := taken.Seek(0, io.SeekStart); err != nil {
		return err
	}
	found, err := proof.CheckExport(taken)
	if err != nil {
		return a.holdsNot(err)
	}
	if file == "-" {
		if _, err := taken.Seek(0, io.SeekStart); err != nil {
			return err
		}
		_, err := io.Copy(a.Out, taken)
		return err
	}
	if err := errors.Join(taken.Close(), os.Rename(taken.Name(), a.path(file))); err != nil {
		return err
	}
	return printf(a, "%s; wrote them to %s\n", entriesTold(found), file)
}

func entriesTold(x proof.Export) string {
	return fmt.Sprintf("%d entries, %d of them told, %d as hashes alone", x.Checkpoint.Size, x.Told, x.Checkpoint.Size-x.Told)
}

// prove prints what proves that a version was published as it is.
func (a *app) prove(ctx context.Context, ref string) error {
	ask := func(c *client.Client) (proof.Inclusion, error) {
		is, err := c.Proof(ctx, ref)
		if err == nil {
			_, err = is.Check()
		}
		return is, err
	}
	return answer(a, "json", ask, nil)
}

// verifyFile checks an exported journal, or the proof of a version, without the service. kept is a file with a checkpoint that the journal
// must lead to, "" for none.
func (a *app) verifyFile(file, kept string) error {
	text, err := os.Open(a.path(file))
	if err != nil {
		return &inputError{err}
	}
	defer text.Close()
	var is proof.Inclusion
	values := json.NewDecoder(text)
	if values.Decode(&is) == nil && is.Kind == proof.InclusionKind && !values.More() {
		c, err := is.Check()
		if err != nil {
			return a.holdsNot(err)
		}
		return printf(a, "%s %s, by %s at %s: entry %d of a journal of %d, signed with %s\n", is.Entry.Act, is.Entry.Subject, is.Entry.Actor, is.Entry.At,
			is.Entry.Seq, c.Size, is.Key)
	}
	var before []string
	if kept != "" {
		was, err := os.ReadFile(a.path(kept))
		if err != nil {
			return &inputError{err}
		}
		key, signed, _ := bytes.Cut(was, []byte("\n"))
		if _, err := proof.Open(string(signed), string(key)); err != nil {
			return &inputError{fmt.Errorf("%s: %w", kept, err)}
		}
		before = append(before, string(signed))
	}
	if _, err := text.Seek(0, io.SeekStart); err != nil {
		return &inputError{err}
	}
	found, err := proof.CheckExport(text, before...)
	if errors.Is(err, proof.ErrNoExport) {
		return &inputError{fmt.Errorf("%s: %w", file, err)}
	}
	if err != nil {
		return a.holdsNot(err)
	}
	lead := ""
	if kept != "" {
		lead = ", and go on from " + kept
	}
	return printf(a, "%s, all as they were written%s; signed with %s\n", entriesTold(found), lead, found.Key)
}

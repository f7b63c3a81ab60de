package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"

	"oldledger/ledger/records"
)

// Entry is one act in the journal. Its hash covers everything in it and the hash before it.
type Entry struct {
	Seq      int64
	At       string
	Actor    string // "" for the ledger itself
	Act      string
	Subject  string
	Detail   json.RawMessage
	Previous string
	Hash     string
}

// appendJournal appends an act to the journal, in the transaction that carries it out.
func (w view) appendJournal(ctx context.Context, act, subject string, detail map[string]string) error {
	last, ok, err := w.rows.LastEntry(ctx)
	if err != nil {
		return err
	}
	text, err := json.Marshal(detail) // a map's keys are sorted: the same act gives the same text
	if err != nil {
		return err
	}
	e := records.Entry{Seq: 1, At: w.stamp(), Actor: w.who.Name, Act: act, Subject: subject, Detail: string(text)}
	if ok {
		e.Seq, e.Previous = last.Seq+1, last.Hash
	}
	e.Hash = entryHash(e)
	return w.rows.AddEntry(ctx, e)
}

// entryHash is SHA-256 over the entry's fields as a JSON list, so that no two entries read the same.
func entryHash(e records.Entry) string {
	text, err := json.Marshal([]any{e.Seq, e.At, e.Actor, e.Act, e.Subject, e.Detail, e.Previous})
	if err != nil {
		panic(err) // numbers and strings always marshal
	}
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

// Journal lists entries from behind after.
func (l *Ledger) Journal(ctx context.Context, who Actor, after int64, limit int) ([]Entry, error) {
	if err := l.may(who, ReadInside, ""); err != nil {
		return nil, err
	}
	rows, err := l.store.Read().Entries(ctx, after, limit)
	return entriesOf(rows), err
}

// Newest lists entries backwards from before the entry before, from the last one where it is 0.
func (l *Ledger) Newest(ctx context.Context, who Actor, before int64, limit int) ([]Entry, error) {
	if err := l.may(who, ReadInside, ""); err != nil {
		return nil, err
	}
	rows, err := l.store.Read().EntriesBefore(ctx, before, limit)
	return entriesOf(rows), err
}

func entriesOf(rows []records.Entry) []Entry {
	entries := make([]Entry, len(rows))
	for i, e := range rows {
		entries[i] = Entry{e.Seq, e.At, e.Actor, e.Act, e.Subject, json.RawMessage(e.Detail), e.Previous, e.Hash}
	}
	return entries
}

package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"regexp"
	"slices"
	"time"

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
	if err := w.rows.AddEntry(ctx, e); err != nil {
		return err
	}
	return w.grow(ctx, e.Seq)
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

// Question is which acts somebody asks for; what is "" asks for all.
type Question struct {
	Actor string
	API   string
	Act   string // "version.published", or "version" for all that is done with versions
	From  string // a day or a time
	Until string // the last day, or a time before which
}

// Journal lists the entries that a question asks for from behind the entry after.
func (l *Ledger) Journal(ctx context.Context, who Actor, asked Question, after int64, limit int) ([]Entry, error) {
	return l.entries(ctx, who, asked, after, false, limit)
}

// Newest lists them backwards from before the entry before, from the last one where it is 0.
func (l *Ledger) Newest(ctx context.Context, who Actor, asked Question, before int64, limit int) ([]Entry, error) {
	return l.entries(ctx, who, asked, before, true, limit)
}

func (l *Ledger) entries(ctx context.Context, who Actor, asked Question, seq int64, newest bool, limit int) ([]Entry, error) {
	if err := l.may(who, SeeJournal, ""); err != nil {
		return nil, err
	}
	within := records.Question{Actor: asked.Actor, API: asked.API, Act: asked.Act}
	if !who.everywhere() {
		within.Only = l.insideOf(who)
	}
	var err error
	if within.From, err = moment(asked.From, 0); err != nil {
		return nil, err
	}
	if within.Before, err = moment(asked.Until, 1); err != nil {
		return nil, err
	}
	if asked.API != "" && !apiName.MatchString(asked.API) || !actName.MatchString(asked.Act) {
		return nil, nil // what can have no name has done nothing
	}
	rows, err := l.store.Read().FindActs(ctx, within, seq, newest, limit)
	return entriesOf(rows), err
}

var actName = regexp.MustCompile(`^[a-z.-]*$`)

// moment is a time as the journal writes it, made of one or of a day; of a day, so many days later.
func moment(text string, days int) (string, error) {
	if text == "" {
		return "", nil
	}
	if day, err := time.Parse(time.DateOnly, text); err == nil {
		return day.AddDate(0, 0, days).Format(time.RFC3339), nil
	}
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return "", refuse(Invalid, "%q is no day and no time; write 2026-11-27 or 2026-11-27T09:30:00Z", text)
	}
	return at.UTC().Format(time.RFC3339), nil
}

func entriesOf(rows []records.Entry) []Entry {
	entries := make([]Entry, len(rows))
	for i, e := range rows {
		entries[i] = Entry{e.Seq, e.At, e.Actor, e.Act, e.Subject, json.RawMessage(e.Detail), e.Previous, e.Hash}
	}
	return entries
}

// insideOf are the names of the APIs of the actor's teams; never nil.
func (l *Ledger) insideOf(who Actor) []string {
	l.Generation(who, "")
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	names := []string{}
	for api, k := range l.generations.kept {
		if api != "" && k.inside(who) {
			names = append(names, api)
		}
	}
	slices.Sort(names)
	return names
}

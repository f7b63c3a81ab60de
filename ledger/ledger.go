// Package ledger decides what may happen to a company's API descriptions, in which order, and by whom: recording,
// publishing through the gate, deprecating. Every act is one transaction and one entry in the journal.
//
//	l := ledger.New(store, ledger.Options{Now: time.Now, Random: rand.Reader})
//	rec, err := l.Record(ctx, who, ledger.Submission{File: "berths.yaml", Text: text})
//	_, err = l.Publish(ctx, who, "berths@1.2.0", nil) // *GateShut when it breaks the line's promise
//
// Clock and random source are handed in, so that the same acts on the same day make the same ledger.
package ledger

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync"
	"time"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/source"
	"oldledger/store"
)

// Options of a ledger.
type Options struct {
	Now        func() time.Time
	Random     io.Reader
	NoticeDays int    // how many days a notice must come before its sunset, for APIs that have no period of their own
	Engine     string // which build computes: a comparison that another build kept is computed anew; "" keeps none
}

// Ledger is one ledger with its records.
type Ledger struct {
	store   *store.Store
	options Options

	computing sync.Mutex // held while a comparison is made
	turns     turns
	guides    guides

	mu     sync.Mutex
	parsed map[string]*contract.Contract // by digest of the content
}

// New makes a ledger over an open store.
func New(s *store.Store, o Options) *Ledger {
	return &Ledger{store: s, options: o, parsed: map[string]*contract.Contract{}}
}

// Ready tells whether the records answer.
func (l *Ledger) Ready(ctx context.Context) error { return l.store.Ping(ctx) }

// Today is the day as the ledger's clock has it.
func (l *Ledger) Today() time.Time { return l.options.Now().UTC() }

func (l *Ledger) stamp() string { return l.options.Now().UTC().Format(time.RFC3339) }

// Fault tells what kind of refusal an Error is.
type Fault string

// The faults. Each is the end of a problem type's address.
const (
	NotFound    Fault = "not-found"
	Invalid     Fault = "invalid"             // the input is wrong
	Unreadable  Fault = "invalid-description" // a description has problems
	Conflict    Fault = "conflict"            // the state of the records does not allow it
	Forbidden   Fault = "forbidden"           // this person may not
	SignInFirst Fault = "sign-in-needed"
)

// Error is a refusal, in words for the person who asked.
type Error struct {
	Fault    Fault
	Text     string
	Problems source.Problems // for Unreadable
}

func (e *Error) Error() string { return e.Text }

func refuse(f Fault, format string, args ...any) error {
	return &Error{Fault: f, Text: fmt.Sprintf(format, args...)}
}

// notFound turns a missing row into a refusal.
func notFound(err error, format string, args ...any) error {
	if errors.Is(err, store.ErrNotFound) {
		return refuse(NotFound, format, args...)
	}
	return err
}

// maxParsed bounds the contracts that are kept in memory.
const maxParsed = 64

// contract reads what a version says, once for each content.
func (l *Ledger) contract(ctx context.Context, r store.Rows, v Version) (*contract.Contract, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if c := l.parsed[v.Digest]; c != nil && c.Node.File().Name == v.File {
		return c, nil
	}
	row, err := r.Version(ctx, v.API, v.Number)
	if err != nil {
		return nil, notFound(err, "there is no %s", v.Ref())
	}
	files, err := r.Files(ctx, v.API, v.Number)
	if err != nil {
		return nil, err
	}
	c, _, err := readDescription(row.File, row.Content, texts(files))
	if err != nil {
		return nil, err
	}
	l.remember(row.Digest, c)
	return c, nil
}

// remember keeps what a content says. The caller holds mu.
func (l *Ledger) remember(digest string, c *contract.Contract) {
	if len(l.parsed) >= maxParsed {
		clear(l.parsed)
	}
	l.parsed[digest] = c
}

// readDescription reads a text that someone submitted, with the other files beside it; what is wrong with it is a refusal.
// The set holds the files that the description really has.
func readDescription(file string, text []byte, others map[string][]byte) (*contract.Contract, *source.Set, error) {
	set, err := source.Open("", file, func(p string) ([]byte, error) {
		if p == file {
			return text, nil
		}
		if other, ok := others[p]; ok {
			return other, nil
		}
		return nil, source.ErrNoFile
	})
	if err == nil {
		var c *contract.Contract
		if c, err = format.Read(set); err == nil {
			return c, set, nil
		}
	}
	var problems source.Problems
	if errors.As(err, &problems) {
		return nil, nil, &Error{Fault: Unreadable, Text: problems.Error(), Problems: problems}
	}
	return nil, nil, err
}

func texts(files []store.File) map[string][]byte {
	all := map[string][]byte{}
	for _, f := range files {
		all[f.Path] = f.Content
	}
	return all
}

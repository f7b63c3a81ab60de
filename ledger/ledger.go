// Package ledger decides what may happen to a company's API descriptions, in which order, and by whom: recording,
// publishing through the gate, deprecating. Every act is one transaction and one entry in the journal.
//
//	l := ledger.New(store, ledger.Options{Now: time.Now, Random: rand.Reader})
//	rec, err := l.Record(ctx, who, ledger.Submission{File: "berths.yaml", Text: text})
//	_, err = l.Publish(ctx, who, "berths@1.2.0", nil) // *GateShut when it breaks the line's promise
//
// Clock and random source are handed in, so that the same acts on the same day make the same ledger.
//
// Who acts stands in every call (actor.go). Whether they may is decided in access.go; what they see, in view.go and content.go, through
// which every read goes. What happens in one transaction is in act.go; where a version may go from where it stands, in move.go. What the
// ledger asks of its records, whatever engine keeps them, is package records.
package ledger

import (
	"context"
	"errors"
	"fmt"
	"io"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/guide"
	"oldledger/core/housestyle"
	"oldledger/core/replay"
	"oldledger/core/source"
	"oldledger/core/usage"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// Options of a ledger.
type Options struct {
	Now        func() time.Time
	Random     io.Reader
	Recheck    time.Duration // how long a service does not ask whether another one changed the records; 0 is a quarter of a second
	NoticeDays int           // how many days a notice must come before its sunset, for APIs that have no period of their own
	Engine     string        // which build computes: a comparison that another build kept is computed anew; "" keeps none
}

// Ledger is one ledger with its records.
type Ledger struct {
	// Set by New.
	store   *countingStore
	options Options

	// What reports whether something kept is still true: as fresh as Options.Recheck.
	generations generations

	// What is being computed, once for all who wait for it; heavy and hashing hold one for each computation under way.
	heavy            chan struct{}
	hashing          chan struct{} // passwords that are checked
	adding           chan struct{} // logs that are counted
	guideFlight      Flight[*guide.Guide]
	readingFlight    Flight[*contract.Contract]
	checkFlight      Flight[source.Diagnostics]
	styleFlight      Flight[judgement]
	comparisonFlight Flight[*compare.Comparison]
	replayFlight     Flight[*replay.Report]

	// What follows from contents, which never change: kept until there is no room.
	readings    *lru.Cache[string, *contract.Contract]    // by digest of the content, and file
	checks      *lru.Cache[string, source.Diagnostics]    // of the same
	styles      *lru.Cache[string, InForce]               // by the digests of their parts
	addresses   *lru.Cache[string, []versioning.Address]  // where versions are called, by their APIs and contents
	terms       *lru.Cache[string, housestyle.Terms]      // by the digests of style files and the terms below
	operations  *lru.Cache[string, []usage.Operation]     // by digest of the content, and file
	judged      *lru.Cache[string, judgement]             // by digest of the content, and style
	named       *lru.Cache[string, housestyle.Vocabulary] // by digest of the content, and API
	replays     *lru.Cache[string, *replay.Report]        // by what they follow from
	comparisons *lru.Cache[string, *compare.Comparison]   // by the keys of comparisonKey and contentKey
	overlays    *lru.Cache[string, error]                 // by digests of the content and the overlay: why it is refused
	// what readers from outside get, by version, content and overlay; without a text where that is what was recorded
	publics *lru.Cache[string, content]

	// What follows from the records: kept with its generation, and made anew when that has passed.
	guides     *lru.Cache[string, cachedGuide]
	asReads    *lru.Cache[string, publicName] // what readers from outside get, by version, content and generation
	knownAPIs  *lru.Cache[string, knownAPI]
	knownLists *lru.Cache[string, knownList] // by sight
	gates      *lru.Cache[string, string]    // what stands in the way of a draft, by version, generation and day
	routing    routing
	vocabulary atomic.Pointer[vocabulary]
	cards      *lru.Cache[string, cachedCards] // by sight
	treeKeys   atomic.Pointer[treeKeys]
	sessions   *lru.Cache[string, cachedSession] // by their hashes

	// Counts since the service began.
	cachedCards atomic.Int64 // cards that were kept
	computed    atomic.Int64 // comparisons that were computed, and not found
}

// Bounds of what is kept in memory.
const (
	maxReadings    = 64
	maxComparisons = 64
	maxGates       = 512
	maxKnownLists  = 32
)

// New makes a ledger over its records.
func New(s records.Store, o Options) *Ledger {
	if o.Recheck == 0 {
		o.Recheck = usualRecheck
	}
	return &Ledger{
		store: &countingStore{Store: s}, options: o, heavy: make(chan struct{}, maxHeavy), hashing: make(chan struct{}, maxHashing),
		adding: make(chan struct{}, maxAdding), operations: cache[[]usage.Operation](maxAddressed),
		readings: cache[*contract.Contract](maxReadings), checks: cache[source.Diagnostics](maxReadings),
		styles: cache[InForce](maxStyles), terms: cache[housestyle.Terms](maxTerms),
		addresses: cache[[]versioning.Address](maxAddressed), judged: cache[judgement](maxReadings),
		named:       cache[housestyle.Vocabulary](2 * maxVocabulary),
		comparisons: cache[*compare.Comparison](maxComparisons), replays: cache[*replay.Report](maxReplays), overlays: cache[error](maxReadings),
		guides: cache[cachedGuide](maxGuides), publics: cache[content](maxPublic), knownAPIs: cache[knownAPI](maxKnownAPIs),
		knownLists: cache[knownList](maxKnownLists), cards: cache[cachedCards](maxKnownLists),
		sessions: cache[cachedSession](maxSessions),
		asReads:  cache[publicName](maxPublicNames), gates: cache[string](maxGates),
	}
}

// cache keeps so many things in memory: those that were asked for last.
func cache[V any](size int) *lru.Cache[string, V] {
	c, err := lru.New[string, V](size)
	if err != nil {
		panic(err) // a size below 1
	}
	return c
}

// Ready reports whether the records answer and can be written.
func (l *Ledger) Ready(ctx context.Context) error { return l.store.Check(ctx) }

// Today is the day as the ledger's clock has it.
func (l *Ledger) Today() time.Time { return l.options.Now().UTC() }

func (l *Ledger) stamp() string { return l.options.Now().UTC().Format(time.RFC3339) }

// Fault tells what kind of refusal an Error is.
type Fault string

// The faults. Each is the end of a problem type's address.
const (
	NotFound    Fault = "not-found"
	Invalid     Fault = "invalid"             // the input is wrong
	Unreadable  Fault = "invalid-description" // a description cannot be read
	Conflict    Fault = "conflict"            // the state of the records does not allow it
	Forbidden   Fault = "forbidden"           // this person may not
	SignInFirst Fault = "sign-in-needed"
	UnderWay    Fault = "under-way" // the same request was sent a moment ago
	TooOften    Fault = "too-often"
	Unavailable Fault = "unavailable" // another service does not answer
)

// Error is a refusal, in words for the person who asked.
type Error struct {
	Fault       Fault
	Text        string
	Diagnostics source.Diagnostics // for Unreadable
}

func (e *Error) Error() string { return e.Text }

func refuse(f Fault, format string, args ...any) error {
	return &Error{Fault: f, Text: fmt.Sprintf(format, args...)}
}

func isNotFound(err error) bool { return errors.Is(err, records.ErrNotFound) }

// notFound turns a missing row into a refusal.
func notFound(err error, format string, args ...any) error {
	if isNotFound(err) {
		return refuse(NotFound, format, args...)
	}
	return err
}

// readDescription reads a text that someone submitted, with the other files beside it; what is wrong with it is a refusal.
// The set holds the files that the description really has.
func readDescription(ctx context.Context, file string, text []byte, others map[string][]byte) (*contract.Contract, *source.Set, error) {
	set, err := source.Open(ctx, "", file, func(p string) ([]byte, error) {
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
	var wrong source.Diagnostics
	if errors.As(err, &wrong) {
		return nil, nil, &Error{Fault: Unreadable, Text: wrong.Error(), Diagnostics: wrong}
	}
	return nil, nil, err
}

func texts(files []records.File) map[string][]byte {
	all := map[string][]byte{}
	for _, f := range files {
		all[f.Path] = f.Content
	}
	return all
}

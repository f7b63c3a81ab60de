package ledger

import (
	"context"
	"sync"
	"time"

	"oldledger/ledger/records"
)

// turns are how often what is known of each API has changed, as the records count it: whoever keeps what he made of an API's records keeps the
// turn with it. Several services share the count through the records; each asks for it when its own copy has an age.
type turns struct {
	mu      sync.RWMutex
	all     int64
	of      map[string]int64
	checked time.Time
	asking  bool
	listen  []func(ref string)
}

// usualRecheck is how long a service does not ask whether another one changed the records.
const usualRecheck = 250 * time.Millisecond

// Turn is how many acts have changed what is known of an API; of any API where the name is "".
func (l *Ledger) Turn(api string) int64 {
	t := &l.turns
	t.mu.RLock()
	fresh := time.Since(t.checked) < l.options.Recheck
	n := t.turn(api)
	t.mu.RUnlock()
	if fresh || !t.mayAsk() {
		return n
	}
	l.refresh()
	t.mu.RLock()
	defer t.mu.RUnlock()
	return t.turn(api)
}

func (t *turns) turn(api string) int64 {
	if api == "" {
		return t.all
	}
	return t.of[api] + t.of[""] // what was done to no one API touches all
}

// mayAsk lets one at a time ask, unless nothing was read yet.
func (t *turns) mayAsk() bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.asking && t.of != nil {
		return false
	}
	t.asking = true
	return true
}

// maxAsking bounds how long the count is waited for.
const maxAsking = 5 * time.Second

// refresh reads the count from the records. Where they do not answer, what is known stays: whether they do is what Ready tells.
func (l *Ledger) refresh() {
	ctx, cancel := context.WithTimeout(context.Background(), maxAsking)
	defer cancel()
	t := &l.turns
	r := l.store.Read()
	all, err := r.Generation(ctx)
	t.mu.RLock()
	same := t.of != nil && t.all == all
	t.mu.RUnlock()
	var of map[string]int64
	if err == nil && !same {
		of, err = r.Generations(ctx)
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	t.asking, t.checked = false, time.Now()
	if err == nil && !same {
		t.set(of)
	}
}

// set takes over a count; it never goes back.
func (t *turns) set(of map[string]int64) {
	var all int64
	for _, n := range of {
		all += n
	}
	if all >= t.all {
		t.all, t.of = all, of
	}
}

// OnPublished has f told of every version that is published here from now on, before Publish returns.
func (l *Ledger) OnPublished(f func(ref string)) {
	l.turns.mu.Lock()
	defer l.turns.mu.Unlock()
	l.turns.listen = append(l.turns.listen, f)
}

// act carries out an act on an API's records, in one transaction. Whoever asks for the turn after it gets the new one.
func (w view) act(ctx context.Context, api string, do func(view) error) error {
	var of map[string]int64
	err := w.store.Write(ctx, func(r records.Rows) error {
		err := do(w.in(r))
		if err == nil {
			err = r.Advance(ctx, api)
		}
		if err == nil {
			of, err = r.Generations(ctx)
		}
		return err
	})
	if err != nil {
		return err
	}
	w.turns.mu.Lock()
	defer w.turns.mu.Unlock()
	w.turns.set(of)
	return nil
}

// published tells those who listen.
func (l *Ledger) published(ref string) {
	l.turns.mu.RLock()
	listen := l.turns.listen
	l.turns.mu.RUnlock()
	for _, f := range listen {
		f(ref)
	}
}

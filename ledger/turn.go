package ledger

import (
	"context"
	"sync"

	"oldledger/store"
)

// turns counts the acts since the service began, in all and by API: whoever keeps what he made of an API's records keeps the turn with it.
type turns struct {
	mu     sync.RWMutex
	all    int64
	of     map[string]int64
	listen []func(ref string)
}

// Turn is how many acts have changed what is known of an API; of any API where the name is "".
func (l *Ledger) Turn(api string) int64 {
	l.turns.mu.RLock()
	defer l.turns.mu.RUnlock()
	if api == "" {
		return l.turns.all
	}
	return l.turns.of[api] + l.turns.of[""] // what was done to no one API touches all
}

// OnPublished has f told of every version that is published from now on, before Publish returns.
func (l *Ledger) OnPublished(f func(ref string)) {
	l.turns.mu.Lock()
	defer l.turns.mu.Unlock()
	l.turns.listen = append(l.turns.listen, f)
}

// act carries out an act on an API's records, in one transaction.
func (w view) act(ctx context.Context, api string, do func(view) error) error {
	l := w.Ledger
	if err := l.store.Write(ctx, func(r store.Rows) error { return do(w.in(r)) }); err != nil {
		return err
	}
	l.turns.mu.Lock()
	defer l.turns.mu.Unlock()
	if l.turns.of == nil {
		l.turns.of = map[string]int64{}
	}
	l.turns.all++
	l.turns.of[api]++
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

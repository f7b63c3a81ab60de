package ledger

import (
	"context"
	"fmt"
	"runtime/debug"
	"sync"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/source"
)

// Reading, comparing and what else takes long is done outside transactions and locks, at most maxHeavy at a time, once for all who ask for
// the same meanwhile, and ends when the last of them has left.

// maxHeavy is how many heavy computations run at a time.
const maxHeavy = 2

// Heavily runs a computation in its turn. It must not wait for another one inside.
func (l *Ledger) Heavily(ctx context.Context, compute func()) error {
	select {
	case l.heavy <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	defer func() { <-l.heavy }()
	if err := ctx.Err(); err != nil {
		return err
	}
	compute()
	return ctx.Err()
}

// Flight makes things once for all who ask for them at the same time.
type Flight[V any] struct {
	mu    sync.Mutex
	under map[string]*call[V]
}

// call is one thing in the making.
type call[V any] struct {
	done    chan struct{}
	value   V
	err     error
	waiting int
	cancel  context.CancelFunc
}

// Do gives what key names: computed here, or by the one who is at it already. The context of compute ends when nobody waits any more.
func (f *Flight[V]) Do(ctx context.Context, key string, compute func(context.Context) (V, error)) (V, error) {
	f.mu.Lock()
	c := f.under[key]
	if c == nil {
		if f.under == nil {
			f.under = map[string]*call[V]{}
		}
		alone, cancel := context.WithCancel(context.WithoutCancel(ctx))
		c = &call[V]{done: make(chan struct{}), cancel: cancel}
		f.under[key] = c
		go func() {
			defer cancel()
			c.value, c.err = guarded(alone, compute)
			f.mu.Lock()
			if f.under[key] == c {
				delete(f.under, key)
			}
			f.mu.Unlock()
			close(c.done)
		}()
	}
	c.waiting++
	f.mu.Unlock()
	select {
	case <-c.done:
		return c.value, c.err
	case <-ctx.Done():
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if c.waiting--; c.waiting == 0 {
		c.cancel()
		if f.under[key] == c {
			delete(f.under, key) // whoever comes now begins anew
		}
	}
	var none V
	return none, ctx.Err()
}

// Waiting is how many wait for what key names.
func (f *Flight[V]) Waiting(key string) int {
	f.mu.Lock()
	defer f.mu.Unlock()
	if c := f.under[key]; c != nil {
		return c.waiting
	}
	return 0
}

// guarded turns a panic into an error: nobody above this goroutine would.
func guarded[V any](ctx context.Context, compute func(context.Context) (V, error)) (value V, err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("computing: %v\n%s", p, debug.Stack())
		}
	}()
	return compute(ctx)
}

// contract reads what a version says to the actor, once for each content.
func (w view) contract(ctx context.Context, v Version) (*contract.Contract, error) {
	v, err := w.asRead(ctx, v)
	if err != nil {
		return nil, err
	}
	if known, ok := w.readings.Get(v.content()); ok {
		return known, nil
	}
	c, err := w.content(ctx, v)
	if err != nil {
		return nil, err
	}
	return w.readingFlight.Do(ctx, v.content(), func(ctx context.Context) (made *contract.Contract, err error) {
		if waited := w.Heavily(ctx, func() { made, _, err = readDescription(ctx, c.file, c.text, texts(c.others)) }); waited != nil {
			return nil, waited
		}
		if err == nil {
			w.readings.Add(v.content(), made)
		}
		return made, err
	})
}

// diagnostics are what is wrong with what a version says to the actor, found once for each content.
func (w view) diagnostics(ctx context.Context, v Version) (source.Diagnostics, error) {
	v, err := w.asRead(ctx, v)
	if err != nil {
		return nil, err
	}
	if known, ok := w.checks.Get(v.content()); ok {
		return known, nil
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	return w.checkFlight.Do(ctx, v.content(), func(ctx context.Context) (found source.Diagnostics, err error) {
		if waited := w.Heavily(ctx, func() { found, err = check.Contract(ctx, c) }); waited != nil {
			return nil, waited
		}
		if err == nil {
			w.checks.Add(v.content(), found)
		}
		return found, err
	})
}

// readSet reads a description for a work that needs its files, and does the work in the same turn.
func (l *Ledger) readSet(ctx context.Context, file string, text []byte, others map[string][]byte,
	work func(*contract.Contract, *source.Set) error,
) error {
	var err error
	if waited := l.Heavily(ctx, func() {
		var c *contract.Contract
		var set *source.Set
		if c, set, err = readDescription(ctx, file, text, others); err == nil {
			err = work(c, set)
		}
	}); waited != nil {
		return waited
	}
	return err
}

// comparison compares two versions as the actor reads them, once for each pair and options. In a transaction nothing is computed, errMoved
// asks to compute before it; what it rests on is kept with it. b is what the new version says, nil to read it where it is needed.
func (w view) comparison(ctx context.Context, old, new Version, o compare.Options, b *contract.Contract) (*compare.Comparison, error) {
	old, new, err := w.bothAsRead(ctx, old, new)
	if err != nil {
		return nil, err
	}
	if o, err = w.asTold(ctx, new.API, o); err != nil {
		return nil, err
	}
	key := comparisonKey(old, new, o) + " " + w.contentKey(old, new)
	if c, ok := w.comparisons.Get(key); ok {
		return c, w.keepOnce(ctx, old, new, o, c)
	}
	if c, err := w.cachedComparison(ctx, old, new, o); c != nil || err != nil {
		return c, err
	}
	if w.rows.Writing() {
		return nil, errMoved
	}
	a, err := w.contract(ctx, old)
	if err != nil {
		return nil, err
	}
	if b == nil {
		if b, err = w.contract(ctx, new); err != nil {
			return nil, err
		}
	}
	return w.comparisonFlight.Do(ctx, key, func(ctx context.Context) (*compare.Comparison, error) {
		w.computed.Add(1)
		var c *compare.Comparison
		var err error
		if waited := w.Heavily(ctx, func() { c, err = compare.ContractsContext(ctx, a, b, o) }); waited != nil {
			return nil, waited
		}
		if err == nil {
			w.comparisons.Add(key, c)
		}
		return c, err
	})
}

// Computed is how many comparisons were computed since the service began, and not found.
func (l *Ledger) Computed() int64 { return l.computed.Load() }

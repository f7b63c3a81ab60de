package ledger

import (
	"context"
	"sync"
	"time"

	"oldledger/ledger/records"
)

// generations are how often what is known of each API has changed, as the records count it: whoever keeps what he made of an API's records
// keeps the generation with it. Several services share the count through the records; each asks for it when its own copy has an age.
type generations struct {
	mu      sync.RWMutex
	all     records.Generation
	of      map[string]records.Generation
	kept    map[string]*keeping // by API
	shelves map[string]*Shelf   // by name
	hosts   map[string]string   // at which a shelf is shown alone, by host
	checked time.Time
	asking  bool
	listen  []func(ref string)
}

// usualRecheck is how long a service does not ask whether another one changed the records.
const usualRecheck = 250 * time.Millisecond

// Generation is how many acts have changed what the actor may know of an API; of any API where the name is "". What readers do not see,
// such as another draft, is no new generation for them.
func (l *Ledger) Generation(who Actor, api string) int64 {
	t := &l.generations
	t.mu.RLock()
	fresh := time.Since(t.checked) < l.options.Recheck
	g := t.current(api)
	t.mu.RUnlock()
	if !fresh && t.mayAsk() {
		l.refresh()
		t.mu.RLock()
		g = t.current(api)
		t.mu.RUnlock()
	}
	if !who.reading || who.holds != "" {
		return g.N
	}
	return g.Shown
}

// keeping is whose an API is, and to whom it is open; nobody's where there is none. It is as fresh as a generation.
func (l *Ledger) keeping(api string) *keeping {
	l.Generation(Nobody, api)
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	if k := l.generations.kept[api]; k != nil {
		return k
	}
	return nobodys
}

// counted reports whether the count was read at all.
func (l *Ledger) counted() bool {
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	return l.generations.kept != nil
}

// nobodys keeps what is not there.
var nobodys = &keeping{}

// teamOf is the team whose API it is; "" where it is nobody's, or there is none.
func (l *Ledger) teamOf(api string) string { return l.keeping(api).team }

func (t *generations) current(api string) records.Generation {
	if api == "" {
		return t.all
	}
	own, all := t.of[api], t.of[""] // what was done to no one API touches all
	return records.Generation{N: own.N + all.N, Shown: own.Shown + all.Shown}
}

// mayAsk lets one at a time ask, unless nothing was read yet.
func (t *generations) mayAsk() bool {
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
	t := &l.generations
	r := l.store.Read()
	all, err := r.Generation(ctx)
	t.mu.RLock()
	same := t.of != nil && t.all.N == all
	t.mu.RUnlock()
	var of map[string]records.Generation
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

// set takes over a count that was read. No API's goes back: an act here may have been quicker than what was read before it.
func (t *generations) set(of map[string]records.Generation) {
	for api, before := range t.of {
		if of[api].N < before.N {
			of[api] = before
		}
	}
	t.all, t.of, t.kept = records.Generation{}, of, make(map[string]*keeping, len(of))
	t.shelves, t.hosts = shelvesOf(of[""])
	for api, g := range of {
		t.all.N += g.N
		t.all.Shown += g.Shown
		t.kept[api] = keptBy(api, g.Team, g.Audiences, of[""].Audiences)
	}
}

// advance takes over what an act here has made of the count of one API.
func (t *generations) advance(api string, now records.Generation) {
	t.mu.Lock()
	defer t.mu.Unlock()
	before := t.of[api]
	if t.of == nil || now.N <= before.N {
		t.checked = time.Time{} // nothing was read yet, or another act was quicker: whoever asks next reads all
		return
	}
	t.of[api] = now
	if api == "" {
		t.shelves, t.hosts = shelvesOf(now)
		for name, g := range t.of {
			t.kept[name] = keptBy(name, g.Team, g.Audiences, now.Audiences)
		}
	}
	t.kept[api] = keptBy(api, now.Team, now.Audiences, t.of[""].Audiences)
	t.all.N += now.N - before.N
	t.all.Shown += now.Shown - before.Shown
}

// OnPublished has f told of every version that is published here from now on, before Publish returns.
func (l *Ledger) OnPublished(f func(ref string)) {
	l.generations.mu.Lock()
	defer l.generations.mu.Unlock()
	l.generations.listen = append(l.generations.listen, f)
}

// published tells those who listen.
func (l *Ledger) published(ref string) {
	l.generations.mu.RLock()
	listen := l.generations.listen
	l.generations.mu.RUnlock()
	for _, f := range listen {
		f(ref)
	}
}

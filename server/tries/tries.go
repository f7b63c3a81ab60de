// Package tries slows down who tries passwords.
package tries

import (
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/time/rate"
)

// Tries bounds how often somebody may try to know a password: that of one name from one network address, and from one address at all. Only
// tries that failed count, and those under way: nobody else is kept out.
type Tries struct {
	atName, from *lru.Cache[string, *rate.Limiter]
}

// How often: at a name from an address five times, then once a minute; from an address thirty times, then once in ten seconds.
const (
	triesAtName = 5
	triesFrom   = 30
	againAtName = time.Minute
	againFrom   = 10 * time.Second
	maxTriers   = 100_000 // in memory, those that tried last
)

// New begins to count.
func New() *Tries {
	atName, err := lru.New[string, *rate.Limiter](maxTriers)
	if err != nil {
		panic(err) // a size below 1
	}
	from, err := lru.New[string, *rate.Limiter](maxTriers)
	if err != nil {
		panic(err)
	}
	return &Tries{atName, from}
}

func limiterOf(all *lru.Cache[string, *rate.Limiter], key string, again time.Duration, burst int) *rate.Limiter {
	fresh := rate.NewLimiter(rate.Every(again), burst)
	if known, there, _ := all.PeekOrAdd(key, fresh); there {
		all.Get(key) // it was asked for just now
		return known
	}
	return fresh
}

// Begin counts a try before it is made, so that many at once are counted, too. Where it has to wait it is not counted; done takes it back
// for one that did not fail.
func (t *Tries) Begin(name, address string, now time.Time) (wait time.Duration, done func()) {
	var counted []*rate.Reservation
	takeBack := func() {
		for _, r := range counted {
			r.CancelAt(now)
		}
	}
	for _, l := range []*rate.Limiter{
		limiterOf(t.atName, name+" "+address, againAtName, triesAtName),
		limiterOf(t.from, address, againFrom, triesFrom),
	} {
		r := l.ReserveN(now, 1)
		counted = append(counted, r)
		wait = max(wait, r.DelayFrom(now))
	}
	if wait > 0 {
		takeBack()
	}
	return wait, takeBack
}

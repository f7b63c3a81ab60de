package api

import (
	"math"
	"net/http"
	"strconv"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"
	"golang.org/x/time/rate"

	"oldledger/ledger"
	"oldledger/wire"
)

// tries bounds how often somebody may try to sign in: at one name from one address, and from one address at all. Only tries that failed
// count, and those under way: nobody else is kept out.
type tries struct {
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

func newTries() *tries {
	atName, err := lru.New[string, *rate.Limiter](maxTriers)
	if err != nil {
		panic(err) // a size below 1
	}
	from, err := lru.New[string, *rate.Limiter](maxTriers)
	if err != nil {
		panic(err)
	}
	return &tries{atName, from}
}

func limiterOf(all *lru.Cache[string, *rate.Limiter], key string, again time.Duration, burst int) *rate.Limiter {
	fresh := rate.NewLimiter(rate.Every(again), burst)
	if known, there, _ := all.PeekOrAdd(key, fresh); there {
		all.Get(key) // it was asked for just now
		return known
	}
	return fresh
}

// begin counts a try before it is made, so that many at once are counted, too. Where it has to wait it is not counted; done takes it back
// for one that did not fail.
func (t *tries) begin(name, address string, now time.Time) (wait time.Duration, done func()) {
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

func (a *API) signIn(c *echo.Context) error {
	var in wire.SignIn
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	succeeded, err := a.tried(c, in.Name)
	if err != nil {
		return err
	}
	who, err := a.ledger.SignIn(ctx, in.Name, in.Password, c.RealIP())
	if err != nil {
		return err
	}
	succeeded()
	if err := a.sessions.RenewToken(ctx); err != nil {
		return err
	}
	a.sessions.Put(ctx, SessionPerson, who.Name)
	return c.JSON(http.StatusOK, toMe(who))
}

// tried counts a try to know somebody's password, and refuses it where too many failed; succeeded takes it back.
func (a *API) tried(c *echo.Context, name string) (succeeded func(), err error) {
	wait, succeeded := a.tries.begin(name, c.RealIP(), time.Now())
	if wait > 0 {
		c.Response().Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return nil, &ledger.Error{Fault: ledger.TooOften, Text: "too many tries to sign in failed; wait " + wait.Round(time.Second).String()}
	}
	return succeeded, nil
}

package api

import (
	"math"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

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
	a.sessions.Remove(ctx, SessionSeeing) // whoever was here before may have looked as another
	a.sessions.Remove(ctx, SessionBy)
	a.unmark(c)
	return c.JSON(http.StatusOK, toMe(who))
}

// tried counts a try to know somebody's password, and refuses it where too many failed; succeeded takes it back.
func (a *API) tried(c *echo.Context, name string) (succeeded func(), err error) {
	wait, succeeded := a.tries.Begin(name, c.RealIP(), time.Now())
	if wait > 0 {
		c.Response().Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return nil, &ledger.Error{Fault: ledger.TooOften, Text: "too many tries to sign in failed; wait " + wait.Round(time.Second).String()}
	}
	return succeeded, nil
}

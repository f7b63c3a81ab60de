package api

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// SeeingCookie tells the reference that whoever asks looks as another, so that it says so on every page.
const SeeingCookie = "oldledger-seeing"

// see has whoever may say who reads look as another from now on, in this browser.
func (a *API) see(c *echo.Context) error {
	var in struct {
		As string `json:"as"`
	}
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	who, err := a.themselves(c)
	if err == nil {
		_, err = a.ledger.SeeAs(ctx, who, in.As)
	}
	if err != nil {
		return err
	}
	a.sessions.Put(ctx, SessionSeeing, in.As)
	a.setSeeing(c, "1", 0)
	return c.NoContent(http.StatusNoContent)
}

// seeNoMore has them look as themselves.
func (a *API) seeNoMore(c *echo.Context) error {
	a.sessions.Remove(c.Request().Context(), SessionSeeing)
	a.unmark(c)
	return c.NoContent(http.StatusNoContent)
}

// unmark takes the cookie of who looks as another away from whoever sent it.
func (a *API) unmark(c *echo.Context) {
	if _, err := c.Cookie(SeeingCookie); err == nil {
		a.setSeeing(c, "", -1)
	}
}

func (a *API) setSeeing(c *echo.Context, value string, age int) {
	http.SetCookie(c.Response(), &http.Cookie{
		Name: SeeingCookie, Value: value, Path: "/", MaxAge: age, HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: a.sessions.Cookie.Secure,
	})
}

// themselves is who signed in, whoever they look as. A token looks as nobody else.
func (a *API) themselves(c *echo.Context) (ledger.Actor, error) {
	if c.Request().Header.Get("Authorization") != "" {
		return ledger.Nobody, &ledger.Error{Fault: ledger.Forbidden, Text: "a token looks as nobody else"}
	}
	name := a.sessions.GetString(c.Request().Context(), SessionPerson)
	if name == "" {
		return ledger.Nobody, &ledger.Error{Fault: ledger.SignInFirst, Text: "sign in with your password to look as another"}
	}
	return a.ledger.Actor(c.Request().Context(), name)
}

// meSeeing is who is signed in, what they may as the one as whom they look, and who that is.
func (a *API) meSeeing(c *echo.Context, seen ledger.Actor) error {
	who, err := a.themselves(c)
	if err != nil {
		return err
	}
	me := toMe(seen)
	me.Name, me.Full, me.Seeing = who.Name, who.Full, seen.Seeing()
	return c.JSON(http.StatusOK, me)
}

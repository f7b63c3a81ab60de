package api

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

func (a *API) toShelf(s ledger.Shelf) wire.Shelf {
	to := wire.Shelf{
		Name: s.Name, Title: s.Title, Audience: s.Audience.Groups(), Landing: s.Landing, Host: s.Host, MadeAt: s.MadeAt, MadeBy: s.MadeBy,
		Address: strings.TrimSuffix(a.public.String(), "/") + "/shelves/" + s.Name + "/",
		Stands:  each(s.Stands, func(s ledger.Stand) wire.Stand { return wire.Stand{API: s.API, Versions: s.Versions, Why: s.Why} }),
	}
	if s.Host != "" {
		at := *a.public
		at.Host = s.Host
		to.Address = strings.TrimSuffix(at.String(), "/") + "/reference/"
	}
	return to
}

func (a *API) shelves(c *echo.Context) error {
	all, err := a.ledger.Shelves(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, a.toShelf))
}

// setShelf makes a shelf, or changes one.
func (a *API) setShelf(c *echo.Context) error {
	var in wire.ShelfWish
	if err := decode(c, &in); err != nil {
		return err
	}
	wish := ledger.ShelfWish{Title: in.Title, Landing: in.Landing, Host: in.Host, Order: in.Order, Reason: in.Reason}
	if in.Audience != nil {
		audience, err := ledger.AudienceOf(*in.Audience)
		if err != nil {
			return err
		}
		wish.Audience = &audience
	}
	if in.Host != nil && (strings.EqualFold(*in.Host, a.public.Host) || strings.EqualFold(*in.Host, a.public.Hostname())) {
		return &ledger.Error{Fault: ledger.Invalid, Text: "at " + *in.Host + " the ledger itself is reached, where everything is shown; a shelf has a host of its own"}
	}
	return noContent(c, a.ledger.PutShelf(c.Request().Context(), actor(c), c.Param("shelf"), wish))
}

func (a *API) dropShelf(c *echo.Context) error {
	return noContent(c, a.ledger.DropShelf(c.Request().Context(), actor(c), c.Param("shelf")))
}

func (a *API) place(c *echo.Context) error {
	var in wire.Placing
	if err := decode(c, &in); err != nil {
		return err
	}
	versions, err := ledger.PicksOf(in.Versions)
	if err != nil {
		return err
	}
	return noContent(c, a.ledger.Place(c.Request().Context(), actor(c), c.Param("shelf"), c.Param("api"), versions))
}

func (a *API) unplace(c *echo.Context) error {
	return noContent(c, a.ledger.Unplace(c.Request().Context(), actor(c), c.Param("shelf"), c.Param("api")))
}

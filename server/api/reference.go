package api

import (
	"io"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

// withdraw answers a wish to take a version back, with its reason.
func (a *API) unpublish(c *echo.Context) error {
	var in wire.Reason
	if err := decode(c, &in); err != nil {
		return err
	}
	v, err := a.ledger.Unpublish(c.Request().Context(), actor(c), ref(c), in.Reason)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toVersion(v))
}

func (a *API) retire(c *echo.Context) error {
	var in wire.Retirement
	if err := decode(c, &in); err != nil {
		return err
	}
	v, err := a.ledger.Retire(c.Request().Context(), actor(c), ref(c), in.Reason, in.Despite)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toVersion(v))
}

func (a *API) overlay(c *echo.Context) error {
	o, err := a.ledger.Overlay(c.Request().Context(), actor(c), ref(c))
	return answerOverlay(c, o, err)
}

func answerOverlay(c *echo.Context, o ledger.Overlay, err error) error {
	if err != nil {
		return err
	}
	c.Response().Header().Set("ETag", `"`+o.Digest+`"`)
	return c.JSON(http.StatusOK, toOverlay(o))
}

// overlayView answers a version as one document, with and without its overlay.
func (a *API) overlayView(c *echo.Context) error {
	w, err := a.ledger.OverlayView(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.OverlayView(w))
}

// putOverlay takes an overlay as it is written: YAML or JSON.
func (a *API) putOverlay(c *echo.Context) error {
	text, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	o, err := a.ledger.PutOverlay(c.Request().Context(), actor(c), ref(c), string(text), strings.Trim(c.Request().Header.Get("If-Match"), `"`))
	return answerOverlay(c, o, err)
}

func (a *API) dropOverlay(c *echo.Context) error {
	if err := a.ledger.DropOverlay(c.Request().Context(), actor(c), ref(c)); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (a *API) showOverlay(c *echo.Context) error {
	o, err := a.ledger.ShowOverlay(c.Request().Context(), actor(c), ref(c))
	return answerOverlay(c, o, err)
}

func (a *API) createPreviewLink(c *echo.Context) error {
	var in wire.Days
	if err := decode(c, &in); err != nil {
		return err
	}
	s, err := a.ledger.CreatePreviewLink(c.Request().Context(), actor(c), ref(c), in.Days)
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	return c.JSON(http.StatusCreated, wire.PreviewLink(s))
}

// previewLinks answers the addresses at which a version is shown, without what would give them away.
func (a *API) previewLinks(c *echo.Context) error {
	all, err := a.ledger.PreviewLinks(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, func(p ledger.PreviewLink) wire.PreviewLink { return wire.PreviewLink(p) }))
}

func (a *API) withdrawPreview(c *echo.Context) error {
	if err := a.ledger.WithdrawPreview(c.Request().Context(), actor(c), ref(c), c.Param("preview")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// house is the name under which the looks of all APIs that have none of their own are read and kept.
const house = "_"

func looksOf(c *echo.Context) string {
	if name := c.Param("api"); name != house {
		return name
	}
	return ""
}

func (a *API) looks(c *echo.Context) error {
	l, err := a.ledger.Looks(c.Request().Context(), actor(c), looksOf(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toLooks(l))
}

func (a *API) putLooks(c *echo.Context) error {
	var in wire.Looks
	if err := decode(c, &in); err != nil {
		return err
	}
	l, err := a.ledger.PutLooks(c.Request().Context(), actor(c), looksOf(c), fromLooks(in))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toLooks(l))
}

func (a *API) pictures(c *echo.Context) error {
	all, err := a.ledger.Pictures(c.Request().Context(), actor(c), looksOf(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toPicture))
}

// putPicture takes a picture as it is.
func (a *API) putPicture(c *echo.Context) error {
	text, err := io.ReadAll(c.Request().Body)
	if err != nil {
		return err
	}
	p, err := a.ledger.PutPicture(c.Request().Context(), actor(c), looksOf(c), c.Param("picture"), text)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toPicture(p))
}

func (a *API) dropPicture(c *echo.Context) error {
	if err := a.ledger.DropPicture(c.Request().Context(), actor(c), looksOf(c), c.Param("picture")); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// headers answers what a gateway should send, with links to where readers reach the reference.
func (a *API) headers(c *echo.Context) error {
	all, err := a.ledger.Headers(c.Request().Context(), actor(c), ref(c), strings.TrimSuffix(a.public.String(), "/"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toHeader))
}

func (a *API) amend(c *echo.Context) error {
	id, err := strconv.ParseInt(c.Param("id"), 10, 64)
	if err != nil {
		return &ledger.Error{Fault: ledger.NotFound, Text: "a notice is named by its number"}
	}
	var in wire.Amendment
	if err := decode(c, &in); err != nil {
		return err
	}
	n, err := a.ledger.Amend(c.Request().Context(), actor(c), id, ledger.Amendment(in))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, n)
}

// calling says how callers choose a version.
func (a *API) calling(c *echo.Context) error {
	calling, err := a.ledger.Calling(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toCalling(calling))
}

// setAPI changes what is set of an API.
func (a *API) setAPI(c *echo.Context) error {
	var in wire.Settings
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	wish := ledger.Settings{
		NoticeDays: in.NoticeDays, Team: in.Team, Promise: in.Promise, Line: in.Line, Reason: in.Reason,
		Versioning: in.Versioning, Undeclared: in.Undeclared,
	}
	if in.Switcher != nil {
		versions, err := ledger.SwitcherOf(*in.Switcher)
		if err != nil {
			return err
		}
		wish.Switcher = &versions
	}
	if err := a.ledger.Set(ctx, actor(c), c.Param("api"), wish); err != nil {
		return err
	}
	api, err := a.ledger.API(ctx, actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toAPI(api, actor(c)))
}

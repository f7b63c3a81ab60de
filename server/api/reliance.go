package api

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/exchange"
	"oldledger/ledger"
	"oldledger/wire"
)

func toRecording(r ledger.Recording) wire.Recording { return wire.Recording(r) }

// reliance tells what a consumer relies on.
func (a *API) reliance(c *echo.Context) error {
	r, err := a.ledger.Reliance(c.Request().Context(), actor(c), c.Param("consumer"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Reliance{
		Consumer: r.Consumer, Text: r.Text, Recordings: each(r.Recordings, toRecording),
		APIs: each(r.APIs, func(x ledger.ReliedAPI) wire.ReliedAPI { return wire.ReliedAPI(x) }),
	})
}

func (a *API) setReliance(c *echo.Context) error {
	var in wire.RelianceWish
	if err := decode(c, &in); err != nil {
		return err
	}
	return noContent(c, a.ledger.Rely(c.Request().Context(), actor(c), c.Param("consumer"), in.Text))
}

// recording is a recording as an archive.
func (a *API) recording(c *echo.Context) error {
	text, err := a.ledger.RecordingArchive(c.Request().Context(), actor(c), c.Param("consumer"), c.Param("api"))
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "application/json", text)
}

// addRecording keeps a recording that is sent.
func (a *API) addRecording(c *echo.Context) error {
	wish := ledger.RecordingWish{
		Consumer: c.Param("consumer"), Version: c.Param("api") + "@" + c.QueryParam("version"), Archive: c.Request().Body,
	}
	if said := c.QueryParam("guards"); said != "" {
		guards := said == "true"
		if !guards && said != "false" {
			return &ledger.Error{Fault: ledger.Invalid, Text: "guards is true or false"}
		}
		wish.Guards = &guards
	}
	if strings.TrimSpace(c.QueryParam("version")) == "" {
		return &ledger.Error{Fault: ledger.Invalid, Text: "version names the version that answered when it was recorded"}
	}
	added, err := a.ledger.AddRecording(c.Request().Context(), actor(c), wish)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.AddedRecording{
		Recording: toRecording(added.Recording), Elsewhere: added.Elsewhere, Alike: added.Alike,
		Wrong: each(added.Wrong, func(w exchange.Wrong) wire.WrongEntry { return wire.WrongEntry{Entry: w.Number, Why: w.Why} }),
	})
}

func (a *API) setGuards(c *echo.Context) error {
	var in wire.Guarding
	if err := decode(c, &in); err != nil {
		return err
	}
	return noContent(c, a.ledger.SetGuards(c.Request().Context(), actor(c), c.Param("consumer"), c.Param("api"), in.Guards))
}

func (a *API) dropRecording(c *echo.Context) error {
	return noContent(c, a.ledger.DropRecording(c.Request().Context(), actor(c), c.Param("consumer"), c.Param("api")))
}

// replay holds the recording of a consumer against a version.
func (a *API) replay(c *echo.Context) error {
	report, err := a.ledger.Replay(c.Request().Context(), actor(c), c.Param("consumer"), c.QueryParam("against"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, report)
}

// lineupClients tells of the consumers of an API which versions answer them.
func (a *API) lineupClients(c *echo.Context) error {
	all, err := a.ledger.LineupClients(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, func(l ledger.LineupClient) wire.LineupClient {
		cells := each(l.Cells, func(p ledger.LineupPassed) wire.LineupPassed { return wire.LineupPassed(p) })
		return wire.LineupClient{Consumer: l.Consumer, Version: l.Version, Exchanges: l.Exchanges, Cells: cells}
	}))
}

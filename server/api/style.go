package api

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"oldledger/core/source"
	"oldledger/ledger"
	"oldledger/wire"
)

// scopeOf is whose style a request is about.
func scopeOf(c *echo.Context) ledger.StyleScope {
	return ledger.StyleScope{Team: c.Param("team"), API: c.Param("api")}
}

func (a *API) style(c *echo.Context) error {
	ctx, of := c.Request().Context(), scopeOf(c)
	all, err := a.ledger.Styles(ctx, actor(c), of)
	if err != nil {
		return err
	}
	in, err := a.ledger.StyleOf(ctx, actor(c), of)
	if err != nil {
		return err
	}
	to := wire.Style{Name: in.Name, Fault: in.Fault, Parts: []wire.StylePart{}, History: each(all, func(s ledger.Style) wire.StyleVersion {
		return wire.StyleVersion{Version: s.Version, Text: s.Text, Reason: s.Reason, MadeAt: s.MadeAt, MadeBy: s.MadeBy}
	})}
	if len(all) > 0 {
		to.Version, to.Text, to.Reason, to.MadeAt, to.MadeBy = all[0].Version, all[0].Text, all[0].Reason, all[0].MadeAt, all[0].MadeBy
	}
	for _, p := range in.Texts {
		to.Parts = append(to.Parts, wire.StylePart{Of: p.Of.String(), Version: p.Version, Text: p.Text})
	}
	return c.JSON(http.StatusOK, to)
}

func (a *API) putStyle(c *echo.Context) error {
	var in wire.StyleWish
	if err := decode(c, &in); err != nil {
		return err
	}
	_, err := a.ledger.PutStyle(c.Request().Context(), actor(c), scopeOf(c), in.Text, in.Reason, in.Version)
	return noContent(c, err)
}

func (a *API) rules(c *echo.Context) error {
	in, err := a.ledger.StyleOf(c.Request().Context(), actor(c), ledger.StyleScope{API: c.QueryParam("api")})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Rules{Style: in.Name, Items: in.Told()})
}

func (a *API) vocabulary(c *echo.Context) error {
	words, left, err := a.ledger.Vocabulary(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Vocabulary{Vocabulary: words, Left: left})
}

func (a *API) findings(c *echo.Context) error {
	found, err := a.ledger.FindingsOf(c.Request().Context(), actor(c), ref(c))
	if err != nil {
		return err
	}
	told := found.Diagnostics()
	to := wire.Findings{
		Style: found.Style.Name, Fault: found.Style.Fault, Errors: told.Count(source.Error), Warnings: told.Count(source.Warning),
		Hints: told.Count(source.Hint), Parts: found.Score.Parts, Clean: found.Score.Clean, Items: []wire.Finding{},
	}
	for _, f := range found.Findings {
		if f.Let != "" {
			to.Standing++
		}
		to.Items = append(to.Items, wire.Finding{
			ID: ledger.FindingID(f), Diagnostic: f.Diagnostic, Mends: f.Title(), Let: f.Let, New: found.New[f],
		})
	}
	return c.JSON(http.StatusOK, to)
}

func (a *API) mend(c *echo.Context) error {
	var in wire.Mending
	if err := decode(c, &in); err != nil {
		return err
	}
	rec, n, err := a.ledger.Mend(c.Request().Context(), actor(c), ref(c), in.Digest, in.Findings)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Mended{Mended: n, Version: toVersion(rec.Version)})
}

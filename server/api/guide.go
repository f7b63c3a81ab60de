package api

import (
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"oldledger/core/guide"
	"oldledger/ledger"
	"oldledger/wire"
)

// guide answers the guide between two versions: for those who use the operations asked for, with code in one of the team's languages, the
// first where none is asked for.
func (a *API) guide(c *echo.Context) error {
	old, new := c.QueryParam("old"), c.QueryParam("new")
	g, err := a.ledger.Guide(c.Request().Context(), actor(c), old, new)
	if err != nil {
		return err
	}
	keys, err := g.Keys(c.QueryParams()["use"])
	if err != nil {
		return &ledger.Error{Fault: ledger.Invalid, Text: err.Error()}
	}
	g = g.For(keys)
	if err := inLanguage(g, c.QueryParam("language")); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, g)
}

// inLanguage leaves of the code of a guide that in one language, the first where none is named, or all.
func inLanguage(g *guide.Guide, wanted string) error {
	known := []string{}
	for _, list := range [][]guide.Step{g.Must, g.Check} {
		for i := range list {
			code := list[i].Code
			list[i].Code = nil
			for n, one := range code {
				if !slices.Contains(known, one.Language) {
					known = append(known, one.Language)
				}
				if wanted == one.Language || wanted == "all" || wanted == "" && n == 0 {
					list[i].Code = append(list[i].Code, one)
				}
			}
		}
	}
	if wanted == "" || wanted == "all" || wanted == "none" || len(known) == 0 || slices.Contains(known, wanted) {
		return nil
	}
	return &ledger.Error{Fault: ledger.Invalid, Text: "language is all, none or one of those that the team has its samples in, not " + wanted}
}

// writeGuide writes an author's text into a guide.
func (a *API) writeGuide(c *echo.Context) error {
	var in wire.GuideText
	if err := decode(c, &in); err != nil {
		return err
	}
	g, err := a.ledger.WriteGuide(c.Request().Context(), actor(c), ledger.GuideText(in))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, g)
}

package api

import (
	"net/http"
	"net/url"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

func (a *API) people(c *echo.Context) error {
	people, err := a.ledger.People(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(people, toPerson))
}

func (a *API) addPerson(c *echo.Context) error {
	var in wire.NewPerson
	if err := decode(c, &in); err != nil {
		return err
	}
	p := ledger.Person{Name: in.Name, Full: in.Full, Role: ledger.Role(in.Role)}
	if err := a.ledger.AddPerson(c.Request().Context(), actor(c), p, in.Password); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, toPerson(p))
}

// roleIn is the body that says what somebody is.
type roleIn struct {
	Role *string `json:"role"`
}

func (in roleIn) role() (ledger.Role, error) {
	if in.Role == nil {
		return "", &ledger.Error{Fault: ledger.Invalid, Text: "say which role"}
	}
	return ledger.Role(*in.Role), nil
}

func (a *API) setRole(c *echo.Context) error {
	var in roleIn
	if err := decode(c, &in); err != nil {
		return err
	}
	role, err := in.role()
	if err == nil {
		err = a.ledger.SetRole(c.Request().Context(), actor(c), c.Param("person"), role)
	}
	return noContent(c, err)
}

func (a *API) dropPerson(c *echo.Context) error {
	return noContent(c, a.ledger.DropPerson(c.Request().Context(), actor(c), c.Param("person")))
}

func (a *API) teams(c *echo.Context) error {
	teams, err := a.ledger.Teams(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(teams, func(t ledger.Team) wire.Team { return toTeam(t, actor(c)) }))
}

func (a *API) addTeam(c *echo.Context) error {
	var in struct {
		Name string `json:"name"`
	}
	if err := decode(c, &in); err != nil {
		return err
	}
	return noContent(c, a.ledger.AddTeam(c.Request().Context(), actor(c), in.Name))
}

func (a *API) dropTeam(c *echo.Context) error {
	return noContent(c, a.ledger.DropTeam(c.Request().Context(), actor(c), team(c)))
}

func (a *API) putMember(c *echo.Context) error {
	var in roleIn
	if err := decode(c, &in); err != nil {
		return err
	}
	role, err := in.role()
	if err == nil {
		err = a.ledger.PutMember(c.Request().Context(), actor(c), team(c), c.Param("person"), role)
	}
	return noContent(c, err)
}

func (a *API) dropMember(c *echo.Context) error {
	return noContent(c, a.ledger.DropMember(c.Request().Context(), actor(c), team(c), c.Param("person")))
}

// team is the team that the address names, which may have any character in its name.
func team(c *echo.Context) string {
	name := c.Param("team")
	if plain, err := url.PathUnescape(name); err == nil && c.Request().URL.RawPath != "" {
		return plain
	}
	return name
}

// noContent answers what was done, or not.
func noContent(c *echo.Context, err error) error {
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (a *API) tokens(c *echo.Context) error {
	tokens, err := a.ledger.Tokens(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(tokens, func(t ledger.Token) wire.TokenEntry {
		return wire.TokenEntry{
			ID: t.ID, Person: t.Person, Label: t.Label, Scopes: each(t.Scopes, func(s ledger.Scope) string { return string(s) }),
			Teams: t.Teams, MadeAt: t.MadeAt, EndsAt: t.EndsAt, UsedAt: t.UsedAt,
		}
	}))
}

func (a *API) dropToken(c *echo.Context) error {
	return noContent(c, a.ledger.DropToken(c.Request().Context(), actor(c), c.Param("token")))
}

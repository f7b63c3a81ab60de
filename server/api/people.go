package api

import (
	"context"
	"net/http"
	"net/url"
	"strings"

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
			Teams: t.Teams, APIs: t.APIs, MadeAt: t.MadeAt, EndsAt: t.EndsAt, UsedAt: t.UsedAt,
		}
	}))
}

func (a *API) dropToken(c *echo.Context) error {
	return noContent(c, a.ledger.DropToken(c.Request().Context(), actor(c), c.Param("token")))
}

func (a *API) invite(c *echo.Context) error {
	i, err := a.ledger.Invite(c.Request().Context(), actor(c), c.Param("person"))
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	// The key stands behind the #: no browser sends it, and no log has it.
	address := strings.TrimSuffix(a.public.String(), "/") + "/console/invitation#" + i.Key
	return c.JSON(http.StatusCreated, wire.Invitation{Person: i.Person, Address: address, EndsAt: i.EndsAt})
}

// invited tells whom an invitation is for; with a password, it is taken.
func (a *API) invited(c *echo.Context) error {
	var in wire.InvitationKey
	if err := decode(c, &in); err != nil {
		return err
	}
	ask := a.ledger.Invited
	if in.Password != "" {
		ask = func(ctx context.Context, key string) (ledger.Person, error) {
			return a.ledger.AcceptInvitation(ctx, key, in.Password)
		}
	}
	p, err := ask(c.Request().Context(), in.Key)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toPerson(p))
}

func (a *API) changePassword(c *echo.Context) error {
	var in wire.PasswordChange
	if err := decode(c, &in); err != nil {
		return err
	}
	who := actor(c)
	succeeded, err := a.tried(c, who.Name)
	if err != nil {
		return err
	}
	if err := a.ledger.ChangePassword(c.Request().Context(), who, in.Old, in.New); err != nil {
		return err
	}
	succeeded()
	return c.NoContent(http.StatusNoContent)
}

func (a *API) sessionsOf(c *echo.Context) error {
	sessions, err := a.ledger.Sessions(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(sessions, func(s ledger.Session) wire.Session { return wire.Session(s) }))
}

func (a *API) endSessions(c *echo.Context) error {
	return noContent(c, a.ledger.EndSessions(c.Request().Context(), actor(c)))
}

package api

import (
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"oldledger/core/commonmark"
	"oldledger/ledger"
	"oldledger/wire"
)

func toPlan(p ledger.Plan) wire.Plan {
	to := wire.Plan{
		API: p.API, Name: p.Name, Quota: p.Quota, Per: p.Per, Terms: p.Terms, Asks: p.Asks, Audience: p.Audience.Groups(), Issues: p.Issues,
	}
	if p.Terms != "" {
		to.Rendered = commonmark.Safe(p.Terms)
	}
	return to
}

func (a *API) plans(c *echo.Context) error {
	all, err := a.ledger.Plans(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toPlan))
}

func (a *API) putPlan(c *echo.Context) error {
	var in wire.PlanWish
	if err := decode(c, &in); err != nil {
		return err
	}
	audience, err := ledger.AudienceOf(in.Audience)
	if err != nil {
		return err
	}
	return noContent(c, a.ledger.PutPlan(c.Request().Context(), actor(c), ledger.Plan{
		API: c.Param("api"), Name: c.Param("plan"), Quota: in.Quota, Per: in.Per, Terms: in.Terms, Asks: in.Asks, Audience: audience,
		Issues: in.Issues,
	}))
}

func (a *API) dropPlan(c *echo.Context) error {
	return noContent(c, a.ledger.DropPlan(c.Request().Context(), actor(c), c.Param("api"), c.Param("plan")))
}

func toRequest(r ledger.Request) wire.Request {
	return wire.Request{
		ID: r.ID, Consumer: r.Consumer, Title: r.Title, AskedBy: r.AskedBy, AskedAt: r.AskedAt, Purpose: r.Purpose, Mine: r.Mine,
		Items: each(r.Items, func(i ledger.RequestItem) wire.RequestItem {
			return wire.RequestItem{
				API: i.API, Line: i.Line, Plan: i.Plan, State: string(i.State), DecidedBy: i.DecidedBy, DecidedAt: i.DecidedAt, Reason: i.Reason,
				Decides: i.Decides, Answers: each(i.Answers, func(x ledger.Answered) wire.Answered { return wire.Answered(x) }),
			}
		}),
	}
}

func (a *API) requests(c *echo.Context) error {
	all, err := a.ledger.Requests(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toRequest))
}

// ask asks for the use of APIs.
func (a *API) ask(c *echo.Context) error {
	var in wire.RequestWish
	if err := decode(c, &in); err != nil {
		return err
	}
	id, err := a.ledger.Ask(c.Request().Context(), actor(c), ledger.RequestWish{
		Consumer: in.Consumer, Title: in.Title, Purpose: in.Purpose,
		Items: each(in.Items, func(i wire.RequestedAPI) ledger.RequestedAPI { return ledger.RequestedAPI(i) }),
	})
	if err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, wire.RequestMade{ID: id})
}

func (a *API) decide(c *echo.Context) error {
	var in wire.Decision
	if err := decode(c, &in); err != nil {
		return err
	}
	id, err := strconv.ParseInt(c.Param("request"), 10, 64)
	if err != nil {
		return &ledger.Error{Fault: ledger.NotFound, Text: "there is no request " + c.Param("request")}
	}
	return noContent(c, a.ledger.Decide(c.Request().Context(), actor(c), ledger.Decision{
		Request: id, API: in.API, Line: in.Line, State: ledger.RequestState(in.State), Reason: in.Reason,
	}))
}

func toGrant(g ledger.Grant) wire.Grant {
	return wire.Grant{
		Consumer: g.Consumer, Title: g.Title, API: g.API, Line: g.Line, Plan: g.Plan.Name, Quota: g.Plan.Quota, Per: g.Plan.Per,
		Issues: g.Plan.Issues, Since: g.Since, By: g.By, Versions: g.Versions,
		Credentials: each(g.Credentials, func(c ledger.IssuedCredential) wire.IssuedCredential { return wire.IssuedCredential(c) }),
	}
}

func (a *API) grants(c *echo.Context) error {
	all, err := a.ledger.Grants(c.Request().Context(), actor(c), c.QueryParam("api"), c.QueryParam("consumer"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, toGrant))
}

func (a *API) endGrant(c *echo.Context) error {
	ctx, reason := c.Request().Context(), c.QueryParam("reason")
	return noContent(c, a.ledger.EndGrant(ctx, actor(c), c.Param("consumer"), c.Param("api"), c.Param("line"), reason))
}

// makeCredential makes a credential, and tells it this once.
func (a *API) makeCredential(c *echo.Context) error {
	var in wire.CredentialWish
	if err := decode(c, &in); err != nil {
		return err
	}
	id, credential, err := a.ledger.MakeCredential(c.Request().Context(), actor(c), c.Param("consumer"), c.Param("api"), in.Overlap)
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	return c.JSON(http.StatusCreated, wire.NewCredential{ID: id, Credential: credential})
}

func (a *API) endCredential(c *echo.Context) error {
	return noContent(c, a.ledger.EndCredential(c.Request().Context(), actor(c), c.Param("consumer"), c.Param("api"), c.Param("credential")))
}

func (a *API) carryOver(c *echo.Context) error {
	var in wire.CarryWish
	if err := decode(c, &in); err != nil {
		return err
	}
	carried, n, err := a.ledger.CarryOver(c.Request().Context(), actor(c), ledger.CarryWish{
		API: c.Param("api"), From: in.From, To: in.To, Consumers: in.Consumers, Sunset: in.Sunset, Reason: in.Reason, Guide: in.Guide,
		Sooner: in.Sooner,
	})
	if err != nil {
		return err
	}
	to := wire.Carried{Consumers: carried}
	if n.ID != 0 {
		to.Notice = &n
	}
	return c.JSON(http.StatusOK, to)
}

func (a *API) consumerGuides(c *echo.Context) error {
	all, err := a.ledger.ConsumerGuides(c.Request().Context(), actor(c), c.Param("consumer"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(all, func(g ledger.ConsumerGuide) wire.ConsumerGuide {
		steps := each(g.Steps, func(s ledger.ConsumerStep) wire.ConsumerStep { return wire.ConsumerStep(s) })
		return wire.ConsumerGuide{API: g.API, Old: g.Old, New: g.New, Uses: g.Uses, Steps: steps, Spared: g.Spared}
	}))
}

func (a *API) setTick(c *echo.Context) error {
	var in wire.Tick
	if err := decode(c, &in); err != nil {
		return err
	}
	return noContent(c, a.ledger.SetTick(c.Request().Context(), actor(c), c.Param("consumer"), ledger.Tick(in)))
}

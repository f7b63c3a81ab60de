package api

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/wire"
)

func toAudience(a ledger.Audiences) wire.Audience {
	return wire.Audience{
		Published: a.Published.Groups(), Drafts: a.Drafts.Groups(), PublishedAsLedger: a.PublishedAsLedger, DraftsAsLedger: a.DraftsAsLedger,
		Parts: each(a.Parts, func(p ledger.PartAudience) wire.PartAudience {
			return wire.PartAudience{Part: p.Part.String(), Published: p.Audience.Groups()}
		}),
	}
}

func (a *API) audience(c *echo.Context) error {
	is, err := a.ledger.Audience(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, toAudience(is))
}

// setAudience says who may read an API or, where none is named, every one of which nothing else is said.
func (a *API) setAudience(c *echo.Context) error {
	var in wire.AudienceWish
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx, who := c.Request().Context(), actor(c)
	wish := ledger.AudienceWish{Part: in.Part, AsLedger: in.AsLedger, Reason: in.Reason}
	for to, groups := range map[**ledger.Audience]*[]string{&wish.Published: in.Published, &wish.Drafts: in.Drafts} {
		if groups == nil {
			continue
		}
		audience, err := ledger.AudienceOf(*groups)
		if err != nil {
			return err
		}
		*to = &audience
	}
	return noContent(c, a.ledger.SetAudience(ctx, who, c.Param("api"), wish))
}

func toLink(l ledger.Link) wire.Link {
	return wire.Link{ID: l.ID, API: l.API, Label: l.Label, MadeBy: l.MadeBy, MadeAt: l.MadeAt, EndsAt: l.EndsAt, Ended: l.Ended}
}

func (a *API) links(c *echo.Context) error {
	links, err := a.ledger.Links(c.Request().Context(), actor(c), c.Param("api"))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, listOf(links, toLink))
}

func (a *API) makeLink(c *echo.Context) error {
	var in wire.LinkWish
	if err := decode(c, &in); err != nil {
		return err
	}
	link, password, err := a.ledger.MakeLink(c.Request().Context(), actor(c), c.Param("api"), ledger.LinkWish(in))
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	address := strings.TrimSuffix(a.public.String(), "/") + link.Path
	return c.JSON(http.StatusCreated, wire.NewLink{Link: toLink(link), Address: address, Password: password})
}

func (a *API) withdrawLink(c *echo.Context) error {
	return noContent(c, a.ledger.WithdrawLink(c.Request().Context(), actor(c), c.Param("api"), c.Param("link")))
}

func (a *API) feed(c *echo.Context) error {
	madeAt, err := a.ledger.Feed(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, wire.Feed{MadeAt: madeAt})
}

func (a *API) makeFeed(c *echo.Context) error {
	key, err := a.ledger.MakeFeed(c.Request().Context(), actor(c))
	if err != nil {
		return err
	}
	c.Set(contextSecret, true)
	at := strings.TrimSuffix(a.public.String(), "/") + "/feeds/" + key + "/"
	return c.JSON(http.StatusCreated, wire.NewFeed{Feed: at + "feed.atom", Calendar: at + "sunsets.ics"})
}

func (a *API) dropFeed(c *echo.Context) error {
	return noContent(c, a.ledger.DropFeed(c.Request().Context(), actor(c)))
}

package site

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"
)

// secretFeed answers below /feeds/KEY/: feed.atom and sunsets.ics, of all that the key's person reads or, below its name, of one API.
func (s *Site) secretFeed(c *echo.Context) error {
	ctx := c.Request().Context()
	key, below, _ := strings.Cut(strings.TrimPrefix(c.Request().URL.EscapedPath(), "/feeds/"), "/")
	who, err := s.ledger.FeedActor(ctx, key)
	var p page
	if err == nil {
		api, kind, ofAPI := strings.Cut(below, "/")
		if !ofAPI {
			api, kind = "", below
		}
		switch kind {
		case "feed.atom":
			p, err = s.feed(ctx, who, display{House: s.house, Base: referencePath}, api)
		case "sunsets.ics":
			p, err = s.sunsets(ctx, who, display{House: s.house, Base: referencePath}, api)
		default:
			err = errNowhere
		}
	}
	if p, err = s.refused(ctx, who, "", p, err); err != nil {
		return err
	}
	alone(p.header)
	p.header.Set("X-Robots-Tag", "noindex, nofollow")
	p.header.Set("Referrer-Policy", "no-referrer")
	if p.status != http.StatusOK {
		p.header.Set("Cache-Control", "no-store")
	}
	return compress(s.moved(p)).answer(c.Response(), c.Request())
}

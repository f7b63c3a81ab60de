package site

import (
	"context"
	"encoding/json"
	"fmt"
	"html"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// embed answers below /embed/API/VERSION/, where VERSION may be "latest" or a line: an operation, a group of them, or a whole version, to
// stand in a page of somebody else's. Who may hold it is set by the API's looks; the browser keeps to it (frame-ancestors, CSP Level 3,
// section 6.4.2).
func (s *Site) embed(c *echo.Context) error {
	who := s.shown(c.Request(), ledger.Nobody) // a page of somebody else's sends no cookie
	p, e, err := s.embedded(c.Request().Context(), who, "/reference/"+strings.TrimPrefix(c.Request().URL.EscapedPath(), "/embed/"))
	if err == nil {
		parents := strings.Join(append([]string{"'self'"}, e.Looks.Parents...), " ") // the console shows what it will look like
		policy := c.Response().Header().Get("Content-Security-Policy")
		p.header.Set("Content-Security-Policy", strings.Replace(policy, "frame-ancestors 'none'", "frame-ancestors "+parents, 1))
		p.header.Set("X-Robots-Tag", "noindex")
	}
	if p, err = s.refused(c.Request().Context(), who, "", p, err); err != nil {
		return err
	}
	return compress(s.moved(p)).answer(c.Response(), c.Request())
}

func (s *Site) embedded(ctx context.Context, who ledger.Actor, address string) (page, *edition, error) {
	v, err := parseTarget(address)
	if err != nil || len(v.rest) == 0 {
		return page{}, nil, errNowhere
	}
	if v.version != "" {
		if v.version, err = s.followedVersion(ctx, who, v.api, v.version); err != nil {
			return page{}, nil, err
		}
	}
	e, err := s.edition(ctx, who, v.api, v.version)
	if err != nil {
		return page{}, nil, err
	}
	f := &Frame{edition: e, Embedded: true}
	switch {
	case len(v.rest) == 1 && v.rest[0] == "parts.json":
		p, err := embeddable(e)
		return p, e, err
	case len(v.rest) == 1 && v.rest[0] == "":
		f.Here = "overview"
		p, err := s.page(ctx, f, overviewPage(f))
		return p, e, err
	case len(v.rest) == 2 && v.rest[0] == "groups":
		f.Here = "overview"
		p, err := s.group(ctx, f, v.rest[1])
		return p, e, err
	case len(v.rest) == 2 && v.rest[0] == "operations":
		if op := e.Doc.Operation(v.rest[1]); op != nil {
			f.Here = op.Slug
			p, err := s.page(ctx, f, operationPage(f, op))
			return p, e, err
		}
	}
	return page{}, nil, errNowhere
}

// embeddablePart is what another page can hold: its address below that of the version, and how it is called.
type embeddablePart struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// embeddable lists the parts of a version that another page can hold.
func embeddable(e *edition) (page, error) {
	all := []embeddablePart{}
	for _, g := range e.Doc.Groups {
		all = append(all, embeddablePart{"groups/" + url.PathEscape(g.Slug), "the group " + g.Name})
	}
	for _, g := range e.Doc.Groups {
		for _, op := range g.Operations {
			all = append(all, embeddablePart{"operations/" + url.PathEscape(op.Slug), op.Title + ", " + op.Method + " " + op.Path})
		}
	}
	text, err := json.Marshal(all)
	return page{http.StatusOK, http.Header{"Content-Type": {"application/json"}}, text}, err
}

// followedVersion is the version that an address follows: "latest" the newest, "2" the newest of line 2, and any other number itself.
func (s *Site) followedVersion(ctx context.Context, who ledger.Actor, api, number string) (string, error) {
	a, err := s.ledger.API(ctx, who, api)
	if err != nil {
		return "", err
	}
	for _, v := range published(a) {
		if v.Number == number || v.Line == number || number == "latest" {
			return v.Number, nil
		}
	}
	return number, nil
}

// oEmbed tells how to hold a page of the reference (oembed.com, version 1.0, type rich).
func (s *Site) oEmbed(c *echo.Context) error {
	asked, err := url.Parse(c.QueryParam("url"))
	if f := c.QueryParam("format"); f != "" && f != "json" {
		return c.String(http.StatusNotImplemented, "only json\n")
	}
	address, ok := "", false
	if err == nil {
		address, ok = strings.CutPrefix(asked.EscapedPath(), "/reference/")
	}
	if !ok || asked.Host != "" && asked.Host != s.public.Host && (asked.Host != c.Request().Host || s.hostShelf(c.Request()) == "") {
		return c.String(http.StatusNotFound, "url names no page of this reference\n")
	}
	who := s.shown(c.Request(), ledger.Nobody)
	_, e, err := s.embedded(c.Request().Context(), who, "/reference/"+address)
	if err != nil {
		return c.String(http.StatusNotFound, "url names no page that can be embedded\n")
	}
	width := 800
	if most, err := strconv.Atoi(c.QueryParam("maxwidth")); err == nil && most > 0 {
		width = min(width, most)
	}
	height := 600
	if most, err := strconv.Atoi(c.QueryParam("maxheight")); err == nil && most > 0 {
		height = min(height, most)
	}
	return c.JSON(http.StatusOK, map[string]any{
		"version": "1.0", "type": "rich", "title": e.Doc.Title + " " + e.Version.Number, "provider_name": s.house,
		"provider_url": s.originOf(who) + "/reference/",
		"width":        width, "height": height,
		"html": fmt.Sprintf(`<iframe src="%s" width="%d" height="%d" title="%s" loading="lazy" style="border: 0"></iframe>`,
			html.EscapeString(s.originOf(who)+"/embed/"+address), width, height, html.EscapeString(e.Doc.Title)),
	})
}

package site

import (
	"context"
	"encoding/xml"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// urlset is a site map (sitemaps.org, protocol 0.9).
type urlset struct {
	XMLName xml.Name  `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
	URLs    []siteURL `xml:"url"`
}

type siteURL struct {
	Loc     string `xml:"loc"`
	LastMod string `xml:"lastmod,omitempty"`
}

// sitemap lists the pages of the newest published version of each API: those that search engines shall lead to.
func (s *Site) sitemap(ctx context.Context, who ledger.Actor) (page, error) {
	cards, err := s.cards(ctx, who, true)
	if err != nil {
		return page{}, err
	}
	home := s.originOf(who) + referencePath
	set := urlset{URLs: []siteURL{{Loc: home}}}
	for _, c := range cards {
		day := c.Latest.PublishedAt
		day = day[:min(len(day), len(time.DateOnly))]
		set.URLs = append(set.URLs, siteURL{home + c.API.Name + "/", day})
		for _, below := range c.Pages {
			if below != "/" {
				set.URLs = append(set.URLs, siteURL{home + c.API.Name + "/" + c.Latest.Number + below, day})
			}
		}
	}
	if who.Shelf() == nil {
		shelves, err := s.ledger.Shelves(ctx, who)
		if err != nil {
			return page{}, err
		}
		for _, shelf := range shelves {
			set.URLs = append(set.URLs, siteURL{s.origin() + shelvesPath + shelf.Name + "/", ""})
		}
	}
	text, err := xml.MarshalIndent(set, "", " ")
	if err != nil {
		return page{}, err
	}
	return page{http.StatusOK, http.Header{"Content-Type": {"application/xml; charset=utf-8"}}, append([]byte(xml.Header), text...)}, nil
}

// robots keeps search engines to what is published.
func (s *Site) robots(c *echo.Context) error {
	return c.String(http.StatusOK, "User-agent: *\nDisallow: /console/\nDisallow: /api/\nSitemap: "+s.originOf(s.shown(c.Request(), ledger.Nobody))+"/reference/sitemap.xml\n")
}

// origin is where readers reach the service. It does not follow the request, whose Host is what anybody writes there.
func (s *Site) origin() string { return strings.TrimSuffix(s.public.String(), "/") }

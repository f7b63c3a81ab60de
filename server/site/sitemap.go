package site

import (
	"encoding/xml"
	"net/http"
	"strings"

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
// It is not kept: its addresses are those by which the reader came.
func (s *Site) sitemap(c *echo.Context) error {
	apis, err := s.ledger.APIs(c.Request().Context(), ledger.Nobody)
	if err != nil {
		return err
	}
	base := s.origin()
	set := urlset{URLs: []siteURL{{Loc: base + "/reference/"}}}
	for _, a := range apis {
		versions := published(a)
		if len(versions) == 0 {
			continue
		}
		e, err := s.edition(c.Request().Context(), a.Name, versions[0].Number)
		if err != nil {
			return err
		}
		day := e.Version.PublishedAt
		if len(day) > len("2026-03-01") {
			day = day[:len("2026-03-01")]
		}
		set.URLs = append(set.URLs, siteURL{base + "/reference/" + a.Name + "/", day})
		for _, address := range e.addresses()[1:] {
			set.URLs = append(set.URLs, siteURL{base + address, day})
		}
	}
	text, err := xml.MarshalIndent(set, "", " ")
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "application/xml; charset=utf-8", append([]byte(xml.Header), text...))
}

// robots keeps search engines to what is published.
func (s *Site) robots(c *echo.Context) error {
	return c.String(http.StatusOK, "User-agent: *\nDisallow: /console/\nDisallow: /api/\nSitemap: "+s.origin()+"/reference/sitemap.xml\n")
}

// origin is where readers reach the service. It does not follow the request, whose Host is what anybody writes there.
func (s *Site) origin() string { return strings.TrimSuffix(s.public.String(), "/") }

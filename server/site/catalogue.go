package site

import (
	"encoding/json"
	"net/http"

	"github.com/labstack/echo/v5"
)

// linkset is a set of links as JSON (RFC 9264, section 4.2).
type linkset struct {
	Linkset []linkContext `json:"linkset"`
}

type linkContext struct {
	Anchor      string       `json:"anchor"`
	Item        []linkTarget `json:"item,omitempty"`
	ServiceDesc []linkTarget `json:"service-desc,omitempty"`
	ServiceDoc  []linkTarget `json:"service-doc,omitempty"`
}

type linkTarget struct {
	Href string `json:"href"`
	Type string `json:"type,omitempty"`
}

// catalogueAddress is where machines look for the APIs of a publisher (RFC 9727).
const catalogueAddress = "/.well-known/api-catalog"

// catalogue lists the newest published version of each API, with its description and its reference.
func (s *Site) catalogue(c *echo.Context) error {
	ctx := c.Request().Context()
	who, err := s.reader(c.Request())
	if err != nil {
		return err
	}
	apis, err := s.ledger.APIs(ctx, who)
	if err != nil {
		return err
	}
	home := s.originOf(who)
	all := linkContext{Anchor: home + catalogueAddress, Item: []linkTarget{}}
	set := linkset{}
	for _, a := range apis {
		if a.Latest() == nil {
			continue
		}
		at := home + "/reference/" + a.Name + "/"
		all.Item = append(all.Item, linkTarget{Href: at})
		set.Linkset = append(set.Linkset, linkContext{
			Anchor:      at,
			ServiceDesc: []linkTarget{{home + "/reference/" + a.Name + "/" + a.Latest().Number + "/description.yaml", "application/yaml"}},
			ServiceDoc:  []linkTarget{{at, "text/html"}},
		})
	}
	set.Linkset = append([]linkContext{all}, set.Linkset...)
	text, err := json.Marshal(set)
	if err != nil {
		return err
	}
	if !s.ledger.Common(who) {
		alone(c.Response().Header())
	}
	c.Response().Header().Set("Link", "<"+home+catalogueAddress+`>; rel="api-catalog"`)
	return c.Blob(http.StatusOK, `application/linkset+json; profile="https://www.rfc-editor.org/info/rfc9727"`, text)
}

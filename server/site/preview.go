package site

import (
	"context"
	"fmt"
	"io"
	"mime"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// preview answers below /preview/KEY/: a version with its overlay's draft, as its readers would see it; with the overlay that is sent to
// it, while somebody writes one. Nothing of it is kept, and no search engine is let in.
func (s *Site) preview(c *echo.Context) error {
	ctx := c.Request().Context()
	address := strings.TrimPrefix(c.Request().URL.EscapedPath(), "/preview/")
	key, below, _ := strings.Cut(address, "/")
	sketch, err := sketched(c.Request())
	var p page
	if err == nil {
		p, err = s.previewed(ctx, key, below, c.QueryParam("q"), sketch)
	}
	if p, err = s.refused(c.Request().Context(), ledger.Nobody, "", p, err); err != nil {
		return err
	}
	p.header.Set("X-Robots-Tag", "noindex, nofollow")
	p.header.Set("Cache-Control", "no-store")
	p.header.Set("Referrer-Policy", "no-referrer")
	p.header.Set("Content-Security-Policy", strings.Replace(c.Response().Header().Get("Content-Security-Policy"), "frame-ancestors 'none'",
		"frame-ancestors 'self'", 1))
	return compress(s.moved(p)).answer(c.Response(), c.Request())
}

// maxSketch bounds an overlay that is being written.
const maxSketch = 1 << 20

// sketched is the overlay that is sent; nil where none is. It is JSON, which no form of another site sends.
func sketched(r *http.Request) ([]byte, error) {
	if r.Method != http.MethodPost {
		return nil, nil
	}
	if kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type")); kind != "application/json" {
		return nil, &ledger.Error{Fault: ledger.Invalid, Text: "An overlay that is being written is sent as application/json."}
	}
	text, err := io.ReadAll(io.LimitReader(r.Body, maxSketch+1))
	if err == nil && len(text) > maxSketch {
		err = &ledger.Error{Fault: ledger.Invalid, Text: fmt.Sprintf("An overlay has at most %d kB.", maxSketch>>10)}
	}
	return text, err
}

func (s *Site) previewed(ctx context.Context, key, below, question string, sketch []byte) (page, error) {
	holder, v, until, err := s.ledger.Shown(ctx, key)
	if err != nil {
		return page{}, err
	}
	var e *edition
	if sketch == nil {
		e, err = s.previewEdition(ctx, holder, v, key)
	} else {
		e, err = s.newPreview(ctx, holder.Sketching(sketch), v, key)
	}
	if err != nil {
		return page{}, err
	}
	e.Preview = until
	at, err := parseTarget("/reference/" + v.API + "/" + v.Number + "/" + below)
	if err != nil {
		return page{}, err
	}
	if at.direct() {
		return s.found(ctx, e, at.rest[0], question)
	}
	return s.renderVersion(ctx, e, at.rest)
}

// previewEdition makes the edition of a preview, anew for every act.
func (s *Site) previewEdition(ctx context.Context, holder ledger.Actor, v ledger.Version, key string) (*edition, error) {
	generation := s.ledger.Generation(holder, v.API)
	name := "preview " + key
	e, there := s.editions.Get(name)
	if !there || e.generation != generation {
		var err error
		if e, err = s.newPreview(ctx, holder, v, key); err != nil {
			return nil, err
		}
		e.generation = generation
		s.editions.Add(name, e)
	}
	mine := *e
	return &mine, nil
}

func (s *Site) newPreview(ctx context.Context, holder ledger.Actor, v ledger.Version, key string) (*edition, error) {
	a, err := s.ledger.API(ctx, holder, v.API)
	if err != nil {
		return nil, err
	}
	versions := slices.DeleteFunc(slices.Clone(a.Versions), func(o ledger.Version) bool { return !o.Shown() && o.Number != v.Number })
	slices.Reverse(versions)
	i := slices.IndexFunc(versions, func(o ledger.Version) bool { return o.Number == v.Number })
	if i < 0 {
		return nil, errNowhere
	}
	e, err := s.newEdition(ctx, holder, a, versions, i)
	if err == nil {
		e.Base = "/preview/" + key
	}
	return e, err
}

// retired is the end of a version: it leads on.
type retired struct {
	API     ledger.API
	Version ledger.Version
}

func (r *retired) Error() string { return fmt.Sprintf("%s is retired", r.Version.Ref()) }

// end is the page of an address of a retired version (410), which leads on to the newest, and to the same page elsewhere.
func (s *Site) end(ctx context.Context, who ledger.Actor, address string, r *retired) page {
	latest := r.API.Latest()
	p, err := s.html(ctx, http.StatusGone, retiredPage(s.house, r, latest, s.onward(ctx, who, address)))
	if err != nil {
		s.log.Error("render", "error", err)
		return s.lost(ctx, who, address, errNowhere)
	}
	if latest != nil {
		p.header.Set("Link", fmt.Sprintf("</reference/%s/>; rel=\"latest-version\"", r.API.Name))
	}
	return p
}

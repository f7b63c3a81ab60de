// Package site is the published reference: pages rendered by the server, readable without JavaScript and without a sign-in.
//
// Addresses stay valid for ever: /reference/berths/ (newest published), /reference/berths/1.4.0/, and below it
// operations/{id}, schemas/{name}, changes, description.yaml and source; /reference/berths/guides/1.4.0..2.0.0 and
// /reference/berths/notices. A draft answers 404. Versions that a notice speaks of carry Deprecation (RFC 9745), Sunset
// (RFC 8594) and Link headers.
package site

import (
	"bytes"
	"embed"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"sync"

	"github.com/labstack/echo/v5"

	"oldledger/core/reference"
	"oldledger/ledger"
)

//go:embed pages/*.html
var pages embed.FS

//go:embed assets
var assets embed.FS

// Site answers /reference.
type Site struct {
	ledger *ledger.Ledger
	log    *slog.Logger
	pages  *template.Template
	assets fs.FS

	mu       sync.Mutex
	rendered map[string]page                // by path
	docs     map[string]*reference.Document // by reference to a version
	indexes  map[*reference.Document]*reference.Index
	seq      int64 // the journal entry that rendered stands for
}

// page is one rendered answer.
type page struct {
	status int
	header http.Header
	body   []byte
}

// New makes the site of a ledger; house is the name that stands above every page.
func New(l *ledger.Ledger, house string, log *slog.Logger) (*Site, error) {
	t, err := template.New("").Funcs(functions).Funcs(template.FuncMap{"house": func() string { return house }}).ParseFS(pages, "pages/*.html")
	if err != nil {
		return nil, err
	}
	sub, err := fs.Sub(assets, "assets")
	if err != nil {
		return nil, err
	}
	return &Site{ledger: l, log: log, pages: t, assets: sub, rendered: map[string]page{}, docs: map[string]*reference.Document{}, indexes: map[*reference.Document]*reference.Index{}}, nil
}

// Register adds the routes to e.
func (s *Site) Register(e *echo.Echo) {
	e.GET("/", func(c *echo.Context) error { return c.Redirect(http.StatusFound, "/reference/") })
	e.GET("/reference", func(c *echo.Context) error { return c.Redirect(http.StatusMovedPermanently, "/reference/") })
	e.GET("/reference/assets/*", s.asset)
	e.GET("/robots.txt", s.robots)
	e.GET("/reference/", s.serve(s.shelf))
	e.GET("/reference/sitemap.xml", s.sitemap)
	e.GET("/reference/:api", slash)
	e.GET("/reference/:api/", s.serve(s.overview))
	e.GET("/reference/:api/notices", s.serve(s.notices))
	e.GET("/reference/:api/guides/:pair", s.serve(s.guide))
	e.GET("/reference/:api/:version", slash)
	e.GET("/reference/:api/:version/", s.serve(s.overview))
	e.GET("/reference/:api/:version/operations/:id", s.serve(s.operation))
	e.GET("/reference/:api/:version/schemas/:name", s.serve(s.schema))
	e.GET("/reference/:api/:version/became/operations/:id", s.serve(s.operationHere))
	e.GET("/reference/:api/:version/became/schemas/:name", s.serve(s.schemaHere))
	e.GET("/reference/:api/:version/search", s.direct(s.search))
	e.GET("/reference/:api/:version/changes", s.serve(s.changes))
	e.GET("/reference/:api/:version/description.yaml", s.serve(s.description))
	e.GET("/reference/:api/:version/source", s.serve(s.source))
	e.GET("/reference/:api/:version/source.zip", s.serve(s.sourceArchive))
	e.GET("/reference/:api/:version/source/*", s.serve(s.sourceFile))
	e.GET("/reference/*", s.serve(func(*echo.Context) (page, error) { return page{}, errNowhere }))
}

var errNowhere = &ledger.Error{Fault: ledger.NotFound, Text: "There is no page at this address."}

func slash(c *echo.Context) error {
	return c.Redirect(http.StatusMovedPermanently, c.Request().URL.EscapedPath()+"/")
}

// asset serves fonts and the style sheet. They change only with the program, and are small.
func (s *Site) asset(c *echo.Context) error {
	name := c.Param("*")
	body, err := fs.ReadFile(s.assets, name)
	if err != nil {
		return s.write(c, s.lost(errNowhere))
	}
	kind := "text/plain; charset=utf-8"
	switch {
	case strings.HasSuffix(name, ".css"):
		kind = "text/css; charset=utf-8"
	case strings.HasSuffix(name, ".woff2"):
		kind = "font/woff2"
	}
	c.Response().Header().Set("Cache-Control", "public, max-age=86400")
	return c.Blob(http.StatusOK, kind, body)
}

// maxRendered bounds the pages kept in memory.
const maxRendered = 2000

// serve answers from the pages rendered since the newest act in the journal, and renders what is not there.
func (s *Site) serve(render func(*echo.Context) (page, error)) echo.HandlerFunc {
	return func(c *echo.Context) error {
		seq, err := s.ledger.Acts(c.Request().Context())
		if err != nil {
			return err
		}
		key := c.Request().URL.EscapedPath() + s.ledger.Today().Format(" 2006-01-02")
		s.mu.Lock()
		if seq != s.seq || len(s.rendered) > maxRendered {
			clear(s.rendered)
			clear(s.docs)
			clear(s.indexes)
			s.seq = seq
		}
		p, done := s.rendered[key]
		s.mu.Unlock()
		if done {
			return s.write(c, p)
		}
		p, err = render(c)
		if err != nil {
			var refused *ledger.Error
			if !errors.As(err, &refused) {
				return err
			}
			return s.write(c, s.lost(refused))
		}
		s.mu.Lock()
		if s.seq == seq {
			s.rendered[key] = p
		}
		s.mu.Unlock()
		return s.write(c, p)
	}
}

// direct answers with what is not kept, and with the page of what is not there.
func (s *Site) direct(answer echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		err := answer(c)
		var refused *ledger.Error
		if errors.As(err, &refused) {
			return s.write(c, s.lost(refused))
		}
		return err
	}
}

func (s *Site) write(c *echo.Context, p page) error {
	h := c.Response().Header()
	for name, values := range p.header {
		h[name] = values
	}
	return c.Blob(p.status, h.Get("Content-Type"), p.body)
}

// html renders one page.
func (s *Site) html(name string, status int, data any) (page, error) {
	var b bytes.Buffer
	if err := s.pages.ExecuteTemplate(&b, name, data); err != nil {
		return page{}, err
	}
	h := http.Header{}
	h.Set("Content-Type", "text/html; charset=utf-8")
	return page{status: status, header: h, body: b.Bytes()}, nil
}

// lost is the page of an address that leads nowhere.
func (s *Site) lost(why *ledger.Error) page {
	status := http.StatusNotFound
	if why.Fault == ledger.Invalid {
		status = http.StatusBadRequest
	}
	p, err := s.html("lost.html", status, map[string]any{"Title": "Not here", "Why": why.Text})
	if err != nil {
		s.log.Error("render", "error", err)
		return page{status: http.StatusInternalServerError, header: http.Header{"Content-Type": {"text/plain"}}, body: []byte("The page could not be made.\n")}
	}
	return p
}

// Package site is the published reference: pages rendered by the server, readable without JavaScript and without a sign-in.
//
// Addresses stay valid for ever: /reference/berths/ (newest published), /reference/berths/1.4.0/, and below it
// operations/{id}, schemas/{name}, changes, description.yaml and source; /reference/berths/guides/1.4.0..2.0.0 and
// /reference/berths/notices. A draft answers 404. Versions that a notice speaks of carry Deprecation (RFC 9745), Sunset
// (RFC 8594) and Link headers.
//
// A page is rendered once: those of a version when it is published, all others when they are first asked for. It is kept compressed
// until an act changes what is known of its API, or the day ends.
package site

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"runtime/debug"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/a-h/templ"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"

	"oldledger/ledger"
	"oldledger/server/tries"
)

//go:embed assets
var assets embed.FS

// Site answers /reference.
type Site struct {
	// Set by New.
	ledger *ledger.Ledger
	house  string
	public *url.URL // where readers reach the service
	log    *slog.Logger
	asks   func(*http.Request) (ledger.Actor, error)
	tries  *tries.Tries
	seeing string
	assets map[string]page

	manualPages []manualPage

	// Kept until their generation or their day has passed, or there is no room.
	cache    *pageCache
	editions *lru.Cache[string, *edition] // by reference to a version

	// Under way; stop ends what is being prepared.
	making    making
	preparing context.Context
	stop      context.CancelFunc
	work      sync.WaitGroup
}

// making is what is being made, once for all who ask for it.
type making struct {
	edition ledger.Flight[*edition]
	card    ledger.Flight[ledger.Card]
}

// page is one rendered answer.
type page struct {
	status int
	header http.Header
	body   []byte
}

// Options of a site.
type Options struct {
	Ledger *ledger.Ledger
	House  string   // the name that stands above every page
	Public *url.URL // where readers reach the service; its path stands before every address
	Log    *slog.Logger
	// Who is who asks, by session or token; nil where nobody has either. Who asks by a link's password is found here.
	Who func(*http.Request) (ledger.Actor, error)
	// The cookie that is set while somebody looks as another, who may say who reads; "" where nobody does.
	Seeing string
	Tries  *tries.Tries // of the passwords of links
}

// New makes the site of a ledger.
func New(o Options) (*Site, error) {
	l, house := o.Ledger, o.House
	s := &Site{
		ledger: l, house: house, public: o.Public, log: o.Log, asks: o.Who, tries: o.Tries, seeing: o.Seeing,
		cache: newPageCache(), assets: map[string]page{},
	}
	var err error
	if s.editions, err = lru.New[string, *edition](maxEditions); err != nil {
		return nil, err
	}
	if err := s.readAssets(); err != nil {
		return nil, err
	}
	if s.manualPages, err = readManual(); err != nil {
		return nil, err
	}
	s.preparing, s.stop = context.WithCancel(context.Background())
	l.OnPublished(func(ref string) {
		s.work.Go(func() { s.tryToPrepare(ref) })
	})
	return s, nil
}

func (s *Site) tryToPrepare(ref string) {
	err := safely(func() error { return s.Prepare(s.preparing, ref) })
	var refused *ledger.Error // it was taken back meanwhile
	if err != nil && s.preparing.Err() == nil && !errors.As(err, &refused) {
		s.log.Error("prepare the pages", "version", ref, "error", err)
	}
}

// Warm renders, after a while, the pages of the newest version of each API, one after the other: a service that has just begun has none.
func (s *Site) Warm(after time.Duration) {
	s.work.Go(func() {
		select {
		case <-time.After(after):
		case <-s.preparing.Done():
			return
		}
		apis, err := s.ledger.APIs(s.preparing, ledger.Itself)
		if err != nil {
			if s.preparing.Err() == nil {
				s.log.Error("prepare the pages", "error", err)
			}
			return
		}
		for _, a := range apis {
			if v := a.Latest(); v != nil && s.preparing.Err() == nil {
				s.tryToPrepare(v.Ref())
			}
		}
	})
}

// Register adds the routes to e.
func (s *Site) Register(e *echo.Echo) {
	e.GET("/", func(c *echo.Context) error { return c.Redirect(http.StatusFound, "/reference/") })
	e.GET("/reference", func(c *echo.Context) error { return c.Redirect(http.StatusMovedPermanently, "/reference/") })
	e.GET("/robots.txt", s.robots)
	e.GET("/favicon.ico", s.icon)
	e.GET(catalogueAddress, s.catalogue)
	e.GET("/reference/*", s.serve)
	e.GET(shelvesPath+"*", s.serve)
	e.GET("/preview/*", s.preview)
	e.POST("/preview/*", s.preview)
	e.GET("/feeds/*", s.secretFeed)
	e.GET("/open/*", s.link)
	e.POST("/open/*", s.openLink)
	e.GET("/embed/*", s.embed)
	e.GET("/oembed", s.oEmbed)
	e.GET("/manual", func(c *echo.Context) error { return c.Redirect(http.StatusMovedPermanently, "/manual/") })
	e.GET("/manual/*", s.manual)
}

// safely turns a panic into an error: nobody above the goroutine would, and the service would end.
func safely(do func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("%v\n%s", p, debug.Stack())
		}
	}()
	return do()
}

// Stop ends the preparing of pages.
func (s *Site) Stop() { s.stop() }

// Wait waits until the pages that are being prepared are done.
func (s *Site) Wait() { s.work.Wait() }

// icon is the sign of the ledger in a browser's tab.
func (s *Site) icon(c *echo.Context) error {
	p := s.assets["favicon.ico"]
	c.Response().Header().Set("Cache-Control", "public, max-age=86400")
	return c.Blob(http.StatusOK, "image/x-icon", p.body)
}

var errNowhere = &ledger.Error{Fault: ledger.NotFound, Text: "There is no page at this address."}

// readAssets reads fonts, scripts and style sheets. They change only with the program.
func (s *Site) readAssets() error {
	kinds := map[string]string{
		".css": "text/css; charset=utf-8", ".js": "text/javascript; charset=utf-8", ".woff2": "font/woff2",
		".txt": "text/plain; charset=utf-8", ".ico": "image/x-icon",
	}
	return fs.WalkDir(assets, "assets", func(name string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() {
			return err
		}
		body, err := fs.ReadFile(assets, name)
		if err != nil {
			return err
		}
		h := http.Header{"Content-Type": {kinds[path.Ext(name)]}, "Cache-Control": {"public, max-age=86400"}}
		s.assets[name[len("assets/"):]] = page{http.StatusOK, h, body}
		return nil
	})
}

// refused is the page of a refusal: of what is not there, or is gone. Any other error stays one. address is what was asked for, "" where
// nobody is to be led on from it.
func (s *Site) refused(ctx context.Context, who ledger.Actor, address string, p page, err error) (page, error) {
	var refused *ledger.Error
	var gone *retired
	switch {
	case errors.As(err, &gone):
		return s.end(ctx, who, address, gone), nil
	case errors.As(err, &refused):
		return s.lost(ctx, who, address, refused), nil
	}
	return p, err
}

// html renders one page.
func (s *Site) html(ctx context.Context, status int, c templ.Component) (page, error) {
	var b bytes.Buffer
	b.Grow(32 << 10)
	if err := c.Render(ctx, &b); err != nil {
		return page{}, err
	}
	h := http.Header{}
	h.Set("Content-Type", "text/html; charset=utf-8")
	return page{status: status, header: h, body: b.Bytes()}, nil
}

// sentence is a refusal as a page has it.
func sentence(text string) string {
	if text == "" {
		return ""
	}
	first, size := utf8.DecodeRuneInString(text)
	text = string(unicode.ToUpper(first)) + text[size:]
	if !strings.HasSuffix(text, ".") {
		text += "."
	}
	return text
}

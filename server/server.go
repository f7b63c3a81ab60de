// Package server is the running service: the HTTP interface, the reference site and the console on one address.
//
// A request is watched (log, counts), led to the one address of what it asks for, answered at once where its page is kept, and else routed
// to server/api, server/site or server/console.
package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/klauspost/compress/gzhttp"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"oldledger/ledger"
	"oldledger/server/api"
	"oldledger/server/console"
	"oldledger/server/provider"
	"oldledger/server/site"
	"oldledger/server/trace"
	"oldledger/server/tries"
)

// Options of a service.
type Options struct {
	Ledger  *ledger.Ledger
	House   string // the name above the published reference
	Log     *slog.Logger
	Public  *url.URL // where readers reach the service
	Proxied bool     // whether they do through a proxy, which says for whom it asks

	Provider provider.Options // of identities; without an issuer there is none
}

// Server is a service that is not yet listening.
type Server struct {
	log     *slog.Logger
	pages   *site.Site
	handler http.Handler
}

// New assembles a service.
func New(o Options) (*Server, error) {
	e := echo.New()
	e.Logger = o.Log
	sessions := scs.New()
	sessions.Store = sessionStore{o.Ledger}
	sessions.Lifetime = 12 * time.Hour
	sessions.Cookie.Name = "oldledger"
	sessions.Cookie.SameSite = http.SameSiteLaxMode // who follows a link to a page for some reads it
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.Secure = o.Public.Scheme == "https"
	e.IPExtractor = echo.ExtractIPDirect()
	if o.Proxied {
		e.IPExtractor = echo.ExtractIPFromXFFHeader()
	}

	e.Use(routed, middleware.Recover(), guard)
	slow := tries.New()
	calls := api.New(api.Options{Ledger: o.Ledger, Public: o.Public, Sessions: sessions, Tries: slow, Log: o.Log})
	pages, err := site.New(site.Options{
		Ledger: o.Ledger, House: o.House, Public: o.Public, Log: o.Log, Who: calls.Who, Seeing: api.SeeingCookie, Tries: slow,
	})
	if err != nil {
		return nil, fmt.Errorf("prepare the reference site: %w", err)
	}
	w := newWatch(o.Log, o.Ledger, pages)
	calls.Register(e)
	identities := o.Provider
	identities.Ledger, identities.Sessions, identities.Public, identities.Tries, identities.Log = o.Ledger, sessions, o.Public, slow, o.Log
	signIn, err := provider.New(identities)
	if err != nil {
		return nil, fmt.Errorf("prepare the sign-in: %w", err)
	}
	signIn.Register(e)
	pages.Register(e)
	if err := console.Register(e); err != nil {
		return nil, fmt.Errorf("prepare the console: %w", err)
	}
	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") })
	e.GET("/readyz", func(c *echo.Context) error {
		if err := o.Ledger.Ready(c.Request().Context()); err != nil {
			trace.Of(c.Request().Context()).Err = err
			return c.String(http.StatusServiceUnavailable, "the records cannot be written\n")
		}
		return c.String(http.StatusOK, "ready\n")
	})
	e.GET("/metrics", near(echo.WrapHandler(w.metrics())))
	return &Server{log: o.Log, pages: pages, handler: w.watched(atOnce(pages), answers(sessions, e))}, nil
}

// Handler is the whole service.
func (s *Server) Handler() http.Handler { return s.handler }

// Warm prepares what readers will ask for first, and waits until it is ready. Serve does so beside its answers.
func (s *Server) Warm() {
	s.pages.Warm(0)
	s.pages.Wait()
}

// How long open requests have to finish once the service stops: then what they compute is ended, and at last their connections are.
const (
	finishing = 5 * time.Second
	ending    = 3 * time.Second
)

// beforeWarming is how long a service that has just begun has for what is asked of it at once.
const beforeWarming = 2 * time.Second

// Serve answers on a listener until ctx ends, then lets open requests finish while they may.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	defer s.pages.Wait()                                            // what is being prepared reads the records, which the caller closes
	working, stop := context.WithCancel(context.WithoutCancel(ctx)) // what requests ask for is computed while it lasts
	defer stop()
	srv := &http.Server{
		BaseContext:       func(net.Listener) context.Context { return working },
		Handler:           s.handler,
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       2 * time.Minute,
		WriteTimeout:      5 * time.Minute,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
		ErrorLog:          slog.NewLogLogger(s.log.Handler(), slog.LevelWarn),
	}
	s.pages.Warm(beforeWarming)
	done := make(chan error, 1)
	go func() { done <- srv.Serve(l) }()
	select {
	case err := <-done:
		return err
	case <-ctx.Done():
	}
	s.pages.Stop()
	finish, cancel := context.WithTimeout(context.WithoutCancel(ctx), finishing)
	defer cancel()
	err := srv.Shutdown(finish)
	if !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	stop()
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), ending)
	defer cancel()
	if err := srv.Shutdown(end); !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return srv.Close()
}

// atOnce leads a request for the reference to its one address, or answers from the pages that are kept. The route is "" where it does
// neither.
func atOnce(pages *site.Site) func(http.ResponseWriter, *http.Request) (route string) {
	return func(w http.ResponseWriter, r *http.Request) string {
		if !ofReference(r.URL.Path) {
			return ""
		}
		protect(w.Header(), r.URL.Path)
		if to := canonical(r.URL); to != "" {
			http.Redirect(w, r, to, http.StatusMovedPermanently)
			return "another spelling"
		}
		if pages.CachedPages(w, r) {
			return "/reference/*"
		}
		return ""
	}
}

// answers is the way of all other requests, with a session for all but the reference, which looks for one where its pages are not for
// everybody.
func answers(sessions *scs.SessionManager, routes http.Handler) http.Handler {
	routes = headed(routes)
	known := sessions.LoadAndSave(gzhttp.GzipHandler(routes))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if ofReference(r.URL.Path) {
			routes.ServeHTTP(w, r) // it packs its pages itself
			return
		}
		known.ServeHTTP(w, r)
	})
}

// headed answers HEAD as GET without a body (RFC 9110, section 9.3.2): net/http leaves the body out.
func headed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodHead {
			asked := *r
			asked.Method = http.MethodGet
			r = &asked
		}
		next.ServeHTTP(w, r)
	})
}

// canonical is the one address of what an address asks for, where that is spelt otherwise: with an escape where none is needed, or none
// where one is (RFC 3986, section 6.2.2). It is "" for the one address itself, and for what cannot be spelt.
func canonical(u *url.URL) string {
	spelt := u.EscapedPath()
	if !strings.Contains(spelt, "%") && plain(spelt) {
		return ""
	}
	parts := strings.Split(spelt, "/")
	for i, part := range parts {
		text, err := url.PathUnescape(part)
		if err != nil {
			return ""
		}
		parts[i] = url.PathEscape(text)
	}
	to := strings.Join(parts, "/")
	if to == spelt {
		return ""
	}
	if u.RawQuery != "" {
		to += "?" + u.RawQuery
	}
	return to
}

// plain reports whether a path is made of what has one spelling only.
func plain(path string) bool {
	for i := range len(path) {
		c := path[i]
		if !('a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || c == '/' || c == '-' || c == '.' || c == '_' || c == '~') {
			return false
		}
	}
	return true
}

// policy lets pages load from this address only, and no page be framed.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; connect-src 'self'; frame-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// ofReference reports whether an address is one of the reference's pages.
func ofReference(path string) bool {
	return strings.HasPrefix(path, "/reference/") || strings.HasPrefix(path, "/preview/") || strings.HasPrefix(path, "/embed/") ||
		strings.HasPrefix(path, "/open/") || strings.HasPrefix(path, "/shelves/") || strings.HasPrefix(path, "/feeds/")
}

// pagePolicy is that of the reference, which has no style but its style sheets.
var pagePolicy = strings.Replace(policy, " 'unsafe-inline'", "", 1)

// routed takes down the route of a request for the log.
func routed(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		trace.Of(c.Request().Context()).Route = c.Path()
		return next(c)
	}
}

// near answers those who ask from this machine or a private network (RFC 1918, RFC 4193), as those do who watch a service; for others there
// is nothing.
func near(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		from, err := netip.ParseAddr(c.RealIP())
		if from = from.Unmap(); err != nil || !from.IsLoopback() && !from.IsPrivate() {
			return echo.ErrNotFound
		}
		return next(c)
	}
}

// guard sets the headers that keep a browser from doing what no page here asks for.
func guard(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		protect(c.Response().Header(), c.Request().URL.Path)
		return next(c)
	}
}

var (
	policies  = []string{policy}
	ofPages   = []string{pagePolicy}
	noSniff   = []string{"nosniff"}
	referrers = []string{"same-origin"}
)

func protect(h http.Header, path string) {
	h["Content-Security-Policy"], h["X-Content-Type-Options"], h["Referrer-Policy"] = policies, noSniff, referrers
	if ofReference(path) {
		h["Content-Security-Policy"] = ofPages
	}
}

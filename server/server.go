// Package server is the running service: the HTTP interface, the reference site and the console on one address.
package server

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"oldledger/ledger"
	"oldledger/server/api"
	"oldledger/server/console"
	"oldledger/server/site"
)

// Options of a service.
type Options struct {
	Ledger *ledger.Ledger
	House  string // the name above the published reference
	Log    *slog.Logger
	Public *url.URL // where readers reach the service, when that is not where it listens; nil where it is
}

// Server is a service that is not yet listening.
type Server struct {
	echo    *echo.Echo
	pages   *site.Site
	handler http.Handler
}

// New assembles a service.
func New(o Options) (*Server, error) {
	e := echo.New()
	e.Logger = o.Log
	sessions := scs.New()
	sessions.Store = kept{o.Ledger}
	sessions.Lifetime = 12 * time.Hour
	sessions.Cookie.Name = "oldledger"
	sessions.Cookie.SameSite = http.SameSiteStrictMode
	sessions.Cookie.HttpOnly = true

	e.Use(middleware.Recover(), guard, middleware.GzipWithConfig(middleware.GzipConfig{Skipper: keepsItsOwn}))
	pages, err := site.New(site.Options{Ledger: o.Ledger, House: o.House, Public: o.Public, Log: o.Log, Header: header("/reference/")})
	if err != nil {
		return nil, fmt.Errorf("prepare the reference site: %w", err)
	}
	api.New(api.Options{Ledger: o.Ledger, Public: o.Public, Sessions: sessions, Log: o.Log}).Register(e)
	pages.Register(e)
	if err := console.Register(e); err != nil {
		return nil, fmt.Errorf("prepare the console: %w", err)
	}
	e.GET("/healthz", func(c *echo.Context) error { return c.String(http.StatusOK, "ok\n") })
	e.GET("/readyz", func(c *echo.Context) error {
		if err := o.Ledger.Ready(c.Request().Context()); err != nil {
			return err
		}
		return c.String(http.StatusOK, "ready\n")
	})
	return &Server{echo: e, pages: pages, handler: withSessions(sessions, pages, e)}, nil
}

// Handler is the whole service.
func (s *Server) Handler() http.Handler { return s.handler }

// How long open requests have to finish once the service stops: then what they compute is ended, and at last their connections are.
const (
	finishing = 5 * time.Second
	ending    = 3 * time.Second
)

// Serve answers on a listener until ctx ends, then lets open requests finish while they may.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	defer s.pages.Wait() // what is being prepared reads the records, which the caller closes
	f := newFront(l, s.pages.Ready)
	defer f.Wait()
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
	}
	done := make(chan error, 1)
	go func() { done <- srv.Serve(f) }()
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

// withSessions gives sessions to all but the pages of the reference, which know nobody; those that are kept are answered at once.
func withSessions(sessions *scs.SessionManager, pages *site.Site, h http.Handler) http.Handler {
	known := sessions.LoadAndSave(h)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasPrefix(r.URL.Path, "/reference/") {
			known.ServeHTTP(w, r)
			return
		}
		protect(w.Header(), r.URL.Path)
		if !pages.Kept(w, r) {
			h.ServeHTTP(w, r)
		}
	})
}

// policy lets pages load from this address only, and no page be framed.
const policy = "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; img-src 'self' data:; connect-src 'self'; frame-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// keepsItsOwn tells whether the answer is compressed already, or not worth it.
func keepsItsOwn(c *echo.Context) bool { return ofReference(c.Request().URL.Path) }

// ofReference tells whether an address is one of the reference's pages.
func ofReference(path string) bool {
	return slices.ContainsFunc([]string{"/reference/", "/preview/", "/embed/"}, func(room string) bool { return strings.HasPrefix(path, room) })
}

// pagePolicy is that of the reference, which has no style but its style sheets.
var pagePolicy = strings.Replace(policy, " 'unsafe-inline'", "", 1)

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

// header is what protects a page at an address.
func header(path string) http.Header {
	h := http.Header{}
	protect(h, path)
	return h
}

func protect(h http.Header, path string) {
	h["Content-Security-Policy"], h["X-Content-Type-Options"], h["Referrer-Policy"] = policies, noSniff, referrers
	if ofReference(path) {
		h["Content-Security-Policy"] = ofPages
	}
}

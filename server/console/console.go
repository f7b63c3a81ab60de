// Package console serves the built console, which talks to server/api only. Where it was not built, one page says how to.
package console

import (
	"embed"
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/labstack/echo/v5"
)

//go:embed all:dist
var dist embed.FS

const notBuilt = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Old Ledger</title>
<h1>The console is not built</h1>
<p>This program was built without it. With Node at hand, <code>make build</code> builds both.
Everything else works: the <a href="/reference/">reference</a>, the command line and <a href="/api/v1/description.yaml">/api/v1</a>.</p></html>
`

// Register adds the routes to e.
func Register(e *echo.Echo) error {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return err
	}
	index, err := fs.ReadFile(files, "index.html")
	if err != nil {
		index = []byte(notBuilt) // built without Node: see the package comment
	}
	e.GET("/console", func(c *echo.Context) error { return c.Redirect(http.StatusMovedPermanently, "/console/") })
	e.GET("/console/*", func(c *echo.Context) error {
		name := path.Clean(strings.TrimPrefix(c.Param("*"), "/"))
		if !strings.HasPrefix(name, "assets/") {
			c.Response().Header().Set("Cache-Control", "no-cache")
			return c.HTMLBlob(http.StatusOK, index) // a route of the console
		}
		body, err := fs.ReadFile(files, name)
		if err != nil {
			return c.String(http.StatusNotFound, "not found\n")
		}
		c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable") // names carry a digest
		return c.Blob(http.StatusOK, contentType(name), body)
	})
	return nil
}

func contentType(name string) string {
	switch path.Ext(name) {
	case ".js":
		return "text/javascript; charset=utf-8"
	case ".css":
		return "text/css; charset=utf-8"
	case ".woff2":
		return "font/woff2"
	case ".svg":
		return "image/svg+xml"
	}
	return "application/octet-stream"
}

package site

import (
	"bytes"
	"net/http"
	"strings"

	"github.com/a-h/templ"
	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

func (s *Site) looksAsAnother(r *http.Request) bool {
	_, err := r.Cookie(s.seeing)
	return err == nil
}

// serveMarked answers whoever looks as another: with the page that the other gets, which says so. Nobody keeps it.
func (s *Site) serveMarked(c *echo.Context, who ledger.Actor, address string) error {
	r := c.Request()
	full, err := s.reader(r)
	if err != nil {
		return err
	}
	one, _, err := s.made(r, who, address)
	if err != nil || full.Seeing() == "" {
		if err == nil {
			err = one.answer(c.Response(), r)
		}
		return err
	}
	body := one.plain
	if body == nil {
		if body, err = one.unpack(); err != nil {
			return err
		}
	}
	h := one.header.Clone()
	h.Del("Vary")
	alone(h)
	h.Set("Cache-Control", "no-store")
	if strings.HasPrefix(h.Get("Content-Type"), "text/html") {
		body = withMark(body, full.Seeing(), strings.TrimSuffix(s.public.Path, "/")+"/console/")
	}
	return compress(page{one.status, h, body}).answer(c.Response(), r)
}

// withMark is a page that says as whom somebody looks, and leads to where they stop.
func withMark(body []byte, seeing, console string) []byte {
	at := bytes.Index(body, []byte("<body"))
	if at < 0 {
		return body
	}
	end := bytes.IndexByte(body[at:], '>')
	if end < 0 {
		return body
	}
	at += end + 1
	mark := `<p class="seeing" role="status">You look as ` + templ.EscapeString(seeing) + `. <a href="` + templ.EscapeString(console) + `">Look as yourself again, in the console</a></p>`
	return append(append(bytes.Clone(body[:at]), mark...), body[at:]...)
}

package site

import (
	"bytes"
	"errors"
	"net/http"
	"net/url"
	"strings"

	"github.com/a-h/templ"
	"github.com/labstack/echo/v5"

	"oldledger/core/compare"
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
	marked, err := one.changed(func(body []byte) []byte { return withMark(body, full.Seeing(), s.prefix()+"/console/") })
	if err != nil {
		return err
	}
	marked.header.Set("Cache-Control", "no-store")
	return compress(marked).answer(c.Response(), r)
}

// answerTold answers whoever may change who reads an API: at the head of its pages stands who does, and at that of a guide whom its changes
// touch.
func (s *Site) answerTold(c *echo.Context, one *cachedPage, told, address string) error {
	r := c.Request()
	v, err := parseTarget(address)
	if err != nil {
		return err
	}
	mark := `<a class="grade editorial" href="` + s.prefix() + "/console/apis/" + url.PathEscape(v.api) +
		`/readers" title="Who may read it; you may say so">· for ` + templ.EscapeString(told) + `</a>`
	touched, err := s.touched(r, v)
	if err != nil {
		return err
	}
	mark += touched
	marked, err := one.changed(func(body []byte) []byte { return bytes.Replace(body, []byte(topRest), []byte(mark+topRest), 1) })
	if err != nil {
		return err
	}
	return compress(marked).answer(c.Response(), r)
}

// touched is the mark that says whom the changes of a guide touch; "" on other pages, and for a token that may not know.
func (s *Site) touched(r *http.Request, v target) (mark string, err error) {
	old, new, ok := v.guided()
	if !ok {
		return "", nil
	}
	lead, err := s.asks(r) // not as a reader: those know no callers
	if err != nil {
		return "", err
	}
	impact, err := s.ledger.Impact(r.Context(), lead, v.api+"@"+old, v.api+"@"+new, compare.Options{})
	var refused *ledger.Error
	if errors.As(err, &refused) && refused.Fault == ledger.Forbidden {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	return ` <a class="grade editorial" href="` + s.prefix() + "/console/apis/" + url.PathEscape(v.api) + "/guide/" +
		url.PathEscape(old+".."+new) + `" title="In the console: step by step">· ` + impact.Words() + `</a>`, nil
}

// topRest stands in the head of a page before what leads elsewhere.
const topRest = `<span class="push"></span>`

// prefix is the path of another host below which readers reach the service.
func (s *Site) prefix() string { return strings.TrimSuffix(s.public.Path, "/") }

// changed is a page for one reader alone; of a page that a browser shows, with its text changed.
func (p *cachedPage) changed(by func([]byte) []byte) (page, error) {
	h, body := p.header.Clone(), p.plain
	h.Del("Vary")
	alone(h)
	if body == nil {
		var err error
		if body, err = p.unpack(); err != nil {
			return page{}, err
		}
	}
	if strings.HasPrefix(h.Get("Content-Type"), "text/html") {
		body = by(body)
	}
	return page{p.status, h, body}, nil
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

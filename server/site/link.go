package site

import (
	"errors"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// linkKey is the key in the address of a link.
func linkKey(c *echo.Context) string {
	key, _, _ := strings.Cut(strings.TrimPrefix(c.Request().URL.EscapedPath(), "/open/"), "/")
	return key
}

// link answers below /open/KEY/: it asks for the password of the link.
func (s *Site) link(c *echo.Context) error {
	var p page
	err := s.ledger.Linked(c.Request().Context(), linkKey(c))
	if err == nil {
		p, err = s.html(c.Request().Context(), http.StatusOK, linkPage(s.house, ""))
	}
	return s.answerLink(c, p, err)
}

// maxForm bounds what the form of a link sends.
const maxForm = 4 << 10

// openLink takes the password of a link, and leads whoever knows it to the API.
func (s *Site) openLink(c *echo.Context) error {
	ctx, r := c.Request().Context(), c.Request()
	r.Body = http.MaxBytesReader(c.Response(), r.Body, maxForm)
	key := linkKey(c)
	again := func(status int, why string) error {
		p, err := s.html(ctx, status, linkPage(s.house, why))
		return s.answerLink(c, p, err)
	}
	if err := r.ParseForm(); err != nil {
		return again(http.StatusBadRequest, "The password did not come through.")
	}
	wait, succeeded := s.tries.Begin("link "+key, c.RealIP(), time.Now())
	if wait > 0 {
		c.Response().Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		return again(http.StatusTooManyRequests, "Too many tries failed; wait "+wait.Round(time.Second).String()+".")
	}
	api, opening, ends, err := s.ledger.OpenLink(ctx, key, r.PostForm.Get("password"), c.RealIP())
	var refused *ledger.Error
	if errors.As(err, &refused) && refused.Fault == ledger.SignInFirst {
		return again(http.StatusForbidden, refused.Text)
	}
	if err != nil {
		return s.answerLink(c, page{}, err)
	}
	succeeded()
	to := "/reference/" + url.PathEscape(api) + "/"
	prefix := strings.TrimSuffix(s.public.Path, "/")
	http.SetCookie(c.Response(), &http.Cookie{
		Name: openingCookie + api, Value: opening, Path: prefix + to, Expires: ends, HttpOnly: true, SameSite: http.SameSiteLaxMode,
		Secure: s.public.Scheme == "https",
	})
	p := page{status: http.StatusSeeOther, header: http.Header{"Location": {to}}}
	return s.answerLink(c, p, nil)
}

// answerLink answers at the address of a link, which nobody keeps, looks up or passes on.
func (s *Site) answerLink(c *echo.Context, p page, err error) error {
	if p, err = s.refused(c.Request().Context(), ledger.Nobody, "", p, err); err != nil {
		return err
	}
	p.header.Set("X-Robots-Tag", "noindex, nofollow")
	p.header.Set("Cache-Control", "no-store")
	p.header.Set("Referrer-Policy", "no-referrer")
	return compress(s.moved(p)).answer(c.Response(), c.Request())
}

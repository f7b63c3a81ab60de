package site

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/ledger"
)

// Who reads decides what a page says. Most pages are the same for everybody, and are made and kept once; those of an API that is not open
// to everyone, or of which a part is open to fewer, once for all who see the same of it (ledger.Sight).

// reader is who asks, as a reader.
func (s *Site) reader(r *http.Request) (ledger.Actor, error) {
	who := ledger.Nobody
	if s.asks != nil && (r.Header["Cookie"] != nil || r.Header["Authorization"] != nil) {
		var err error
		if who, err = s.asks(r); err != nil {
			return ledger.Nobody, err
		}
	}
	opened, err := s.ledger.Opened(r.Context(), openings(r))
	return s.shown(r, who.Reading(opened...)), err
}

// openingCookie begins the name of the cookie that remembers that the password of a link was given; the API's name follows.
const openingCookie = "oldledger-open-"

// maxOpenings bounds the links that a request may be opened by.
const maxOpenings = 20

// openings are what a browser remembers of links.
func openings(r *http.Request) []string {
	if r.Header["Cookie"] == nil {
		return nil
	}
	var all []string
	for _, c := range r.Cookies() {
		if strings.HasPrefix(c.Name, openingCookie) && len(all) < maxOpenings {
			all = append(all, c.Value)
		}
	}
	return all
}

// apiIn is the API whose page an address is that of; "" for what belongs to none.
func apiIn(address string) string {
	name, _, ofAPI := strings.Cut(strings.TrimPrefix(address, "/reference/"), "/")
	if !ofAPI || name == assetsName {
		return ""
	}
	return name
}

// assetsName stands for the site's own files in addresses, where an API's name stands else.
const assetsName = "assets"

// readerOf is who asks for an address, as far as that counts for what they get: for most, nobody. To whoever may change who reads the API
// of the page, told says who does.
func (s *Site) readerOf(r *http.Request, address string) (who ledger.Actor, told string, err error) {
	name, host := apiIn(address), s.hostShelf(r)
	unknown := r.Header["Cookie"] == nil && r.Header["Authorization"] == nil
	if strings.HasPrefix(address, "/reference/"+assetsName+"/") || unknown && name != "" && host == "" && s.ledger.Plain(name) {
		return ledger.Nobody, "", nil
	}
	if who, err = s.reader(r); err != nil {
		return who, "", err
	}
	if shelf, _ := shelfIn(address); shelf != "" {
		if host != "" && host != shelf {
			shelf = "" // another one is not there
		}
		return s.ledger.At(who, shelf), "", nil
	}
	if name == "" {
		return who, "", nil
	}
	return s.ledger.Reader(who, name), s.ledger.ToldReaders(who, name), nil
}

// keyOf is where the page of an address is kept for those who see the same.
func keyOf(sight, address string) string {
	if sight == "" {
		return address
	}
	return sight + " " + address
}

// CachedPages answers from the pages that are kept, and tells whether it did: most requests need no more.
func (s *Site) CachedPages(w http.ResponseWriter, r *http.Request) bool {
	if r.Method != http.MethodGet || r.URL.RawQuery != "" {
		return false
	}
	address := r.URL.EscapedPath()
	if s.looksAsAnother(r) {
		return false
	}
	who, told, err := s.readerOf(r, address)
	if err != nil || told != "" {
		return false
	}
	p := s.cachedPage(who, address)
	if p == nil {
		return false
	}
	if err := p.answer(w, r); err != nil {
		s.log.Debug("answer", "address", address, "error", err) // the reader has gone
	}
	return true
}

func (s *Site) cachedPage(who ledger.Actor, address string) *cachedPage {
	return s.cache.find(keyOf(s.ledger.Sight(who), address), s.ledger.Generation(who, apiIn(address)), s.today())
}

// serve answers a page that was not found among those that are kept.
func (s *Site) serve(c *echo.Context) error {
	r := c.Request()
	address := r.URL.EscapedPath()
	who, told, err := s.readerOf(r, address)
	if err != nil {
		return err
	}
	if s.looksAsAnother(r) {
		return s.serveMarked(c, who, address)
	}
	var one *cachedPage
	if r.URL.RawQuery == "" {
		one = s.cachedPage(who, address)
	}
	if one == nil {
		var keep bool
		if one, keep, err = s.made(r, who, address); err != nil {
			return err
		}
		if keep {
			s.cache.put(keyOf(s.ledger.Sight(who), address), one.generation, s.today(), one)
		}
	}
	if told != "" && one.status == http.StatusOK {
		return s.answerTold(c, one, told, address)
	}
	return one.answer(c.Response(), r)
}

// made makes the page of an address; keep tells whether it may be kept for others.
func (s *Site) made(r *http.Request, who ledger.Actor, address string) (one *cachedPage, keep bool, err error) {
	ctx, query := r.Context(), r.URL.Query()
	generation := s.ledger.Generation(who, apiIn(address))
	var p page
	v, err := parseTarget(address)
	switch {
	case err != nil:
	case v.rest == nil && (v.api == typedSearch || v.api == searchPath && query.Get("q") != ""):
		var d display
		if d, err = s.display(who, v); err == nil {
			p, err = s.everywhere(ctx, who, d, v.api, query.Get("q"))
		}
	case v.direct():
		p, err = s.search(ctx, who, v, query.Get("q"))
	case v.guide() && len(query["use"]) > 0:
		p, err = s.guide(ctx, who, v.api, v.rest[1], query["use"])
	default:
		keep = true
		p, err = s.render(ctx, who, v)
	}
	if p, err = s.refused(ctx, who, address, p, err); err != nil {
		return nil, false, err
	}
	one = s.sent(who, apiIn(address), p)
	one.generation = generation
	return one, keep && p.status == http.StatusOK, nil // what is not there would fill the room
}

// sent is a page of an API, or of none, as it is sent to a reader: what not everybody reads, nobody keeps who keeps pages for many.
func (s *Site) sent(who ledger.Actor, api string, p page) *cachedPage {
	if api == "" && !s.ledger.Common(who) || api != "" && !s.ledger.Public(who, api) {
		alone(p.header)
	}
	return compress(s.moved(p))
}

// alone keeps an answer from those who keep them for many (RFC 9111, section 5.2.2.7).
func alone(h http.Header) {
	h.Set("Cache-Control", "private, no-cache")
	h.Add("Vary", "Cookie, Authorization")
}

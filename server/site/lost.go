package site

import (
	"context"
	"net/http"
	"net/url"
	"strings"

	"oldledger/ledger"
)

// onward is where somebody may go on who asked for what is not there.
type onward struct {
	api      *ledger.API      // that they asked for; nil where readers see none of that name
	versions []ledger.Version // of it, the newest first
	same     []anchor         // the page that they asked for, in the versions that have it
	words    string           // to look for
	signIn   string           // where they sign in, and come back; "" where nothing else would be told then
}

// lost is the page of an address that leads nowhere: it leads on to the versions that have the page, to the API, and to the search.
func (s *Site) lost(ctx context.Context, who ledger.Actor, address string, why *ledger.Error) page {
	status := http.StatusNotFound
	if why.Fault == ledger.Invalid || why.Fault == ledger.Unreadable {
		status = http.StatusBadRequest
	}
	p, err := s.html(ctx, status, lostPage(s.house, "Not here", sentence(why.Text), s.onward(ctx, who, address)))
	if err != nil {
		s.log.Error("render", "error", err)
		return page{
			status: http.StatusInternalServerError, header: http.Header{"Content-Type": {"text/plain"}},
			body: []byte("The page could not be made.\n"),
		}
	}
	return p
}

// onward finds where somebody may go on from an address. What cannot be found out is left out: the page is an answer without it.
func (s *Site) onward(ctx context.Context, who ledger.Actor, address string) onward {
	signIn := ""
	if address != "" && who.Name == "" {
		signIn = "/console/sign-in?to=" + url.QueryEscape(address)
	}
	if !strings.HasPrefix(address, referencePath) {
		return onward{signIn: signIn}
	}
	v, err := parseTarget(address)
	if err != nil {
		return onward{}
	}
	to := onward{words: lookedFor(v), signIn: signIn}
	a, err := s.ledger.API(ctx, who, v.api)
	if err != nil {
		return to
	}
	if to.versions = published(a); len(to.versions) == 0 {
		return onward{words: to.words, signIn: to.signIn}
	}
	to.api = &a
	if len(v.rest) != 2 {
		return to
	}
	for _, o := range to.versions {
		d, err := s.ledger.Description(ctx, who, o.Ref())
		if err != nil {
			return to
		}
		has := v.rest[0] == "operations" && bySlug(d.Contract, v.rest[1]) != nil || v.rest[0] == "schemas" && d.Contract.Schema(v.rest[1]) != nil
		if has && o.Number != v.version {
			to.same = append(to.same, anchor{"/reference/" + a.Name + "/" + o.Number + "/became/" + strings.Join(escaped(v.rest), "/"), o.Number})
		}
	}
	return to
}

// lookedFor is the part of an address that somebody may have looked for.
func lookedFor(v target) string {
	if len(v.rest) > 0 && v.rest[len(v.rest)-1] != "" {
		return bounded(v.rest[len(v.rest)-1])
	}
	return bounded(v.api)
}

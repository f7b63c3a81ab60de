package site

import (
	"context"
	"net/http"
	"strings"

	"oldledger/ledger"
)

// Limits of a search: how long a question may be, and how many answers are shown.
const (
	maxQuestion = 200
	maxHits     = 40
)

// search finds the pages of a version by words. Its answers are not kept; its index is, with the version's document.
func (s *Site) search(ctx context.Context, v target, question string) (page, error) {
	e, err := s.edition(ctx, v.api, v.version)
	if err != nil {
		return page{}, err
	}
	return s.found(ctx, e, question)
}

// found is the page of what a question finds.
func (s *Site) found(ctx context.Context, e *edition, question string) (page, error) {
	question = strings.TrimSpace(question)
	if len(question) > maxQuestion {
		question = strings.ToValidUTF8(question[:maxQuestion], "")
	}
	p, err := s.html(ctx, http.StatusOK, searchPage(&Frame{edition: e, Here: "search"}, question, e.index().Find(question, maxHits)))
	if err != nil {
		return page{}, err
	}
	p.header.Set("X-Robots-Tag", "noindex")
	return p, nil
}

// everywhere finds pages in the newest version of every API.
func (s *Site) everywhere(ctx context.Context, question string) (page, error) {
	question = strings.TrimSpace(question)
	if len(question) > maxQuestion {
		question = strings.ToValidUTF8(question[:maxQuestion], "")
	}
	if _, err := s.cards(ctx, false); err != nil { // so that all can be found
		return page{}, err
	}
	hits, err := s.ledger.Find(ctx, ledger.Nobody, question, maxHits)
	if err != nil {
		return page{}, err
	}
	p, err := s.html(ctx, http.StatusOK, everywherePage(s.house, question, hits))
	if err == nil {
		p.header.Set("X-Robots-Tag", "noindex")
	}
	return p, err
}

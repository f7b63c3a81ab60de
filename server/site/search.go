package site

import (
	"context"
	"encoding/json"
	"net/http"
	"strings"

	"oldledger/ledger"
)

// Limits of a search: how long a question may be, and how many answers are shown.
const (
	maxQuestion = 200
	maxHits     = 40
)

// search finds the pages of a version by words: as a page, or as JSON for those who look while they type. Its answers are not kept; its
// index is, with the version's document.
func (s *Site) search(ctx context.Context, who ledger.Actor, v target, question string) (page, error) {
	e, err := s.edition(ctx, who, v.api, v.version)
	if err != nil {
		return page{}, err
	}
	return s.found(ctx, e, v.rest[0], question)
}

// The ends of the addresses of a search.
const (
	searchPath  = "search"
	typedSearch = "search.json"
)

// found is what a question finds, in the form that an address asks for.
func (s *Site) found(ctx context.Context, e *edition, form, question string) (page, error) {
	question = bounded(question)
	if form == typedSearch {
		var all []typedHit
		for _, h := range e.index().Find(question, maxTyped) {
			all = append(all, typedHit{h.Title, h.Kind, h.Where, e.Base + h.Path, readable(h.Says)})
		}
		return foundWhileTyping(all)
	}
	p, err := s.html(ctx, http.StatusOK, searchPage(&Frame{edition: e, Here: searchPath}, question, e.index().Find(question, maxHits)))
	if err != nil {
		return page{}, err
	}
	p.header.Set("X-Robots-Tag", "noindex")
	return p, nil
}

func bounded(question string) string {
	question = strings.TrimSpace(question)
	if len(question) > maxQuestion {
		question = strings.ToValidUTF8(question[:maxQuestion], "")
	}
	return question
}

// typedHit is something that was found while a reader typed.
type typedHit struct {
	Title string `json:"title"`
	Kind  string `json:"kind"`
	Where string `json:"where,omitempty"`
	Page  string `json:"page"` // its address
	Says  string `json:"says,omitempty"`
}

// maxTyped bounds what is shown while a reader types.
const maxTyped = 12

func foundWhileTyping(all []typedHit) (page, error) {
	if all == nil {
		all = []typedHit{}
	}
	body, err := json.Marshal(map[string]any{"found": all})
	if err != nil {
		return page{}, err
	}
	p := page{status: http.StatusOK, header: http.Header{}, body: body}
	p.header.Set("Content-Type", "application/json")
	p.header.Set("X-Robots-Tag", "noindex")
	return p, nil
}

// maxSays is how long a sentence is that an answer shows, in bytes.
const maxSays = 220

// readable is a sentence of an author's text without the marks of Markdown.
func readable(sentence string) string {
	sentence = strings.Join(strings.Fields(notInSentence.Replace(sentence)), " ")
	if len(sentence) > maxSays {
		sentence = sentence[:max(strings.LastIndexByte(sentence[:maxSays], ' '), 0)] + " …"
	}
	return sentence
}

// everywhere finds pages in the newest version of every API of a list.
func (s *Site) everywhere(ctx context.Context, who ledger.Actor, d display, form, question string) (page, error) {
	question = bounded(question)
	if _, err := s.cards(ctx, who, false); err != nil { // so that all can be found
		return page{}, err
	}
	limit := maxHits
	if form == typedSearch {
		limit = maxTyped
	}
	hits, err := s.ledger.Find(ctx, who, question, limit)
	if err != nil {
		return page{}, err
	}
	if form == typedSearch {
		var all []typedHit
		for _, h := range hits {
			where := strings.TrimPrefix(h.Where+", "+h.API.Title+" "+h.In.Number, ", ")
			all = append(all, typedHit{h.Title, h.Kind, where, foundAddress(h), readable(h.Says)})
		}
		return foundWhileTyping(all)
	}
	p, err := s.html(ctx, http.StatusOK, everywherePage(d, question, hits))
	if err == nil {
		p.header.Set("X-Robots-Tag", "noindex")
	}
	return p, err
}

func foundAddress(h ledger.Found) string {
	return "/reference/" + h.API.Name + "/" + h.In.Number + h.Path
}

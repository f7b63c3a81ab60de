package site

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"oldledger/core/reference"
)

// Limits of a search: how long a question may be, and how many answers are shown.
const (
	maxQuestion = 200
	maxHits     = 40
)

// search finds the pages of a version by words. Its answers are not kept; its index is, with the version's document.
func (s *Site) search(c *echo.Context) error {
	f, err := s.frame(c, "search")
	if err != nil {
		return err
	}
	question := strings.TrimSpace(c.QueryParam("q"))
	if len(question) > maxQuestion {
		question = strings.ToValidUTF8(question[:maxQuestion], "")
	}
	p, err := s.html("search.html", http.StatusOK, struct {
		*Frame
		Question string
		Hits     []reference.Hit
	}{f, question, s.index(f).Find(question, maxHits)})
	if err != nil {
		return err
	}
	p.header.Set("X-Robots-Tag", "noindex")
	return s.write(c, p)
}

// index is that of a version's document, made once until the next act in the journal.
func (s *Site) index(f *Frame) *reference.Index {
	s.mu.Lock()
	defer s.mu.Unlock()
	ix := s.indexes[f.Doc]
	if ix == nil {
		ix = f.Doc.Index()
		s.indexes[f.Doc] = ix
	}
	return ix
}

package site

import (
	"context"
	"fmt"
	"strings"

	"oldledger/core/reference"
	"oldledger/ledger"
)

// cards are those of all APIs of which readers see a version. What is not known of one, because it changed, is made now.
func (s *Site) cards(ctx context.Context, who ledger.Actor, pages bool) ([]ledger.Card, error) {
	all, err := s.ledger.Cards(ctx, who, pages)
	if err != nil {
		return nil, err
	}
	for i, c := range all {
		if c.Known {
			continue
		}
		key := c.Latest.Ref() + " " + s.ledger.CardBasis(c.API.Name) + " " + s.ledger.Standing(who, c.API.Name)
		made, err := s.making.card.Do(ctx, key, func(ctx context.Context) (ledger.Card, error) {
			return s.makeCard(ctx, who, c)
		})
		if err != nil {
			return nil, fmt.Errorf("the card of %s: %w", c.API.Name, err)
		}
		made.API, made.Latest = c.API, c.Latest // as this reader sees it, whoever else it was made for
		all[i] = made
	}
	return all, nil
}

// makeCard reads the newest version of an API for its card, and keeps it. Nothing of its history is needed for that.
func (s *Site) makeCard(ctx context.Context, who ledger.Actor, c ledger.Card) (ledger.Card, error) {
	basis := s.ledger.CardBasis(c.API.Name)
	read, err := s.ledger.Documented(ctx, who, c.Latest)
	if err != nil {
		return c, err
	}
	var doc *reference.Document
	if waited := s.ledger.Heavily(ctx, func() {
		doc, err = reference.Make(ctx, read, reference.Context{Name: c.API.Name, Number: c.Latest.Number, Line: c.Latest.Line})
	}); waited != nil {
		return c, waited
	}
	if err != nil {
		return c, err
	}
	e := &edition{API: c.API, Version: c.Latest, Doc: doc, Reader: who}
	return s.storeCard(ctx, basis, e, read.Summary, doc.Index())
}

// storeCard keeps the card of an edition.
func (s *Site) storeCard(ctx context.Context, basis string, e *edition, summary string, index *reference.Index) (ledger.Card, error) {
	c := ledger.Card{
		API: e.API, Latest: e.Version, Title: e.Doc.Title, Summary: firstOf(summary, firstParagraph(e.Doc.Description)),
		Known: true,
	}
	for _, address := range e.addresses() {
		c.Pages = append(c.Pages, strings.TrimPrefix(address, e.Base))
	}
	return c, s.ledger.StoreCard(ctx, e.Reader, basis, c, index.Entries())
}

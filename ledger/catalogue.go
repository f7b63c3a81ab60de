package ledger

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/reference"
	"oldledger/ledger/records"
)

// Card is what the shelf says of an API: of the newest version that readers see.
type Card struct {
	API     API
	Latest  Version
	Title   string
	Summary string   // CommonMark
	Pages   []string // where its pages are below the version's address: "/operations/bookBerth"; nil where they were not asked for
	Known   bool     // whether the rest is known: what changed since is written anew with Keep
}

// Cards are those of all APIs of which readers see a version, by name; with their pages where they are asked for.
func (l *Ledger) Cards(ctx context.Context, who Actor, pages bool) ([]Card, error) {
	w := l.view(who)
	generation, kept := l.Generation(Nobody, ""), l.cachedCards.Load()
	if known := l.cards.Load(); !pages && known != nil && known.generation == generation && known.stored == kept && who.outside() &&
		who.holds == "" {
		return slices.Clone(known.cards), nil
	}
	apis, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	read := w.rows.Cards
	if pages {
		read = w.rows.CardPages
	}
	rows, err := read(ctx)
	if err != nil {
		return nil, err
	}
	known := map[string]records.Card{}
	for _, row := range rows {
		known[row.API] = row
	}
	var cards []Card
	for _, a := range apis {
		v := a.Latest()
		if v == nil {
			continue
		}
		row := known[a.Name]
		c := Card{API: a, Latest: *v, Title: row.Title, Summary: row.Summary, Known: row.Basis == l.cardBasis(a.Name)}
		if pages && c.Known {
			if err := json.Unmarshal([]byte(row.Pages), &c.Pages); err != nil {
				return nil, fmt.Errorf("the card of %s: %w", a.Name, err)
			}
		}
		cards = append(cards, c)
	}
	if !pages && who.outside() && who.holds == "" {
		l.cards.Store(&cachedCards{generation, kept, slices.Clone(cards)})
	}
	return cards, nil
}

// cachedCards are the cards as they were read in a generation, after so many were kept.
type cachedCards struct {
	generation, stored int64
	cards              []Card
}

// cardBasis is what a card follows from: what readers see of the API, and the build that made it.
func (l *Ledger) cardBasis(api string) string {
	l.Generation(Nobody, api) // asks, where that is due
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	return fmt.Sprintf("%d %s", l.generations.of[api].Shown, l.options.Engine)
}

// StoreCard keeps a card with what can be found in its version, for who asks next. It is made from what readers see, as of a basis that
// CardBasis gave before it was made.
func (l *Ledger) StoreCard(ctx context.Context, who Actor, basis string, c Card, entries []reference.Entry) error {
	pages, err := json.Marshal(c.Pages)
	if err != nil {
		return err
	}
	row := records.Card{API: c.API.Name, Basis: basis, Number: c.Latest.Number, Title: c.Title, Summary: c.Summary, Pages: string(pages)}
	found := make([]records.Found, len(entries))
	for i, e := range entries {
		found[i] = records.Found{
			API: c.API.Name, Kind: e.Kind, Title: e.Title, Place: e.Where, Path: e.Path, Titles: spaced(e.Title), Places: spaced(e.Where),
			Words: spaced(e.Text), Said: strings.ToValidUTF8(e.Text[:min(len(e.Text), maxSaid)], ""),
		}
	}
	err = l.store.Write(ctx, func(r records.Rows) error { return r.PutCard(ctx, row, found) })
	if err == nil {
		l.cachedCards.Add(1)
	}
	return err
}

// CardBasis is what a card made now follows from.
func (l *Ledger) CardBasis(api string) string { return l.cardBasis(api) }

// maxSaid is how much of the text of an entry is kept for the sentence that an answer shows, in bytes.
const maxSaid = 2000

func spaced(text string) string {
	return strings.Join(slices.Collect(reference.Words(text)), " ")
}

// Found is something that a search over all APIs found.
type Found struct {
	reference.Hit
	API API
	In  Version
}

// Limits of a search over all APIs.
const (
	maxCandidates = 100 // that are looked at closely
	maxMisspelt   = 40  // words that are near one that was asked for
)

// Find finds what has all words of a question, or such as begin with them or are misspelt by a letter or two, in the newest versions of all
// APIs that the actor may read: the best first, at most limit.
func (l *Ledger) Find(ctx context.Context, who Actor, question string, limit int) ([]Found, error) {
	asked := reference.Asked(question)
	if len(asked) == 0 {
		return nil, nil
	}
	cards, err := l.Cards(ctx, who, false)
	if err != nil {
		return nil, err
	}
	rows, err := l.candidates(ctx, asked)
	if err != nil {
		return nil, err
	}
	card := map[string]Card{}
	for _, c := range cards {
		if c.Known {
			card[c.API.Name] = c
		}
	}
	type scored struct {
		reference.Hit
		api string
	}
	var hits []scored
	for _, row := range rows {
		if _, there := card[row.API]; !there {
			continue // it is not to be seen, or not any more as it was
		}
		e := reference.Entry{Kind: row.Kind, Title: row.Title, Where: row.Place, Path: row.Path, Text: row.Words}
		if score := reference.Score(asked, e); score > 0 {
			e.Text = row.Said
			hits = append(hits, scored{reference.Hit{Entry: e, Score: score}, row.API})
		}
	}
	slices.SortStableFunc(hits, func(a, b scored) int { return reference.Better(a.Hit, b.Hit) })
	var all []Found
	for _, h := range hits[:min(limit, len(hits))] {
		h.Says = reference.Says(asked, h.Entry)
		all = append(all, Found{h.Hit, card[h.api].API, card[h.api].Latest})
	}
	return all, nil
}

// candidates are what may answer a question best, looked for where the best stand: with the words themselves in titles, with words that
// begin with them or are like them in titles, and then anywhere. Where so many stand in one place, little of the next would be better.
func (l *Ledger) candidates(ctx context.Context, asked []string) ([]records.Found, error) {
	r := l.store.Read()
	words := make([][]records.Word, len(asked))
	for i, w := range asked {
		words[i] = []records.Word{{Text: w}}
	}
	rows, err := r.FindEntries(ctx, words, true, maxCandidates)
	if err != nil || len(rows) == maxCandidates {
		return rows, err
	}
	all, err := l.allWords(ctx)
	if err != nil {
		return nil, err
	}
	for i, w := range asked {
		words[i] = answering(w, all)
	}
	if rows, err = r.FindEntries(ctx, words, true, maxCandidates); err != nil || len(rows) == maxCandidates {
		return rows, err
	}
	return r.FindEntries(ctx, words, false, maxCandidates)
}

// answering are the words that answer one that was asked for: those that begin with it or, where there are none, those that are like it.
// all is sorted.
func answering(asked string, all []string) []records.Word {
	words := []records.Word{{Text: asked, Begins: true}}
	if i, _ := slices.BinarySearch(all, asked); i < len(all) && strings.HasPrefix(all[i], asked) {
		return words
	}
	for _, known := range all {
		if len(words) <= maxMisspelt && reference.Near(asked, known) > 0 {
			words = append(words, records.Word{Text: known})
		}
	}
	return words
}

// allWords are all words that can be found; they are read again after a card was kept.
func (l *Ledger) allWords(ctx context.Context) ([]string, error) {
	generation, kept := l.Generation(Nobody, ""), l.cachedCards.Load()
	if known := l.vocabulary.Load(); known != nil && known.generation == generation && known.stored == kept {
		return known.words, nil
	}
	words, err := l.store.Read().EntryWords(ctx)
	slices.Sort(words)
	if err == nil {
		l.vocabulary.Store(&vocabulary{generation, kept, words})
	}
	return words, err
}

// vocabulary is all words that can be found, as they were read in a generation, after so many cards were kept.
type vocabulary struct {
	generation, stored int64
	words              []string
}

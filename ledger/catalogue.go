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
	who = who.Reading(who.opened...)
	who.holds = ""
	w := l.view(who)
	generation, kept, sight := l.Generation(who, ""), l.cachedCards.Load(), l.Sight(who)
	if known, there := l.cards.Get(sight); !pages && there && known.generation == generation && known.stored == kept {
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
		known[row.API+" "+row.Lacks] = row
	}
	var cards []Card
	for _, a := range apis {
		v := a.Latest()
		if v == nil {
			continue
		}
		row := known[a.Name+" "+a.kept.cardKey(who)]
		c := Card{API: a, Latest: *v, Title: row.Title, Summary: row.Summary, Known: row.Basis == l.cardBasis(a.Name)}
		if pages && c.Known {
			if err := json.Unmarshal([]byte(row.Pages), &c.Pages); err != nil {
				return nil, fmt.Errorf("the card of %s: %w", a.Name, err)
			}
		}
		cards = append(cards, c)
	}
	if !pages {
		l.cards.Add(sight, cachedCards{generation, kept, slices.Clone(cards)})
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

// StoreCard keeps a card with what can be found in its version, for who asks next and sees as much. It is made from what the actor sees as
// a reader, as of a basis that CardBasis gave before it was made.
func (l *Ledger) StoreCard(ctx context.Context, who Actor, basis string, c Card, entries []reference.Entry) error {
	pages, err := json.Marshal(c.Pages)
	if err != nil {
		return err
	}
	kept := l.keeping(c.API.Name)
	row := records.Card{
		API: c.API.Name, Lacks: kept.cardKey(who), Open: kept.opens, Basis: basis,
		Number: c.Latest.Number, Title: c.Title, Summary: c.Summary, Pages: string(pages),
	}
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
	rows, err := l.candidates(ctx, asked, l.openTo(who))
	if err != nil {
		return nil, err
	}
	card := map[string]Card{}
	for _, c := range cards {
		if c.Known {
			card[c.API.Name+" "+c.API.kept.cardKey(who)] = c
		}
	}
	type scored struct {
		reference.Hit
		in Card
	}
	var hits []scored
	for _, row := range rows {
		c, there := card[row.API+" "+row.Lacks]
		if !there {
			continue // it is not to be seen, or not any more as it was
		}
		e := reference.Entry{Kind: row.Kind, Title: row.Title, Where: row.Place, Path: row.Path, Text: row.Words}
		if score := reference.Score(asked, e); score > 0 {
			e.Text = row.Said
			hits = append(hits, scored{reference.Hit{Entry: e, Score: score}, c})
		}
	}
	slices.SortStableFunc(hits, func(a, b scored) int { return reference.Better(a.Hit, b.Hit) })
	var all []Found
	for _, h := range hits[:min(limit, len(hits))] {
		h.Says = reference.Says(asked, h.Entry)
		all = append(all, Found{h.Hit, h.in.API, h.in.Latest})
	}
	return all, nil
}

// candidates are what may answer a question best, looked for where the best stand: with the words themselves in titles, with words that
// begin with them or are like them in titles, and then anywhere. Where so many stand in one place, little of the next would be better.
// open is whose cards they stand in.
func (l *Ledger) candidates(ctx context.Context, asked []string, open []records.Open) ([]records.Found, error) {
	r := l.store.Read()
	words := make([][]records.Word, len(asked))
	for i, w := range asked {
		words[i] = []records.Word{{Text: w}}
	}
	rows, err := r.FindEntries(ctx, words, true, open, maxCandidates)
	if err != nil || len(rows) == maxCandidates {
		return rows, err
	}
	all, err := l.allWords(ctx)
	if err != nil {
		return nil, err
	}
	for i, w := range asked {
		if words[i], err = l.answering(ctx, w, all, open); err != nil {
			return nil, err
		}
	}
	if rows, err = r.FindEntries(ctx, words, true, open, maxCandidates); err != nil || len(rows) == maxCandidates {
		return rows, err
	}
	return r.FindEntries(ctx, words, false, open, maxCandidates)
}

// answering are the words that answer one that was asked for: those that begin with it or, where there are none, those that are like it.
// all is sorted, and holds words that stand in no card of open: these answer nothing, as if they were not there.
func (l *Ledger) answering(ctx context.Context, asked string, all []string, open []records.Open) ([]records.Word, error) {
	begins := records.Word{Text: asked, Begins: true}
	words := []records.Word{begins}
	if i, _ := slices.BinarySearch(all, asked); i < len(all) && strings.HasPrefix(all[i], asked) {
		if there, err := l.stands(ctx, begins, open); there || err != nil {
			return words, err
		}
	}
	for _, known := range all {
		if len(words) > maxMisspelt || reference.Near(asked, known) == 0 {
			continue
		}
		there, err := l.stands(ctx, records.Word{Text: known}, open)
		if err != nil {
			return nil, err
		}
		if there {
			words = append(words, records.Word{Text: known})
		}
	}
	return words, nil
}

// stands reports whether a word stands in a card of open.
func (l *Ledger) stands(ctx context.Context, word records.Word, open []records.Open) (bool, error) {
	if open == nil {
		return true, nil
	}
	found, err := l.store.Read().FindEntries(ctx, [][]records.Word{{word}}, false, open, 1)
	return len(found) > 0, err
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

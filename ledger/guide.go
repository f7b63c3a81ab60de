package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oldledger/core/compare"
	"oldledger/core/guide"
	"oldledger/core/promise"
	"oldledger/core/sample"
	"oldledger/core/secret"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// Guide writes the migration guide from one recorded version to another, with the notices of the API, what its authors wrote, and code in
// the team's languages. It finds out in which of the versions between them each change came.
func (l *Ledger) Guide(ctx context.Context, who Actor, old, new string) (*guide.Guide, error) {
	w := l.view(who)
	from, to, err := w.both(ctx, old, new)
	if err != nil {
		return nil, err
	}
	if from.API != to.API {
		return w.makeGuide(ctx, from, to)
	}
	key, generation, today := fmt.Sprintf("%s..%s %s %s", from.Ref(), to.Number, l.Sight(who), who.holds), l.Generation(who, to.API), l.Today()
	if kept, there := l.guides.Get(key); there && kept.generation == generation && kept.day.Equal(today) {
		return kept.guide.Copy(), nil
	}
	g, err := l.guideFlight.Do(ctx, fmt.Sprintf("%s %d %s", key, generation, today), func(ctx context.Context) (*guide.Guide, error) {
		return w.makeGuide(ctx, from, to)
	})
	if err != nil {
		return nil, err
	}
	l.guides.Add(key, cachedGuide{generation, today, g})
	return g.Copy(), nil
}

// cachedGuide is one of those that were made last: a reader who ticks one operation after another asks for the same again and again. It
// holds until its generation or its day has passed.
type cachedGuide struct {
	generation int64
	day        time.Time
	guide      *guide.Guide
}

// maxGuides bounds those in memory.
const maxGuides = 64

func (w view) makeGuide(ctx context.Context, old, new Version) (*guide.Guide, error) {
	a, err := w.describe(ctx, old)
	if err != nil {
		return nil, err
	}
	b, err := w.describe(ctx, new)
	if err != nil {
		return nil, err
	}
	c, err := w.compared(ctx, old, new, compare.Options{})
	if err != nil {
		return nil, err
	}
	known := guide.Context{API: new.API, Line: old.Line, NewLine: new.Line, Today: w.Today(), Open: new.State == Draft}
	if old.API == new.API {
		if err := w.known(ctx, &known, old, new, c); err != nil {
			return nil, err
		}
	}
	for into, v := range map[*versioning.Choice]Version{&known.Old: old, &known.New: new} {
		a, err := w.apiAsIs(ctx, v.API)
		if err != nil {
			return nil, err
		}
		*into = a.Choice(v)
	}
	looks, err := w.looks(ctx, new.API)
	if err != nil {
		return nil, err
	}
	if known.Languages, err = looks.Samples(); err != nil {
		return nil, err
	}
	if len(looks.Languages) == 0 {
		known.Languages = sample.Usual()
	}
	var g *guide.Guide
	if waited := w.Heavily(ctx, func() { g, err = guide.Make(ctx, a.Contract, b.Contract, c, known) }); waited != nil {
		return nil, waited
	}
	if err == nil && !new.kept.inside(w.who) {
		g.Gone = nil // what stands nowhere any more is the authors' business
	}
	return g, err
}

// known fills in what is known of an API beside the two versions.
func (w view) known(ctx context.Context, into *guide.Context, old, new Version, c *compare.Comparison) error {
	api, err := w.api(ctx, new.API)
	if err != nil {
		return err
	}
	into.Notices = api.Notices
	shown := slices.DeleteFunc(slices.Clone(api.Versions), func(v Version) bool {
		return new.Before(v) || v.State == Draft && v.Number != new.Number && v.Number != old.Number
	})
	if into.History, err = w.past(ctx, api, shown); err != nil {
		return err
	}
	into.Texts, err = w.texts(ctx, api, old, new, c)
	return err
}

// Past is the history of an API's versions that are no drafts, as the actor may know it, the oldest first.
func (l *Ledger) Past(ctx context.Context, who Actor, name string) ([]promise.Past, error) {
	w := l.view(who)
	a, err := w.api(ctx, name)
	if err != nil {
		return nil, err
	}
	return w.past(ctx, a, slices.DeleteFunc(slices.Clone(a.Versions), func(v Version) bool { return v.State == Draft }))
}

// past compares each of some versions with the one before it.
func (w view) past(ctx context.Context, a API, versions []Version) ([]promise.Past, error) {
	var history []promise.Past
	for _, v := range versions {
		past := promise.Past{Version: v.Number}
		if base := predecessor(a, v); base != nil {
			c, err := w.compared(ctx, *base, v, compare.Options{})
			if err != nil {
				return nil, err
			}
			past.Changes = c
		}
		history = append(history, past)
	}
	return history, nil
}

// pair names the guide between two versions, whatever draft of the newer one it is.
func pair(old, new Version) string {
	number, _, _ := strings.Cut(new.Number, "-")
	return old.Number + ".." + number
}

// texts are what authors wrote into this guide, and what they wrote into others, which the actor may read, to changes that it has, too.
func (w view) texts(ctx context.Context, api API, old, new Version, c *compare.Comparison) ([]guide.Text, error) {
	rows, err := w.rows.GuideTexts(ctx, new.API)
	if err != nil {
		return nil, err
	}
	changes := map[string]bool{}
	for _, ch := range c.Changes {
		changes[ch.ID] = true
	}
	var texts []guide.Text
	written := map[string]bool{}
	for _, here := range []bool{true, false} {
		for _, row := range rows {
			if (row.Pair == pair(old, new)) != here || written[row.Anchor] || !here && !(changes[row.Anchor] && w.reads(api, row.Pair)) {
				continue
			}
			written[row.Anchor] = true
			texts = append(texts, guide.Text{Anchor: row.Anchor, Title: row.Title, Text: row.Text, MadeBy: row.MadeBy, MadeAt: row.MadeAt})
		}
	}
	return texts, nil
}

// reads reports whether the actor may read a guide of an API, as pair names it.
func (w view) reads(api API, name string) bool {
	var from, to bool
	for _, v := range api.Versions {
		if w.who.reads(v) {
			from = from || strings.HasPrefix(name, v.Number+"..")
			to = to || strings.HasSuffix(name, pair(Version{}, v))
		}
	}
	return from && to
}

// GuideText is the wish to write into a guide. An empty text takes away what stands there.
type GuideText struct {
	Old    string // the references of the two versions
	New    string //
	Anchor string // intro, end, or the id of a change of the guide; of a change that is gone only to take its text away
	Text   string // CommonMark
}

// maxGuideText bounds one text, in bytes.
const maxGuideText = 20_000

// WriteGuide writes into a guide. The text is anchored to its change: it stands in every guide that has the change, and survives a new
// draft.
func (l *Ledger) WriteGuide(ctx context.Context, who Actor, t GuideText) (*guide.Guide, error) {
	w := l.view(who)
	if err := l.may(who, Word, apiOf(t.New)); err != nil {
		return nil, err
	}
	old, new, err := w.both(ctx, t.Old, t.New)
	if err != nil {
		return nil, err
	}
	if old.API != new.API {
		return nil, refuse(Invalid, "a guide that is written into goes from one version of an API to another of the same")
	}
	g, err := l.Guide(ctx, who, t.Old, t.New)
	if err != nil {
		return nil, err
	}
	row := records.GuideText{
		API: new.API, Pair: pair(old, new), Anchor: t.Anchor, Text: strings.TrimSpace(t.Text), MadeBy: who.Name,
		MadeAt: l.stamp(),
	}
	if len(row.Text) > maxGuideText {
		return nil, refuse(Invalid, "a text has at most %d bytes", maxGuideText)
	}
	if found := secret.ScanText("the text", row.Text); len(found) > 0 {
		return nil, refuse(Invalid, "line %d of the text holds what looks like %s: every reader would see it", found[0].Place.Line, found[0].What)
	}
	var there bool
	if row.Title, there = g.Anchored(t.Anchor); !there && row.Text != "" {
		return nil, refuse(NotFound, "the guide from %s to %s has no step %s: write intro, end, or the id of a step", old.Ref(), new.Ref(),
			t.Anchor)
	}
	err = w.act(ctx, new.API, func(w view) error {
		pairs, err := w.pairsOf(ctx, row)
		if err != nil {
			return err
		}
		if row.Text != "" {
			if err := w.rows.PutGuideText(ctx, row); err != nil {
				return err
			}
			return w.appendJournal(ctx, "guide.written", new.API+" "+row.Pair,
				map[string]string{"step": row.Title, "anchor": row.Anchor, "text": row.Text})
		}
		if len(pairs) == 0 {
			return refuse(NotFound, "nothing is written there")
		}
		for _, p := range pairs {
			if err := w.rows.DropGuideText(ctx, row.API, p, row.Anchor); err != nil {
				return err
			}
		}
		return w.appendJournal(ctx, "guide.erased", new.API+" "+row.Pair, map[string]string{"step": row.Title, "anchor": row.Anchor})
	})
	if err != nil {
		return nil, err
	}
	return l.Guide(ctx, who, t.Old, t.New)
}

// pairsOf are the guides in which the text that stands at an anchor was written: the guide's own, or else, for a step, the others.
func (w view) pairsOf(ctx context.Context, at records.GuideText) ([]string, error) {
	rows, err := w.rows.GuideTexts(ctx, at.API)
	if err != nil {
		return nil, err
	}
	var pairs []string
	for _, row := range rows {
		if row.Anchor != at.Anchor {
			continue
		}
		if row.Pair == at.Pair {
			return []string{row.Pair}, nil
		}
		if at.Anchor != guide.Intro && at.Anchor != guide.End {
			pairs = append(pairs, row.Pair)
		}
	}
	return slices.Compact(pairs), nil
}

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
	"oldledger/core/secret"
	"oldledger/store"
)

// Guide writes the migration guide from one recorded version to another, with the notices of the API, what its authors wrote, and code in
// the team's languages. It finds out in which of the versions between them each change came.
func (l *Ledger) Guide(ctx context.Context, old, new string) (*guide.Guide, error) {
	from, to, err := l.both(ctx, old, new)
	if err != nil {
		return nil, err
	}
	if from.API != to.API {
		return l.makeGuide(ctx, from.Ref(), to.Ref())
	}
	key, turn, today := from.Ref()+".."+to.Number, l.Turn(to.API), l.Today()
	if kept, there := l.guides.Get(key); there && kept.turn == turn && kept.day.Equal(today) {
		return kept.guide.Copy(), nil
	}
	g, err := l.guideFlight.Do(ctx, fmt.Sprintf("%s %d %s", key, turn, today), func(ctx context.Context) (*guide.Guide, error) {
		return l.makeGuide(ctx, from.Ref(), to.Ref())
	})
	if err != nil {
		return nil, err
	}
	l.guides.Add(key, keptGuide{turn, today, g})
	return g.Copy(), nil
}

// keptGuide is one of those that were made last: a reader who ticks one operation after another asks for the same again and again. It holds
// until its turn or its day has passed.
type keptGuide struct {
	turn  int64
	day   time.Time
	guide *guide.Guide
}

// maxGuides bounds those in memory.
const maxGuides = 64

func (l *Ledger) makeGuide(ctx context.Context, old, new string) (*guide.Guide, error) {
	a, err := l.Description(ctx, old)
	if err != nil {
		return nil, err
	}
	b, err := l.Description(ctx, new)
	if err != nil {
		return nil, err
	}
	c, err := l.compared(ctx, a.Version, b.Version, compare.Options{})
	if err != nil {
		return nil, err
	}
	known := guide.Context{API: b.Version.API, Line: a.Version.Line, NewLine: b.Version.Line, Today: l.Today()}
	if a.Version.API == b.Version.API {
		if err := l.known(ctx, &known, a.Version, b.Version, c); err != nil {
			return nil, err
		}
	}
	looks, err := l.Looks(ctx, b.Version.API)
	if err != nil {
		return nil, err
	}
	if known.Languages, err = looks.Samples(); err != nil {
		return nil, err
	}
	var g *guide.Guide
	if waited := l.Heavily(ctx, func() { g, err = guide.Make(ctx, a.Contract, b.Contract, c, known) }); waited != nil {
		return nil, waited
	}
	return g, err
}

// known fills in what is known of an API beside the two versions.
func (l *Ledger) known(ctx context.Context, into *guide.Context, old, new Version, c *compare.Comparison) error {
	api, err := l.API(ctx, new.API)
	if err != nil {
		return err
	}
	into.Notices = api.Notices
	shown := slices.DeleteFunc(slices.Clone(api.Versions), func(v Version) bool {
		return new.Before(v) || v.State == Draft && v.Number != new.Number && v.Number != old.Number
	})
	if into.History, err = l.past(ctx, api, shown); err != nil {
		return err
	}
	into.Texts, err = l.texts(ctx, old, new, c)
	return err
}

// Past is the history of an API's versions that are no drafts, the oldest first.
func (l *Ledger) Past(ctx context.Context, a API) ([]promise.Past, error) {
	return l.past(ctx, a, slices.DeleteFunc(slices.Clone(a.Versions), func(v Version) bool { return v.State == Draft }))
}

// past compares each of some versions with the one before it.
func (l *Ledger) past(ctx context.Context, a API, versions []Version) ([]promise.Past, error) {
	var history []promise.Past
	for _, v := range versions {
		past := promise.Past{Version: v.Number}
		if base := predecessor(a, v); base != nil {
			c, err := l.compared(ctx, *base, v, compare.Options{})
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

// texts are what authors wrote into this guide, and what they wrote into others to changes that it has, too.
func (l *Ledger) texts(ctx context.Context, old, new Version, c *compare.Comparison) ([]guide.Text, error) {
	rows, err := l.store.Read().GuideTexts(ctx, new.API)
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
			if (row.Pair == pair(old, new)) != here || written[row.Anchor] || !here && !changes[row.Anchor] {
				continue
			}
			written[row.Anchor] = true
			texts = append(texts, guide.Text{Anchor: row.Anchor, Title: row.Title, Text: row.Text, MadeBy: row.MadeBy, MadeAt: row.MadeAt})
		}
	}
	return texts, nil
}

// GuideText is the wish to write into a guide. An empty text takes away what stands there.
type GuideText struct {
	Old    string `json:"old"`    // the references of the two versions
	New    string `json:"new"`    //
	Anchor string `json:"anchor"` // intro, end, or the id of a change of the guide; of a change that is gone only to take its text away
	Text   string `json:"text"`   // CommonMark
}

// maxGuideText bounds one text, in bytes.
const maxGuideText = 20_000

// WriteGuide writes into a guide. The text is anchored to its change: it stands in every guide that has the change, and survives a new draft.
func (l *Ledger) WriteGuide(ctx context.Context, by Person, t GuideText) (*guide.Guide, error) {
	if err := mayWrite(by); err != nil {
		return nil, err
	}
	old, new, err := l.both(ctx, t.Old, t.New)
	if err != nil {
		return nil, err
	}
	if old.API != new.API {
		return nil, refuse(Invalid, "a guide that is written into goes from one version of an API to another of the same")
	}
	g, err := l.Guide(ctx, t.Old, t.New)
	if err != nil {
		return nil, err
	}
	row := store.GuideText{API: new.API, Pair: pair(old, new), Anchor: t.Anchor, Text: strings.TrimSpace(t.Text), MadeBy: by.Name, MadeAt: l.stamp()}
	if len(row.Text) > maxGuideText {
		return nil, refuse(Invalid, "a text has at most %d bytes", maxGuideText)
	}
	if found := secret.ScanText("the text", row.Text); len(found) > 0 {
		return nil, refuse(Invalid, "line %d of the text holds what looks like %s: every reader would see it", found[0].Place.Line, found[0].What)
	}
	var there bool
	if row.Title, there = g.Anchored(t.Anchor); !there && row.Text != "" {
		return nil, refuse(NotFound, "the guide from %s to %s has no step %s: write intro, end, or the id of a step", old.Ref(), new.Ref(), t.Anchor)
	}
	pairs, err := l.pairsOf(ctx, row)
	if err != nil {
		return nil, err
	}
	err = l.act(ctx, new.API, func(r store.Rows) error {
		if row.Text != "" {
			if err := r.PutGuideText(ctx, row); err != nil {
				return err
			}
			return l.enter(ctx, r, by, "guide.written", new.API+" "+row.Pair, map[string]string{"step": row.Title, "anchor": row.Anchor, "text": row.Text})
		}
		if len(pairs) == 0 {
			return refuse(NotFound, "nothing is written there")
		}
		for _, p := range pairs {
			if err := r.DropGuideText(ctx, row.API, p, row.Anchor); err != nil {
				return err
			}
		}
		return l.enter(ctx, r, by, "guide.erased", new.API+" "+row.Pair, map[string]string{"step": row.Title, "anchor": row.Anchor})
	})
	if err != nil {
		return nil, err
	}
	return l.Guide(ctx, t.Old, t.New)
}

// pairsOf are the guides in which the text that stands at an anchor was written: the guide's own, or else, for a step, the others.
func (l *Ledger) pairsOf(ctx context.Context, at store.GuideText) ([]string, error) {
	rows, err := l.store.Read().GuideTexts(ctx, at.API)
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

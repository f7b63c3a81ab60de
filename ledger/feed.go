package ledger

import (
	"context"
	"errors"

	"oldledger/ledger/records"
)

// Feeds and calendars cannot sign in: at a secret address they read what a person reads. Each person has one at most; only a hash of its
// key is kept.

// MakeFeed makes the key of a person's feeds, in place of an earlier one.
func (l *Ledger) MakeFeed(ctx context.Context, who Actor) (key string, err error) {
	if err := l.may(who, MakeToken, ""); err != nil {
		return "", err
	}
	if key, err = l.secret(24); err != nil {
		return "", err
	}
	return key, l.store.Write(ctx, func(r records.Rows) error {
		if err := r.PutFeed(ctx, records.Feed{Person: who.Name, Hash: tokenHash(key), MadeAt: l.stamp()}); err != nil {
			return err
		}
		return l.view(who).in(r).appendJournal(ctx, "feed.made", who.Name, map[string]string{})
	})
}

// DropFeed ends the actor's secret address.
func (l *Ledger) DropFeed(ctx context.Context, who Actor) error {
	if err := l.may(who, MakeToken, ""); err != nil {
		return err
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		if err := r.DropFeed(ctx, who.Name); errors.Is(err, records.ErrStale) {
			return refuse(NotFound, "you have no secret address of feeds")
		} else if err != nil {
			return err
		}
		return l.view(who).in(r).appendJournal(ctx, "feed.dropped", who.Name, map[string]string{})
	})
}

// Feed is when the actor's secret address was made; "" where there is none.
func (l *Ledger) Feed(ctx context.Context, who Actor) (madeAt string, err error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return "", err
	}
	f, err := l.store.Read().FeedOf(ctx, who.Name)
	if isNotFound(err) {
		return "", nil
	}
	return f.MadeAt, err
}

// FeedActor is for whom the feeds of a key are, as a reader.
func (l *Ledger) FeedActor(ctx context.Context, key string) (Actor, error) {
	r := l.store.Read()
	f, err := r.Feed(ctx, tokenHash(key))
	if err != nil {
		return Nobody, notFound(err, "There is no feed at this address; it may have been ended.")
	}
	if err := l.vouched(ctx, f.Person); err != nil {
		return Nobody, err
	}
	p, err := l.person(ctx, r, f.Person)
	return By(p).Reading(), err
}

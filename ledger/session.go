package ledger

import (
	"context"
	"sync/atomic"
	"time"

	"oldledger/ledger/records"
)

// Sessions are kept by a hash of their token: who reads the records cannot sign in by them.

// SessionData is what is kept of a session; nil where there is none, or it has ended.
func (l *Ledger) SessionData(ctx context.Context, token string) ([]byte, error) {
	data, err := l.store.Read().Session(ctx, tokenHash(token), l.stamp())
	if isNotFound(err) {
		return nil, nil
	}
	return data, err
}

// SessionActor is whose session it is by its token; nobody where it is none, or has ended. It is as fresh as a generation: what is known of
// one is asked for again after any act here, and when another service may have changed it.
func (l *Ledger) SessionActor(ctx context.Context, token string) (Actor, error) {
	hash, acts := tokenHash(token), l.store.acts.Load()
	if known, there := l.sessions.Get(hash); there && known.acts == acts && time.Since(known.asked) < l.options.Recheck {
		return known.actor, nil
	}
	asked := time.Now()
	row, members, seeing, err := l.store.Read().SessionPerson(ctx, hash, l.stamp())
	if isNotFound(err) {
		return Nobody, nil
	}
	if err != nil {
		return Nobody, err
	}
	actor := By(personOf(row, members))
	if seeing != "" {
		if actor, err = l.SeeAs(ctx, actor, seeing); err != nil {
			return Nobody, nil //nolint:nilerr // they may not any more
		}
	}
	l.sessions.Add(hash, cachedSession{actor, acts, asked})
	return actor, nil
}

// cachedSession is whose session it was, after so many acts.
type cachedSession struct {
	actor Actor
	acts  int64
	asked time.Time
}

// maxSessions bounds those in memory.
const maxSessions = 10_000

// countingStore counts the acts that were carried out here.
type countingStore struct {
	records.Store
	acts atomic.Int64
}

// Write carries out an act.
func (s *countingStore) Write(ctx context.Context, act func(records.Rows) error) error {
	defer s.acts.Add(1)
	return s.Store.Write(ctx, act)
}

// StoreSession keeps a session of a person until it ends; of nobody where the person is "". seeing is as whom they look.
func (l *Ledger) StoreSession(ctx context.Context, token, person, seeing string, data []byte, ends time.Time) error {
	return l.store.Write(ctx, func(r records.Rows) error {
		return r.PutSession(ctx, records.Session{
			Hash: tokenHash(token), Person: person, MadeAt: l.stamp(), EndsAt: ends.UTC().Format(time.RFC3339), Seeing: seeing,
		}, data)
	})
}

// EndSession lets a session go.
func (l *Ledger) EndSession(ctx context.Context, token string) error {
	return l.store.Write(ctx, func(r records.Rows) error { return r.DropSession(ctx, tokenHash(token)) })
}

// Session is one that somebody has who signed in with a password.
type Session struct {
	MadeAt string // "" where an earlier version of the ledger began it
	EndsAt string
}

// Sessions are the actor's, the newest first.
func (l *Ledger) Sessions(ctx context.Context, who Actor) ([]Session, error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return nil, err
	}
	rows, err := l.store.Read().Sessions(ctx, who.Name, l.stamp())
	sessions := make([]Session, len(rows))
	for i, s := range rows {
		sessions[i] = Session{s.MadeAt, s.EndsAt}
	}
	return sessions, err
}

// EndSessions ends all of the actor's sessions, wherever they are: the one that asks, too.
func (l *Ledger) EndSessions(ctx context.Context, who Actor) error {
	if err := l.may(who, SetPassword, ""); err != nil {
		return err
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		if err := r.DropSessions(ctx, who.Name); err != nil {
			return err
		}
		return l.view(who).in(r).appendJournal(ctx, "person.signed-out-everywhere", who.Name, map[string]string{})
	})
}

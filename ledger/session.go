package ledger

import (
	"context"
	"time"

	"oldledger/ledger/records"
)

// Sessions are kept by a hash of their token: who reads the records cannot sign in by them.

// Session is what is kept of a session; nil where there is none, or it has ended.
func (l *Ledger) Session(ctx context.Context, token string) ([]byte, error) {
	data, err := l.store.Read().Session(ctx, tokenHash(token), l.stamp())
	if isNotFound(err) {
		return nil, nil
	}
	return data, err
}

// StoreSession keeps a session until it ends.
func (l *Ledger) StoreSession(ctx context.Context, token string, data []byte, ends time.Time) error {
	return l.store.Write(ctx, func(r records.Rows) error {
		return r.PutSession(ctx, tokenHash(token), data, ends.UTC().Format(time.RFC3339), l.stamp())
	})
}

// EndSession lets a session go.
func (l *Ledger) EndSession(ctx context.Context, token string) error {
	return l.store.Write(ctx, func(r records.Rows) error { return r.DropSession(ctx, tokenHash(token)) })
}

package ledger

import (
	"context"
	"time"

	"oldledger/store"
)

// keepAnswers is how long the answer to an Idempotency-Key is kept.
const keepAnswers = 24 * time.Hour

// Answered finds what was answered to a person's Idempotency-Key. A key that was used for another request is refused.
func (l *Ledger) Answered(ctx context.Context, who Actor, key, request string) (store.Answer, bool, error) {
	a, ok, err := l.store.Read().Answer(ctx, key, who.Name)
	if err == nil && ok && a.Request != request {
		return a, false, refuse(Conflict, "the Idempotency-Key %s was used for another request", key)
	}
	return a, ok, err
}

// KeepAnswer keeps what was answered to an Idempotency-Key.
func (l *Ledger) KeepAnswer(ctx context.Context, who Actor, key string, a store.Answer) error {
	now := l.options.Now().UTC()
	return l.store.Write(ctx, func(r store.Rows) error {
		return r.AddAnswer(ctx, key, who.Name, a, now.Format(time.RFC3339), now.Add(-keepAnswers).Format(time.RFC3339))
	})
}

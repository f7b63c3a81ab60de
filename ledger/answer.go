package ledger

import (
	"context"
	"time"

	"oldledger/ledger/records"
)

// How long the answer to an Idempotency-Key is kept, and for how long a request counts as under way whose end nobody told: it was killed.
const (
	keepAnswers = 24 * time.Hour
	longestAct  = 10 * time.Minute
)

// Answer is what a request with an Idempotency-Key was answered.
type Answer struct {
	Status int
	Body   []byte // nil for an answer that held a secret, which is not kept
}

// Claim takes an Idempotency-Key of a person for a request, or gives what was answered to it before. It is refused where the key was used
// for another request, and while the same request is under way: of two at the same moment, one acts. Whoever claimed it says with Answered
// what came of it.
func (l *Ledger) Claim(ctx context.Context, who Actor, key, request string) (known *Answer, err error) {
	now := l.options.Now().UTC()
	err = l.store.Write(ctx, func(r records.Rows) error {
		if err := r.DropAnswers(ctx, now.Add(-keepAnswers).Format(time.RFC3339)); err != nil {
			return err
		}
		a, err := r.Answer(ctx, key, who.Name)
		switch {
		case isNotFound(err):
		case err != nil:
			return err
		case a.Request != request:
			return refuse(Conflict, "the Idempotency-Key %s was used for another request", key)
		case a.Status != 0:
			known = &Answer{a.Status, a.Body}
			return nil
		case a.MadeAt > now.Add(-longestAct).Format(time.RFC3339):
			return &Error{Fault: UnderWay, Text: "the same request is under way; send it again in a moment for its answer"}
		}
		return r.PutAnswer(ctx, records.Answer{Key: key, Person: who.Name, Request: request, Body: []byte{}, MadeAt: now.Format(time.RFC3339)})
	})
	return known, err
}

// Answered says what came of a request that claimed an Idempotency-Key; nil where nothing did, and the key is free again.
func (l *Ledger) Answered(ctx context.Context, who Actor, key, request string, a *Answer) error {
	return l.store.Write(ctx, func(r records.Rows) error {
		if a == nil {
			return r.DropAnswer(ctx, key, who.Name)
		}
		body := a.Body
		if body == nil {
			body = []byte{}
		}
		return r.PutAnswer(ctx, records.Answer{Key: key, Person: who.Name, Request: request, Status: a.Status, Body: body, MadeAt: l.stamp()})
	})
}

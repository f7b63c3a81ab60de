package server

import (
	"context"
	"time"

	"github.com/alexedwards/scs/v2"

	"oldledger/ledger"
	"oldledger/server/api"
)

// sessionStore keeps the sessions of scs in the ledger's records.
type sessionStore struct{ ledger *ledger.Ledger }

func (s sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	data, err := s.ledger.SessionData(ctx, token)
	return data, data != nil, err
}

func (s sessionStore) CommitCtx(ctx context.Context, token string, data []byte, ends time.Time) error {
	_, values, err := scs.GobCodec{}.Decode(data)
	if err != nil {
		return err
	}
	person, _ := values[api.SessionPerson].(string) // nobody's yet, else
	seeing, _ := values[api.SessionSeeing].(string)
	return s.ledger.StoreSession(ctx, token, person, seeing, data, ends)
}

func (s sessionStore) DeleteCtx(ctx context.Context, token string) error {
	return s.ledger.EndSession(ctx, token)
}

// What scs asks of a store that knows no context: it never calls these where the others are there.

func (s sessionStore) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

func (s sessionStore) Commit(token string, data []byte, ends time.Time) error {
	return s.CommitCtx(context.Background(), token, data, ends)
}

func (s sessionStore) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }

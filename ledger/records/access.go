package records

import "context"

// Access is on which terms APIs are used, who asked for it, and who may.
type Access interface {
	Plans(ctx context.Context, api string) ([]Plan, error) // by API and name; of all APIs where the name is ""
	PutPlan(ctx context.Context, p Plan) error             // in place of the one before
	DropPlan(ctx context.Context, api, name string) error

	Requests(ctx context.Context) ([]Request, error) // the newest first
	AddRequest(ctx context.Context, r Request) (int64, error)
	RequestItems(ctx context.Context, request int64) ([]RequestItem, error) // of all requests where it is 0
	AddRequestItem(ctx context.Context, i RequestItem) error
	DecideItem(ctx context.Context, i RequestItem) error // from asked; ErrStale where it is not

	Grants(ctx context.Context, api, consumer string) ([]Grant, error) // by consumer, API and line; "" for all
	PutGrant(ctx context.Context, g Grant) error                       // in place of the one before
	DropGrant(ctx context.Context, consumer, api, line string) error

	Credentials(ctx context.Context, api, consumer string) ([]Credential, error) // as they were made; "" for all
	AddCredential(ctx context.Context, c Credential) error
	EndCredential(ctx context.Context, id, at string) error

	Ticks(ctx context.Context, consumer string) ([]Tick, error) // by API, pair and step
	PutTick(ctx context.Context, t Tick) error                  // in place of the one before
	DropTick(ctx context.Context, t Tick) error
}

// Plan is on which terms an API is used. Asks and Audience are JSON lists.
type Plan struct {
	API, Name   string
	Quota       int64
	Per         string
	Terms, Asks string
	Audience    string
	Issues      bool
}

// Request is somebody's wish to use APIs.
type Request struct {
	ID                                  int64
	Consumer, AskedBy, AskedAt, Purpose string
}

// RequestItem is one of the APIs that a request asks for. Answers is a JSON list.
type RequestItem struct {
	Request                             int64
	API, Line, Plan, Answers            string
	State, DecidedBy, DecidedAt, Reason string
}

// Grant is that a consumer may use a line of an API.
type Grant struct{ Consumer, API, Line, Plan, Since, By string }

// Credential is by what a consumer is known at an API; of the secret part there is a hash.
type Credential struct{ ID, Hash, Consumer, API, MadeAt, MadeBy, EndsAt string }

// Tick is that a consumer has done a step of a guide: "1.2.0..2.0.0" of an API, by the change that it is about.
type Tick struct{ Consumer, API, Pair, Step, DoneAt, DoneBy string }

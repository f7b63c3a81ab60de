package records

import "context"

// Usage is who calls what, as logs tell it.
type Usage interface {
	Consumers(ctx context.Context) ([]Consumer, error) // by name

	// ConsumersOf are the names of those that call, may use, or asked for one of some APIs.
	ConsumersOf(ctx context.Context, apis []string) ([]string, error)
	Consumer(ctx context.Context, name string) (Consumer, error)
	PutConsumer(ctx context.Context, c Consumer) error   // in place of the one before, which keeps who made it
	DropConsumer(ctx context.Context, name string) error // with what it asked for, and by what it is recognised; it has no grants

	Signs(ctx context.Context) ([]Sign, error)                               // by team, kind and value
	PutSigns(ctx context.Context, team, consumer string, signs []Sign) error // in place of those before

	Callers(ctx context.Context, api string) ([]Caller, error) // of an API; all where the name is ""
	DropSigns(ctx context.Context, team string) error
	// adds it where it is not there and may be added; ErrNotFound where it may not
	CallerID(ctx context.Context, c Caller, add bool) (int64, error)
	CountCallers(ctx context.Context) (int, error)                    //
	Targets(ctx context.Context, api string) ([]Target, error)        //
	TargetID(ctx context.Context, t Target) (int64, error)            // adds it where it is not there
	Calls(ctx context.Context, api string, m Months) ([]Calls, error) //
	PutCalls(ctx context.Context, c Calls) error                      // in place of those before
	Uses(ctx context.Context, api, consumer string) ([]Use, error)    // "" for all
	Use(ctx context.Context, caller int64, api string) (Use, error)
	AddUse(ctx context.Context, u Use) error                           // to what is there
	Recognise(ctx context.Context, u Use) error                        // says as whom a caller of an API is known
	Covered(ctx context.Context, api string, m Months) ([]Days, error) //
	Cover(ctx context.Context, api string, d Days) error               // these days, too
	Unmatched(ctx context.Context) ([]Unmatched, error)                // the most frequent first
	CountUnmatched(ctx context.Context) (int, error)                   //
	HasUnmatched(ctx context.Context, u Unmatched) (bool, error)       //
	AddUnmatched(ctx context.Context, u Unmatched) error               // to what is there

	Logs(ctx context.Context, limit int) ([]CallLog, error)      // the newest first; all where the limit is 0
	PutLog(ctx context.Context, l CallLog) (id int64, err error) // in place of the one that has its ID; adds one where that is 0
}

// Months is a time from the first to the last month, since January 1970.
type Months struct{ From, Until int }

// Consumer is an application that calls APIs. Contacts is a JSON list.
type Consumer struct{ Name, Title, Note, Team, Person, Contacts, MadeAt, MadeBy string }

// Sign is by what a consumer is recognised, at the APIs of a team, or at all where Team is "".
type Sign struct{ Team, Kind, Value, Consumer string }

// Caller is who called, as logs tell it.
type Caller struct {
	ID                        int64
	Credential, Header, Agent string
}

// Target is what was called.
type Target struct {
	ID                      int64
	API, Version, Operation string
}

// Calls is how often somebody called an operation in a month, with answers of a class, day by day: "0,12,…".
type Calls struct {
	API            string
	Month          int
	Target, Caller int64
	Class          int
	Days           string
}

// Use is that somebody calls an API. Days are those since 1970.
type Use struct {
	Caller   int64
	API      string
	Consumer string // as whom the ledger knows them there; "" for nobody known
	FirstDay int64
	LastDay  int64
	Calls    int64
}

// Days are some days of a month: a bit for each.
type Days struct {
	Month int
	Days  int64
}

// Unmatched is calls of no operation that is described.
type Unmatched struct {
	Reason, API, Method, Path string
	Calls, LastDay            int64
}

// CallLog is a log whose calls were counted. APIs is a JSON list.
type CallLog struct {
	ID                                     int64
	Name, AddedAt, AddedBy                 string
	Length                                 int64
	Digest, Head, APIs                     string
	Lines, Repeated, Calls, Unmatched, Bad int64
	FirstDay, LastDay                      int64
}

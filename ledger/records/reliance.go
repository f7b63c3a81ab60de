package records

import "context"

// Reliances is what consumers rely on.
type Reliances interface {
	Reliances(ctx context.Context, api, consumer string) ([]Reliance, error) // by consumer and API; "" for all
	PutReliance(ctx context.Context, r Reliance) error                       // in place of the one before
	DropReliance(ctx context.Context, consumer, api string) error
	Recordings(ctx context.Context, api, consumer string) ([]Recording, error) // likewise, without their archives
	RecordingArchive(ctx context.Context, consumer, api string) ([]byte, error)
	PutRecording(ctx context.Context, r Recording, archive []byte) error // in place of the one before
	SetGuards(ctx context.Context, consumer, api string, guards bool) error
	DropRecording(ctx context.Context, consumer, api string) error
}

// Reliance is what a consumer relies on of an API, as its file says it.
type Reliance struct{ Consumer, API, Version, Needs, SaidAt, SaidBy string }

// Recording is exchanges of a consumer with an API that somebody recorded.
type Recording struct {
	Consumer, API, Version string
	Exchanges              int
	Digest                 string // of its archive
	Guards                 bool
	AddedAt, AddedBy       string
}

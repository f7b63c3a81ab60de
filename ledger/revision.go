package ledger

import (
	"context"
	"encoding/json"
	"strings"
	"unicode"
)

// Origin is where a recording came from, as whoever recorded it says: a pipeline, as a rule.
type Origin struct {
	From   string `json:"from,omitempty"`   // the repository or folder
	Commit string `json:"commit,omitempty"` // what was checked out
	Build  string `json:"build,omitempty"`  // the run of the pipeline, or its address
}

// Revision is one recording of a version. It stays when a draft is replaced.
type Revision struct {
	Version    string // the version's reference
	Digest     string
	Title      string
	RecordedAt string
	RecordedBy string
	Message    string
	Origin     Origin
	Current    bool // whether it is what the version says now
}

// Limits of what is said of a recording.
const (
	maxMessage = 2000
	maxOrigin  = 500
)

// why refuses a message or an origin that cannot be kept.
func (s *Submission) why() error {
	s.Message = strings.TrimSpace(s.Message)
	if len(s.Message) > maxMessage {
		return refuse(Invalid, "a message has at most %d characters", maxMessage)
	}
	for name, text := range map[string]string{"from": s.Origin.From, "commit": s.Origin.Commit, "build": s.Origin.Build} {
		if len(text) > maxOrigin || strings.ContainsFunc(text, unicode.IsControl) {
			return refuse(Invalid, "%s of an origin is one line of at most %d characters", name, maxOrigin)
		}
	}
	return nil
}

// text is the origin as it is kept.
func (o Origin) text() string {
	text, err := json.Marshal(o)
	if err != nil {
		panic(err) // three strings
	}
	return string(text)
}

// originOf reads a kept origin; what is none is of nowhere.
func originOf(text string) (o Origin) {
	if json.Unmarshal([]byte(text), &o) != nil {
		return Origin{}
	}
	return o
}

// Revisions lists what was recorded of a version, the newest first.
func (l *Ledger) Revisions(ctx context.Context, who Actor, ref string) ([]Revision, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return nil, err
	}
	rows, err := w.rows.Revisions(ctx, v.API, v.Number)
	if err != nil {
		return nil, err
	}
	all := make([]Revision, len(rows))
	for i, r := range rows {
		all[i] = Revision{v.Ref(), r.Digest, r.Title, r.RecordedAt, r.RecordedBy, r.Message, originOf(r.Origin), r.ID == v.revision}
	}
	return all, nil
}

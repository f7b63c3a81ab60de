package wire

// Reliance is what a consumer says or shows that it relies on, as far as one may know of it.
type Reliance struct {
	Consumer   string      `json:"consumer"`
	Text       string      `json:"text"` // as its file says it; "" for nothing
	APIs       []ReliedAPI `json:"apis"`
	Recordings []Recording `json:"recordings"`
}

// ReliedAPI is that a consumer says what it relies on of an API.
type ReliedAPI struct {
	API        string `json:"api"`
	Version    string `json:"version,omitempty"` // for which it was built
	Operations int    `json:"operations"`
	SaidAt     string `json:"saidAt"`
	SaidBy     string `json:"saidBy"`
}

// RelianceWish says what a consumer relies on.
type RelianceWish struct {
	Text string `json:"text"`
}

// Recording is exchanges of a consumer with an API that somebody recorded, kept without credentials.
type Recording struct {
	Consumer  string `json:"consumer"`
	API       string `json:"api"`
	Version   string `json:"version"` // that answered
	Exchanges int    `json:"exchanges"`
	Guards    bool   `json:"guards"` // whether the gate replays it
	AddedAt   string `json:"addedAt"`
	AddedBy   string `json:"addedBy"`
	MaySet    bool   `json:"maySet"` // whether one may say whether it guards
}

// AddedRecording is what came of a recording that was added.
type AddedRecording struct {
	Recording
	Elsewhere int          `json:"elsewhere"` // entries that are no calls of the API
	Alike     int          `json:"alike"`     // that say the same as another one, and are left out
	Wrong     []WrongEntry `json:"wrong"`
}

// WrongEntry is an entry that cannot be read.
type WrongEntry struct {
	Entry int    `json:"entry"`
	Why   string `json:"why"`
}

// Guarding says whether the gate replays a recording.
type Guarding struct {
	Guards bool `json:"guards"`
}

// LineupClient is a consumer of which a recording is kept, and what of it each version answers.
type LineupClient struct {
	Consumer  string         `json:"consumer"`
	Version   string         `json:"version"` // for which it was recorded
	Exchanges int            `json:"exchanges"`
	Cells     []LineupPassed `json:"cells"` // in the order of the versions
}

// LineupPassed is how many exchanges a version answers.
type LineupPassed struct {
	Passed   int `json:"passed"` // -1 where nobody looked yet: who asks again learns of more
	Findings int `json:"findings"`
}

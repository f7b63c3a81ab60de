package wire

import "oldledger/core/promise"

// Plan is on which terms an API is used.
type Plan struct {
	API      string   `json:"api"`
	Name     string   `json:"name"`
	Quota    int64    `json:"quota"`              // calls in a time; 0 for as many as one likes
	Per      string   `json:"per,omitempty"`      // second, minute, hour, day, month
	Terms    string   `json:"terms,omitempty"`    // CommonMark
	Rendered string   `json:"rendered,omitempty"` // the terms as HTML in which nothing runs or loads
	Asks     []string `json:"asks"`               // what whoever asks is asked
	Audience []string `json:"audience"`           // who may ask
	Issues   bool     `json:"issues"`             // whether the ledger issues credentials
}

// PlanWish is what is to be said of a plan.
type PlanWish struct {
	Quota    int64    `json:"quota"`
	Per      string   `json:"per,omitempty"`
	Terms    string   `json:"terms,omitempty"`
	Asks     []string `json:"asks,omitempty"`
	Audience []string `json:"audience,omitempty"`
	Issues   bool     `json:"issues"`
}

// Request is somebody's wish to use APIs.
type Request struct {
	ID       int64         `json:"id"`
	Consumer string        `json:"consumer"`
	Title    string        `json:"title"` // of the consumer
	AskedBy  string        `json:"askedBy"`
	AskedAt  string        `json:"askedAt"`
	Purpose  string        `json:"purpose"`
	Mine     bool          `json:"mine"` // whether the consumer is one's own
	Items    []RequestItem `json:"items"`
}

// RequestItem is one of the APIs that it asks for.
type RequestItem struct {
	API       string     `json:"api"`
	Line      string     `json:"line"`
	Plan      string     `json:"plan"`
	Answers   []Answered `json:"answers"`
	State     string     `json:"state"` // asked, approved, refused, withdrawn
	DecidedBy string     `json:"decidedBy,omitempty"`
	DecidedAt string     `json:"decidedAt,omitempty"`
	Reason    string     `json:"reason,omitempty"`
	Decides   bool       `json:"decides"` // whether one may decide it
}

// Answered is a question of a plan, and its answer.
type Answered struct {
	Question string `json:"question"`
	Answer   string `json:"answer"`
}

// RequestWish asks for the use of APIs.
type RequestWish struct {
	Consumer string         `json:"consumer"`
	Title    string         `json:"title,omitempty"` // of a new consumer
	Purpose  string         `json:"purpose"`
	Items    []RequestedAPI `json:"items"`
}

// RequestedAPI is one of them.
type RequestedAPI struct {
	API     string   `json:"api"`
	Line    string   `json:"line"`
	Plan    string   `json:"plan"`
	Answers []string `json:"answers,omitempty"`
}

// RequestMade is the number of a request.
type RequestMade struct {
	ID int64 `json:"id"`
}

// Decision is what becomes of one of the APIs of a request.
type Decision struct {
	API    string `json:"api"`
	Line   string `json:"line"`
	State  string `json:"state"` // approved, refused, withdrawn
	Reason string `json:"reason"`
}

// Grant is that a consumer may use a line of an API.
type Grant struct {
	Consumer    string             `json:"consumer"`
	Title       string             `json:"title"`
	API         string             `json:"api"`
	Line        string             `json:"line"`
	Plan        string             `json:"plan"`
	Quota       int64              `json:"quota"` // calls in a time; 0 for as many as it likes
	Per         string             `json:"per,omitempty"`
	Issues      bool               `json:"issues"` // whether the ledger issues credentials
	Since       string             `json:"since"`
	By          string             `json:"by"`
	Versions    []string           `json:"versions"` // of the line, those that are answered
	Credentials []IssuedCredential `json:"credentials"`
}

// IssuedCredential is by what a consumer is known at an API.
type IssuedCredential struct {
	ID     string `json:"id"`             // as logs have it
	Hash   string `json:"hash,omitempty"` // SHA-256 of all of it, in hexadecimal, for the API's team
	MadeAt string `json:"madeAt"`
	MadeBy string `json:"madeBy"`
	EndsAt string `json:"endsAt,omitempty"`
	Ended  bool   `json:"ended"`
}

// CredentialWish asks for a credential. Those before it end after so many days; -1 has them go on.
type CredentialWish struct {
	Overlap int `json:"overlap"`
}

// NewCredential is a credential that was made; it is told once.
type NewCredential struct {
	ID         string `json:"id"`
	Credential string `json:"credential"`
}

// CarryWish carries those who may use a line over to another one.
type CarryWish struct {
	From      string   `json:"from"`
	To        string   `json:"to"`
	Consumers []string `json:"consumers,omitempty"` // none for all
	Sunset    string   `json:"sunset,omitempty"`
	Reason    string   `json:"reason,omitempty"`
	Guide     string   `json:"guide,omitempty"`
	Sooner    string   `json:"sooner,omitempty"`
}

// Carried is what came of it.
type Carried struct {
	Consumers []string        `json:"consumers"`
	Notice    *promise.Notice `json:"notice,omitempty"`
}

// ConsumerGuide is the guide from a version that a consumer calls to another one, narrowed to what it calls.
type ConsumerGuide struct {
	API   string         `json:"api"`
	Old   string         `json:"old"` // numbers
	New   string         `json:"new"`
	Uses  []string       `json:"uses"` // the operations that it calls: "GET /berths/{}"
	Steps []ConsumerStep `json:"steps"`
	// steps that those operations ask for, and that are about nothing that the consumer says that it relies on
	Spared int `json:"spared"`
}

// ConsumerStep is one thing that the consumer must do.
type ConsumerStep struct {
	ID     string `json:"id"`
	Title  string `json:"title"`
	DoneAt string `json:"doneAt,omitempty"`
	DoneBy string `json:"doneBy,omitempty"`
	Relied bool   `json:"relied"` // whether the consumer says that it relies on what it is about
}

// Tick says that a consumer has done a step of a guide, or that it has not.
type Tick struct {
	API  string `json:"api"`
	Old  string `json:"old"`
	New  string `json:"new"`
	Step string `json:"step"`
	Done bool   `json:"done"`
}

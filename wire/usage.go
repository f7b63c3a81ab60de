package wire

import "oldledger/core/compare"

// Consumer is an application that calls APIs.
type Consumer struct {
	Name     string        `json:"name"`
	Title    string        `json:"title"`
	Note     string        `json:"note,omitempty"`   // what it is for
	Team     string        `json:"team,omitempty"`   // whose it is
	Person   string        `json:"person,omitempty"` // whose it is, where it is no team's
	Contacts []string      `json:"contacts"`
	MadeAt   string        `json:"madeAt"`
	MadeBy   string        `json:"madeBy"`
	KnownBy  []Sign        `json:"knownBy"` // that one may know of
	Uses     []ConsumerUse `json:"uses"`    // of APIs of which one may know who calls them, by API
	Mine     bool          `json:"mine"`    // whether one keeps it
}

// Sign is by what a consumer is recognised.
type Sign struct {
	Team  string `json:"team,omitempty"` // at whose APIs; "" for all
	Kind  string `json:"kind"`           // credential, header, agent
	Value string `json:"value"`          // a * stands for any text; of a header "name: value"
}

// ConsumerUse is that a consumer calls an API. Days are those of UTC.
type ConsumerUse struct {
	API      string `json:"api"`
	FirstDay string `json:"firstDay"`
	LastDay  string `json:"lastDay"`
	Calls    int64  `json:"calls"`
}

// ConsumerWish is what is to be said of a consumer; what is left out stays as it is.
type ConsumerWish struct {
	Title    *string   `json:"title,omitempty"`
	Note     *string   `json:"note,omitempty"`
	Team     *string   `json:"team,omitempty"`
	Person   *string   `json:"person,omitempty"`
	Contacts *[]string `json:"contacts,omitempty"`
}

// Signs are by what a consumer is recognised at the APIs of a team, or, where none is named, at all.
type Signs struct {
	Team    string `json:"team,omitempty"`
	KnownBy []Sign `json:"knownBy"`
}

// Log is a log whose calls were counted.
type Log struct {
	ID        int64    `json:"id"` // 0 where nothing in it was new
	Name      string   `json:"name"`
	AddedAt   string   `json:"addedAt"`
	AddedBy   string   `json:"addedBy"`
	APIs      []string `json:"apis"`
	Bytes     int64    `json:"bytes"` // of its text
	Lines     int64    `json:"lines"`
	Repeated  int64    `json:"repeated"` // lines that had been counted before
	Calls     int64    `json:"calls"`    // that were counted
	Unmatched int64    `json:"unmatched"`
	Bad       int64    `json:"bad"` // lines that cannot be read
	FirstDay  string   `json:"firstDay,omitempty"`
	LastDay   string   `json:"lastDay,omitempty"`
}

// AddedLog is what came of a log.
type AddedLog struct {
	Log
	Elsewhere int64        `json:"elsewhere"` // calls of APIs of which one adds none
	Counted   []CountedAPI `json:"counted"`   // the most called first
	Odd       []Unmatched  `json:"odd"`       // calls of no operation, the most frequent first
	Torn      []BadLines   `json:"torn"`      // lines that cannot be read, by what is wrong with them
}

// CountedAPI is how many calls of an API a log told.
type CountedAPI struct {
	API   string `json:"api"`
	Calls int64  `json:"calls"`
}

// Unmatched is calls of no operation that is described.
type Unmatched struct {
	Why     string `json:"why"`           // path, method, version, untold
	API     string `json:"api,omitempty"` // whose path it is
	Method  string `json:"method,omitempty"`
	Path    string `json:"path,omitempty"` // "" for those beyond the paths that are kept
	Calls   int64  `json:"calls"`
	LastDay string `json:"lastDay,omitempty"`
}

// BadLines are lines that cannot be read.
type BadLines struct {
	Why      string    `json:"why"`
	Lines    int64     `json:"lines"`
	Examples []BadLine `json:"examples"`
}

// BadLine is one of them.
type BadLine struct {
	Line int64  `json:"line"`
	Text string `json:"text"` // its beginning
}

// DaySpan is some days, one after another.
type DaySpan struct {
	From  string `json:"from"`
	Until string `json:"until"`
}

// Use is how often an API was called, day by day.
type Use struct {
	API     string      `json:"api"`
	From    string      `json:"from"`
	Until   string      `json:"until"`
	By      string      `json:"by"` // version, line, consumer, operation, class
	Calls   int64       `json:"calls"`
	Failed  int64       `json:"failed"`  // with answers of 4xx and 5xx
	Unknown int64       `json:"unknown"` // calls of nobody known
	Days    int         `json:"days"`
	Covered int         `json:"covered"` // the days of which logs tell
	Missing []DaySpan   `json:"missing"` // those of which none does
	Series  []UseSeries `json:"series"`
}

// UseSeries is one of those that are told apart.
type UseSeries struct {
	Name     string  `json:"name"`
	Title    string  `json:"title,omitempty"` // of a consumer
	Known    bool    `json:"known"`           // false for callers of whom nobody knows which consumer they are
	Calls    int64   `json:"calls"`
	Failed   int64   `json:"failed"`
	FirstDay string  `json:"firstDay"`
	LastDay  string  `json:"lastDay"`
	Days     []int64 `json:"days"` // a number for each day
}

// User is who calls some of an API.
type User struct {
	Consumer   string   `json:"consumer,omitempty"` // "" for nobody known
	Title      string   `json:"title,omitempty"`
	Team       string   `json:"team,omitempty"` // whose it is, or the person
	Contacts   []string `json:"contacts"`
	Caller     string   `json:"caller,omitempty"` // of nobody known: what it calls itself
	Versions   []string `json:"versions"`
	Operations []string `json:"operations"`
	Calls      int64    `json:"calls"`
	Failed     int64    `json:"failed"`
	FirstDay   string   `json:"firstDay"`
	LastDay    string   `json:"lastDay"`
	Days       []int64  `json:"days"`
}

// Evidence is what logs tell of a time.
type Evidence struct {
	From    string    `json:"from"`
	Until   string    `json:"until"`
	Days    int       `json:"days"`
	Covered int       `json:"covered"`
	Missing []DaySpan `json:"missing"`
	Calls   int64     `json:"calls"`
	Unknown int64     `json:"unknown"` // calls of nobody known
}

// Impact is whom the changes from one version to another touch.
type Impact struct {
	Old      string           `json:"old"`
	New      string           `json:"new"`
	Evidence Evidence         `json:"evidence"`
	Team     string           `json:"team"`    // that knows who calls the API
	Named    bool             `json:"named"`   // whether one may know the names of all
	Changes  []TouchingChange `json:"changes"` // in the order of the comparison
	Users    []User           `json:"users"`
	Hidden   int              `json:"hidden"` // callers whose names one may not know
}

// TouchingChange is a change, and whom it touches.
type TouchingChange struct {
	ID       string        `json:"id"`
	Kind     string        `json:"kind"`
	Backward compare.Grade `json:"backward"`
	Forward  compare.Grade `json:"forward"`
	At       string        `json:"at"`
	Title    string        `json:"title"`
	Users    []string      `json:"users"`   // consumers
	Unknown  int           `json:"unknown"` // callers of whom nobody knows which consumer they are
	Hidden   int           `json:"hidden"`  // consumers whose names one may not know
	Calls    int64         `json:"calls"`
	LastDay  string        `json:"lastDay,omitempty"`
	Says     string        `json:"says,omitempty"` // where it touches nobody: how far that is known
	Relies   []string      `json:"relies"`         // of the users: those who say or show that they rely on what it changes
	Breaks   []string      `json:"breaks"`         // of these: those whom it breaks, although it is a hazard for others
	Spared   []string      `json:"spared"`         // consumers that call what it changes, and say that they rely on nothing of it
	Others   int           `json:"others"`         // such consumers whose names one may not know
}

// Readiness is whether something may go.
type Readiness struct {
	Title string `json:"title"` // the subject as readers know it
	// what to send those who still call it, by consumer
	Messages map[string]string `json:"messages"`
	Subject  string            `json:"subject"`
	API      string            `json:"api"`
	Versions []string          `json:"versions"`
	Notice   int64             `json:"notice,omitempty"`
	Sunset   string            `json:"sunset,omitempty"`
	Guide    string            `json:"guide,omitempty"` // "1.2.0..2.0.0"
	Quiet    int               `json:"quiet"`           // how many days nobody calls what goes
	May      bool              `json:"may"`
	Reasons  []ReadyReason     `json:"reasons"`
	Evidence Evidence          `json:"evidence"`
	Users    []User            `json:"users"`
	Reliant  []string          `json:"reliant"`          // consumers that say or show that they rely on it
	Moved    []User            `json:"moved"`            // who called it in the last 90 days, and not in those
	From     string            `json:"from"`             // the first day of the curve
	Curve    []int64           `json:"curve"`            // the calls of each day, up to the last one of which logs tell
	Ends     string            `json:"ends,omitempty"`   // when they end at this pace, at the earliest
	EndsBy   string            `json:"endsBy,omitempty"` // and at the latest; "" where nobody can say
}

// ReadyReason is one of the questions on which it depends.
type ReadyReason struct {
	Fine bool   `json:"fine"`
	Text string `json:"text"`
}

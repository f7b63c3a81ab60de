package promise

import (
	"strings"
	"time"

	"oldledger/core/compare"
)

// Notice announces that something is deprecated. What it speaks of is the API, one line, or one version of it; within
// that an operation or a field, where one is named.
type Notice struct {
	ID         int64  `json:"id"`
	API        string `json:"api"`
	Line       string `json:"line,omitempty"`
	Version    string `json:"version,omitempty"`
	Operation  string `json:"operation,omitempty"` // its key: "POST /bookings"
	Parameter  string `json:"parameter,omitempty"` // of the operation, with its place: "query limit"
	Field      string `json:"field,omitempty"`     // schema and property: "Vessel.length"
	Since      string `json:"since"`               // a date, 2026-03-01
	Sunset     string `json:"sunset,omitempty"`    // a date; "" when none is set yet
	ReplacedBy string `json:"replacedBy,omitempty"`
	Reason     string `json:"reason"`
	MadeBy     string `json:"madeBy"`
	MadeAt     string `json:"madeAt,omitempty"`
	ChangedAt  string `json:"changedAt,omitempty"` // when its date, replacement or reason last changed
}

// Whole tells whether the notice speaks of a version as a whole, and not of a part of it.
func (n Notice) Whole() bool { return n.Operation == "" && n.Field == "" }

// Covers tells whether the notice speaks of the version or of something in it.
func (n Notice) Covers(version, line string) bool {
	switch {
	case n.Version != "":
		return n.Version == version
	case n.Line != "":
		return n.Line == line
	}
	return true
}

// OfOperation tells whether the notice speaks of an operation as a whole.
func (n Notice) OfOperation(key string) bool { return n.Operation == key && n.Parameter == "" }

// Subject names what the notice is about: "berths 1.2.0, length of Vessel".
func (n Notice) Subject() string {
	what := n.API
	switch {
	case n.Version != "":
		what += " " + n.Version
	case n.Line != "":
		what += ", line " + n.Line
	}
	switch {
	case n.Parameter != "":
		_, name, _ := strings.Cut(n.Parameter, " ")
		what += ", " + name + " of " + n.Operation
	case n.Operation != "":
		what += ", " + n.Operation
	case n.Field != "":
		schema, property, _ := strings.Cut(n.Field, ".")
		what += ", " + property + " of " + schema
	}
	return what
}

// Overdue tells whether the sunset has passed.
func (n Notice) Overdue(today time.Time) bool {
	return n.Sunset != "" && n.Sunset < today.Format(time.DateOnly)
}

// Announcement tells how a removal was announced: the notice, and whether its sunset has passed. It is nil for a change
// that removes nothing, and has no notice where nobody announced it.
type Announcement struct {
	Notice    *Notice `json:"notice,omitempty"`
	Announced bool    `json:"announced"`
}

// String says in words how a removal was announced: "announced to leave on 2027-03-01, not before".
func (a Announcement) String() string {
	switch {
	case a.Notice == nil:
		return "nobody announced it"
	case a.Notice.Sunset == "":
		return "announced, without a date"
	case a.Announced:
		return "announced, and its date has passed: " + a.Notice.Sunset
	}
	return "announced to leave on " + a.Notice.Sunset + ", not before"
}

// Announce finds the notice that announced a removal.
func Announce(ch *compare.Change, notices []Notice, today time.Time) *Announcement {
	removed := strings.HasSuffix(ch.Kind, ".removed") || strings.HasSuffix(ch.Kind, ".moved") || strings.HasSuffix(ch.Kind, ".renamed")
	if !removed || ch.Old == nil || ch.Backward < compare.Hazard {
		return nil
	}
	for _, n := range notices {
		if n.Operation != "" && n.Operation == ch.Operation && (n.Parameter == "" && strings.HasPrefix(ch.Kind, "operation.") || n.Parameter != "" && ch.At == strings.Replace(n.Parameter, " ", " parameter ", 1)) || n.Field != "" && n.Field == fieldOf(ch.Old.Pointer) {
			return &Announcement{Notice: &n, Announced: n.Overdue(today)}
		}
	}
	return &Announcement{}
}

// fieldOf reads schema and property from the pointer of a component's property.
func fieldOf(pointer string) string {
	rest, ok := strings.CutPrefix(pointer, "/components/schemas/")
	if !ok {
		return ""
	}
	schema, property, ok := strings.Cut(rest, "/properties/")
	if !ok || strings.Contains(property, "/") {
		return ""
	}
	return schema + "." + property
}

package promise

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"oldledger/core/compare"
)

// Notice announces that something is deprecated. What it speaks of is the API, one line, or one version of it; within
// that an operation, one of its parameters or response headers, or a field, where one is named; and of one of the values that a
// parameter, a header or a field lists.
type Notice struct {
	ID         int64  `json:"id"`
	API        string `json:"api"`
	Line       string `json:"line,omitempty"`
	Version    string `json:"version,omitempty"`
	Operation  string `json:"operation,omitempty"` // its key: "POST /bookings"
	Written    string `json:"written,omitempty"`   // the operation as its author wrote it; "" where nobody kept it
	Parameter  string `json:"parameter,omitempty"` // of the operation, with its place: "query limit"
	Header     string `json:"header,omitempty"`    // of the operation's answers: "X-Berths-Left"
	Field      string `json:"field,omitempty"`     // schema and property: "Vessel.length"
	Value      string `json:"value,omitempty"`     // of the enum of that parameter, header or field
	Since      string `json:"since"`               // a date, 2026-03-01
	Sunset     string `json:"sunset,omitempty"`    // a date; "" when none is set yet
	ReplacedBy string `json:"replacedBy,omitempty"`
	Reason     string `json:"reason"`
	Guide      string `json:"guide,omitempty"` // the guide to follow: "1.2.0..2.0.0"
	MadeBy     string `json:"madeBy"`
	MadeAt     string `json:"madeAt,omitempty"`
	ChangedAt  string `json:"changedAt,omitempty"` // when its date, replacement or reason last changed

	// Set by Settled where a whole around it leaves earlier: its own sunset, and what ends it.
	Own     string `json:"-"`
	EndedBy string `json:"-"`
}

// MarshalJSON writes the notice with its subject in words, as "subject".
func (n Notice) MarshalJSON() ([]byte, error) {
	type fields Notice
	return json.Marshal(struct {
		fields
		Subject string `json:"subject"`
	}{fields(n), n.Subject()})
}

// Whole reports whether the notice speaks of a version as a whole, and not of a part of it.
func (n Notice) Whole() bool { return n.SamePart(Notice{}) }

// Covers reports whether the notice speaks of the version or of something in it.
func (n Notice) Covers(version, line string) bool {
	switch {
	case n.Version != "":
		return n.Version == version
	case n.Line != "":
		return n.Line == line
	}
	return true
}

// OfOperation reports whether the notice speaks of an operation as a whole.
func (n Notice) OfOperation(key string) bool {
	return n.Operation == key && n.Parameter == "" && n.Header == ""
}

// OfParameter reports whether the notice speaks of a parameter as a whole; in and name are the parameter's.
func (n Notice) OfParameter(key, in, name string) bool {
	return n.Operation == key && n.Parameter == in+" "+name && n.Value == ""
}

// OfField reports whether the notice speaks of a field as a whole.
func (n Notice) OfField(schema, property string) bool {
	return n.Field == schema+"."+property && n.Value == ""
}

// Subject names what the notice is about: "berths 1.2.0, length of Vessel".
func (n Notice) Subject() string {
	what := n.API
	switch {
	case n.Version != "":
		what += " " + n.Version
	case n.Line != "":
		what += ", line " + n.Line
	}
	if part := n.Part(); part != "" {
		what += ", " + part
	}
	return what
}

// written is the operation as people read it.
func (n Notice) written() string { return cmp.Or(n.Written, n.Operation) }

// SamePart reports whether two notices speak of the same part, or both of no part.
func (n Notice) SamePart(m Notice) bool {
	return n.Operation == m.Operation && n.Parameter == m.Parameter && n.Header == m.Header && n.Field == m.Field && n.Value == m.Value
}

// Part names the part that the notice is about: "length of Vessel"; "" where it speaks of the whole.
func (n Notice) Part() string {
	what := ""
	switch {
	case n.Parameter != "":
		_, name, _ := strings.Cut(n.Parameter, " ")
		what = name + " of " + n.written()
	case n.Header != "":
		what = n.Header + " of the answers to " + n.written()
	case n.Operation != "":
		what = n.written()
	case n.Field != "":
		schema, property, _ := strings.Cut(n.Field, ".")
		what = property + " of " + schema
	}
	if n.Value != "" {
		what = "the value " + n.Value + " of " + what
	}
	return what
}

// Overdue reports whether the sunset has passed.
func (n Notice) Overdue(today time.Time) bool {
	return n.Sunset != "" && n.Sunset < today.Format(time.DateOnly)
}

// Announcement tells how a removal was announced: the notice, and whether its sunset has passed. It is nil for a change
// that removes nothing, and has no notice where nobody announced it.
type Announcement struct {
	Notice    *Notice `json:"notice,omitempty"`
	Announced bool    `json:"announced"`
}

// MarshalJSON writes the announcement with how it reads, as "text".
func (a Announcement) MarshalJSON() ([]byte, error) {
	type fields Announcement
	return json.Marshal(struct {
		fields
		Text string `json:"text"`
	}{fields(a), a.String()})
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
	if !leaves(ch) || ch.Old == nil || ch.Backward < compare.Hazard {
		return nil
	}
	for _, n := range notices {
		if !n.Whole() && n.speaksOf(ch, ch.Old) {
			return &Announcement{Notice: &n, Announced: n.Overdue(today)}
		}
	}
	return &Announcement{}
}

// Removals tell of the changes of a comparison that remove something how that was announced, by their ids.
func Removals(c *compare.Comparison, notices []Notice, today time.Time) map[string]*Announcement {
	all := map[string]*Announcement{}
	for _, ch := range c.Changes {
		if a := Announce(ch, notices, today); a != nil {
			all[ch.ID] = a
		}
	}
	return all
}

// leaves reports whether something that was there is there no longer, under its name.
func leaves(ch *compare.Change) bool {
	for _, end := range []string{".removed", ".moved", ".renamed"} {
		if strings.HasSuffix(ch.Kind, end) {
			return true
		}
	}
	return len(ch.Left) > 0
}

// speaksOf reports whether the notice speaks of what a change is about, which stands at place in the version that the notice covers.
func (n Notice) speaksOf(ch *compare.Change, place *compare.Place) bool {
	if place == nil {
		return false
	}
	value := ""
	switch {
	case len(ch.Left) > 0 && slices.Contains(ch.Left, n.Value):
		value = n.Value
	case strings.HasSuffix(ch.Kind, "value.renamed"):
		value = ch.Renamed.From
	case len(ch.Left) > 0:
		return false
	}
	if value != n.Value {
		return false
	}
	switch {
	case n.Field != "":
		return place.Is(n.Field)
	case n.Operation != ch.Operation || n.Operation == "":
		return false
	case n.Parameter != "":
		in, name, _ := strings.Cut(n.Parameter, " ")
		at := ch.Location
		return at.Part == compare.PartParameter && at.In == in && (at.Name == name && only(at.Fields) || ch.Renamed != nil &&
			ch.Renamed.From == name)
	case n.Header != "":
		name := ch.Location.Header
		return name != "" && (strings.EqualFold(name, n.Header) && only(ch.Location.Fields) || ch.Renamed != nil &&
			strings.EqualFold(ch.Renamed.From, n.Header))
	}
	return ch.Location.Part == compare.PartOperation
}

// only tells of fields that they lead to the value itself, or to the items of a list.
func only(fields []string) bool {
	return !slices.ContainsFunc(fields, func(f string) bool { return f != "[]" })
}

// SortNotices puts the next sunset first, and what has no date yet last.
func SortNotices(all []Notice) {
	whenever := func(n Notice) string { return cmp.Or(n.Sunset, "9999") }
	slices.SortStableFunc(all, func(x, y Notice) int {
		return cmp.Or(strings.Compare(whenever(x), whenever(y)), cmp.Compare(x.ID, y.ID))
	})
}

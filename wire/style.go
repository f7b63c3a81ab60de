package wire

import (
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// Style is the house style of the house, a team or an API.
type Style struct {
	Version int            `json:"version"` // 0 where there is none
	Text    string         `json:"text"`    // a style file; "" where there is none
	Reason  string         `json:"reason,omitempty"`
	MadeAt  string         `json:"madeAt,omitempty"`
	MadeBy  string         `json:"madeBy,omitempty"`
	Name    string         `json:"name"`            // of what is in force here, with the versions that speak
	Fault   string         `json:"fault,omitempty"` // why a part of it is left out
	Parts   []StylePart    `json:"parts"`           // of what is in force here: the house's, the team's, the API's
	History []StyleVersion `json:"history"`         // the newest first
}

// StylePart is one of the style files of which a style consists.
type StylePart struct {
	Of      string `json:"of"` // "the house", "the team Quayside", "berths"
	Version int    `json:"version"`
	Text    string `json:"text"`
}

// StyleVersion is one version of a style.
type StyleVersion struct {
	Version int    `json:"version"`
	Text    string `json:"text"`
	Reason  string `json:"reason,omitempty"`
	MadeAt  string `json:"madeAt"`
	MadeBy  string `json:"madeBy"`
}

// StyleWish is the wish to keep a new version of a style; an empty text takes it away.
type StyleWish struct {
	Text    string `json:"text"`
	Reason  string `json:"reason"`
	Version int    `json:"version"` // the one that was changed, 0 for none
}

// Rule is a rule of a house style.
type Rule = housestyle.Told

// Rules are those of a style.
type Rules struct {
	Style string `json:"style"`
	Items []Rule `json:"items"`
}

// Findings are what is wrong with a version, and what does not follow the house style.
type Findings struct {
	Style    string    `json:"style"` // its name, with the versions that speak
	Fault    string    `json:"fault,omitempty"`
	Errors   int       `json:"errors"`
	Warnings int       `json:"warnings"`
	Hints    int       `json:"hints"`
	Standing int       `json:"standing"` // how many may stand
	Parts    int       `json:"parts"`    // how many operations, parameters, fields, … the description has
	Clean    int       `json:"clean"`    // about how many of them nothing is found
	Items    []Finding `json:"items"`
}

// Finding is one of them.
type Finding struct {
	ID string `json:"id"` // the same while it stands, whatever its line
	*source.Diagnostic
	Mends string `json:"mends,omitempty"` // how it is mended without a thought
	Let   string `json:"let,omitempty"`   // why it may stand
	New   bool   `json:"new"`             // whether the published version before it has it not
}

// Mending is the wish to mend some findings of a draft.
type Mending struct {
	Findings []string `json:"findings"` // their ids; none for all that can be mended
	Digest   string   `json:"digest"`   // of the draft in which they were found
}

// Vocabulary is how the APIs of the ledger name their fields.
type Vocabulary struct {
	housestyle.Vocabulary
	Left int `json:"left"` // how many APIs are left out
}

// Mended says what was mended.
type Mended struct {
	Mended  int     `json:"mended"`
	Version Version `json:"version"`
}

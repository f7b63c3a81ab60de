// Package housestyle judges descriptions by a house's rules: what readers miss, what is not consistent, what is not safe, and what
// will hold the API back later.
//
//	style, err := housestyle.Read(file, housestyle.Ours()) // the rules of ours, as a style file changes them, and its own
//	found, err := housestyle.Check(ctx, c, style, housestyle.Options{})
//	found.Diagnostics() // in the order of the files, each with its rule, its place, what is wrong and what would be right
//
// A rule speaks about elements of a kind: operations, fields, … (kinds.go), each once, where its author wrote it, in whatever dialect.
// Most rules are conditions in CEL over facts of an element (rules/*.yaml); the others are Go, and look at more than one element at
// once. A style file is YAML: its language is that of the rules that come with it, and Schema describes it as JSON Schema 2020-12.
//
// Rules from a stranger can ask, and nothing else: every question has a limit of cost and memory, and what goes wrong in one is told
// as a finding and hides no other.
package housestyle

import (
	"slices"
	"strings"

	"oldledger/core/source"
)

// Style is the rules of a house, and what it settles for them.
type Style struct {
	Name  string // "Saltmere Harbour"; "" of the rules as they come
	Says  string // what it is for, in Markdown
	House House
	// Grading is the kinds of change whose hazards count as breaking here, each with the reason.
	Grading map[string]string
	Terms   Terms
	Rules   []*Rule // by their groups, then in their order
}

// Rule is one rule.
type Rule struct {
	Name    string
	Group   string
	About   string // the kind of elements, or a JSONPath (RFC 9535)
	Weight  source.Severity
	Off     bool
	Because string // why its weight is another than it came with
	Where   string // a condition (CEL): which elements are meant; "" for all
	Must    string // a condition: what holds of them; "" for a rule that is no condition
	Says    string // what is wrong where it does not
	Right   string // what would be right
	Why     string // in Markdown
	With    House  // what the house settles where the examples are tried
	Good    []Example
	Bad     []Example
	Own     bool // whether it came with a style file

	at     string
	where  *condition
	must   *condition
	says   *phrase
	right  *phrase
	path   *pathQuery // of a rule about the places that a JSONPath finds
	mend   *mending
	judge  func(*examination, *Rule) // of a rule that is no condition
	trust  bool
	ofKind *kind
	plain  bool       // whether what its conditions say follows from reads
	pre    *condition // what of where follows from reads; nil for nothing
	reads  []read
}

// Example is a description, perhaps behind others with a line --- between them (exampleBreak), that a rule finds nothing wrong with,
// or something: a whole one, or some of its keys; what lacks is filled in.
type Example struct {
	Text string
	Node *source.Node // where it stands in its style file, nil for what did not come from one
}

// Groups are the groups of the rules that come with the ledger.
var Groups = []string{"readers", "consistent", "safe", "lasting"}

// Ownership is the group of the rules that come with a style file.
const Ownership = "own"

// Rule finds a rule by its name, or nil.
func (s *Style) Rule(name string) *Rule {
	for _, r := range s.Rules {
		if r.Name == name {
			return r
		}
	}
	return nil
}

// Names are the names of all rules.
func (s *Style) Names() []string {
	names := make([]string, len(s.Rules))
	for i, r := range s.Rules {
		names[i] = r.Name
	}
	return names
}

// with is a copy in which a rule stands in the place of that of its name, or behind all.
func (s *Style) with(r *Rule) {
	for i, old := range s.Rules {
		if old.Name == r.Name {
			s.Rules[i] = r
			return
		}
	}
	s.Rules = append(s.Rules, r)
}

// sorted puts the rules into their order: by groups.
func (s *Style) sorted() {
	place := func(r *Rule) int {
		if i := slices.Index(Groups, r.Group); i >= 0 {
			return i
		}
		return len(Groups)
	}
	slices.SortStableFunc(s.Rules, func(a, b *Rule) int {
		if d := place(a) - place(b); d != 0 {
			return d
		}
		return strings.Compare(a.Group, b.Group)
	})
}

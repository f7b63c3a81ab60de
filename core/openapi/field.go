package openapi

import (
	"math"
	"math/big"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// The readers of single fields. Each gives the zero value for a field that is not there, and tells of a field of the wrong kind with what
// would be right. All may be asked of a nil node.

func (r *reader) report(d *source.Diagnostic) {
	if len(r.diagnostics) < 2*source.MaxTold || d.Refused() { // what is told twice is one in the end
		r.diagnostics = append(r.diagnostics, d)
	}
}

// is tells of a node that is not of the kind that its place asks for. A keyword of a schema is unclear then.
func (r *reader) is(n *source.Node, kind source.Kind) bool {
	if n.Kind == kind {
		return true
	}
	what := n.Step()
	if what == "" {
		what = "this"
	}
	if n.Kind == source.Null && !unclearKeyword(n) {
		r.report(n.KeyWrong(contract.ValueEmpty, "%s has no value; write one, or take the key out", what))
		return false
	}
	r.report(n.Wrong(contract.KindWrong, "%s is %s; it must be %s", what, n.Kind, kind))
	if g := groups[n.Step()]; g != 0 && g&ofAnnotations == 0 {
		r.unclear = append(r.unclear, n)
	}
	return false
}

// unclearKeyword tells of a keyword for whose absence null cannot be meant.
func unclearKeyword(n *source.Node) bool {
	return slices.Contains([]string{"not", "items", "additionalProperties", "enum", "if", "contains"}, n.Step())
}

// text reads a string. A number stands for its spelling: YAML makes one of version: 1.0.
func (r *reader) text(n *source.Node, key string) string {
	f := n.Get(key)
	switch {
	case f == nil || f.Kind == source.Null:
		return ""
	case f.Kind == source.Boolean && !r.alone:
		r.report(f.Wrong(contract.KindWrong, "%s is a boolean; put the word in quotes", key).Replace(f, `"`+f.Text+`"`))
		return f.Text
	case f.Kind == source.Number || r.is(f, source.String):
		return f.Text
	}
	return ""
}

func (r *reader) flag(n *source.Node, key string) bool {
	f := n.Get(key)
	if f == nil {
		return false
	}
	if f.Kind == source.String && (f.Text == "true" || f.Text == "false") {
		r.report(f.Wrong(contract.TextForBoolean, "%s is text; write %s without quotes", key, f.Text).Replace(f, f.Text))
		return f.Text == "true"
	}
	return r.is(f, source.Boolean) && f.Bool
}

func (r *reader) number(n *source.Node, key string) *big.Rat {
	f := n.Get(key)
	if f == nil {
		return nil
	}
	if f.Kind == source.String {
		if num, ok := f.SpelledNumber(); ok {
			r.report(f.Wrong(contract.TextForNumber, "%s is text; write %s without quotes", key, f.Text).Replace(f, f.Text))
			return num
		}
	}
	if r.is(f, source.Number) {
		return f.Num()
	}
	return nil
}

// mostCounted is what larger counts are read as: no message comes near it.
const mostCounted = math.MaxInt / 4

// count reads a whole number that is not negative.
func (r *reader) count(n *source.Node, key string) *int {
	num := r.number(n, key)
	if num == nil {
		return nil
	}
	f := n.Get(key)
	if !num.IsInt() || num.Sign() < 0 {
		r.report(f.Wrong(contract.NumberWrong, "%s is %s; it must be a whole number from 0 on", key, f.Text))
		return nil
	}
	v := mostCounted
	if num.Num().IsInt64() {
		v = int(min(num.Num().Int64(), mostCounted))
	}
	return &v
}

// list reads the objects of a list.
func (r *reader) list(n *source.Node, key string) []*source.Node {
	f := n.Get(key)
	if f == nil || !r.is(f, source.Sequence) {
		return nil
	}
	var items []*source.Node
	for _, it := range f.Items() {
		if it.Kind != source.Mapping {
			r.report(it.Wrong(contract.KindWrong, "an entry of %s is %s; it must be an object", key, it.Kind))
			continue
		}
		items = append(items, it)
	}
	return items
}

// words reads a list of strings.
func (r *reader) words(n *source.Node, key string) []string {
	f := n.Get(key)
	if f == nil || !r.is(f, source.Sequence) {
		return nil
	}
	words := make([]string, 0, len(f.Items()))
	for _, it := range f.Items() {
		if it.Kind != source.String && it.Kind != source.Number && it.Kind != source.Boolean {
			r.report(it.Wrong(contract.KindWrong, "an entry of %s is %s; it must be a string", key, it.Kind))
			r.unclear = append(r.unclear, f)
			continue
		}
		words = append(words, it.Text)
	}
	return words
}

// members reads the members of an object whose keys are names, extensions left out.
func (r *reader) members(n *source.Node, key string) []source.Member {
	f := n.Get(key)
	if f == nil || f.Kind == source.Null || !r.is(f, source.Mapping) {
		return nil
	}
	var members []source.Member
	for _, m := range f.Members {
		if key == "paths" || key == "responses" {
			if isExtension(m.Key) {
				continue
			}
		}
		members = append(members, m)
	}
	return members
}

func isExtension(key string) bool { return strings.HasPrefix(key, "x-") }

func extensions(n *source.Node) []contract.Extension {
	var found []contract.Extension
	for _, m := range n.Members {
		if isExtension(m.Key) {
			found = append(found, contract.Extension{Name: m.Key, Node: m.Value})
		}
	}
	return found
}

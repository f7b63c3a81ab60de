package openapi

import (
	"math/big"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// The readers of single fields. Each gives the zero value for a field that is not there, and reports a field
// of the wrong kind with what would be right. All may be asked of a nil node.

func (r *reader) report(p *source.Problem) { r.problems = append(r.problems, p) }

// is reports a node that is not of the kind that its place asks for.
func (r *reader) is(n *source.Node, kind source.Kind) bool {
	if n.Kind == kind {
		return true
	}
	what := n.Step()
	if what == "" {
		what = "this"
	}
	r.report(n.Problem("%s must be %s, not %s", what, kind, n.Kind))
	return false
}

// text reads a string. A number stands for its spelling: YAML makes one of version: 1.0.
func (r *reader) text(n *source.Node, key string) string {
	f := n.Get(key)
	if f == nil || f.Kind == source.Null || f.Kind != source.Number && !r.is(f, source.String) {
		return ""
	}
	return f.Text
}

func (r *reader) flag(n *source.Node, key string) bool {
	f := n.Get(key)
	return f != nil && r.is(f, source.Boolean) && f.Bool
}

func (r *reader) number(n *source.Node, key string) *big.Rat {
	if f := n.Get(key); f != nil && r.is(f, source.Number) {
		return f.Num()
	}
	return nil
}

// count reads a whole number that is not negative.
func (r *reader) count(n *source.Node, key string) *int {
	f := n.Get(key)
	if f == nil || !r.is(f, source.Number) {
		return nil
	}
	if !f.Num().IsInt() || f.Num().Sign() < 0 || f.Num().Num().BitLen() > 52 {
		r.report(f.Problem("%s must be a whole number from 0 on, not %s", key, f.Text))
		return nil
	}
	v := int(f.Num().Num().Int64())
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
			r.report(it.Problem("an entry of %s must be an object, not %s", key, it.Kind))
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
		if it.Kind != source.String && it.Kind != source.Number {
			r.report(it.Problem("an entry of %s must be a string, not %s", key, it.Kind))
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

package raml

import (
	"slices"
	"strings"

	"oldledger/core/source"
)

// merging says how two trees become one: what stands in own wins (RAML 1.0, Algorithm of Merging Traits and Methods).
type merging struct {
	r        *reader
	optional bool // RAML 0.8: keys of other that end in ? count only where own has them
}

// wholes are the keys whose values are one thing: the nearer one is taken as it is.
var wholes = []string{"example", "examples", "default", "xml", "securedBy", "protocols", "title", "content", "enum"}

// merge gives own, with what only other says added. Either may be nil.
func (m merging) merge(own, other *source.Node, key string) *source.Node {
	own, other = m.r.val(own), m.r.val(other)
	switch {
	case own == nil:
		return other
	case other == nil || own == other || slices.Contains(wholes, key):
		return own
	case own.Kind == source.Null && other.Kind == source.Mapping:
		return own.With(other.Members)
	case own.Kind == source.Null:
		return other
	case own.Kind == source.Mapping && other.Kind == source.Mapping:
		return m.members(own, other, key)
	case own.Kind == source.Sequence && other.Kind == source.Sequence:
		return m.union(own, other)
	case own.Kind == source.String && other.Kind == source.Mapping && isDeclaration(other):
		return m.members(own.With([]source.Member{shorthand(own)}), other, key)
	case own.Kind == source.Mapping && other.Kind == source.String && isDeclaration(own):
		if own.Get("type") == nil && own.Get("schema") == nil && own.Get("properties") == nil {
			return own.With(append(slices.Clone(own.Members), shorthand(other)))
		}
	}
	return own
}

func shorthand(n *source.Node) source.Member {
	return source.Member{Key: "type", Value: n, KeyLine: n.Line, KeyColumn: n.Column}
}

// isDeclaration tells a declaration of a type or parameter from an object that carries a value.
func isDeclaration(n *source.Node) bool {
	return n.Get("value") == nil
}

func (m merging) members(own, other *source.Node, key string) *source.Node {
	if key == "body" {
		own, other = m.r.byMediaType(own), m.r.byMediaType(other)
	}
	all := slices.Clone(own.Members)
	added := false
	for _, o := range other.Members {
		plain := strings.TrimSuffix(o.Key, "?")
		i := slices.IndexFunc(all, func(x source.Member) bool { return strings.TrimSuffix(x.Key, "?") == plain })
		switch {
		case i >= 0:
			if both := m.merge(all[i].Value, o.Value, plain); both != all[i].Value {
				all[i].Value, added = both, true
			}
		case m.optional && plain != o.Key:
		default:
			all, added = append(all, o), true
		}
	}
	if !added {
		return own
	}
	if !m.r.grow(own, len(all)) {
		return own
	}
	return own.With(all)
}

// union adds the items that own has not.
func (m merging) union(own, other *source.Node) *source.Node {
	all := slices.Clone(own.Items())
	for _, it := range other.Items() {
		if !slices.ContainsFunc(all, it.Same) {
			all = append(all, it)
		}
	}
	if len(all) == len(own.Items()) {
		return own
	}
	return own.WithItems(all)
}

// byMediaType writes a body that leaves its media type open under each of the default ones.
func (r *reader) byMediaType(n *source.Node) *source.Node {
	if n.Kind != source.Mapping || hasMediaTypes(n) || len(n.Members) == 0 || len(r.mediaTypes) == 0 {
		return n
	}
	var all []source.Member
	for _, t := range r.mediaTypes {
		all = append(all, source.Member{Key: t, Value: n.With(n.Members), KeyLine: n.Line, KeyColumn: n.Column})
	}
	return n.With(all)
}

func hasMediaTypes(n *source.Node) bool {
	return slices.ContainsFunc(n.Members, func(m source.Member) bool { return strings.Contains(m.Key, "/") })
}

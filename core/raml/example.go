package raml

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// examplesOf reads what a declaration gives as examples: one, or several with names (RAML 1.0, Defining Examples in RAML).
func (r *reader) examplesOf(n *source.Node) []contract.Example {
	v := r.val(n)
	if v == nil || v.Kind != source.Mapping {
		return nil
	}
	var all []contract.Example
	if e := v.Get("example"); e != nil {
		all = append(all, r.example("", e))
	}
	list := r.holding(v.Get("examples"), "NamedExample")
	if list == nil || list.Kind == source.Null {
		return all
	}
	if list.Kind == source.Sequence {
		for _, it := range list.Items() {
			all = append(all, r.example("", it))
		}
		return all
	}
	if !r.is(list, source.Mapping) {
		return all
	}
	for _, m := range list.Members {
		if m.Key != "uses" && m.Key != "usage" && !isAnnotation(m.Key) {
			all = append(all, r.example(m.Key, m.Value))
		}
	}
	return all
}

var exampleKeys = []string{"value", "displayName", "description", "strict"}

// example reads one example: its value, or an object that carries the value and words about it.
func (r *reader) example(name string, n *source.Node) contract.Example {
	e := contract.Example{Name: name}
	v := r.val(n)
	if v == nil {
		return contract.Example{Name: name, Value: n}
	}
	if v.Kind == source.Mapping && v.Get("value") != nil && !slices.ContainsFunc(v.Members, func(m source.Member) bool {
		return !slices.Contains(exampleKeys, m.Key) && !isAnnotation(m.Key)
	}) {
		e.Summary, e.Description = r.text(v, "displayName"), r.text(v, "description")
		v = r.val(v.Get("value"))
	}
	e.Value = r.whole(v, 0)
	return e
}

// whole is a value in which nothing is left to include; a text that is a JSON object or list is read as one.
func (r *reader) whole(n *source.Node, depth int) *source.Node {
	v := r.val(n)
	if v == nil || depth > source.MaxDepth || !r.grow(n, 1) {
		return n
	}
	switch v.Kind {
	case source.String:
		if t := strings.TrimSpace(v.Text); depth == 0 && (strings.HasPrefix(t, "{") || strings.HasPrefix(t, "[")) {
			if f, err := source.Parse(v.File().Name, []byte(t)); err == nil {
				return v.WithValue(f.Root)
			}
		}
	case source.Mapping:
		for i, m := range v.Members {
			if w := r.whole(m.Value, depth+1); w != m.Value {
				members := slices.Clone(v.Members)
				members[i].Value = w
				v = v.With(members)
			}
		}
	case source.Sequence:
		for i, it := range v.Items() {
			if w := r.whole(it, depth+1); w != it {
				items := slices.Clone(v.Items())
				items[i] = w
				v = v.WithItems(items)
			}
		}
	}
	return v
}

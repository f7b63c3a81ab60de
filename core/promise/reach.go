package promise

import (
	"slices"
	"strings"

	"oldledger/core/contract"
)

// Reach are the keys of the operations of a contract that have what the notice speaks of, and whether it is there at all. A notice of the
// whole reaches every operation.
func (n Notice) Reach(c *contract.Contract) (keys []string, there bool) {
	has := func(*contract.Operation) bool { return true }
	if n.Operation != "" {
		has = n.partOf
	}
	if n.Field != "" {
		schema, property, _ := strings.Cut(n.Field, ".")
		s := c.Schema(schema)
		if s == nil || s.OwnProperty(property) == nil {
			return nil, false
		}
		there = true
		has = func(op *contract.Operation) bool { return holds(op, s) }
	}
	for _, op := range c.All() {
		if has(op) {
			keys, there = append(keys, op.Key()), true
		}
	}
	return keys, there
}

// partOf reports whether the operation is the one that the notice speaks of, and has the part.
func (n Notice) partOf(op *contract.Operation) bool {
	if op.Key() != n.Operation {
		return false
	}
	if place, name, ok := strings.Cut(n.Parameter, " "); ok {
		return slices.ContainsFunc(op.Parameters, func(p *contract.Parameter) bool { return p.In == place && p.Name == name })
	}
	return n.Header == "" || slices.ContainsFunc(op.Responses, func(r *contract.Response) bool {
		return slices.ContainsFunc(r.Headers, func(h *contract.Parameter) bool { return strings.EqualFold(h.Name, n.Header) })
	})
}

// holds reports whether a schema stands somewhere in the messages of an operation.
func holds(op *contract.Operation, s *contract.Schema) bool {
	seen := map[*contract.Schema]bool{}
	var in func(at *contract.Schema) bool
	in = func(at *contract.Schema) bool {
		at = at.Deref()
		if at == nil || seen[at] {
			return false
		}
		seen[at] = true
		return at == s || slices.ContainsFunc(at.Inner(), in)
	}
	media := func(m *contract.Media) bool { return m.Schema != nil && in(m.Schema) }
	return op.Body != nil && slices.ContainsFunc(op.Body.Content, media) ||
		slices.ContainsFunc(op.Responses, func(r *contract.Response) bool { return slices.ContainsFunc(r.Content, media) })
}

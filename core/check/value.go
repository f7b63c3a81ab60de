package check

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// value tells of an authored value that its schema plainly does not admit, whichever way it travels, and of the smallest part of it that is
// at fault.
func (x *examiner) value(s *contract.Schema, n *source.Node, what string) {
	if s == nil || n == nil || x.held[n] || x.ctx.Err() != nil {
		return
	}
	x.held[n] = true
	h := Holder{Space: x.space, Roles: []shape.Role{{Request: true}, {}}}
	if h.Admits(s, n) {
		return
	}
	part, at, wrong := h.fault(s, n, 0)
	if x.mistaken(at) {
		return // what is wrong with the schema is told already
	}
	if part == n {
		x.tell(n.Wrong(contract.ValueRefused, "%s, %s, %s; its schema admits %s", what, quoted(n), wrong, Admitted(s)))
		return
	}
	x.tell(part.Wrong(contract.ValueRefused, "in %s, %s %s", what, strings.TrimPrefix(part.Pointer(), n.Pointer()+"/"), wrong).Also(n, what))
}

// Holder holds authored and recorded values against schemas.
type Holder struct {
	Space *shape.Space
	Roles []shape.Role // in one of which a value is to be admitted
}

// Admits reports whether a schema admits a value in one of the roles, or whether that cannot be told.
func (h Holder) Admits(s *contract.Schema, n *source.Node) bool {
	v := n.Value()
	for _, role := range h.Roles {
		if holds, known := h.Space.Contains(h.Space.Lower(s, role), v); holds || !known {
			return true
		}
	}
	return false
}

// Fault is the smallest part of a refused value that is refused itself, and in a few words why: "is text and must be integer".
func (h Holder) Fault(s *contract.Schema, n *source.Node) (part *source.Node, wrong string) {
	part, _, wrong = h.fault(s, n, 0)
	return part, wrong
}

// maxFaultDepth bounds how deep the part at fault is looked for.
const maxFaultDepth = 20

// fault also tells the schemas that refuse it.
func (h Holder) fault(s *contract.Schema, n *source.Node, depth int) (part *source.Node, at []*contract.Schema, wrong string) {
	parts := s.Conjuncts()
	if depth > maxFaultDepth {
		return n, parts, "is refused"
	}
	for _, p := range parts {
		switch n.Kind {
		case source.Mapping:
			for _, m := range n.Members {
				if sub := p.Property(m.Key); sub != nil && !h.Admits(sub, m.Value) {
					return h.fault(sub, m.Value, depth+1)
				}
			}
		case source.Sequence:
			for _, it := range n.Items() {
				if p.Items != nil && len(p.PrefixItems()) == 0 && !h.Admits(p.Items, it) {
					return h.fault(p.Items, it, depth+1)
				}
			}
		}
	}
	for _, p := range parts {
		if wrong := plainFault(p, n, parts); wrong != "" {
			return n, parts, wrong
		}
	}
	return n, parts, "is refused"
}

// mistaken reports whether something is wrong with one of the schemas itself.
func (x *examiner) mistaken(schemas []*contract.Schema) bool {
	return slices.ContainsFunc(schemas, func(s *contract.Schema) bool {
		p := s.Node.Place()
		return x.wrong[nodeKey{p.File, p.Pointer}]
	})
}

// nodeKey is a node by its file and JSON Pointer.
type nodeKey struct{ file, pointer string }

// spoiling are the rules after whose breach a schema may refuse what its author meant.
var spoiling = func() map[string]bool {
	all := map[string]bool{}
	for _, rule := range []source.Rule{
		contract.KeyMisspelt, contract.KeyUnknown, contract.KeyOfOther, contract.KeyIgnored, contract.KindWrong, contract.NumberWrong,
		contract.TypeUnknown, contract.TypeNull, contract.TypeList, contract.NullableIgnored, contract.LimitOtherWay, contract.RangeEmpty,
		contract.ListEmpty, contract.PatternUnread, contract.ReferenceCircular, contract.FacetOfOther, contract.ExpressionWrong,
		contract.NameUndeclared,
	} {
		all[rule.Name] = true
	}
	return all
}()

// spoil notes that something is wrong with the schema in whose keyword a diagnostic stands.
func (x *examiner) spoil(d *source.Diagnostic) {
	if !spoiling[d.Rule] {
		return
	}
	pointer := d.Pointer
	for range 3 { // the keyword, one of its entries, or the schema itself
		x.wrong[nodeKey{d.File, pointer}] = true
		pointer = pointer[:max(strings.LastIndexByte(pointer, '/'), 0)]
	}
}

// plainFault says which keyword of a schema refuses a value, "" where none plainly does.
func plainFault(s *contract.Schema, n *source.Node, beside []*contract.Schema) string {
	is := typeOf(n)
	if s.Types != nil && !slices.ContainsFunc(s.Types, func(t string) bool { return t == is || t == "number" && is == "integer" }) &&
		!(is == "null" && s.Nullable) {
		return "is " + n.Kind.String() + " and must be " + orList(s.Types)
	}
	if s.HasEnum && !slices.ContainsFunc(s.Enum, n.Same) {
		return "is none of the listed values"
	}
	if n.Kind == source.Mapping {
		for _, name := range s.Required {
			if n.Get(name) == nil {
				return "lacks " + name + ", which is required"
			}
		}
		if a := s.AdditionalProperties; a != nil && a.Bool != nil && !*a.Bool {
			for _, m := range n.Members {
				if s.Property(m.Key) == nil && s.PatternProperties() == nil {
					return "has " + m.Key + ", and no such property is admitted"
				}
			}
		}
	}
	return ""
}

func typeOf(n *source.Node) string {
	switch n.Kind {
	case source.Null:
		return "null"
	case source.Boolean:
		return "boolean"
	case source.Number:
		if n.Num().IsInt() {
			return "integer"
		}
		return "number"
	case source.String:
		return "string"
	case source.Sequence:
		return "array"
	}
	return "object"
}

// Admitted says in a few words what a schema admits: "integer from 1 to 28", "one of quay, buoy".
func Admitted(s *contract.Schema) string {
	s = s.Deref()
	var words []string
	switch {
	case s.HasEnum:
		values := make([]string, 0, len(s.Enum))
		for _, e := range s.Enum[:min(len(s.Enum), 6)] {
			values = append(values, clip(strings.Trim(e.Value().String(), `"`)))
		}
		if more := len(s.Enum) > 6; more {
			values = append(values, "…")
		}
		return "one of " + strings.Join(values, ", ")
	case s.Types != nil:
		words = append(words, orList(s.Types))
	case s.SaysObject():
		words = append(words, "object")
	case s.SaysArray():
		words = append(words, "array")
	default:
		words = append(words, "what it describes")
	}
	if s.Format != "" {
		words = append(words, "of format "+s.Format)
	}
	if s.Pattern != nil {
		words = append(words, "that matches "+clip(*s.Pattern))
	}
	for _, key := range []string{"minimum", "maximum", "minLength", "maxLength", "minItems", "maxItems"} {
		if n := s.Node.Get(key); n != nil {
			words = append(words, key+" "+n.Text)
		}
	}
	return strings.Join(words, ", ")
}

func orList(words []string) string {
	if len(words) == 0 {
		return "nothing"
	}
	last := len(words) - 1
	if last == 0 {
		return words[0]
	}
	return strings.Join(words[:last], ", ") + " or " + words[last]
}

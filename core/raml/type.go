package raml

import (
	"path"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// asString and asAnything are what a declaration is that says neither type nor properties (RAML 1.0, Determine Default Types).
const (
	asString   = kindString
	asAnything = kindAny
)

type schemaKey struct {
	n         *source.Node
	otherwise kind
}

// typ reads a declaration of a type: a name or expression, an object of facets, several parents, or a schema in another language.
func (r *reader) typ(n *source.Node, otherwise kind) *contract.Schema {
	key := schemaKey{n, otherwise}
	if s := r.schemas[key]; s != nil {
		return s
	}
	v := r.holding(n, "DataType")
	s := &contract.Schema{Node: n}
	if v != nil {
		if s.Name = r.named[v]; s.Name == "" && n.Include {
			r.nameFile(s, v)
		}
		if v != n {
			if known := r.schemas[schemaKey{v, otherwise}]; known != nil {
				return known
			}
			s.Node = v
			r.schemas[schemaKey{v, otherwise}] = s
		}
	}
	r.schemas[key] = s
	if v == nil {
		return s
	}
	if isForeign(v) {
		r.foreign(s, v)
		return s
	}
	switch v.Kind {
	case source.Null:
		r.builtin(s, otherwise)
	case source.String:
		if r.kindOf(v, otherwise); r.loops[v] {
			return s
		}
		r.expressed(s, v)
	case source.Sequence:
		if r.old {
			r.several(s, v.Items())
		} else {
			r.heir(s, v, v.Items())
		}
	case source.Mapping:
		r.faceted(s, v, otherwise)
	default:
		r.report(v.Wrong(contract.KindWrong, "this type is %s; it must be a name, an expression or an object of facets", v.Kind))
	}
	return s
}

// nameFile names a type that a file of its own holds, and that nothing declares, after the file: who includes it refers to it.
func (r *reader) nameFile(s *contract.Schema, v *source.Node) {
	name := path.Base(v.File().Name)
	name = strings.TrimSuffix(name, path.Ext(name))
	if v != v.File().Root || v.Kind != source.Mapping || r.named[v] != "" {
		return
	}
	r.nameType(source.Member{Key: name, Value: v})
	s.Name = r.named[v]
	r.types = append(r.types, s)
}

// builtin writes a built-in type in the words of JSON Schema.
func (r *reader) builtin(s *contract.Schema, k kind) {
	switch k {
	case kindObject, kindArray, kindString, kindNumber, kindInteger, kindBoolean:
		s.Types = []string{string(k)}
	case kindNil:
		s.Types = []string{"null"}
	case kindFile:
		s.Types = []string{"string"}
		s.EnsureRare().ContentMediaType = "application/octet-stream"
	case kindDate:
		s.Types, s.Format = []string{"string"}, "date"
	case kindTime, kindLocal:
		s.Types, s.Format = []string{"string"}, string(k)
	case kindDatetime:
		s.Types, s.Format = []string{"string"}, "date-time"
	case kindOldDate:
		s.Types, s.Format = []string{"string"}, "http-date"
	}
}

// expressed reads a type that is a text.
func (r *reader) expressed(s *contract.Schema, v *source.Node) {
	if isForeign(v) {
		r.foreign(s, v)
		return
	}
	e, problem := parseExpression(v.Text)
	if problem != "" {
		r.report(v.Wrong(contract.ExpressionWrong, "%q is no type expression: %s", v.Text, problem))
		return
	}
	r.fill(s, e, v)
}

// fill writes an expression into s.
func (r *reader) fill(s *contract.Schema, e *expression, at *source.Node) {
	switch {
	case len(e.union) > 0:
		r.union(s, e.union, at)
	case e.items != nil:
		s.Types, s.Items = []string{"array"}, r.part(e.items, at)
	default:
		decl := r.find(typeList, e.name, at)
		switch {
		case decl != nil:
			s.Ref = r.typ(decl, asString)
		case e.name == "null":
			r.builtin(s, kindNil)
		case e.name == "date":
			if !r.old {
				r.missing(typeList, e.name, at, builtins...)
				return
			}
			r.builtin(s, kindOldDate)
		case r.isBuiltin(e.name):
			r.builtin(s, kind(e.name))
		case r.old:
			r.report(at.Wrong(contract.TypeUnknown, "there is no type %q in RAML 0.8; it has %s", e.name, strings.Join(oldBuiltins, ", ")))
		default:
			r.missing(typeList, e.name, at, builtins...)
		}
	}
}

func (r *reader) part(e *expression, at *source.Node) *contract.Schema {
	s := &contract.Schema{Node: at}
	r.fill(s, e, at)
	return s
}

// union writes a choice. A choice among built-in types alone is a list of types.
func (r *reader) union(s *contract.Schema, all []*expression, at *source.Node) {
	var branches []*contract.Schema
	for _, e := range all {
		branches = append(branches, r.part(e, at))
	}
	r.choose(s, branches)
}

func (r *reader) choose(s *contract.Schema, branches []*contract.Schema) {
	var types []string
	for _, b := range branches {
		rest := b.Copy()
		rest.Types = nil
		if len(b.Types) != 1 || b.Ref != nil || b.Title != "" || rest.Asserts() {
			types = nil
			break
		}
		types = append(types, b.Types[0])
	}
	if types != nil && len(types) == len(branches) {
		slices.Sort(types)
		s.Types = slices.Compact(types)
		return
	}
	s.AnyOf = branches
	r.unions = append(r.unions, s)
}

// faceted reads an object of facets.
func (r *reader) faceted(s *contract.Schema, v *source.Node, otherwise kind) {
	k := r.kindOf(v, otherwise)
	t := parentOf(v)
	if v.Get("type") != nil && v.Get("schema") != nil {
		r.report(v.Get("schema").KeyWrong(contract.KeyUnknown, "type and schema say the same; keep type alone"))
	}
	switch tv := r.val(t); {
	case t == nil:
		r.builtin(s, k)
	case tv == nil || tv.Kind == source.Null:
		r.builtin(s, kindString)
	case tv.Kind == source.Sequence:
		r.heir(s, v, tv.Items())
	case t.Include || tv.Kind == source.Mapping:
		r.inherit(s, r.typ(t, asString))
	default:
		r.expressed(s, tv)
		if s.Ref != nil {
			r.subtypes = append(r.subtypes, subtype{s, []*contract.Schema{s.Ref}})
		}
	}
	r.facetsOf(s, v, k)
	if k == kindObject && s.Types == nil && s.SaysObject() {
		r.builtin(s, k) // its parents say it, too; readers need not look there
	}
}

// inherit makes s a kind of parent: one that has a name is referred to, any other is taken over.
func (r *reader) inherit(s, parent *contract.Schema) {
	if parent.Name != "" || parent.Ref != nil && !parent.Bare() {
		s.Ref = parent
		r.subtypes = append(r.subtypes, subtype{s, []*contract.Schema{parent}})
		return
	}
	name, node := s.Name, s.Node
	*s = *parent.Copy()
	s.Name = name
	if s.Unsupported() == nil { // what nobody looks into is known by its text
		s.Node = node
	}
}

// heir reads a type of several parents: it is all of them at once (RAML 1.0, Multiple Inheritance).
func (r *reader) heir(s *contract.Schema, v *source.Node, parents []*source.Node) {
	if len(parents) == 0 {
		r.report(v.Wrong(contract.ListEmpty, "this list of parents is empty; it names at least one type"))
		return
	}
	var all []*contract.Schema
	for _, p := range parents {
		all = append(all, r.typ(p, asString))
	}
	if len(all) == 1 {
		r.inherit(s, all[0])
		return
	}
	s.AllOf = all
	r.subtypes = append(r.subtypes, subtype{s, all})
}

// several reads a parameter of RAML 0.8 that may be written in several ways (Named Parameters With Multiple Types).
func (r *reader) several(s *contract.Schema, all []*source.Node) {
	var branches []*contract.Schema
	for _, it := range all {
		branches = append(branches, r.typ(it, asString))
	}
	r.choose(s, branches)
}

// foreign tells a schema in another language from a type expression.
func foreign(text string) bool {
	t := strings.TrimSpace(text)
	return strings.HasPrefix(t, "{") || strings.HasPrefix(t, "<") || strings.HasPrefix(t, "[")
}

// admitsNil reports whether null is a value of a type.
func (r *reader) admitsNil(s *contract.Schema, depth int) bool {
	s = s.Deref()
	if depth > maxDepth {
		return false
	}
	if slices.Contains(s.Types, "null") {
		return true
	}
	for _, b := range s.AnyOf {
		if r.admitsNil(b, depth+1) {
			return true
		}
	}
	return s.Types == nil && s.Ref != nil && r.admitsNil(s.Ref, depth+1)
}

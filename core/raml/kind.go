package raml

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// kind is what a type is at its root: the facets that it may have follow from it (RAML 1.0, Type Declarations).
type kind string

// The built-in types, and two of our own: a schema in another language, and what is not known because something is wrong with it.
const (
	kindAny      kind = "any"
	kindObject   kind = "object"
	kindArray    kind = "array"
	kindString   kind = "string"
	kindNumber   kind = "number"
	kindInteger  kind = "integer"
	kindBoolean  kind = "boolean"
	kindNil      kind = "nil"
	kindFile     kind = "file"
	kindDate     kind = "date-only"
	kindTime     kind = "time-only"
	kindLocal    kind = "datetime-only"
	kindDatetime kind = "datetime"
	kindOldDate  kind = "date" // RAML 0.8
	kindUnion    kind = "union"
	kindForeign  kind = "a JSON Schema or XML Schema"
	kindUnknown  kind = ""
)

var builtins = []string{
	"any", "object", "array", "string", "number", "integer", "boolean", "nil", "file", "date-only", "time-only", "datetime-only", "datetime",
}

var oldBuiltins = []string{"string", "number", "integer", "date", "boolean", "file"}

func (r *reader) isBuiltin(name string) bool {
	if r.old {
		return slices.Contains(oldBuiltins, name)
	}
	return slices.Contains(builtins, name) || name == "null"
}

// facets are the keys that each kind of type has beyond those of all.
var facets = map[kind][]string{
	kindObject:   {"properties", "minProperties", "maxProperties", "additionalProperties", "discriminator", "discriminatorValue"},
	kindArray:    {"items", "minItems", "maxItems", "uniqueItems"},
	kindString:   {"pattern", "minLength", "maxLength"},
	kindNumber:   {"minimum", "maximum", "format", "multipleOf"},
	kindInteger:  {"minimum", "maximum", "format", "multipleOf"},
	kindFile:     {"fileTypes", "minLength", "maxLength"},
	kindDatetime: {"format"},
}

// faceted are the kinds that have facets of their own, the plainest first.
var faceted = []kind{kindObject, kindArray, kindString, kindNumber, kindInteger, kindFile, kindDatetime}

// common are the facets of every type.
var common = []string{
	"type", "schema", "default", "example", "examples", "displayName", "description", "facets", "xml", "enum", "required",
	"usage", "uses", "allowedTargets",
}

// oldFacets are those of a named parameter (RAML 0.8, Named Parameters).
var oldFacets = []string{
	"type", "displayName", "description", "enum", "pattern", "minLength", "maxLength", "minimum", "maximum", "example", "repeat", "required",
	"default",
}

// kindOf finds what a declaration is at its root. A declaration that inherits from itself is told, and has no kind.
func (r *reader) kindOf(n *source.Node, otherwise kind) kind {
	v := r.val(n)
	if v == nil || v.Kind == source.Null {
		return otherwise
	}
	if k, done := r.kinds[v]; done {
		if k == visiting {
			r.report(v.KeyWrong(contract.ReferenceCircular, "this type inherits from itself; take it out of its parents"))
			r.loops[v] = true
			return kindUnknown
		}
		return k
	}
	r.kinds[v] = visiting
	k := r.findKind(v, otherwise)
	r.kinds[v] = k
	return k
}

// visiting stands for a kind that is being found.
const visiting kind = "…"

func (r *reader) findKind(v *source.Node, otherwise kind) kind {
	if isForeign(v) {
		return kindForeign
	}
	switch v.Kind {
	case source.String:
		return r.kindOfText(v)
	case source.Sequence:
		return r.kindOfParents(v.Items())
	case source.Mapping:
		t := parentOf(v)
		if t == nil {
			if v.Get("properties") != nil {
				return kindObject
			}
			return otherwise
		}
		return r.kindOf(t, kindString)
	}
	return kindUnknown
}

// parentOf is what a declaration inherits from, or nil.
func parentOf(v *source.Node) *source.Node {
	if t := v.Get("type"); t != nil {
		return t
	}
	return v.Get("schema")
}

func (r *reader) kindOfParents(all []*source.Node) kind {
	found := kindUnknown
	for _, it := range all {
		if k := r.kindOf(it, kindString); k != kindUnknown && (found == kindUnknown || found == kindAny) {
			found = k
		}
	}
	return found
}

// branchKinds looks for choices that hold themselves.
func (r *reader) branchKinds(e *expression, at *source.Node) {
	for _, b := range e.union {
		r.branchKinds(b, at)
		if decl := r.find(typeList, b.name, at); decl != nil && b.name != "" {
			r.kindOf(decl, kindString)
		}
	}
}

func (r *reader) kindOfText(v *source.Node) kind {
	e, problem := parseExpression(v.Text)
	if problem != "" {
		return kindUnknown // typ tells it
	}
	switch {
	case len(e.union) > 0:
		r.branchKinds(e, v)
		return kindUnion
	case e.items != nil:
		return kindArray
	case e.name == "null":
		return kindNil
	case r.isBuiltin(e.name) && r.find(typeList, e.name, v) == nil:
		if e.name == "date" {
			return kindOldDate
		}
		return kind(e.name)
	}
	if decl := r.find(typeList, e.name, v); decl != nil {
		return r.kindOf(decl, kindString)
	}
	return kindUnknown
}

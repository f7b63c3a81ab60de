package openapi

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

var jsonTypes = []string{"null", "boolean", "integer", "number", "string", "array", "object"}

func (r *reader) types(s *contract.Schema, n *source.Node) {
	if t := n.Get("type"); t != nil {
		switch {
		case t.Kind == source.String:
			r.jsonType(s, t)
		case t.Kind == source.Sequence && !r.dialectOf(n).before31():
			r.typeList(s, t)
		case t.Kind == source.Sequence:
			version, right := "3.0", "anyOf for several, and nullable: true for null"
			if r.dialectOf(n) == v20 {
				version, right = "2.0", "one of them, or take type out to admit any"
			}
			r.report(t.Wrong(contract.TypeList, "in OpenAPI %s a schema has one type; write %s", version, right))
			r.typeList(s, t)
		case t.Kind == source.Null && t.Text == "" && !r.dialectOf(n).before31():
			r.report(t.Wrong(contract.TypeUnknown, "type is null, and must be a name; write \"null\" in quotes").Replace(t, `"null"`))
			s.Types = append(s.Types, "null")
		default:
			r.report(t.Wrong(contract.TypeUnknown, "type is %s; it must be the name of a JSON type", t.Kind))
		}
	}
	s.Nullable = s.Nullable || r.dialectOf(n) == v30 && r.flag(n, "nullable")
	if e := n.Get("enum"); e != nil && r.is(e, source.Sequence) {
		s.Enum, s.HasEnum = r.distinct(e), true
		if len(s.Enum) == 0 {
			r.report(e.Wrong(contract.ListEmpty, "enum is empty; write the values, or take it out"))
			s.Enum, s.HasEnum = nil, false
		}
	}
	if !r.dialectOf(n).before31() {
		s.Const = n.Get("const")
	}
}

func (r *reader) typeList(s *contract.Schema, t *source.Node) {
	if len(t.Items()) == 0 {
		r.report(t.Wrong(contract.ListEmpty, "the list of types is empty; write one, or take it out"))
	}
	for _, it := range t.Items() {
		switch {
		case it.Text == "null" && r.dialectOf(t).before31():
			s.Nullable = true // told with the list
		case it.Kind == source.Null && !r.dialectOf(t).before31():
			r.report(it.Wrong(contract.TypeUnknown, "this type is null, and must be a name; write \"null\" in quotes").Replace(it, `"null"`))
			s.Types = append(s.Types, "null")
		case it.Kind == source.String:
			r.jsonType(s, it)
		default:
			r.report(it.Wrong(contract.TypeUnknown, "this type is %s; it must be the name of a JSON type", it.Kind))
		}
	}
}

func (r *reader) jsonType(s *contract.Schema, t *source.Node) {
	known := jsonTypes
	if r.dialectOf(t).before31() {
		known = jsonTypes[1:]
	}
	if slices.Contains(known, t.Text) {
		s.Types = append(s.Types, t.Text)
		return
	}
	if t.Text == "null" {
		r.report(t.Wrong(contract.TypeNull, "OpenAPI %s has no type null; write nullable: true", versionNames[r.dialectOf(t)]))
		s.Types = append(s.Types, "null")
		return
	}
	d := t.Wrong(contract.TypeUnknown, "type %q is not a JSON type, and is left out; %s", t.Text, otherType(t.Text, known))
	if near := source.Nearest(t.Text, known); near != "" {
		d.Rewrite(t, near)
	}
	r.report(d)
}

// otherType says what a type of another language is called.
func otherType(name string, known []string) string {
	if near := source.DidYouMean(name, known); near != "" {
		return near
	}
	switch strings.ToLower(name) {
	case "int", "long", "short", "byte":
		return "write integer, and its size as format: int32 or int64"
	case "float", "double", "decimal":
		return "write number"
	case "bool":
		return "write boolean"
	case "date", "datetime", "date-time", "uuid", "email", "uri", "binary", "time":
		return "write type: string and format: " + strings.ToLower(strings.Replace(name, "datetime", "date-time", 1))
	case "text", "char", "str":
		return "write string"
	case "list":
		return "write array"
	case "map", "dict", "hash":
		return "write object"
	case "file":
		return "write type: string and format: binary"
	case "any":
		return "leave type out to admit any"
	}
	return "the types are " + orList(known)
}

// distinct are the values of a list, each once.
func (r *reader) distinct(list *source.Node) []*source.Node {
	items := list.Items()
	seen := make(map[string]*source.Node, len(items))
	kept := items
	for i, it := range items {
		key := it.Text
		if it.Kind != source.String {
			key = it.Value().Key()
		} else {
			key = `"` + key
		}
		first := seen[key]
		if first == nil {
			seen[key] = it
			if len(kept) < i {
				kept = append(kept, it)
			}
			continue
		}
		if len(kept) == len(items) {
			kept = slices.Clone(items[:i])
		}
		r.report(it.Wrong(contract.EnumTwice, "the value %s stands twice in this list; keep one of them", it.Value()).Also(first, "the first"))
	}
	return kept
}

package large

import (
	"fmt"

	"oldledger/core/value"
)

// composed are the properties of a schema that put others together, as published descriptions do: a wrapper of one for the sake of its
// words, a reference or null, the same object in place in hundreds of schemas, and, here and there, a union that a tag tells apart and one
// that nothing does.
func (m maker) composed(i int) []value.Member {
	next := i
	if k := i + 1; k < m.operations && k/25 == i/25 {
		next = k
	}
	all := []value.Member{
		{Name: "wrapped", Value: obj("allOf", []*value.Value{ref(fmt.Sprintf("schemas/Thing%d", next))}, "description",
			prose(1, "the next thing"))},
		{Name: "perhaps", Value: obj("anyOf", []*value.Value{ref(fmt.Sprintf("schemas/Thing%d", next)), obj("type", "null")})},
		{Name: "keeper", Value: keeper()},
	}
	if i%4 == 0 {
		all = append(all, value.Member{Name: "event", Value: event(i)})
	}
	if i%20 == 0 {
		all = append(all, value.Member{Name: "found", Value: found()})
	}
	return all
}

// keeper is an object that stands in place wherever it is needed.
func keeper() *value.Value {
	props := value.Obj()
	for j := range 12 {
		props.Members = append(props.Members, value.Member{Name: fmt.Sprintf("mark%d", j), Value: obj("type", "string", "format", "uri")})
	}
	return obj("anyOf", []*value.Value{
		obj("type", "object", "title", "Keeper", "required", []string{"mark0", "mark1"}, "properties", props),
		obj("type", "null"),
	})
}

// event is a union of twelve alternatives, told apart by their tags.
func event(i int) *value.Value {
	var all []*value.Value
	for j := range 12 {
		all = append(all, obj("type", "object", "required", []string{"kind"}, "properties", obj(
			"kind", obj("const", fmt.Sprintf("kind%d", j)), fmt.Sprintf("of%d", j), obj("type", "string", "maxLength", 10+(i+j)%30), "at",
			obj("type", "string", "format", "date-time"),
		)))
	}
	return obj("oneOf", all)
}

// found is a union of objects that have names in common and no tag.
func found() *value.Value {
	var all []*value.Value
	for j := range 8 {
		own := fmt.Sprintf("url%d", j)
		all = append(all, obj("type", "object", "required", []string{"line", own}, "properties",
			obj("line", obj("type", "integer"), "path", obj("type", "string"), own, obj("type", "string", "format", "uri"))))
	}
	return obj("oneOf", append(all, obj("type", "null")))
}

// Inlined is a description with what its references name in their places, down to so many levels; below, and where a schema holds itself,
// they stay.
func Inlined(description *value.Value, levels int) *value.Value {
	schemas := description.Get("components").Get("schemas")
	within := map[string]bool{}
	var inline func(v *value.Value, levels int) *value.Value
	inline = func(v *value.Value, levels int) *value.Value {
		if name, is := refersTo(v); is {
			if levels == 0 || within[name] {
				return v
			}
			within[name] = true
			defer delete(within, name)
			return inline(schemas.Get(name), levels-1)
		}
		made := *v
		made.Items, made.Members = nil, nil
		for _, item := range v.Items {
			made.Items = append(made.Items, inline(item, levels))
		}
		for _, member := range v.Members {
			made.Members = append(made.Members, value.Member{Name: member.Name, Value: inline(member.Value, levels)})
		}
		return &made
	}
	made := value.Obj()
	for _, member := range description.Members {
		if member.Name == "paths" {
			member.Value = inline(member.Value, levels)
		}
		made.Members = append(made.Members, member)
	}
	return made
}

// refersTo tells of a reference to a schema.
func refersTo(v *value.Value) (name string, is bool) {
	const prefix = "#/components/schemas/"
	at := v.Get("$ref")
	if at == nil || len(v.Members) != 1 || len(at.Text) <= len(prefix) || at.Text[:len(prefix)] != prefix {
		return "", false
	}
	return at.Text[len(prefix):], true
}

package large

import (
	"fmt"

	"oldledger/core/value"
)

// Broken makes a description of so many operations, each with a body and an answer of its own in place, about 1.8 kB each; edited, every
// one of them breaks, in one of eight ways.
func Broken(operations int, edited bool) *value.Value {
	paths := value.Obj()
	for i := range operations {
		way := -1
		if edited {
			way = i % 8
		}
		paths.Members = append(paths.Members, value.Member{Name: fmt.Sprintf("/slips%d/{slip}/hulls", i), Value: obj("post", brokenBy(way, i))})
	}
	version := "1.0.0"
	if edited {
		version = "1.1.0"
	}
	return obj("openapi", "3.1.0", "info", obj("title", "Slips without end", "version", version), "paths", paths)
}

func brokenBy(way, i int) *value.Value {
	or := func(at int, then, otherwise any) any {
		if way == at {
			return then
		}
		return otherwise
	}
	asked := obj("type", "object", "required", or(0, []string{"hull", "draught"}, []string{"hull"}), "properties", obj(
		"hull", obj("type", "string", "maxLength", or(1, 30, 40+i%7), "description", prose(1, "the hull")),
		"draught", obj("type", "number", "minimum", 0, "maximum", or(2, 11, 12+i%5)),
		or(3, "lieDays", "nights").(string), obj("type", or(4, "string", "integer"), "description", prose(1, "the stay")),
		"crane", obj("oneOf", []*value.Value{
			obj("type", "object", "required", []string{"kind"}, "properties", obj("kind", obj("const", "mobile"), "tons", obj("type", "integer"))),
			obj("type", "object", "required", []string{"kind"}, "properties",
				obj("kind", obj("const", or(5, "rails", "rail")), "track", obj("type", "string"))),
		}),
	))
	answered := obj("type", "object", "required", or(6, []string{"id"}, []string{"id", "since"}), "properties", obj(
		"id", obj("type", "string", "format", "uuid"), "since", obj("type", "string", "format", "date-time"),
		"state", obj("type", "string", "enum", or(7, []string{"held", "taken", "towed"}, []string{"held", "taken"})),
	))
	body := func(schema *value.Value) *value.Value { return obj("application/json", obj("schema", schema)) }
	return obj(
		"operationId", fmt.Sprintf("haul%d", i), "summary", fmt.Sprintf("Haul a hull onto slip %d", i), "description",
		prose(2, fmt.Sprintf("slip %d", i)),
		"parameters", []*value.Value{obj("name", "slip", "in", "path", "required", true, "schema", obj("type", "string", "maxLength", 20))},
		"requestBody", obj("required", true, "content", body(asked)),
		"responses", obj("200", obj("description", "It stands on the slip.", "content", body(answered)), "404",
			obj("description", "There is no such slip.")),
	)
}

// Package hostile writes small descriptions that are made to hurt whoever reads, compares or renders them: each of a few kilobytes, or of
// little more than the values that it needs.
package hostile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
)

// Pair is two versions of one hostile description.
type Pair struct {
	Name     string
	File     string // the end of its name: ".json" or ".yaml"
	Old, New []byte
}

type object = map[string]any

// Pairs lists them all.
func Pairs() []Pair {
	var all []Pair
	for _, kind := range []string{"allOf", "anyOf", "oneOf", "fields", "required", "mixed", "items"} {
		all = append(all, schemas("two of each in "+kind, chain(kind, object{"type": "string"}),
			chain(kind, object{"type": "string", "maxLength": 4})))
	}
	all = append(all,
		yaml("an alias of aliases", aliases, "", ""),
		yaml("schemas of aliases", sharedSchemas, "type: string", "type: integer"),
		yaml("merge keys of merge keys", merges(800), "", ""),
		schemas("three thousand renamed fields", fields("alpha%d"), fields("beta%d")),
		schemas("three thousand fields in another spelling", fields("vesselName%d"), fields("vessel_name_%d")),
		schemas("a choice of two hundred", choice(200, 1), choice(200, 2)),
		description("fifteen hundred renamed operations", operations("alpha"), operations("beta")),
		yaml("scopes that nobody declared", undeclaredScopes(10_000), "Berths", "Berths of the harbour"),
		schemas("a pattern of many states", pattern(`^(a|b)*a(a|b){18}$`), pattern(`^(a|b)*b(a|b){18}$`)),
		schemas("a pattern of many ways", pattern(`(?:.?){500}`), pattern(`(?:.?){499}x`)),
		schemas("links that never end", prose(strings.Repeat("[a](", 30_000), 0), prose(strings.Repeat("[a](", 30_000), 4)),
		schemas("quotes in quotes", prose(strings.Repeat("> ", 30_000), 0), prose(strings.Repeat("> ", 30_000), 4)),
		schemas("emphasis in emphasis", prose(strings.Repeat("**a__b", 30_000), 0), prose(strings.Repeat("**a__b", 30_000), 4)),
		schemas("constants of two hundred thousand characters", object{"S0": object{"const": strings.Repeat("a", 200_000)}},
			object{"S0": object{"const": strings.Repeat("a", 199_999) + "b"}}),
		schemas("objects five hundred deep", object{"S0": deep(480, object{"type": "string"})},
			object{"S0": deep(480, object{"type": "string", "maxLength": 3})}),
		schemas("unevaluated beside forty alternatives", unevaluated("string"), unevaluated("integer")),
		schemas("forty patterns of names", names("b", "string"), names("c", "integer")),
		schemas("an example under a tree of parts", withExample("string"), withExample("integer")),
		schemas("two of each under what is not looked at", lookedAt(false), lookedAt(object{"type": "string"})),
		schemas("heirs of heirs", heirs(200, 9), heirs(200, 5)),
		schemas("closed objects under not", negations(10, "string"), negations(10, "integer")),
	)
	for _, kind := range []string{"allOf", "anyOf", "oneOf"} {
		all = append(all, schemas("tags under a ladder of "+kind, ladder(kind, "string"), ladder(kind, "integer")))
	}
	return all
}

// lookedAt closes a tree of parts by what none of them looks at.
func lookedAt(rest any) object {
	all := chain("allOf", object{"type": "object", "properties": object{"a": object{"type": "string"}}})
	all["S0"].(object)["unevaluatedProperties"] = rest
	return all
}

// ladder is a choice, tagged, untagged and closed, that is told apart by what stands under twelve rungs of eight ways each.
func ladder(kind, extra string) object {
	const rungs, ways = 12, 8
	all := object{"S1": object{
		"type": "object", "required": []string{"kind"},
		"properties": object{"kind": object{"type": "string"}, "a": object{"type": "string"}},
	}}
	at := 1
	for range rungs {
		part := make([]any, ways)
		for i := range part {
			part[i] = to(at)
		}
		at++
		all[fmt.Sprintf("S%d", at)] = object{kind: part}
	}
	other := at + 1
	all[fmt.Sprintf("S%d", other)] = object{
		"type": "object", "required": []string{"x"},
		"properties": object{"kind": to(at), "x": object{"type": extra}},
	}
	all["S0"] = object{"type": "object", "properties": object{
		"tagged":   object{"oneOf": []any{to(at), to(other)}, "discriminator": object{"propertyName": "kind"}},
		"untagged": object{"oneOf": []any{to(at), to(other)}},
		"closed":   object{"oneOf": []any{to(at), to(other)}, "unevaluatedProperties": false},
	}}
	return all
}

// heirs is a line of bases, each of which tells its heirs apart, all of which hold the last.
func heirs(n, most int) object {
	all := object{"S0": object{"type": "object", "properties": object{
		"kind": object{"type": "string"},
		"n":    object{"type": "integer", "maximum": most},
	}, "discriminator": object{"propertyName": "kind"}}}
	for i := 1; i < n; i++ {
		part := object{"type": "object", "properties": object{fmt.Sprintf("f%d", i): object{"$ref": "#/components/schemas/S0"}}}
		all[fmt.Sprintf("S%d", i)] = object{
			"allOf":         []any{object{"$ref": fmt.Sprintf("#/components/schemas/S%d", i-1)}, part},
			"discriminator": object{"propertyName": "kind"},
		}
	}
	return all
}

func encode(v any) []byte {
	text, err := json.Marshal(v)
	if err != nil {
		panic(err) // maps, lists and texts always marshal
	}
	return text
}

// whole is a description with schemas, of which S0 is sent and answered by one operation.
func whole(schemas object, paths object, version string) []byte {
	media := object{"application/json": object{"schema": object{"$ref": "#/components/schemas/S0"}}}
	if paths == nil {
		paths = object{"/moorings": object{"post": object{
			"operationId": "moor", "requestBody": object{"content": media},
			"responses": object{"200": object{"description": "Moored.", "content": media}},
		}}}
	}
	about := object{"title": "Moorings", "version": version}
	if s, ok := schemas["S0"].(object); ok && s["description"] != nil {
		about["description"] = s["description"]
	}
	return encode(object{"openapi": "3.1.0", "info": about, "paths": paths, "components": object{"schemas": schemas}})
}

func schemas(name string, old, new object) Pair {
	return Pair{name, ".json", whole(old, nil, "1.0.0"), whole(new, nil, "1.1.0")}
}

func description(name string, old, new object) Pair {
	berth := object{"S0": object{"type": "object", "properties": object{"a": object{"type": "string"}}}}
	return Pair{name, ".json", whole(berth, old, "1.0.0"), whole(berth, new, "1.1.0")}
}

func yaml(name, text, from, to string) Pair {
	return Pair{name, ".yaml", []byte(text), []byte(strings.Replace(strings.Replace(text, "version: 1.0.0", "version: 1.1.0", 1), from, to,
		1))}
}

func to(i int) object { return object{"$ref": fmt.Sprintf("#/components/schemas/S%d", i)} }

// chain is forty schemas, each made of two of the next: 2^40 ways lead to the last.
func chain(kind string, last object) object {
	const length = 40
	all := object{fmt.Sprintf("S%d", length): last}
	for i := range length {
		two := []any{to(i + 1), to(i + 1)}
		pair := object{"a": to(i + 1), "b": to(i + 1)}
		all[fmt.Sprintf("S%d", i)] = map[string]object{
			"allOf": {"allOf": two}, "anyOf": {"anyOf": two}, "oneOf": {"oneOf": two},
			"fields":   {"type": "object", "properties": pair},
			"required": {"type": "object", "required": []string{"a", "b"}, "properties": pair},
			"mixed":    {"allOf": two, "properties": object{fmt.Sprintf("p%d", i): to(i + 1)}},
			"items":    {"type": "array", "minItems": 2, "items": object{"anyOf": two}},
		}[kind]
	}
	return all
}

func fields(name string) object {
	properties := object{}
	for i := range 3_000 {
		properties[fmt.Sprintf(name, i)] = object{"type": "string", "maxLength": i%50 + 1}
	}
	return object{"S0": object{"type": "object", "properties": properties}}
}

func choice(n, longer int) object {
	branches := make([]any, n)
	for i := range branches {
		name := fmt.Sprintf("p%d", i)
		branches[i] = object{
			"type": "object", "required": []string{name},
			"properties": object{name: object{"type": "string", "maxLength": i + longer}, "kind": object{"type": "string"}},
		}
	}
	return object{"S0": object{"oneOf": branches}}
}

func operations(prefix string) object {
	paths := object{}
	for i := range 1_500 {
		name := fmt.Sprintf("%s%d", prefix, i)
		paths["/"+name] = object{"get": object{
			"operationId": name, "parameters": []any{object{"name": "q", "in": "query", "schema": object{"type": "string"}}},
			"responses": object{"200": object{"description": "Here.", "content": object{"application/json": object{"schema": to(0)}}}},
		}}
	}
	return paths
}

// undeclaredScopes asks for many scopes and schemes of which none is declared, beside as many that are.
func undeclaredScopes(n int) string {
	var asks, scopes, schemes strings.Builder
	for i := range n {
		fmt.Fprintf(&asks, "  - {in: [asked%d]}\n  - {asked%d: []}\n", i, i)
		fmt.Fprintf(&scopes, "declared%d: A., ", i)
		fmt.Fprintf(&schemes, "    declared%d: {type: http, scheme: basic}\n", i)
	}
	return "openapi: 3.1.0\ninfo: {title: Berths, version: 1.0.0}\nsecurity:\n" + asks.String() +
		"paths: {/a: {get: {responses: {'200': {description: A.}}}}}\ncomponents:\n  securitySchemes:\n" +
		"    in: {type: oauth2, flows: {clientCredentials: {tokenUrl: 'https://in.saltmere.example', scopes: {" + scopes.String() + "}}}}\n" +
		schemes.String()
}

func pattern(p string) object { return object{"S0": object{"type": "string", "pattern": p}} }

func prose(text string, most int) object {
	s := object{"type": "string", "description": text}
	if most > 0 {
		s["maxLength"] = most
	}
	return object{"S0": s}
}

func deep(n int, s object) object {
	for range n {
		s = object{"type": "object", "required": []string{"a"}, "properties": object{"a": s, "b": object{"type": "string"}}}
	}
	return s
}

func unevaluated(kind string) object {
	branches := make([]any, 40)
	for i := range branches {
		branches[i] = object{"properties": object{fmt.Sprintf("p%d", i): object{"type": kind}}}
	}
	return object{"S0": object{"anyOf": branches, "unevaluatedProperties": false}}
}

func names(letter, kind string) object {
	patterns := object{}
	for i := 1; i < 40; i++ {
		patterns[fmt.Sprintf("^(a|%s){%d}", letter, i)] = object{"type": kind}
	}
	return object{"S0": object{"patternProperties": patterns}}
}

func withExample(kind string) object {
	all := chain("allOf", object{"type": kind})
	all["S0"].(object)["examples"] = []any{"x", 5}
	return all
}

// negations rule out one choice inside another.
func negations(n int, kind string) object {
	s := object{"type": "object", "properties": object{"a": object{"type": kind}}, "additionalProperties": false}
	for i := range n {
		s = object{"not": object{"anyOf": []any{
			s,
			object{"required": []string{fmt.Sprintf("n%d", i)}},
			object{"properties": object{fmt.Sprintf("n%d", i): s}},
		}}}
	}
	return object{"S0": s}
}

const header = "openapi: 3.1.0\ninfo: {title: Moorings, version: 1.0.0}\npaths: {}\n"

var aliases = func() string {
	text := header + "x-a: &a [x,x,x,x,x,x,x,x,x]\n"
	for c := 'b'; c <= 'h'; c++ {
		text += fmt.Sprintf("x-%c: &%c [%s]\n", c, c, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*%c,", c-1), 9), ","))
	}
	return text
}()

var sharedSchemas = func() string {
	text := header + "components:\n  schemas:\n    A: &a {type: string}\n"
	for c := 'b'; c <= 'g'; c++ {
		var properties []string
		for p := 'a'; p < 'g'; p++ {
			properties = append(properties, fmt.Sprintf("%c: *%c", p, c-1))
		}
		text += fmt.Sprintf("    %c: &%c {properties: {%s}}\n", c-32, c, strings.Join(properties, ", "))
	}
	return text
}()

func merges(n int) string {
	var b bytes.Buffer
	b.WriteString(header + "x-merged:\n  m0: &m0 {k0: 1}\n")
	for i := 1; i < n; i++ {
		fmt.Fprintf(&b, "  m%d: &m%d {<<: *m%d, k%d: 1}\n", i, i, i-1, i)
	}
	return b.String()
}

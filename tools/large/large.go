// Package large makes up a large description, and an edited version of it whose edits are known, for benchmarks and tests of scale.
package large

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"strconv"
	"strings"

	"oldledger/core/value"
)

// Operations is how many operations the description of the benchmarks has: with them it is about 13 MB of JSON.
const Operations = 1100

// Edit is one seeded edit.
type Edit struct {
	Kind    int
	Target  int    // number of the schema or operation
	Pointer string // begins the place of the change, on the new side or, for what is gone, on the old one
}

// edits of schemas come first, then those of operations.
const (
	shorterText = iota
	newWords
	propertyGone
	propertyNew
	nowRequired
	valueNew
	lowerMaximum
	otherPattern
	parameterRange
	parameterNew
	newSummary
	nowDeprecated
	operationGone
	kinds
)

// Edits draws n edits of different places, the same on every run.
func Edits(n, operations int) []Edit {
	rng := rand.New(rand.NewPCG(7, 11))
	taken := map[string]bool{}
	var all []Edit
	for len(all) < n {
		e := Edit{Kind: len(all) % kinds}
		e.Target = rng.IntN(operations)
		what := "operation"
		if e.Kind < parameterRange {
			what = "schema"
		}
		key := what + strconv.Itoa(e.Target)
		if taken[key] {
			continue
		}
		taken[key] = true
		e.Pointer = fmt.Sprintf("/paths/~1things%d~1{id}/put", e.Target)
		if what == "schema" {
			e.Pointer = fmt.Sprintf("/components/schemas/Thing%d", e.Target)
		}
		all = append(all, e)
	}
	return all
}

// Description makes the description, with some edits made.
func Description(operations int, edits []Edit) *value.Value {
	m := maker{operations: operations, schema: map[int]int{}, operation: map[int]int{}}
	for _, e := range edits {
		if e.Kind < parameterRange {
			m.schema[e.Target] = e.Kind + 1
		} else {
			m.operation[e.Target] = e.Kind + 1
		}
	}
	return m.description()
}

// maker writes one description; schema and operation hold the edit of each, plus one.
type maker struct {
	operations        int
	schema, operation map[int]int
}

func obj(pairs ...any) *value.Value {
	o := value.Obj()
	for i := 0; i < len(pairs); i += 2 {
		o.Members = append(o.Members, value.Member{Name: pairs[i].(string), Value: of(pairs[i+1])})
	}
	return o
}

func of(v any) *value.Value {
	switch v := v.(type) {
	case *value.Value:
		return v
	case string:
		return value.Str(v)
	case bool:
		return value.Bool(v)
	case int:
		return value.Rat(big.NewRat(int64(v), 1))
	case []string:
		a := value.Arr()
		for _, s := range v {
			a.Items = append(a.Items, value.Str(s))
		}
		return a
	case []*value.Value:
		return value.Arr(v...)
	}
	panic(fmt.Sprintf("large: no value for %T", v))
}

func ref(name string) *value.Value { return obj("$ref", "#/components/"+name) }

func (m maker) description() *value.Value {
	paths, schemas := value.Obj(), value.Obj()
	for i := range m.operations {
		if m.operation[i] != operationGone+1 {
			paths.Members = append(paths.Members, value.Member{Name: fmt.Sprintf("/things%d/{id}", i), Value: obj("put", m.put(i))})
		}
		schemas.Members = append(schemas.Members, value.Member{Name: fmt.Sprintf("Thing%d", i), Value: m.thing(i)})
	}
	problem := obj("description", "It was not carried out.", "content", obj("application/problem+json", obj("schema",
		obj("type", "object", "properties", obj("type", obj("type", "string"), "title", obj("type", "string"), "status", obj("type", "integer"),
			"detail", obj("type", "string"))))))
	return obj(
		"openapi", "3.1.0", "info", obj("title", "Everything in the harbour", "version", "1.0.0"), "paths", paths,
		"components", obj("responses", obj("Problem", problem), "schemas", schemas),
	)
}

const words = "What the office keeps of it, in the words of those who wrote it down; see the handbook of the quays for how it is read. "

func prose(n int, of string) string { return strings.Repeat(words, n) + "It is about " + of + "." }

// put is the one operation of a path.
func (m maker) put(i int) *value.Value {
	id := obj("name", "id", "in", "path", "required", true, "description", prose(1, "the id"), "schema",
		obj("type", "string", "maxLength", 40))
	maximum := 100
	if m.operation[i] == parameterRange+1 {
		maximum = 50
	}
	params := []*value.Value{id, obj("name", "limit", "in", "query", "description", prose(1, "the limit"), "schema",
		obj("type", "integer", "minimum", 1, "maximum", maximum, "default", 25))}
	for j := range 6 {
		params = append(params, obj("name", fmt.Sprintf("filter%d", j), "in", "query", "description", prose(2, "a filter"), "schema",
			obj("type", "string", "maxLength", 20+j)))
	}
	if m.operation[i] == parameterNew+1 {
		params = append(params, obj("name", "berth", "in", "query", "required", true, "schema", obj("type", "string")))
	}
	summary := fmt.Sprintf("Put thing %d where it belongs", i)
	if m.operation[i] == newSummary+1 {
		summary += ", again"
	}
	body := obj("application/json", obj("schema", ref(fmt.Sprintf("schemas/Thing%d", i))))
	op := obj(
		"operationId", fmt.Sprintf("putThing%d", i), "summary", summary, "description", prose(6, fmt.Sprintf("thing %d", i)), "tags",
		[]string{fmt.Sprintf("group%d", i%40)},
		"parameters", params, "requestBody", obj("required", true, "content", body),
		"responses", obj("200", obj("description", "It stands where it belongs.", "content", body), "default", ref("responses/Problem")),
	)
	if m.operation[i] == nowDeprecated+1 {
		op.Members = append(op.Members, value.Member{Name: "deprecated", Value: value.True})
	}
	return op
}

// thing is one shared schema; it refers to three others with higher numbers, so that chains are deep, and to itself.
func (m maker) thing(i int) *value.Value {
	edit := m.schema[i] - 1
	name, maximum, states, pattern := 80, 1000, []string{"requested", "held", "left"}, "^[A-Z]{2}-[0-9]{2,6}$"
	remark, required := prose(1, "the remark"), []string{"name", "code"}
	switch edit {
	case shorterText:
		name = 60
	case newWords:
		remark += " Or not."
	case nowRequired:
		required = append(required, "amount")
	case valueNew:
		states = append(states, "towed")
	case lowerMaximum:
		maximum = 900
	case otherPattern:
		pattern = "^[A-Z]{2}-[0-9]{2,4}$"
	}
	props := obj(
		"name", obj("type", "string", "maxLength", name, "description", prose(1, "the name")),
		"code", obj("type", "string", "pattern", pattern, "description", prose(1, "the code")),
		"amount", obj("type", "number", "minimum", 0, "maximum", maximum, "description", prose(1, "the amount")),
		"state", obj("type", "string", "enum", states, "description", prose(1, "the state")),
		"remark", obj("type", "string", "description", remark),
		"again", ref(fmt.Sprintf("schemas/Thing%d", i)),
	)
	if edit != propertyGone {
		props.Members = append(props.Members, value.Member{
			Name:  "mooring",
			Value: obj("type", "string", "format", "date", "description", prose(1, "the mooring")),
		})
	}
	if edit == propertyNew {
		props.Members = append(props.Members, value.Member{Name: "tug", Value: obj("type", "boolean")})
	}
	for j, step := range []int{1, 7, 61} {
		if k := i + step; k < m.operations && k/25 == i/25 { // chains of up to 25
			props.Members = append(props.Members, value.Member{Name: fmt.Sprintf("part%d", j), Value: ref(fmt.Sprintf("schemas/Thing%d", k))})
		}
	}
	for j := range 8 {
		props.Members = append(props.Members, value.Member{
			Name:  fmt.Sprintf("field%d", j),
			Value: obj("type", "string", "maxLength", 10+j, "description", prose(1, "a field")),
		})
	}
	props.Members = append(props.Members, m.composed(i)...)
	return obj("type", "object", "description", prose(3, fmt.Sprintf("thing %d", i)), "required", required, "properties", props)
}

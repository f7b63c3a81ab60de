// Package judge asks an independent JSON Schema validator whether a value is valid at a place in a description. Tests hold
// witnesses, samples and the messages of guides against it.
package judge

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Judge is the validator for one schema at one place.
type Judge struct {
	schema *jsonschema.Schema
	items  bool // the schema is that of every item of a sequence (OpenAPI 3.2.0, itemSchema)
}

// For makes the judge of the schema that stands at node in the description of c, in a reading, as a part of a request or of a
// response. The error is a description that the judge cannot read.
func For(c *contract.Contract, node *source.Node, reading shape.Reading, request bool) (*Judge, error) {
	tr := translator{old: c.Dialect == "openapi-3.0" || c.Dialect == "openapi-2.0", declared: reading == shape.Declared, hidden: "writeOnly"}
	if request {
		tr.hidden = "readOnly"
	}
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	if tr.declared {
		compiler.AssertFormat()
		compiler.AssertContent()
		for name, f := range numberFormats {
			compiler.RegisterFormat(&jsonschema.Format{Name: name, Validate: f})
		}
	}
	entry := tr.old
	for f := range files(c) {
		tr.old = entry
		if n := f.Root.Get("openapi"); n != nil { // a file may be a description of its own, in another dialect
			tr.old = strings.HasPrefix(n.Text, "3.0")
		}
		if err := tr.add(compiler, address(f), f.Root); err != nil {
			return nil, err
		}
	}
	j := &Judge{}
	if item := node.Get("itemSchema"); item != nil {
		node, j.items = item, true
	}
	schema, err := compiler.Compile(address(node.File()) + "#" + node.Pointer())
	if err != nil {
		return nil, fmt.Errorf("the judge cannot read the schema: %w", err)
	}
	j.schema = schema
	return j, nil
}

// Valid reports whether v is valid; why is what the validator says against it.
func (j *Judge) Valid(v *value.Value) (valid bool, why string) {
	values := []*value.Value{v}
	if j.items {
		if v.Kind != value.Array {
			return false, "the message is no sequence"
		}
		values = v.Items
	}
	for _, one := range values {
		instance, err := jsonschema.UnmarshalJSON(strings.NewReader(one.String()))
		if err == nil {
			err = j.schema.Validate(instance)
		}
		if err != nil {
			return false, err.Error()
		}
	}
	return true, ""
}

// Valid asks the judge of one schema about one value.
func Valid(c *contract.Contract, node *source.Node, v *value.Value, reading shape.Reading, request bool) (valid bool, why string,
	err error,
) {
	j, err := For(c, node, reading, request)
	if err != nil {
		return false, "", err
	}
	valid, why = j.Valid(v)
	return valid, why, nil
}

func address(f *source.File) string { return "set:///" + f.Path() }

// add gives the validator a document and every schema in it that has an address of its own.
func (tr translator) add(compiler *jsonschema.Compiler, at string, n *source.Node) error {
	if err := compiler.AddResource(at, tr.schema(n)); err != nil {
		return fmt.Errorf("the judge cannot read the description: %w", err)
	}
	var walk func(n *source.Node) error
	walk = func(n *source.Node) error {
		if id := n.Get("$id"); id != nil && strings.Contains(id.Text, "://") && id.Text != at {
			if err := compiler.AddResource(id.Text, tr.schema(n)); err != nil {
				return fmt.Errorf("the judge cannot read a schema: %w", err)
			}
		}
		for _, m := range n.Members {
			if err := walk(m.Value); err != nil {
				return err
			}
		}
		for _, it := range n.Items() {
			if err := walk(it); err != nil {
				return err
			}
		}
		return nil
	}
	return walk(n)
}

// files are those in which something of a contract stands.
func files(c *contract.Contract) map[*source.File]bool {
	found := map[*source.File]bool{c.Node.File(): true}
	for _, op := range c.All() {
		found[op.Node.File()] = true
	}
	for _, s := range c.Schemas {
		found[s.Node.File()] = true
	}
	return found
}

// numberFormats are the formats of OpenAPI's registry that the validator does not know by itself.
var numberFormats = map[string]func(any) error{
	"int32": within(-1<<31, 1<<31-1), "int64": within(-1<<63, 1<<63-1),
	"int8": within(-1<<7, 1<<7-1), "int16": within(-1<<15, 1<<15-1), "uint8": within(0, 1<<8-1), "uint16": within(0, 1<<16-1),
	"uint32": within(0, 1<<32-1),
}

func within(low, high int64) func(any) error {
	return func(v any) error {
		n, isNumber := v.(json.Number)
		if !isNumber {
			return nil
		}
		r, ok := new(big.Rat).SetString(n.String())
		if !ok || !r.IsInt() || r.Cmp(new(big.Rat).SetInt64(low)) < 0 || r.Cmp(new(big.Rat).SetInt64(high)) > 0 {
			return fmt.Errorf("%s is out of range", n)
		}
		return nil
	}
}

// Position finds the schema at a position of an operation, in the form of a witness: "request body application/json",
// "response 200 application/json". It is nil where there is none.
func Position(op *contract.Operation, position string) *contract.Schema {
	words := strings.Fields(position)
	mediaType := words[len(words)-1]
	var media []*contract.Media
	if words[0] == "request" && op.Body != nil {
		media = op.Body.Content
	}
	if words[0] == "response" {
		media = answered(op, words[1])
	}
	for _, m := range media {
		if m.Type == mediaType {
			return m.Schema
		}
	}
	if len(media) == 1 {
		return media[0].Schema // the type itself was replaced
	}
	return nil
}

// answered is the content under a status: the exact one's, else its class's, else the default's.
func answered(op *contract.Operation, status string) []*contract.Media {
	for _, name := range []string{status, status[:1] + "XX", "default"} {
		for _, r := range op.Responses {
			if r.Status == name {
				return r.Content
			}
		}
	}
	return nil
}

// translator writes a description's tree as JSON Schema 2020-12 in plain Go values.
type translator struct {
	old      bool // a dialect before 3.1
	declared bool
	hidden   string // readOnly in requests, writeOnly in responses: such properties do not count as required
}

func (tr translator) schema(n *source.Node) any {
	switch n.Kind {
	case source.Mapping:
		if ref := n.Get("$ref"); ref != nil && tr.old {
			return map[string]any{"$ref": ref.Text} // OpenAPI 3.0.4, Reference Object: what stands beside it is ignored
		}
		m := map[string]any{}
		for _, x := range n.Members {
			if tr.old && (x.Key == "nullable" || (x.Key == "exclusiveMinimum" || x.Key == "exclusiveMaximum") && x.Value.Kind == source.Boolean) {
				continue
			}
			m[x.Key] = tr.schema(x.Value)
		}
		tr.mend(n, m)
		switch m["format"] {
		case "byte":
			m["contentEncoding"] = "base64"
		}
		nullable := tr.old && n.Get("nullable") != nil && n.Get("nullable").Bool
		if nullable && !tr.declared {
			// To the letter of OpenAPI 3.0.4 it only adds null to the type beside it.
			if m["type"] != nil {
				m["type"] = []any{m["type"], "null"}
			}
			return m
		}
		if nullable {
			outer := map[string]any{"anyOf": []any{map[string]any{"type": "null"}, m}}
			for _, key := range []string{"properties", "items"} {
				if m[key] != nil {
					outer[key] = m[key] // so that pointers into the schema still lead somewhere
				}
			}
			return outer
		}
		return m
	case source.Sequence:
		list := []any{}
		for _, it := range n.Items() {
			list = append(list, tr.schema(it))
		}
		return list
	case source.Number:
		return json.Number(n.Value().String())
	case source.String:
		return n.Text
	case source.Boolean:
		return n.Bool
	}
	return nil
}

func (tr translator) mend(n *source.Node, m map[string]any) {
	for limit, exclusive := range map[string]string{"minimum": "exclusiveMinimum", "maximum": "exclusiveMaximum"} {
		if e := n.Get(exclusive); tr.old && m[limit] != nil && e != nil && e.Kind == source.Boolean && e.Bool {
			m[exclusive] = m[limit]
			delete(m, limit)
		}
	}
	names := map[string]bool{"properties": true, "patternProperties": true, "dependentSchemas": true, "schemas": true}
	if tr.declared && m["type"] == nil && !names[n.Step()] {
		if types := implied(m); len(types) > 0 {
			m["type"] = types
		}
	}
	required := n.Get("required")
	if !tr.declared || required == nil || required.Kind != source.Sequence {
		return
	}
	kept := []any{}
	for _, name := range required.Items() {
		p := n.Get("properties").Get(name.Text)
		if hidden := p.Get(tr.hidden); hidden == nil || !hidden.Bool {
			kept = append(kept, name.Text)
		}
	}
	m["required"] = kept
}

// implied are the types that the declared reading takes from the keywords of a schema without a type.
func implied(m map[string]any) []any {
	says := func(keywords ...string) bool {
		for _, k := range keywords {
			if _, there := m[k]; there {
				return true
			}
		}
		return false
	}
	var types []any
	_, list := m["required"].([]any)
	if list || says("properties", "patternProperties", "additionalProperties", "propertyNames", "minProperties", "maxProperties",
		"dependentRequired", "dependentSchemas", "unevaluatedProperties") {
		types = append(types, "object")
	}
	if says("prefixItems", "items", "contains", "minItems", "maxItems", "uniqueItems", "unevaluatedItems") {
		types = append(types, "array")
	}
	if types == nil && says("contentMediaType", "contentEncoding") {
		return []any{"string"}
	}
	if types == nil {
		return nil
	}
	if says("minLength", "maxLength", "pattern", "format", "contentMediaType", "contentEncoding") {
		types = append(types, "string")
	}
	if says("minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf") {
		types = append(types, "number")
	}
	return types
}

// Package judge asks an independent JSON Schema validator whether a value is valid at a place in a description. Tests hold
// witnesses, samples and the messages of guides against it.
package judge

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Valid returns nil when v is valid for the schema that stands at node in the description of c, in a reading, as a part
// of a request or of a response.
func Valid(c *contract.Contract, node *source.Node, v *value.Value, reading shape.Reading, request bool) error {
	tr := translator{old30: c.Dialect == "openapi-3.0", declared: reading == shape.Declared, hidden: "writeOnly"}
	if request {
		tr.hidden = "readOnly"
	}
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	if tr.declared {
		compiler.AssertFormat()
	}
	if err := compiler.AddResource("doc.json", tr.schema(c.Node)); err != nil {
		return fmt.Errorf("the judge cannot read the description: %w", err)
	}
	schema, err := compiler.Compile("doc.json#" + node.Pointer())
	if err != nil {
		return fmt.Errorf("the judge cannot read the schema: %w", err)
	}
	instance, err := jsonschema.UnmarshalJSON(strings.NewReader(v.String()))
	if err != nil {
		return err
	}
	return schema.Validate(instance)
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
	old30    bool
	declared bool
	hidden   string // readOnly in requests, writeOnly in responses: such properties do not count as required
}

func (tr translator) schema(n *source.Node) any {
	switch n.Kind {
	case source.Mapping:
		if ref := n.Get("$ref"); ref != nil && tr.old30 {
			return map[string]any{"$ref": ref.Text} // OpenAPI 3.0.4, Reference Object: what stands beside it is ignored
		}
		m := map[string]any{}
		for _, x := range n.Members {
			if tr.old30 && (x.Key == "nullable" || (x.Key == "exclusiveMinimum" || x.Key == "exclusiveMaximum") && x.Value.Kind == source.Boolean) {
				continue
			}
			m[x.Key] = tr.schema(x.Value)
		}
		tr.mend(n, m)
		nullable := tr.old30 && n.Get("nullable") != nil && n.Get("nullable").Bool
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
		for _, it := range n.Items {
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
		if e := n.Get(exclusive); tr.old30 && m[limit] != nil && e != nil && e.Kind == source.Boolean && e.Bool {
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
	for _, name := range required.Items {
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
	if list || says("properties", "patternProperties", "additionalProperties", "propertyNames", "minProperties", "maxProperties", "dependentRequired", "dependentSchemas", "unevaluatedProperties") {
		types = append(types, "object")
	}
	if says("prefixItems", "items", "contains", "minItems", "maxItems", "uniqueItems", "unevaluatedItems") {
		types = append(types, "array")
	}
	if types == nil {
		return nil
	}
	if says("minLength", "maxLength", "pattern", "format") {
		types = append(types, "string")
	}
	if says("minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf") {
		types = append(types, "number")
	}
	return types
}

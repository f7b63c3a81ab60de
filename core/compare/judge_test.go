package compare_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// judgeWitnesses asks an independent JSON Schema validator about every witness in a body: valid for the sender's
// version, invalid for the receiver's. Parameters and headers are text on the wire, which no validator reads.
func judgeWitnesses(t *testing.T, c *compare.Comparison, old, new *contract.Contract, reading shape.Reading) {
	t.Helper()
	for _, ch := range c.Changes {
		for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
			w := ch.WitnessFor(d)
			if w == nil || w.Value == nil || !strings.Contains(w.Position, "/") {
				continue
			}
			clientSends := strings.HasPrefix(w.Position, "request") != strings.Contains(w.Operation, "webhook ")
			sender, receiver := old, new
			if (d == compare.Backward) != clientSends {
				sender, receiver = new, old
			}
			declared := reading == shape.Declared
			require.NoError(t, validate(t, sender, ch, w, clientSends, declared), "%s: the sender allows %s", ch.Title, w.Value)
			require.Error(t, validate(t, receiver, ch, w, clientSends, declared), "%s: the receiver refuses %s", ch.Title, w.Value)
		}
	}
}

// validate judges a witness by the schema that stands at its position in one version.
func validate(t *testing.T, c *contract.Contract, ch *compare.Change, w *compare.Witness, clientSends, declared bool) error {
	t.Helper()
	op := c.Lookup(w.Operation)
	if op == nil && ch.Moved == nil {
		op = movedOperation(c, w.Operation)
	}
	require.NotNil(t, op, "no operation %s", w.Operation)
	words := strings.Fields(w.Position)
	mediaType := words[len(words)-1]
	var media []*contract.Media
	if words[0] == "request" {
		media = op.Body.Content
	} else {
		for _, r := range op.Responses {
			if r.Status == words[1] {
				media = r.Content
			}
		}
	}
	for _, m := range media {
		if m.Type == mediaType {
			return judge(t, c, m.Schema.Node, w, clientSends, declared)
		}
	}
	t.Fatalf("no %s at %s", mediaType, w.Position)
	return nil
}

// movedOperation finds the operation that took the place of one that moved: the cases keep the operationId.
func movedOperation(c *contract.Contract, key string) *contract.Operation {
	for _, op := range c.Operations {
		if strings.HasPrefix(key, op.Method+" ") && op.ID != "" {
			return op
		}
	}
	return nil
}

func judge(t *testing.T, c *contract.Contract, n *source.Node, w *compare.Witness, clientSends, declared bool) error {
	t.Helper()
	tr := translator{old30: c.Dialect == "openapi-3.0", declared: declared, hidden: "writeOnly"}
	if clientSends {
		tr.hidden = "readOnly"
	}
	doc := tr.schema(c.Node)
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	if declared {
		compiler.AssertFormat()
	}
	require.NoError(t, compiler.AddResource("doc.json", doc))
	schema, err := compiler.Compile("doc.json#" + n.Pointer())
	require.NoError(t, err)
	instance, err := jsonschema.UnmarshalJSON(strings.NewReader(w.Value.String()))
	require.NoError(t, err)
	return schema.Validate(instance)
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
		m := map[string]any{}
		for _, x := range n.Members {
			if tr.old30 && (x.Key == "nullable" || (x.Key == "exclusiveMinimum" || x.Key == "exclusiveMaximum") && x.Value.Kind == source.Boolean) {
				continue
			}
			m[x.Key] = tr.schema(x.Value)
		}
		tr.mend(n, m)
		if tr.old30 && n.Get("nullable") != nil && n.Get("nullable").Bool {
			return map[string]any{"anyOf": []any{map[string]any{"type": "null"}, m}, "properties": m["properties"]}
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
		if e := n.Get(exclusive); tr.old30 && e != nil && e.Kind == source.Boolean && e.Bool {
			m[exclusive] = m[limit]
			delete(m, limit)
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

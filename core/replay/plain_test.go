package replay

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"pgregory.net/rapid"

	"oldledger/core/budget"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/format"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// drawSchema draws a schema as JSON.
func drawSchema(t *rapid.T, depth int) string {
	leaves := []string{
		`{"type": "string"}`, `{"type": "integer", "maximum": 3}`, `{"enum": ["a", 1]}`, `{"type": ["string", "null"]}`, `{"type": "boolean"}`, `{}`,
		`{"anyOf": [{"type": "string"}, {"type": "object", "properties": {"a": {"type": "integer"}}}]}`,
	}
	if depth == 0 {
		return rapid.SampledFrom(leaves).Draw(t, "leaf")
	}
	switch rapid.IntRange(0, 4).Draw(t, "kind") {
	case 0:
		return rapid.SampledFrom(leaves).Draw(t, "leaf")
	case 1:
		most := rapid.SampledFrom([]string{"", `, "maxItems": 2`, `, "uniqueItems": true`}).Draw(t, "most")
		return `{"type": "array", "items": ` + drawSchema(t, depth-1) + most + `}`
	case 2:
		return `{"allOf": [` + drawSchema(t, depth-1) + `, ` + drawSchema(t, depth-1) + `]}`
	}
	var props []string
	for _, name := range []string{"a", "b", "c"}[:rapid.IntRange(0, 3).Draw(t, "members")] {
		props = append(props, fmt.Sprintf("%q: %s", name, drawSchema(t, depth-1)))
	}
	rest := rapid.SampledFrom([]string{"", `, "required": ["a"]`, `, "additionalProperties": false`, `, "maxProperties": 1`, `, "minProperties": 2`}).Draw(t, "rest")
	return `{"type": "object", "properties": {` + strings.Join(props, ", ") + `}` + rest + `}`
}

// drawValue draws a value.
func drawValue(t *rapid.T, depth int) *value.Value {
	kind := rapid.IntRange(0, 6).Draw(t, "value")
	if depth == 0 && kind > 4 {
		kind = 0
	}
	switch kind {
	case 0:
		return value.Str(rapid.SampledFrom([]string{"a", "b", exchange.Mask}).Draw(t, "text"))
	case 1:
		return value.True
	case 2:
		return value.NullValue
	case 3, 4:
		v, err := value.Parse([]byte(rapid.SampledFrom([]string{"1", "4", "1.5"}).Draw(t, "number")))
		if err != nil {
			t.Fatal(err)
		}
		return v
	case 5:
		out := value.Arr()
		for range rapid.IntRange(0, 3).Draw(t, "items") {
			out.Items = append(out.Items, drawValue(t, depth-1))
		}
		return out
	}
	out := value.Obj()
	for _, name := range []string{"a", "b", "c", "d"}[:rapid.IntRange(0, 4).Draw(t, "names")] {
		out.Members = append(out.Members, value.Member{Name: name, Value: drawValue(t, depth-1)})
	}
	return out
}

// TestPlain finds at once only what the search finds, too: that an answer may say all that a recorded one says.
func TestPlain(t *testing.T) {
	t.Parallel()
	fits := 0
	rapid.Check(t, func(t *rapid.T) {
		text := `{"openapi": "3.1.0", "info": {"title": "x", "version": "1"}, "paths": {}, "components": {"schemas": {"X": ` + drawSchema(t, 3) + `}}}`
		f, err := source.Parse("x.json", []byte(text))
		if err != nil {
			t.Fatal(err)
		}
		c, err := format.Read(source.SetOf(f))
		if err != nil {
			t.Fatal(err)
		}
		s := newSide(c)
		s.space = shape.NewSpace(shape.Declared, budget.New(context.Background(), budget.For(c.Size)))
		g := &given{asked: &asked{side: s, e: &exchange.Exchange{}, op: &contract.Operation{}}}
		schema := c.Schema("X")
		v := drawValue(t, 3)
		p := plain{given: g, root: schema}
		if !p.fits(schema, v, nil) {
			return
		}
		set := s.space.Lower(schema, shape.Role{Sends: true})
		if s.space.Find(set).Answer == shape.Proved {
			return // nothing at all is sent
		}
		fits++
		for _, slice := range slicesOf(v) {
			if s.space.Find(set, s.like(slice, false)).Answer == shape.Proved {
				t.Fatalf("%s is no answer under %s", slice, text)
			}
		}
	})
	if fits == 0 {
		t.Fatal("nothing that was drawn fits")
	}
}

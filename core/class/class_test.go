package class_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/budget"
	"oldledger/core/class"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/tools/draw"
)

// components reads schemas that stand under their names.
func components(t require.TestingT, schemas string) *contract.Contract {
	text := `{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"paths":{},"components":{"schemas":` + schemas + `}}`
	f, err := source.Parse("components.json", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// TestClasses holds pairs of schemas against what is said of their classes.
func TestClasses(t *testing.T) {
	t.Parallel()
	for _, k := range []struct{ name, a, b, same string }{
		{"a reference", `{"$ref":"#/components/schemas/Berth"}`, `{"type":"object","properties":{"n":{"type":"integer"}}}`, "whole"},
		{
			"wrappers of one", `{"allOf":[{"anyOf":[{"$ref":"#/components/schemas/Berth"}]}]}`,
			`{"type":"object","properties":{"n":{"type":"integer"}}}`, "set",
		},
		{"words", `{"type":"string","description":"One."}`, `{"type":"string","title":"Other","example":"x"}`, "set"},
		{"the order of branches", `{"anyOf":[{"type":"string"},{"const":1}]}`, `{"anyOf":[{"enum":[1]},{"type":"string"}]}`, "whole"},
		{"the order of the same branches", `{"oneOf":[{"type":"string"},{"const":1}]}`, `{"oneOf":[{"const":1.0},{"type":"string"}]}`, "whole"},
		{
			"a branch twice in anyOf", `{"anyOf":[{"type":"string"},{"const":1}]}`, `{"anyOf":[{"type":"string"},{"type":"string"},{"const":1}]}`,
			"whole",
		},
		{
			"a branch twice in oneOf", `{"oneOf":[{"type":"string"},{"const":1}]}`, `{"oneOf":[{"type":"string"},{"type":"string"},{"const":1}]}`,
			"",
		},
		{"the order of required", `{"required":["a","b"]}`, `{"required":["b","a"]}`, "whole"},
		{"the order of properties", `{"properties":{"a":{},"b":{"type":"null"}}}`, `{"properties":{"b":{"type":"null"},"a":{}}}`, "whole"},
		{"one of the parts", `{"properties":{"a":{},"b":{"type":"null"}}}`, `{"properties":{"a":{},"b":{"type":"string"}}}`, ""},
		{"what is so anyway", `{"type":"array","minItems":0,"uniqueItems":false}`, `{"type":"array"}`, "whole"},
		{"what says which type is meant", `{"minItems":0}`, `{}`, ""},
		{"a direction", `{"properties":{"a":{"readOnly":true}}}`, `{"properties":{"a":{}}}`, ""},
		{
			"a direction in a wrapper", `{"properties":{"a":{"readOnly":true,"type":"string"}}}`,
			`{"properties":{"a":{"allOf":[{"readOnly":true,"type":"string"}]}}}`, "set",
		},
		{
			"a loop and the same, once unrolled", `{"properties":{"next":{"$ref":"#/components/schemas/Loop"}}}`,
			`{"$ref":"#/components/schemas/Loop"}`, "whole",
		},
		{"a loop over two", `{"$ref":"#/components/schemas/Even"}`, `{"$ref":"#/components/schemas/Loop"}`, "whole"},
		{"a loop with a difference far in", `{"$ref":"#/components/schemas/Long"}`, `{"$ref":"#/components/schemas/Loop"}`, ""},
		{
			"tags by name", `{"discriminator":{"propertyName":"kind"},"oneOf":[{"$ref":"#/components/schemas/Sail"},{"$ref":"#/components/schemas/Motor"}]}`,
			`{"discriminator":{"propertyName":"kind"},"oneOf":[{"$ref":"#/components/schemas/Dinghy"},{"$ref":"#/components/schemas/Motor"}]}`, "",
		},
		{
			"tags by a mapping", `{"discriminator":{"propertyName":"kind","mapping":{"s":"Sail","m":"Motor"}},"oneOf":[{"$ref":"#/components/schemas/Sail"},{"$ref":"#/components/schemas/Motor"}]}`,
			`{"discriminator":{"propertyName":"kind","mapping":{"m":"#/components/schemas/Motor","s":"#/components/schemas/Dinghy"}},"oneOf":[{"$ref":"#/components/schemas/Dinghy"},{"$ref":"#/components/schemas/Motor"}]}`,
			"whole",
		},
	} {
		c := components(t, `{"A":`+k.a+`,"B":`+k.b+`,
			"Berth":{"type":"object","properties":{"n":{"type":"integer"}}},
			"Loop":{"properties":{"next":{"$ref":"#/components/schemas/Loop"}}},
			"Even":{"properties":{"next":{"$ref":"#/components/schemas/Odd"}}}, "Odd":{"properties":{"next":{"$ref":"#/components/schemas/Even"}}},
			"Long":{"properties":{"next":{"$ref":"#/components/schemas/Long2"}}}, "Long2":{"properties":{"next":{"properties":{"next":{"type":"null"}}}}},
			"Sail":{"properties":{"kind":{},"area":{}}}, "Dinghy":{"properties":{"kind":{},"area":{}}}, "Motor":{"properties":{"kind":{},"power":{}}}}`)
		classes := class.New(nil, c.Roots(), nil)
		a, b := classes.Of(c.Schema("A")), classes.Of(c.Schema("B"))
		got := ""
		switch {
		case a.Whole == b.Whole:
			got = "whole"
		case a.Set == b.Set:
			got = "set"
		}
		require.Equal(t, k.same, got, k.name)
	}
}

// TestMadeLater numbers a schema that was made after the others as if it had been there.
func TestMadeLater(t *testing.T) {
	t.Parallel()
	c := components(t, `{"A":{"allOf":[{"$ref":"#/components/schemas/Loop"},{"$ref":"#/components/schemas/Text"}]},"Text":{"type":"string"},"Loop":{"items":{"$ref":"#/components/schemas/Loop"}}}`)
	classes := class.New(nil, c.Roots(), nil)
	made := &contract.Schema{Node: c.Schema("A").Node, AllOf: []*contract.Schema{
		c.Schema("Text"),
		{Node: c.Schema("A").Node, AllOf: []*contract.Schema{c.Schema("Loop")}},
	}}
	require.True(t, classes.Equal(made, c.Schema("A")))
	require.Same(t, c.Schema("A"), classes.Representative(made))
	require.False(t, classes.Equal(made, c.Schema("Loop")))
}

// TestDrawn holds drawn schemas of one class against one another: they admit the same, in both readings and all roles; and what wrapping
// and inlining make of a schema has its class.
func TestDrawn(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	rapid.Check(t, func(t *rapid.T) {
		schema := draw.Schemas().Draw(t, "schema")
		other := draw.Near(t, schema)
		wrapped := `{"allOf":[{"anyOf":[{"$ref":"#/components/schemas/A"}]}]}`
		c := components(t, fmt.Sprintf(`{"A":%s,"B":%s,"W":%s,"Loop":%s}`, schema, other, wrapped, draw.Loop))
		inlined := components(t, fmt.Sprintf(`{"A":%s,"Loop":%s}`, strings.ReplaceAll(schema, `{"$ref":"#/components/schemas/Loop"}`, draw.Loop),
			draw.Loop))
		classes := class.New(nil, append(c.Roots(), inlined.Roots()...), nil)
		require.True(t, classes.Equal(c.Schema("A"), c.Schema("W")), "a wrapper")
		require.Equal(t, classes.Of(c.Schema("A")).Whole, classes.Of(inlined.Schema("A")).Whole, "what is inlined")
		if classes.Equal(c.Schema("A"), c.Schema("B")) {
			admitTheSame(t, c.Schema("A"), c.Schema("B"))
		}
	})
}

// TestSplit puts a drawn object together in other ways, with parts that are only read among them: it stays what it was.
func TestSplit(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		x, y := draw.Schemas().Draw(t, "x"), draw.Schemas().Draw(t, "y")
		if rapid.Bool().Draw(t, "read only") {
			x = `{"readOnly":true,"allOf":[` + x + `]}`
		}
		c := components(t, fmt.Sprintf(`{"Loop":%[3]s,
			"A":{"type":"object","required":["p"],"minProperties":1,"properties":{"p":%[1]s,"q":%[2]s}},
			"B":{"allOf":[{"required":["p"]},{"properties":{"p":%[1]s}},{"allOf":[{"type":"object","minProperties":1},{"properties":{"q":%[2]s}}]}]},
			"C":{"type":"object","required":["p"],"allOf":[{"$ref":"#/components/schemas/B"}]}}`, x, y, draw.Loop))
		classes := class.New(nil, c.Roots(), nil)
		for _, other := range []string{"B", "C"} {
			require.True(t, classes.Equal(c.Schema("A"), c.Schema(other)))
			admitTheSame(t, c.Schema("A"), c.Schema(other))
		}
	})
}

func admitTheSame(t require.TestingT, x, y *contract.Schema) {
	for _, reading := range []shape.Reading{shape.Declared, shape.Exact} {
		for _, role := range []shape.Role{{}, {Request: true}, {Sends: true}, {Sends: true, Request: true}} {
			space := shape.NewSpace(reading, budget.New(context.Background(), budget.For(0))) // it knows nothing of classes
			a, b := space.Lower(x, role), space.Lower(y, role)
			require.NotEqual(t, shape.Refuted, space.Included(a, b).Answer)
			require.NotEqual(t, shape.Refuted, space.Included(b, a).Answer)
		}
	}
}

// BenchmarkClasses numbers a chain of recursive schemas, each of which says something else at its end only: the worst for refinement.
func BenchmarkClasses(b *testing.B) {
	var text strings.Builder
	const chain = 5000
	text.WriteString(`{"Last":{"type":"null"}`)
	for i := range chain {
		next := fmt.Sprintf("C%d", i+1)
		if i+1 == chain {
			next = "Last"
		}
		fmt.Fprintf(&text, `,"C%d":{"properties":{"next":{"$ref":"#/components/schemas/%s"},"first":{"$ref":"#/components/schemas/C0"}}}`, i,
			next)
	}
	c := components(b, text.String()+"}")
	for b.Loop() {
		class.New(nil, c.Roots(), nil)
	}
}

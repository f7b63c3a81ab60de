package shape_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/tools/draw"
)

// read reads schemas, written as JSON, under the names A, B, …
func read(t require.TestingT, schemas ...string) []*contract.Schema {
	var b strings.Builder
	b.WriteString(`{"openapi":"3.1.0","info":{"title":"Shapes","version":"1.0.0"},"components":{"schemas":{`)
	for i, s := range schemas {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, `"%c":%s`, 'A'+i, s)
	}
	fmt.Fprintf(&b, `,"Loop":%s}}}`, draw.Loop)
	f, err := source.Parse("shapes.json", []byte(b.String()))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c.Schemas
}

// valid asks the independent validator.
func valid(t require.TestingT, schema string, v *value.Value) bool {
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(`{"components":{"schemas":{"A":` + schema + `,"Loop":` + draw.Loop + `}}}`))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	compiler.DefaultDraft(jsonschema.Draft2020)
	require.NoError(t, compiler.AddResource("schema.json", doc))
	compiled, err := compiler.Compile("schema.json#/components/schemas/A")
	require.NoError(t, err)
	instance, err := jsonschema.UnmarshalJSON(strings.NewReader(v.String()))
	require.NoError(t, err)
	return compiled.Validate(instance) == nil
}

// TestIncluded decides pairs in the exact reading.
func TestIncluded(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		a, b string
		want shape.Answer
	}{
		{`{"type":"integer"}`, `{"type":"number"}`, shape.Proved},
		{`{"type":"number"}`, `{"type":"integer"}`, shape.Refuted},
		{`{"minimum":5}`, `{"minimum":4}`, shape.Proved},
		{`{"type":"integer","minimum":1}`, `{"type":"integer","exclusiveMinimum":0}`, shape.Proved},
		{`{"type":"number","minimum":1}`, `{"type":"number","exclusiveMinimum":0}`, shape.Proved},
		{`{"type":"number","exclusiveMinimum":0}`, `{"type":"number","minimum":1}`, shape.Refuted},
		{`{"multipleOf":6}`, `{"multipleOf":3}`, shape.Proved},
		{`{"multipleOf":3}`, `{"multipleOf":6}`, shape.Refuted},
		{`{"multipleOf":0.1}`, `{"multipleOf":0.01}`, shape.Proved},
		{`{"type":"integer","minimum":2,"maximum":3,"multipleOf":7}`, `false`, shape.Proved},
		{`{"maximum":9007199254740992}`, `{"maximum":9007199254740991}`, shape.Refuted},
		{`{"type":"string","maxLength":3}`, `{"type":"string","pattern":"^.{0,3}$"}`, shape.Refuted}, // a line end is no "."
		{`{"type":"string","pattern":"^[ab]{2}$"}`, `{"enum":["aa","ab","ba","bb"]}`, shape.Proved},
		{`{"pattern":"a"}`, `{"pattern":"a|b"}`, shape.Proved},
		{`{"pattern":"^a+$"}`, `{"pattern":"^(aa)*$"}`, shape.Refuted},
		{`{"type":"string","pattern":"\\d"}`, `{"type":"string","minLength":1}`, shape.Proved},
		{`{"const":1}`, `{"enum":[1.0,2]}`, shape.Proved},
		{`{"type":"array","items":{"type":"integer"},"minItems":1}`, `{"type":"array","contains":{"type":"integer"}}`, shape.Proved},
		{`{"type":"array","contains":{"const":1}}`, `{"type":"array","minItems":1}`, shape.Proved},
		{`{"type":"array","items":{"enum":[1,2]},"uniqueItems":true}`, `{"maxItems":2}`, shape.Proved},
		{`{"type":"array","prefixItems":[{"type":"string"}]}`, `{"type":"array","items":{"type":"string"}}`, shape.Refuted},
		{`{"required":["a","b"]}`, `{"required":["a"]}`, shape.Proved},
		{`{"type":"object","required":["a"]}`, `{"minProperties":1}`, shape.Proved},
		{`{"type":"object","minProperties":1}`, `{"required":["a"]}`, shape.Refuted},
		{`{"properties":{"a":{"type":"string"}},"additionalProperties":false}`, `{"additionalProperties":{"type":"string"}}`, shape.Proved},
		{`{"patternProperties":{"^x":{"type":"string"}}}`, `{"properties":{"xy":{"type":"string"}}}`, shape.Proved},
		{
			`{"type":"object","propertyNames":{"maxLength":2}}`, `{"type":"object","additionalProperties":true,"properties":{"abc":false}}`,
			shape.Proved,
		},
		{
			`{"dependentRequired":{"a":["b"]}}`,
			`{"anyOf":[{"type":["string","number","boolean","null","array"]},{"not":{"required":["a"]}},{"required":["b"]}]}`, shape.Proved,
		},
		{`{"if":{"type":"string"},"then":{"minLength":2},"else":false}`, `{"type":"string","minLength":2}`, shape.Proved},
		{`{"oneOf":[{"type":"integer"},{"type":"number"}]}`, `{"not":{"type":"integer"}}`, shape.Proved},
		{`{"anyOf":[{"type":"integer"},{"type":"string"}]}`, `{"type":["string","number"]}`, shape.Proved},
		{`{"allOf":[{"minimum":1},{"maximum":0}],"type":"number"}`, `false`, shape.Proved},
		{`{"type":"object","unevaluatedProperties":false,"allOf":[{"properties":{"a":true}}]}`, `{"propertyNames":{"const":"a"}}`, shape.Proved},
		{`{"pattern":"^(?=a)"}`, `{"pattern":"^(?=b)"}`, shape.Undecided},
	} {
		schemas := read(t, c.a, c.b)
		space := shape.NewSpace(shape.Exact, nil)
		v := space.Included(space.Lower(schemas[0], shape.Role{}), space.Lower(schemas[1], shape.Role{}))
		require.Equal(t, c.want, v.Answer, "%s in %s: %v %s", c.a, c.b, v.Witness, v.Reason)
		if v.Answer == shape.Refuted {
			require.True(t, valid(t, c.a, v.Witness), "%s is in %s", v.Witness, c.a)
			require.False(t, valid(t, c.b, v.Witness), "%s is not in %s", v.Witness, c.b)
		}
	}
}

// TestRecursive compares schemas that contain themselves.
func TestRecursive(t *testing.T) {
	t.Parallel()
	tree := `{"type":"object","required":["v"],"properties":{"v":{"type":"integer","maximum":%d},"next":{"$ref":"#/components/schemas/%c"}}}`
	schemas := read(t, fmt.Sprintf(tree, 5, 'A'), fmt.Sprintf(tree, 9, 'B'))
	space := shape.NewSpace(shape.Exact, nil)
	a, b := space.Lower(schemas[0], shape.Role{}), space.Lower(schemas[1], shape.Role{})
	require.Equal(t, shape.Proved, space.Included(a, b).Answer)
	require.Equal(t, shape.Refuted, space.Included(b, a).Answer)
	endless := read(t, `{"type":"object","required":["next"],"properties":{"next":{"$ref":"#/components/schemas/A"}}}`)
	require.Equal(t, shape.Proved, space.Find(space.Lower(endless[0], shape.Role{})).Answer, "no finite value is in it")
}

// TestAgainstValidator holds verdicts, samples and the evaluator against an independent validator.
func TestAgainstValidator(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		a, b := draw.Schemas().Draw(t, "a"), draw.Schemas().Draw(t, "b")
		parsed := read(t, a, b)
		space := shape.NewSpace(shape.Exact, nil)
		sa, sb := space.Lower(parsed[0], shape.Role{}), space.Lower(parsed[1], shape.Role{})
		text := draw.Values().Draw(t, "value")
		v, err := value.Parse([]byte(text))
		require.NoError(t, err)
		holds, known := space.Contains(sa, v)
		require.True(t, known)
		require.Equal(t, valid(t, a, v), holds, "%s in %s", text, a)

		verdict := space.Included(sa, sb)
		switch verdict.Answer {
		case shape.Refuted:
			require.True(t, valid(t, a, verdict.Witness), "%s is in %s", verdict.Witness, a)
			require.False(t, valid(t, b, verdict.Witness), "%s is not in %s", verdict.Witness, b)
		case shape.Proved:
			require.False(t, valid(t, a, v) && !valid(t, b, v), "%s is in %s and not in %s", text, a, b)
		}
		switch found := space.Find(sa); found.Answer {
		case shape.Refuted:
			require.True(t, valid(t, a, found.Witness))
		case shape.Proved:
			require.False(t, valid(t, a, v), "%s is in %s", text, a)
		}
	})
}

// TestLaws holds the answers against the laws of sets. An undecided answer breaks no law.
func TestLaws(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		a, b := draw.Schemas().Draw(t, "a"), draw.Schemas().Draw(t, "b")
		parsed := read(t, a, b, fmt.Sprintf(`{"allOf":[%s,%s]}`, a, b), fmt.Sprintf(`{"anyOf":[%s,%s]}`, a, b),
			fmt.Sprintf(`{"not":{"not":%s}}`, a))
		space := shape.NewSpace(shape.Exact, nil)
		lower := func(i int) shape.Shape { return space.Lower(parsed[i], shape.Role{}) }
		again := read(t, a)
		for _, law := range [][2]shape.Shape{
			{lower(0), space.Lower(again[0], shape.Role{})}, {lower(2), lower(0)}, {lower(0), lower(3)}, {lower(0), lower(4)}, {lower(4), lower(0)},
		} {
			v := space.Included(law[0], law[1])
			require.NotEqual(t, shape.Refuted, v.Answer, "%s", v.Witness)
		}
	})
}

func TestSample(t *testing.T) {
	t.Parallel()
	for schema, want := range map[string]string{
		`{"type":"string","examples":["N-14"]}`:                                                                         `"N-14"`,
		`{"type":"string","format":"date"}`:                                                                             `"2026-03-01"`,
		`{"type":"object","properties":{"a":{"type":"integer","minimum":3},"b":{"type":"boolean"}}}`:                    `{"a":3,"b":true}`,
		`{"type":"array","items":{"enum":["x"]}}`:                                                                       `["x"]`,
		`{"type":"object","required":["a"],"properties":{"a":{"type":"string","examples":[7]}}}`:                        `{"a":"text"}`,
		`{"allOf":[{"type":"object","properties":{"a":{"const":1}}},{"type":"object","properties":{"b":{"const":2}}}]}`: `{"a":1,"b":2}`,
		`{"type":"object","properties":{"a":{"type":"string","readOnly":true},"b":{"const":2}}}`:                        `{"b":2}`,
	} {
		space := shape.NewSpace(shape.Declared, nil)
		v, _ := space.Sample(read(t, schema)[0], shape.Role{Sends: true, Request: true})
		require.NotNil(t, v, schema)
		require.Equal(t, want, v.String(), schema)
	}
}

// FuzzLanguage looks for patterns that make the automata disagree with the standard library's matcher, or hang.
func FuzzLanguage(f *testing.F) {
	for _, p := range []string{`^a+$`, `[^a-c]{2,3}|\d`, `(?:x|y)*z`, `\u0041\/`, `^$`, `.`} {
		f.Add(p)
	}
	f.Fuzz(func(t *testing.T, pattern string) {
		if len(pattern) > 60 || strings.ContainsAny(pattern, "\"\\\x00\n") {
			return
		}
		schema := fmt.Sprintf(`{"type":"string","pattern":%s}`, value.Str(pattern))
		file, err := source.Parse("p.json", []byte(`{"openapi":"3.1.0","info":{"title":"P","version":"1"},"components":{"schemas":{"A":`+schema+
			`}}}`))
		if err != nil {
			return
		}
		c, err := openapi.Read(file)
		require.NoError(t, err)
		space := shape.NewSpace(shape.Exact, nil)
		a := space.Lower(c.Schemas[0], shape.Role{})
		if v := space.Find(a); v.Answer == shape.Refuted {
			holds, known := space.Contains(a, v.Witness)
			require.True(t, known && holds, "%q does not match %s", v.Witness, pattern)
		}
	})
}

// FuzzIncluded asks of two schemas whether one holds the other: no panic, an end, and witnesses that the evaluator confirms.
func FuzzIncluded(f *testing.F) {
	for _, s := range []string{
		`{"type":"object","properties":{"a":{"type":"integer"}}}`, `{"oneOf":[{"minimum":1},{"maxLength":2}]}`,
		`{"not":{"contains":{"const":1}}}`, `{"$ref":"#/components/schemas/B"}`,
	} {
		f.Add([]byte(s), []byte(`{"type":"array","uniqueItems":true}`))
	}
	f.Fuzz(func(t *testing.T, a, b []byte) {
		text := append(append(append([]byte(`{"openapi":"3.1.0","info":{"title":"P","version":"1"},"components":{"schemas":{"A":`), a...),
			[]byte(`,"B":`)...), append(b, []byte(`}}}`)...)...)
		file, err := source.Parse("p.json", text)
		if err != nil {
			return
		}
		c, err := openapi.Read(file)
		if err != nil || len(c.Schemas) != 2 {
			return
		}
		for _, reading := range []shape.Reading{shape.Exact, shape.Declared} {
			space := shape.NewSpace(reading, nil)
			x, y := space.Lower(c.Schemas[0], shape.Role{Sends: true, Request: true}), space.Lower(c.Schemas[1], shape.Role{Request: true})
			if v := space.Included(x, y); v.Answer == shape.Refuted {
				in, _ := space.Contains(x, v.Witness)
				out, _ := space.Contains(y, v.Witness)
				require.True(t, in && !out, "%s", v.Witness)
			}
		}
	})
}

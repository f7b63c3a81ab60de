// Package draw makes up small schemas and values for property tests.
package draw

import (
	"fmt"
	"strings"

	"pgregory.net/rapid"
)

// leaves are schemas without parts. They touch one another often.
var leaves = []string{
	`true`, `false`, `{"type":"string"}`, `{"type":"integer"}`, `{"type":"number"}`, `{"type":"boolean"}`, `{"type":"null"}`,
	`{"type":"object"}`, `{"type":"array"}`,
	`{"type":["string","null"]}`, `{"enum":["a","b",1]}`, `{"const":2}`, `{"const":{"p":1}}`, `{"enum":[[],["a"],null]}`,
	`{"minimum":1}`, `{"exclusiveMinimum":1}`, `{"maximum":3,"type":"integer"}`, `{"multipleOf":2}`,
	`{"type":"number","multipleOf":0.5,"maximum":2}`,
	`{"minimum":9007199254740992,"type":"integer"}`, `{"exclusiveMinimum":9007199254740992,"type":"integer"}`,
	`{"type":"integer","format":"int32"}`,
	`{"maxLength":1}`, `{"minLength":2,"type":"string"}`, `{"pattern":"^a*$"}`, `{"pattern":"b"}`,
	`{"type":"string","pattern":"^[ab]{1,3}$","maxLength":2}`,
	`{"type":"string","format":"date"}`, `{"type":"string","format":"uuid"}`, `{"pattern":"^\\p{Lu}"}`,
	`{"required":["p"]}`, `{"maxItems":1}`, `{"minItems":1,"type":"array"}`, `{"uniqueItems":true,"type":"array"}`, `{"minProperties":1}`,
	`{"type":"object","maxProperties":1}`,
	`{"dependentRequired":{"p":["q"]}}`, `{"propertyNames":{"maxLength":1}}`,
}

// forms are schemas with parts, one for each %s.
var forms = []string{
	`{"allOf":[%s,%s]}`, `{"anyOf":[%s,%s]}`, `{"oneOf":[%s,%s]}`, `{"oneOf":[%s,%s,%s]}`, `{"not":%s}`, `{"if":%s,"then":%s,"else":%s}`,
	`{"type":"array","items":%s}`, `{"type":"array","contains":%s}`, `{"type":"array","contains":%s,"minContains":2,"maxContains":3}`,
	`{"type":"array","prefixItems":[%s],"items":%s}`, `{"type":"array","prefixItems":[%s,%s]}`, `{"items":%s,"uniqueItems":true,"minItems":2}`,
	`{"type":"object","properties":{"p":%s,"q":%s}}`, `{"type":"object","required":["p"],"properties":{"p":%s},"additionalProperties":%s}`,
	`{"type":"object","properties":{"p":%s},"additionalProperties":false}`, `{"patternProperties":{"^p":%s}}`,
	`{"patternProperties":{"^p":%s},"additionalProperties":%s}`,
	`{"dependentSchemas":{"p":%s}}`, `{"propertyNames":%s}`,
	`{"anyOf":[{"properties":{"p":%s}},%s],"unevaluatedProperties":%s}`,
	`{"allOf":[{"properties":{"p":%s}}],"properties":{"q":%s},"unevaluatedProperties":false}`,
	`{"oneOf":[{"required":["p"],"properties":{"p":%s}},{"required":["q"],"properties":{"q":%s}}],"unevaluatedProperties":false}`,
	`{"if":{"required":["p"]},"then":{"properties":{"p":%s}},"else":{"properties":{"q":%s}},"unevaluatedProperties":%s}`,
	`{"anyOf":[{"prefixItems":[%s]},%s],"unevaluatedItems":%s}`, `{"contains":%s,"unevaluatedItems":%s}`,
	`{"allOf":[%s]}`, `{"anyOf":[%s]}`, `{"oneOf":[{"allOf":[%s]}]}`, `{"type":"array","contains":%s,"minContains":2.0}`,
	`{"type":"array","prefixItems":[{"type":"string"}],"contains":%s,"minContains":1.0}`,
	`{"oneOf":[{"type":"object","required":["k"],"properties":{"k":{"const":"x"},"p":%s}},{"type":"object","required":["k"],"properties":{"k":{"const":"y"},"q":%s}}]}`,
	`{"anyOf":[{"type":"object","required":["k"],"properties":{"k":{"enum":["x","z"]},"p":%s},"additionalProperties":false},{"type":"object","required":["k"],"properties":{"k":{"const":"y"},"q":%s}},{"type":"null"}]}`,
	`{"allOf":[{"type":"object","properties":{"p":%s}}],"properties":{"p":{},"q":%s},"additionalProperties":false}`,
	`{"allOf":[{"type":"object","required":["p"],"properties":{"p":%s}},{"properties":{"q":%s}}],"unevaluatedProperties":false}`,
	`{"type":"object","properties":{"p":%s,"r":{"$ref":"#/components/schemas/Loop"}}}`, `{"allOf":[{"$ref":"#/components/schemas/Loop"},%s]}`,
}

// Loop is a component that contains itself, to which drawn schemas refer.
const Loop = `{"type":"object","properties":{"p":{"type":"integer"},"r":{"$ref":"#/components/schemas/Loop"}}}`

// Schemas draws small schemas of OpenAPI 3.1, written as JSON. They may refer to the component Loop.
func Schemas() *rapid.Generator[string] {
	leaf := rapid.SampledFrom(leaves)
	var gen *rapid.Generator[string]
	gen = rapid.OneOf(leaf, leaf, rapid.Custom(func(t *rapid.T) string {
		if rapid.IntRange(0, 30).Draw(t, "many") == 30 {
			return tagged(t)
		}
		form := rapid.SampledFrom(forms).Draw(t, "form")
		parts := make([]any, strings.Count(form, "%s"))
		for i := range parts {
			parts[i] = rapid.Deferred(func() *rapid.Generator[string] { return gen }).Draw(t, "part")
		}
		return fmt.Sprintf(form, parts...)
	}))
	return gen
}

// tags are the ways in which authors tell alternatives apart: %[1]d is the number of the alternative, %[2]s a schema of its own. The two
// before the last have no tag, but a property that all others refuse; the last has its tag further in.
var tags = []string{
	`{"type":"object","required":["k"],"properties":{"k":{"const":"k%[1]d"},"p":%[2]s}}`,
	`{"allOf":[{"type":"object","required":["id","k"],"properties":{"id":{"type":"string"},"k":{"type":"string"}}},{"type":"object","properties":{"k":{"const":"k%[1]d"},"p":%[2]s}}]}`,
	`{"type":"object","required":["k"],"allOf":[{"properties":{"k":{"enum":["k%[1]d"]}}}],"properties":{"p":%[2]s}}`,
	`{"type":"object","required":["k"],"properties":{"k":{"allOf":[{"type":"string"}],"const":"k%[1]d"},"p":%[2]s},"additionalProperties":false}`,
	`{"type":"object","required":["o%[1]d"],"properties":{"o%[1]d":{"type":"string"},"p":%[2]s},"additionalProperties":false}`,
	`{"type":"object","minProperties":1,"maxProperties":1,"properties":{"o%[1]d":%[2]s},"required":["o%[1]d"],"additionalProperties":false}`,
	`{"type":"object","required":["h"],"properties":{"h":{"type":"object","required":["k"],"properties":{"k":{"const":"k%[1]d"}}},"p":%[2]s}}`,
}

// Tagged draws unions of up to forty alternatives that are told apart.
func Tagged() *rapid.Generator[string] { return rapid.Custom(tagged) }

// tagged is a union of up to forty alternatives that are told apart, all in one way; perhaps with what they have in common beside it.
func tagged(t *rapid.T) string {
	alternatives := make([]string, rapid.IntRange(8, 40).Draw(t, "alternatives"))
	way := rapid.SampledFrom(tags).Draw(t, "way")
	for i := range alternatives {
		alternatives[i] = fmt.Sprintf(way, i, rapid.SampledFrom(leaves).Draw(t, "part"))
	}
	union := `"oneOf":[` + strings.Join(alternatives, ",") + `]`
	switch rapid.IntRange(0, 5).Draw(t, "beside") {
	case 0:
		return `{"type":"object","properties":{"note":{"type":"string"}},` + union + `}`
	case 1:
		return `{"anyOf":[{` + union + `},{"type":"null"}]}`
	}
	return `{` + union + `}`
}

// Values draws values, written as JSON, that are often in small schemas.
func Values() *rapid.Generator[string] {
	leaf := rapid.SampledFrom([]string{
		`null`, `true`, `false`, `0`, `1`, `2`, `3`, `1.5`, `-1`, `""`, `"a"`, `"b"`, `"aa"`, `"ab"`, `{}`,
		`[]`, `9007199254740993`, `"2026-03-01"`, `"A"`,
	})
	return rapid.OneOf(leaf, rapid.Custom(func(t *rapid.T) string {
		x, y := leaf.Draw(t, "x"), leaf.Draw(t, "y")
		return fmt.Sprintf(rapid.SampledFrom([]string{
			`[%s]`, `{"p":%s}`, `{"q":%s}`, `{"px":%s}`, `{"p":%s,"q":` + y + `}`, `[%s,` + y + `]`,
			`[1,%s,` + y + `]`, `{"r":{"p":%s}}`, `{"p":%s,"r":` + y + `}`, `{"p":{"p":%s}}`,
		}).Draw(t, "form"), x)
	}))
}

// Around is a description that has a schema wherever one may stand: what clients send and get back, and what the API calls; in place or as
// a component.
func Around(schema string, component bool) string {
	inPlace, shared := schema, "true"
	if component {
		inPlace, shared = `{"$ref":"#/components/schemas/Shared"}`, schema
	}
	return fmt.Sprintf(`{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"components":{"schemas":{"Loop":%[3]s,"Shared":%[2]s}},
		"paths":{"/a":{"post":{"requestBody":{"content":{"application/json":{"schema":%[1]s}}},"responses":{"200":{"description":"A.","content":{"application/json":{"schema":%[1]s}}}}}}},
		"webhooks":{"w":{"post":{"requestBody":{"content":{"application/json":{"schema":%[1]s}}},"responses":{"204":{"description":"B."}}}}}}`, inPlace, shared, Loop)
}

// Near draws a schema that is another one with a small difference, or another altogether.
func Near(t *rapid.T, schema string) string {
	if rapid.IntRange(0, 3).Draw(t, "far") == 0 {
		return Schemas().Draw(t, "other")
	}
	return Edited(t, schema)
}

// Edited draws a schema that is another one with up to three edits.
func Edited(t *rapid.T, schema string) string {
	changes := [][2]string{
		{`"string"`, `"integer"`},
		{`"integer"`, `"number"`},
		{`"number"`, `"integer"`},
		{`:1}`, `:2}`},
		{`:2}`, `:1}`},
		{`"p"`, `"pq"`},
		{`"required":["p"],`, ``},
		{`anyOf`, `oneOf`},
		{`oneOf`, `anyOf`},
		{`"^a*$"`, `"^a+$"`},
		{`["a","b",1]`, `["a","b"]`},
		{`["a","b"]`, `["a","b",1]`},
		{`true`, `false`},
		{`"additionalProperties":`, `"x-gone":`},
		{`"unevaluatedProperties":`, `"additionalProperties":`},
		{`"unevaluatedItems":`, `"x-gone":`},
		{`"minContains":2`, `"minContains":1`},
		{`"uniqueItems":true`, `"maxItems":5`},
		{`"const":"y"`, `"const":"w"`},
		{`"k3"`, `"k99"`},
		{`"o3"`, `"o99"`},
		{`["o3"]`, `[]`},
		{`"required":["k"],`, ``},
		{`2.0`, `1.0`},
		{`"k"`, `"kind"`},
		{`992`, `993`},
		{`"date"`, `"date-time"`},
		{`"prefixItems":[`, `"prefixItems":[{"type":"string"},`},
		{`dependentRequired`, `x-gone`},
	}
	for range rapid.IntRange(1, 3).Draw(t, "changes") { // several at once: one hides another, or not
		c := rapid.SampledFrom(changes).Draw(t, "change")
		schema = strings.Replace(schema, c[0], c[1], 1)
	}
	return schema
}

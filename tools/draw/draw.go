// Package draw makes up small schemas and values for property tests.
package draw

import (
	"fmt"

	"pgregory.net/rapid"
)

// Schemas draws small schemas, written as JSON, that touch one another often.
func Schemas() *rapid.Generator[string] {
	var gen *rapid.Generator[string]
	leaf := rapid.SampledFrom([]string{
		`true`, `false`, `{"type":"string"}`, `{"type":"integer"}`, `{"type":"number"}`, `{"type":"boolean"}`, `{"type":"null"}`, `{"type":"object"}`, `{"type":"array"}`,
		`{"type":["string","null"]}`, `{"enum":["a","b",1]}`, `{"const":2}`, `{"minimum":1}`, `{"exclusiveMinimum":1}`, `{"maximum":3,"type":"integer"}`, `{"multipleOf":2}`,
		`{"maxLength":1}`, `{"minLength":2,"type":"string"}`, `{"pattern":"^a*$"}`, `{"pattern":"b"}`, `{"required":["p"]}`, `{"maxItems":1}`, `{"minItems":1,"type":"array"}`, `{"minProperties":1}`,
	})
	gen = rapid.OneOf(leaf, leaf, rapid.Custom(func(t *rapid.T) string {
		sub := func() string { return rapid.Deferred(func() *rapid.Generator[string] { return gen }).Draw(t, "sub") }
		switch rapid.IntRange(0, 9).Draw(t, "form") {
		case 0:
			return fmt.Sprintf(`{"allOf":[%s,%s]}`, sub(), sub())
		case 1:
			return fmt.Sprintf(`{"anyOf":[%s,%s]}`, sub(), sub())
		case 2:
			return fmt.Sprintf(`{"oneOf":[%s,%s]}`, sub(), sub())
		case 3:
			return fmt.Sprintf(`{"not":%s}`, sub())
		case 4:
			return fmt.Sprintf(`{"type":"array","items":%s}`, sub())
		case 5:
			return fmt.Sprintf(`{"type":"array","contains":%s}`, sub())
		case 6:
			return fmt.Sprintf(`{"type":"object","properties":{"p":%s,"q":%s}}`, sub(), sub())
		case 7:
			return fmt.Sprintf(`{"type":"object","required":["p"],"properties":{"p":%s},"additionalProperties":%s}`, sub(), sub())
		case 8:
			return fmt.Sprintf(`{"patternProperties":{"^p":%s}}`, sub())
		}
		return fmt.Sprintf(`{"if":%s,"then":%s,"else":%s}`, sub(), sub(), sub())
	}))
	return gen
}

// Values draws values, written as JSON, that are often in small schemas.
func Values() *rapid.Generator[string] {
	leaf := rapid.SampledFrom([]string{`null`, `true`, `false`, `0`, `1`, `2`, `3`, `1.5`, `-1`, `""`, `"a"`, `"b"`, `"aa"`, `"ab"`, `{}`, `[]`})
	return rapid.OneOf(leaf, rapid.Custom(func(t *rapid.T) string {
		x, y := leaf.Draw(t, "x"), leaf.Draw(t, "y")
		return fmt.Sprintf(rapid.SampledFrom([]string{`[%s]`, `{"p":%s}`, `{"q":%s}`, `{"px":%s}`, `{"p":%s,"q":` + y + `}`, `[%s,` + y + `]`}).Draw(t, "form"), x)
	}))
}

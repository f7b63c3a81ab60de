package shape_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/shape"
	"oldledger/core/value"
)

// TestFormats holds each well-known format against values in it and near it, and finds a value of each.
func TestFormats(t *testing.T) {
	t.Parallel()
	for format, c := range map[string]struct{ in, out []string }{
		"date": {[]string{"2026-03-01", "2024-02-29"}, []string{
			"2026-02-30", "2025-02-29", "26-03-01", "2026-3-1", "2026-03-01T00:00:00Z",
			"",
		}},
		"date-time": {
			[]string{"2026-03-01T09:30:00Z", "2026-03-01t09:30:00.123z", "2026-03-01T09:30:00+05:30", "2016-12-31T23:59:60Z"},
			[]string{"2026-03-01 09:30:00Z", "2026-03-01T24:00:00Z", "2026-03-01T09:30:00", "2026-02-30T09:30:00Z", "2026-03-01T09:30:60Z"},
		},
		"time": {[]string{"09:30:00Z", "23:59:59.5-01:00"}, []string{"9:30:00Z", "09:30Z", "25:00:00Z"}},
		"uuid": {
			[]string{"6f1c0e52-8d3b-4a57-9e21-0b7c5d94f2a8", "6F1C0E52-8D3B-4A57-9E21-0B7C5D94F2A8"},
			[]string{"6f1c0e528d3b4a579e210b7c5d94f2a8", "6f1c0e52-8d3b-4a57-9e21-0b7c5d94f2a", "g"},
		},
		"ipv4":     {[]string{"192.0.2.1", "0.0.0.0"}, []string{"192.0.2.256", "192.0.2", "01.2.3.4"}},
		"ipv6":     {[]string{"2001:db8::1", "::", "::ffff:192.0.2.1"}, []string{"2001:db8", "1::2::3", "fe80::1%eth0"}},
		"email":    {[]string{"quay@saltmere.example"}, []string{"quay", "@", "Quay <quay@saltmere.example>"}},
		"uri":      {[]string{"https://saltmere.example/a?b#c", "urn:a:b"}, []string{"/a", "saltmere.example", "https://a b"}},
		"hostname": {[]string{"quay.saltmere.example", "a"}, []string{"-a", "a..b", "a_b", ""}},
		"byte":     {[]string{"", "U2FsdG1lcmU="}, []string{"U2F", "ä", "a==="}},
		"duration": {[]string{"P2D", "PT2H30M", "P1Y2M3DT4H5M6S", "P3W"}, []string{"2D", "P2", "PT2D"}},
	} {
		schema := fmt.Sprintf(`{"type":"string","format":%q}`, format)
		space := shape.NewSpace(shape.Declared, nil)
		set := space.Lower(read(t, schema)[0], shape.Role{})
		for _, text := range c.in {
			holds, known := space.Contains(set, value.Str(text))
			require.True(t, known && holds, "%q is a %s", text, format)
		}
		for _, text := range c.out {
			holds, known := space.Contains(set, value.Str(text))
			require.True(t, known && !holds, "%q is no %s", text, format)
		}
		require.Equal(t, shape.Refuted, space.Find(set).Answer, "a %s is found", format)
		require.True(t, shape.KnownFormat(format))
		exact := shape.NewSpace(shape.Exact, nil)
		holds, _ := exact.Contains(exact.Lower(read(t, schema)[0], shape.Role{}), value.Str("anything"))
		require.True(t, holds, "in the exact reading formats are annotations")
	}
	require.True(t, shape.KnownFormat("int32"))
	require.True(t, shape.KnownFormat("password"))
	require.False(t, shape.KnownFormat("berth-id"))
}

// TestFormatsCompare decides between formats, patterns and limits in the declared reading.
func TestFormatsCompare(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		a, b string
		want shape.Answer
	}{
		{`{"type":"string","format":"date"}`, `{"type":"string","pattern":"^\\d{4}-\\d{2}-\\d{2}$"}`, shape.Proved},
		{`{"type":"string","pattern":"^\\d{4}-\\d{2}-\\d{2}$"}`, `{"type":"string","format":"date"}`, shape.Refuted},
		{`{"type":"string","format":"date"}`, `{"type":"string","maxLength":10}`, shape.Proved},
		{`{"type":"string","format":"date"}`, `{"type":"string","maxLength":9}`, shape.Refuted},
		{`{"type":"string","format":"uuid"}`, `{"type":"string","minLength":36,"maxLength":36}`, shape.Proved},
		{`{"type":"string","format":"date"}`, `{"type":"string","format":"date-time"}`, shape.Refuted},
		{`{"type":"string","format":"date"}`, `{"type":"string","format":"date"}`, shape.Proved},
		{`{"type":"string"}`, `{"type":"string","format":"email"}`, shape.Refuted},
		{`{"enum":["2026-03-01"]}`, `{"type":"string","format":"date"}`, shape.Proved},
		{`{"enum":["2026-02-30"]}`, `{"type":"string","format":"date"}`, shape.Refuted},
		{`{"type":"integer","format":"int32"}`, `{"type":"integer","format":"int64"}`, shape.Proved},
		{`{"type":"integer","format":"int64"}`, `{"type":"integer","format":"int32"}`, shape.Refuted},
		{`{"type":"integer","format":"int32"}`, `{"type":"integer","maximum":2147483647,"minimum":-2147483648}`, shape.Proved},
		{`{"type":"integer","maximum":2147483648}`, `{"type":"integer","format":"int32"}`, shape.Refuted},
		{`{"type":"string","format":"berth-id"}`, `{"type":"string","format":"berth-name"}`, shape.Proved},
	} {
		schemas := read(t, c.a, c.b)
		space := shape.NewSpace(shape.Declared, nil)
		v := space.Included(space.Lower(schemas[0], shape.Role{Sends: true}), space.Lower(schemas[1], shape.Role{}))
		require.Equal(t, c.want, v.Answer, "%s in %s: %v %s", c.a, c.b, v.Witness, v.Reason)
	}
}

// TestPatterns compares patterns as automata.
func TestPatterns(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		a, b string
		want shape.Answer
	}{
		{`^[a-c]+$`, `^[a-z]+$`, shape.Proved},
		{`^[a-z]+$`, `^[a-c]+$`, shape.Refuted},
		{`^(ab)*$`, `^(a|b)*$`, shape.Proved},
		{`abc`, `b`, shape.Proved},
		{`b`, `abc`, shape.Refuted},
		{`^a`, `a`, shape.Proved},
		{`a$`, `^a`, shape.Refuted},
		{`^\d{3}$`, `^[0-9]{3}$`, shape.Proved},
		{`^\w+$`, `^[A-Za-z0-9_]+$`, shape.Proved},
		{`^\s$`, `^[ \t\n\v\f\r\u00a0\ufeff\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000]$`, shape.Proved},
		{`^\S$`, `^.$`, shape.Proved},
		{`^.$`, `^[^\n]$`, shape.Proved},
		{`^[^\n]$`, `^.$`, shape.Refuted}, // a carriage return is no "." either
		{`^\u0041$`, `^A$`, shape.Proved},
		{`^\p{Lu}$`, `^\p{L}$`, shape.Proved},
		{`^a\/b$`, `^a/b$`, shape.Proved},
		{`^a\-b$`, `^a-b$`, shape.Proved},
		{`^[a\-c]$`, `^[ac-]$`, shape.Proved},
		{`^[[]$`, `^\[$`, shape.Proved},
		{`^(?<y>\d+)$`, `^\d+$`, shape.Proved},
		{`^(a{1,30}b){1,30}$`, `^[ab]+$`, shape.Proved},
		{`(a|b)*a(a|b){12}`, `b`, shape.Refuted},
		{`^(a)\1$`, `^aa$`, shape.Undecided},
		{`^\bA`, `^A`, shape.Undecided},
		{`^(?!b)`, `^(?!b)`, shape.Proved}, // the same pattern is the same set, whatever it means
		{`[`, `a`, shape.Undecided},
	} {
		schemas := read(t, fmt.Sprintf(`{"type":"string","pattern":%s}`, value.Str(c.a)),
			fmt.Sprintf(`{"type":"string","pattern":%s}`, value.Str(c.b)))
		space := shape.NewSpace(shape.Exact, nil)
		v := space.Included(space.Lower(schemas[0], shape.Role{}), space.Lower(schemas[1], shape.Role{}))
		require.Equal(t, c.want, v.Answer, "%s in %s: %v %s", c.a, c.b, v.Witness, v.Reason)
		if v.Answer == shape.Undecided {
			require.NotEmpty(t, v.Reason)
		}
	}
}

// TestTextOnTheWire compares parameters by their text.
func TestTextOnTheWire(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		a, b    string
		want    shape.Answer
		witness string
	}{
		{`{"type":"integer"}`, `{"type":"string"}`, shape.Proved, ""},
		{`{"type":"string"}`, `{"type":"integer"}`, shape.Refuted, `"a"`},
		{`{"type":"boolean"}`, `{"type":"string","enum":["true","false"]}`, shape.Proved, ""},
		{`{"type":"string","enum":["true"]}`, `{"type":"boolean"}`, shape.Proved, ""},
		{`{"type":"number"}`, `{"type":"integer"}`, shape.Refuted, `0.1`},
		{`{"type":"integer","minimum":1,"maximum":5}`, `{"type":"integer","minimum":1,"maximum":4}`, shape.Refuted, `5`},
		{`{"type":"integer","minimum":1,"maximum":4}`, `{"type":"integer","minimum":1,"maximum":5}`, shape.Proved, ""},
		{`{"enum":[1,2]}`, `{"type":"string","pattern":"^[12]$"}`, shape.Proved, ""},
		{`{"type":"string","pattern":"^[0-9]$"}`, `{"type":"integer"}`, shape.Proved, ""},
		{`{"type":"string","maxLength":3}`, `{"type":"string","maxLength":2}`, shape.Refuted, `"aaa"`},
		{`{"type":"array","items":{"type":"integer"}}`, `{"type":"array","items":{"type":"string"}}`, shape.Proved, ""},
		{`{"type":"array","items":{"type":"string"}}`, `{"type":"array","items":{"type":"integer"}}`, shape.Refuted, `["a"]`},
		{
			`{"type":"object","properties":{"n":{"type":"integer"}}}`, `{"type":"object","properties":{"n":{"type":"integer","maximum":3}}}`,
			shape.Refuted, `{"n":4}`,
		},
		{`{}`, `{"type":"string"}`, shape.Proved, ""},
	} {
		schemas := read(t, c.a, c.b)
		space := shape.NewSpace(shape.Declared, nil)
		role := shape.Role{Request: true, Text: true}
		sends := role
		sends.Sends = true
		v := space.Included(space.Lower(schemas[0], sends), space.Lower(schemas[1], role))
		require.Equal(t, c.want, v.Answer, "%s in %s: %v %s", c.a, c.b, v.Witness, v.Reason)
		if c.want == shape.Refuted {
			require.Equal(t, c.witness, shape.Decode(schemas[0], v.Witness).String())
		}
	}
}

// TestDeclared takes senders at their word.
func TestDeclared(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name, a, b string
		request    bool
		want       shape.Answer
	}{
		{
			"what is not declared is not sent", `{"type":"object","properties":{"a":{"type":"string"}}}`,
			`{"type":"object","properties":{"a":{"type":"string"},"b":{"type":"integer"}}}`, true, shape.Proved,
		},
		{
			"an explicit true is sent", `{"type":"object","additionalProperties":true}`, `{"type":"object","properties":{"b":{"type":"integer"}}}`,
			true, shape.Refuted,
		},
		{
			"a pattern is sent", `{"type":"object","patternProperties":{"^b":{}}}`, `{"type":"object","properties":{"b":{"type":"integer"}}}`, true,
			shape.Refuted,
		},
		{
			"branches declare together",
			`{"allOf":[{"type":"object","properties":{"a":{}}},{"type":"object","properties":{"b":{"type":"integer"}}}]}`,
			`{"type":"object","properties":{"b":{"type":"integer"},"c":{"type":"integer"}}}`, true, shape.Proved,
		},
		{
			"a name that is only required is declared", `{"type":"object","required":["b"]}`,
			`{"type":"object","properties":{"b":{"type":"integer"}}}`, true, shape.Refuted,
		},
		{
			"readOnly is not sent in requests", `{"type":"object","properties":{"id":{"type":"string","readOnly":true}}}`,
			`{"type":"object","additionalProperties":false}`, true, shape.Proved,
		},
		{
			"readOnly is sent in responses", `{"type":"object","properties":{"id":{"type":"string","readOnly":true}}}`,
			`{"type":"object","additionalProperties":false}`, false, shape.Refuted,
		},
		{
			"readOnly and required is no matter in requests", `{"type":"object","properties":{}}`,
			`{"type":"object","required":["id"],"properties":{"id":{"type":"string","readOnly":true}}}`, true, shape.Proved,
		},
		{
			"writeOnly and required is no matter in responses", `{"type":"object","properties":{}}`,
			`{"type":"object","required":["pin"],"properties":{"pin":{"type":"string","writeOnly":true}}}`, false, shape.Proved,
		},
		{"object keywords mean an object", `{"properties":{"a":{"type":"string"}}}`, `{"type":"object"}`, true, shape.Proved},
		{"array keywords mean an array", `{"items":{"type":"string"}}`, `{"type":"array"}`, true, shape.Proved},
		{
			"items beyond the prefix are not sent", `{"type":"array","prefixItems":[{"type":"string"}]}`,
			`{"type":"array","items":{"type":"string"}}`, true, shape.Proved,
		},
		{
			"nested objects are taken at their word, too", `{"type":"object","properties":{"o":{"type":"object","properties":{"a":{}}}}}`,
			`{"type":"object","properties":{"o":{"type":"object","properties":{"b":{"type":"integer"}}}}}`, true, shape.Proved,
		},
	} {
		schemas := read(t, c.a, c.b)
		space := shape.NewSpace(shape.Declared, nil)
		v := space.Included(space.Lower(schemas[0], shape.Role{Sends: true, Request: c.request}),
			space.Lower(schemas[1], shape.Role{Request: c.request}))
		require.Equal(t, c.want, v.Answer, "%s: %v %s", c.name, v.Witness, v.Reason)
	}
}

// TestBudget ends in an answer, whatever is asked.
func TestBudget(t *testing.T) {
	t.Parallel()
	wide := `{"allOf":[`
	for i := range 14 {
		if i > 0 {
			wide += ","
		}
		wide += fmt.Sprintf(`{"oneOf":[{"required":["a%[1]d"]},{"required":["b%[1]d"]},{"required":["c%[1]d"]}]}`, i)
	}
	wide += `,{"type":"object","maxProperties":13}]}`
	schemas := read(t, wide, `{"type":"object","maxProperties":3}`)
	space := shape.NewSpace(shape.Exact, nil)
	v := space.Included(space.Lower(schemas[0], shape.Role{}), space.Lower(schemas[1], shape.Role{}))
	require.NotEqual(t, shape.Refuted, v.Answer, "14 alternatives need 14 properties")
	for _, c := range []string{
		`{"type":"string","minLength":5000,"pattern":"^(a|b)*$"}`, `{"type":"array","minItems":100000}`,
		`{"type":"object","minProperties":100000}`,
		`{"type":"array","contains":{"type":"integer"},"minContains":50}`,
		`{"type":"integer","multipleOf":0.0000001,"exclusiveMinimum":0,"exclusiveMaximum":0.00000001}`,
	} {
		space := shape.NewSpace(shape.Exact, nil)
		schema := read(t, c)[0]
		v := space.Find(space.Lower(schema, shape.Role{}))
		if v.Answer == shape.Refuted {
			require.True(t, valid(t, c, v.Witness))
		}
	}
}

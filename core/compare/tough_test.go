package compare_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// withSchema reads a description whose one request body is the schema.
func withSchema(schema, more string) (*contract.Contract, error) {
	text := `{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"paths":{"/a":{"post":{"requestBody":{"content":{"application/json":{"schema":` +
		schema +
		`}}},"responses":{"200":{"description":"A."}}}}}` + more + `}`
	f, err := source.Parse("tough.json", []byte(text))
	if err != nil {
		return nil, err
	}
	return openapi.Read(f)
}

// TestTough compares what is made to hurt: there is an answer or a clear error, never a crash, and an end.
func TestTough(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	listed := func(n, from int) string {
		var b strings.Builder
		b.WriteString(`{"enum":[`)
		for i := range n {
			if i > 0 {
				b.WriteByte(',')
			}
			fmt.Fprintf(&b, `"v%d"`, from+i)
		}
		b.WriteString(`]}`)
		return b.String()
	}
	union := func(keyword string, n int) string {
		parts := make([]string, n)
		for i := range parts {
			parts[i] = fmt.Sprintf(`{"properties":{"p%d":{"maxLength":%d}},"minProperties":%d}`, i, i+1, i)
		}
		return `{"` + keyword + `":[` + strings.Join(parts, ",") + `]}`
	}
	// Two of each, and two of each in these: the smallest message has a thousand million parts.
	twos := func(leaf string) string {
		var b strings.Builder
		for i := range 30 {
			fmt.Fprintf(&b, `"%s%d":{"type":"object","required":["x","y"],"properties":{"x":{"$ref":"#/components/schemas/%s%d"},"y":{"$ref":"#/components/schemas/%s%d"}}},`,
				leaf, i, leaf, i+1, leaf, i+1)
		}
		fmt.Fprintf(&b, `"%s30":{"type":"%s"}`, leaf, leaf)
		return b.String()
	}
	for name, c := range map[string]struct {
		old, now, more string
		fails          string
		want           compare.Grade
	}{
		"a million listed values": {listed(1_000_000, 0), listed(1_000_000, 5), "", "", compare.Breaking},
		"ten thousand levels": {
			strings.Repeat(`{"items":`, 10_000) + "{}" + strings.Repeat("}", 10_000), "{}", "",
			"nested deeper than 2000 levels", 0,
		},
		"many levels": {
			strings.Repeat(`{"items":`, 150) + `{"maxLength":3}` + strings.Repeat("}", 150),
			strings.Repeat(`{"items":`, 150) + `{"maxLength":2}` + strings.Repeat("}", 150), "", "", compare.Breaking,
		},
		"a pattern that blows up": {
			`{"type":"string","pattern":"^(a|b)*a(a|b){30}$"}`, `{"type":"string","pattern":"^(a|b)*b(a|b){30}$"}`, "",
			"", compare.Hazard,
		},
		"a pattern of a large count": {
			`{"type":"string","pattern":"^a{1000}$"}`, `{"type":"string","pattern":"^(a{1000}){1000}$"}`, "", "",
			compare.Hazard,
		},
		"a union of many": {union("oneOf", 60), union("oneOf", 61), "", "", compare.Breaking},
		"a wide all of any": {
			`{"allOf":[` + strings.TrimSuffix(strings.Repeat(union("anyOf", 8)+",", 30), ",") + `]}`,
			`{"maxProperties":3}`, "", "", compare.Breaking,
		},
		"circles": {
			`{"$ref":"#/components/schemas/A"}`, `{"$ref":"#/components/schemas/B"}`,
			`,"components":{"schemas":{"A":{"properties":{"n":{"$ref":"#/components/schemas/B"}}},"B":{"properties":{"n":{"$ref":"#/components/schemas/A"}}}}}`,
			"", compare.Editorial,
		},
		"itself in place": {
			`{"$ref":"#/components/schemas/A"}`, `{"type":"string"}`,
			`,"components":{"schemas":{"A":{"anyOf":[{"$ref":"#/components/schemas/A"},{"type":"string"}]}}}`, "", compare.Hazard,
		},
		"two of each": {
			`{"$ref":"#/components/schemas/string0"}`, `{"$ref":"#/components/schemas/integer0"}`,
			`,"components":{"schemas":{` + twos("string") + `,` + twos("integer") + `}}`, "", compare.Hazard,
		},
		"a huge number": {`{"type":"number","maximum":1e900}`, `{"type":"number","maximum":1e899}`, "", "", compare.Breaking},
		"a fine step":   {`{"type":"number","multipleOf":1e-300}`, `{"type":"number","multipleOf":7e-300}`, "", "", compare.Breaking},
		"a long list":   {`{"type":"array","minItems":1000000000}`, `{"type":"array","minItems":1000000001}`, "", "", compare.Hazard},
	} {
		t.Run(name, func(t *testing.T) {
			old, err := withSchema(c.old, c.more)
			if c.fails != "" {
				require.ErrorContains(t, err, c.fails)
				return
			}
			require.NoError(t, err)
			now, err := withSchema(c.now, c.more)
			require.NoError(t, err)
			got := compare.Contracts(old, now, compare.Options{})
			require.Equal(t, c.want, got.Backward, summary(got))
		})
	}
}

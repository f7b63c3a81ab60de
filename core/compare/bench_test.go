package compare_test

import (
	"bytes"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// many writes a description of so many operations that share their components, with one edit in the most used one.
func many(operations, limit int) []byte {
	var b bytes.Buffer
	b.WriteString("openapi: 3.1.0\ninfo: {title: Everything, version: 1.0.0}\npaths:\n")
	for i := range operations {
		fmt.Fprintf(&b, `  /things%d/{id}:
    put:
      operationId: putThing%d
      summary: Put a thing
      description: Puts one of the things of kind %d where it belongs, and says what became of it.
      parameters:
        - {name: id, in: path, required: true, schema: {type: string, maxLength: 40}}
        - {name: limit, in: query, schema: {type: integer, minimum: 1, maximum: 100, default: 25}}
      requestBody: {required: true, content: {application/json: {schema: {$ref: '#/components/schemas/Thing%d'}}}}
      responses:
        '200': {description: Put., content: {application/json: {schema: {$ref: '#/components/schemas/Thing%d'}}}}
        default: {$ref: '#/components/responses/Problem'}
`, i, i, i, i%100, i%100)
	}
	b.WriteString("components:\n  responses:\n    Problem: {description: No., content: {application/problem+json: {schema: {type: object, properties: {title: {type: string}}}}}}\n  schemas:\n")
	fmt.Fprintf(&b, "    Shared: {type: object, required: [n], properties: {n: {type: integer, maximum: %d}, next: {$ref: '#/components/schemas/Shared'}}}\n",
		limit)
	for i := range 100 {
		fmt.Fprintf(&b, "    Thing%d:\n      type: object\n      required: [name, shared]\n      properties:\n        name: {type: string, maxLength: 80, description: What it is called.}\n        shared: {$ref: '#/components/schemas/Shared'}\n        list: {type: array, items: {$ref: '#/components/schemas/Shared'}}\n",
			i)
		for j := range 12 {
			fmt.Fprintf(&b, "        field%d: {type: string, enum: [a, b, c%d], description: One of several.}\n", j, j)
		}
	}
	return b.Bytes()
}

func readLarge(tb testing.TB, text []byte) *contract.Contract {
	f, err := source.Parse("large.yaml", text)
	require.NoError(tb, err)
	c, err := openapi.Read(f)
	require.NoError(tb, err)
	return c
}

// TestLarge finds the one edit behind 1,100 operations, as one change with its whole reach.
func TestLarge(t *testing.T) {
	t.Parallel()
	c := compare.Contracts(readLarge(t, many(1100, 9)), readLarge(t, many(1100, 8)), compare.Options{})
	require.Len(t, c.Changes, 1)
	require.Len(t, c.Changes[0].Reach, 1100)
	require.Equal(t, compare.Breaking, c.Changes[0].Backward)
	require.True(t, strings.HasPrefix(c.Changes[0].Title, "n is at most 8"))
}

// BenchmarkCompare compares two descriptions of 1,100 operations. The figure x-decode is the time of reading and comparing both, as
// a multiple of decoding the same two texts into plain maps in the same run.
func BenchmarkCompare(b *testing.B) {
	old, now := many(1100, 9), many(1100, 8)
	var decoding, reading, comparing time.Duration
	for b.Loop() {
		start := time.Now()
		for _, text := range [][]byte{old, now} {
			var m map[string]any
			require.NoError(b, yaml.Unmarshal(text, &m))
		}
		decoding += time.Since(start)
		start = time.Now()
		x, y := readLarge(b, old), readLarge(b, now)
		reading += time.Since(start)
		start = time.Now()
		compare.Contracts(x, y, compare.Options{})
		comparing += time.Since(start)
	}
	b.ReportMetric(float64(reading)/float64(decoding), "read-x-decode")
	b.ReportMetric(float64(comparing)/float64(decoding), "compare-x-decode")
	b.ReportMetric(float64(len(old))/(1<<20), "MB")
}

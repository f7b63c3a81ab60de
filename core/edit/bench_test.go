package edit_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

// large is a description of about so many bytes, as an author lays it out.
func large(size int, json bool) []byte {
	var b strings.Builder
	b.WriteString("openapi: 3.1.0\ninfo: {title: Large, version: 1.0.0}\npaths:\n")
	for i := 0; b.Len() < size; i++ {
		fmt.Fprintf(&b, `  # Of quay %d.
  /quays/%d/berths:
    get:
      operationId: listBerths%[1]d
      summary: List the berths of quay %[1]d
      parameters:
        - {name: side, in: query, schema: {type: string, enum: [port, starboard]}} # of the vessel
        - name: page
          in: query
          schema: {type: integer, minimum: 1}
      responses:
        '200':
          description: |
            The berths.

            In their order.
          content:
            application/json:
              schema: {type: array, items: {$ref: '#/components/schemas/Berth'}}
`, i, i)
	}
	if !json {
		return []byte(b.String())
	}
	f, err := source.Parse("a.yaml", []byte(b.String()))
	if err != nil {
		panic(err)
	}
	return []byte(f.Root.Value().Indented())
}

// BenchmarkText fulfils a wish in the middle of a large text, and a hundred all over it. It tells each time as a multiple of that of
// parsing.
func BenchmarkText(b *testing.B) {
	for _, kind := range []string{"yaml", "json"} {
		text := large(3<<20, kind == "json")
		var parsing float64
		b.Run(kind+"/parse", func(b *testing.B) {
			for b.Loop() {
				if _, err := source.Parse("a."+kind, text); err != nil {
					b.Fatal(err)
				}
			}
			parsing = float64(b.Elapsed()) / float64(b.N)
		})
		f, err := source.Parse("a."+kind, text)
		require.NoError(b, err)
		var many []edit.Wish
		for i := range 100 {
			many = append(many, edit.Set(fmt.Sprintf("/paths/~1quays~1%d~1berths/get/deprecated", i*7), value.True))
		}
		for name, wishes := range map[string][]edit.Wish{"one": many[50:51], "hundred": many} {
			b.Run(kind+"/"+name, func(b *testing.B) {
				b.SetBytes(int64(len(text)))
				for b.Loop() {
					if _, err := edit.Text(f, wishes...); err != nil {
						b.Fatal(err)
					}
				}
				b.ReportMetric(float64(b.Elapsed())/float64(b.N)/parsing, "x-parse")
			})
		}
	}
}

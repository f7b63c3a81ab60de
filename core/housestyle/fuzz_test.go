package housestyle_test

import (
	"context"
	"os"
	"testing"
	"time"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// fuzzed is the description that fuzzed styles judge.
const fuzzed = `openapi: 3.1.0
info: {title: Berths, version: 1.0.0, contact: {name: Quayside team}}
servers: [{url: 'https://api.saltmere.example/v2'}]
tags: [{name: Berths}]
paths:
  /berths/{berth}:
    get:
      tags: [Berths]
      parameters: [{name: berth, in: path, required: true, schema: {type: string}}]
      responses: {'200': {description: The berth., content: {application/json: {schema: {$ref: '#/components/schemas/Berth'}}}}}
components:
  schemas:
    Berth: {type: object, properties: {name: {type: string, pattern: '^[a-z]+$'}, side: {enum: [port, starboard]}, in: {$ref: '#/components/schemas/Berth'}}}
`

// FuzzStyle reads style files of strangers and judges by them: they are refused, or judge within their limits; nothing panics, and
// nothing takes long.
func FuzzStyle(f *testing.F) {
	for _, path := range []string{"testdata/own.txtar", "testdata/broken.txtar", "testdata/failing.txtar"} {
		a, err := txtar.ParseFile(path)
		require.NoError(f, err)
		f.Add(string(a.Files[0].Data))
	}
	harbour, err := os.ReadFile("../../demo/harbour-style.yaml")
	require.NoError(f, err)
	f.Add(string(harbour))
	for _, condition := range []string{
		`[1,2,3,4,5,6,7,8,9].all(a, [1,2,3,4,5,6,7,8,9].all(b, [1,2,3,4,5,6,7,8,9].all(c, [1,2,3,4,5,6,7,8,9].all(d, [1,2,3,4,5,6,7,8,9].all(e, [1,2,3,4,5,6,7,8,9].all(f, a + b + c + d + e + f > 0))))))`,
		`['x'].map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).map(a, a + a).size() > 0`,
		`'aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa!'.matches('^(a+)+$')`, `field.of.fields.all(f, f.of.fields.all(g, g.of.fields.all(h, h.items.name != 'x')))`,
		`has(field.items) && field.items.items.items.name == ''`, `dyn(field) == dyn(1)`, `type(field) == field`, `string(field) == field.called`,
		`{field: 1}.size() > 0`, `field in [field]`, `timestamp(field.name) > timestamp('2026-01-01T00:00:00Z')`, `size(field.extensions) > int(field.name)`,
	} {
		f.Add("house-style: X\nrules:\n  a:\n    about: field\n    must: \"" + condition + "\"\n    says: x\n")
	}
	f.Fuzz(func(t *testing.T, text string) {
		if len(text) > 20_000 {
			return
		}
		file, err := source.Parse("style.yaml", []byte(text))
		if err != nil {
			return
		}
		style, err := housestyle.Read(file, housestyle.Ours())
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		d, err := source.Parse("berths.yaml", []byte(fuzzed))
		require.NoError(t, err)
		c, err := format.Read(source.SetOf(d))
		require.NoError(t, err)
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second) // a limit that does not hold, not a measure of speed
		defer cancel()
		found, err := housestyle.Check(ctx, c, style, housestyle.Options{})
		require.NoError(t, err)
		for _, f := range found {
			f.FillFix()
		}
	})
}

package format_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/raml"
	"oldledger/core/source"
)

// drawing writes a RAML 1.0 description of drawn types, traits and resources.
type drawing struct {
	t     *rapid.T
	b     strings.Builder
	names []string // types declared so far
}

func (d *drawing) pick(label string, of ...string) string {
	return rapid.SampledFrom(of).Draw(d.t, label)
}

func (d *drawing) chance(label string) bool { return rapid.IntRange(0, 2).Draw(d.t, label) == 0 }

func (d *drawing) line(depth int, format string, args ...any) {
	d.b.WriteString(strings.Repeat("  ", depth))
	fmt.Fprintf(&d.b, format+"\n", args...)
}

// expression is the name of a type, a list of it, or a choice.
func (d *drawing) expression() string {
	scalars := []string{"string", "number", "integer", "boolean", "date-only", "datetime", "nil", "any"}
	e := d.pick("type", append(scalars, d.names...)...)
	switch d.pick("form", "plain", "plain", "list", "choice", "maybe") {
	case "list":
		e += "[]"
	case "choice":
		e += " | " + d.pick("other", scalars[:5]...)
	case "maybe":
		e += " | nil"
	}
	return e
}

// facets writes a declaration below a key.
func (d *drawing) facets(depth int) {
	switch d.pick("kind", "string", "number", "integer", "array", "object", "heir") {
	case "string":
		d.line(depth, "type: string")
		d.line(depth, "maxLength: %d", rapid.IntRange(1, 9).Draw(d.t, "max"))
		if d.chance("pattern") {
			d.line(depth, "pattern: '%s'", d.pick("pattern", "^[a-z]*$", "^a", "[0-9]$"))
		}
	case "number":
		d.line(depth, "type: number")
		d.line(depth, "minimum: %d", rapid.IntRange(-3, 3).Draw(d.t, "min"))
		d.line(depth, "description: A number of things.")
	case "integer":
		d.line(depth, "type: integer")
		d.line(depth, "enum: [1, 2, 3]")
		d.line(depth, "default: 2")
	case "array":
		d.line(depth, "type: array")
		d.line(depth, "items: %s", d.expression())
		d.line(depth, "maxItems: %d", rapid.IntRange(1, 4).Draw(d.t, "many"))
		if d.chance("unique") {
			d.line(depth, "uniqueItems: true")
		}
	case "object":
		d.line(depth, "type: object")
		d.object(depth)
	case "heir":
		if len(d.names) == 0 {
			d.line(depth, "type: string")
			return
		}
		d.line(depth, "type: %s", d.pick("parent", d.names...))
		d.line(depth, "description: More than its parent.")
	}
}

func (d *drawing) object(depth int) {
	if d.chance("closed") {
		d.line(depth, "additionalProperties: false")
	}
	d.line(depth, "properties:")
	for i := range rapid.IntRange(1, 3).Draw(d.t, "properties") {
		mark := d.pick("mark", "", "?")
		if depth < 5 && d.chance("nested") {
			d.line(depth+1, "p%d%s:", i, mark)
			d.facets(depth + 2)
			continue
		}
		d.line(depth+1, "p%d%s: %s", i, mark, d.expression())
	}
	if d.chance("rest") {
		d.line(depth+1, "/^x-/: %s", d.pick("rest", "string", "integer"))
	}
}

func (d *drawing) whole() string {
	d.line(0, "#%%RAML 1.0\ntitle: Harbour Stores\nversion: 1.0.0\nmediaType: application/json\ntypes:")
	for i := range rapid.IntRange(1, 4).Draw(d.t, "types") {
		name := fmt.Sprintf("T%d", i)
		d.line(1, "%s:", name)
		d.facets(2)
		d.names = append(d.names, name)
	}
	d.line(0, "traits:\n  paged:\n    queryParameters:\n      limit?:\n        type: integer\n        maximum: <<most>>\n      after?: string")
	d.line(0, "resourceTypes:\n  kept:\n    get:\n      responses:\n        200:\n          body: <<item>>[]\n    put?:\n      body: <<item>>")
	for i := range rapid.IntRange(1, 3).Draw(d.t, "resources") {
		d.line(0, "/r%d/{id}:", i)
		if d.chance("typed") {
			d.line(1, "type: {kept: {item: %s}}", d.pick("item", d.names...))
		}
		d.line(1, "uriParameters:\n    id: %s", d.pick("id", "string", "integer"))
		d.line(1, "get:\n    responses:\n      404:\n        description: It is not there.")
		if d.chance("paged") {
			d.line(2, "is: [paged: {most: %d}]", rapid.IntRange(1, 9).Draw(d.t, "most"))
		}
		d.line(1, "put:\n    body:")
		d.facets(3)
		d.line(2, "responses:\n      200:\n        headers:\n          Mark?: string\n        body: %s", d.pick("answer", d.names...))
	}
	return d.b.String()
}

// TestDrawnRAML converts drawn descriptions: nothing that stands on the wire is lost or added; and compares them with themselves.
func TestDrawnRAML(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(rt *rapid.T) {
		text := (&drawing{t: rt}).whole()
		read := func() *source.Set {
			set, err := source.OpenTexts(context.Background(), "", "api.raml", map[string][]byte{"api.raml": []byte(text)})
			require.NoError(t, err, text)
			return set
		}
		set := read()
		c, err := format.Read(set)
		require.NoError(t, err, text)
		again, err := raml.Read(read())
		require.NoError(t, err)
		require.Empty(t, compare.Contracts(c, again, compare.Options{}).Changes, text)
		for _, to := range openapi.Targets {
			made := format.ConvertRead(set, c, to)
			f, err := source.Parse("made.yaml", made.Document.YAML())
			require.NoError(t, err)
			is, err := openapi.Read(f)
			require.NoError(t, err, "%s\n%s", text, f.Text)
			for _, w := range made.Warnings {
				require.Contains(t, w.Text, "patternProperties", text)
			}
			if len(made.Warnings) > 0 {
				continue
			}
			for _, ch := range compare.Contracts(c, is, compare.Options{}).Changes {
				require.LessOrEqual(t, max(ch.Backward, ch.Forward), compare.Editorial, "%s: %s (%s)\n%s\n%s", ch.Kind, ch.Title, ch.Why, text, f.Text)
			}
		}
	})
}

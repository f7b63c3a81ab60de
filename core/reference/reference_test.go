package reference_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/core/source"
)

func parse(t *testing.T, name, text string) *contract.Contract {
	t.Helper()
	f, err := source.Parse(name, []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

func demo(t *testing.T, path string) *contract.Contract {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("../../demo", path))
	require.NoError(t, err)
	return parse(t, path, string(text))
}

func field(t *testing.T, list []*reference.Field, name string) *reference.Field {
	t.Helper()
	for _, f := range list {
		if f.Name == name {
			return f
		}
	}
	t.Fatalf("no field %s", name)
	return nil
}

// TestOperation reads the page of booking a berth in 1.2.0.
func TestOperation(t *testing.T) {
	t.Parallel()
	var past []reference.Past
	for _, number := range []string{"1.0.0", "1.1.0", "1.2.0"} {
		past = append(past, reference.Past{Number: number, Contract: demo(t, "berths/"+number+".yaml")})
	}
	d, err := reference.Make(context.Background(), past[2].Contract, reference.Context{
		Name: "berths", Number: "1.2.0", Line: "1", History: past,
		Notices: []promise.Notice{
			{ID: 7, Line: "1", Field: "Vessel.length", Sunset: "2027-03-01", ReplacedBy: "lengthOverall", Reason: "ambiguous"},
			{ID: 9, Line: "1", Operation: "POST /berths/{}/bookings", Parameter: "path berth", Sunset: "2027-05-01"},
			{ID: 8, Line: "2", Field: "Vessel.mmsi", Sunset: "2027-03-01"},
		},
	})
	require.NoError(t, err)
	op := d.Operation("bookBerth")
	require.NotNil(t, op)
	require.Equal(t, "Book a berth", op.Title)
	require.Equal(t, "1.0.0", op.Margin.Since)
	require.Equal(t, []string{"quaysideKey"}, op.Security)
	require.Equal(t, "path", op.Parameters[0].Place)
	berth := op.Parameters[0].Fields[0]
	require.True(t, berth.Required)
	require.Equal(t, "N-14", berth.Example)
	require.Equal(t, []string{"matches ^[NESW]-[0-9]{1,3}$"}, berth.Limits)

	require.False(t, op.Margin.Leaving(), "a notice of its parameter")
	require.Equal(t, "2027-05-01", berth.Margin.Notice.Sunset)

	require.True(t, op.Body.Required)
	vessel := field(t, op.Body.Media[0].Schema.Fields, "vessel")
	require.True(t, vessel.Required)
	require.Equal(t, "Vessel", vessel.Schema)
	length := field(t, vessel.Fields, "length")
	require.True(t, length.Deprecated)
	require.Equal(t, []string{"above 0", "at most 400"}, length.Limits)
	require.True(t, length.Margin.Leaving())
	require.Equal(t, "2027-03-01", length.Margin.Notice.Sunset)
	require.Equal(t, "lengthOverall", length.Margin.Notice.ReplacedBy)
	require.Equal(t, "1.0.0", length.Margin.Since)
	require.Equal(t, "1.2.0", field(t, vessel.Fields, "lengthOverall").Margin.Since)
	require.False(t, field(t, vessel.Fields, "mmsi").Margin.Leaving(), "a notice of another line")
	note := field(t, op.Body.Media[0].Schema.Fields, "note")
	require.Equal(t, "1.1.0", note.Margin.Since)
	require.False(t, note.Required)

	require.Equal(t, "201", op.Responses[0].Status)
	require.Equal(t, "Location", op.Responses[0].Headers[0].Name)
	require.Contains(t, op.Responses[0].Media[0].Sample.Text, `"heldUntil"`)
	require.True(t, strings.HasPrefix(op.Code[0].Text,
		"curl -X POST 'https://api.saltmere.example/v1/berths/N-14/bookings' \\\n  -H \"Harbour-Key: $KEY\""), op.Code[0].Text)
	require.Nil(t, d.Operation("cancel"))

	require.Equal(t, []string{"Berths", "Bookings", "Charges", "Arrivals"}, groupNames(d))
	page := d.Schema("Vessel")
	require.NotNil(t, page)
	require.Contains(t, page.UsedBy, reference.Link{Title: "Book a berth", Slug: "bookBerth"})
}

func groupNames(d *reference.Document) []string {
	var names []string
	for _, g := range d.Groups {
		names = append(names, g.Name)
	}
	return names
}

// TestWebhooks puts what the API calls into a group of its own.
func TestWebhooks(t *testing.T) {
	t.Parallel()
	d := made(reference.Make(context.Background(), demo(t, "pilotage/1.1.0.yaml"), reference.Context{Name: "pilotage", Number: "1.1.0"}))
	calls := d.Groups[len(d.Groups)-1]
	require.Equal(t, "What the API calls", calls.Name)
	require.Len(t, calls.Operations, 3)
	require.Equal(t, "narrowsOpen", calls.Operations[1].Calls)
	require.Nil(t, calls.Operations[1].Code, "nobody calls a webhook with curl")
	require.NotEmpty(t, d.Operation(calls.Operations[1].Slug).Body.Media)
}

// TestWords describes schemas in the words of readers.
func TestWords(t *testing.T) {
	t.Parallel()
	c := parse(t, "words.yaml", `
openapi: 3.1.0
info: {title: Words, version: 1.0.0}
components:
  schemas:
    Node:
      type: object
      required: [name]
      properties:
        name: {type: string, minLength: 1, maxLength: 20, description: Its name.}
        kind: {enum: [a, b], default: a}
        size: {type: [integer, 'null'], exclusiveMinimum: 0, multipleOf: 5}
        code: {type: string, minLength: 3, maxLength: 3}
        tags: {type: array, items: {type: string, format: date}, minItems: 1, uniqueItems: true}
        next: {$ref: '#/components/schemas/Node'}
        list: {type: array, items: {$ref: '#/components/schemas/Node'}}
        any: {}
        maybe: {oneOf: [{$ref: '#/components/schemas/Node'}, {type: 'null'}, {type: integer, title: Number of the node}]}
        secret: {type: string, writeOnly: true}
        stamp: {type: string, format: date-time, readOnly: true}
        closed: {type: object, additionalProperties: false, properties: {x: {const: 1}}}
    Both:
      allOf:
        - $ref: '#/components/schemas/Node'
        - {type: object, required: [extra], properties: {extra: {type: boolean}}}
`)
	d := made(reference.Make(context.Background(), c, reference.Context{Name: "words", Number: "1.0.0"}))
	node := d.Schema("Node").Schema
	f := func(name string) *reference.Field { return field(t, node.Fields, name) }
	require.Equal(t, []string{"1 to 20 characters"}, f("name").Limits)
	require.True(t, f("name").Required)
	require.Equal(t, []reference.Meaning{{Value: "a"}, {Value: "b"}}, f("kind").Enum)
	require.Equal(t, "a", f("kind").Default)
	require.True(t, f("size").Nullable)
	require.Equal(t, "integer", f("size").Type)
	require.Equal(t, []string{"above 0", "a multiple of 5"}, f("size").Limits)
	require.Equal(t, []string{"3 characters"}, f("code").Limits)
	require.Equal(t, "list of string, date", f("tags").Type)
	require.Equal(t, []string{"at least 1 items", "no repetitions"}, f("tags").Limits)
	require.Equal(t, "Node", f("next").Schema)
	require.Empty(t, f("next").Fields, "recursion ends in a link")
	require.Equal(t, "list of Node", f("list").Type)
	require.Equal(t, "anything", f("any").Type)
	require.True(t, f("maybe").Nullable)
	require.Len(t, f("maybe").Choices, 2)
	require.Equal(t, "Number of the node", f("maybe").Choices[1].Name)
	require.True(t, f("secret").WriteOnly)
	require.True(t, f("stamp").ReadOnly)
	require.Equal(t, []string{"nothing else"}, f("closed").Limits)
	require.Equal(t, []reference.Meaning{{Value: "1"}}, field(t, f("closed").Fields, "x").Enum)
	both := d.Schema("Both").Schema
	require.True(t, field(t, both.Fields, "extra").Required)
	require.True(t, field(t, both.Fields, "name").Required)
}

// made is what was made, without an error.
func made[T any](it T, err error) T {
	if err != nil {
		panic(err)
	}
	return it
}

// TestUnions shows alternatives as what must be sent, as choices with a sample each, and as what holds itself.
func TestUnions(t *testing.T) {
	t.Parallel()
	c := parse(t, "unions.yaml", `
openapi: 3.1.0
info: {title: Unions, version: 1.0.0}
paths:
  /events:
    post:
      operationId: tell
      requestBody: {content: {application/json: {schema: {$ref: '#/components/schemas/Event'}}}}
      responses: {'201': {description: Told.}}
components:
  schemas:
    Loan:
      type: object
      properties: {member: {type: string}, memberId: {type: string}, note: {type: string}, kind: {type: string}}
      anyOf: [{required: [member]}, {required: [memberId, kind]}]
      dependentRequired: {note: [kind]}
    Event:
      oneOf: [{$ref: '#/components/schemas/Lent'}, {$ref: '#/components/schemas/Lost'}]
      discriminator: {propertyName: kind, mapping: {lent: '#/components/schemas/Lent', gone: '#/components/schemas/Lost'}}
    Lent: {type: object, required: [kind], properties: {kind: {type: string}, until: {type: string, format: date}}}
    Lost: {type: object, required: [kind], properties: {kind: {type: string}}}
    Twice:
      allOf:
        - oneOf: [{title: A, type: object, properties: {a: {type: string}}}, {title: B, type: object, properties: {b: {type: string}}}]
        - oneOf: [{title: C, type: object, properties: {c: {type: string}}}, {title: D, type: object, properties: {d: {type: string}}}]
    Bed: {type: object, properties: {beds: {type: array, items: {$ref: '#/components/schemas/Bed'}}, beside: {$ref: '#/components/schemas/Bed'}}}
`)
	d := made(reference.Make(context.Background(), c, reference.Context{Name: "unions", Number: "1.0.0"}))
	require.Equal(t, []reference.Demand{
		{Sets: [][]string{{"member"}, {"memberId", "kind"}}}, {With: "note", Sets: [][]string{{"kind"}}},
	}, d.Schema("Loan").Schema.Demands)
	require.Empty(t, d.Schema("Loan").Schema.Choices)

	media := d.Operation("tell").Body.Media[0]
	require.Nil(t, media.Sample, "each choice has its own")
	require.Len(t, media.Schema.Choices, 2)
	require.Equal(t, "kind is gone", media.Schema.Choices[1].When)
	require.JSONEq(t, `{"kind": "gone"}`, media.Schema.Choices[1].Sample.Text)
	require.Contains(t, media.Schema.Choices[0].Sample.Text, `"kind": "lent"`)

	twice := d.Schema("Twice").Schema
	require.Equal(t, []string{"A", "B"}, []string{twice.Choices[0].Name, twice.Choices[1].Name})
	require.Len(t, twice.Fields, 1, "a union beside another is not a part of it")
	require.Equal(t, []string{"C", "D"}, []string{twice.Fields[0].Choices[0].Name, twice.Fields[0].Choices[1].Name})

	bed := d.Schema("Bed").Schema
	require.True(t, field(t, bed.Fields, "beds").Again)
	require.True(t, field(t, bed.Fields, "beside").Again)
	require.False(t, bed.Again)
}

// TestGroups gives groups an address each, and sorts many operations without a tag by where their paths begin.
func TestGroups(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	b.WriteString("openapi: 3.1.0\ninfo: {title: Groups, version: 1.0.0}\npaths:\n")
	for i := range 70 {
		fmt.Fprintf(&b, "  /v1/yard%d/{id}/a%d: {get: {responses: {'200': {description: It.}}}}\n", i%3, i)
	}
	b.WriteString("  /{id}: {get: {responses: {'200': {description: It.}}}}\n")
	for _, tag := range []string{"A b", "a-B", "Häfen ☂", "☂", "港"} {
		fmt.Fprintf(&b, "  /t%d: {get: {tags: ['%s'], responses: {'200': {description: It.}}}}\n", b.Len(), tag)
	}
	d := made(reference.Make(context.Background(), parse(t, "groups.yaml", b.String()), reference.Context{Name: "groups", Number: "1.0.0"}))
	named := map[string]string{}
	for _, g := range d.Groups {
		require.NotContains(t, named, g.Slug)
		named[g.Slug] = g.Name
	}
	require.Equal(t, map[string]string{
		"group-yard0": "/yard0", "group-yard1": "/yard1", "group-yard2": "/yard2", "group-other": "/", "group-a-b": "A b", "group-a-b-2": "a-B",
		"group-h-fen": "Häfen ☂", "group-other-2": "☂", "group-other-3": "港",
	}, named)
}

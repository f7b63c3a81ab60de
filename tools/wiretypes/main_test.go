package main

import (
	"os"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestCurrent holds the types of the console against the description that they are made from.
func TestCurrent(t *testing.T) {
	text, err := os.ReadFile("../../server/api/description.yaml")
	require.NoError(t, err)
	made, err := Types("description.yaml", text)
	require.NoError(t, err)
	kept, err := os.ReadFile("../../console/src/data/types.ts")
	require.NoError(t, err)
	require.Equal(t, made, string(kept), "go generate ./server/api makes them anew")
}

// TestTypes writes what schemas can say.
func TestTypes(t *testing.T) {
	made, err := Types("a.yaml", []byte(`openapi: 3.1.0
info: {title: A, version: 1.0.0}
paths: {}
components:
  schemas:
    All:
      type: object
      description: |
        All
        of it.
      required: [a-b, list]
      properties:
        a-b: {type: [string, 'null']}
        list: {type: array, items: {enum: ["it's", 2, null]}}
        map: {type: object, additionalProperties: {$ref: '#/components/schemas/One'}}
        free: {type: object, additionalProperties: true}
        any: true
    One: {allOf: [{$ref: '#/components/schemas/All'}], properties: {more: {const: x}}}
`))
	require.NoError(t, err)
	require.Equal(t, `// Made from server/api/description.yaml by `+"`go generate ./server/api`"+`; do not edit.

// All of it.
export type All = {
  "a-b": string | null
  list: ('it\'s' | 2 | null)[]
  map?: Record<string, One>
  free?: Record<string, unknown>
  any?: unknown
}

export type One = All & {
  more?: 'x'
}
`, made)
}

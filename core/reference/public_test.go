package reference_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/reference"
	"oldledger/core/value"
)

// TestPublic leaves out what readers do not see, and with it what only that uses; all else stays as it is written.
func TestPublic(t *testing.T) {
	t.Parallel()
	written := parsed(t, `{
		"openapi": "3.1.0",
		"tags": [{"name": "Quay"}, {"name": "Vault"}, {"name": "Unused"}],
		"paths": {
			"/bookings": {
				"get": {"tags": ["Quay"], "responses": {"200": {"$ref": "#/components/responses/Shared"}}},
				"post": {"operationId": "weigh", "tags": ["Vault"], "responses": {"200": {"$ref": "#/components/responses/Weighed"}}}
			},
			"/vault": {"summary": "The vault.", "delete": {"tags": ["Vault"], "requestBody": {"content": {"a/b": {"schema": {"$ref": "#/components/schemas/Vault"}}}}}},
			"/till": {"get": {"responses": {"200": {"links": {"on": {"operationId": "weigh"}, "off": {"operationRef": "#/paths/~1bookings/get"}}}},
				"callbacks": {"done": {"{$url}": {"post": {"tags": ["Quay"]}, "put": {"tags": ["Quay"]}}}}}}
		},
		"components": {
			"responses": {"Shared": {"content": {"a/b": {"schema": {"$ref": "#/components/schemas/Berth"}}}}, "Weighed": {"content": {"a/b": {"schema": {"$ref": "#/components/schemas/Weight/properties/of"}}}}},
			"schemas": {
				"Berth": {"discriminator": {"propertyName": "kind"}},
				"Quayside": {"allOf": [{"$ref": "#/components/schemas/Berth"}]},
				"Pontoon": {"allOf": [{"$ref": "#/components/schemas/Quayside"}]},
				"Vault": {"properties": {"inner": {"$ref": "#/components/schemas/Inner"}, "berth": {"$ref": "#/components/schemas/Pontoon"}}},
				"Inner": {"properties": {"again": {"$ref": "#/components/schemas/Vault"}}},
				"Weight": {"properties": {"of": {"$ref": "#/components/schemas/Inner"}}},
				"Lonely": {"type": "string"}
			},
			"securitySchemes": {"key": {"type": "apiKey"}}
		}
	}`)
	shown := parsed(t, `{
		"paths": {
			"/bookings": {"get": {"x-ledger-hidden": false}, "post": {"operationId": "weigh", "x-ledger-hidden": true}},
			"/vault": {"delete": {"x-ledger-hidden": true}},
			"/till": {"get": {"callbacks": {"done": {"{$url}": {"put": {"x-ledger-hidden": true}}}}}}
		}
	}`)
	public, hides := reference.Public(written, shown, nil)
	require.True(t, hides)
	require.Equal(t, parsed(t, `{
		"openapi": "3.1.0",
		"tags": [{"name": "Quay"}, {"name": "Unused"}],
		"paths": {
			"/bookings": {"get": {"tags": ["Quay"], "responses": {"200": {"$ref": "#/components/responses/Shared"}}}},
			"/till": {"get": {"responses": {"200": {"links": {"off": {"operationRef": "#/paths/~1bookings/get"}}}},
				"callbacks": {"done": {"{$url}": {"post": {"tags": ["Quay"]}}}}}}
		},
		"components": {
			"responses": {"Shared": {"content": {"a/b": {"schema": {"$ref": "#/components/schemas/Berth"}}}}},
			"schemas": {
				"Berth": {"discriminator": {"propertyName": "kind"}},
				"Quayside": {"allOf": [{"$ref": "#/components/schemas/Berth"}]},
				"Pontoon": {"allOf": [{"$ref": "#/components/schemas/Quayside"}]},
				"Lonely": {"type": "string"}
			},
			"securitySchemes": {"key": {"type": "apiKey"}}
		}
	}`).Indented(), public.Indented(), "an heir of what is used stays: it is what its base stands for")

	same, hides := reference.Public(written, written, nil)
	require.False(t, hides)
	require.Same(t, written, same)
}

// TestPublicKeepsWhatItCannotFollow keeps all components where one is found by other ways than a pointer, and does not climb for ever.
func TestPublicKeepsWhatItCannotFollow(t *testing.T) {
	t.Parallel()
	for _, schemas := range []string{
		`{"A": {"$dynamicRef": "#there"}, "B": {"$anchor": "there"}}`,
		`{"A": {"allOf": [{"$ref": "#/components/schemas/A"}], "discriminator": {"propertyName": "kind", "mapping": {"b": "B"}}}, "B": {}}`,
	} {
		written := parsed(t, `{"paths": {"/a": {"get": {"x-ledger-hidden": true, "r": {"$ref": "#/components/schemas/B"}}, "put": {"r": {"$ref": "#/components/schemas/A"}}}}, "components": {"schemas": `+
			schemas+`}}`)
		public, hides := reference.Public(written, written, nil)
		require.True(t, hides)
		require.Nil(t, public.At("/paths/~1a/get"))
		require.NotNil(t, public.At("/components/schemas/B"))
	}
}

// TestPublicWithholds leaves out operations by their keys and groups, wherever they are written, and what only they use, by whatever name.
func TestPublicWithholds(t *testing.T) {
	t.Parallel()
	written := parsed(t, `{
		"paths": {
			"/quays/{quay}": {"get": {"tags": ["Quay"]}, "delete": {"tags": ["Dues"], "s": {"$dynamicRef": "#secret"}}},
			"/shared": {"$ref": "#/components/pathItems/Shared"},
			"/copied": {"$ref": "#/paths/~1quays~1%7Bquay%7D"},
			"/more": {"additionalOperations": {"Weigh": {"s": {"$ref": "weights.json#unit"}}}, "get": {"s": {"$ref": "shown.json"}}}
		},
		"webhooks": {"sunk": {"post": {}, "put": {}}},
		"components": {
			"pathItems": {"Shared": {"get": {}, "put": {"tags": ["Dues"]}}},
			"schemas": {
				"Secret": {"$dynamicAnchor": "secret"}, "Unit": {"$id": "https://saltmere.example/weights.json", "$defs": {"u": {"$anchor": "unit"}}},
				"Shown": {"$id": "https://saltmere.example/shown.json", "$recursiveRef": "#"}, "Turning": {"$recursiveAnchor": true}
			}
		}
	}`)
	withheld := map[string]bool{"WEIGH /more": true, "webhook sunk PUT": true, "GET /shared": true}
	public, hides := reference.Public(written, written, func(key string, groups []string) bool {
		return withheld[key] || len(groups) == 1 && groups[0] == "Dues"
	})
	require.True(t, hides)
	require.Equal(t, parsed(t, `{
		"paths": {
			"/quays/{quay}": {"get": {"tags": ["Quay"]}},
			"/shared": {"$ref": "#/components/pathItems/Shared"},
			"/copied": {"$ref": "#/paths/~1quays~1%7Bquay%7D"},
			"/more": {"additionalOperations": {}, "get": {"s": {"$ref": "shown.json"}}}
		},
		"webhooks": {"sunk": {"post": {}}},
		"components": {
			"pathItems": {},
			"schemas": {"Shown": {"$id": "https://saltmere.example/shown.json", "$recursiveRef": "#"}, "Turning": {"$recursiveAnchor": true}}
		}
	}`).Indented(), public.Indented())
}

func parsed(t *testing.T, text string) *value.Value {
	t.Helper()
	v, err := value.Parse([]byte(text))
	require.NoError(t, err)
	return v
}

package sample_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/versioning"
)

// TestChoose has calls say which version they mean: once, whatever the description says of the same header or parameter.
func TestChoose(t *testing.T) {
	t.Parallel()
	const text = `openapi: 3.1.0
info: {title: Tides, version: 2.1.0}
servers: [{url: 'https://api.saltmere.example/v2'}]
paths:
  /tides:
    get:
      parameters:
        - {name: harbour-version, in: header, required: true, schema: {type: string}, example: '1'}
        - {name: version, in: query, required: true, schema: {type: string}, example: '1'}
        - {name: day, in: query, required: true, schema: {type: string}, example: today}
      responses: {'200': {description: All, content: {text/plain: {schema: {type: string}}, 'application/json; charset=utf-8': {schema: {type: string}}}}}
`
	f, err := source.Parse("tides.yaml", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	number, err := contract.ParseVersion(c.Version)
	require.NoError(t, err)
	for scheme, want := range map[string]struct {
		url     string
		headers []sample.Pair
	}{
		"path /v{line}":                   {"https://api.saltmere.example/v2/tides?version=1&day=today", []sample.Pair{{"harbour-version", "1"}}},
		"header Harbour-Version {line}":   {"https://api.saltmere.example/v2/tides?version=1&day=today", []sample.Pair{{"harbour-version", "2"}}},
		"header Tides-Version {version}":  {"https://api.saltmere.example/v2/tides?version=1&day=today", []sample.Pair{{"harbour-version", "1"}, {"Tides-Version", "2.1.0"}}},
		"query version {minor}":           {"https://api.saltmere.example/v2/tides?version=2.1&day=today", []sample.Pair{{"harbour-version", "1"}}},
		"media-type v {line}":             {"https://api.saltmere.example/v2/tides?version=1&day=today", []sample.Pair{{"harbour-version", "1"}, {"Accept", "application/json; v=2"}}},
		"media-type text/vnd.tides{line}": {"https://api.saltmere.example/v2/tides?version=1&day=today", []sample.Pair{{"harbour-version", "1"}, {"Accept", "text/vnd.tides2"}}},
	} {
		s, err := versioning.Parse(scheme)
		require.NoError(t, err)
		op := c.Operations[0]
		call, ok := sample.Make(op, sample.NewFiller(shape.NewSpace(shape.Declared, nil), sample.Sided(c)))
		require.True(t, ok)
		call.Choose(op, versioning.Choice{Scheme: s, Version: versioning.Version{Number: number, Text: c.Version}})
		require.Equal(t, want.url, call.URL(), scheme)
		require.Equal(t, want.headers, call.Headers, scheme)
	}
}

package openapi_test

import (
	"context"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// TestBundle writes several files as one, which reads as they did: a comparison of both finds nothing.
func TestBundle(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata/bundle", func(t *testing.T, a *txtar.Archive) map[string]string {
		set, err := cases.Set(a, a.Files[0].Name)
		require.NoError(t, err)
		apart, err := openapi.ReadSet(set)
		require.NoError(t, err)

		whole, err := openapi.Bundle(set)
		require.NoError(t, err)
		text := whole.YAML()
		file, err := source.Parse(a.Files[0].Name, text)
		require.NoError(t, err)
		bundled, err := openapi.Read(file)
		require.NoError(t, err)

		require.Empty(t, compare.Contracts(apart, bundled, compare.Options{}).Changes)
		require.Empty(t, compare.Contracts(bundled, apart, compare.Options{}).Changes)
		return map[string]string{"want.yaml": string(text)}
	})
}

// TestBundleRefuses leaves alone what would mean something else in one file.
func TestBundleRefuses(t *testing.T) {
	t.Parallel()
	set, err := source.OpenTexts(context.Background(), "", "a.yaml", map[string][]byte{"a.yaml": []byte(`
openapi: 3.1.0
info: {title: T, version: 1.0.0}
components:
  schemas:
    Tree: {$id: "https://descriptions.saltmere.example/tree", $dynamicAnchor: node, properties: {kids: {items: {$dynamicRef: "#node"}}}}
`)})
	require.NoError(t, err)
	_, err = openapi.Bundle(set)
	require.ErrorContains(t, err, "a.yaml:6:")
	require.ErrorContains(t, err, "write it as $ref to bundle it")

	set, err = source.OpenTexts(context.Background(), "", "a.yaml", map[string][]byte{
		"a.yaml": []byte("openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\npaths: {/a: {$ref: b.yaml}}\n"),
		"b.yaml": []byte("get: {responses: {\"200\": {description: ok, links: {next: {operationRef: \"#/get\"}}}}}\n"),
	})
	require.NoError(t, err)
	_, err = openapi.Bundle(set)
	require.ErrorContains(t, err, "b.yaml:1:")
	require.ErrorContains(t, err, "name it by its operationId to bundle it")
}

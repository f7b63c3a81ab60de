package contract_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
)

// TestPaths empties the braces of paths and lists their names; a brace that is never closed is text.
func TestPaths(t *testing.T) {
	t.Parallel()
	for path, want := range map[string]struct {
		wire  string
		names []string
	}{
		"/berths":                   {"/berths", nil},
		"/berths/{berth}":           {"/berths/{}", []string{"berth"}},
		"/{a}/x/{b}.json":           {"/{}/x/{}.json", []string{"a", "b"}},
		"/berths/{open":             {"/berths/{open", nil},
		"/from/{a}-{b}":             {"/from/{}-{}", []string{"a", "b"}},
		"{$request.body#/callback}": {"{}", []string{"$request.body#/callback"}},
	} {
		require.Equal(t, want.wire, contract.WirePath(path))
		require.Equal(t, want.names, contract.PathNames(path))
	}
}

// TestVersions reads what descriptions call their versions.
func TestVersions(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"1": "1.0.0", "v1": "1.0.0", "1.2": "1.2.0", "1.2.3": "1.2.3",
		"1.0.0-draft.2": "1.0.0-draft.2",
	} {
		v, err := contract.ParseVersion(text)
		require.NoError(t, err, text)
		require.Equal(t, want, v.String())
	}
	for _, text := range []string{"", "one", "1.2.3.4", "1..2"} {
		_, err := contract.ParseVersion(text)
		require.Error(t, err, text)
	}
}

// TestKeys names operations by what stands on the wire, and finds them by it.
func TestKeys(t *testing.T) {
	t.Parallel()
	callback := &contract.Operation{Webhook: "done", Owner: "POST /a/{}", Method: "POST", Path: "{$url}"}
	call := &contract.Operation{Method: "POST", Path: "/a/{id}", ID: "postA", Callbacks: []*contract.Operation{callback}}
	hook := &contract.Operation{Webhook: "arrival", Method: "POST", Path: "arrival", Summary: "A vessel arrives"}
	c := &contract.Contract{
		Operations: []*contract.Operation{call}, Webhooks: []*contract.Operation{hook},
		Schemas: []*contract.Schema{{Name: "Berth"}},
	}
	c.Index()
	require.Equal(t, []*contract.Operation{call, callback, hook}, c.All())
	for ref, want := range map[string]*contract.Operation{
		"postA": call, "POST /a/{}": call, "post /a/{anything}": call, "webhook arrival POST": hook, "callback done POST of POST /a/{}": callback,
		"GET /a/{}": nil, "": nil,
	} {
		require.Equal(t, want, c.Lookup(ref), ref)
	}
	require.Equal(t, "postA", call.Name())
	require.Equal(t, "A vessel arrives", hook.Name())
	require.Equal(t, "callback done POST of POST /a/{}", callback.Name())
	require.NotNil(t, c.Schema("Berth"))
	require.Nil(t, c.Schema("Quay"))
}

// TestDeref follows bare references only, and ends on a circle.
func TestDeref(t *testing.T) {
	t.Parallel()
	end := &contract.Schema{Types: []string{"string"}}
	bare := &contract.Schema{Ref: end}
	dressed := &contract.Schema{Ref: bare, Description: "With words of its own."}
	require.Same(t, end, bare.Deref())
	require.Same(t, dressed, dressed.Deref())
	require.Nil(t, (*contract.Schema)(nil).Deref())
	circle := &contract.Schema{}
	circle.Ref = circle
	require.Same(t, circle, circle.Deref())
	require.True(t, (&contract.Schema{Rare: &contract.Rare{ContentEncoding: "base64"}}).Asserts())
	require.False(t, (&contract.Schema{Description: "Words."}).Asserts())
}

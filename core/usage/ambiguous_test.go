package usage_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/usage"
	"oldledger/core/versioning"
)

// TestAmbiguous finds the pairs of paths of which neither is narrower, and no others.
func TestAmbiguous(t *testing.T) {
	t.Parallel()
	number, err := contract.ParseVersion("1.0.0")
	require.NoError(t, err)
	of := func(paths ...string) [][2]string {
		v := usage.Version{Version: versioning.Version{Number: number}}
		for _, p := range paths {
			v.Operations = append(v.Operations, usage.Operation{Method: "GET", Path: p, At: []versioning.Location{{}}})
		}
		r := usage.NewRouter()
		r.Add(usage.Service{API: "a", Versions: []usage.Version{v}})
		var pairs [][2]string
		for _, p := range r.Ambiguous() {
			pairs = append(pairs, [2]string{p.One, p.Other})
		}
		return pairs
	}
	require.Equal(t, [][2]string{{"/a/{x}", "/{y}/b"}, {"/{y}/b", "/c/{x}"}}, of("/a/{x}", "/{y}/b", "/a/b", "/c/{x}"))
	require.Equal(t, [][2]string{{"/a{x}", "/{x}.json"}}, of("/a{x}", "/{x}.json", "/{x}"))
	require.Empty(t, of("/a/b", "/a/{x}", "/{y}/{x}", "/{n}.json", "/b{n}.json"), "of each two that a call is like, one is narrower")
	require.Empty(t, of("/a/{x}", "/b/{x}", "/a/{x}/c"), "no call is like two")
	require.Empty(t, of("/a{x}/b", "/{x}b/c"))
}

package compare_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/tools/large"
)

// TestSeededEdits finds each of 60 edits in a description of 1,100 operations as one change, at its place.
func TestSeededEdits(t *testing.T) {
	t.Parallel()
	edits := large.Edits(60, large.Operations)
	var sides [2]*source.File
	for i, some := range [][]large.Edit{nil, edits} {
		f, err := source.Parse("large.json", []byte(large.Description(large.Operations, some).String()))
		require.NoError(t, err)
		sides[i] = f
	}
	old, err := openapi.Read(sides[0])
	require.NoError(t, err)
	now, err := openapi.Read(sides[1])
	require.NoError(t, err)
	c := compare.Contracts(old, now, compare.Options{})
	require.Len(t, c.Changes, len(edits))
	for _, e := range edits {
		found := 0
		for _, ch := range c.Changes {
			for _, p := range []*compare.Place{ch.New, ch.Old} {
				if p != nil && (p.Pointer == e.Pointer || len(p.Pointer) > len(e.Pointer) && p.Pointer[:len(e.Pointer)+1] == e.Pointer+"/") {
					found++
					break
				}
			}
		}
		require.Equal(t, 1, found, "%+v", e)
	}
}

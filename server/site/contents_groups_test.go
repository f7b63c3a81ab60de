package site

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/reference"
)

// TestGroupsAround lists all of a few groups, and of very many those around the page: fifteen hundred beside each of as many pages took a
// minute to export.
func TestGroupsAround(t *testing.T) {
	t.Parallel()
	many := make([]reference.Group, 1500)
	for i := range many {
		many[i].Operations = make([]*reference.OperationPage, 1)
	}
	for _, c := range []struct {
		n, here    int
		open       bool
		begin, end int
	}{{3, 2, true, 0, 3}, {1500, 0, false, 0, 80}, {1500, 0, true, 0, 80}, {1500, 700, true, 660, 740}, {1500, 1499, true, 1420, 1500}} {
		begin, end := groupsAround(many[:c.n], c.here, c.open)
		require.Equal(t, []int{c.begin, c.end}, []int{begin, end}, "%+v", c)
	}
}

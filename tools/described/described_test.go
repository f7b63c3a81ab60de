package described

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/shape"
)

// TestHolds finds what does not hold: the check can fail.
func TestHolds(t *testing.T) {
	for body, holds := range map[string]bool{`{"items": []}`: true, `{"items": [{"seq": "one"}]}`: false, `{}`: false} {
		inner := &testing.T{}
		d := &described{inner, nil, ownOperations()}
		op := d.operations[slices.IndexFunc(d.operations, func(o operation) bool { return o.Path == "/journal" })]
		d.holds("the answer", responseOf(op.Operation, 200).Content, "application/json", []byte(body), shape.Role{Sends: true})
		require.Equal(t, holds, !inner.Failed(), body)
	}
}

package compare_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/tools/judge"
)

// judgeWitnesses asks an independent JSON Schema validator about every witness in a body: valid for the sender's
// version, invalid for the receiver's. Parameters and headers are text on the wire, which no validator reads.
func judgeWitnesses(t require.TestingT, c *compare.Comparison, old, new *contract.Contract, reading shape.Reading) {
	for _, ch := range c.Changes {
		for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
			w := ch.WitnessFor(d)
			if w == nil || w.Value == nil || !strings.Contains(w.Position, "/") {
				continue
			}
			called := strings.HasPrefix(w.Operation, "webhook ") || strings.HasPrefix(w.Operation, "callback ")
			clientSends := strings.HasPrefix(w.Position, "request") != called
			sender, receiver := old, new
			if (d == compare.Backward) != clientSends {
				sender, receiver = new, old
			}
			valid, why := judged(t, c, sender, w, reading, clientSends)
			require.True(t, valid, "%s: the sender allows %s: %s", ch.Title, w.Value, why)
			valid, _ = judged(t, c, receiver, w, reading, clientSends)
			require.False(t, valid, "%s: the receiver refuses %s", ch.Title, w.Value)
		}
	}
}

// judged asks about a witness in one version, where the operation may stand under the name that it moved to.
func judged(t require.TestingT, c *compare.Comparison, in *contract.Contract, w *compare.Witness, reading shape.Reading,
	clientSends bool,
) (valid bool, why string) {
	op := in.Lookup(w.Operation)
	for _, ch := range c.Changes {
		if op == nil && ch.Moved != nil {
			op = in.Lookup(strings.Replace(w.Operation, ch.Moved.From, ch.Moved.To, 1)) // itself, or a callback of it
		}
	}
	schema := judge.Position(op, w.Position)
	if schema == nil {
		return true, "" // a body without a schema admits everything
	}
	valid, why, err := judge.Valid(in, schema.Node, w.Value, reading, clientSends)
	require.NoError(t, err)
	return valid, why
}

// TestWorst holds the verdict at the top against the changes.
func TestWorst(t *testing.T) {
	t.Parallel()
	require.Equal(t, "✕", compare.Breaking.Mark())
	var g compare.Grade
	require.NoError(t, g.UnmarshalText([]byte("hazard")))
	require.Equal(t, compare.Hazard, g)
	require.Error(t, g.UnmarshalText([]byte("awful")))
	var d compare.Direction
	require.NoError(t, d.UnmarshalText([]byte("forward")))
	require.Error(t, d.UnmarshalText([]byte("sideways")))
}

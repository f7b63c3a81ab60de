// Package ledgertest is for tests of what reads a ledger.
package ledgertest

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// Opened is a ledger that lets everybody read what is published, which a new one does not.
func Opened(t testing.TB, l *ledger.Ledger) *ledger.Ledger {
	t.Helper()
	require.NoError(t, l.SetAudience(context.Background(), ledger.Itself, "", ledger.AudienceWish{Published: &ledger.Audience{ledger.Everyone}}))
	return l
}

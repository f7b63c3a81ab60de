package ledger_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/ledger"
)

// TestDated records versions that are dates: each is a line of its own, in their order, and is called by its date.
func TestDated(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	record := func(version, field string) ledger.Recorded {
		t.Helper()
		rec, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe(version, field)})
		require.NoError(t, err)
		return rec
	}
	require.Equal(t, "2026-03-01", record("2026-03-01", "a: {type: string}").Version.Number)
	_, err := l.Publish(ctx, as("lead.q"), "berths@2026-03-01", nil)
	require.NoError(t, err)
	rec := record("2026-06-15-preview", "a: {type: integer}")
	require.Equal(t, "2026-06-15-preview", rec.Version.Number)
	require.Equal(t, "2026-06-15", rec.Version.Line)
	require.Equal(t, "2026-03-01", rec.Base.Number)
	require.Equal(t, compare.Breaking, rec.Changes.Backward)
	require.Nil(t, rec.Changes.Recommended)
	require.True(t, rec.Gate.Open, "another date is another line")
	record("2026-06-15", "a: {type: integer}")
	record("1.4.0", "a: {type: string}")
	a, err := l.API(ctx, as("editor.q"), "berths")
	require.NoError(t, err)
	var order []string
	for _, v := range a.Versions {
		order = append(order, v.Number)
	}
	require.Equal(t, []string{"1.4.0", "2026-03-01", "2026-06-15-preview", "2026-06-15"}, order)
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe("2026-03-01", "a: {type: boolean}")})
	require.ErrorContains(t, err, "berths@2026-03-01 is published and never changes: record this as a later date")
	for _, bad := range []string{"2026-13-01", "2026-02-30", "1969-01-01", "2026-03-01-", "2026-3-1", "2026-03-01-a b"} {
		_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe(bad, "a: {type: boolean}")})
		require.ErrorContains(t, err, "a date such as 2026-03-01", bad)
	}
	require.NoError(t, l.Set(ctx, as("publisher.q"), "berths", ledger.Settings{Promise: new("both-ways"), Line: "2026-06-15", Reason: "why"}))
	require.NoError(t, l.Set(ctx, as("publisher.q"), "berths", ledger.Settings{Versioning: new("header Harbour-Version {version} else 2026-03-01")}))
	told, err := l.Calling(ctx, as("editor.q"), "berths")
	require.NoError(t, err)
	require.Equal(t, "by the header Harbour-Version: 2026-06-15", told.Versions[0].Says)
	require.True(t, told.Versions[2].Usual)
	_, err = l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "berths@2026-03-01", Line: true, ReplacedBy: "berths@2026-06-15", Reason: "It is old."})
	require.NoError(t, err)
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

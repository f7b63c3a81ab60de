package ledger_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/source"
	"oldledger/ledger"
)

// TestTerms has the styles of the house, of a team and of an API ask something of what is published: promises are the nearest one's, all
// else is the strictest one's, and what an API settles itself comes first.
func TestTerms(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	put := func(who string, of ledger.StyleScope, terms string) {
		t.Helper()
		versions, err := l.Styles(ctx, as(who), of)
		require.NoError(t, err)
		_, err = l.PutStyle(ctx, as(who), of, "house-style: X\n"+terms, "as settled", len(versions))
		require.NoError(t, err)
	}
	holds := func(promise string, days int) {
		t.Helper()
		for _, who := range []string{"lead.q", "imke"} {
			a, err := l.API(ctx, as(who), "berths")
			require.NoError(t, err)
			require.Equal(t, promise, a.Promise)
			require.Equal(t, days, a.NoticeDays)
			all, err := l.APIs(ctx, as(who))
			require.NoError(t, err)
			require.Equal(t, promise, all[0].Promise)
		}
	}
	all, team, api := ledger.StyleScope{}, ledger.StyleScope{Team: "Quayside"}, ledger.StyleScope{API: "berths"}
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	holds("backward", 0)
	put("imke", all, "releases: {promise: both-ways, notice: 60}\n")
	holds("both-ways", 60)
	put("lead.q", team, "releases: {promise: none, notice: 30}\n")
	holds("none", 60)
	put("lead.q", api, "releases: {promise: backward, notice: 90}\n")
	holds("backward", 90)
	require.NoError(t, l.Set(ctx, as("publisher.q"), "berths", ledger.Settings{Promise: new("both-ways"), Reason: "They roll back."}))
	require.NoError(t, l.Set(ctx, as("imke"), "berths", ledger.Settings{NoticeDays: new(7)}))
	holds("both-ways", 7)
	require.NoError(t, l.Set(ctx, as("publisher.q"), "berths", ledger.Settings{Promise: new(""), Reason: "No longer."}))
	require.NoError(t, l.Set(ctx, as("imke"), "berths", ledger.Settings{NoticeDays: new(-1)}))
	holds("backward", 90)
	put("lead.q", api, "")
	put("lead.q", team, "rules: {}\n")
	holds("both-ways", 60)
	_, err = l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
}

// TestReview has a style ask that somebody else publishes, and that leads alone let something through. Who comes afterwards is asked
// the same, and no team takes it away.
func TestReview(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	_, err := l.PutStyle(ctx, as("imke"), ledger.StyleScope{}, "house-style: House\nreview: {publisher: another, exceptions: leads}\n", "", 0)
	require.NoError(t, err)
	_, err = l.PutStyle(ctx, as("lead.q"), ledger.StyleScope{Team: "Quayside"}, "house-style: Q\nreview: {publisher: anyone, exceptions: publishers}\n", "", 0)
	require.NoError(t, err)
	record := func(who, version, field string) {
		t.Helper()
		_, err := l.Record(ctx, as(who), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe(version, field)})
		require.NoError(t, err)
	}
	record("publisher.q", "1.0.0", "a: {type: string}")
	check, err := l.PublishCheck(ctx, as("publisher.q"), "berths@1.0.0")
	require.NoError(t, err)
	require.Len(t, check.Unmet, 1)
	waiting, err := l.Waiting(ctx, as("publisher.q"))
	require.NoError(t, err)
	require.Contains(t, waiting.Drafts[0].Why, "somebody else publishes it")
	waiting, err = l.Waiting(ctx, as("lead.q"))
	require.NoError(t, err)
	require.True(t, waiting.Drafts[0].Open)
	_, err = l.Publish(ctx, as("publisher.q"), "berths@1.0.0", nil)
	require.ErrorContains(t, err, "publisher.q recorded berths@1.0.0 last, and by the house style somebody else publishes it")
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)

	record("editor.q", "1.1.0", "a: {type: integer}")
	check, err = l.PublishCheck(ctx, as("publisher.q"), "berths@1.1.0")
	require.NoError(t, err)
	require.Equal(t, []string{"by the house style a lead lets through what stands in the way of berths@1.1.0"}, check.Unmet)
	waive := []ledger.Waive{{Change: check.Obstacles[0].Change.ID, Reason: "why"}}
	_, err = l.Publish(ctx, as("publisher.q"), "berths@1.1.0", waive)
	require.ErrorContains(t, err, "a lead lets through what stands in the way")
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.1.0", waive)
	require.NoError(t, err)
}

// TestNoticesCount has a notice of the ledger say until when an operation stays whose description does not.
func TestNoticesCount(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	text := strings.Replace(string(describe("1.0.0", "a: {type: string}")), "operationId: book", "operationId: book\n      deprecated: true", 1)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: []byte(text)})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)
	undated := func() bool {
		t.Helper()
		found, err := l.FindingsOf(ctx, as("lead.q"), "berths@1.0.0")
		require.NoError(t, err)
		return slices.ContainsFunc(found.Diagnostics(), func(d *source.Diagnostic) bool { return d.Rule == "leaving-dated" })
	}
	require.True(t, undated())
	notice, err := l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "berths@1.0.0", Operation: "book", Reason: "It goes."})
	require.NoError(t, err)
	require.True(t, undated(), "it has no day")
	_, err = l.Amend(ctx, as("lead.q"), notice.ID, ledger.Amendment{Sunset: new("2027-01-10")})
	require.NoError(t, err)
	require.False(t, undated())
}

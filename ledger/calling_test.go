package ledger_test

import (
	"bytes"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/ledger"
)

// at is a description that answers somewhere.
func answersAt(text []byte, server string) []byte {
	return bytes.Replace(text, []byte("paths:"), []byte("servers: [{url: '"+server+"'}]\npaths:"), 1)
}

// TestCalling says how an API is called: what its server does with undeclared input counts wherever it is compared, and what does not go
// together is told: with its descriptions, and with other APIs that the actor reads.
func TestCalling(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	record := func(who, api, version, field, server string) {
		t.Helper()
		_, err := l.Record(ctx, as(who), ledger.Submission{API: api, File: api + ".yaml", Text: answersAt(describe(version, field), server)})
		require.NoError(t, err)
		_, err = l.Publish(ctx, as("lead"+who[len(who)-2:]), api+"@"+version, nil)
		require.NoError(t, err)
	}
	record("editor.q", "berths", "1.0.0", "a: {type: string}", "https://api.saltmere.example/v1")
	require.NoError(t, l.Set(ctx, as("publisher.q"), "berths", ledger.Settings{Promise: new("none"), Reason: "The address moves."}))
	record("editor.q", "berths", "1.1.0", "a: {type: string}, b: {type: string}", "https://api.saltmere.example/v2")
	record("editor.n", "pilots", "1.0.0", "a: {type: string}", "https://api.saltmere.example/v2")
	set := func(who string, s ledger.Settings) error { return l.Set(ctx, as(who), "berths", s) }
	require.ErrorContains(t, set("publisher.q", ledger.Settings{Versioning: new("pth /v1")}), `did you mean "path"?`)
	require.ErrorContains(t, set("publisher.q", ledger.Settings{Undeclared: new("eaten")}), "it is ignored or refused")
	require.ErrorContains(t, set("editor.q", ledger.Settings{Undeclared: new("ignored")}), "say how an API is called")

	grade := func(o compare.Options) compare.Grade {
		t.Helper()
		c, err := l.Compare(ctx, as("reader.q"), "berths@1.0.0", "berths@1.1.0", o)
		require.NoError(t, err)
		i := slices.IndexFunc(c.Changes, func(ch *compare.Change) bool { return strings.Contains(ch.Title, "b ") })
		require.GreaterOrEqual(t, i, 0)
		return c.Changes[i].Forward
	}
	require.Equal(t, compare.Hazard, grade(compare.Options{}))
	require.NoError(t, set("publisher.q", ledger.Settings{Versioning: new("path   /v{line}"), Undeclared: new("refused")}))
	require.Equal(t, compare.Breaking, grade(compare.Options{}), "after a rollback, what is new is refused")
	require.Equal(t, compare.Hazard, grade(compare.Options{Undeclared: compare.Ignored}))
	require.NoError(t, set("publisher.q", ledger.Settings{Promise: new("both-ways"), Reason: "They roll back."}))
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: describe("1.2.0", "a: {type: string}, b: {type: string}, c: {type: string}")})
	require.NoError(t, err)
	gate, err := l.Gate(ctx, as("lead.q"), "berths@1.2.0")
	require.NoError(t, err)
	require.False(t, gate.Open, "the gate knows it, too")

	told, err := l.Calling(ctx, as("reader.q"), "berths")
	require.NoError(t, err)
	require.Equal(t, "path /v{line}", told.Scheme.String())
	require.Len(t, told.Versions, 3)
	require.Equal(t, "by the path, with /v1", told.Versions[1].Says)
	require.Contains(t, told.Versions[1].Faults[0].Text, "/v2/bookings does not hold /v1")
	require.Equal(t, "pilots", told.Versions[1].Clashes[0].API)
	require.Empty(t, told.Versions[2].Faults)
	require.Empty(t, told.Versions[2].Clashes)

	// What the actor does not read is not told, and an upgrade under way is meant.
	require.NoError(t, l.SetAudience(ctx, as("lead.n"), "pilots", ledger.AudienceWish{Published: &ledger.Audience{}}))
	told, err = l.Calling(ctx, as("reader.q"), "berths")
	require.NoError(t, err)
	require.Empty(t, told.Versions[1].Clashes)
	told, err = l.Calling(ctx, as("imke"), "berths")
	require.NoError(t, err)
	require.Len(t, told.Versions[1].Clashes, 1)
	_, err = l.Deprecate(ctx, as("lead.n"), ledger.Announcement{Ref: "pilots@1.0.0", ReplacedBy: "berths@1.1.0", Reason: "They moved."})
	require.NoError(t, err)
	told, err = l.Calling(ctx, as("imke"), "berths")
	require.NoError(t, err)
	require.Empty(t, told.Versions[1].Clashes)

	_, err = l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.NoError(t, set("publisher.q", ledger.Settings{Versioning: new(""), Undeclared: new("")}))
	require.Equal(t, compare.Hazard, grade(compare.Options{}))
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.True(t, v.Intact, v.Why)
}

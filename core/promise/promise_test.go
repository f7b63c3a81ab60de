package promise_test

import (
	"testing"
	"time"

	"github.com/Masterminds/semver/v3"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/promise"
)

func comparison(changes ...*compare.Change) *compare.Comparison {
	return &compare.Comparison{Changes: changes}
}

// TestJudge opens and shuts the gate.
func TestJudge(t *testing.T) {
	t.Parallel()
	breaks := &compare.Change{ID: "b", Title: "b", Backward: compare.Breaking}
	back := &compare.Change{ID: "f", Title: "f", Backward: compare.Safe, Forward: compare.Breaking}
	fine := &compare.Change{ID: "s", Title: "s", Backward: compare.Hazard, Forward: compare.Hazard}
	for _, c := range []struct {
		name      string
		promise   promise.Promise
		changes   []*compare.Change
		waived    []string
		open      bool
		obstacles int
	}{
		{"nothing breaks", promise.Backward, []*compare.Change{fine, back}, nil, true, 0},
		{"a break shuts it", promise.Backward, []*compare.Change{fine, breaks}, nil, false, 1},
		{"a waiver opens it", promise.Backward, []*compare.Change{breaks}, []string{"b"}, true, 1},
		{"a waiver for another does not", promise.Backward, []*compare.Change{breaks}, []string{"x"}, false, 1},
		{"both-ways promises the way back", promise.BothWays, []*compare.Change{back, breaks}, nil, false, 2},
		{"both-ways, both waived", promise.BothWays, []*compare.Change{back, breaks}, []string{"b", "f"}, true, 2},
		{"no promise", promise.None, []*compare.Change{breaks, back}, nil, true, 0},
	} {
		gate := promise.Judge(c.promise, []promise.Against{{Version: "1.0.0", Comparison: comparison(c.changes...)}}, c.waived)
		require.Equal(t, c.open, gate.Open, c.name)
		require.Len(t, gate.Obstacles, c.obstacles, c.name)
	}
	gate := promise.Judge(promise.Backward, []promise.Against{
		{Version: "1.0.0", Comparison: comparison(breaks)}, {Version: "1.1.0", Comparison: comparison(breaks)},
	}, nil)
	require.Len(t, gate.Obstacles, 1, "one change that breaks two versions is one obstacle")
	require.Equal(t, []string{"1.0.0", "1.1.0"}, gate.Obstacles[0].Against)
}

func TestOf(t *testing.T) {
	t.Parallel()
	for version, want := range map[string]promise.Promise{
		"1.0.0": promise.BothWays, "0.9.0": promise.None, "2.0.0-rc.1": promise.None, "12.3.4": promise.BothWays,
	} {
		require.Equal(t, want, promise.Of(promise.BothWays, semver.MustParse(version)), version)
	}
	require.Equal(t, "12", promise.Line(semver.MustParse("12.3.4")))
}

// TestNotice tells what a notice speaks of, and whether its day has come.
func TestNotice(t *testing.T) {
	t.Parallel()
	day := func(s string) time.Time {
		d, err := time.Parse(time.DateOnly, s)
		require.NoError(t, err)
		return d
	}
	api := promise.Notice{API: "berths", Sunset: "2027-03-01"}
	line := promise.Notice{API: "berths", Line: "1"}
	version := promise.Notice{API: "berths", Version: "1.2.0"}
	field := promise.Notice{API: "berths", Line: "1", Field: "Vessel.length"}
	operation := promise.Notice{API: "berths", Version: "1.2.0", Operation: "GET /quays"}
	require.True(t, api.Covers("2.0.0", "2"))
	require.True(t, line.Covers("1.0.0", "1"))
	require.False(t, line.Covers("2.0.0", "2"))
	require.True(t, version.Covers("1.2.0", "1"))
	require.False(t, version.Covers("1.1.0", "1"))
	require.True(t, version.Whole())
	require.False(t, field.Whole())
	require.False(t, operation.Whole())
	require.False(t, api.Overdue(day("2027-03-01")))
	require.True(t, api.Overdue(day("2027-03-02")))
	require.False(t, line.Overdue(day("2099-01-01")), "without a date nothing is overdue")
	for n, want := range map[*promise.Notice]string{
		&api: "berths", &line: "berths, line 1", &version: "berths 1.2.0", &field: "berths, line 1, length of Vessel",
		&operation: "berths 1.2.0, GET /quays",
	} {
		require.Equal(t, want, n.Subject())
	}
}

// TestAnnounce finds how a removal was announced.
func TestAnnounce(t *testing.T) {
	t.Parallel()
	today := time.Date(2027, 3, 2, 0, 0, 0, 0, time.UTC)
	notices := []promise.Notice{
		{ID: 1, Field: "Vessel.length", Sunset: "2027-03-01"},
		{ID: 2, Operation: "GET /quays", Sunset: "2027-04-01"},
	}
	at := func(component string, fields ...string) *compare.Place {
		return &compare.Place{Component: component, Fields: fields}
	}
	field := &compare.Change{Kind: "request.property.removed", Backward: compare.Breaking, Old: at("Vessel", "length")}
	an := promise.Announce(field, notices, today)
	require.True(t, an.Announced)
	require.Equal(t, int64(1), an.Notice.ID)
	an = promise.Announce(field, notices, today.AddDate(0, 0, -1))
	require.False(t, an.Announced, "on the day itself it still stands")
	require.NotNil(t, an.Notice)
	operation := &compare.Change{
		Kind: "operation.removed", Operation: "GET /quays", Location: compare.Location{Part: compare.PartOperation},
		Backward: compare.Breaking, Old: at(""),
	}
	an = promise.Announce(operation, notices, today)
	require.False(t, an.Announced)
	require.Equal(t, int64(2), an.Notice.ID)
	other := &compare.Change{Kind: "request.property.removed", Backward: compare.Hazard, Old: at("Vessel", "name")}
	an = promise.Announce(other, notices, today)
	require.False(t, an.Announced)
	require.Nil(t, an.Notice)
	nested := &compare.Change{Kind: "request.property.removed", Backward: compare.Hazard, Old: at("Vessel", "length", "x")}
	require.Nil(t, promise.Announce(nested, notices, today).Notice)
	added := &compare.Change{Kind: "request.property.added", Backward: compare.Safe, Old: at("Vessel")}
	require.Nil(t, promise.Announce(added, notices, today))
}

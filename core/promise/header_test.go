package promise_test

import (
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/promise"
)

// TestHeaderByTheLetter holds the fields against their grammars: sf-date is "@" and an integer (RFC 9651, section 3.3.7), HTTP-date is that
// of RFC 9110, section 5.6.7. Both name the first moment of their day in UTC, in every time zone.
func TestHeaderByTheLetter(t *testing.T) {
	t.Parallel()
	sfDate := regexp.MustCompile(`^@-?[0-9]{1,15}$`)
	imfFixdate := regexp.MustCompile(
		`^(Mon|Tue|Wed|Thu|Fri|Sat|Sun), [0-9]{2} (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) [0-9]{4} [0-9]{2}:[0-9]{2}:[0-9]{2} GMT$`)
	zone := time.Local
	t.Cleanup(func() { time.Local = zone })
	rapid.Check(t, func(t *rapid.T) {
		time.Local = time.FixedZone("somewhere", rapid.IntRange(-14*3600, 14*3600).Draw(t, "zone"))
		since := time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, rapid.IntRange(0, 20000).Draw(t, "since"))
		sunset := since.AddDate(0, 0, rapid.IntRange(1, 4000).Draw(t, "after"))
		h := promise.HeaderOf([]promise.Notice{{Since: since.Format(time.DateOnly), Sunset: sunset.Format(time.DateOnly)}})
		require.Regexp(t, sfDate, h.Deprecation)
		require.Regexp(t, imfFixdate, h.Sunset)
		seconds, err := strconv.ParseInt(strings.TrimPrefix(h.Deprecation, "@"), 10, 64)
		require.NoError(t, err)
		require.True(t, since.Equal(time.Unix(seconds, 0)))
		read, err := http.ParseTime(h.Sunset)
		require.NoError(t, err)
		require.True(t, sunset.Equal(read))
	})
}

// TestHeaderOfSeveral takes the first day of each, and leaves out what is no day.
func TestHeaderOfSeveral(t *testing.T) {
	t.Parallel()
	require.Equal(t, promise.Header{}, promise.HeaderOf(nil))
	require.Equal(t, promise.Header{Deprecation: "@1767225600", Sunset: "Mon, 01 Mar 2027 00:00:00 GMT"}, promise.HeaderOf([]promise.Notice{
		{Since: "2026-06-01", Sunset: "2027-03-01"}, {Since: "2026-01-01"}, {Since: "soon", Sunset: "2027-09-01"},
	}))
}

// TestAnnounceParameter finds the notice of a parameter that was taken out, and keeps it apart from one of its operation.
func TestAnnounceParameter(t *testing.T) {
	t.Parallel()
	today := time.Date(2027, 1, 1, 0, 0, 0, 0, time.UTC)
	ch := &compare.Change{
		Kind: "parameter.removed", Backward: compare.Hazard, Operation: "GET /berths",
		Location: compare.Location{Part: compare.PartParameter, In: "query", Name: "limit"}, Old: &compare.Place{},
	}
	whole := promise.Notice{Operation: "GET /berths", Sunset: "2026-12-01"}
	limit := promise.Notice{Operation: "GET /berths", Parameter: "query limit", Sunset: "2027-12-01"}
	require.Nil(t, promise.Announce(ch, []promise.Notice{whole}, today).Notice)
	require.Equal(t, "announced to leave on 2027-12-01, not before", promise.Announce(ch, []promise.Notice{whole, limit}, today).String())
	require.Equal(t, "nobody announced it", promise.Announce(ch, nil, today).String())
	gone := &compare.Change{
		Kind: "operation.removed", Backward: compare.Breaking, Operation: "GET /berths",
		Location: compare.Location{Part: compare.PartOperation}, Old: &compare.Place{},
	}
	require.Equal(t, "announced, and its date has passed: 2026-12-01", promise.Announce(gone, []promise.Notice{limit, whole}, today).String())
	require.Equal(t, "limit of GET /berths", strings.TrimPrefix(limit.Subject(), ", "))
}

package promise_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/promise"
)

// TestSettled ends a part with the whole that leaves first, and says which.
func TestSettled(t *testing.T) {
	t.Parallel()
	notices := []promise.Notice{
		{ID: 1, Line: "1", Sunset: "2027-03-01"},
		{ID: 2, Version: "1.2.0", Sunset: "2027-02-01"},
		{ID: 3, Line: "1", Operation: "GET /berths", Sunset: "2027-05-05"},
		{ID: 4, Version: "1.2.0", Operation: "GET /berths", Parameter: "query limit"},
		{ID: 5, Version: "1.1.0", Field: "Vessel.length", Sunset: "2027-01-01"},
		{ID: 6, Line: "2", Operation: "POST /bookings", Sunset: "2029-01-01"},
		{ID: 7, Line: "2", Operation: "POST /bookings", Parameter: "query dry", Sunset: "2029-06-01"},
		{ID: 8, Operation: "GET /quays", Sunset: "2030-01-01"},
	}
	lineOf := func(version string) string { return version[:1] }
	told := func(all []promise.Notice) map[int64]string {
		out := map[int64]string{}
		for _, n := range all {
			out[n.ID] = n.Sunset
			if n.EndedBy != "" {
				out[n.ID] += " with " + n.EndedBy + ", own " + n.Own
			}
		}
		return out
	}
	require.Equal(t, map[int64]string{
		1: "2027-03-01", 2: "2027-02-01", 3: "2027-03-01 with line 1, own 2027-05-05", 4: "2027-02-01 with version 1.2.0, own ", 5: "2027-01-01",
		6: "2029-01-01", 7: "2029-01-01 with POST /bookings, own 2029-06-01", 8: "2030-01-01",
	}, told(promise.Settled(notices, lineOf)))
	require.Equal(t, map[int64]string{
		1: "2027-03-01", 2: "2027-02-01", 3: "2027-02-01 with version 1.2.0, own 2027-05-05",
		4: "2027-02-01 with version 1.2.0, own ", 8: "2027-02-01 with version 1.2.0, own 2030-01-01",
	}, told(promise.SettledIn(notices, "1.2.0", "1")))
	require.Equal(t, "2027-05-05", notices[2].Sunset, "what was given is left as it is")
}

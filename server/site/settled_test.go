package site

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestOneDate gives one date for an operation that leaves with its line before its own date: on its page, beside it, in the headers of its
// page, in the feed, in the calendar, in the table, and to a gateway.
func TestOneDate(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, h := newSite(t, small)
	for _, a := range []ledger.Announcement{
		{Ref: "berths@1.0.0", Line: true, Operation: "readA", Reason: "Read B.", Sunset: "2027-05-05", ReplacedBy: "readB"},
		{Ref: "berths@1.0.0", Line: true, Reason: "Line 2 comes.", Sunset: "2027-03-01"},
	} {
		_, err := l.Deprecate(ctx, editor, a)
		require.NoError(t, err)
	}
	w := get(t, h, "/reference/berths/1.0.0/operations/readA")
	page := w.Body.String()
	require.Contains(t, page, "Deprecated, leaves on 1 March 2027 with line 1, before its own date, 5 May 2027.")
	require.Contains(t, page, `<small>leaves 1 March 2027</small>`)
	require.Contains(t, page, `Use <a href="/reference/berths/1.0.0/operations/readB">readB</a> instead.`)
	require.Equal(t, "Mon, 01 Mar 2027 00:00:00 GMT", w.Header().Get("Sunset"))
	require.Contains(t, get(t, h, "/reference/berths/feed.atom").Body.String(), "berths, line 1, GET /a leaves on 1 March 2027")
	calendar := get(t, h, "/reference/berths/sunsets.ics").Body.String()
	require.Contains(t, calendar, "DTSTART;VALUE=DATE:20270301")
	require.NotContains(t, calendar, "20270505")
	for _, path := range []string{"/reference/berths/notices", "/reference/", "/reference/sunsets"} {
		require.Contains(t, get(t, h, path).Body.String(), "with line 1, before its own date, 5 May 2027", path)
	}
	all, err := l.Headers(ctx, ledger.Nobody, "berths@1.0.0", "https://docs.saltmere.example")
	require.NoError(t, err)
	for _, gateway := range all {
		require.Equal(t, "Mon, 01 Mar 2027 00:00:00 GMT", gateway.Sunset)
	}
	require.Len(t, all, 2)
}

package site

import (
	"context"
	"encoding/xml"
	"net/http"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestFollowed reads what leaves in a feed and in a calendar, and reads it again when a date moves.
func TestFollowed(t *testing.T) {
	t.Parallel()
	l, h := newSite(t, "openapi: 3.1.0\ninfo: {title: 'Berths & quays', version: 1.0.0, x-ledger-name: berths}\npaths: {}\n")
	ctx := context.Background()
	n, err := l.Deprecate(ctx, editor, ledger.Announcement{
		Ref: "berths@1.0.0", Line: true, Reason: "Line 2 <is> out; see there.",
		ReplacedBy: "berths@1.0.0", Sunset: "2027-03-01",
	})
	require.NoError(t, err)
	_, err = l.Deprecate(ctx, editor, ledger.Announcement{Ref: "berths", Reason: "Nobody asks."})
	require.NoError(t, err)

	type atom struct {
		XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
		Title   string   `xml:"title"`
		ID      string   `xml:"id"`
		Updated string   `xml:"updated"`
		Entries []struct {
			ID      string `xml:"id"`
			Title   string `xml:"title"`
			Updated string `xml:"updated"`
			Content string `xml:"content"`
		} `xml:"entry"`
	}
	read := func(path string) atom {
		w := get(t, h, path)
		require.Equal(t, http.StatusOK, w.Code, w.Body.String())
		require.Equal(t, "application/atom+xml; charset=utf-8", w.Header().Get("Content-Type"))
		var f atom
		require.NoError(t, xml.Unmarshal(w.Body.Bytes(), &f))
		_, err := time.Parse(time.RFC3339, f.Updated)
		require.NoError(t, err)
		return f
	}
	for _, path := range []string{"/reference/feed.atom", "/reference/berths/feed.atom"} {
		f := read(path)
		require.Len(t, f.Entries, 3)
		ids := map[string]string{}
		for _, e := range f.Entries {
			ids[e.ID] = e.Title + ": " + e.Content
		}
		require.Len(t, ids, 3)
		require.Equal(t, "berths, line 1 leaves on 1 March 2027: Deprecated since 20 November 2026. Line 2 <is> out; see there. Now: berths@1.0.0.",
			ids["http://example.com/reference/berths/notices#notice-1"])
	}
	require.Contains(t, get(t, h, "/reference/berths/notices").Body.String(), `id="notice-1"`)

	days := func(path string) map[string]*ics.VEvent {
		w := get(t, h, path)
		require.Equal(t, "text/calendar; charset=utf-8", w.Header().Get("Content-Type"))
		c, err := ics.ParseCalendar(strings.NewReader(w.Body.String()))
		require.NoError(t, err)
		all := map[string]*ics.VEvent{}
		for _, e := range c.Events() {
			all[e.Id()] = e
		}
		return all
	}
	event := days("/reference/berths/sunsets.ics")["notice-1@example.com"]
	require.NotNil(t, event)
	require.Len(t, days("/reference/sunsets.ics"), 1, "what has no date has no day")
	require.Equal(t, "20270301", event.GetProperty(ics.ComponentPropertyDtStart).Value)
	require.Equal(t, []string{"DATE"}, event.GetProperty(ics.ComponentPropertyDtStart).ICalParameters["VALUE"],
		"a day is the same in every time zone")
	require.Equal(t, "berths, line 1 leaves", event.GetProperty(ics.ComponentPropertySummary).Value)

	later := "2027-06-30"
	_, err = l.Amend(ctx, editor, n.ID, ledger.Amendment{Sunset: &later})
	require.NoError(t, err)
	require.Equal(t, "20270630", days("/reference/berths/sunsets.ics")["notice-1@example.com"].GetProperty(ics.ComponentPropertyDtStart).Value)
	require.Contains(t, get(t, h, "/reference/berths/1.0.0/").Body.String(), "leaves on 30 June 2027")
	require.Equal(t, "Wed, 30 Jun 2027 00:00:00 GMT", get(t, h, "/reference/berths/1.0.0/").Header().Get("Sunset"))
	entries, err := l.Journal(ctx, ledger.Itself, ledger.Question{}, 0, 100)
	require.NoError(t, err)
	last := entries[len(entries)-1]
	require.Equal(t, "notice.changed", last.Act)
	require.Contains(t, string(last.Detail), `"sunsetBefore":"2027-03-01"`)
	_, err = l.Amend(ctx, editor, n.ID, ledger.Amendment{Sunset: &later})
	require.ErrorContains(t, err, "says so already")
	early := "2026-01-01"
	_, err = l.Amend(ctx, editor, n.ID, ledger.Amendment{Sunset: &early})
	require.ErrorContains(t, err, "must come after")
	require.Equal(t, http.StatusNotFound, get(t, h, "/reference/nobody/feed.atom").Code)
}

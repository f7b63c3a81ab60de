package site

import (
	"encoding/xml"
	"errors"
	"io"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/promise"
	"oldledger/ledger"
)

// marks are where the ends of the rows of a chart stand, in their order.
func marks(t *testing.T, drawing string) []int {
	t.Helper()
	d := xml.NewDecoder(strings.NewReader(drawing))
	for {
		if _, err := d.Token(); errors.Is(err, io.EOF) {
			break
		} else {
			require.NoError(t, err, "the drawing is well-formed")
		}
	}
	var all []int
	for _, m := range regexp.MustCompile(`<path d="M(\d+) \d+v14" class="stop"></path>`).FindAllStringSubmatch(drawing, -1) {
		x, err := strconv.Atoi(m[1])
		require.NoError(t, err)
		require.True(t, x >= 0 && x <= chartWidth)
		all = append(all, x)
	}
	return all
}

func drawn(t *testing.T, c *chart) string {
	t.Helper()
	var b strings.Builder
	require.NoError(t, c.drawing().Render(t.Context(), &b))
	return b.String()
}

func TestSunsetChart(t *testing.T) {
	t.Parallel()
	today := time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)
	chart := drawn(t, sunsetChart([]promise.Notice{
		{API: "berths", Field: "Vessel.length", Since: "2026-01-01", Sunset: "2026-06-01"},
		{API: "berths", Operation: "GET /<b>", Since: "2026-02-01", Sunset: "2027-06-01"},
		{API: "dues", Since: "2026-03-01"},
	}, today))
	ends := marks(t, chart)
	require.Len(t, ends, 2, "one has no date")
	require.Less(t, ends[0], ends[1])
	for _, want := range []string{
		`class="overdue"`, "1 June 2026", "1 June 2027", "no date yet", "length of Vessel", "GET /&lt;b&gt;",
		">today<", `class="month"`,
	} {
		require.Contains(t, chart, want)
	}
	require.NotContains(t, chart, "style=", "the pages' policy allows none")
}

func TestLifeChart(t *testing.T) {
	t.Parallel()
	today := time.Date(2026, 11, 20, 0, 0, 0, 0, time.UTC)
	versions := []ledger.Version{
		{Number: "2.0.0", Line: "2", PublishedAt: "2026-10-01T09:00:00Z"},
		{Number: "1.1.0", Line: "1", PublishedAt: "2026-03-01T09:00:00Z", Sunset: "2027-03-01"},
		{Number: "1.0.0", Line: "1", PublishedAt: "2025-03-01T09:00:00Z", Sunset: "2027-03-01"},
	}
	chart := drawn(t, lifeChart(ledger.API{
		Name: "berths", Title: "Berths",
		Notices: []promise.Notice{{API: "berths", Line: "1", Since: "2026-10-01", Sunset: "2027-03-01"}},
	}, versions, today))
	ends := marks(t, chart)
	require.Len(t, ends, 2)
	require.Equal(t, ends[0], ends[1], "the line and its notice end on one day")
	require.Equal(t, 3, strings.Count(chart, "<circle"))
	for _, want := range []string{"line 1 leaves 1 March 2027", ">line 2<", ">line 1<", ">1.0.0<"} {
		require.Contains(t, chart, want)
	}
}

package ledger_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/report"
	"oldledger/ledger"
)

// TestOverview counts what was done, for each team what it may see, and every number is as many as the lines that it counts.
func TestOverview(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l, _, as := called(t)
	c.now = at(t, "2026-02-01")
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", File: "berths.yaml", Text: answersAt(describe("1.1.0", "a: {type: integer}"), "https://api.saltmere.example/v1")})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.1.0", nil)
	var shut *ledger.GateShut
	require.ErrorAs(t, err, &shut)
	var waives []ledger.Waive
	for _, o := range shut.Gate.Obstacles {
		waives = append(waives, ledger.Waive{Change: o.Change.ID, Reason: "All were asked."})
	}
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.1.0", waives)
	require.NoError(t, err)
	_, err = l.Deprecate(ctx, as("publisher.q"), ledger.Announcement{Ref: "berths@1.1.0", Sunset: "2026-05-01", Reason: "x", ReplacedBy: "berths@2"})
	require.NoError(t, err)
	log := "192.0.2.1 - - [03/Feb/2026:10:00:00 +0000] \"POST /v1/bookings HTTP/1.1\" 200 5 \"-\" \"x\"\n"
	c.now = at(t, "2026-04-10")
	_, err = l.AddLog(ctx, as("editor.q"), ledger.LogWish{Name: "x", Text: strings.NewReader(log)})
	require.NoError(t, err)

	asked := func(who string) map[string]report.Section {
		o, err := l.Overview(ctx, as(who), "2026-01-01", "2026-04-10")
		require.NoError(t, err)
		by := map[string]report.Section{}
		for _, s := range o.Sections {
			by[s.ID] = s
		}
		return by
	}
	words := func(rows []report.Row) string {
		var all []string
		for _, r := range rows {
			all = append(all, strings.Join(r.Cells, " "))
		}
		return strings.Join(all, "; ")
	}
	mine := asked("reader.q")
	require.Equal(t, "Quayside 3 3 2 1 0", words(mine["breaks"].Summary.Rows))
	require.Contains(t, words(mine["breaks"].Detail.Rows), "berths 1.1.0 a is integer, was string waived: All were asked. lead.q 2026-02-01")
	require.Equal(t, "Quayside 1 68 0 0", words(mine["deprecations"].Summary.Rows))
	require.Equal(t, "Quayside 1 1 2", words(mine["last-call"].Summary.Rows))
	require.Contains(t, words(mine["last-call"].Detail.Rows), "2026-02-01 2026-02-03 2 quiet")
	require.Equal(t, "Quayside 1 2 1", words(mine["lines"].Summary.Rows))
	require.Contains(t, words(mine["lines"].Detail.Rows), "berths 1 1.1.0")
	require.Equal(t, "Quayside 1 4 1 25 %", words(mine["documentation"].Summary.Rows))
	require.NotContains(t, fmt.Sprint(mine), "pilots")
	require.Contains(t, fmt.Sprint(asked("imke")), "pilots")
	for id, s := range mine {
		for _, r := range s.Summary.Rows {
			require.Len(t, r.Cells, len(s.Summary.Columns), id)
		}
		for _, r := range s.Detail.Rows {
			require.Len(t, r.Cells, len(s.Detail.Columns), id)
			require.Equal(t, "Quayside", r.Cells[0], id)
		}
	}
	_, err = l.Overview(ctx, as("lead.q"), "soon", "")
	require.Equal(t, ledger.Invalid, fault(err))
	_, err = l.Overview(ctx, ledger.Actor{}, "", "")
	require.Error(t, err)
}

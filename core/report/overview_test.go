package report_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/report"
)

// TestOverview writes texts that somebody else chose so that they are texts in every format.
func TestOverview(t *testing.T) {
	t.Parallel()
	table := report.Table{
		Columns: []report.Column{{Name: "team"}, {Name: "why"}, {Name: "calls", Number: true}},
		Rows:    []report.Row{{Cells: []string{"Quayside", "=cmd|x <b>*y*\n\"z\"", "5"}, To: "/apis/berths?change=1"}},
	}
	o := &report.Overview{From: "2026-01-01", Until: "2026-03-31", Sections: []report.Section{
		{ID: "breaks", Title: "Breaks", About: "What broke.", Summary: table, Detail: table}, {ID: "none", Title: "None"},
	}}
	md := report.MarkdownOverview(o)
	assert.Contains(t, md, "| team | why | calls |\n|---|---|---:|\n| Quayside | =cmd\\|x \\<b>\\*y\\* \"z\" | 5 |\n")
	page, err := report.HTMLOverview(o, "https://ledger.saltmere.example/console")
	require.NoError(t, err)
	assert.Contains(t, page, `<a href="https://ledger.saltmere.example/console/apis/berths?change=1">=cmd|x &lt;b&gt;*y*`)
	assert.NotContains(t, page, "<script")
	plain, err := report.HTMLOverview(o, "")
	require.NoError(t, err)
	assert.NotContains(t, plain, "<a href=\"/apis")
	long, err := report.CSVOverview(o)
	require.NoError(t, err)
	assert.Equal(t, "section,team,what,value\nbreaks,Quayside,why,\"'=cmd|x <b>*y*\n\"\"z\"\"\"\nbreaks,Quayside,calls,5\n", long)
	one, ok := o.Of("breaks")
	require.True(t, ok)
	rows, err := report.CSVOverview(&one)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(rows, "team,why,calls\nQuayside,"), rows)
	_, ok = o.Of("absent")
	assert.False(t, ok)
}

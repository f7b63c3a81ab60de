package report_test

import (
	"encoding/json"
	"encoding/xml"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/core/report"
)

// recorded are a description that breaks, one whose break was let through, one that is new, and one that was not recorded, with names that
// mean something in each format.
func recorded(t *testing.T) []report.Recorded {
	t.Helper()
	old := read(t, "old.yaml", []byte("openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\n"+
		"paths: {/a: {get: {parameters: [{name: q, in: query, schema: {type: string}}], responses: {'200': {description: A.}}}}}\n"))
	now := read(t, "a & b.yaml", []byte("openapi: 3.1.0\ninfo: {title: T, version: 1.1.0}\n"+
		"paths: {/a: {get: {parameters: [{name: q, in: query, required: true, schema: {type: string}}], responses: {'200': {description: A.}}}}}\n"))
	c := compare.Contracts(old, now, compare.Options{})
	against := []promise.Against{{Version: "1.0.0", Comparison: c}}
	shut := promise.Judge(promise.Backward, against, nil)
	require.False(t, shut.Open)
	open := promise.Judge(promise.Backward, against, []string{c.Changes[0].ID})
	require.True(t, open.Open)
	return []report.Recorded{
		{Description: "a & b.yaml", Version: "t@1.1.0", Outcome: "recorded as a draft", Base: "1.0.0", Changes: c, Gate: &shut},
		{Description: "let.yaml", Version: "let@1.1.0", Outcome: "recorded as a draft", Base: "1.0.0", Changes: c, Gate: &open},
		{Description: "new.yaml", Version: "new@1.0.0", Outcome: "recorded as a draft"},
		{Description: "<torn> *& odd*.yaml", Fault: "<torn>.yaml:1:2: a ``` \"list\" & more\nand a second line"},
	}
}

// TestRecorded tells in each format of what keeps a gate shut and of what was not recorded, and of nothing else as a failure.
func TestRecorded(t *testing.T) {
	t.Parallel()
	all := recorded(t)
	require.Equal(t, "recorded as a draft; against 1.0.0: 1 breaking; its gate is shut, for it breaks the promise of its line, backward", all[0].Says())
	require.Equal(t, "recorded as a draft; against 1.0.0: 1 breaking", all[1].Says())

	log, err := report.RecordedSARIF(all, "v0.1.0")
	require.NoError(t, err)
	validSARIF(t, log)
	var sarif struct {
		Runs []struct {
			Results []struct {
				RuleID, Level string
				Locations     []struct {
					PhysicalLocation struct{ ArtifactLocation struct{ URI string } }
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(log, &sarif))
	require.Len(t, sarif.Runs[0].Results, 2)
	require.Equal(t, "a%20&%20b.yaml", sarif.Runs[0].Results[0].Locations[0].PhysicalLocation.ArtifactLocation.URI)
	require.Equal(t, "%3Ctorn%3E%20%2A&%20odd%2A.yaml", sarif.Runs[0].Results[1].Locations[0].PhysicalLocation.ArtifactLocation.URI)

	text, err := report.RecordedJUnit(all)
	require.NoError(t, err)
	var suites struct {
		Tests    int `xml:"tests,attr"`
		Failures int `xml:"failures,attr"`
		Suites   []struct {
			Name  string `xml:"name,attr"`
			Cases []struct {
				Failure *struct {
					Text string `xml:",chardata"`
				} `xml:"failure"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal(text, &suites))
	require.Equal(t, [2]int{4, 2}, [2]int{suites.Tests, suites.Failures})
	require.Contains(t, suites.Suites[0].Cases[0].Failure.Text, "1.1.0 refuses GET /a without q")
	require.Nil(t, suites.Suites[1].Cases[0].Failure)
	require.Nil(t, suites.Suites[2].Cases[0].Failure)
	require.Equal(t, all[3].Fault, suites.Suites[3].Cases[0].Failure.Text)

	markdown := report.RecordedMarkdown(all)
	require.Contains(t, markdown, "## t@1.1.0\n")
	require.Contains(t, markdown, "refuses `GET /a without q`")
	require.Contains(t, markdown, "## \\<torn\\> \\*& odd\\*.yaml\n")
	require.Contains(t, markdown, "````\n<torn>.yaml:1:2: a ``` \"list\" & more\nand a second line\n````\n")
}

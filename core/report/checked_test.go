package report_test

import (
	"encoding/json"
	"encoding/xml"
	"os"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/report"
	"oldledger/core/source"
)

// slips is what is wrong with a description full of slips, as its reader tells it, with a warning and a hint more.
func slips(t *testing.T) []report.Checked {
	t.Helper()
	f, err := source.Parse("a & b.yaml", []byte(`openapi: 3.1.0
info: {title: T, version: 1.0.0}
paths:
  /a: {get: {operationID: a, responses: {'200': {descripton: "<b>"}}}}
`))
	require.NoError(t, err)
	c, err := format.Read(source.SetOf(f))
	require.NoError(t, err)
	found := c.Diagnostics.Sorted("a & b.yaml")
	at := f.Root.Get("info")
	found = append(found, at.Wrong(source.Rule{Name: "x", Severity: source.Hint}, "*could* wait").Also(f.Root, "here"))
	require.NotZero(t, found.Count(source.Error))
	require.NotZero(t, found.Count(source.Warning))
	return []report.Checked{{"a & b.yaml", found}, {"b@1.0.0", nil}}
}

// validSARIF holds a log against the schema of the standard.
func validSARIF(t *testing.T, log []byte) {
	t.Helper()
	text, err := os.ReadFile("testdata/sarif-2.1.0.schema.json")
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("sarif.json", doc))
	schema, err := compiler.Compile("sarif.json")
	require.NoError(t, err)
	v, err := jsonschema.UnmarshalJSON(strings.NewReader(string(log)))
	require.NoError(t, err)
	require.NoError(t, schema.Validate(v))
}

// TestCheckedSARIF is held against the schema of the standard, has a result for each diagnostic, and the fixes with their edits.
func TestCheckedSARIF(t *testing.T) {
	t.Parallel()
	all := slips(t)
	log, err := report.CheckedSARIF(all, contract.Rules, "v0.1.0")
	require.NoError(t, err)
	validSARIF(t, log)
	var read struct {
		Runs []struct {
			Results []struct {
				Level string
				Fixes []struct {
					ArtifactChanges []struct {
						ArtifactLocation struct{ URI string }
						Replacements     []struct{ InsertedContent struct{ Text string } }
					}
				}
				RelatedLocations []any
			}
		}
	}
	require.NoError(t, json.Unmarshal(log, &read))
	levels, written := map[string]int{}, ""
	for _, r := range read.Runs[0].Results {
		levels[r.Level]++
		for _, fix := range r.Fixes {
			require.Equal(t, "a%20&%20b.yaml", fix.ArtifactChanges[0].ArtifactLocation.URI)
			written += fix.ArtifactChanges[0].Replacements[0].InsertedContent.Text + " "
		}
	}
	found := all[0].Diagnostics
	require.Equal(t, map[string]int{
		"error": found.Count(source.Error), "warning": found.Count(source.Warning), "note": found.Count(source.Hint),
	}, levels)
	require.Equal(t, "operationId description ", written)
	require.Len(t, read.Runs[0].Results[len(found)-1].RelatedLocations, 1)
}

// TestCheckedJUnit counts again what the XML says, for each description; where nothing is wrong a case has passed.
func TestCheckedJUnit(t *testing.T) {
	t.Parallel()
	all := slips(t)
	text, err := report.CheckedJUnit(all)
	require.NoError(t, err)
	var read struct {
		Tests    int `xml:"tests,attr"`
		Failures int `xml:"failures,attr"`
		Suites   []struct {
			Name  string `xml:"name,attr"`
			Cases []struct {
				Failure *struct{} `xml:"failure"`
				Skipped *struct{} `xml:"skipped"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal(text, &read))
	failed, skipped := 0, 0
	for _, c := range read.Suites[0].Cases {
		if c.Failure != nil {
			failed++
		}
		if c.Skipped != nil {
			skipped++
		}
	}
	found := all[0].Diagnostics
	require.Equal(t, []int{len(found) + 1, found.Count(source.Error)}, []int{read.Tests, read.Failures})
	require.Equal(t, []int{found.Count(source.Error), found.Count(source.Warning)}, []int{failed, skipped})
	require.Equal(t, "b@1.0.0", read.Suites[1].Name)
	require.Len(t, read.Suites[1].Cases, 1)
}

// TestCheckedMarkdown has a line for each, in which nothing means anything to Markdown.
func TestCheckedMarkdown(t *testing.T) {
	t.Parallel()
	all := slips(t)
	text := report.CheckedMarkdown(all)
	require.Equal(t, len(all[0].Diagnostics), strings.Count(text, "\n- "))
	require.Contains(t, text, `hint`)
	require.Contains(t, text, `\*could\* wait`)
	require.Contains(t, text, "**nothing is wrong**")
}

package report_test

import (
	"encoding/json"
	"encoding/xml"
	"os"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/report"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

func read(t *testing.T, name string, text []byte) *contract.Contract {
	t.Helper()
	f, err := source.Parse(name, text)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

func demo(t *testing.T, old, new string) *compare.Comparison {
	t.Helper()
	var sides []*contract.Contract
	for _, name := range []string{old, new} {
		text, err := os.ReadFile("../../demo/" + name)
		require.NoError(t, err)
		sides = append(sides, read(t, name, text))
	}
	return compare.Contracts(sides[0], sides[1], compare.Options{})
}

// TestReports writes one comparison in every format, in files that can be read.
func TestReports(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		c := compare.Contracts(read(t, "old.yaml", cases.File(a, "old.yaml").Data), read(t, "new.yaml", cases.File(a, "new.yaml").Data),
			compare.Options{})
		page, err := report.HTML(c, report.Options{})
		require.NoError(t, err)
		_, body, _ := strings.Cut(page, "</style>")
		junit, err := report.JUnit(c, report.Options{})
		require.NoError(t, err)
		sarif, err := report.SARIF(c, report.Options{}, "1.2.3")
		require.NoError(t, err)
		return map[string]string{
			"want.md": report.Markdown(c, report.Options{}), "want.html": body, "want.xml": string(junit), "want.sarif": string(sarif) + "\n",
			"forward.md": report.Markdown(c, report.Options{Direction: compare.Forward}),
		}
	})
}

// TestSARIFIsValid holds the logs of the demo against the schema of the standard.
func TestSARIFIsValid(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("testdata/sarif-2.1.0.schema.json")
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
	require.NoError(t, err)
	compiler := jsonschema.NewCompiler()
	require.NoError(t, compiler.AddResource("sarif.json", doc))
	schema, err := compiler.Compile("sarif.json")
	require.NoError(t, err)
	for _, pair := range [][2]string{
		{"berths/1.0.0.yaml", "berths/1.1.0.yaml"},
		{"berths/1.2.0.yaml", "berths/2.0.0.yaml"},
		{"pilotage/1.0.0.yaml", "pilotage/1.1.0.yaml"},
		{"commons/1.0.0.yaml", "commons/1.0.0.yaml"},
	} {
		log, err := report.SARIF(demo(t, pair[0], pair[1]), report.Options{Either: true}, "0.1.0-dev")
		require.NoError(t, err)
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(string(log)))
		require.NoError(t, err)
		require.NoError(t, schema.Validate(v), pair)
	}
	require.Error(t, schema.Validate(map[string]any{"version": "2.1.0", "runs": "none"}), "the schema refuses what is no log")
}

// TestJUnitCounts parses the XML and counts again.
func TestJUnitCounts(t *testing.T) {
	t.Parallel()
	c := demo(t, "berths/1.2.0.yaml", "berths/2.0.0.yaml")
	text, err := report.JUnit(c, report.Options{})
	require.NoError(t, err)
	var parsed struct {
		Tests    int `xml:"tests,attr"`
		Failures int `xml:"failures,attr"`
		Cases    []struct {
			Failure *struct{} `xml:"failure"`
			Line    int       `xml:"line,attr"`
		} `xml:"testsuite>testcase"`
	}
	require.NoError(t, xml.Unmarshal(text, &parsed))
	require.Len(t, parsed.Cases, parsed.Tests)
	require.Equal(t, len(c.Changes), parsed.Tests)
	require.Equal(t, c.Counts.Breaking, parsed.Failures)
	failed := 0
	for _, k := range parsed.Cases {
		require.Positive(t, k.Line)
		if k.Failure != nil {
			failed++
		}
	}
	require.Equal(t, parsed.Failures, failed)
}

// TestHTMLNeedsNothing looks for scripts, addresses and markup that came from a description.
func TestHTMLNeedsNothing(t *testing.T) {
	t.Parallel()
	hostile := `openapi: 3.1.0
info: {title: "<script>alert(1)</script>", version: 1.0.0}
paths:
  "/<b>":
    get: {summary: "<img src=x onerror=alert(1)>", responses: {"200": {description: ok}}}
`
	c := compare.Contracts(read(t, "old.yaml", []byte(hostile)),
		read(t, "new.yaml", []byte("openapi: 3.1.0\ninfo: {title: T, version: 2.0.0}\npaths: {}\n")), compare.Options{})
	page, err := report.HTML(c, report.Options{})
	require.NoError(t, err)
	doc, err := html.Parse(strings.NewReader(page))
	require.NoError(t, err)
	for n := range doc.Descendants() {
		require.NotContains(t, []string{"script", "img", "link", "iframe", "b"}, n.Data)
		for _, attr := range n.Attr {
			require.NotContains(t, []string{"src", "href", "onerror"}, attr.Key)
		}
	}
	require.Contains(t, page, "&lt;img src=x")
	require.NotContains(t, strings.ReplaceAll(report.Markdown(c, report.Options{}), `\<`, ""), "<img", "markup is escaped")
}

// TestLineup draws the demo's versions as a table, both ways.
func TestLineup(t *testing.T) {
	t.Parallel()
	names := []string{"berths/1.0.0.yaml", "berths/1.1.0.yaml", "berths/2.0.0.yaml"}
	var members []compare.Member
	for _, n := range names {
		text, err := os.ReadFile("../../demo/" + n)
		require.NoError(t, err)
		members = append(members, compare.MemberOf(n, read(t, n, text)))
	}
	l, err := compare.LineUp(members, compare.Options{}, func(i, j int) (*compare.Comparison, error) {
		return demo(t, names[i], names[j]),
			nil
	})
	require.NoError(t, err)
	require.True(t, l.Fits(0, 1))
	require.False(t, l.Fits(1, 0))
	require.False(t, l.DropIn(0, 1))
	require.Equal(t, demo(t, names[1], names[0]).Backward, l.Cells[1][0].Grade, "the way back is a comparison of its own")
	require.Equal(t, demo(t, names[1], names[0]).Counts, l.Cells[1][0].Counts)
	table := report.MarkdownLineup(l)
	require.True(t, strings.HasPrefix(table, "Read declared, undeclared input ignored.\n\n| clients of"), table)
	require.Equal(t, 7, strings.Count(table, "\n"))
	require.Contains(t, table, "| 1.0.0 | · | ✓ safe | ✕ breaking |")
	page, err := report.HTMLLineup(l)
	require.NoError(t, err)
	require.Contains(t, page, `<span class="grade safe">✓ safe</span>`)
	text, err := json.Marshal(l)
	require.NoError(t, err)
	require.Contains(t, string(text), `"format":"oldledger.lineup/1"`)
}

package housestyle_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/edit"
	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// judged is a text with what is found in it.
type judged struct {
	file  *source.File
	c     *contract.Contract
	found housestyle.Findings
}

func judge(t require.TestingT, name, text string, style *housestyle.Style) judged {
	f, err := source.Parse(name, []byte(text))
	require.NoError(t, err, text)
	c, err := format.Read(source.SetOf(f))
	require.NoError(t, err, text)
	found, err := housestyle.Examine(context.Background(), c, style, housestyle.Options{})
	require.NoError(t, err)
	return judged{f, c, found}
}

// said counts what is said, wherever it stands.
func (j judged) said() map[string]int {
	n := map[string]int{}
	for _, f := range j.found {
		n[f.Rule+": "+f.Text]++
	}
	return n
}

// holdsFix mends what can be mended in a text, and proves it: what was mended is no longer found, nothing new is, nothing but words
// changed for clients, and what was not touched stands as it stood. It gives how much was mended.
func holdsFix(t require.TestingT, name, text string, style *housestyle.Style) int {
	before := judge(t, name, text, style)
	changes, done := before.found.Mend(before.file)
	require.Equal(t, len(done) == 0, len(changes) == 0)
	if len(done) == 0 {
		return 0
	}
	after := judge(t, name, string(edit.Apply(before.file.Text, changes)), style)
	was, is := before.said(), after.said()
	for _, d := range done {
		key := d.Rule + ": " + d.Text
		require.Less(t, is[key], was[key], "%s is still told:\n%s\n%s", d, text, after.file.Text)
	}
	for key, n := range is {
		require.LessOrEqual(t, n, was[key], "mending brought %s:\n%s\n%s", key, text, after.file.Text)
	}
	for _, c := range compare.Contracts(before.c, after.c, compare.Options{}).Changes {
		require.Equal(t, compare.Editorial, max(c.Backward, c.Forward), "mending changes %s:\n%s\n%s", c.Title, text, after.file.Text)
	}
	at := 0
	for line := range strings.Lines(string(before.file.Text)) {
		from, to := at, at+len(line)
		at = to
		if !slices.ContainsFunc(changes, func(c edit.Change) bool { return c.From <= to && c.To >= from }) {
			require.Contains(t, string(after.file.Text), line)
		}
	}
	return len(done)
}

// TestFixesOfExamples mends every bad example of every rule.
func TestFixesOfExamples(t *testing.T) {
	t.Parallel()
	mended := map[string]int{}
	for _, r := range housestyle.Ours().Rules {
		style := &housestyle.Style{House: r.With, Rules: housestyle.Ours().Rules}
		for _, list := range [][]housestyle.Example{r.Bad, inJSON(t, r.Bad)} {
			for _, e := range list {
				if strings.Contains(e.Text, "\n---\n") {
					continue // of several descriptions
				}
				f, err := housestyle.ParseExample(e.Text)
				require.NoError(t, err)
				mended[r.Name] += holdsFix(t, f.Name, string(f.Text), style)
			}
		}
	}
	for _, name := range []string{"summary-stop", "summary-capital", "words-trimmed", "words-of-house", "type-unused", "scheme-unused", "group-unused", "copy-of-type"} {
		require.Positive(t, mended[name], name)
	}
}

// TestFixesOfRAML mends what an author wrote in a method that a trait and a resource type are woven into, and leaves what a template
// says.
func TestFixesOfRAML(t *testing.T) {
	t.Parallel()
	const text = `#%RAML 1.0
title: Tide Tables of the Harbour
resourceTypes:
  collection: {get: {description: The list of <<resourcePathName>>., displayName: the <<resourcePathName>>.}}
traits:
  paged: {queryParameters: {page: {type: integer, description: Which page.}}}
/stations:
  type: collection
  get:
    displayName: list stations. # as on the chart
    is: [paged]
/tides:
  type: collection
`
	require.Equal(t, 1, holdsFix(t, "tides.raml", text, housestyle.Ours()))
}

// TestFixesOfDrawn mends drawn descriptions with many findings, in every layout.
func TestFixesOfDrawn(t *testing.T) {
	t.Parallel()
	style := &housestyle.Style{
		House: housestyle.House{Words: map[string]string{"harbor": "harbour", "dock": "basin", "vessel": "ship"}}, Rules: housestyle.Ours().Rules,
	}
	mended := 0
	rapid.Check(t, func(t *rapid.T) {
		name, text := drawn(t)
		mended += holdsFix(t, name, text, style)
	})
	require.Positive(t, mended)
}

// drawn is a description full of what can be mended, in YAML of some layout or in JSON.
func drawn(t *rapid.T) (name, text string) {
	pick := func(label string, from ...string) string { return rapid.SampledFrom(from).Draw(t, label) }
	sentence := func(label string) string {
		return pick(label, "List berths", "list berths.", " List berths", "The harbor's dock.", "Harbor of VESSEL and Dock", "bücher der Harbor…", "a", "x: y # z", "'quoted'.", `"both" 'ways'.`, "List berths. ")
	}
	quoted := func(label, s string) string {
		single, double := "'"+strings.ReplaceAll(s, "'", "''")+"'", fmt.Sprintf("%q", s)
		if plainYAML(s) {
			return pick(label, s, single, double)
		}
		return pick(label, single, double)
	}
	var b strings.Builder
	line := func(format string, args ...any) {
		text := fmt.Sprintf(format, args...)
		switch rapid.IntRange(0, 5).Draw(t, "comment") {
		case 0:
			text += "   # stays"
		case 1:
			b.WriteString(strings.Repeat(" ", len(text)-len(strings.TrimLeft(text, " "))) + "# stays\n")
		}
		b.WriteString(text + "\n")
	}
	line("openapi: %s", pick("version", "3.0.3", "3.1.0"))
	line("info: {title: %s, version: 1.0.0}", quoted("title quote", sentence("title")))
	line("tags:")
	for i := range rapid.IntRange(1, 4).Draw(t, "tags") {
		if rapid.Bool().Draw(t, "flow tag") {
			line("  - {name: Group%d, description: %s}", i, quoted("tag quote", sentence("tag")))
		} else {
			line("  - name: Group%d", i)
			line("    description: %s", quoted("tag quote", sentence("tag")))
		}
	}
	line("paths:")
	types := rapid.IntRange(1, 5).Draw(t, "types")
	for i := range rapid.IntRange(1, 4).Draw(t, "paths") {
		line("  /berths%d:", i)
		line("    get:")
		line("      summary: %s", quoted("summary quote", sentence("summary")))
		if rapid.Bool().Draw(t, "described") {
			line("      description: %s", pick("block", ">-", "|", "|+"))
			b.WriteString("        The harbor\n        of every dock.\n\n")
		}
		line("      tags: [Group%d]", rapid.IntRange(0, 2).Draw(t, "tag of"))
		line("      responses:")
		line("        '200':")
		line("          description: %s", quoted("answer quote", sentence("answer")))
		switch schema := pick("schema", "ref", "copy", "copy in flow", "other"); schema {
		case "ref":
			line("          content: {application/json: {schema: {$ref: '#/components/schemas/T%d'}}}", rapid.IntRange(0, types-1).Draw(t, "type"))
		case "copy":
			line("          content:")
			line("            application/json:")
			line("              schema:")
			line("                type: object")
			line("                properties:")
			line("                  a%d: {type: string}", rapid.IntRange(0, types-1).Draw(t, "copied"))
			line("                  b: {type: integer}")
		case "copy in flow":
			line("          content: {application/json: {schema: {type: object, properties: {b: {type: integer}, a%d: {type: string}}}}}",
				rapid.IntRange(0, types-1).Draw(t, "copied"))
		}
	}
	line("components:")
	if rapid.Bool().Draw(t, "schemes") {
		line("  securitySchemes:")
		line("    old: {type: http, scheme: basic}")
	}
	line("  schemas:")
	for i := range types {
		line("    T%d:", i)
		line("      type: object")
		line("      properties:")
		line("        a%d: {type: string}", i)
		line("        b: {type: integer}")
	}
	text = b.String()
	if rapid.IntRange(0, 3).Draw(t, "json") == 0 {
		f, err := source.Parse("d.yaml", []byte(text))
		require.NoError(t, err, text)
		return "d.json", fmt.Sprint(f.Root.Value())
	}
	return "d.yaml", text
}

// plainYAML reports whether a text means itself without quotes, in a block and between braces.
func plainYAML(s string) bool {
	return !strings.ContainsAny(s, ":#'\"{}[],&*") && strings.TrimSpace(s) == s && s != ""
}

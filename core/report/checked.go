package report

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/commonmark"
	"oldledger/core/source"
)

// Checked is what is wrong with one description.
type Checked struct {
	Description string // as whoever asked named it
	Diagnostics source.Diagnostics
}

var diagnosticLevels = map[source.Severity]string{source.Error: "error", source.Warning: "warning", source.Hint: "note"}

// right is what would be right, in words.
func right(d *source.Diagnostic) string {
	if d.Fix != nil {
		return cmp.Or(d.Right, d.Fix.Title)
	}
	return d.Right
}

// CheckedSARIF writes what is wrong with some descriptions as a SARIF 2.1.0 log: a rule for each kind of mistake that is there, a result
// for each, at its place, with its fix. rules tell what is read instead.
func CheckedSARIF(all []Checked, rules []source.Rule, version string) ([]byte, error) {
	run := newRun(version)
	means := map[string]source.Rule{}
	for _, r := range rules {
		means[r.Name] = r
	}
	index := map[string]int{}
	for _, c := range all {
		for _, d := range c.Diagnostics {
			i, known := index[d.Rule]
			if !known {
				i = len(run.Tool.Driver.Rules)
				index[d.Rule] = i
				meaning := cmp.Or(means[d.Rule].Means, d.Rule)
				run.Tool.Driver.Rules = append(run.Tool.Driver.Rules, sarifRule{
					ID: d.Rule, Short: sarifText{d.Rule}, Full: sarifText{meaning}, Help: sarifText{meaning},
					Default: sarifDefault{diagnosticLevels[d.Severity]},
				})
			}
			run.Results = append(run.Results, diagnosticResult(d, i))
		}
	}
	return run.log()
}

func diagnosticResult(d *source.Diagnostic, rule int) sarifResult {
	text := d.Text
	if r := right(d); r != "" {
		text += "; " + r
	}
	at := sarifPlace(&d.Place, 0, "")
	at.Physical.Region.End, at.Physical.Region.Behind = d.EndLine, d.EndColumn
	r := sarifResult{
		RuleID: d.Rule, RuleIndex: rule, Level: diagnosticLevels[d.Severity], Message: sarifText{text}, Locations: []sarifLocation{at},
		Fingerprints: map[string]string{"finding/v1": d.Rule + " " + d.File + " " + d.Pointer},
	}
	if d.Fix != nil {
		r.Fixes = []sarifFix{sarifFixOf(d.Fix)}
	}
	for i, related := range d.Related {
		r.Related = append(r.Related, sarifPlace(&related.Place, i+1, related.Text))
	}
	return r
}

// sarifFixOf is a fix with a replacement for each edit, file by file.
func sarifFixOf(fix *source.Fix) sarifFix {
	to := sarifFix{Description: sarifText{fix.Title}}
	for _, e := range fix.Edits {
		artifact := sarifPlace(&e.Place, 0, "").Physical.Artifact
		i := slices.IndexFunc(to.Changes, func(c sarifChange) bool { return c.Artifact == artifact })
		if i < 0 {
			i = len(to.Changes)
			to.Changes = append(to.Changes, sarifChange{Artifact: artifact})
		}
		to.Changes[i].Replacements = append(to.Changes[i].Replacements, sarifReplacement{
			Deleted: sarifRegion{Line: e.Line, Column: e.Column, End: e.EndLine, Behind: e.EndColumn}, Inserted: sarifText{e.Text},
		})
	}
	return to
}

// CheckedJUnit writes what is wrong with some descriptions as the XML that build servers read: a suite for each, and a case for each
// mistake: failed where it is an error, skipped where it is a warning, passed otherwise; one passed case where nothing is wrong.
func CheckedJUnit(all []Checked) ([]byte, error) {
	doc := junitSuites{Name: "what is wrong"}
	for _, c := range all {
		suite := junitSuite{
			Name: c.Description, Tests: max(1, len(c.Diagnostics)),
			Failures: c.Diagnostics.Count(source.Error), Skipped: c.Diagnostics.Count(source.Warning),
		}
		for _, d := range c.Diagnostics {
			suite.Cases = append(suite.Cases, diagnosticCase(d))
		}
		if len(suite.Cases) == 0 {
			suite.Cases = []junitCase{{Class: c.Description, Name: "nothing is wrong"}}
		}
		doc.Tests, doc.Failures, doc.Suites = doc.Tests+suite.Tests, doc.Failures+suite.Failures, append(doc.Suites, suite)
	}
	return doc.document()
}

func diagnosticCase(d *source.Diagnostic) junitCase {
	jc := junitCase{Class: d.Rule, Name: d.Place.String() + " " + d.Text, File: d.File, Line: d.Line}
	text := strings.TrimSpace(d.Text + "\n" + right(d))
	switch d.Severity {
	case source.Error:
		jc.Failure = &junitMessage{Message: d.Text, Type: d.Rule, Text: text}
	case source.Warning:
		jc.Skipped = &junitMessage{Message: "warning: " + d.Text}
		jc.Out = text
	default:
		jc.Out = text
	}
	return jc
}

// CheckedMarkdown writes what is wrong with some descriptions as CommonMark, for a review.
func CheckedMarkdown(all []Checked) string {
	var b strings.Builder
	for i, c := range all {
		if i > 0 {
			b.WriteString("\n")
		}
		said := cmp.Or(c.Diagnostics.Tally().String(), "nothing is wrong")
		fmt.Fprintf(&b, "## %s\n\n**%s**\n", commonmark.Plain(c.Description), said)
		for j, d := range c.Diagnostics {
			if j == 0 {
				b.WriteString("\n")
			}
			fmt.Fprintf(&b, "- %s %s: %s", d.Severity, commonmark.Code(d.Place.String()), commonmark.Plain(d.Text))
			if r := right(d); r != "" {
				b.WriteString("; " + commonmark.Plain(r))
			}
			b.WriteString("\n")
		}
	}
	return b.String()
}

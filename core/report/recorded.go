package report

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/commonmark"
	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/core/source"
)

// Recorded is what became of a description that was handed in.
type Recorded struct {
	Description string              `json:"description"`       // as whoever handed it in named it
	Version     string              `json:"version,omitempty"` // "berths@2.1.0"; "" where it was not recorded
	Outcome     string              `json:"outcome,omitempty"` // in words: "recorded as a draft"
	Base        string              `json:"base,omitempty"`    // the number of the version that it is compared with; "" for none
	Changes     *compare.Comparison `json:"changes,omitempty"`
	Gate        *promise.Gate       `json:"gate,omitempty"`
	Fault       string              `json:"fault,omitempty"` // why it was not recorded; "" where it was
}

// Name is the version, or the description where there is none.
func (r *Recorded) Name() string { return cmp.Or(r.Version, r.Description) }

// Shut reports whether its gate is shut.
func (r *Recorded) Shut() bool { return r.Gate != nil && !r.Gate.Open }

// Obstacles are those that keep the gate shut.
func (r *Recorded) Obstacles() []promise.Obstacle {
	if !r.Shut() {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(r.Gate.Obstacles), func(o promise.Obstacle) bool { return o.Waived })
}

// optionsFor tells of an obstacle in the direction in which it breaks.
func optionsFor(o promise.Obstacle) Options {
	if o.Rollback {
		return Options{Direction: compare.Forward}
	}
	return Options{}
}

// Says is in a line what became of it.
func (r *Recorded) Says() string {
	if r.Fault != "" {
		return "not recorded"
	}
	text := r.Outcome
	if r.Changes != nil {
		text += fmt.Sprintf("; against %s: %s", r.Base, cmp.Or(Tally(r.Changes.Counts), "nothing changed"))
	}
	if r.Shut() {
		text += "; its gate is shut, for " + r.Gate.Why()
	}
	return text
}

// RecordedMarkdown writes what became of some descriptions as CommonMark, for a review.
func RecordedMarkdown(all []Recorded) string {
	var b strings.Builder
	for i := range all {
		r := &all[i]
		if i > 0 {
			b.WriteString("\n")
		}
		fmt.Fprintf(&b, "## %s\n\n**%s**\n", commonmark.Plain(r.Name()), commonmark.Plain(upper(r.Says())))
		if r.Fault != "" {
			b.WriteString("\n" + commonmark.Block("", r.Fault))
		}
		for j, o := range r.Obstacles() {
			if j == 0 {
				b.WriteString("\n")
			}
			optionsFor(o).markdownChange(&b, r.Changes, o.Change)
		}
		if r.Shut() && len(r.Gate.WaysOut) > 0 {
			fmt.Fprintf(&b, "\n### %s\n\n", WaysOutHead)
			for i, way := range r.Gate.WaysOut {
				fmt.Fprintf(&b, "%d. %s\n", i+1, commonmark.Plain(way))
			}
		}
	}
	return b.String()
}

// RecordedJUnit writes it as the XML that build servers read: a suite for each description, in which a case failed for each thing that
// keeps its gate shut, or that it was not recorded; one passed case where neither is so.
func RecordedJUnit(all []Recorded) ([]byte, error) {
	doc := junitSuites{Name: "what was recorded"}
	for i := range all {
		r := &all[i]
		suite := junitSuite{Name: r.Name()}
		if r.Fault != "" {
			failure := &junitMessage{Message: firstLine(r.Fault), Text: r.Fault}
			suite.Cases = []junitCase{{Class: r.Description, Name: r.Says(), File: r.Description, Failure: failure}}
		}
		for _, o := range r.Obstacles() {
			c := optionsFor(o).junitCase(r.Changes, o.Change)
			c.Failure, c.Skipped, c.Out = &junitMessage{Message: o.Change.Why, Type: o.Change.Kind, Text: c.told()}, nil, ""
			suite.Cases = append(suite.Cases, c)
		}
		if suite.Failures = len(suite.Cases); suite.Failures == 0 {
			suite.Cases = []junitCase{{Class: r.Description, Name: r.Says()}}
		}
		suite.Tests = len(suite.Cases)
		doc.Tests, doc.Failures, doc.Suites = doc.Tests+suite.Tests, doc.Failures+suite.Failures, append(doc.Suites, suite)
	}
	return doc.document()
}

// told is all that a case says of itself.
func (c *junitCase) told() string {
	if c.Failure != nil {
		return c.Failure.Text
	}
	return c.Out
}

func firstLine(text string) string {
	line, _, _ := strings.Cut(text, "\n")
	return line
}

// RecordedSARIF writes it as a SARIF 2.1.0 log: a result for each change that keeps a gate shut, and for each description that was not
// recorded.
func RecordedSARIF(all []Recorded, version string) ([]byte, error) {
	run := newRun(version)
	rules := map[string]int{}
	rule := func(id string, made func(string) sarifRule) int {
		i, known := rules[id]
		if !known {
			i = len(run.Tool.Driver.Rules)
			rules[id] = i
			run.Tool.Driver.Rules = append(run.Tool.Driver.Rules, made(id))
		}
		return i
	}
	for i := range all {
		r := &all[i]
		if r.Fault != "" {
			run.Results = append(run.Results, sarifResult{
				RuleID: "not-recorded", RuleIndex: rule("not-recorded", notRecorded), Level: "error", Message: sarifText{r.Fault},
				Locations:    []sarifLocation{sarifPlace(&source.Place{File: r.Description, Line: 1, Column: 1}, 0, "")},
				Fingerprints: map[string]string{"recorded/v1": r.Description},
			})
		}
		for _, o := range r.Obstacles() {
			result := optionsFor(o).sarifResult(r.Changes, o.Change, rule(o.Change.Kind, sarifRuleOf))
			result.Level = "error"
			run.Results = append(run.Results, result)
		}
	}
	return run.log()
}

func notRecorded(id string) sarifRule {
	return sarifRule{
		ID: id, Short: sarifText{"a description was not recorded"}, Full: sarifText{"A description was not recorded."},
		Help: sarifText{"What stands in the message says what to mend."}, Default: sarifDefault{"error"},
	}
}

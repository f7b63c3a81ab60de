package report

import (
	"cmp"
	"encoding/xml"
	"strings"

	"oldledger/core/compare"
)

type (
	junitSuites struct {
		XMLName  xml.Name     `xml:"testsuites"`
		Name     string       `xml:"name,attr"`
		Tests    int          `xml:"tests,attr"`
		Failures int          `xml:"failures,attr"`
		Suites   []junitSuite `xml:"testsuite"`
	}
	junitSuite struct {
		Name     string      `xml:"name,attr"`
		Tests    int         `xml:"tests,attr"`
		Failures int         `xml:"failures,attr"`
		Skipped  int         `xml:"skipped,attr"`
		Cases    []junitCase `xml:"testcase"`
	}
	junitCase struct {
		Class   string        `xml:"classname,attr"`
		Name    string        `xml:"name,attr"`
		File    string        `xml:"file,attr,omitempty"`
		Line    int           `xml:"line,attr,omitempty"`
		Failure *junitMessage `xml:"failure"`
		Skipped *junitMessage `xml:"skipped"`
		Out     string        `xml:"system-out,omitempty"`
	}
	junitMessage struct {
		Message string `xml:"message,attr"`
		Type    string `xml:"type,attr,omitempty"`
		Text    string `xml:",chardata"`
	}
)

// JUnit writes a comparison as the XML that build servers read: a case for each change, failed where it breaks, skipped where it
// is a hazard, passed otherwise; one passed case where nothing changed.
func JUnit(c *compare.Comparison, o Options) ([]byte, error) {
	suite := junitSuite{Name: "clients of " + c.Old.Version + " call " + c.New.Version}
	if o.Direction == compare.Forward && !o.Either {
		suite.Name = "clients of " + c.New.Version + " call " + c.Old.Version
	}
	for _, g := range o.Groups(c) {
		for _, ch := range g.Changes {
			suite.Cases = append(suite.Cases, o.junitCase(c, ch))
			switch g.Grade {
			case compare.Breaking:
				suite.Failures++
			case compare.Hazard:
				suite.Skipped++
			}
		}
	}
	if len(suite.Cases) == 0 {
		suite.Cases = []junitCase{{Class: Title(c), Name: Verdict(c)}}
	}
	suite.Tests = len(suite.Cases)
	return junitSuites{Name: Title(c), Tests: suite.Tests, Failures: suite.Failures, Suites: []junitSuite{suite}}.document()
}

func (s junitSuites) document() ([]byte, error) {
	out, err := xml.MarshalIndent(s, "", "  ")
	return append([]byte(xml.Header), append(out, '\n')...), err
}

func (o Options) junitCase(c *compare.Comparison, ch *compare.Change) junitCase {
	jc := junitCase{Class: Where(ch), Name: ch.Title}
	if at := cmp.Or(ch.New, ch.Old); at != nil {
		jc.File, jc.Line = at.File, at.Line
	}
	lines := []string{ch.Why}
	for _, w := range o.Witnesses(ch) {
		lines = append(lines, w.Refuser+" refuses "+w.Message())
	}
	if at := Places(ch); at != "" {
		lines = append(lines, at)
	}
	lines = append(lines, ch.Advice...)
	text := strings.Join(lines, "\n")
	switch o.grade(ch) {
	case compare.Breaking:
		jc.Failure = &junitMessage{Message: ch.Why, Type: ch.Kind, Text: text}
	case compare.Hazard:
		jc.Skipped = &junitMessage{Message: "hazard: " + ch.Why}
		jc.Out = text
	default:
		jc.Out = text
	}
	return jc
}

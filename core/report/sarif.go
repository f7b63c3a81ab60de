package report

import (
	"encoding/json"
	"net/url"
	"path"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/source"
)

// The parts of SARIF 2.1.0 (OASIS) that a comparison fills in.
type (
	sarifLog struct {
		Schema  string     `json:"$schema"`
		Version string     `json:"version"`
		Runs    []sarifRun `json:"runs"`
	}
	sarifRun struct {
		Tool       sarifTool     `json:"tool"`
		ColumnKind string        `json:"columnKind"`
		Results    []sarifResult `json:"results"`
		Properties any           `json:"properties,omitempty"`
	}
	sarifTool struct {
		Driver sarifDriver `json:"driver"`
	}
	sarifDriver struct {
		Name    string      `json:"name"`
		Version string      `json:"semanticVersion,omitempty"`
		Rules   []sarifRule `json:"rules"`
	}
	sarifRule struct {
		ID      string       `json:"id"`
		Short   sarifText    `json:"shortDescription"`
		Full    sarifText    `json:"fullDescription"`
		Help    sarifText    `json:"help"`
		Default sarifDefault `json:"defaultConfiguration"`
	}
	sarifDefault struct {
		Level string `json:"level"`
	}
	sarifText struct {
		Text string `json:"text"`
	}
	sarifResult struct {
		RuleID       string            `json:"ruleId"`
		RuleIndex    int               `json:"ruleIndex"`
		Level        string            `json:"level"`
		Message      sarifText         `json:"message"`
		Locations    []sarifLocation   `json:"locations,omitempty"`
		Related      []sarifLocation   `json:"relatedLocations,omitempty"`
		Fingerprints map[string]string `json:"partialFingerprints"`
		Fixes        []sarifFix        `json:"fixes,omitempty"`
		Properties   any               `json:"properties,omitempty"`
	}
	sarifProperties struct {
		Backward  compare.Grade      `json:"backward"`
		Forward   compare.Grade      `json:"forward"`
		Operation string             `json:"operation"`
		At        string             `json:"at"`
		Reach     []string           `json:"reach"`
		Advice    []string           `json:"advice"`
		Witnesses []*compare.Witness `json:"witnesses,omitempty"`
	}
	sarifLocation struct {
		ID       int           `json:"id,omitempty"`
		Physical sarifPhysical `json:"physicalLocation"`
		Logical  []sarifName   `json:"logicalLocations,omitempty"`
		Message  *sarifText    `json:"message,omitempty"`
	}
	sarifPhysical struct {
		Artifact sarifArtifact `json:"artifactLocation"`
		Region   sarifRegion   `json:"region"`
	}
	sarifArtifact struct {
		URI string `json:"uri"`
	}
	sarifRegion struct {
		Line   int `json:"startLine"`
		Column int `json:"startColumn"`
		End    int `json:"endLine,omitempty"`
		Behind int `json:"endColumn,omitempty"`
	}
	sarifFix struct {
		Description sarifText     `json:"description"`
		Changes     []sarifChange `json:"artifactChanges"`
	}
	sarifChange struct {
		Artifact     sarifArtifact      `json:"artifactLocation"`
		Replacements []sarifReplacement `json:"replacements"`
	}
	sarifReplacement struct {
		Deleted  sarifRegion `json:"deletedRegion"`
		Inserted sarifText   `json:"insertedContent"`
	}
	sarifName struct {
		Name string `json:"fullyQualifiedName"`
	}
)

var sarifLevels = map[compare.Grade]string{
	compare.Breaking: "error", compare.Hazard: "warning", compare.Safe: "note",
	compare.Editorial: "note",
}

// SARIF writes a comparison as a SARIF 2.1.0 log: a rule for each kind of change that is there, a result for each change, at its
// place in the new description, or in the old one where it is gone.
func SARIF(c *compare.Comparison, o Options, version string) ([]byte, error) {
	run := newRun(version)
	run.Properties = map[string]any{
		"reading": c.Reading, "undeclared": c.Undeclared, "old": c.Old, "new": c.New, "backward": c.Backward, "forward": c.Forward,
		"recommended": c.Recommended,
	}
	rules := map[string]int{}
	for _, g := range o.Groups(c) {
		for _, ch := range g.Changes {
			i, known := rules[ch.Kind]
			if !known {
				i = len(run.Tool.Driver.Rules)
				rules[ch.Kind] = i
				run.Tool.Driver.Rules = append(run.Tool.Driver.Rules, sarifRuleOf(ch.Kind))
			}
			run.Results = append(run.Results, o.sarifResult(c, ch, i))
		}
	}
	return run.log()
}

func newRun(version string) sarifRun {
	return sarifRun{
		Tool:       sarifTool{sarifDriver{Name: "Old Ledger", Version: strings.TrimPrefix(version, "v"), Rules: []sarifRule{}}},
		ColumnKind: "unicodeCodePoints",
		Results:    []sarifResult{},
	}
}

func (r sarifRun) log() ([]byte, error) {
	return json.MarshalIndent(sarifLog{
		Schema: "https://docs.oasis-open.org/sarif/sarif/v2.1.0/os/schemas/sarif-schema-2.1.0.json", Version: "2.1.0", Runs: []sarifRun{r},
	}, "", "  ")
}

func sarifRuleOf(kind string) sarifRule {
	rule := sarifRule{
		ID: kind, Short: sarifText{kind}, Full: sarifText{kind}, Help: sarifText{"oldledger kinds " + kind + " tells more."},
		Default: sarifDefault{"note"},
	}
	if k, known := compare.FindKind(kind); known {
		grades := k.Request
		if k.Response != nil && !strings.HasPrefix(kind, "request.") && !strings.HasPrefix(kind, "parameter.") {
			grades = *k.Response
		}
		rule.Short, rule.Full = sarifText{k.Meaning}, sarifText{strings.ToUpper(k.Meaning[:1]) + k.Meaning[1:] + "."}
		rule.Default.Level = sarifLevels[grades.Backward]
	}
	return rule
}

func (o Options) sarifResult(c *compare.Comparison, ch *compare.Change, rule int) sarifResult {
	text := ch.Title + ": " + ch.Why + "."
	for _, w := range o.Witnesses(ch) {
		text += " " + w.Refuser + " refuses " + w.Message()
	}
	r := sarifResult{
		RuleID: ch.Kind, RuleIndex: rule, Level: sarifLevels[o.grade(ch)], Message: sarifText{text},
		Fingerprints: map[string]string{"change/v1": ch.ID},
		Properties: sarifProperties{
			Backward: ch.Backward, Forward: ch.Forward, Operation: ch.Operation, At: ch.At, Reach: ch.Reach, Advice: ch.Advice, Witnesses: ch.All(),
		},
	}
	switch {
	case ch.New != nil:
		r.Locations = []sarifLocation{sarifPlace(&ch.New.Place, 0, "")}
		if ch.Old != nil {
			r.Related = []sarifLocation{sarifPlace(&ch.Old.Place, 1, "in "+c.Old.Version)}
		}
	case ch.Old != nil:
		r.Locations = []sarifLocation{sarifPlace(&ch.Old.Place, 0, "")}
	}
	return r
}

func sarifPlace(p *source.Place, id int, message string) sarifLocation {
	l := sarifLocation{
		ID:       id,
		Physical: sarifPhysical{sarifArtifact{(&url.URL{Path: path.Clean(p.File)}).String()}, sarifRegion{Line: p.Line, Column: p.Column}},
	}
	if p.Pointer != "" {
		l.Logical = []sarifName{{p.Pointer}}
	}
	if message != "" {
		l.Message = &sarifText{message}
	}
	return l
}

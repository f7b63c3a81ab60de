package guide

import (
	"fmt"
	"strings"

	"oldledger/core/commonmark"
	"oldledger/core/promise"
	"oldledger/core/sample"
)

// Section is some of the steps of a guide: those of one part of the API, or all.
type Section struct {
	Name  string // a tag; "" where the steps stand together
	Steps []Step
}

// many is from how many steps on a list is divided by the parts of the API.
const many = 9

// Sections divides a long list of steps: first what concerns several parts of the API, then each part. A short one stays together.
func Sections(steps []Step) []Section {
	if len(steps) == 0 {
		return nil
	}
	if len(steps) < many {
		return []Section{{Steps: steps}}
	}
	all := []Section{{Name: "Across the API"}}
	at := map[string]int{"": 0}
	for _, s := range steps {
		i, known := at[s.Group]
		if !known {
			i = len(all)
			at[s.Group] = i
			all = append(all, Section{Name: s.Group})
		}
		all[i].Steps = append(all[i].Steps, s)
	}
	if len(all[0].Steps) == 0 {
		all = all[1:]
	}
	if len(all) == 1 {
		all[0].Name = ""
	}
	return all
}

// page writes a guide as CommonMark.
type page struct {
	strings.Builder
	g *Guide
}

func plain(text string) string { return commonmark.Plain(text) }

func (p *page) put(format string, args ...any) { fmt.Fprintf(&p.Builder, format, args...) }

// Markdown writes the guide as CommonMark.
func (g *Guide) Markdown() string {
	p := &page{g: g}
	p.put("# %s: from %s to %s\n\n%s\n", plain(g.Title), g.From, g.To, g.Verdict)
	if len(g.Mine) > 0 {
		p.put("\nFor those who use: %s.\n", plain(strings.Join(g.Mine, ", ")))
	}
	p.words(g.Intro)
	p.steps("What you must do", g.Must)
	p.renames()
	p.waits()
	p.steps("What you should test", g.Check)
	p.list("What is new", g.Adopt)
	p.plans()
	p.put("\n## The way back\n\n%s\n", g.Back)
	for i, s := range g.Rollback {
		if i == 0 {
			p.put("\n")
		}
		p.put("- %s\n", plain(s.Title))
		if s.Before != nil {
			p.put("  - %s %s\n", plain(s.Text), commonmark.Code(s.Before.Head))
		}
	}
	p.words(g.End)
	p.waysOut()
	return p.String()
}

// waysOut tells the authors, as long as they can still change the new version, what spares its clients the steps.
func (p *page) waysOut() {
	if len(p.g.WaysOut) == 0 || len(p.g.Must) == 0 {
		return
	}
	p.put("\n## While %s can still be changed\n\nWhat spares clients the steps above, in the order to weigh it:\n\n", p.g.To)
	for i, way := range p.g.WaysOut {
		p.put("%d. %s\n", i+1, plain(way))
	}
	n := 0
	for _, section := range Sections(p.g.Must) { // as they are numbered above
		for _, s := range section.Steps {
			n++
			for i, way := range s.Change.Advice {
				if i == 0 {
					p.put("\n%s\n\n", plain(fmt.Sprintf("Step %d, %s:", n, s.Title)))
				}
				p.put("- %s\n", plain(way))
			}
		}
	}
}

func (p *page) words(t *Text) {
	if t != nil {
		p.put("\n%s\n", strings.TrimSpace(t.Text))
	}
}

func (p *page) steps(title string, steps []Step) {
	if len(steps) == 0 {
		return
	}
	p.put("\n## %s\n", title)
	n := 0
	for _, section := range Sections(steps) {
		if section.Name != "" {
			p.put("\n### %s\n", plain(section.Name))
		}
		for _, s := range section.Steps {
			n++
			p.put("\n#### %d. %s\n\n%s\n", n, plain(s.Title), plain(s.Text))
			if about := s.About(p.g); about != "" {
				p.put("\n%s\n", plain(about))
			}
			p.words(s.Words)
			p.messages(s)
		}
	}
}

// About says whom a step concerns, where its change came, where it stands, and how a removal was announced.
func (s *Step) About(g *Guide) string {
	var parts []string
	if s.Place != "" {
		parts = append(parts, "In "+s.Place+".")
	}
	if len(s.Operations) > 0 {
		parts = append(parts, "Concerns "+few(s.Operations)+".")
	}
	if came := s.CameIn(g); came != "" {
		parts = append(parts, "Came in "+came+".")
	}
	if s.Removal != nil {
		parts = append(parts, "Notice: "+s.Removal.String()+".")
	}
	if ch := s.Change; ch.New != nil && !(ch.Old != nil && strings.HasSuffix(ch.Kind, ".removed")) {
		parts = append(parts, "At "+ch.New.String()+".")
	} else if ch.Old != nil {
		parts = append(parts, "Was at "+ch.Old.String()+".")
	}
	return strings.Join(parts, " ")
}

// CameIn names the versions in which the step's change came, where versions lie between.
func (s *Step) CameIn(g *Guide) string {
	var versions []string
	for _, o := range s.Came {
		versions = append(versions, o.Version)
	}
	if len(versions) == 1 && versions[0] == g.To && !g.Between {
		return ""
	}
	return strings.Join(versions, ", ")
}

func (p *page) messages(s Step) {
	fenced := func(caption, word, text string) { p.put("\n%s:\n\n%s", caption, commonmark.Block(word, text)) }
	if s.Before != nil {
		fenced("Before, "+p.g.From, "", s.Before.Text())
	}
	if s.After != nil {
		fenced("After, "+p.g.To, "", s.After.Text())
	}
	for _, c := range s.Code {
		fenced("Before, in "+c.Name, sample.Fence(c.Language), c.Before)
		if c.After != "" {
			fenced("After, in "+c.Name, sample.Fence(c.Language), c.After)
		}
	}
}

func (p *page) renames() {
	if len(p.g.Renames) == 0 {
		return
	}
	p.put("\n## New names\n\n| where | was | is |\n|---|---|---|\n")
	for _, r := range p.g.Renames {
		p.put("| %s | %s | %s |\n", plain(r.Where), commonmark.Code(r.From), commonmark.Code(r.To))
	}
}

func (p *page) waits() {
	if len(p.g.Wait) == 0 {
		return
	}
	p.put("\n## What may wait\n\nIt still works in %s, and leaves later.\n\n", p.g.To)
	for _, w := range p.g.Wait {
		p.put("- %s\n", plain(w.Line()))
	}
}

// Line is the wait in one line: "length of Vessel leaves on 2027-03-01; use lengthOverall. …".
func (w Wait) Line() string {
	line := w.Title
	switch {
	case w.Until != "":
		line += " on " + w.Until
	case w.Notice != nil:
		line += ", without a date yet"
	}
	if w.Instead != "" {
		line += "; use " + w.Instead
	}
	line = strings.TrimRight(line, ".") + "."
	if w.Reason != "" {
		line += " " + w.Reason
	}
	if len(w.Operations) > 0 {
		line += " Concerns " + few(w.Operations) + "."
	}
	return line
}

func (p *page) plans() {
	if len(p.g.Plans) == 0 {
		return
	}
	p.put("\n## Where replacements stand\n\n| what leaves | in its place | came in | announced | may leave from | stands |\n|---|---|---|---|---|---|\n")
	for _, plan := range p.g.Plans {
		p.put("| %s | %s | %s | %s | %s | %s |\n", plain(plan.Subject), plain(plan.Instead), plan.Expanded, plan.Announced, plan.Sunset,
			Standing(plan))
	}
}

// Standing says in words how far a plan has come.
func Standing(p promise.Plan) string {
	switch p.Stage {
	case promise.Contracted:
		return "left with " + p.Contracted
	case promise.Due:
		return "may leave now"
	}
	if p.Sunset == "" {
		return "announced, without a date"
	}
	return "announced"
}

func (p *page) list(title string, steps []Step) {
	if len(steps) == 0 {
		return
	}
	p.put("\n## %s\n\n", title)
	for _, s := range steps {
		p.put("- %s", plain(s.Title))
		if came := s.CameIn(p.g); came != "" {
			p.put(" (%s)", came)
		}
		p.put("\n")
		if s.Words != nil {
			p.put("\n  %s\n\n", strings.ReplaceAll(strings.TrimSpace(s.Words.Text), "\n", "\n  "))
		}
	}
}

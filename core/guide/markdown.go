package guide

import (
	"fmt"
	"strings"
)

// Markdown writes the guide as CommonMark.
func (g *Guide) Markdown() string {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s: from %s to %s\n\n%s\n", g.Title, g.From, g.To, g.Verdict)
	section := func(title string, steps []Step) {
		if len(steps) == 0 {
			return
		}
		fmt.Fprintf(&b, "\n## %s\n", title)
		for i, s := range steps {
			fmt.Fprintf(&b, "\n### %d. %s\n\n%s\n", i+1, s.Title, s.Text)
			if len(s.Operations) > 0 {
				fmt.Fprintf(&b, "\nConcerns: %s.\n", few(s.Operations))
			}
			s.messages(&b)
		}
	}
	section("What you must do", g.Must)
	if len(g.Renames) > 0 {
		b.WriteString("\n## New names\n\n| where | was | is |\n|---|---|---|\n")
		for _, r := range g.Renames {
			fmt.Fprintf(&b, "| %s | `%s` | `%s` |\n", r.Where, r.From, r.To)
		}
	}
	section("What you should test", g.Check)
	if len(g.Adopt) > 0 {
		b.WriteString("\n## What is new\n\n")
		for _, s := range g.Adopt {
			fmt.Fprintf(&b, "- %s\n", s.Title)
		}
	}
	if len(g.Rollback) > 0 {
		fmt.Fprintf(&b, "\n## The way back\n\nA client of %s fails on %s because of:\n\n", g.To, g.From)
		for _, r := range g.Rollback {
			fmt.Fprintf(&b, "- %s\n", r)
		}
	}
	return b.String()
}

func (s Step) messages(b *strings.Builder) {
	for _, m := range []struct {
		word string
		*Message
	}{{"Before", s.Before}, {"After", s.After}} {
		if m.Message != nil {
			fmt.Fprintf(b, "\n%s:\n\n```\n%s\n```\n", m.word, m.Text())
		}
	}
}

// few lists the first few names and counts the rest.
func few(names []string) string {
	const most = 4
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}

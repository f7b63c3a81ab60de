package report

import (
	"fmt"
	"strings"

	"oldledger/core/commonmark"
	"oldledger/core/compare"
)

// Markdown writes a comparison as CommonMark with tables, for a review.
func Markdown(c *compare.Comparison, o Options) string {
	var b strings.Builder
	fmt.Fprintf(&b, "## %s\n\n**%s**\n", commonmark.Plain(Title(c)), commonmark.Plain(Verdict(c)))
	if tally := Tally(c.Counts); tally != "" {
		fmt.Fprintf(&b, "\n%s, %s.\n", tally, compare.Manner(c.Reading, c.Undeclared))
	}
	for _, g := range o.Groups(c) {
		fmt.Fprintf(&b, "\n### %s %s\n\n", g.Grade.Mark(), g.Grade)
		for _, ch := range g.Changes {
			if g.Grade <= compare.Safe {
				fmt.Fprintf(&b, "- %s (%s)\n", commonmark.Plain(ch.Title), commonmark.Plain(Where(ch)))
				continue
			}
			o.markdownChange(&b, c, ch)
		}
	}
	if len(c.WaysOut) > 0 {
		fmt.Fprintf(&b, "\n### %s\n\n", WaysOutHead)
		for i, way := range c.WaysOut {
			fmt.Fprintf(&b, "%d. %s\n", i+1, commonmark.Plain(way))
		}
	}
	return b.String()
}

func (o Options) markdownChange(b *strings.Builder, c *compare.Comparison, ch *compare.Change) {
	fmt.Fprintf(b, "- **%s** — %s\n  %s\n", commonmark.Plain(ch.Title), commonmark.Plain(Where(ch)), commonmark.Plain(ch.Why))
	if note := o.Notes[ch.ID]; note != "" {
		fmt.Fprintf(b, "  - %s\n", commonmark.Plain(note))
	}
	for _, w := range o.Witnesses(ch) {
		fmt.Fprintf(b, "  - %s refuses %s\n", commonmark.Plain(w.Refuser), commonmark.Code(w.Message()))
	}
	if at := Places(ch); at != "" {
		fmt.Fprintf(b, "  - %s\n", commonmark.Code(at))
	}
	if len(ch.Reach) > 1 {
		fmt.Fprintf(b, "  - reaches %s\n", commonmark.Plain(Few(c.Written(ch.Reach), 3)))
	}
	for _, way := range ch.Advice {
		fmt.Fprintf(b, "  - %s\n", commonmark.Plain(way))
	}
}

// MarkdownLineup writes a lineup as a table.
func MarkdownLineup(l *compare.Lineup) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s.\n\n", upper(compare.Manner(l.Reading, l.Undeclared)))
	b.WriteString("| clients of ↓ answered by → |")
	for _, v := range l.Versions {
		fmt.Fprintf(&b, " %s |", commonmark.Plain(v.Version))
	}
	b.WriteString("\n|---|" + strings.Repeat("---|", len(l.Versions)) + "\n")
	for i, v := range l.Versions {
		fmt.Fprintf(&b, "| %s |", commonmark.Plain(v.Version))
		for j := range l.Versions {
			if i == j {
				b.WriteString(" · |")
				continue
			}
			fmt.Fprintf(&b, " %s %s |", l.Cells[i][j].Grade.Mark(), l.Cells[i][j].Grade)
		}
		b.WriteString("\n")
	}
	return b.String()
}

func upper(text string) string { return strings.ToUpper(text[:1]) + text[1:] }

// Places are where a change was made: "old.yaml:12 → new.yaml:14".
func Places(ch *compare.Change) string {
	show := func(p *compare.Place) string { return fmt.Sprintf("%s:%d", p.File, p.Line) }
	switch {
	case ch.Old == nil && ch.New == nil:
		return ""
	case ch.Old == nil:
		return show(ch.New)
	case ch.New == nil:
		return show(ch.Old)
	}
	return show(ch.Old) + " → " + show(ch.New)
}

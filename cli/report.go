package cli

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/report"
)

func (a *app) reportCommand() *cobra.Command {
	var from, until, of, to string
	cmd := &cobra.Command{
		Use: "report", GroupID: "use", Short: "Say how the APIs of your teams are doing", Args: cobra.NoArgs,
		Long: `Tells of the APIs that you see inside, by team: how well they are described, how they follow the house style, what broke and why it was allowed,
what was announced to leave and how long that takes, what was let through, which lines live, and who was busy; of the last 90 days where no
others are named. --of takes one section, with all that it counts: documentation, style, breaks, deprecations, last-call, through, lines,
activity.`,
		Example: `  oldledger report
  oldledger report --of breaks --from 2026-01-01 --format csv
  oldledger report --format html --to october.html`,
	}
	f := cmd.Flags()
	f.StringVar(&from, "from", "", "the first day (default: 90 days before the last)")
	f.StringVar(&until, "until", "", "the last day (default: today)")
	f.StringVar(&of, "of", "", "one section, with what it counts")
	f.StringVar(&to, "to", "", "write it to this file")
	format := f.String("format", "text", "text, json, markdown, html or csv")
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		if err := checkFormat(*format, "text", "json", "markdown", "html", "csv"); err != nil {
			return err
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		done := a.at("%s: asking the ledger", a.command)
		o, err := c.Overview(cmd.Context(), from, until)
		done()
		if err != nil {
			return refused(err)
		}
		if of != "" {
			only, ok := o.Of(of)
			if !ok {
				names := make([]string, len(o.Sections))
				for i, s := range o.Sections {
					names[i] = s.ID
				}
				return usageError{fmt.Errorf("--of is one of %s, not %q", strings.Join(names, ", "), of)}
			}
			o = &only
		}
		text, err := a.overview(o, *format, c.Address("/console"))
		if err != nil {
			return err
		}
		return a.save(text, to)
	}
	return cmd
}

// overview writes it in a format.
func (a *app) overview(o *report.Overview, format, console string) (string, error) {
	switch format {
	case "json":
		text, err := json.MarshalIndent(o, "", "  ")
		return string(text) + "\n", err
	case "markdown":
		return report.MarkdownOverview(o), nil
	case "html":
		return report.HTMLOverview(o, console)
	case "csv":
		return report.CSVOverview(o)
	}
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s to %s\n", s.bold(o.From), s.bold(o.Until))
	for _, section := range o.Sections {
		fmt.Fprintf(&b, "\n%s  %s\n", s.bold(section.Title), s.soft(section.ID))
		if len(o.Sections) == 1 {
			fmt.Fprintf(&b, "%s\n", s.soft(section.About))
		}
		a.tableText(&b, section.Summary)
		if len(o.Sections) == 1 {
			b.WriteString("\n")
			a.tableText(&b, section.Detail)
		}
	}
	return b.String(), nil
}

// maxCell is how wide a cell is, in characters.
const maxCell = 44

func (a *app) tableText(b *strings.Builder, t report.Table) {
	s := a.style()
	if len(t.Rows) == 0 {
		b.WriteString("  nothing\n")
		return
	}
	width := make([]int, len(t.Columns))
	for i, c := range t.Columns {
		width[i] = len([]rune(c.Name))
		for _, r := range t.Rows {
			width[i] = max(width[i], min(len([]rune(r.Cells[i])), maxCell))
		}
	}
	line := func(cells []string) string {
		var l strings.Builder
		for i, text := range cells {
			text = clipped(text, maxCell-1)
			pad := strings.Repeat(" ", max(0, width[i]-len([]rune(text))))
			if t.Columns[i].Number {
				text = pad + text
			} else {
				text += pad
			}
			l.WriteString("  " + text)
		}
		return strings.TrimRight(l.String(), " ")
	}
	names := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		names[i] = c.Name
	}
	fmt.Fprintf(b, "%s\n", s.soft(line(names)))
	for _, r := range t.Rows {
		b.WriteString(line(slices.Clone(r.Cells)) + "\n")
	}
}

package cli

import (
	"fmt"
	"strings"

	"github.com/charmbracelet/lipgloss"
	"github.com/muesli/termenv"

	"oldledger/core/compare"
	"oldledger/core/report"
)

// comparisonText says how a comparison is shown.
type comparisonText struct {
	all    bool
	report report.Options
}

// style is the look of text on a terminal: the grades of the house, and plain where there is no colour.
type style struct {
	renderer *lipgloss.Renderer
}

func (a *app) style() style {
	r := lipgloss.NewRenderer(a.Out)
	r.SetColorProfile(termenv.Ascii)
	if a.Color {
		r.SetColorProfile(termenv.ANSI256)
	}
	return style{r}
}

var gradeColors = map[compare.Grade]lipgloss.AdaptiveColor{
	compare.Breaking:  {Light: "88", Dark: "174"},
	compare.Hazard:    {Light: "94", Dark: "179"},
	compare.Safe:      {Light: "29", Dark: "115"},
	compare.Editorial: {Light: "242", Dark: "246"},
}

func (s style) grade(g compare.Grade, text string) string {
	return s.renderer.NewStyle().Bold(g >= compare.Hazard).Foreground(gradeColors[g]).Render(text)
}

func (s style) soft(text string) string {
	return s.renderer.NewStyle().Foreground(lipgloss.AdaptiveColor{Light: "242", Dark: "246"}).Render(text)
}

func (s style) bold(text string) string { return s.renderer.NewStyle().Bold(true).Render(text) }

// width is how many columns text may take.
func (a *app) width() int {
	if a.Width == 0 {
		return 120
	}
	return max(60, min(a.Width, 140))
}

// showComparison prints a comparison for a designer in a hurry: the verdict, the worst first, one line to know a change,
// two more to understand it.
func (a *app) showComparison(c *compare.Comparison, o comparisonText) error {
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s   %s\n%s\n", s.bold(report.Title(c)), report.Verdict(c), s.soft(compare.Manner(c.Reading, c.Undeclared)))
	if proof := report.Proof(c); proof != "" {
		for _, line := range wrap(proof, a.width()) {
			fmt.Fprintf(&b, "%s\n", s.soft(line))
		}
	}
	if len(c.Changes) > 0 {
		b.WriteString("\n")
	}
	var folded []string
	for _, g := range o.report.Groups(c) {
		if !o.all && g.Grade <= compare.Safe {
			folded = append(folded, s.grade(g.Grade, fmt.Sprintf("%s %s", g.Grade.Mark(), g.Grade))+"  "+report.Count(len(g.Changes), "change"))
			continue
		}
		for _, ch := range g.Changes {
			a.showChange(&b, s, c, ch, g.Grade, o.report)
		}
	}
	if len(folded) > 0 {
		fmt.Fprintf(&b, " %s   %s\n\n", strings.Join(folded, "    "), s.soft("--all shows them"))
	}
	if len(c.WaysOut) > 0 {
		fmt.Fprintf(&b, "%s\n", report.WaysOutHead)
		a.showWays(&b, " ", numbered(c.WaysOut))
		b.WriteString("\n")
	}
	if tally := report.Tally(c.Counts); tally != "" {
		fmt.Fprintf(&b, "%s\n", tally)
	}
	_, err := fmt.Fprint(a.Out, b.String())
	return err
}

// tie stands for a space at which no line is broken.
const tie = "\x00"

const changeIndent = "              "

func (a *app) showChange(b *strings.Builder, s style, c *compare.Comparison, ch *compare.Change, grade compare.Grade, o report.Options) {
	head := fmt.Sprintf(" %s %-9s  ", grade.Mark(), grade)
	where := report.Where(ch)
	room := a.width() - len([]rune(head)) - 2
	title := ch.Title
	fmt.Fprintf(b, "%s%s", s.grade(grade, head), s.bold(title))
	if gap := room - len([]rune(title)) - len([]rune(where)); gap >= 1 {
		fmt.Fprintf(b, "%s%s\n", strings.Repeat(" ", gap+1), s.soft(where))
	} else {
		fmt.Fprintf(b, "\n%s%s\n", changeIndent, s.soft(where))
	}
	for _, line := range wrap(ch.Why, a.width()-len(changeIndent)) {
		fmt.Fprintf(b, "%s%s\n", changeIndent, line)
	}
	if note := o.Notes[ch.ID]; note != "" {
		fmt.Fprintf(b, "%s%s\n", changeIndent, note)
	}
	for _, w := range o.Witnesses(ch) {
		if at := compare.ParsePosition(w.Position).Part; at == compare.PartSecurity || at == compare.PartServers {
			continue // the head of the message says less than the title
		}
		lead := w.Refuser + " refuses  "
		// A name and its value stay on one line.
		for i, line := range wrap(strings.ReplaceAll(w.Message(), `": `, `":`+tie), a.width()-len(changeIndent)-len(lead)) {
			line = strings.ReplaceAll(line, tie, " ")
			if i > 0 {
				lead = strings.Repeat(" ", len(lead))
			}
			fmt.Fprintf(b, "%s%s%s\n", changeIndent, s.soft(lead), line)
		}
	}
	fmt.Fprintf(b, "%s%s\n", changeIndent, s.soft(report.Places(ch)))
	if len(ch.Reach) > 1 {
		for _, line := range wrap("reaches "+report.Few(c.Written(ch.Reach), 3), a.width()-len(changeIndent)) {
			fmt.Fprintf(b, "%s%s\n", changeIndent, s.soft(line))
		}
	}
	a.showWays(b, changeIndent, together(ch.Advice))
	b.WriteString("\n")
}

// together are the ways out of one change as one paragraph.
func together(ways []string) []string {
	if len(ways) == 0 {
		return nil
	}
	return []string{strings.Join(ways, "; or ")}
}

// showWays prints ways out, each beginning its line.
func (a *app) showWays(b *strings.Builder, indent string, ways []string) {
	for _, way := range ways {
		for i, line := range wrap(way, a.width()-len(indent)-2) {
			if i > 0 {
				line = "  " + line
			}
			fmt.Fprintf(b, "%s%s\n", indent, line)
		}
	}
}

// numbered puts their numbers before ways out.
func numbered(ways []string) []string {
	lines := make([]string, len(ways))
	for i, way := range ways {
		lines[i] = fmt.Sprintf("%d %s", i+1, way)
	}
	return lines
}

// wrap breaks text at spaces into lines of at most width columns; a word that is longer is broken where it stands.
func wrap(text string, width int) []string {
	width = max(width, 20)
	var lines []string
	line := ""
	for word := range strings.FieldsSeq(text) {
		if r := []rune(word); len(r) > width {
			if line != "" {
				lines = append(lines, line)
				line = ""
			}
			for ; len(r) > width; r = r[width:] {
				lines = append(lines, string(r[:width]))
			}
			word = string(r)
		}
		switch {
		case line == "":
			line = word
		case len([]rune(line))+1+len([]rune(word)) <= width:
			line += " " + word
		default:
			lines = append(lines, line)
			line = word
		}
	}
	if line != "" {
		lines = append(lines, line)
	}
	return lines
}

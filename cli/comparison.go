package cli

import (
	"fmt"
	"strings"

	"github.com/charmbracelet/lipgloss"
	"github.com/muesli/termenv"

	"oldledger/core/compare"
	"oldledger/core/source"
)

// comparisonText says how a comparison is shown.
type comparisonText struct {
	all bool
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
	title := c.New.Title
	if title == "" {
		title = c.Old.Title
	}
	fmt.Fprintf(&b, "%s   %s\n", s.bold(fmt.Sprintf("%s %s → %s", title, c.Old.Version, c.New.Version)), verdict(c))
	if len(c.Changes) > 0 {
		b.WriteString("\n")
	}
	folded := map[compare.Grade]int{}
	for _, ch := range c.Changes {
		if !o.all && ch.Backward <= compare.Safe {
			folded[ch.Backward]++
			continue
		}
		a.showChange(&b, s, c, ch)
	}
	if len(folded) > 0 {
		var parts []string
		for _, g := range []compare.Grade{compare.Safe, compare.Editorial} {
			if n := folded[g]; n > 0 {
				parts = append(parts, s.grade(g, fmt.Sprintf("%s %s", g.Mark(), g))+"  "+count(n, "change"))
			}
		}
		fmt.Fprintf(&b, " %s   %s\n", strings.Join(parts, "    "), s.soft("--all shows them"))
	}
	if len(folded) > 0 {
		b.WriteString("\n")
	}
	if len(c.Changes) > 0 {
		fmt.Fprintf(&b, "%s\n", tallyLine(c))
	}
	_, err := fmt.Fprint(a.Out, b.String())
	return err
}

// verdict says in one line what happens to whom.
func verdict(c *compare.Comparison) string {
	var parts []string
	switch {
	case len(c.Changes) == 0:
		return "nothing changed"
	case c.Backward < compare.Hazard && c.Forward < compare.Hazard:
		parts = append(parts, "each can stand in for the other")
	default:
		parts = append(parts, map[compare.Grade]string{
			compare.Breaking: "clients of " + c.Old.Version + " will fail",
			compare.Hazard:   "clients of " + c.Old.Version + " go on, with hazards",
		}[c.Backward], map[compare.Grade]string{
			compare.Breaking: "a rollback will fail",
			compare.Hazard:   "a rollback has hazards",
		}[c.Forward])
		if parts[0] == "" {
			parts[0] = "clients of " + c.Old.Version + " go on"
		}
		if parts[1] == "" {
			parts[1] = "a rollback is safe"
		}
	}
	if c.Recommended != nil {
		parts = append(parts, "next version "+c.Recommended.Version)
	}
	return strings.Join(parts, " · ")
}

func tallyLine(c *compare.Comparison) string {
	var parts []string
	for _, g := range compare.Grades {
		if n := c.Counts.Of(g); n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, g))
		}
	}
	return strings.Join(parts, ", ")
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// tie stands for a space at which no line is broken.
const tie = "\x00"

const changeIndent = "              "

func (a *app) showChange(b *strings.Builder, s style, c *compare.Comparison, ch *compare.Change) {
	head := fmt.Sprintf(" %s %-9s  ", ch.Backward.Mark(), ch.Backward)
	where := whereText(ch)
	room := a.width() - len([]rune(head)) - 2
	title := ch.Title
	fmt.Fprintf(b, "%s%s", s.grade(ch.Backward, head), s.bold(title))
	if gap := room - len([]rune(title)) - len([]rune(where)); gap >= 1 {
		fmt.Fprintf(b, "%s%s\n", strings.Repeat(" ", gap+1), s.soft(where))
	} else {
		fmt.Fprintf(b, "\n%s%s\n", changeIndent, s.soft(where))
	}
	for _, line := range wrap(ch.Why, a.width()-len(changeIndent)) {
		fmt.Fprintf(b, "%s%s\n", changeIndent, line)
	}
	if w := ch.Witness; w != nil && w.Value != nil && ch.Grade(w.Direction) == compare.Breaking {
		refuser := w.Refuser(c)
		lead := refuser + " refuses  "
		// A name and its value stay on one line.
		for i, line := range wrap(strings.ReplaceAll(w.Value.Spaced(), `": `, `":`+tie), a.width()-len(changeIndent)-len(lead)) {
			line = strings.ReplaceAll(line, tie, " ")
			if i > 0 {
				lead = strings.Repeat(" ", len(lead))
			}
			fmt.Fprintf(b, "%s%s%s\n", changeIndent, s.soft(lead), line)
		}
	}
	fmt.Fprintf(b, "%s%s\n", changeIndent, s.soft(placesText(ch.Old, ch.New)))
	if len(ch.Advice) > 0 {
		for i, line := range wrap("gentler: "+strings.Join(ch.Advice, ", "), a.width()-len(changeIndent)) {
			if i > 0 {
				line = "         " + line
			}
			fmt.Fprintf(b, "%s%s\n", changeIndent, line)
		}
	}
	b.WriteString("\n")
}

// whereText names the shared component and how many operations feel the change, or the one operation.
func whereText(ch *compare.Change) string {
	switch name := ch.Component(); {
	case name != "" && len(ch.Reach) > 0:
		return name + ", in " + count(len(ch.Reach), "operation")
	case name != "":
		return name
	case len(ch.Reach) == 0:
		return ch.At
	case len(ch.Reach) == 1:
		return ch.Reach[0]
	}
	return fmt.Sprintf("%s and %d more", ch.Reach[0], len(ch.Reach)-1)
}

func placesText(old, new *source.Place) string {
	show := func(p *source.Place) string { return fmt.Sprintf("%s:%d", p.File, p.Line) }
	switch {
	case old == nil && new == nil:
		return ""
	case old == nil:
		return show(new)
	case new == nil:
		return show(old)
	}
	return show(old) + " → " + show(new)
}

// wrap breaks text at spaces into lines of at most width columns; a word that is longer is broken where it stands.
func wrap(text string, width int) []string {
	width = max(width, 20)
	var lines []string
	line := ""
	for word := range strings.FieldsSeq(text) {
		for len([]rune(word)) > width {
			if line != "" {
				lines = append(lines, line)
				line = ""
			}
			r := []rune(word)
			lines = append(lines, string(r[:width]))
			word = string(r[width:])
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

package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/housestyle"
	"oldledger/core/report"
	"oldledger/core/source"
)

// checked is what is wrong with one description, as --format json prints it.
type checked struct {
	Description string             `json:"description"` // as the person named it
	Style       string             `json:"style,omitempty"`
	Errors      int                `json:"errors"`
	Warnings    int                `json:"warnings"`
	Hints       int                `json:"hints"`
	Diagnostics source.Diagnostics `json:"diagnostics"`
	Mended      source.Diagnostics `json:"mended,omitempty"` // with --fix; with --dry-run what would be
	Standing    int                `json:"standing"`         // how many may stand, for the reasons that the description gives

	fixable int
	files   []*source.File
	style   *housestyle.Style
}

// longLine is from how many bytes on a line shows nothing any more: a text in one line.
const longLine = 2_000

// line is the line of a place in one of the files, without the blanks around it.
func (c checked) line(at source.Place) string {
	for _, f := range c.files {
		if f.Name == at.File {
			if line := f.Line(at.Line); len(line) <= longLine {
				return strings.TrimSpace(line)
			}
		}
	}
	return ""
}

// fitted is a text that is cut where it is too long.
func fitted(text string, width int) string {
	if r := []rune(text); len(r) > width {
		return string(r[:max(width-1, 0)]) + "…"
	}
	return text
}

// checking is how descriptions are checked.
type checking struct {
	least    source.Severity
	fix, dry bool
	company  bool         // whether the other APIs of the ledger are asked how they name things
	since    string       // another version: only what is new is told
	before   *description // that version
	styles   *styles
	options  housestyle.Options
}

func (a *app) checkCommand() *cobra.Command {
	var atLeast, style string
	var table bool
	var how checking
	cmd := &cobra.Command{
		Use: "check [REF …]", GroupID: "look", Short: "Say what is wrong with a description, and what does not follow the house style",
		Long: `Tells every mistake of a description, and what breaks the rules of the house style, each with its place and what would be right.
Without a description it checks those that .oldledger.yaml names under check. A description with mistakes can be read, recorded and compared
all the same; docs/manual/mistakes.md says what each mistake is taken to mean, and oldledger rules explains the rules. The exit status is 1
when there is an error.

The style is that of --style, else of the project file, else, of a version in a ledger, that of its API there, else the rules as they come.
With --since only what is new is told, and mended: how an old description takes on a style.

With --fix what can be mended without a thought is mended in the files: nothing else of them changes, comments and layout included. What is
left is told. With --dry-run it is only told what would be mended.`,
		Example: `  oldledger check berths.yaml
  oldledger check berths@draft --at-least warning
  oldledger check berths.yaml --style harbour.yaml --since berths@latest
  oldledger check berths.yaml --only readers,field-case
  oldledger check berths.yaml --fix --dry-run`,
	}
	format := formatFlag(cmd, checkedFormats...)
	flags := cmd.Flags()
	flags.BoolVar(&how.fix, "fix", false, "mend in the files what can be mended without a thought")
	flags.BoolVar(&how.dry, "dry-run", false, "with --fix: only say what would be mended")
	flags.BoolVar(&table, "rules", false, "list what readers tell, and what is read instead, as Markdown")
	flags.StringVar(&atLeast, "at-least", "hint", "tell what is this bad and worse: hint, warning or error")
	flags.StringVar(&style, "style", "", "the house style: a file, or @API for that of an API in the ledger, @ for that of the house")
	flags.StringVar(&how.since, "since", "", "tell only what is new against another version: a file or a reference")
	flags.BoolVar(&how.company, "company", false, "ask the ledger how its other APIs name their fields, too")
	flags.StringSliceVar(&how.options.Only, "only", nil, "judge by these rules or groups of rules alone")
	flags.StringSliceVar(&how.options.Skip, "skip", nil, "judge by all rules but these, or groups of them")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if table {
			return printf(a, "%s", check.Table())
		}
		args, err := a.toCheck(args)
		if err != nil {
			return err
		}
		if err := how.least.UnmarshalText([]byte(atLeast)); err != nil {
			return usageError{fmt.Errorf("--at-least: %w", err)}
		}
		if err := checkFormat(*format, checkedFormats...); err != nil {
			return err
		}
		if how.dry && !how.fix {
			return usageError{errors.New("--dry-run says what --fix would do: write both")}
		}
		if how.company {
			if how.options.Company, err = a.vocabulary(cmd.Context()); err != nil {
				return err
			}
		}
		how.styles = a.newStyles(cmd.Context(), style)
		for _, arg := range args {
			how.styles.begin(arg)
		}
		if how.since != "" {
			if how.before, err = a.describe(cmd.Context(), how.since); err != nil {
				return err
			}
			how.options.Base = how.before.contract
		}
		return a.check(cmd.Context(), args, how, *format)
	}
	return cmd
}

// vocabulary is how the APIs of the ledger name their fields.
func (a *app) vocabulary(ctx context.Context) (*housestyle.Vocabulary, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	v, err := c.Vocabulary(ctx)
	if err != nil {
		return nil, refused(err)
	}
	if v.Left > 0 {
		fmt.Fprintf(a.Err, "%d APIs of the ledger are not asked: it has more than are compared\n", v.Left)
	}
	return &v.Vocabulary, nil
}

// toCheck are the descriptions to check: those that are named, or those of the project file.
func (a *app) toCheck(args []string) ([]string, error) {
	if len(args) > 0 {
		return args, nil
	}
	p, err := a.project()
	if err != nil {
		return nil, err
	}
	all := p.Checked()
	if len(all) == 0 {
		return nil, usageError{fmt.Errorf("check takes a description, or several; or write them under apis: or check: in %s", projectFile)}
	}
	return all, nil
}

// knownRules refuses names of rules and groups that are not there.
func knownRules(style *housestyle.Style, o housestyle.Options) error {
	names := append(style.Names(), housestyle.WellFormed, housestyle.Ownership)
	names = append(names, housestyle.Groups...)
	for _, r := range check.Rules() {
		names = append(names, r.Name)
	}
	for _, name := range slices.Concat(o.Only, o.Skip) {
		if !slices.Contains(names, name) {
			return usageError{fmt.Errorf("there is no rule or group %q%s", name,
				cmp.Or(source.DidYouMean(name, names), "; oldledger rules lists them"))}
		}
	}
	return nil
}

func (a *app) check(ctx context.Context, args []string, how checking, format string) error {
	all := make([]checked, len(args))
	wrong := false
	for i, arg := range args {
		c, broken, err := a.checkOne(ctx, arg, how, format)
		if err != nil {
			return err
		}
		all[i] = c
		wrong = wrong || broken
	}
	if err := a.showChecked(all, how, format); err != nil {
		return err
	}
	if wrong {
		return errNo
	}
	return nil
}

// checkOne tells what is wrong with one description, and whether an error is.
func (a *app) checkOne(ctx context.Context, arg string, how checking, format string) (c checked, broken bool, err error) {
	c = checked{Description: arg}
	if how.fix {
		if c.Mended, err = a.fix(ctx, arg, how); err != nil {
			return c, false, err
		}
	}
	e, err := a.examine(ctx, arg, how)
	if err != nil {
		return c, false, err
	}
	found := e.found
	c.files, c.style, c.Style = e.files, e.style, e.style.Name
	if format != "text" {
		found.FillFixes()
	}
	for _, f := range found {
		if f.Let != "" {
			c.Standing++
		}
	}
	told := found.Diagnostics()
	broken = told.Count(source.Error) > 0
	told = slices.DeleteFunc(told, func(d *source.Diagnostic) bool { return d.Severity < how.least })
	c.fixable = found.CountFixable(how.least)
	c.Errors, c.Warnings, c.Hints = told.Count(source.Error), told.Count(source.Warning), told.Count(source.Hint)
	c.Diagnostics = slices.Clip(append(source.Diagnostics{}, told...))
	return c, broken, nil
}

// examined is what was found in a description, in which files, by which style.
type examined struct {
	found housestyle.Findings
	files []*source.File
	style *housestyle.Style
}

// examine tells all that is wrong with one description, or what of it is new since another version.
func (a *app) examine(ctx context.Context, arg string, how checking) (e examined, err error) {
	d, err := a.describe(ctx, arg)
	if err != nil {
		return e, err
	}
	if e.style, err = how.styles.of(arg); err != nil {
		return e, err
	}
	if err := knownRules(e.style, how.options); err != nil {
		return e, err
	}
	e.files = d.set.Files()
	if e.found, err = judge(ctx, d, e.style, how.options); err != nil || how.before == nil {
		return e, err
	}
	o := how.options
	o.Base = nil
	before, err := judge(ctx, how.before, e.style, o)
	e.found = e.found.New(before)
	return e, err
}

// judge tells all that is wrong with a description.
func judge(ctx context.Context, d *description, style *housestyle.Style, o housestyle.Options) (housestyle.Findings, error) {
	o.Files, o.API = d.set.Files(), d.contract.Name
	if name, _, reference := strings.Cut(d.name, "@"); o.API == "" && reference {
		o.API = name
	}
	return housestyle.Examine(ctx, d.contract, style, o)
}

func (a *app) showChecked(all []checked, how checking, format string) error {
	switch format {
	case "text":
	case "json":
		if len(all) == 1 {
			return a.json(all[0])
		}
		return a.json(map[string]any{"items": all})
	default:
		return a.reportChecked(all, format)
	}
	s := a.style()
	var b strings.Builder
	for i, c := range all {
		if i > 0 {
			b.WriteString("\n")
		}
		a.showMended(&b, s, c.Mended, how.dry)
		a.showFindings(&b, s, c, how)
	}
	return printf(a, "%s", b.String())
}

// Of a rule that is broken often, few places are shown where much is wrong, unless the rule was asked for.
const (
	muchWrong  = 30
	fewOfARule = 3
)

// showFindings prints what is wrong with one description: by its files, in each the worst first.
func (a *app) showFindings(b *strings.Builder, s style, c checked, how checking) {
	since := ""
	if how.since != "" {
		since = " new since " + how.since
	}
	tally := c.Diagnostics.Tally()
	if tally.All() == 0 {
		fmt.Fprintf(b, "%s   nothing is wrong%s%s\n", s.bold(c.Description), since, a.standing(c))
		return
	}
	fmt.Fprintf(b, "%s   %s%s\n\n", s.bold(c.Description), tally, since)
	of := map[string]int{}
	for _, d := range c.Diagnostics {
		of[d.Rule]++
	}
	shown := map[string]int{}
	file := c.Diagnostics[0].File
	for i, d := range byFile(c.Diagnostics) {
		if i > 0 && d.File != file {
			b.WriteString("\n")
		}
		file = d.File
		if shown[d.Rule]++; tally.All() > muchWrong && len(how.options.Only) == 0 && of[d.Rule] > fewOfARule && shown[d.Rule] > fewOfARule {
			continue
		}
		a.showDiagnostic(b, s, c, d)
		if rest := of[d.Rule] - fewOfARule; tally.All() > muchWrong && len(how.options.Only) == 0 && rest > 0 && shown[d.Rule] == fewOfARule {
			fmt.Fprintf(b, "%s%s\n", strings.Repeat(" ", 12), s.soft(fmt.Sprintf("and %d more: --only %s tells all", rest, d.Rule)))
		}
	}
	fmt.Fprintf(b, "\n%s%s\n", tally, a.standing(c))
	if c.fixable > 0 && !how.fix {
		fmt.Fprintf(b, "%s\n", s.soft(fmt.Sprintf("--fix mends %d of them", c.fixable)))
	}
}

// standing says how many findings may stand.
func (a *app) standing(c checked) string {
	if c.Standing == 0 {
		return ""
	}
	return fmt.Sprintf(", %d may stand", c.Standing)
}

// byFile are diagnostics by their files, in each the worst first.
func byFile(all source.Diagnostics) source.Diagnostics {
	files := map[string]int{}
	for _, d := range all {
		if _, known := files[d.File]; !known {
			files[d.File] = len(files)
		}
	}
	sorted := slices.Clone(all)
	slices.SortStableFunc(sorted, func(p, q *source.Diagnostic) int {
		if p.File != q.File {
			return files[p.File] - files[q.File]
		}
		return int(q.Severity) - int(p.Severity)
	})
	return sorted
}

// checkedFormats are those beside text and JSON.
var checkedFormats = []string{"markdown", "sarif", "junit"}

// reportChecked prints what is wrong as another program reads it.
func (a *app) reportChecked(all []checked, format string) error {
	told := make([]report.Checked, len(all))
	for i, c := range all {
		told[i] = report.Checked{Description: c.Description, Diagnostics: c.Diagnostics}
	}
	var out []byte
	var err error
	switch format {
	case "markdown":
		out = []byte(report.CheckedMarkdown(told))
	case "sarif":
		out, err = report.CheckedSARIF(told, meanings(all), Version)
		out = append(out, '\n')
	default:
		out, err = report.CheckedJUnit(told)
	}
	if err != nil {
		return err
	}
	return printf(a, "%s", out)
}

// severityLooks are those of the grades that weigh as much.
var severityLooks = map[source.Severity]compare.Grade{
	source.Error: compare.Breaking, source.Warning: compare.Hazard,
	source.Hint: compare.Editorial,
}

// showDiagnostic prints one: the place, what is wrong, and below it the line, what would be right, and the rule.
func (a *app) showDiagnostic(b *strings.Builder, s style, c checked, d *source.Diagnostic) {
	look := severityLooks[d.Severity]
	head := fmt.Sprintf(" %s %-8s ", look.Mark(), d.Severity)
	indent := strings.Repeat(" ", len([]rune(head)))
	for i, line := range wrap(d.Place.String()+"  "+d.Text, a.width()-len(indent)) {
		if i == 0 {
			fmt.Fprintf(b, "%s%s\n", s.grade(look, head), line)
			continue
		}
		fmt.Fprintf(b, "%s%s\n", indent, line)
	}
	if line := c.line(d.Place); line != "" {
		fmt.Fprintf(b, "%s%s\n", indent, s.soft("│ "+fitted(line, a.width()-len(indent)-2)))
	}
	right := d.Right
	if right == "" && d.Fix != nil {
		right = d.Fix.Title
	}
	lines := wrap(right, a.width()-len(indent))
	if last := len(lines) - 1; last >= 0 && len([]rune(indent+lines[last]+d.Rule))+2 <= a.width() {
		lines[last] += "  " + s.soft(d.Rule)
	} else {
		lines = append(lines, s.soft(d.Rule))
	}
	for _, line := range lines {
		fmt.Fprintf(b, "%s%s\n", indent, line)
	}
	for _, r := range d.Related {
		fmt.Fprintf(b, "%s%s\n", indent, s.soft(r.Text+": "+r.Place.String()))
	}
}

// meanings are the rules of readers and of the styles by which descriptions were judged, as reports tell of them.
func meanings(all []checked) []source.Rule {
	rules := append(check.Rules(), housestyle.RuleFailed, housestyle.LetStandStale, housestyle.LetStandBroken)
	for _, c := range all {
		for _, r := range c.style.Rules {
			rules = append(rules, source.Rule{Name: r.Name, Severity: r.Weight, Means: r.Why})
		}
	}
	return rules
}

// remark says on standard error how much is wrong with a description, and shows the worst.
func (a *app) remark(d *description, tally source.Tally) {
	if tally.All() == 0 {
		return
	}
	const most = 3
	fmt.Fprintf(a.Err, "%s: %s", d.name, tally)
	shown := tally.Worst[:min(len(tally.Worst), most)]
	if tally.Errors+tally.Warnings == 0 {
		shown = nil
	}
	if len(shown) < tally.All() {
		fmt.Fprintf(a.Err, "; oldledger check %s tells all", d.name)
	}
	fmt.Fprintln(a.Err)
	for _, w := range shown {
		fmt.Fprintf(a.Err, "  %s %s\n", severityLooks[w.Severity].Mark(), w)
	}
}

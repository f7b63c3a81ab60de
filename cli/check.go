package cli

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/core/source"
)

// checked is what is wrong with one description, as --format json prints it.
type checked struct {
	Description string             `json:"description"` // as the person named it
	Errors      int                `json:"errors"`
	Warnings    int                `json:"warnings"`
	Hints       int                `json:"hints"`
	Diagnostics source.Diagnostics `json:"diagnostics"`
	Mended      source.Diagnostics `json:"mended,omitempty"` // with --fix; with --dry-run what would be
}

func (a *app) checkCommand() *cobra.Command {
	var atLeast string
	var rules, fix, dry bool
	cmd := &cobra.Command{
		Use: "check REF …", GroupID: "look", Short: "Say what is wrong with a description",
		Long: `Tells every mistake of a description with its place and what would be right. A description with mistakes can be read, recorded and
compared all the same; docs/manual/mistakes.md says what each mistake is taken to mean. The exit status is 1 when there is an error: the gate asks for
none that is not let through by name.

With --fix what can be mended without a thought, such as a key with a slip, is mended in the files: nothing else of them changes, comments and
layout included. What is left is told. With --dry-run it is only told what would be mended.`,
		Example: "  oldledger check berths.yaml\n  oldledger check berths@draft --at-least warning\n  oldledger check berths.yaml tides/tides.raml --format json\n  oldledger check berths.yaml --fix --dry-run",
	}
	format := formatFlag(cmd, checkedFormats...)
	cmd.Flags().BoolVar(&fix, "fix", false, "mend in the files what can be mended without a thought")
	cmd.Flags().BoolVar(&dry, "dry-run", false, "with --fix: only say what would be mended")
	cmd.Flags().BoolVar(&rules, "rules", false, "list what is told, and what is read instead, as Markdown")
	cmd.Flags().StringVar(&atLeast, "at-least", "hint", "tell what is this bad and worse: hint, warning or error")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if rules {
			return printf(a, "%s", check.Table())
		}
		if len(args) == 0 {
			return usageError{errors.New("check takes a description, or several")}
		}
		var least source.Severity
		if err := least.UnmarshalText([]byte(atLeast)); err != nil {
			return usageError{fmt.Errorf("--at-least: %w", err)}
		}
		if err := checkFormat(*format, checkedFormats...); err != nil {
			return err
		}
		if dry && !fix {
			return usageError{errors.New("--dry-run says what --fix would do: write both")}
		}
		return a.check(cmd.Context(), args, checking{least, fix, dry}, *format)
	}
	return cmd
}

// checking is how descriptions are checked.
type checking struct {
	least    source.Severity
	fix, dry bool
}

func (a *app) check(ctx context.Context, args []string, how checking, format string) error {
	all := make([]checked, len(args))
	wrong := false
	for i, arg := range args {
		var mended source.Diagnostics
		if how.fix {
			var err error
			if mended, err = a.fix(ctx, arg, how.least, how.dry); err != nil {
				return err
			}
		}
		d, err := a.describe(ctx, arg)
		if err != nil {
			return err
		}
		found, err := check.Contract(ctx, d.contract)
		if err != nil {
			return err
		}
		wrong = wrong || found.Count(source.Error) > 0
		found = slices.DeleteFunc(found, func(d *source.Diagnostic) bool { return d.Severity < how.least })
		all[i] = checked{
			arg, found.Count(source.Error), found.Count(source.Warning), found.Count(source.Hint),
			slices.Clip(append(source.Diagnostics{}, found...)), mended,
		}
	}
	if err := a.showChecked(all, how.dry, format); err != nil {
		return err
	}
	if wrong {
		return errNo
	}
	return nil
}

func (a *app) showChecked(all []checked, dry bool, format string) error {
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
		a.showMended(&b, s, c.Mended, dry)
		tally := c.Diagnostics.Tally()
		if tally.All() == 0 {
			fmt.Fprintf(&b, "%s   nothing is wrong\n", s.bold(c.Description))
			continue
		}
		fmt.Fprintf(&b, "%s   %s\n\n", s.bold(c.Description), tally)
		for _, d := range c.Diagnostics {
			a.showDiagnostic(&b, s, d)
		}
		fmt.Fprintf(&b, "\n%s\n", tally)
	}
	return printf(a, "%s", b.String())
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
		out, err = report.CheckedSARIF(told, check.Rules(), Version)
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

// showDiagnostic prints one: the place, what is wrong, and below it what would be right.
func (a *app) showDiagnostic(b *strings.Builder, s style, d *source.Diagnostic) {
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
	right := d.Right
	if right == "" && d.Fix != nil {
		right = d.Fix.Title
	}
	for _, line := range wrap(right, a.width()-len(indent)-len(d.Rule)-2) {
		fmt.Fprintf(b, "%s%s\n", indent, line)
	}
	for _, r := range d.Related {
		fmt.Fprintf(b, "%s%s\n", indent, s.soft(r.Text+": "+r.Place.String()))
	}
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

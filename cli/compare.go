package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// comparing are the options of the commands that compare.
type comparing struct {
	format, reading, undeclared, direction, atLeast string
	only, skip                                      []string
	all                                             bool
	explain                                         string
}

var comparisonFormats = []string{"text", "json", "markdown", "html", "sarif", "junit"}

func (a *app) compareCommand() *cobra.Command {
	var o comparing
	cmd := &cobra.Command{
		Use:     "compare [OLD NEW]",
		GroupID: "look",
		Short:   "Say what a new version does to the clients of an old one",
		Long: `Compares two descriptions, files or versions in the ledger. Every breaking change comes with a message that shows it. Without arguments it
compares the descriptions of the project file, each with the version that is before it in the ledger.

The exit status is 0 when yesterday's clients can call the new version, and 1 when something breaks for them. With --direction
forward it answers for a rollback, tomorrow's clients calling the old version; with both, for either. --only and --skip take kinds of change
("response.*", "range-narrowed") and operations ("POST /bookings"); what they leave out does not count.`,
		Example: `  oldledger compare demo/berths/1.2.0.yaml demo/berths/2.0.0.yaml
  oldledger compare berths@1 draft.yaml --format json
  oldledger compare berths@1 draft.yaml --format sarif --at-least hazard
  oldledger compare --explain response.enum-widened`,
		RunE: func(cmd *cobra.Command, args []string) error {
			if o.explain != "" {
				return a.explain(o.explain, o.format)
			}
			if len(args) == 0 {
				return a.compareRepository(cmd, o)
			}
			if len(args) != 2 {
				return usageError{fmt.Errorf("compare takes two descriptions, an old and a new one; %d given", len(args))}
			}
			return a.compare(cmd, args, o)
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.format, "format", "text", strings.Join(comparisonFormats, ", "))
	f.StringVar(&o.reading, "reading", "declared", "declared: senders send what they declare; exact: every instance of the schemas")
	undeclaredFlag(cmd, &o.undeclared)
	f.StringVar(&o.direction, "direction", "backward", "whose failure counts: backward (old clients), forward (after a rollback) or both")
	f.StringVar(&o.atLeast, "at-least", "editorial", "list changes of this grade and worse: editorial, safe, hazard or breaking")
	f.StringArrayVar(&o.only, "only", nil, "take only changes of this kind or operation (may be repeated)")
	f.StringArrayVar(&o.skip, "skip", nil, "leave out changes of this kind or operation (may be repeated)")
	f.BoolVar(&o.all, "all", false, "tell safe and editorial changes in full, too")
	f.StringVar(&o.explain, "explain", "", "explain a kind of change instead")
	return cmd
}

// compareRepository compares the descriptions of the project file, each with the version that is before it in the ledger.
func (a *app) compareRepository(cmd *cobra.Command, o comparing) error {
	all, err := a.inRepository("compare takes two descriptions, an old and a new one")
	if err != nil {
		return err
	}
	if len(all) > 1 && o.format != "text" && o.format != "markdown" {
		return usageError{fmt.Errorf("--format %s holds one comparison, and %s names %d APIs; record --dry-run --format %[1]s holds all",
			o.format, projectFile, len(all))}
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	breaks := false
	for i := range all {
		h := &all[i]
		if _, err := a.readToRecord(cmd.Context(), h, recordWish{}); err != nil {
			return err
		}
		rec, err := c.DryRun(cmd.Context(), *h.read)
		if err != nil {
			return refused(err)
		}
		if i > 0 {
			if err := printf(a, "\n"); err != nil {
				return err
			}
		}
		if rec.Base == nil {
			is := map[bool]string{true: "is recorded already", false: "is new"}[rec.Outcome == "same"]
			if err := printf(a, "%s %s; nothing before it is there to compare it with\n", rec.Version.Ref(), is); err != nil {
				return err
			}
			continue
		}
		if err = a.compare(cmd, []string{rec.Base.Ref(), h.file}, o); err != nil && !errors.Is(err, errNo) {
			return err
		}
		breaks = breaks || err != nil
	}
	if breaks {
		return errNo
	}
	return nil
}

func (a *app) compare(cmd *cobra.Command, args []string, o comparing) error {
	r, ok := shape.ParseReading(o.reading)
	if !ok {
		return usageError{fmt.Errorf("--reading is declared or exact, not %q", o.reading)}
	}
	if err := checkFormat(o.format, comparisonFormats...); err != nil {
		return err
	}
	undeclared, err := parseUndeclared(o.undeclared)
	if err != nil {
		return err
	}
	selection, err := o.selection()
	if err != nil {
		return err
	}
	a.collectLate()
	old, new, err := a.describeBoth(cmd.Context(), args)
	if err != nil {
		return err
	}
	checking := checkBoth(cmd.Context(), old, new) // beside the comparison: both only read
	if undeclared, err = a.undeclaredOf(cmd.Context(), undeclared, args); err != nil {
		return err
	}
	done := a.at("comparing %s with %s", args[0], args[1])
	whole, err := compare.ContractsContext(cmd.Context(), old.contract, new.contract, compare.Options{Reading: r, Undeclared: undeclared})
	checked := <-checking
	done()
	if err = errors.Join(err, checked.err); err != nil {
		return err
	}
	c := compare.Select(whole, selection)
	for i, side := range []*compare.Side{&c.Old, &c.New} {
		if tally := checked.tallies[i]; tally.All() > 0 {
			side.Diagnostics = &tally
			if o.format != "json" {
				a.remark([]*description{old, new}[i], tally)
			}
		}
	}
	removed, err := a.removals(cmd.Context(), args[0], old.contract, c)
	if err != nil {
		return err
	}
	how := report.Options{Direction: selection.Direction, Either: selection.Either, Notes: map[string]string{}}
	for id, announced := range removed {
		how.Notes[id] = announced.String()
	}
	if err := a.report(c, o, how); err != nil {
		return err
	}
	verdict := map[bool]compare.Grade{true: c.Forward, false: c.Backward}[selection.Direction == compare.Forward]
	if selection.Either {
		verdict = max(c.Backward, c.Forward)
	}
	if verdict == compare.Breaking {
		return errNo
	}
	return nil
}

// tallied is what is wrong with two descriptions.
type tallied struct {
	tallies [2]source.Tally
	err     error
}

// checkBoth checks two descriptions in the background.
func checkBoth(ctx context.Context, old, new *description) <-chan tallied {
	done := make(chan tallied, 1)
	go func() {
		var t tallied
		for i, d := range []*description{old, new} {
			found, err := check.Contract(ctx, d.contract)
			t.tallies[i], t.err = found.Tally(), errors.Join(t.err, err)
		}
		done <- t
	}()
	return done
}

// removals tell how what a comparison removes was announced: by the notices of the ledger, or by the old description itself. Where neither
// announces anything, nothing is told.
func (a *app) removals(ctx context.Context, ref string, old *contract.Contract, c *compare.Comparison) (map[string]*promise.Announcement,
	error,
) {
	notices, _ := promise.Declared(old) // what is wrong with them, check tells
	if a.isReference(ref) {
		ledger, err := a.client()
		if err != nil {
			return nil, err
		}
		name, _, _ := strings.Cut(ref, "@")
		api, err := ledger.API(ctx, name)
		if err != nil {
			return nil, err
		}
		notices = api.Notices
	}
	if len(notices) == 0 {
		return nil, nil
	}
	return promise.Removals(c, notices, a.Now()), nil
}

// selection reads the options that pick changes.
func (o comparing) selection() (compare.Selection, error) {
	s := compare.Selection{Only: o.only, Skip: o.skip}
	if o.direction == "both" {
		s.Either = true
	} else if err := s.Direction.UnmarshalText([]byte(o.direction)); err != nil {
		return s, usageError{fmt.Errorf("--direction is backward, forward or both, not %q", o.direction)}
	}
	if err := s.AtLeast.UnmarshalText([]byte(o.atLeast)); err != nil {
		return s, usageError{fmt.Errorf("--at-least: %w", err)}
	}
	for _, pattern := range slices.Concat(o.only, o.skip) {
		if _, known := compare.FindKind(pattern); !known && !compare.IsOperation(pattern) && !strings.Contains(pattern, "*") {
			return s, usageError{unknownKind(pattern)}
		}
	}
	return s, nil
}

// unknownKind says that there is no such kind, and which may have been meant.
func unknownKind(name string) error {
	var names []string
	for _, k := range compare.Kinds() {
		names = append(names, k.Name)
		for _, place := range k.Places {
			names = append(names, place+"."+k.Name)
		}
	}
	return fmt.Errorf("%q is no kind of change%s (oldledger kinds lists them all)", name, source.DidYouMean(name, names))
}

// report prints a comparison in a format.
func (a *app) report(c *compare.Comparison, o comparing, how report.Options) error {
	var text string
	var err error
	switch o.format {
	case "json":
		return a.json(c)
	case "markdown":
		text = report.Markdown(c, how)
	case "html":
		text, err = report.HTML(c, how)
	case "sarif":
		var out []byte
		out, err = report.SARIF(c, how, Version)
		text = string(out) + "\n"
	case "junit":
		var out []byte
		out, err = report.JUnit(c, how)
		text = string(out)
	default:
		return a.showComparison(c, comparisonText{all: o.all || o.atLeast != "editorial", report: how})
	}
	if err != nil {
		return err
	}
	return printf(a, "%s", text)
}

// json prints a value as indented JSON.
func (a *app) json(v any) error {
	enc := json.NewEncoder(a.Out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}

package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/compare"
	"oldledger/core/exchange"
	"oldledger/core/reliance"
	"oldledger/core/replay"
	"oldledger/core/source"
)

// replaying are the options of replay.
type replaying struct {
	consumer, against, recorded, reads, undeclared, format string
}

func (a *app) replayCommand() *cobra.Command {
	var o replaying
	cmd := &cobra.Command{
		Use: "replay FILE.har ...", GroupID: "use", Short: "Say whether recorded exchanges still pass at another version",
		Long: `Holds recorded exchanges, HTTP archives (HAR 1.2), against a version: does every recorded request still pass, does every recorded answer still
fit, and does the version still promise what is read? Nothing is sent anywhere: a description answers. - is standard input.

--reads names a file that says which parts of answers are read (learn makes one); without it all that was recorded counts. --recorded names
the version that answered when it was recorded: what that did not promise either is told as such, and fails nothing. Credentials in the
archive are never shown.

The exit status is 1 when a client that does what was recorded would fail.`,
		Example: `  oldledger replay skerry.har --against berths@2.0.0
  oldledger replay skerry.har --against draft.yaml --recorded berths@1.2.0 --reads skerry-reads.yaml
  oldledger replay --of skerry-planner --against berths@2.0.0`,
	}
	f := cmd.Flags()
	f.StringVar(&o.consumer, "of", "", "a consumer of the ledger, in the place of an archive: the recording of it that is kept")
	f.StringVar(&o.against, "against", "", "the version: a description, or a version of the ledger")
	f.StringVar(&o.recorded, "recorded", "", "the version that answered when it was recorded")
	f.StringVar(&o.reads, "reads", "", "a file that says what the consumer sends and reads")
	undeclaredFlag(cmd, &o.undeclared)
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		o.format = *format
		if o.against == "" {
			return usageError{errors.New("replay needs --against with a description, or a version of the ledger")}
		}
		if err := checkFormat(o.format, "text", "json"); err != nil {
			return err
		}
		if (o.consumer == "") == (len(args) == 0) {
			return usageError{errors.New("replay takes archives, or --of with a consumer whose recording the ledger keeps")}
		}
		report, err := a.replay(cmd.Context(), args, o)
		if err != nil {
			return err
		}
		if o.format == "json" {
			err = a.json(report)
		} else {
			err = a.showReplay(report, o)
		}
		if err == nil && !report.Holds() {
			return errNo
		}
		return err
	}
	return cmd
}

func (a *app) replay(ctx context.Context, archives []string, o replaying) (*replay.Report, error) {
	if o.consumer != "" {
		return a.replayKept(ctx, o)
	}
	undeclared, err := parseUndeclared(o.undeclared)
	if err != nil {
		return nil, err
	}
	version, err := a.describe(ctx, o.against)
	if err != nil {
		return nil, err
	}
	if undeclared, err = a.undeclaredOf(ctx, undeclared, []string{o.against}); err != nil {
		return nil, err
	}
	how := replay.Options{Refuses: undeclared == compare.Refused}
	if o.recorded != "" {
		before, err := a.describe(ctx, o.recorded)
		if err != nil {
			return nil, err
		}
		how.Recorded = before.contract
	}
	if o.reads != "" {
		if how.Need, err = a.need(o.reads, o.against); err != nil {
			return nil, err
		}
		if how.Recorded != nil {
			if err := how.Need.Resolve(how.Recorded); err != nil {
				return nil, err
			}
		}
	}
	r := replay.New(ctx, version.contract, how)
	for _, name := range archives {
		if err := a.archive(ctx, name, r.Take); err != nil {
			return nil, err
		}
	}
	report := r.Report()
	return report, ctx.Err()
}

// replayKept has the ledger replay the recording that it keeps of a consumer.
func (a *app) replayKept(ctx context.Context, o replaying) (*replay.Report, error) {
	if !a.isReference(o.against) || o.recorded != "" || o.reads != "" || o.undeclared != "" {
		return nil, usageError{errors.New("--of takes a version of the ledger behind --against, and no other option: the ledger knows the rest")}
	}
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	report, err := c.Replay(ctx, o.consumer, o.against)
	return report, refused(err)
}

// need is what a file says of the API of a version.
func (a *app) need(name, against string) (*reliance.Need, error) {
	r, err := a.reliance(name)
	if err != nil {
		return nil, err
	}
	if a.isReference(against) {
		api, _, _ := strings.Cut(against, "@")
		for _, n := range r.Needs {
			if n.API == api {
				return n, nil
			}
		}
		return nil, &inputError{fmt.Errorf("%s says nothing of %s", name, api)}
	}
	if len(r.Needs) != 1 {
		return nil, &inputError{fmt.Errorf("%s speaks of %d APIs, and nobody knows of which one %s is a version", name, len(r.Needs), against)}
	}
	return r.Needs[0], nil
}

// reliance reads what a consumer relies on from a file.
func (a *app) reliance(name string) (*reliance.Reliance, error) {
	text, err := os.ReadFile(a.path(name))
	if err != nil {
		return nil, notRead(name, err)
	}
	f, err := source.Parse(name, text)
	if err != nil {
		return nil, err
	}
	return reliance.Read(f)
}

// archive reads the exchanges of an archive, and tells of those that cannot be read.
func (a *app) archive(ctx context.Context, name string, take func(*exchange.Exchange)) error {
	defer a.at("reading %s", name)()
	in := a.In
	if name != "-" {
		f, err := os.Open(a.path(name))
		if err != nil {
			return notRead(name, err)
		}
		defer f.Close()
		in = f
	}
	read, err := exchange.Read(ctx, in, func(e *exchange.Exchange) error {
		take(e)
		return ctx.Err()
	})
	for i, w := range read.Wrong {
		if i == mostShown {
			fmt.Fprintf(a.Err, "%s: %d entries more cannot be read\n", name, len(read.Wrong)-i)
			break
		}
		fmt.Fprintf(a.Err, "%s: entry %d is left out: %s\n", name, w.Number, w.Why)
	}
	var cut *exchange.Cut
	if errors.As(err, &cut) {
		return &inputError{fmt.Errorf("%s: %w", name, err)}
	}
	return err
}

func (a *app) showReplay(r *replay.Report, o replaying) error {
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "against %s: ", s.bold(o.against))
	switch {
	case r.Exchanges == 0:
		b.WriteString("no exchange is a call of it\n")
	case r.Passed == r.Exchanges:
		fmt.Fprintf(&b, "%s of %s still %s", all(r.Exchanges), counted(len(r.Operations), "operation"),
			map[bool]string{true: "passes", false: "pass"}[r.Exchanges == 1])
		if !r.Holds() {
			b.WriteString("; what is relied on is not promised any more")
		}
		b.WriteString("\n")
	default:
		fmt.Fprintf(&b, "%d of %s fail, of %s\n", r.Exchanges-r.Passed, counted(r.Exchanges, "exchange"), counted(len(r.Operations), "operation"))
	}
	for _, e := range r.Elsewhere {
		fmt.Fprintf(&b, "%s\n", s.soft(fmt.Sprintf("%s of %s, left aside", counted(e.Exchanges, "exchange"), e.Host)))
	}
	if o.reads == "" && o.consumer == "" && r.Exchanges > 0 {
		fmt.Fprintf(&b, "%s\n", s.soft("nobody said what of the answers is read: all of it counts; --reads says"))
	}
	last := ""
	for _, f := range r.Findings {
		if f.Operation != last || f.Operation == "" && f.Kind == replay.Route {
			if last = f.Operation; last != "" {
				fmt.Fprintf(&b, "\n%s\n", s.bold(f.Operation))
			} else {
				b.WriteString("\n")
			}
		}
		where := f.At
		if where != "" {
			where = s.soft("  " + where)
		}
		fmt.Fprintf(&b, "%s %s%s%s\n", s.grade(f.Grade, f.Grade.Mark()), f.Title, where, s.soft(numbers(f.Exchanges)))
		if len(f.Also) > 0 {
			fmt.Fprintf(&b, "    %s\n", s.soft("also in "+few(f.Also)))
		}
		for line := range strings.Lines(f.Message) {
			fmt.Fprintf(&b, "    %s\n", clipped(strings.TrimRight(line, "\n"), 600))
		}
	}
	return printf(a, "%s", b.String())
}

func all(n int) string {
	if n == 1 {
		return "the one exchange"
	}
	return "all " + strconv.Itoa(n) + " exchanges"
}

// numbers names the exchanges of which something is told.
func numbers(all []int) string {
	const most = 8
	if len(all) == 0 {
		return ""
	}
	all = slices.Compact(slices.Sorted(slices.Values(all)))
	texts := make([]string, 0, most)
	for _, n := range all[:min(len(all), most)] {
		texts = append(texts, strconv.Itoa(n))
	}
	text := "  exchange " + strings.Join(texts, ", ")
	if len(all) > 1 {
		text = "  exchanges " + strings.Join(texts, ", ")
	}
	if left := len(all) - most; left > 0 {
		text += fmt.Sprintf(" and %d more", left)
	}
	return text
}

func clipped(text string, most int) string {
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most]) + "…"
	}
	return text
}

func (a *app) learnCommand() *cobra.Command {
	var recorded, consumer, to string
	cmd := &cobra.Command{
		Use: "learn FILE.har ...", GroupID: "use", Short: "Learn from recorded exchanges what a consumer relies on", Args: cobra.MinimumNArgs(1),
		Long: `Reads recorded exchanges, HTTP archives (HAR 1.2), and writes what their client sends and what it is given, as the file in which a consumer
says what it relies on: operations, parameters, fields. What the client is given and does not read, its developers take out. What was missing
or null in some answer is optional.`,
		Example: "  oldledger learn skerry.har --recorded berths@1.2.0 --consumer skerry-planner\n  oldledger learn skerry.har --recorded berths-1.2.0.yaml --to skerry-reads.yaml",
	}
	cmd.Flags().StringVar(&recorded, "recorded", "", "the version that answered: a description, or a version of the ledger")
	cmd.Flags().StringVar(&consumer, "consumer", "", "the consumer's name")
	cmd.Flags().StringVar(&to, "to", "", "write it to this file")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if recorded == "" {
			return usageError{errors.New("learn needs --recorded with the version that answered")}
		}
		version, err := a.describe(cmd.Context(), recorded)
		if err != nil {
			return err
		}
		l := replay.NewLearner(version.contract)
		for _, name := range args {
			if err := a.archive(cmd.Context(), name, l.Take); err != nil {
				return err
			}
		}
		api, number, _ := strings.Cut(recorded, "@")
		if !a.isReference(recorded) {
			api, number = shortName(version), version.contract.Version
		}
		need := l.Need(api, number)
		if len(need.Operations) == 0 {
			return &inputError{fmt.Errorf("no exchange is a call of %s", recorded)}
		}
		r := &reliance.Reliance{Consumer: consumer, Needs: []*reliance.Need{need}}
		return a.save(string(r.Value().YAML()), to)
	}
	return cmd
}

// shortName is what an API may be called of which only a description is known.
func shortName(d *description) string {
	if d.contract.Name != "" {
		return d.contract.Name
	}
	var b strings.Builder
	for _, r := range strings.ToLower(d.contract.Title) {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			b.WriteRune(r)
		case b.Len() > 0 && !strings.HasSuffix(b.String(), "-"):
			b.WriteByte('-')
		}
	}
	if name := strings.Trim(b.String(), "-"); name != "" {
		return name
	}
	return "api"
}

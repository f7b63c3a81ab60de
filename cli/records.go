package cli

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/wire"
)

// formatFlag adds --format text|json.
func formatFlag(cmd *cobra.Command, more ...string) *string {
	return cmd.Flags().String("format", "text", strings.Join(append([]string{"text", "json"}, more...), " or "))
}

func checkFormat(format string, known ...string) error {
	known = slices.Compact(slices.Sorted(slices.Values(append(slices.Clone(known), "text", "json"))))
	if slices.Contains(known, format) {
		return nil
	}
	return usageError{fmt.Errorf("--format is %s, not %q", strings.Join(known, ", "), format)}
}

// answer asks the ledger for something and prints it, as text or as JSON.
func answer[T any](a *app, format string, ask func(*client.Client) (T, error), text func(T) error) error {
	if err := checkFormat(format); err != nil {
		return err
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	a.asked = true
	done := a.at("%s: asking the ledger", a.command)
	got, err := ask(c)
	done()
	if err != nil {
		return refused(err)
	}
	if format == "json" {
		return a.json(got)
	}
	return text(got)
}

func orNothing(s string) string {
	if s == "" {
		return "nothing changed"
	}
	return s
}

func (a *app) listCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "list", GroupID: "look", Short: "List the APIs and their versions", Args: cobra.NoArgs,
		Example: "  oldledger list\n  oldledger list --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.API, error) { return c.APIs(cmd.Context()) }, a.showList)
	}
	return cmd
}

func (a *app) showList(apis []wire.API) error {
	s := a.style()
	var b strings.Builder
	if len(apis) == 0 {
		b.WriteString("Nothing is recorded yet; oldledger record FILE begins.\n")
	}
	for i, api := range apis {
		if i > 0 {
			b.WriteString("\n")
		}
		fmt.Fprintf(&b, "%s  %s%s\n", s.bold(api.Name), api.Title, soft(s, api.Team))
		for _, v := range api.Versions {
			state := v.State
			if v.Sunset != "" {
				state += ", leaves " + v.Sunset
			}
			switch v.State {
			case wire.Deprecated:
				state = s.grade(compare.Hazard, "! "+state)
			case wire.Draft:
				state = s.soft(state)
			}
			if n := len(v.Waivers); n > 0 {
				state += s.grade(compare.Hazard, "  ! "+letThrough(n))
			}
			fmt.Fprintf(&b, "  %-10s %s\n", v.Number, state)
		}
		for _, n := range api.Notices {
			if n.Whole() {
				continue
			}
			fmt.Fprintf(&b, "  %s%s\n", s.grade(compare.Hazard, fmt.Sprintf("! %s%s",
				strings.TrimLeft(strings.TrimPrefix(n.Subject(), api.Name), ", "), leaves(n.Sunset))), s.soft(fmt.Sprintf("  notice %d", n.ID)))
		}
	}
	return printf(a, "%s", b.String())
}

func letThrough(n int) string {
	if n == 1 {
		return "1 change let through"
	}
	return fmt.Sprintf("%d changes let through", n)
}

func soft(s style, text string) string {
	if text == "" {
		return ""
	}
	return s.soft("  " + text)
}

func leaves(sunset string) string {
	if sunset == "" {
		return " is leaving"
	}
	return " leaves " + sunset
}

func (a *app) showCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "show REF", GroupID: "look", Short: "Show what a version holds", Args: cobra.ExactArgs(1),
		Example: "  oldledger show berths@2.0.0\n  oldledger show berths@latest --format source",
	}
	format := formatFlag(cmd, "source")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "source"); err != nil {
			return err
		}
		d, err := a.describe(cmd.Context(), args[0])
		if err != nil {
			return err
		}
		var v *wire.Version
		if a.isReference(args[0]) {
			c, err := a.client()
			if err != nil {
				return err
			}
			got, err := c.Version(cmd.Context(), args[0])
			if err != nil {
				return refused(err)
			}
			v = &got
		}
		switch *format {
		case "source":
			_, err := a.Out.Write(d.set.Entry.Text)
			return err
		case "json":
			return a.json(summaryOf(d, v))
		}
		return a.showDescription(d, v)
	}
	return cmd
}

func (a *app) publishCommand() *cobra.Command {
	var waive, allow []string
	var reason string
	cmd := &cobra.Command{
		Use: "publish REF", GroupID: "act", Short: "Publish a draft, for ever", Args: cobra.ExactArgs(1),
		Long: `Publishes a draft. It is refused when the version breaks the promise of its line; the refusal lists the changes that
stand in the way. --waive lets one of them through, by its id, with a reason that is kept and shown. It is refused, too, when the
description has errors or holds what looks like a credential; --allow lets each through in the same way. A version that was unpublished gets its
reference back.`,
		Example: "  oldledger publish berths@1.2.0\n  oldledger publish pilotage@1.1.0 --waive 8b1f0c2d3e4a --reason 'all receivers were asked'",
	}
	format := formatFlag(cmd)
	cmd.Flags().StringArrayVar(&waive, "waive", nil, "id of a breaking change to let through (may be repeated)")
	cmd.Flags().StringArrayVar(&allow, "allow", nil, "id of an error, or of what looks like a credential and is none (may be repeated)")
	cmd.Flags().StringVar(&reason, "reason", "", "why it is let through")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if len(waive)+len(allow) > 0 && reason == "" {
			return usageError{errors.New("--waive and --allow need --reason")}
		}
		var allowed []wire.Exception
		for _, id := range allow {
			allowed = append(allowed, wire.Exception{Finding: id, Reason: reason})
		}
		var waivers []wire.Waive
		for _, id := range waive {
			waivers = append(waivers, wire.Waive{Change: id, Reason: reason})
		}
		ask := func(c *client.Client) (wire.Version, error) {
			return c.Publish(cmd.Context(), args[0], waivers, allowed...)
		}
		err := answer(a, *format, ask, func(v wire.Version) error { return printf(a, "%s is published and never changes\n", v.Ref()) })
		var shut *client.Refusal
		if errors.As(err, &shut) && shut.Gate != nil {
			return a.showGate(cmd.Context(), args[0], shut, *format)
		}
		if errors.As(err, &shut) && len(shut.Mistakes) > 0 {
			return a.showMistakes(args[0], shut, *format)
		}
		if errors.As(err, &shut) && len(shut.Credentials) > 0 {
			return a.showCredentials(args[0], shut, *format)
		}
		return err
	}
	return cmd
}

// showMistakes lists the errors that stand in the way of publishing, and the ways through.
func (a *app) showMistakes(ref string, r *client.Refusal, format string) error {
	if format == "json" {
		if err := a.json(r.Mistakes); err != nil {
			return err
		}
		return errNo
	}
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s is not published: its description has errors\n\n", ref)
	for _, m := range r.Mistakes {
		if m.Allowed == "" {
			a.showDiagnostic(&b, s, checked{}, m.Diagnostic)
			fmt.Fprintf(&b, "            %s\n", s.soft("error "+m.ID))
		}
	}
	fmt.Fprintf(&b, "\nMend them and record it again; or let each through by its id:\n  oldledger publish %s --allow ID --reason '…'\n", ref)
	if err := printf(a, "%s", b.String()); err != nil {
		return err
	}
	return errNo
}

// showGate lists what stands in the way of publishing, and the ways through.
func (a *app) showGate(ctx context.Context, ref string, r *client.Refusal, format string) error {
	if format == "json" {
		if err := a.json(r.Gate); err != nil {
			return err
		}
		return errNo
	}
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s is not published: %s\n\n", ref, r.Gate.Why())
	touches := a.touching(ctx, ref, r.Gate)
	for _, o := range r.Gate.Obstacles {
		if o.Waived {
			continue
		}
		fmt.Fprintf(&b, " %s%s\n", s.grade(compare.Breaking, compare.Breaking.Mark()+" "), s.bold(o.Change.Title))
		if o.Consumer != "" {
			fmt.Fprintf(&b, "   recorded at %s, and replayed by the gate\n", strings.Join(o.Against, ", "))
			a.showWays(&b, "   ", strings.Split(o.Change.Why, "\n"))
		} else {
			fmt.Fprintf(&b, "   %s, against %s\n", o.Change.Why, strings.Join(o.Against, ", "))
		}
		if whom := touches[o.Change.ID]; whom != "" && !o.Rollback {
			a.showWays(&b, "   ", []string{whom})
		}
		if o.Removal != nil {
			fmt.Fprintf(&b, "   %s\n", o.Removal)
		}
		if w := o.Change.Witness; w != nil && w.Value != nil {
			a.showWays(&b, "   ", []string{w.Message()})
		}
		a.showWays(&b, "   ", together(o.Change.Advice))
		fmt.Fprintf(&b, "   %s\n\n", s.soft("change "+o.Change.ID))
	}
	fmt.Fprintf(&b, "%s\n", report.WaysOutHead)
	a.showWays(&b, " ", numbered(r.Gate.WaysOut))
	fmt.Fprintf(&b, "   oldledger publish %s --waive CHANGE --reason '…'\n", ref)
	if err := printf(a, "%s", b.String()); err != nil {
		return err
	}
	return errNo
}

// touching says whom the changes touch that stand in the way, by their ids: those that break clients of the oldest version that they do.
func (a *app) touching(ctx context.Context, ref string, gate *promise.Gate) map[string]string {
	says := map[string]string{}
	c, err := a.client()
	if err != nil {
		return says // who is refused has asked already
	}
	api, _, _ := strings.Cut(ref, "@")
	asked := map[string]bool{}
	for _, o := range gate.Obstacles {
		if o.Waived || o.Consumer != "" || len(o.Against) == 0 || asked[o.Against[0]] {
			continue
		}
		asked[o.Against[0]] = true
		impact, err := c.Impact(ctx, api+"@"+o.Against[0], ref)
		if err != nil {
			fmt.Fprintf(a.Err, "whom it touches is not known: %v\n", err)
			return says
		}
		for _, ch := range impact.Changes {
			if says[ch.ID] == "" {
				says[ch.ID] = touched(ch, impact.Team)
			}
		}
	}
	return says
}

func (a *app) deprecateCommand() *cobra.Command {
	var an wire.Announcement
	cmd := &cobra.Command{
		Use: "deprecate API|REF", GroupID: "act", Short: "Announce that something leaves", Args: cobra.ExactArgs(1),
		Long: `Makes a notice about an API (berths), a version of it (berths@1.2.0), its line (--line), or an operation, a parameter, a response header, a field or a
listed value of it.`,
		Example: `  oldledger deprecate berths@1.2.0 --line --sunset 2027-03-01 --replace-by berths@2.0.0 --reason 'line 2 is out'
  oldledger deprecate berths@1.2.0 --field Vessel.length --sunset 2027-03-01 --replace-by lengthOverall --reason '…'
  oldledger deprecate berths@1.2.0 --operation cancelByLetter --reason 'hardly anybody asks for the letter'`,
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.BoolVar(&an.Line, "line", false, "speak of the version's whole line")
	f.StringVar(&an.Operation, "operation", "", `speak of one operation: its operationId, or "POST /bookings"`)
	f.StringVar(&an.Parameter, "parameter", "", "speak of one parameter of the operation: limit")
	f.StringVar(&an.Header, "header", "", "speak of one header of the operation's answers: X-Berths-Left")
	f.StringVar(&an.Field, "field", "", "speak of one field: Vessel.length")
	f.StringVar(&an.Value, "value", "", "speak of one value that the parameter, header or field lists: held")
	f.StringVar(&an.Guide, "guide", "", "the guide to follow: 1.2.0..2.0.0")
	f.StringVar(&an.Since, "since", "", "date from which the notice holds (default: today)")
	f.StringVar(&an.Sunset, "sunset", "", "date after which it may be gone")
	f.StringVar(&an.ReplacedBy, "replace-by", "", "what to use instead")
	f.StringVar(&an.Reason, "reason", "", "why it leaves")
	f.StringVar(&an.Sooner, "sooner", "", "why its sunset may come sooner than the notice period allows")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if an.Reason == "" {
			return usageError{errors.New("a notice needs --reason")}
		}
		an.Ref = args[0]
		ask := func(c *client.Client) (promise.Notice, error) { return c.Deprecate(cmd.Context(), an) }
		return answer(a, *format, ask, func(n promise.Notice) error {
			end := ""
			if n.Sunset != "" {
				end = ", leaves " + n.Sunset
			}
			return printf(a, "notice %d, %s: deprecated since %s%s\n", n.ID, n.Subject(), n.Since, end)
		})
	}
	return cmd
}

func (a *app) signInCommand() *cobra.Command {
	var name string
	var byProvider bool
	cmd := &cobra.Command{
		Use: "sign-in", GroupID: "act", Short: "Keep a token for a ledger", Args: cobra.NoArgs,
		Long: `Exchanges a name and a password for a token that is kept for later commands. The password is asked for on the terminal; in a pipeline it is
one line on standard input. A pipeline that has a token needs no sign-in: OLDLEDGER_URL and OLDLEDGER_TOKEN say all.

With --by-provider you sign in by the ledger's provider of identities, in a browser anywhere: the command tells an address and a code to enter
there, and waits.`,
		Example: `  oldledger sign-in --ledger http://127.0.0.1:8470 --name teodor
  printf '%s\n' "$LEDGER_PASSWORD" | oldledger sign-in --ledger http://127.0.0.1:8470 --name teodor`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			address, err := a.ledgerAddress(account{})
			if err != nil {
				return err
			}
			if address == "" {
				return usageError{errors.New("name the ledger with --ledger")}
			}
			c, err := client.New(address, "")
			if err != nil {
				return usageError{err}
			}
			if byProvider {
				return a.signInElsewhere(cmd.Context(), c, address)
			}
			password, err := a.password(name + " at " + address)
			if err != nil {
				return err
			}
			a.asked = true
			token, err := c.SignIn(cmd.Context(), name, password, "command line")
			if err != nil {
				return refused(err)
			}
			if err := a.keepAccount(account{Ledger: address, Token: token}); err != nil {
				return err
			}
			return printf(a, "signed in to %s as %s\n", address, name)
		},
	}
	cmd.Flags().StringVar(&name, "name", "admin", "sign-in name")
	cmd.Flags().BoolVar(&byProvider, "by-provider", false, "sign in by the ledger's provider of identities")
	cmd.MarkFlagsMutuallyExclusive("name", "by-provider")
	return cmd
}

// signInElsewhere has somebody sign in by the provider, and waits for them.
func (a *app) signInElsewhere(ctx context.Context, c *client.Client, address string) error {
	a.asked = true
	d, err := c.SignInElsewhere(ctx)
	if err != nil {
		return refused(err)
	}
	fmt.Fprintf(a.Err, "open %s and enter %s\n", d.Address, d.Code)
	if d.Whole != "" {
		fmt.Fprintf(a.Err, "or open %s\n", d.Whole)
	}
	for {
		token, name, err := c.Arrived(ctx, d, "command line")
		if err != nil {
			return refused(err)
		}
		if token == "" {
			continue
		}
		if err := a.keepAccount(account{Ledger: address, Token: token}); err != nil {
			return err
		}
		return printf(a, "signed in to %s as %s\n", address, name)
	}
}

// password asks for the password of somebody at a ledger: both are named, because a project's file may name a ledger that is not the one
// expected.
func (a *app) password(of string) (string, error) {
	if f, ok := a.In.(*os.File); ok && a.interactive() {
		fmt.Fprintf(a.Err, "password for %s: ", of)
		text, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(a.Err)
		return string(text), err
	}
	line, err := bufio.NewReader(a.In).ReadString('\n')
	if line == "" && err != nil {
		return "", usageError{errors.New("no password came on standard input")}
	}
	return strings.TrimRight(line, "\r\n"), nil
}

package cli

import (
	"cmp"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/housestyle"
	"oldledger/core/source"
	"oldledger/wire"
)

func (a *app) rulesCommand() *cobra.Command {
	var style string
	cmd := &cobra.Command{
		Use: "rules [RULE|GROUP]", GroupID: "look", Short: "List the rules of the house style, or explain one", Args: cobra.MaximumNArgs(1),
		Long: `Lists the rules by which check judges, with their weights, or explains one: why it is there, what breaks it and what keeps it.
The mistakes that readers tell are the group well-formed; docs/manual/mistakes.md says what is read instead.`,
		Example: "  oldledger rules\n  oldledger rules safe\n  oldledger rules field-case\n  oldledger rules --style harbour.yaml",
	}
	format := formatFlag(cmd, "markdown")
	cmd.Flags().StringVar(&style, "style", "", "the house style: a file, or @API for that of an API in the ledger, @ for that of the house")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "markdown"); err != nil {
			return err
		}
		s, err := a.houseStyle(cmd.Context(), style, "")
		if err != nil {
			return err
		}
		told := s.Told()
		if len(args) == 1 {
			told = slices.DeleteFunc(told, func(r housestyle.Told) bool { return r.Name != args[0] && r.Group != args[0] })
			if len(told) == 0 {
				return usageError{fmt.Errorf("there is no rule or group %q%s", args[0], cmp.Or(source.DidYouMean(args[0], namesOf(s.Told())),
					"; oldledger rules lists them"))}
			}
		}
		switch {
		case *format == "markdown" && len(args) == 1:
			return usageError{errors.New("--format markdown is a page of all rules; leave the name out")}
		case *format == "markdown":
			return printf(a, "%s", s.Markdown())
		case *format == "json" && len(told) == 1:
			return a.json(told[0])
		case *format == "json":
			return a.json(map[string]any{"style": s.Name, "items": told})
		case len(told) == 1:
			return a.explainRule(told[0])
		}
		return a.listRules(s, told)
	}
	return cmd
}

func namesOf(all []housestyle.Told) []string {
	var names []string
	for _, r := range all {
		names = append(names, r.Name, r.Group)
	}
	return names
}

func (a *app) listRules(s *housestyle.Style, all []housestyle.Told) error {
	st := a.style()
	var b strings.Builder
	if s.Name != "" {
		fmt.Fprintf(&b, "%s\n\n", st.bold(s.Name))
	}
	group := ""
	for _, r := range all {
		if r.Group != group {
			if group != "" {
				b.WriteString("\n")
			}
			group = r.Group
			fmt.Fprintf(&b, "%s\n", st.bold(group))
		}
		head := fmt.Sprintf("  %-8s %-24s ", r.Weight, r.Name)
		for i, line := range wrap(r.Says, a.width()-len(head)) {
			if i > 0 {
				head = strings.Repeat(" ", len(head))
			}
			fmt.Fprintf(&b, "%s%s\n", head, line)
		}
		if r.Because != "" {
			fmt.Fprintf(&b, "%s%s\n", strings.Repeat(" ", len(head)), st.soft("because "+r.Because))
		}
	}
	return printf(a, "%s", b.String())
}

func (a *app) explainRule(r housestyle.Told) error {
	st := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s   %s, %s\n\n", st.bold(r.Name), r.Group, r.Weight)
	if r.Because != "" {
		fmt.Fprintf(&b, "because %s\n\n", r.Because)
	}
	for _, text := range []string{r.Says, r.Why} {
		if text != "" {
			fmt.Fprintf(&b, "%s\n\n", strings.Join(wrap(text, a.width()), "\n"))
		}
	}
	for _, list := range []struct {
		head     string
		examples []string
	}{{"breaks it", r.Bad}, {"keeps it", r.Good}} {
		if len(list.examples) == 0 {
			continue
		}
		fmt.Fprintf(&b, "%s\n", st.bold(list.head))
		fmt.Fprintf(&b, "%s\n", indented(list.examples[0]))
	}
	if r.Must != "" {
		fmt.Fprintf(&b, "%s\n", st.bold("as a condition"))
		fmt.Fprintf(&b, "  about  %s\n", r.About)
		if r.Where != "" {
			fmt.Fprintf(&b, "  where  %s\n", r.Where)
		}
		fmt.Fprintf(&b, "  must   %s\n", r.Must)
	}
	return printf(a, "%s\n", strings.TrimRight(b.String(), "\n"))
}

// indented is a text two blanks further in.
func indented(text string) string {
	return "  " + strings.ReplaceAll(strings.TrimRight(text, "\n"), "\n", "\n  ") + "\n"
}

func (a *app) styleCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "style", GroupID: "look", Short: "Try and describe the rules of a house of your own",
		Long:    "A house style is a YAML file of rules; docs/manual/housestyle.md tells how to write one.",
		Example: "  oldledger style test harbour.yaml\n  oldledger style schema > house-style.schema.json",
	}
	cmd.AddCommand(a.styleTestCommand(), a.styleShowCommand(), a.styleSetCommand(), &cobra.Command{
		Use: "language", Short: "Tell what rules may ask, as Markdown", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error { return printf(a, "%s", housestyle.LanguageMarkdown()) },
	}, &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of style files, for completion in editors", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error { return printf(a, "%s\n", housestyle.Schema()) },
	})
	return cmd
}

// styleOf are the options that say whose style is meant.
func styleOf(cmd *cobra.Command) (team, api *string) {
	team, api = new(string), new(string)
	cmd.Flags().StringVar(team, "team", "", "of a team")
	cmd.Flags().StringVar(api, "api", "", "of an API")
	cmd.MarkFlagsMutuallyExclusive("team", "api")
	return team, api
}

func (a *app) styleShowCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "show", Short: "Print the house style that the ledger keeps, and its versions", Args: cobra.NoArgs,
		Long: `Prints the style file that the ledger keeps of the house, of a team or of an API. What is in force for an API is the house's, changed by its
team's, changed by its own.`,
		Example: "  oldledger style show\n  oldledger style show --api berths > berths-style.yaml",
	}
	team, api := styleOf(cmd)
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		if err := checkFormat(*format); err != nil {
			return err
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		in, err := c.Style(cmd.Context(), *team, *api)
		if err != nil {
			return refused(err)
		}
		if *format == "json" {
			return a.json(in)
		}
		for _, v := range in.History {
			day, _, _ := strings.Cut(v.MadeAt, "T")
			why := ""
			if v.Reason != "" {
				why = ": " + v.Reason
			}
			fmt.Fprintf(a.Err, "version %d, by %s on %s%s\n", v.Version, v.MadeBy, day, why)
		}
		if in.Text == "" {
			fmt.Fprintln(a.Err, "no style is kept here; what is in force is "+cmp.Or(in.Name, "the rules as they come"))
			return nil
		}
		return printf(a, "%s", in.Text)
	}
	return cmd
}

func (a *app) styleSetCommand() *cobra.Command {
	var reason string
	var none bool
	cmd := &cobra.Command{
		Use: "set FILE", Short: "Have the ledger keep a house style", Args: cobra.MaximumNArgs(1),
		Long: `Keeps a style file as the new version of the style of the house, of a team or of an API; it is in force at once: in check, in the console
and at the gate. It is refused where a rule does not say of its examples what it should.`,
		Example: "  oldledger style set harbour.yaml --reason 'As settled in the round of 3 March.'\n  oldledger style set berths-style.yaml --api berths --reason 'Old names stay until line 3.'\n  oldledger style set --none --api berths",
	}
	team, api := styleOf(cmd)
	cmd.Flags().StringVar(&reason, "reason", "", "why, for the journal")
	cmd.Flags().BoolVar(&none, "none", false, "take the style away")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if none == (len(args) == 1) {
			return usageError{errors.New("style set takes a style file, or --none")}
		}
		text := ""
		if !none {
			read, err := os.ReadFile(a.path(args[0]))
			if err != nil {
				return notRead(args[0], err)
			}
			text = string(read)
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		was, err := c.Style(cmd.Context(), *team, *api)
		if err != nil {
			return refused(err)
		}
		if err := c.PutStyle(cmd.Context(), *team, *api, wire.StyleWish{Text: text, Reason: reason, Version: was.Version}); err != nil {
			return refused(err)
		}
		is, err := c.Style(cmd.Context(), *team, *api)
		if err != nil {
			return refused(err)
		}
		return printf(a, "version %d is in force: %s\n", is.Version, cmp.Or(is.Name, "the rules as they come"))
	}
	return cmd
}

func (a *app) styleTestCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "test FILE", Short: "Hold the rules of a style file against their examples", Args: cobra.ExactArgs(1),
		Long: `Judges the examples of each rule of the file by the rule: it must find something in each of the bad ones, and nothing in the good ones.
The exit status is 1 when it does not, or when a rule has no examples.`,
		Example: "  oldledger style test harbour.yaml",
	}
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		s, err := a.houseStyle(cmd.Context(), args[0], "")
		if err != nil {
			return err
		}
		st := a.style()
		var b strings.Builder
		wrong, rules := 0, 0
		for _, r := range s.Rules {
			if !r.Own {
				continue
			}
			rules++
			if len(r.Good) == 0 || len(r.Bad) == 0 {
				wrong++
				fmt.Fprintf(&b, "%s  has no good or no bad example; write both\n", st.bold(r.Name))
			}
		}
		trials, err := s.TryOwn(cmd.Context())
		if err != nil {
			return err
		}
		for _, t := range trials {
			if !t.OK() {
				wrong++
				showTrial(&b, st, t)
			}
		}
		verdict := "all as they should be"
		if wrong > 0 {
			verdict = counted(wrong, "mistake")
		}
		fmt.Fprintf(&b, "%s: %s, %s, %s\n", args[0], counted(rules, "rule"), counted(len(trials), "example"), verdict)
		if err := printf(a, "%s", b.String()); err != nil {
			return err
		}
		if wrong > 0 {
			return errNo
		}
		return nil
	}
	return cmd
}

func showTrial(b *strings.Builder, st style, t housestyle.Trial) {
	at := t.Rule
	if t.Example.Node != nil {
		at = t.Example.Node.ValuePlace().String() + "  " + t.Rule
	}
	fmt.Fprintf(b, "%s: %s\n", st.bold(at), t.Said())
	fmt.Fprintf(b, "%s", indented(t.Example.Text))
}

// counted is a number of things: "1 rule", "2 rules".
func counted(n int, thing string) string {
	if n != 1 {
		thing += "s"
	}
	return fmt.Sprintf("%d %s", n, thing)
}

package cli

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"

	"github.com/spf13/cobra"

	"oldledger/core/check"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// houseStyle reads the house style: of a file, else of the project file, else the rules as they come.
func (a *app) houseStyle(name string) (*housestyle.Style, error) {
	if name == "" {
		p, err := a.project()
		if err != nil {
			return nil, err
		}
		name = p.Style
	}
	if name == "" {
		return housestyle.Ours(), nil
	}
	f, err := a.styleFile(name)
	if err != nil {
		return nil, err
	}
	return housestyle.Read(f, housestyle.Ours())
}

// readStyle begins to read the house style, and gives what waits for it.
func (a *app) readStyle(name string) func() (*housestyle.Style, error) {
	type result struct {
		style *housestyle.Style
		err   error
	}
	done := make(chan result, 1)
	go func() {
		style, err := a.houseStyle(name)
		done <- result{style, err}
	}()
	return sync.OnceValues(func() (*housestyle.Style, error) {
		r := <-done
		return r.style, r.err
	})
}

// styleFile opens a style file.
func (a *app) styleFile(name string) (*source.File, error) {
	text, err := os.ReadFile(a.path(name))
	if err != nil {
		return nil, notRead(name, err)
	}
	return source.Parse(name, text)
}

// ruleTold is one rule as --format json prints it.
type ruleTold struct {
	Name    string   `json:"name"`
	Group   string   `json:"group"`
	Weight  string   `json:"weight"`
	Because string   `json:"because,omitempty"`
	About   string   `json:"about,omitempty"`
	Where   string   `json:"where,omitempty"`
	Must    string   `json:"must,omitempty"`
	Says    string   `json:"says"`
	Right   string   `json:"right,omitempty"`
	Why     string   `json:"why,omitempty"`
	Good    []string `json:"good,omitempty"`
	Bad     []string `json:"bad,omitempty"`
	Own     bool     `json:"own"`
}

func (a *app) rulesCommand() *cobra.Command {
	var style string
	cmd := &cobra.Command{
		Use: "rules [RULE|GROUP]", GroupID: "look", Short: "List the rules of the house style, or explain one", Args: cobra.MaximumNArgs(1),
		Long: `Lists the rules by which check judges, with their weights, or explains one: why it is there, what breaks it and what keeps it.
The mistakes that readers tell are the group well-formed; docs/manual/mistakes.md says what is read instead.`,
		Example: "  oldledger rules\n  oldledger rules safe\n  oldledger rules field-case\n  oldledger rules --style harbour.yaml",
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&style, "style", "", "the house style: a file")
	cmd.RunE = func(_ *cobra.Command, args []string) error {
		if err := checkFormat(*format); err != nil {
			return err
		}
		s, err := a.houseStyle(style)
		if err != nil {
			return err
		}
		told := rulesTold(s)
		if len(args) == 1 {
			told = slices.DeleteFunc(told, func(r ruleTold) bool { return r.Name != args[0] && r.Group != args[0] })
			if len(told) == 0 {
				return usageError{fmt.Errorf("there is no rule or group %q%s", args[0], orText(source.DidYouMean(args[0], namesOf(rulesTold(s))),
					"; oldledger rules lists them"))}
			}
		}
		switch {
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

func namesOf(all []ruleTold) []string {
	var names []string
	for _, r := range all {
		names = append(names, r.Name, r.Group)
	}
	return names
}

// rulesTold are the rules of a style, and those of readers.
func rulesTold(s *housestyle.Style) []ruleTold {
	var all []ruleTold
	for _, r := range check.Rules() {
		weight := r.Severity.String()
		if r.Refused {
			weight = "refused"
		}
		all = append(all, ruleTold{Name: r.Name, Group: housestyle.WellFormed, Weight: weight, Says: r.Means})
	}
	for _, r := range s.Rules {
		weight := r.Weight.String()
		if r.Off {
			weight = "off"
		}
		t := ruleTold{
			Name: r.Name, Group: r.Group, Weight: weight, Because: r.Because, About: r.About, Where: r.Where, Must: r.Must, Says: r.Says,
			Right: r.Right, Why: r.Why, Own: r.Own,
		}
		for _, e := range r.Good {
			t.Good = append(t.Good, e.Text)
		}
		for _, e := range r.Bad {
			t.Bad = append(t.Bad, e.Text)
		}
		all = append(all, t)
	}
	return all
}

func (a *app) listRules(s *housestyle.Style, all []ruleTold) error {
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
		says := plainWords(r.Says)
		for i, line := range wrap(says, a.width()-len(head)) {
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

// plainWords is what a rule says, with the names of its values in the place of their questions.
func plainWords(says string) string {
	if says == "" {
		return ""
	}
	return housestyle.Plain(says)
}

func (a *app) explainRule(r ruleTold) error {
	st := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s   %s, %s\n\n", st.bold(r.Name), r.Group, r.Weight)
	if r.Because != "" {
		fmt.Fprintf(&b, "because %s\n\n", r.Because)
	}
	for _, text := range []string{plainWords(r.Says), r.Why} {
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
	cmd.AddCommand(a.styleTestCommand(), &cobra.Command{
		Use: "schema", Short: "Print the JSON Schema of style files, for completion in editors", Args: cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error { return printf(a, "%s\n", housestyle.Schema()) },
	})
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
		s, err := a.houseStyle(args[0])
		if err != nil {
			return err
		}
		st := a.style()
		var b strings.Builder
		wrong, examples, rules := 0, 0, 0
		for _, r := range s.Rules {
			if !r.Own {
				continue
			}
			rules++
			trials, err := s.Try(cmd.Context(), r)
			if err != nil {
				return err
			}
			if len(r.Good) == 0 || len(r.Bad) == 0 {
				wrong++
				fmt.Fprintf(&b, "%s  has no good or no bad example; write both\n", st.bold(r.Name))
			}
			for _, t := range trials {
				examples++
				if !t.OK() {
					wrong++
					showTrial(&b, st, t)
				}
			}
		}
		verdict := "all as they should be"
		if wrong > 0 {
			verdict = counted(wrong, "mistake")
		}
		fmt.Fprintf(&b, "%s: %s, %s, %s\n", args[0], counted(rules, "rule"), counted(examples, "example"), verdict)
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
	switch {
	case t.Err != nil:
		fmt.Fprintf(b, "%s  an example cannot be judged: %s\n", st.bold(at), t.Err)
	case t.Bad:
		fmt.Fprintf(b, "%s  finds nothing in a bad example\n", st.bold(at))
	default:
		fmt.Fprintf(b, "%s  finds in a good example: %s\n", st.bold(at), t.Found[0].Message())
	}
	fmt.Fprintf(b, "%s", indented(t.Example.Text))
}

// counted is a number of things: "1 rule", "2 rules".
func counted(n int, thing string) string {
	if n != 1 {
		thing += "s"
	}
	return fmt.Sprintf("%d %s", n, thing)
}

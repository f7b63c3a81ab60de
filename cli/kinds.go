package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/compare"
)

func (a *app) kindsCommand() *cobra.Command {
	var format string
	cmd := &cobra.Command{
		Use: "kinds [KIND]", GroupID: "look", Short: "List the kinds of change, what they mean and how they are graded",
		Args: cobra.MaximumNArgs(1),
		Long: `Lists every kind of change with its grades, backward / forward, and its meaning; with a KIND, explains that one with an example. A kind
about values has its place in front where it is met: request.range-narrowed, response.range-narrowed.`,
		Example: "  oldledger kinds\n  oldledger kinds response.enum-widened\n  oldledger kinds --format markdown",
	}
	cmd.Flags().StringVar(&format, "format", "text", "text, json or markdown")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(format, "text", "json", "markdown"); err != nil {
			return err
		}
		switch {
		case len(args) == 1:
			return a.explain(args[0], format)
		case format == "json":
			return a.json(compare.Kinds())
		case format == "markdown":
			return printf(a, "%s", compare.KindsMarkdown())
		}
		return a.showKinds()
	}
	return cmd
}

func (a *app) showKinds() error {
	s := a.style()
	var b strings.Builder
	group := ""
	for _, k := range compare.Kinds() {
		if k.Group != group {
			if group != "" {
				b.WriteString("\n")
			}
			group = k.Group
			head := group
			if len(k.Places) > 0 {
				head += ", in requests and parameters / in responses and headers"
			}
			fmt.Fprintf(&b, "%s\n", s.bold(head))
		}
		grades := directionsText(k.Request)
		if k.Response != nil && *k.Response != k.Request {
			grades += "; in answers " + directionsText(*k.Response)
		}
		fmt.Fprintf(&b, "  %-34s %s\n", k.Name, s.soft(grades))
		for _, line := range wrap(k.Meaning, a.width()-6) {
			fmt.Fprintf(&b, "      %s\n", line)
		}
	}
	return printf(a, "%s", b.String())
}

func directionsText(d compare.Directions) string {
	return fmt.Sprintf("%s / %s", d.Backward, d.Forward)
}

// explain tells one kind with its example.
func (a *app) explain(name, format string) error {
	k, known := compare.FindKind(name)
	if !known {
		return usageError{unknownKind(name)}
	}
	switch format {
	case "json":
		return a.json(k)
	case "markdown":
		return printf(a, "%s", k.Markdown())
	}
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s   %s\n\n", s.bold(name), k.Group)
	for _, line := range wrap(k.Meaning, a.width()-2) {
		fmt.Fprintf(&b, "  %s\n", line)
	}
	grade := func(where string, d compare.Directions) {
		fmt.Fprintf(&b, "\n  %s%s for clients of the old version, %s after a rollback", where,
			s.grade(d.Backward, d.Backward.Mark()+" "+d.Backward.String()), s.grade(d.Forward, d.Forward.Mark()+" "+d.Forward.String()))
	}
	if k.Response == nil {
		grade("", k.Request)
	} else {
		grade("in what clients send:    ", k.Request)
		grade("in what clients receive: ", *k.Response)
	}
	b.WriteString("\n")
	if k.Old != "" {
		fmt.Fprintf(&b, "\n  %s\n%s\n  %s\n%s", s.soft("for example, "+k.Frame.Text()+" before"), inset(k.Old), s.soft("and after"), inset(k.New))
	}
	return printf(a, "%s", b.String())
}

func inset(text string) string {
	return "      " + strings.ReplaceAll(strings.TrimRight(text, "\n"), "\n", "\n      ") + "\n"
}

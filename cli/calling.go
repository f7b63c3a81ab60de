package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/wire"
)

func (a *app) callingCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "calling API", GroupID: "look", Short: "Say how callers choose a version of an API, and what of that does not go together", Args: cobra.ExactArgs(1),
		Long: `Tells for each version that is answered, and each draft, what its callers write, as oldledger settle --chosen-by says; where its description says
otherwise; and which other APIs take calls for theirs that nothing tells from its: neither the address nor the version. Versions of one API, and
APIs of which one replaces the other, may stand at one address.

The exit status is 1 where something does not go together.`,
		Example: "  oldledger calling berths\n  oldledger calling berths --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		odd := false
		ask := func(c *client.Client) (wire.Calling, error) {
			calling, err := c.Calling(cmd.Context(), args[0])
			for _, v := range calling.Versions {
				odd = odd || len(v.Faults)+len(v.Clashes) > 0
			}
			return calling, err
		}
		show := func(c wire.Calling) error { return a.showCalling(args[0], c) }
		if err := answer(a, *format, ask, show); err != nil || !odd {
			return err
		}
		return errNo
	}
	return cmd
}

func (a *app) showCalling(api string, c wire.Calling) error {
	s := a.style()
	var b strings.Builder
	how := "nobody said how callers choose its version; oldledger settle " + api + " --chosen-by 'path /v{line}' says it"
	if c.Versioning != "" {
		how = "its version is chosen by " + c.Versioning
	}
	undeclared := "nobody knows what is done with input that is not declared"
	if c.Undeclared != "" {
		undeclared = "input that is not declared is " + c.Undeclared
	}
	fmt.Fprintf(&b, "%s: %s; %s\n", s.bold(api), how, undeclared)
	for _, v := range c.Versions {
		if v.Says == "" && len(v.Faults)+len(v.Clashes) == 0 {
			continue
		}
		fmt.Fprintf(&b, "%s  %s%s\n", s.bold(v.Ref), v.Says, map[bool]string{true: ", or saying nothing"}[v.Usual])
		for _, f := range v.Faults {
			fmt.Fprintf(&b, " %s%s:%d:%d %s%s\n", s.grade(compare.Breaking, compare.Breaking.Mark()+" "), f.File, f.Line, f.Column, f.Text, more(f.More, "place"))
		}
		for _, o := range v.Clashes {
			fmt.Fprintf(&b, " %s%s is a call of %s@%s, too: %s%s%s\n", s.grade(compare.Breaking, compare.Breaking.Mark()+" "), o.Own, o.API, o.Number,
				o.Host, o.OtherPath, more(o.More, "operation"))
		}
	}
	return printf(a, "%s", b.String())
}

// more says that there are others.
func more(n int, what string) string {
	switch n {
	case 0:
		return ""
	case 1:
		return ", and 1 " + what + " more"
	}
	return fmt.Sprintf(", and %d %ss more", n, what)
}

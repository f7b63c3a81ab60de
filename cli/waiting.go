package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

func (a *app) waitingCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "waiting", GroupID: "look", Short: "List what waits for you: drafts before their gates, requests, and what leaves soon", Args: cobra.NoArgs,
		Long:    "Lists the drafts that could be published, your own first, with what stands in their way; who asks for the use of APIs; and what leaves within the next six weeks.",
		Example: "  oldledger waiting\n  oldledger waiting --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) (wire.Waiting, error) { return c.Waiting(cmd.Context()) }, a.showWaiting)
	}
	return cmd
}

func (a *app) showWaiting(w wire.Waiting) error {
	if len(w.Drafts)+len(w.Notices)+len(w.Asked) == 0 {
		return printf(a, "nothing waits\n")
	}
	var b strings.Builder
	for _, d := range w.Drafts {
		by, why := "yours", "may be published"
		if !d.Mine {
			by = "by " + d.Version.RecordedBy
		}
		if !d.Open {
			why = d.Why
		}
		fmt.Fprintf(&b, "%-22s draft, %s, %s: %s\n", d.Version.Ref(), by, day(d.Version.RecordedAt), why)
	}
	for _, r := range w.Asked {
		for _, i := range r.Items {
			fmt.Fprintf(&b, "%-22s %s asks for it, with request %d\n", i.API+"@"+i.Line, r.Title, r.ID)
		}
	}
	for _, n := range w.Notices {
		fmt.Fprintf(&b, "%s  %s leaves\n", n.Sunset, n.Subject())
	}
	return printf(a, "%s", b.String())
}

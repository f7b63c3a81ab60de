package cli

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

func (a *app) audienceCommand() *cobra.Command {
	var published, drafts []string
	var wish wire.AudienceWish
	cmd := &cobra.Command{
		Use: "audience [API]", GroupID: "act", Short: "Say, or see, who may read an API, or a part of it", Args: cobra.MaximumNArgs(1),
		Long: `Says who may read what is published of an API, and who its drafts, beside the team that keeps it; of a part of it (--part), who of those who
read the API. Without an API, it is said of every API of which nothing else is. It holds from the next request on. Without --published,
--drafts and --as-ledger it shows what holds.

The groups are everyone; signed-in, whoever has a name here; 'team NAME'; link, whoever has a link and its password (of drafts, the address
of a preview); and team, nobody but the team itself.`,
		Example: `  oldledger audience pilotage --published signed-in
  oldledger audience berths --part 'group Dues' --published 'team Navigation',link --reason 'Rebates are between us and our partners.'`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringSliceVar(&published, "published", nil, "who may read what is published: groups, with commas between them")
	cmd.Flags().StringSliceVar(&drafts, "drafts", nil, "who may read drafts")
	cmd.Flags().StringVar(&wish.Part, "part", "", "a part of the API: 'operation bookBerth', 'operation GET /berths', 'group Dues'")
	cmd.Flags().BoolVar(&wish.AsLedger, "as-ledger", false, "as the ledger says of every API; of a part, as its API")
	cmd.Flags().StringVar(&wish.Reason, "reason", "", "why, for the journal")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		api := strings.Join(args, "")
		if cmd.Flags().Changed("published") {
			wish.Published = &published
		}
		if cmd.Flags().Changed("drafts") {
			wish.Drafts = &drafts
		}
		says := wish.AsLedger || wish.Published != nil || wish.Drafts != nil
		if !says && wish.Part+wish.Reason != "" {
			return usageError{errors.New("say who may read it: --published, --drafts or --as-ledger")}
		}
		ask := func(c *client.Client) (wire.Audience, error) {
			if says {
				if err := c.SetAudience(cmd.Context(), api, wish); err != nil {
					return wire.Audience{}, err
				}
			}
			if api == "" {
				return c.Audience(cmd.Context())
			}
			is, err := c.API(cmd.Context(), api)
			if err == nil && is.Audience == nil {
				err = fmt.Errorf("who else may read %s is told to its team", api)
			}
			if err != nil {
				return wire.Audience{}, err
			}
			return *is.Audience, nil
		}
		return answer(a, *format, ask, a.showAudience)
	}
	return cmd
}

func (a *app) showAudience(is wire.Audience) error {
	var b strings.Builder
	line := func(what string, groups []string, asLedger bool) {
		names := "its team alone"
		if len(groups) > 0 {
			names = strings.Join(groups, ", ")
		}
		if asLedger {
			names += " (as the ledger says)"
		}
		fmt.Fprintf(&b, "%s: %s\n", what, names)
	}
	line("what is published", is.Published, is.PublishedAsLedger)
	line("drafts", is.Drafts, is.DraftsAsLedger)
	for _, p := range is.Parts {
		line(p.Part, p.Published, false)
	}
	return printf(a, "%s", b.String())
}

func (a *app) linksCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "links API", GroupID: "look", Short: "List the links by which an API is read", Args: cobra.ExactArgs(1),
		Long:    "Lists the links by which whoever has one, and its password, reads an API that is open to those who do; for its leads.",
		Example: "  oldledger links pilotage\n  oldledger links pilotage --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.Link, error) { return c.Links(cmd.Context(), args[0]) }, a.showLinks)
	}
	return cmd
}

func (a *app) showLinks(links []wire.Link) error {
	if len(links) == 0 {
		return printf(a, "there is no link; make one: oldledger link API --for NAME\n")
	}
	var b strings.Builder
	for _, l := range links {
		ends := "ends " + day(l.EndsAt)
		if l.Ended {
			ends = "ended " + day(l.EndsAt)
		}
		fmt.Fprintf(&b, "%s  %s; made by %s on %s, %s\n", l.ID, l.Label, l.MadeBy, day(l.MadeAt), ends)
	}
	return printf(a, "%s", b.String())
}

func (a *app) linkCommand() *cobra.Command {
	var wish wire.LinkWish
	var withdraw string
	cmd := &cobra.Command{
		Use: "link API", GroupID: "act", Short: "Make a link with a password by which others read an API, or withdraw one", Args: cobra.ExactArgs(1),
		Long: `Makes a link to an API for somebody (--for), and says its address and its password once: send them on different ways. Whoever has both reads
what is published of the API, where it is open to those who hold a link (audience API --published link); their browser remembers it for
30 days. Or withdraws a link by its id (--withdraw): who used it reads nothing by it any more.`,
		Example: `  oldledger link pilotage --for 'Skerry Planner' --days 30
  oldledger link pilotage --withdraw 3d9db2dd9842`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&wish.Label, "for", "", "for whom it is")
	cmd.Flags().IntVar(&wish.Days, "days", 90, "how long it lasts")
	cmd.Flags().StringVar(&withdraw, "withdraw", "", "the id of a link to withdraw")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		switch {
		case withdraw != "" && wish.Label != "":
			return usageError{errors.New("--for makes a link, --withdraw ends one; not both")}
		case withdraw != "":
			ask := func(c *client.Client) (string, error) {
				return withdraw, c.WithdrawLink(cmd.Context(), args[0], withdraw)
			}
			return answer(a, *format, ask, func(id string) error { return printf(a, "%s leads nowhere any more\n", id) })
		case wish.Label == "":
			return usageError{errors.New("say for whom the link is: --for 'Skerry Planner'")}
		}
		ask := func(c *client.Client) (wire.NewLink, error) { return c.MakeLink(cmd.Context(), args[0], wish) }
		return answer(a, *format, ask, func(l wire.NewLink) error {
			return printf(a, "address:  %s\npassword: %s\nfor %s, until %s; neither is told again\n", l.Address, l.Password, l.Label, day(l.EndsAt))
		})
	}
	return cmd
}

func (a *app) feedCommand() *cobra.Command {
	var end bool
	cmd := &cobra.Command{
		Use: "feed", GroupID: "act", Short: "Make secret addresses of a feed and a calendar that have all that you read", Args: cobra.NoArgs,
		Long: `Makes addresses at which a feed reader and a calendar, which cannot sign in, read what you read: what is published, and what leaves when. They
are told once, and take the place of earlier ones; whoever knows them reads as much, so --end ends them. Below the address, API/feed.atom and
API/sunsets.ics are those of one API. It asks for your password; in a pipeline it is one line on standard input.`,
		Example: "  oldledger feed\n  oldledger feed --end",
	}
	ask := a.askingFlags(cmd)
	cmd.Flags().BoolVar(&end, "end", false, "end the addresses that there are")
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return a.session(cmd.Context(), ask, func(c *client.Client) error {
			if end {
				if err := c.DropFeed(cmd.Context()); err != nil {
					return err
				}
				return printf(a, "the secret addresses lead nowhere any more\n")
			}
			made, err := c.MakeFeed(cmd.Context())
			if err != nil {
				return err
			}
			return printf(a, "feed:     %s\ncalendar: %s\n", made.Feed, made.Calendar)
		})
	}
	return cmd
}

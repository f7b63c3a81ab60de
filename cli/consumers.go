package cli

import (
	"cmp"
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

func (a *app) consumersCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "consumers", GroupID: "use", Short: "List the consumers, and what they call", Args: cobra.NoArgs,
		Long:    "Lists the consumers that you may know of: yours, your teams', those that call APIs of your teams.",
		Example: "  oldledger consumers\n  oldledger consumers --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		ask := func(c *client.Client) ([]wire.Consumer, error) { return c.Consumers(cmd.Context()) }
		return answer(a, *format, ask, func(all []wire.Consumer) error {
			if len(all) == 0 {
				return printf(a, "there is no consumer that you may know of; oldledger consumer NAME --title TITLE makes one\n")
			}
			s := a.style()
			var b strings.Builder
			for _, c := range all {
				uses := make([]string, len(c.Uses))
				for i, u := range c.Uses {
					uses[i] = fmt.Sprintf("%s, last %s", u.API, u.LastDay)
				}
				fmt.Fprintf(&b, "%-20s %-24s %s\n", s.bold(c.Name), c.Title,
					s.soft("of "+cmp.Or(c.Team, c.Person)+map[bool]string{true: "; " + strings.Join(uses, "; ")}[len(uses) > 0]))
			}
			return printf(a, "%s", b.String())
		})
	}
	return cmd
}

func (a *app) consumerCommand() *cobra.Command {
	var title, note, team, person, at string
	var contacts, agents, headers, credentials []string
	var drop, unknown bool
	cmd := &cobra.Command{
		Use: "consumer NAME", GroupID: "use", Short: "Show a consumer, make one, or say by what it is recognised", Args: cobra.ExactArgs(1),
		Long: `Shows a consumer: an application that calls APIs. With a flag it is made, or changed. It is yours, or a team's with --team.

--agent, --header and --credential say by what its calls are recognised in logs, in place of what was said; a * stands for any text. It holds for
the APIs of the team that --at names, or of yours where you are in one alone; an admin says it for all with --at all. A credential counts
before a header, and a header before an agent.`,
		Example: `  oldledger consumer lockside-boards --title 'Lockside Boards' --team Quayside --contact boards@saltmere.example
  oldledger consumer lockside-boards --agent 'LocksideBoards/*' --at Quayside
  oldledger consumer lockside-boards --drop`,
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&title, "title", "", "what people call it")
	f.StringVar(&note, "note", "", "what it is for")
	f.StringVar(&team, "team", "", "whose it is")
	f.StringVar(&person, "person", "", "whose it is, where it is no team's")
	f.StringArrayVar(&contacts, "contact", nil, "an e-mail address, or an https address (may be repeated)")
	f.StringArrayVar(&agents, "agent", nil, "what it calls itself: 'LocksideBoards/*' (may be repeated)")
	f.StringArrayVar(&headers, "header", nil, "a header that it sends: 'Client-Name: boards' (may be repeated)")
	f.StringArrayVar(&credentials, "credential", nil, "the user of the log (may be repeated)")
	f.StringVar(&at, "at", "", "the team at whose APIs it is so recognised; all for all")
	f.BoolVar(&unknown, "unknown", false, "it is recognised by nothing, at the APIs of --at")
	f.BoolVar(&drop, "drop", false, "take it away")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format); err != nil {
			return err
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		a.asked = true
		name := args[0]
		if drop {
			if err := c.DropConsumer(cmd.Context(), name); err != nil {
				return refused(err)
			}
			return printf(a, "%s is gone\n", name)
		}
		wish, said := wire.ConsumerWish{}, false
		for _, one := range []struct {
			flag string
			from *string
			to   **string
		}{{"title", &title, &wish.Title}, {"note", &note, &wish.Note}, {"team", &team, &wish.Team}, {"person", &person, &wish.Person}} {
			if f.Changed(one.flag) {
				*one.to, said = one.from, true
			}
		}
		if f.Changed("contact") {
			wish.Contacts, said = &contacts, true
		}
		if said {
			if err := c.SetConsumer(cmd.Context(), name, wish); err != nil {
				return refused(err)
			}
		}
		signs := []wire.Sign{}
		for _, kind := range []struct {
			name   string
			values []string
		}{{"credential", credentials}, {"header", headers}, {"agent", agents}} {
			for _, v := range kind.values {
				signs = append(signs, wire.Sign{Kind: kind.name, Value: v})
			}
		}
		if len(signs) > 0 || unknown {
			if at, err = a.signTeam(cmd, c, at); err != nil {
				return err
			}
			if err := c.SetSigns(cmd.Context(), name, wire.Signs{Team: at, KnownBy: signs}); err != nil {
				return refused(err)
			}
		}
		one, err := c.Consumer(cmd.Context(), name)
		if err != nil {
			return refused(err)
		}
		if *format == "json" {
			return a.json(one)
		}
		return a.showConsumer(one)
	}
	return cmd
}

// signTeam is the team at whose APIs a consumer is recognised.
func (a *app) signTeam(cmd *cobra.Command, c *client.Client, at string) (string, error) {
	if at == "all" {
		return "", nil
	}
	if at != "" {
		return at, nil
	}
	me, err := c.Me(cmd.Context())
	if err != nil {
		return "", refused(err)
	}
	if len(me.Teams) == 1 {
		for team := range me.Teams {
			return team, nil
		}
	}
	return "", usageError{errors.New("say with --at at the APIs of which team it is so recognised; all for all")}
}

func (a *app) showConsumer(c wire.Consumer) error {
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s  %s\n", s.bold(c.Name), c.Title)
	fmt.Fprintf(&b, "  of %s, made by %s on %s\n", cmp.Or(c.Team, c.Person, "nobody"), c.MadeBy, day(c.MadeAt))
	if c.Note != "" {
		fmt.Fprintf(&b, "  %s\n", c.Note)
	}
	if len(c.Contacts) > 0 {
		fmt.Fprintf(&b, "  contact: %s\n", strings.Join(c.Contacts, ", "))
	}
	for _, sign := range c.KnownBy {
		fmt.Fprintf(&b, "  recognised by %s %s%s\n", sign.Kind, sign.Value, map[bool]string{true: " at the APIs of " + sign.Team}[sign.Team != ""])
	}
	for _, u := range c.Uses {
		fmt.Fprintf(&b, "  %9d  %-20s %s\n", u.Calls, u.API, s.soft(spanWords(u.FirstDay, u.LastDay)))
	}
	return printf(a, "%s", b.String())
}

package cli

import (
	"bufio"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/ledger"
	"oldledger/store"
	"oldledger/wire"
)

func (a *app) teamsCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "teams", GroupID: "look", Short: "List the teams, who is in them, and what they keep", Args: cobra.NoArgs,
		Long:    "Lists the teams with their members and the APIs that they keep, as far as you may know of them; and what is offered to them.",
		Example: "  oldledger teams\n  oldledger teams --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.Team, error) { return c.Teams(cmd.Context()) }, a.showTeams)
	}
	return cmd
}

func (a *app) showTeams(teams []wire.Team) error {
	if len(teams) == 0 {
		return printf(a, "there is no team yet; an admin makes one: oldledger team NAME --new\n")
	}
	var b strings.Builder
	for _, t := range teams {
		fmt.Fprintf(&b, "%s\n", t.Name)
		for _, m := range t.Members {
			fmt.Fprintf(&b, "  %-16s %-10s %s\n", m.Name, m.Role, m.Full)
		}
		if len(t.APIs) > 0 {
			fmt.Fprintf(&b, "  keeps %s\n", strings.Join(t.APIs, ", "))
		}
		for _, api := range t.Offers {
			fmt.Fprintf(&b, "  is offered %s: oldledger settle %s --team %s\n", api, api, quoted(t.Name))
		}
	}
	return printf(a, "%s", b.String())
}

// quoted is a word as a shell takes it.
func quoted(word string) string {
	if strings.Trim(word, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789.-_") == "" {
		return word
	}
	return "'" + strings.ReplaceAll(word, "'", `'\''`) + "'"
}

func (a *app) peopleCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "people", GroupID: "look", Short: "List who can sign in, and as what", Args: cobra.NoArgs,
		Long:    "Lists the people with what they are in all teams and in each of theirs.",
		Example: "  oldledger people\n  oldledger people --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.Person, error) { return c.People(cmd.Context()) }, a.showPeople)
	}
	return cmd
}

func (a *app) showPeople(people []wire.Person) error {
	var b strings.Builder
	for _, p := range people {
		var are []string
		if p.Role != "" {
			are = append(are, p.Role)
		}
		for _, team := range slices.Sorted(maps.Keys(p.Teams)) {
			are = append(are, p.Teams[team]+" of "+team)
		}
		if len(are) == 0 {
			are = []string{"in no team"}
		}
		fmt.Fprintf(&b, "%-16s %-20s %s\n", p.Name, p.Full, strings.Join(are, ", "))
	}
	return printf(a, "%s", b.String())
}

// asked is how somebody is asked for who they are, where no token may.
type asking struct {
	as    string
	lines *bufio.Reader
}

func (a *app) askingFlags(cmd *cobra.Command) *asking {
	ask := &asking{}
	cmd.Flags().StringVar(&ask.as, "as", "", "your sign-in name (default: whose token sign-in kept)")
	return ask
}

// session signs in with the password for what no token may, does it, and signs out.
func (a *app) session(ctx context.Context, ask *asking, do func(*client.Client) error) (err error) {
	c, err := a.client()
	if err != nil {
		return err
	}
	a.asked = true
	if ask.as == "" {
		me, err := c.Me(ctx)
		if err != nil {
			return refused(err)
		}
		ask.as = me.Name
	}
	password, err := a.secretLine(ask, ask.as)
	if err != nil {
		return err
	}
	signedIn, err := c.Session(ctx, ask.as, password)
	if err != nil {
		return refused(err)
	}
	defer func() {
		if out := signedIn.SignOut(context.WithoutCancel(ctx)); err == nil && out != nil {
			err = refused(out)
		}
	}()
	if err := do(signedIn); err != nil {
		return refused(err)
	}
	return nil
}

// secretLine asks for a password on the terminal, or takes the next line of standard input.
func (a *app) secretLine(ask *asking, of string) (string, error) {
	if a.interactive() {
		return a.password(of)
	}
	if ask.lines == nil {
		ask.lines = bufio.NewReader(a.In)
	}
	line, err := ask.lines.ReadString('\n')
	if line == "" && err != nil {
		return "", usageError{fmt.Errorf("no password of %s came on standard input", of)}
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func (a *app) teamCommand() *cobra.Command {
	var isNew, dissolve bool
	var members, without []string
	cmd := &cobra.Command{
		Use: "team NAME", GroupID: "run", Short: "Make a team, say who is in it, or dissolve it", Args: cobra.ExactArgs(1),
		Long: `Makes a team (--new), says what somebody is in it (--member NAME=ROLE), takes somebody out of it (--without NAME), or dissolves it
(--dissolve), which a team can be that keeps no API. In a team one is lead, publisher, editor, reviewer or reader. It asks for your password,
because no token may do this; in a pipeline it is one line on standard input.`,
		Example: `  oldledger team Quayside --new --member teodor=lead --member jonas=reviewer
  oldledger team Quayside --without jonas`,
	}
	ask := a.askingFlags(cmd)
	cmd.Flags().BoolVar(&isNew, "new", false, "make it")
	cmd.Flags().BoolVar(&dissolve, "dissolve", false, "dissolve it")
	cmd.Flags().StringArrayVar(&members, "member", nil, "somebody and what they are in it: teodor=lead")
	cmd.Flags().StringArrayVar(&without, "without", nil, "somebody who is no longer in it")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !isNew && !dissolve && len(members)+len(without) == 0 {
			return usageError{errors.New("say what to do: --new, --member NAME=ROLE, --without NAME or --dissolve")}
		}
		for _, m := range members {
			if name, role, ok := strings.Cut(m, "="); !ok || name == "" || role == "" {
				return usageError{fmt.Errorf("--member %s: write NAME=ROLE, such as teodor=lead", m)}
			}
		}
		return a.session(cmd.Context(), ask, func(c *client.Client) error {
			return a.changeTeam(cmd.Context(), c, args[0], isNew, dissolve, members, without)
		})
	}
	return cmd
}

// changeTeam does one thing after another, and says each when it is done: what fails stops the rest.
func (a *app) changeTeam(ctx context.Context, c *client.Client, team string, isNew, dissolve bool, members, without []string) error {
	if isNew {
		if err := c.AddTeam(ctx, team); err != nil {
			return err
		}
		if err := printf(a, "%s is a team\n", team); err != nil {
			return err
		}
	}
	for _, m := range members {
		name, role, _ := strings.Cut(m, "=")
		if err := c.PutMember(ctx, team, name, role); err != nil {
			return err
		}
		if err := printf(a, "%s is %s of %s\n", name, role, team); err != nil {
			return err
		}
	}
	for _, name := range without {
		if err := c.DropMember(ctx, team, name); err != nil {
			return err
		}
		if err := printf(a, "%s is no longer in %s\n", name, team); err != nil {
			return err
		}
	}
	if dissolve {
		if err := c.DropTeam(ctx, team); err != nil {
			return err
		}
		return printf(a, "%s is dissolved\n", team)
	}
	return nil
}

func (a *app) personCommand() *cobra.Command {
	var isNew, leaves, invite bool
	var full, everywhere string
	cmd := &cobra.Command{
		Use: "person NAME", GroupID: "run", Short: "Add somebody who can sign in, say what they are in all teams, or let them go", Args: cobra.ExactArgs(1),
		Long: `Adds somebody (--new --full), and says once at which address they choose a password; invites somebody whose password is lost to choose another
(--invite); says what they are in all teams (--everywhere: admin, auditor, lead, publisher, editor, reviewer, reader, or nothing); or lets them
go (--leaves): their sessions and tokens act for nobody from then on, and what they did stays. One admin stays. It asks for your password,
because no usual token may do this; in a pipeline it is one line on standard input.`,
		Example: `  oldledger person jonas --new --full 'Jonas Wick' --everywhere reviewer
  oldledger person sanna --leaves`,
	}
	ask := a.askingFlags(cmd)
	cmd.Flags().BoolVar(&isNew, "new", false, "add them")
	cmd.Flags().BoolVar(&invite, "invite", false, "make an address at which they choose a password")
	cmd.Flags().BoolVar(&leaves, "leaves", false, "let them go")
	cmd.Flags().StringVar(&full, "full", "", "what they are called")
	cmd.Flags().StringVar(&everywhere, "everywhere", "", "what they are in all teams; nothing for what they are in their own alone")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		said := cmd.Flags().Changed("everywhere")
		role := everywhere
		if role == "nothing" {
			role = ""
		}
		switch {
		case isNew && leaves, invite && leaves, !isNew && !leaves && !said && !invite:
			return usageError{errors.New("say what to do: --new, --invite, --everywhere ROLE or --leaves")}
		case isNew && full == "":
			return usageError{errors.New("say with --full what they are called")}
		}
		return a.session(cmd.Context(), ask, func(c *client.Client) error {
			switch {
			case isNew:
				if _, err := c.AddPerson(cmd.Context(), wire.NewPerson{Name: args[0], Full: full, Role: role}); err != nil {
					return err
				}
				return a.invite(cmd.Context(), c, args[0])
			case invite:
				return a.invite(cmd.Context(), c, args[0])
			case leaves:
				if err := c.DropPerson(cmd.Context(), args[0]); err != nil {
					return err
				}
				return printf(a, "%s left\n", args[0])
			}
			if err := c.SetRole(cmd.Context(), args[0], role); err != nil {
				return err
			}
			if role == "" {
				return printf(a, "%s is nothing but what they are in their teams\n", args[0])
			}
			return printf(a, "%s is %s in all teams\n", args[0], role)
		})
	}
	return cmd
}

func (a *app) invite(ctx context.Context, c *client.Client, name string) error {
	i, err := c.Invite(ctx, name)
	if err != nil {
		return err
	}
	return printf(a, "until %s, %s chooses a password at\n%s\n", day(i.EndsAt), name, i.Address)
}

func (a *app) readmitCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use: "readmit NAME", GroupID: "run", Short: "Let an administrator back in, on the machine that keeps the records", Args: cobra.ExactArgs(1),
		Long: `Makes somebody who is in the records, or was, an administrator with a new password, which it says once: the way in where no administrator
can sign in any more. It works on the folder of the records while no service holds it, and the journal keeps that it was used.`,
		Example: "  oldledger readmit imke --data /var/lib/oldledger\n  oldledger readmit admin",
	}
	cmd.Flags().StringVar(&data, "data", "oldledger-data", "folder of the records")
	cmd.RunE = func(cmd *cobra.Command, args []string) (err error) {
		data = a.path(data)
		path := filepath.Join(data, "ledger.sqlite")
		if _, err := os.Stat(path); err != nil {
			return &inputError{fmt.Errorf("%s holds no records; name their folder with --data", data)}
		}
		unlock, err := hold(data, "readmit", a.Now())
		if err != nil {
			return err
		}
		defer unlock()
		s, err := store.Open(cmd.Context(), path)
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, s.Close()) }()
		l := ledger.New(s, ledger.Options{Now: a.Now, Random: rand.Reader})
		password, err := l.Readmit(cmd.Context(), args[0])
		if err != nil {
			return &inputError{err}
		}
		return printf(a, "%s is an admin, with the password %s (shown this once)\n", args[0], password)
	}
	return cmd
}

func (a *app) tokensCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "tokens", GroupID: "look", Short: "List your tokens: what each may do, until when, and when it was used", Args: cobra.NoArgs,
		Long:    "Lists your tokens, the newest first; everybody's for an administrator. What a token is known by is shown once, when it is made.",
		Example: "  oldledger tokens\n  oldledger tokens --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		return answer(a, *format, func(c *client.Client) ([]wire.TokenEntry, error) { return c.Tokens(cmd.Context()) }, a.showTokens)
	}
	return cmd
}

func (a *app) showTokens(tokens []wire.TokenEntry) error {
	var b strings.Builder
	for _, t := range tokens {
		ends, used := "never ends", "never used"
		if t.EndsAt != "" {
			ends = "ends " + day(t.EndsAt)
		}
		if t.UsedAt != "" {
			used = "used " + day(t.UsedAt)
		}
		of := ""
		if len(t.Teams) > 0 {
			of = " for " + strings.Join(t.Teams, ", ")
		}
		if len(t.APIs) > 0 {
			of = " for " + strings.Join(t.APIs, ", ") + " alone"
		}
		fmt.Fprintf(&b, "%s  %-10s %s: %s%s; %s, %s\n", t.ID, t.Person, t.Label, strings.Join(t.Scopes, ", "), of, ends, used)
	}
	return printf(a, "%s", b.String())
}

func (a *app) tokenCommand() *cobra.Command {
	var wish wire.TokenWish
	var revoke bool
	cmd := &cobra.Command{
		Use: "token LABEL|ID", GroupID: "act", Short: "Make a token for a pipeline, or take one back", Args: cobra.ExactArgs(1),
		Long: `Makes a token with a label that says what it is for, and says it once; or takes one back by its id (--revoke). A token acts for you, and never
does more than you may at that moment: for some teams or APIs alone (--team, --api), in some scopes alone (--scope read, record, publish, settle, tally, administer;
without it all but the last), until it ends. It asks for your password; in a pipeline it is one line on standard input.`,
		Example: `  oldledger token 'berths pipeline' --scope record --team Quayside --days 30
  oldledger token 3d9db2dd9842 --revoke`,
	}
	ask := a.askingFlags(cmd)
	cmd.Flags().StringSliceVar(&wish.Scopes, "scope", nil, "what it may do; it reads in any case")
	cmd.Flags().StringArrayVar(&wish.Teams, "team", nil, "a team for which it acts (default: all of yours)")
	cmd.Flags().StringArrayVar(&wish.APIs, "api", nil, "an API for which it acts alone (default: all of its teams)")
	cmd.Flags().IntVar(&wish.Days, "days", 90, "how long it lasts")
	cmd.Flags().BoolVar(&revoke, "revoke", false, "take the token with this id back")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		return a.session(cmd.Context(), ask, func(c *client.Client) error {
			if revoke {
				if err := c.DropToken(cmd.Context(), args[0]); err != nil {
					return err
				}
				return printf(a, "%s acts for nobody any more\n", args[0])
			}
			wish.Label = args[0]
			token, err := c.MakeToken(cmd.Context(), wish)
			if err != nil {
				return err
			}
			return printf(a, "%s\n", token)
		})
	}
	return cmd
}

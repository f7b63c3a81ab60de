package cli

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/promise"
	"oldledger/wire"
)

func (a *app) settleCommand() *cobra.Command {
	var team, promised, line, reason, days, chosenBy, undeclared string
	var switcher []string
	cmd := &cobra.Command{
		Use: "settle API", GroupID: "act", Short: "Say what holds for an API: its team, its promise, how early it announces, what its pages lead to", Args: cobra.ExactArgs(1),
		Long: `Sets the team of an API; what its lines promise (backward, both-ways or none), or what one line promises that promises something else
(--line 2; --promise api takes that back; --promise style has an API promise what the house style says); and how many days a notice must come before its sunset, which only an administrator may. Another
promise needs a reason, which the journal keeps. The pages of the reference lead from one version to the others: to all, to those of some lines
and numbers (--switcher 2,1.4.0), or to the newest of each line (--switcher lines); every address stays.

How callers choose the version is said with the place and what they write there: {line} stands for 2, {minor} for 2.1, {version} for 2.1.0, {text}
for what the description says; oldledger calling holds it against the descriptions. What the server does with input that it does not
declare counts wherever versions of the API are compared.`,
		Example: `  oldledger settle berths --team Quayside --notice-days 90
  oldledger settle berths --promise both-ways --line 2 --reason 'The quaymasters roll back on Fridays.'
  oldledger settle berths --chosen-by 'path /v{line}' --undeclared refused
  oldledger settle tides --chosen-by 'header Harbour-Version {version} else 1'`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&team, "team", "", "the team that keeps it")
	cmd.Flags().StringVar(&promised, "promise", "", "backward, both-ways or none; style for what the house style says; with --line, api for what its API promises")
	cmd.Flags().StringVar(&line, "line", "", "the line whose promise it is (default: all that have none of their own)")
	cmd.Flags().StringVar(&reason, "reason", "", "why another promise holds from now on")
	cmd.Flags().StringVar(&days, "notice-days", "", `days that a notice must come before its sunset; "ledger" for as many as the house style says, or the ledger`)
	cmd.Flags().StringVar(&chosenBy, "chosen-by", "",
		"how callers choose the version: path, header, query, media-type or host, and what they write there; nobody takes it back")
	cmd.Flags().StringVar(&undeclared, "undeclared", "", "what the server does with input that it does not declare: ignored, refused or unknown")
	cmd.Flags().StringSliceVar(&switcher, "switcher", nil, "to which versions the pages lead: lines and numbers, lines for the newest of each, or all")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		s := wire.Settings{Line: line, Reason: reason}
		if cmd.Flags().Changed("team") {
			s.Team = &team
		}
		if cmd.Flags().Changed("promise") {
			s.Promise = &promised
			if inherited := map[bool]string{true: "api", false: "style"}; promised == inherited[line != ""] {
				promised = ""
			}
		}
		if days != "" {
			n := -1
			var err error
			if days != "ledger" {
				if n, err = strconv.Atoi(days); err != nil || n < 0 {
					return usageError{fmt.Errorf("--notice-days is a number of days, or ledger, not %q", days)}
				}
			}
			s.NoticeDays = &n
		}
		if cmd.Flags().Changed("switcher") {
			if len(switcher) == 1 && switcher[0] == "all" {
				switcher = []string{}
			}
			s.Switcher = &switcher
		}
		if cmd.Flags().Changed("chosen-by") {
			if chosenBy == "nobody" {
				chosenBy = ""
			}
			s.Versioning = &chosenBy
		}
		if cmd.Flags().Changed("undeclared") {
			if undeclared == "unknown" {
				undeclared = ""
			}
			s.Undeclared = &undeclared
		}
		if s == (wire.Settings{Line: line, Reason: reason}) {
			return usageError{errors.New("say what holds: --team, --promise, --notice-days, --switcher, --chosen-by or --undeclared")}
		}
		ask := func(c *client.Client) (wire.API, error) { return c.Set(cmd.Context(), args[0], s) }
		return answer(a, *format, ask, a.showSettings)
	}
	return cmd
}

func (a *app) showSettings(api wire.API) error {
	of := ""
	if api.Team != "" {
		of = ", of " + api.Team
	}
	lines := ""
	for _, v := range api.Versions {
		if p, own := api.LinePromises[v.Line]; own && !strings.Contains(lines, "line "+v.Line+" ") {
			lines += ", line " + v.Line + " " + p
		}
	}
	early := "there is no notice period"
	if api.NoticeDays > 0 {
		early = fmt.Sprintf("what leaves is announced at least %d days before", api.NoticeDays)
	}
	leads := ""
	switch {
	case slices.Equal(api.Switcher, []string{"lines"}):
		leads = "; its pages lead to the newest of each line"
	case len(api.Switcher) > 0:
		leads = "; its pages lead to " + strings.Join(api.Switcher, ", ")
	}
	as := ""
	if api.Own != nil && api.Own.Promise == "" && api.Promise != string(promise.Backward) {
		as = ", as the house style says"
	}
	review := ""
	if api.Versioning != "" {
		review = "; its version is chosen by " + api.Versioning
	}
	if api.Undeclared != "" {
		review += "; input that is not declared is " + api.Undeclared
	}
	for _, asked := range api.Review {
		review += "; " + asked
	}
	return printf(a, "%s%s: its lines promise %s%s%s; %s%s%s\n", api.Name, of, api.Promise, as, lines, early, leads, review)
}

func (a *app) discardCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "discard REF|API", GroupID: "act", Short: "Take a draft away, or an API that has drafts at most", Args: cobra.ExactArgs(1),
		Long: `Takes a draft away with all that was recorded of it; or, where an API is named, the API with all of its drafts. The journal keeps that it
was there. What was published stays for good: see unpublish and retire.`,
		Example: "  oldledger discard berths@2.1.0-draft\n  oldledger discard moorings",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		ask := func(c *client.Client) (string, error) {
			if strings.Contains(args[0], "@") {
				return args[0], c.Discard(cmd.Context(), args[0])
			}
			return args[0], c.DiscardAPI(cmd.Context(), args[0])
		}
		return answer(a, *format, ask, func(what string) error { return printf(a, "%s is taken away\n", what) })
	}
	return cmd
}

package cli

import (
	"cmp"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"
	"text/template"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/wire"
)

// quotaWords are a quota as people read it: "1,000 calls a day".
func quotaWords(quota int64, per string) string {
	if quota == 0 {
		return "as many calls as one likes"
	}
	return fmt.Sprintf("%s a %s", counted(int(quota), "call"), per)
}

// parseQuota reads "1000 day", "1000/day" or "none".
func parseQuota(text string) (quota int64, per string, err error) {
	if text == "" || text == "none" {
		return 0, "", nil
	}
	number, per, ok := strings.Cut(strings.ReplaceAll(text, "/", " "), " ")
	quota, err = strconv.ParseInt(number, 10, 64)
	if !ok || err != nil {
		return 0, "", fmt.Errorf("--quota %q is no quota; write '1000 day', or none", text)
	}
	return quota, strings.TrimSpace(per), nil
}

func (a *app) plansCommand() *cobra.Command {
	var quota, terms string
	var asks, audience []string
	var issues, drop bool
	cmd := &cobra.Command{
		Use: "plans API [NAME]", GroupID: "use", Short: "Say on which terms an API is used", Args: cobra.RangeArgs(1, 2),
		Long: `Lists the plans of an API for which one may ask: how often it may be called, its terms, what is asked. With a NAME and flags a plan is made, or
changed; what is not said of it then is as if it was never said. Who uses the API by it already keeps doing so.`,
		Example: "  oldledger plans berths\n  oldledger plans berths Regular --quota '1000 day' --terms terms.md --ask 'Where does it run?' --for signed-in --issues",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&quota, "quota", "", "how often it may be called: '1000 day', or none")
	f.StringVar(&terms, "terms", "", "a file with the terms, in Markdown")
	f.StringArrayVar(&asks, "ask", nil, "what whoever asks is asked (may be repeated)")
	f.StringSliceVar(&audience, "for", []string{"signed-in"}, "who may ask: everyone, signed-in, team, 'team NAME'")
	f.BoolVar(&issues, "issues", false, "the ledger issues credentials")
	f.BoolVar(&drop, "drop", false, "take it away")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		wish := wire.PlanWish{Asks: asks, Audience: audience, Issues: issues}
		var err error
		if wish.Quota, wish.Per, err = parseQuota(quota); err != nil {
			return usageError{err}
		}
		if terms != "" {
			text, err := os.ReadFile(a.path(terms))
			if err != nil {
				return err
			}
			wish.Terms = string(text)
		}
		ask := func(c *client.Client) ([]wire.Plan, error) {
			if len(args) == 2 {
				change := c.SetPlan(cmd.Context(), args[0], args[1], wish)
				if drop {
					change = c.DropPlan(cmd.Context(), args[0], args[1])
				}
				if change != nil {
					return nil, change
				}
			}
			return c.Plans(cmd.Context(), args[0])
		}
		return answer(a, *format, ask, func(all []wire.Plan) error { return a.showPlans(args[0], all) })
	}
	return cmd
}

func (a *app) showPlans(api string, all []wire.Plan) error {
	if len(all) == 0 {
		return printf(a, "%s has no plan for which you may ask\n", api)
	}
	s := a.style()
	var b strings.Builder
	for _, p := range all {
		issues := ""
		if p.Issues {
			issues = "; the ledger issues credentials"
		}
		fmt.Fprintf(&b, "%s  %s%s  %s\n", s.bold(p.Name), quotaWords(p.Quota, p.Per), issues, s.soft("for "+cmp.Or(strings.Join(p.Audience, ", "), "its team")))
		for _, q := range p.Asks {
			fmt.Fprintf(&b, "  asks: %s\n", q)
		}
		for line := range strings.Lines(strings.TrimSpace(p.Terms)) {
			fmt.Fprintf(&b, "  %s\n", s.soft(strings.TrimRight(line, "\r\n")))
		}
	}
	return printf(a, "%s", b.String())
}

// lineRef takes a line of an API apart: berths@2.
func lineRef(ref string) (api, line string, err error) {
	api, line, ok := strings.Cut(ref, "@")
	if !ok || api == "" || line == "" {
		return "", "", usageError{fmt.Errorf("%q names no line of an API; write berths@2", ref)}
	}
	return api, line, nil
}

func (a *app) askCommand() *cobra.Command {
	var plan, consumer, title, purpose string
	var answers []string
	cmd := &cobra.Command{
		Use: "ask API@LINE ...", GroupID: "use", Short: "Ask for the use of APIs, for an application of yours", Args: cobra.MinimumNArgs(1),
		Long: `Asks for the use of one API or several, for a consumer of yours or, with --title, a new one. Each API's team approves or refuses it; oldledger
requests shows where it stands. What a plan asks (oldledger plans API) is answered with --answer, in its order.`,
		Example: "  oldledger ask berths@2 --plan Regular --as skerry-planner --title 'Skerry Planner' --purpose 'Sailors find a berth.' --answer 'On phones.'\n  oldledger requests",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&plan, "plan", "", "the plan, of each of the APIs")
	f.StringVar(&consumer, "as", "", "the consumer that shall use it")
	f.StringVar(&title, "title", "", "what people call a new consumer")
	f.StringVar(&purpose, "purpose", "", "what it is for")
	f.StringArrayVar(&answers, "answer", nil, "an answer to what the plan asks (may be repeated)")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if plan == "" || consumer == "" || purpose == "" {
			return usageError{errors.New("ask needs --plan, --as and --purpose")}
		}
		wish := wire.RequestWish{Consumer: consumer, Title: title, Purpose: purpose}
		for _, arg := range args {
			api, line, err := lineRef(arg)
			if err != nil {
				return err
			}
			wish.Items = append(wish.Items, wire.RequestedAPI{API: api, Line: line, Plan: plan, Answers: answers})
		}
		ask := func(c *client.Client) (wire.RequestMade, error) {
			id, err := c.Ask(cmd.Context(), wish)
			return wire.RequestMade{ID: id}, err
		}
		return answer(a, *format, ask, func(made wire.RequestMade) error {
			return printf(a, "request %d waits for %s\n", made.ID, map[bool]string{true: "the team of " + wish.Items[0].API, false: "the teams"}[len(args) == 1])
		})
	}
	return cmd
}

func (a *app) requestsCommand() *cobra.Command {
	var approve, refuse, withdraw bool
	var reason string
	cmd := &cobra.Command{
		Use: "requests [ID API@LINE]", GroupID: "use", Short: "List who asks for the use of APIs, and decide", Args: cobra.MaximumNArgs(2),
		Long: `Lists what you asked for, and what your teams are asked for. With a request and one of its lines it is approved, refused with a reason, or, where
it is yours, withdrawn.`,
		Example: "  oldledger requests\n  oldledger requests 7 berths@2 --approve\n  oldledger requests 7 berths@2 --refuse --reason 'Line 3 comes next week.'",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.BoolVar(&approve, "approve", false, "it may be used from now on")
	f.BoolVar(&refuse, "refuse", false, "it may not")
	f.BoolVar(&withdraw, "withdraw", false, "it is asked for no more")
	f.StringVar(&reason, "reason", "", "why")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		state := ""
		for _, one := range []struct {
			is   bool
			name string
		}{{approve, "approved"}, {refuse, "refused"}, {withdraw, "withdrawn"}} {
			if one.is && state != "" {
				return usageError{errors.New("one of --approve, --refuse and --withdraw is meant")}
			}
			if one.is {
				state = one.name
			}
		}
		if (state != "") != (len(args) == 2) || len(args) == 1 {
			return usageError{errors.New("to decide, name a request and a line, and --approve, --refuse or --withdraw")}
		}
		ask := func(c *client.Client) ([]wire.Request, error) {
			if state != "" {
				id, err := strconv.ParseInt(args[0], 10, 64)
				if err != nil {
					return nil, usageError{fmt.Errorf("%q is no number of a request", args[0])}
				}
				api, line, err := lineRef(args[1])
				if err != nil {
					return nil, err
				}
				if err := c.Decide(cmd.Context(), id, wire.Decision{API: api, Line: line, State: state, Reason: reason}); err != nil {
					return nil, err
				}
			}
			return c.Requests(cmd.Context())
		}
		return answer(a, *format, ask, a.showRequests)
	}
	return cmd
}

func (a *app) showRequests(all []wire.Request) error {
	if len(all) == 0 {
		return printf(a, "nothing was asked for\n")
	}
	s := a.style()
	var b strings.Builder
	for _, r := range all {
		fmt.Fprintf(&b, "%5d  %s  %s\n       %s\n", r.ID, s.bold(cmp.Or(r.Title, r.Consumer)), s.soft("asked by "+r.AskedBy+" on "+day(r.AskedAt)), r.Purpose)
		for _, i := range r.Items {
			state := i.State
			if i.Decides {
				state = "waits for you"
			} else if i.DecidedBy != "" {
				state += " by " + i.DecidedBy + " on " + day(i.DecidedAt)
			}
			if i.Reason != "" {
				state += ": " + i.Reason
			}
			fmt.Fprintf(&b, "       %s@%s, %s  %s\n", i.API, i.Line, i.Plan, s.bold(state))
			for _, x := range i.Answers {
				fmt.Fprintf(&b, "         %s %s\n", s.soft(x.Question), x.Answer)
			}
		}
	}
	return printf(a, "%s", b.String())
}

func (a *app) grantsCommand() *cobra.Command {
	var api, consumer, form, end, reason string
	cmd := &cobra.Command{
		Use: "grants", GroupID: "use", Short: "List which consumers may use which APIs, for people and for gateways", Args: cobra.NoArgs,
		Long: `Lists what consumers may use: of APIs of your teams, and of your consumers. A gateway takes it as JSON, or in a form of its own: --template is a Go
template over the list, in which each has .Consumer, .API, .Line, .Versions, .Plan, .Quota, .Per and .Credentials (.ID, .Hash, .Ended).

--end ends that a consumer may use a line; its credentials end with the last line.`,
		Example: "  oldledger grants --api berths\n  oldledger grants --api berths --template gateway.tmpl\n  oldledger grants --consumer quay-kiosk --end berths@1 --reason 'It moved.'",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringVar(&api, "api", "", "of this API alone")
	f.StringVar(&consumer, "consumer", "", "of this consumer alone")
	f.StringVar(&form, "template", "", "a file with a Go template over the list")
	f.StringVar(&end, "end", "", "the line that --consumer may use no more: berths@1")
	f.StringVar(&reason, "reason", "", "why")
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		var t *template.Template
		if form != "" {
			text, err := os.ReadFile(a.path(form))
			if err == nil {
				t, err = template.New(form).Option("missingkey=error").Parse(string(text))
			}
			if err != nil {
				return err
			}
		}
		ask := func(c *client.Client) ([]wire.Grant, error) {
			if end != "" {
				of, line, err := lineRef(end)
				if err != nil {
					return nil, err
				}
				if consumer == "" || reason == "" {
					return nil, usageError{errors.New("--end needs --consumer and --reason")}
				}
				if err := c.EndGrant(cmd.Context(), consumer, of, line, reason); err != nil {
					return nil, err
				}
			}
			return c.Grants(cmd.Context(), api, consumer)
		}
		return answer(a, *format, ask, func(all []wire.Grant) error {
			if t != nil {
				return t.Execute(a.Out, all)
			}
			return a.showGrants(all)
		})
	}
	return cmd
}

func (a *app) showGrants(all []wire.Grant) error {
	if len(all) == 0 {
		return printf(a, "nobody was granted anything that you may know of\n")
	}
	s := a.style()
	var b strings.Builder
	for _, g := range all {
		fmt.Fprintf(&b, "%-20s %s@%s  %s, %s  %s\n", s.bold(g.Consumer), g.API, g.Line, g.Plan, quotaWords(g.Quota, g.Per), s.soft("since "+day(g.Since)))
		for _, c := range g.Credentials {
			ends := "lasts"
			if c.Ended {
				ends = "ended " + day(c.EndsAt)
			} else if c.EndsAt != "" {
				ends = "ends " + day(c.EndsAt)
			}
			fmt.Fprintf(&b, "  %s  %s\n", c.ID, s.soft(ends+", made by "+c.MadeBy+" on "+day(c.MadeAt)))
		}
	}
	return printf(a, "%s", b.String())
}

func (a *app) credentialCommand() *cobra.Command {
	var overlap int
	var end string
	cmd := &cobra.Command{
		Use: "credential CONSUMER API", GroupID: "use", Short: "Make a credential of a consumer at an API, or end one", Args: cobra.ExactArgs(2),
		Long: `Makes a credential by which a consumer is known at an API, where its plan has the ledger issue them. It is shown once; the ledger keeps a hash. Logs
tell of it by its id, which is what stands before its dot. Those before it go on unless --overlap says for how many days.`,
		Example: "  oldledger credential skerry-planner berths\n  oldledger credential skerry-planner berths --overlap 7\n  oldledger credential skerry-planner berths --end olc_3fA9xQ0p",
	}
	format := formatFlag(cmd)
	cmd.Flags().IntVar(&overlap, "overlap", -1, "for how many days those before it go on (default: as long as they would)")
	cmd.Flags().StringVar(&end, "end", "", "end this one at once, by its id")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if end != "" {
			c, err := a.client()
			if err == nil {
				err = c.EndCredential(cmd.Context(), args[0], args[1], end)
			}
			if err != nil {
				return refused(err)
			}
			return printf(a, "%s ended\n", end)
		}
		ask := func(c *client.Client) (wire.NewCredential, error) {
			return c.MakeCredential(cmd.Context(), args[0], args[1], overlap)
		}
		return answer(a, *format, ask, func(made wire.NewCredential) error {
			return printf(a, "%s\n%s", made.Credential, "it is shown this once; keep it where it is safe\n")
		})
	}
	return cmd
}

func (a *app) carryOverCommand() *cobra.Command {
	wish := wire.CarryWish{}
	cmd := &cobra.Command{
		Use: "carry-over API@OLD API@NEW", GroupID: "use", Short: "Carry those who may use a line over to another one", Args: cobra.ExactArgs(2),
		Long: `Gives consumers that may use a line the use of another one, by the plans that they have: all of them, or those of --consumer. With --sunset the same
step announces that the old line leaves.`,
		Example: "  oldledger carry-over berths@1 berths@2 --sunset 2027-03-01 --reason 'Line 2 is out.' --guide 1.2.0..2.0.0\n  oldledger carry-over berths@1 berths@2 --consumer quay-kiosk",
	}
	format := formatFlag(cmd)
	f := cmd.Flags()
	f.StringArrayVar(&wish.Consumers, "consumer", nil, "carry this one over (may be repeated; default: all)")
	f.StringVar(&wish.Sunset, "sunset", "", "when the old line leaves")
	f.StringVar(&wish.Reason, "reason", "", "why it leaves")
	f.StringVar(&wish.Guide, "guide", "", "the guide that they follow: 1.2.0..2.0.0")
	f.StringVar(&wish.Sooner, "sooner", "", "why it may leave sooner than the notice period allows")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		api, from, err := lineRef(args[0])
		if err != nil {
			return err
		}
		other, to, err := lineRef(args[1])
		if err != nil {
			return err
		}
		if other != api {
			return usageError{fmt.Errorf("%s and %s are lines of two APIs", args[0], args[1])}
		}
		wish.From, wish.To = from, to
		ask := func(c *client.Client) (wire.Carried, error) { return c.CarryOver(cmd.Context(), api, wish) }
		return answer(a, *format, ask, func(done wire.Carried) error {
			who := "nobody had to be carried over"
			if len(done.Consumers) > 0 {
				who = strings.Join(done.Consumers, ", ") + " may use line " + to + " of " + api + ", too"
			}
			if done.Notice != nil {
				who += fmt.Sprintf("; notice %d: %s leaves on %s", done.Notice.ID, done.Notice.Subject(), done.Notice.Sunset)
			}
			return printf(a, "%s\n", who)
		})
	}
	return cmd
}

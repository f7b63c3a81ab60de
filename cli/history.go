package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/ledger"
)

func (a *app) historyCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "history NAME", GroupID: "look", Short: "Tell what each version of an API changed", Args: cobra.ExactArgs(1)}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		return answer(a, *format, func(c *client.Client) ([]ledger.Release, error) { return c.History(cmd.Context(), args[0]) }, a.showHistory)
	}
	return cmd
}

func (a *app) showHistory(releases []ledger.Release) error {
	s := a.style()
	var b strings.Builder
	for i, r := range releases {
		if i > 0 {
			b.WriteString("\n")
		}
		date := "recorded " + day(r.Version.RecordedAt)
		if r.Version.PublishedAt != "" {
			date = "published " + day(r.Version.PublishedAt)
		}
		fmt.Fprintf(&b, "%s   %s   %s", s.bold(r.Version.Number), r.Version.State, s.soft(date))
		if r.Version.Sunset != "" {
			b.WriteString("   " + s.grade(compare.Hazard, "! leaves "+r.Version.Sunset))
		}
		b.WriteString("\n")
		if r.Changes == nil {
			b.WriteString("   the first version\n")
		} else {
			fmt.Fprintf(&b, "   against %s: %s\n", r.Before, orNothing(report.Tally(r.Changes.Counts)))
			for _, ch := range r.Changes.Changes {
				if ch.Backward < compare.Hazard {
					continue
				}
				fmt.Fprintf(&b, "   %s %s%s\n", s.grade(ch.Backward, ch.Backward.Mark()), ch.Title, s.soft(announced(r, ch)))
			}
		}
		for _, w := range r.Waivers {
			fmt.Fprintf(&b, "   waived by %s: %s (%s)\n", w.MadeBy, w.Title, w.Reason)
		}
		for _, n := range r.Notices {
			fmt.Fprintf(&b, "   %s\n", s.grade(compare.Hazard, "! "+n.Subject()+leaves(n.Sunset)))
		}
	}
	return printf(a, "%s", b.String())
}

// announced says how a removal was announced, where it is one.
func announced(r ledger.Release, ch *compare.Change) string {
	an := r.Removed[ch.ID]
	switch {
	case an == nil:
		return ""
	case an.Notice == nil:
		return "  unannounced"
	case an.Announced:
		return "  announced for " + an.Notice.Sunset
	}
	return "  before its announced date " + an.Notice.Sunset
}

// day is the date of a time stamp.
func day(stamp string) string { return stamp[:min(10, len(stamp))] }

func (a *app) journalCommand() *cobra.Command {
	var verify bool
	var after int64
	var limit int
	cmd := &cobra.Command{
		Use: "journal", GroupID: "look", Short: "Read the journal of every act", Args: cobra.NoArgs,
		Long: "Lists who did what and when. Each entry carries a hash over itself and the entry before it; --verify checks them all.",
	}
	format := formatFlag(cmd)
	cmd.Flags().BoolVar(&verify, "verify", false, "check the chain of hashes")
	cmd.Flags().Int64Var(&after, "after", 0, "begin behind this entry")
	cmd.Flags().IntVar(&limit, "limit", 200, "how many entries at most")
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		if !verify {
			ask := func(c *client.Client) ([]ledger.Entry, error) { return c.Journal(cmd.Context(), after, limit) }
			return answer(a, *format, ask, a.showJournal)
		}
		intact := false
		ask := func(c *client.Client) (ledger.Verification, error) {
			v, err := c.VerifyJournal(cmd.Context())
			intact = v.Intact
			return v, err
		}
		if err := answer(a, *format, ask, a.showVerification); err != nil || intact {
			return err
		}
		return errNo
	}
	return cmd
}

func (a *app) showJournal(entries []ledger.Entry) error {
	var b strings.Builder
	for _, e := range entries {
		actor := e.Actor
		if actor == "" {
			actor = "the ledger"
		}
		fmt.Fprintf(&b, "%5d  %s  %-12s  %-18s  %s\n", e.Seq, strings.TrimSuffix(strings.Replace(e.At, "T", " ", 1), "Z"), actor, e.Act, e.Subject)
	}
	return printf(a, "%s", b.String())
}

func (a *app) showVerification(v ledger.Verification) error {
	if !v.Intact {
		return printf(a, "the chain is broken: %s\n", v.Why)
	}
	return printf(a, "%d entries, the chain is intact; its head is %s\n", v.Entries, v.Head)
}

package cli

import (
	"cmp"
	"encoding/json"
	"fmt"
	"net/url"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/wire"
)

func (a *app) historyCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "history API|REF", GroupID: "look", Short: "Tell what each version of an API changed, or how one was recorded",
		Args:    cobra.ExactArgs(1),
		Long:    "Tells what each version of an API changed; of one version, each recording of it: when, by whom, from where and why.",
		Example: "  oldledger history berths\n  oldledger history berths@2.1.0",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if strings.Contains(args[0], "@") {
			return answer(a, *format, func(c *client.Client) ([]wire.Revision, error) { return c.Revisions(cmd.Context(), args[0]) },
				a.showRevisions)
		}
		return answer(a, *format, func(c *client.Client) ([]wire.Release, error) { return c.History(cmd.Context(), args[0]) }, a.showHistory)
	}
	return cmd
}

func (a *app) showHistory(releases []wire.Release) error {
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
		if why := recording(r.Version.RecordedBy, r.Version.Message, r.Version.Origin); r.Version.Message != "" {
			fmt.Fprintf(&b, "   %s\n", s.soft(why))
		}
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

// showRevisions lists the recordings of a version.
func (a *app) showRevisions(revisions []wire.Revision) error {
	s := a.style()
	var b strings.Builder
	for _, r := range revisions {
		mark := " "
		if r.Current {
			mark = "*"
		}
		fmt.Fprintf(&b, "%s %s  %s  %s\n", mark, s.bold(minute(r.RecordedAt)), s.soft(r.Digest[:min(12, len(r.Digest))]),
			recording(r.RecordedBy, r.Message, r.Origin))
	}
	return printf(a, "%s", b.String())
}

// recording says who recorded something, why, and from where.
func recording(by, message string, o wire.Origin) string {
	text := by
	if message != "" {
		text += ": " + strings.ReplaceAll(message, "\n", " ")
	}
	var from []string
	for _, part := range []struct{ name, value string }{{"", o.From}, {"commit ", o.Commit}, {"build ", o.Build}} {
		if part.value != "" {
			from = append(from, part.name+part.value)
		}
	}
	if len(from) > 0 {
		text += " (" + strings.Join(from, ", ") + ")"
	}
	return text
}

// minute is a time stamp to the minute.
func minute(stamp string) string { return strings.Replace(stamp[:min(16, len(stamp))], "T", " ", 1) }

// announced says how a removal was announced, where it is one.
func announced(r wire.Release, ch *compare.Change) string {
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
	var head, checkpoint, export, proved string
	var after int64
	var limit int
	asked := map[string]*string{}
	cmd := &cobra.Command{
		Use: "journal [FILE]", GroupID: "look", Short: "Read the journal of every act, and prove it", Args: cobra.MaximumNArgs(1),
		Long: `Lists who did what and when. Each entry carries a hash over itself and the entry before it; --verify checks them all, holds the records
against them and every content against its digest. It prints the head of the journal: keep it elsewhere, and say it with --head the next
time, and a journal that was cut off or written anew is found out, too.

The same can be proved from outside. --checkpoint FILE keeps the signed size and root of the journal in a file; where the file has an earlier
one, the journal must go on from it. --export FILE writes the journal with what you may know of it, the rest as hashes; --prove REF prints what proves
that a version was published. --verify FILE checks either without the ledger, an export also against a --checkpoint that was kept.`,
		Example: "  oldledger journal --api berths --act notice --from 2026-11-01\n  oldledger journal --verify\n  oldledger journal --export journal.jsonl\n  oldledger journal --verify journal.jsonl --checkpoint kept.txt",
	}
	format := formatFlag(cmd)
	cmd.Flags().BoolVar(&verify, "verify", false, "check the journal, and the records against it")
	cmd.Flags().StringVar(&head, "head", "", "with --verify: a head that was kept, which the journal must lead to")
	for name, about := range map[string]string{
		"by": "only what this person did", "api": "only what was done with this API", "act": "only this act (version.published) or kind of acts (version)",
		"from": "from this day or time on", "until": "to the end of this day, or up to this time",
	} {
		asked[name] = cmd.Flags().String(name, "", about)
	}
	cmd.Flags().Int64Var(&after, "after", 0, "begin behind this entry")
	cmd.Flags().IntVar(&limit, "limit", 200, "how many entries at most")
	cmd.Flags().StringVar(&checkpoint, "checkpoint", "", "the file in which the journal's checkpoint is kept")
	cmd.Flags().StringVar(&export, "export", "", `write the journal to this file; "-" for standard output`)
	cmd.Flags().StringVar(&proved, "prove", "", "print what proves that this version was published")
	cmd.MarkFlagsMutuallyExclusive("export", "prove", "verify")
	cmd.MarkFlagsMutuallyExclusive("export", "prove", "checkpoint")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		switch {
		case len(args) > 0 && !verify:
			return usageError{fmt.Errorf("a file is given to be checked: oldledger journal --verify %s", args[0])}
		case len(args) > 0:
			return a.verifyFile(args[0], checkpoint)
		case checkpoint != "" && !verify:
			return a.keepCheckpoint(cmd.Context(), checkpoint)
		case export != "":
			return a.exportJournal(cmd.Context(), export)
		case proved != "":
			return a.prove(cmd.Context(), proved)
		}
		if checkpoint != "" {
			if err := a.keepCheckpoint(cmd.Context(), checkpoint); err != nil {
				return err
			}
		}
		if !verify {
			ask := func(c *client.Client) ([]wire.Entry, error) {
				return c.Journal(cmd.Context(), question(asked), after, limit)
			}
			return answer(a, *format, ask, a.showJournal)
		}
		intact := false
		ask := func(c *client.Client) (wire.Verification, error) {
			v, err := c.VerifyJournal(cmd.Context(), head)
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

// question is what is asked of the journal, as its address has it.
func question(asked map[string]*string) url.Values {
	q := url.Values{}
	for name, value := range asked {
		if name == "by" {
			name = "actor"
		}
		if *value != "" {
			q.Set(name, *value)
		}
	}
	return q
}

func (a *app) showJournal(entries []wire.Entry) error {
	var b strings.Builder
	for _, e := range entries {
		actor := e.Actor
		if actor == "" {
			actor = "the ledger"
		}
		fmt.Fprintf(&b, "%5d  %s  %-12s  %-18s  %s%s\n", e.Seq, strings.TrimSuffix(strings.Replace(e.At, "T", " ", 1), "Z"), actor, e.Act,
			e.Subject, why(e))
	}
	return printf(a, "%s", b.String())
}

// why is what an entry says of the reason: of what, and for what.
func why(e wire.Entry) string {
	var detail struct{ Title, Reason, Message, Label, Part, Published, Shelf, Versions string }
	if json.Unmarshal(e.Detail, &detail) != nil {
		return "" // an entry of another kind, which says more as JSON
	}
	text := ""
	listed := func(text, none string) string { // a JSON list of words
		return strings.NewReplacer(`["`, "", `"]`, "", `","`, ", ", "[]", none).Replace(text)
	}
	opens := strings.TrimSpace(detail.Part + " " + listed(detail.Published, "its team"))
	picked := strings.Trim(detail.Shelf+": "+listed(detail.Versions, ""), ": ")
	if said := cmp.Or(detail.Title, detail.Label, opens, picked); said != "" {
		text += ", " + said
	}
	if reason := cmp.Or(detail.Reason, detail.Message); reason != "" {
		text += ": " + reason
	}
	return text
}

func (a *app) showVerification(v wire.Verification) error {
	if !v.Intact {
		return printf(a, "the journal does not hold: %s\n", v.Why)
	}
	return printf(a, "%d entries and %d contents, all as they were written; the head is %s\n", v.Entries, v.Contents, v.Head)
}

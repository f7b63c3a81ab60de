package cli

import (
	"cmp"
	"encoding/csv"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/report"
	"oldledger/wire"
)

func (a *app) tallyAddCommand() *cobra.Command {
	var of []string
	var mapping string
	cmd := &cobra.Command{
		Use: "add LOG ...", Short: "Have the ledger count the calls of logs, and keep the counts", Args: cobra.MinimumNArgs(1),
		Long: `Sends logs to the ledger, which counts their calls as oldledger tally does, for the APIs of which you may add calls or those of --of, and keeps
how many there were on each day, by operation, version, caller and class of the answer: no line, no query, no address. - is standard input.

A log that begins with all of one that was added before repeats it: only what is new in it counts, whatever its name and however it is
packed. So a log that grows is added again and again, and one that was cut off on its way is simply sent again.`,
		Example: "  oldledger tally add access.log\n  oldledger tally add access.log.1.gz access.log --of berths\n  oldledger tally add calls.jsonl --mapping names.yaml --format json",
	}
	format := formatFlag(cmd)
	cmd.Flags().StringArrayVar(&of, "of", nil, "an API whose calls are counted (may be repeated; default: all of which you may add calls)")
	cmd.Flags().StringVar(&mapping, "mapping", "", "a file that says which names of lines of JSON hold what: {time: ts, target: request.path}")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "text", "json"); err != nil {
			return err
		}
		names := ""
		if mapping != "" {
			if _, err := a.readMapping(mapping); err != nil {
				return err
			}
			text, err := os.ReadFile(a.path(mapping))
			if err != nil {
				return err
			}
			names = string(text)
		}
		c, err := a.client()
		if err != nil {
			return err
		}
		a.asked = true
		all := []wire.AddedLog{}
		for _, arg := range args {
			added, err := a.addLog(cmd, c, arg, of, names)
			if err != nil {
				return fmt.Errorf("%s: %w", arg, err)
			}
			if all = append(all, added); *format == "text" {
				if err := a.showAdded(added); err != nil {
					return err
				}
			}
		}
		if *format == "json" {
			return a.json(all)
		}
		return nil
	}
	return cmd
}

// addLog sends one log.
func (a *app) addLog(cmd *cobra.Command, c *client.Client, name string, of []string, mapping string) (wire.AddedLog, error) {
	text, size, called := a.In, int64(-1), "standard input"
	if name != "-" {
		f, err := os.Open(a.path(name))
		if err != nil {
			return wire.AddedLog{}, err
		}
		defer f.Close()
		if info, err := f.Stat(); err == nil && info.IsDir() {
			return wire.AddedLog{}, fmt.Errorf("it is a folder; name the logs in it")
		} else if err == nil {
			size = info.Size()
		}
		text, called = f, filepath.Base(name)
	}
	text, done := a.through("sending "+called, size, text)
	added, err := c.AddLog(cmd.Context(), called, of, mapping, io.NopCloser(text))
	done()
	if err != nil {
		return added, refused(err)
	}
	return added, nil
}

// showAdded says what came of a log.
func (a *app) showAdded(l wire.AddedLog) error {
	s := a.style()
	var b strings.Builder
	fresh := l.Lines - l.Repeated
	switch {
	case fresh == 0 && l.Lines > 0:
		all := "all of its " + lineCount(l.Lines) + " were"
		if l.Lines == 1 {
			all = "its one line was"
		}
		fmt.Fprintf(&b, "%s: %s counted before\n", s.bold(l.Name), all)
		return printf(a, "%s", b.String())
	case l.Repeated > 0:
		fmt.Fprintf(&b, "%s: %s, %d of them counted before: ", s.bold(l.Name), lineCount(l.Lines), l.Repeated)
	default:
		fmt.Fprintf(&b, "%s: %s: ", s.bold(l.Name), lineCount(l.Lines))
	}
	parts := []string{counted(int(l.Calls), "call") + " counted"}
	for _, one := range []struct {
		n    int64
		text string
	}{{l.Elsewhere, "of other APIs"}, {l.Unmatched, "of no operation that is described"}, {l.Bad, "that cannot be read"}} {
		if one.n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", one.n, one.text))
		}
	}
	b.WriteString(strings.Join(parts, ", "))
	if l.FirstDay != "" {
		b.WriteString(s.soft("  " + spanWords(l.FirstDay, l.LastDay)))
	}
	b.WriteString("\n")
	for _, one := range l.Counted {
		fmt.Fprintf(&b, "  %9d  %s\n", one.Calls, one.API)
	}
	if len(l.Odd) > 0 {
		fmt.Fprintf(&b, "%s\n", s.bold("Of no operation"))
		a.unmatchedLines(&b, l.Odd)
	}
	if len(l.Torn) > 0 {
		fmt.Fprintf(&b, "%s\n", s.bold("Lines that cannot be read"))
		for _, t := range l.Torn {
			such := make([]string, len(t.Examples))
			for i, e := range t.Examples {
				such[i] = strconv.FormatInt(e.Line, 10)
			}
			fmt.Fprintf(&b, "  %9d  %-44s %s\n", t.Lines, t.Why, s.soft("such as line "+strings.Join(such, " ")))
		}
	}
	return printf(a, "%s", b.String())
}

func (a *app) unmatchedLines(b *strings.Builder, all []wire.Unmatched) {
	s := a.style()
	for _, u := range all[:min(len(all), mostShown)] {
		what := u.Method + " " + u.Path
		if u.Path == "" {
			what = "other paths"
		}
		why := whyNot[u.Why]
		if u.API != "" {
			why += " of " + u.API
		}
		if u.LastDay != "" {
			why += ", last " + u.LastDay
		}
		fmt.Fprintf(b, "  %9d  %-44s %s\n", u.Calls, what, s.soft(why))
	}
	if left := len(all) - mostShown; left > 0 {
		fmt.Fprintf(b, "             %s\n", s.soft(fmt.Sprintf("and %d paths more; --format json has them", left)))
	}
}

func spanWords(from, until string) string {
	if from == until {
		return from
	}
	return from + " to " + until
}

func (a *app) logsCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "logs", GroupID: "use", Short: "List the logs whose calls were counted", Args: cobra.NoArgs,
		Long:    "Lists the logs that were added for APIs of your teams, the newest first.",
		Example: "  oldledger logs\n  oldledger logs --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		ask := func(c *client.Client) ([]wire.Log, error) { return c.Logs(cmd.Context()) }
		return answer(a, *format, ask, func(all []wire.Log) error {
			if len(all) == 0 {
				return printf(a, "no log was added yet; oldledger tally add LOG adds one\n")
			}
			s := a.style()
			var b strings.Builder
			for _, l := range all {
				days := ""
				if l.FirstDay != "" {
					days = ", " + spanWords(l.FirstDay, l.LastDay)
				}
				fmt.Fprintf(&b, "%5d  %s  %-28s %9d calls  %s\n", l.ID, day(l.AddedAt), l.Name, l.Calls,
					s.soft(fmt.Sprintf("by %s, of %s%s", l.AddedBy, few(l.APIs), days)))
			}
			return printf(a, "%s", b.String())
		})
	}
	return cmd
}

// few names some, and how many others there are.
func few(names []string) string {
	const shown = 4
	if len(names) <= shown {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:shown], ", "), len(names)-shown)
}

func (a *app) unmatchedCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "unmatched", GroupID: "use", Short: "List calls of no operation that is described", Args: cobra.NoArgs,
		Long: `Lists the calls that logs told of and that are calls of no operation that is described: of paths, methods and versions that are not there, and
those of which no log tells which version they mean. The most frequent come first. Paths that no API has are told to those who have a role
in all teams.`,
		Example: "  oldledger unmatched\n  oldledger unmatched --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, _ []string) error {
		ask := func(c *client.Client) ([]wire.Unmatched, error) { return c.Unmatched(cmd.Context()) }
		return answer(a, *format, ask, func(all []wire.Unmatched) error {
			if len(all) == 0 {
				return printf(a, "no log told of a call that is of no operation\n")
			}
			var b strings.Builder
			a.unmatchedLines(&b, all)
			return printf(a, "%s", b.String())
		})
	}
	return cmd
}

func (a *app) usesCommand() *cobra.Command {
	asked := map[string]*string{}
	cmd := &cobra.Command{
		Use: "uses API", GroupID: "use", Short: "Say how often an API is called, by which version, consumer or operation", Args: cobra.ExactArgs(1),
		Long: `Tells how often an API was called, as far as the logs tell that were added: by version, line, consumer, operation or class of the answers. Days are
those of UTC. As CSV, a line for each day and each of those that are told apart.`,
		Example: "  oldledger uses berths\n  oldledger uses berths --by consumer --version 1.2.0\n  oldledger uses berths --by operation --from 2026-09-01 --format csv",
	}
	format := cmd.Flags().String("format", "text", "text, json, csv")
	for _, f := range [][2]string{
		{"by", "version, line, consumer, operation or class (default version)"},
		{"from", "the first day (default: 90 days before the last)"},
		{"until", "the last day (default: today)"},
		{"version", "only calls of this version"},
		{"consumer", "only calls of this consumer"},
		{"operation", "only calls of this operation: \"GET /berths\""},
	} {
		asked[f[0]] = cmd.Flags().String(f[0], "", f[1])
	}
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "text", "json", "csv"); err != nil {
			return err
		}
		query := url.Values{}
		for name, value := range asked {
			if *value != "" {
				query.Set(name, *value)
			}
		}
		form := *format
		if form == "csv" {
			form = "text"
		}
		ask := func(c *client.Client) (wire.Use, error) { return c.Use(cmd.Context(), args[0], query) }
		return answer(a, form, ask, func(u wire.Use) error {
			if *format == "csv" {
				return writeUse(a.Out, u)
			}
			return a.showUse(u)
		})
	}
	return cmd
}

// writeUse writes a line for each day and each of those that are told apart.
func writeUse(to io.Writer, u wire.Use) error {
	w := csv.NewWriter(to)
	if err := w.Write([]string{"day", u.By, "calls"}); err != nil {
		return err
	}
	first, err := time.Parse(time.DateOnly, u.From)
	if err != nil {
		return err
	}
	for i := range u.Days {
		at := first.AddDate(0, 0, i).Format(time.DateOnly)
		for _, s := range u.Series {
			if err := w.Write([]string{at, report.PlainCell(s.Name), strconv.FormatInt(s.Days[i], 10)}); err != nil {
				return err
			}
		}
	}
	w.Flush()
	return w.Error()
}

func (a *app) showUse(u wire.Use) error {
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s: %s, %s", s.bold(u.API), counted(int(u.Calls), "call"), spanWords(u.From, u.Until))
	if u.Calls > 0 {
		fmt.Fprintf(&b, "; %s failed, %s of nobody known", share(u.Failed, u.Calls), share(u.Unknown, u.Calls))
	}
	fmt.Fprintf(&b, "\n%s\n", coverage(u.Covered, u.Days, u.Missing))
	width := 0
	for _, one := range u.Series {
		width = max(width, len([]rune(shownName(one))))
	}
	for _, one := range u.Series {
		fmt.Fprintf(&b, "  %9d  %-*s  %s  %s\n", one.Calls, min(width, 44), shownName(one), spark(one.Days[:told(u)]), s.soft("last "+one.LastDay))
	}
	return printf(a, "%s", b.String())
}

// told is how many of the days come before those at the end of which no log tells yet.
func told(u wire.Use) int {
	if n := len(u.Missing); n > 0 && u.Missing[n-1].Until == u.Until {
		from, err := time.Parse(time.DateOnly, u.Missing[n-1].From)
		first, wrong := time.Parse(time.DateOnly, u.From)
		if err == nil && wrong == nil {
			return int(from.Sub(first).Hours() / 24)
		}
	}
	return u.Days
}

func shownName(s wire.UseSeries) string {
	if s.Title != "" && s.Title != s.Name {
		return s.Name + " (" + s.Title + ")"
	}
	if !s.Known {
		return cmp.Or(s.Name, "nobody known") + " ?"
	}
	return s.Name
}

func share(n, of int64) string {
	if n == 0 || of == 0 {
		return "0 %"
	}
	return fmt.Sprintf("%.1f %%", 100*float64(n)/float64(of))
}

// coverage says of how many days logs tell.
func coverage(covered, of int, missing []wire.DaySpan) string {
	if covered == 0 {
		return "no log tells of these days; oldledger tally add LOG adds one"
	}
	text := fmt.Sprintf("logs tell of %d of these %d days", covered, of)
	if len(missing) == 0 {
		return text
	}
	spans := make([]string, 0, 3)
	for _, m := range missing[:min(len(missing), 3)] {
		spans = append(spans, spanWords(m.From, m.Until))
	}
	text += "; none of " + strings.Join(spans, ", ")
	if left := len(missing) - len(spans); left > 0 {
		text += fmt.Sprintf(" and %d times more", left)
	}
	return text
}

// spark draws numbers as a row of bars, at most 30 of them.
func spark(days []int64) string {
	const most = 30
	step := max(1, (len(days)+most-1)/most)
	var sums []int64
	top := int64(0)
	for i := 0; i < len(days); i += step {
		sum := int64(0)
		for _, n := range days[i:min(len(days), i+step)] {
			sum += n
		}
		sums = append(sums, sum)
		top = max(top, sum)
	}
	var b strings.Builder
	bars := []rune("▁▂▃▄▅▆▇█")
	for _, n := range sums {
		if n == 0 {
			b.WriteRune(' ')
			continue
		}
		b.WriteRune(bars[(n*int64(len(bars)-1)+top/2)/top])
	}
	return b.String()
}

func (a *app) impactCommand() *cobra.Command {
	var atLeast string
	cmd := &cobra.Command{
		Use: "impact OLD NEW", GroupID: "use", Short: "Say whom the changes from one version to another touch", Args: cobra.ExactArgs(2),
		Long: `Compares two versions of the ledger, and tells of each change who called what it changes in the last 90 days: consumers of the line of OLD, up to
that version. Names are for those who see inside the API; others are told how many there are. Where no log tells, it says so.`,
		Example: "  oldledger impact berths@1 berths@2\n  oldledger impact berths@1.2.0 berths@2.0.0 --at-least breaking --format json",
	}
	format := formatFlag(cmd)
	cmd.Flags().StringVar(&atLeast, "at-least", "hazard", "tell changes of this grade and worse: editorial, safe, hazard or breaking")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		var floor compare.Grade
		if err := floor.UnmarshalText([]byte(atLeast)); err != nil {
			return usageError{fmt.Errorf("--at-least: %w", err)}
		}
		ask := func(c *client.Client) (wire.Impact, error) { return c.Impact(cmd.Context(), args[0], args[1]) }
		return answer(a, *format, ask, func(i wire.Impact) error { return a.showImpact(i, floor) })
	}
	return cmd
}

func (a *app) showImpact(i wire.Impact, floor compare.Grade) error {
	s := a.style()
	var b strings.Builder
	fmt.Fprintf(&b, "%s → %s: %s\n", s.bold(i.Old), s.bold(i.New), impactWords(i))
	fmt.Fprintf(&b, "%s\n", coverage(i.Evidence.Covered, i.Evidence.Days, i.Evidence.Missing))
	told := 0
	for _, ch := range i.Changes {
		grade := ch.Backward
		for range ch.Breaks {
			grade = compare.Breaking // for them
		}
		if grade < floor {
			continue
		}
		told++
		title := ch.Title
		if grade > ch.Backward {
			title += s.soft("  breaks " + few(ch.Breaks) + ", a " + ch.Backward.String() + " for others")
		}
		fmt.Fprintf(&b, "\n%s %s\n    %s\n", s.grade(grade, grade.Mark()), title, touched(ch, i.Team))
	}
	if told == 0 {
		fmt.Fprintf(&b, "no change is %s or worse for clients of %s\n", floor, i.Old)
	}
	if len(i.Users) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Who calls "+i.Old+", or what is before it in its line"))
		a.userLines(&b, i.Users)
	}
	return printf(a, "%s", b.String())
}

func impactWords(i wire.Impact) string {
	if i.Evidence.Covered == 0 {
		var relies []string
		for _, ch := range i.Changes {
			relies = append(relies, ch.Relies...)
		}
		if len(relies) == 0 {
			return "nobody knows whom it touches"
		}
		relies = slices.Compact(slices.Sorted(slices.Values(relies)))
		return "no log tells who calls it; of consumers, " + few(relies) + map[bool]string{true: " relies", false: " rely"}[len(relies) == 1] + " on what changes"
	}
	n := len(i.Users) + i.Hidden
	text := counted(n, "caller") + " in " + strconv.Itoa(i.Evidence.Days) + " days"
	if i.Hidden > 0 {
		text += fmt.Sprintf("; who they are, %s knows", cmp.Or(i.Team, "an admin"))
	}
	return text
}

// touched says whom a change touches.
func touched(ch wire.TouchingChange, team string) string {
	if ch.Says != "" {
		return ch.Says
	}
	var who []string
	if len(ch.Users) > 0 {
		who = append(who, strings.Join(ch.Users, ", "))
	}
	if ch.Hidden > 0 {
		who = append(who, counted(ch.Hidden, "consumer")+" of whom "+cmp.Or(team, "an admin")+" knows")
	}
	if ch.Unknown > 0 {
		who = append(who, counted(ch.Unknown, "unknown caller"))
	}
	text := "touches " + strings.Join(who, " and ")
	if ch.Calls > 0 {
		text += fmt.Sprintf(": %s, last %s", counted(int(ch.Calls), "call"), ch.LastDay)
	}
	if len(ch.Relies) > 0 {
		text += "; " + few(ch.Relies) + map[bool]string{true: " relies", false: " rely"}[len(ch.Relies) == 1] + " on it"
	}
	if len(ch.Spared) > 0 {
		text += "; " + few(ch.Spared) + map[bool]string{true: " calls it and relies", false: " call it and rely"}[len(ch.Spared) == 1] + " on nothing of it"
	}
	return text
}

// userLines tells who calls.
func (a *app) userLines(b *strings.Builder, users []wire.User) {
	s := a.style()
	for _, u := range users {
		name := cmp.Or(u.Consumer, cmp.Or(u.Caller, "nobody known")+" ?")
		fmt.Fprintf(b, "  %9d  %-24s %s  %s\n", u.Calls, name, spark(u.Days),
			s.soft(fmt.Sprintf("%s; %s; last %s", strings.Join(u.Versions, ", "), counted(len(u.Operations), "operation"), u.LastDay)))
		if len(u.Contacts) > 0 {
			fmt.Fprintf(b, "             %s\n", s.soft(strings.Join(u.Contacts, ", ")))
		}
	}
}

func (a *app) readyCommand() *cobra.Command {
	cmd := &cobra.Command{
		Use: "ready REF|NOTICE", GroupID: "use", Short: "Say whether a version, a line or what a notice speaks of may go", Args: cobra.ExactArgs(1),
		Long: `Answers whether a version (berths@1.2.0), a line (berths@1), an API (berths) or what a notice speaks of, by its number, may go: its sunset has passed,
nobody called it for as many days as the house style asks for (releases: quiet, 30 where it says nothing), and logs tell of those days. It
names who still calls. oldledger retire asks the same.

The exit status is 1 where it may not go.`,
		Example: "  oldledger ready berths@1\n  oldledger ready 3 --format json",
	}
	format := formatFlag(cmd)
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		may := false
		ask := func(c *client.Client) (wire.Readiness, error) {
			r, err := c.Ready(cmd.Context(), args[0])
			may = r.May
			return r, err
		}
		if err := answer(a, *format, ask, a.showReady); err != nil || may {
			return err
		}
		return errNo
	}
	return cmd
}

func (a *app) showReady(r wire.Readiness) error {
	s := a.style()
	var b strings.Builder
	word, grade := "may go", compare.Safe
	if !r.May {
		word, grade = "may not go", compare.Breaking
	}
	fmt.Fprintf(&b, "%s %s\n", s.bold(r.Subject), s.grade(grade, word))
	for _, x := range r.Reasons {
		mark := s.grade(compare.Safe, "✓")
		if !x.Fine {
			mark = s.grade(compare.Breaking, "✕")
		}
		fmt.Fprintf(&b, "  %s %s\n", mark, x.Text)
	}
	if len(r.Users) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Who is left"))
		a.userLines(&b, r.Users)
	}
	if len(r.Moved) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Who has moved"))
		a.userLines(&b, r.Moved)
	}
	if r.Ends != "" {
		by := "nobody can say when at the latest"
		if r.EndsBy != "" {
			by = "at the latest on " + r.EndsBy
		}
		fmt.Fprintf(&b, "\nat this pace the calls end on %s at the earliest, %s\n", r.Ends, by)
	}
	if r.Guide != "" && len(r.Users) > 0 {
		old, new, _ := strings.Cut(r.Guide, "..")
		fmt.Fprintf(&b, "\ntheir guide: oldledger guide %s@%s %s@%s\n", r.API, old, r.API, new)
	}
	return printf(a, "%s", b.String())
}

package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"oldledger/core/compare"
	"oldledger/core/replay"
	"oldledger/core/report"
	"oldledger/core/shape"
	"oldledger/wire"
)

// maxLineup bounds the versions of one lineup: the comparisons grow with their square.
const maxLineup = 40

func (a *app) lineupCommand() *cobra.Command {
	var format, reading, undeclared string
	var archives []string
	cmd := &cobra.Command{
		Use: "lineup API|FILE|REF…", GroupID: "look", Short: "Show of several versions which can replace which", Args: cobra.MinimumNArgs(1),
		Long: `Compares every two of several versions, in both directions. A row is a version that clients were built for, a column the
version that answers them. One API alone stands for its newest 24 versions in the ledger, and its consumers of which recordings are kept
are rows, too: how many of their exchanges each version answers. --exchanges takes them from archives (HAR 1.2). The exit status is 0 when
every later version can answer the clients of every earlier one, else 1.`,
		Example: "  oldledger lineup berths\n  oldledger lineup berths@1.1.0 berths@1.2.0 berths@2.0.0\n  oldledger lineup demo/berths/*.yaml --format markdown\n  oldledger lineup berths-1.yaml berths-2.yaml --exchanges skerry.har",
	}
	cmd.Flags().StringVar(&format, "format", "text", "text, json, markdown or html")
	cmd.Flags().StringVar(&reading, "reading", "declared", "declared or exact")
	undeclaredFlag(cmd, &undeclared)
	cmd.Flags().StringArrayVar(&archives, "exchanges", nil, "recorded exchanges (HAR 1.2) that are a row, too (may be repeated)")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		r, ok := shape.ParseReading(reading)
		if !ok {
			return usageError{fmt.Errorf("--reading is declared or exact, not %q", reading)}
		}
		u, err := parseUndeclared(undeclared)
		if err != nil {
			return err
		}
		o := compare.Options{Reading: r, Undeclared: u}
		if err := checkFormat(format, "text", "json", "markdown", "html"); err != nil {
			return err
		}
		if len(args) > maxLineup {
			return usageError{fmt.Errorf("a lineup takes up to %d versions, not %d", maxLineup, len(args))}
		}
		l, err := a.lineup(cmd.Context(), args, o)
		if err != nil {
			return err
		}
		clients, err := a.lineupClients(cmd.Context(), l, args, archives, o)
		if err != nil {
			return err
		}
		if err := a.showLineup(l, clients, format); err != nil {
			return err
		}
		for i := range l.Versions {
			for j := i + 1; j < len(l.Versions); j++ {
				if !l.Fits(i, j) {
					return errNo
				}
			}
		}
		return nil
	}
	return cmd
}

// lineup compares every two: of the versions of an API where one is named alone.
func (a *app) lineup(ctx context.Context, args []string, o compare.Options) (*compare.Lineup, error) {
	if len(args) == 1 {
		if _, err := os.Stat(a.path(args[0])); err == nil || strings.ContainsAny(args[0], "@./") || args[0] == "-" {
			return nil, usageError{errors.New("a lineup compares two versions at least; name an API of the ledger, or more of them")}
		}
		return a.lineupOf(ctx, args[0], o)
	}
	var err error
	if o.Undeclared, err = a.undeclaredOf(ctx, o.Undeclared, args); err != nil {
		return nil, err
	}
	descriptions := make([]*description, len(args))
	members := make([]compare.Member, len(args))
	for i, arg := range args {
		d, err := a.describe(ctx, arg)
		if err != nil {
			return nil, err
		}
		descriptions[i], members[i] = d, compare.MemberOf(arg, d.contract)
	}
	return compare.LineUp(members, o, func(i, j int) (*compare.Comparison, error) {
		return compare.ContractsContext(ctx, descriptions[i].contract, descriptions[j].contract, o)
	})
}

// lineupOf is the lineup of an API in the ledger, which has it at hand where nothing else is asked than usually.
func (a *app) lineupOf(ctx context.Context, api string, o compare.Options) (*compare.Lineup, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	l, err := c.Lineup(ctx, api)
	if err != nil || o == (compare.Options{}) {
		return l, refused(err)
	}
	refs := make([]string, len(l.Versions))
	for i, v := range l.Versions {
		refs[i] = api + "@" + v.Version
	}
	if len(refs) < 2 {
		return l, nil
	}
	return a.lineup(ctx, refs, o)
}

// lineupClients are the rows of recorded exchanges: those of archives, or, of an API of the ledger, those that it keeps.
func (a *app) lineupClients(
	ctx context.Context, l *compare.Lineup, args, archives []string, o compare.Options,
) ([]wire.LineupClient, error) {
	if len(args) == 1 && len(archives) == 0 {
		c, err := a.client()
		if err != nil {
			return nil, err
		}
		all, err := c.LineupClients(ctx, args[0])
		return all, refused(err)
	}
	var all []wire.LineupClient
	for _, name := range archives {
		row := wire.LineupClient{Consumer: strings.TrimSuffix(filepath.Base(name), filepath.Ext(name))}
		for _, v := range l.Versions {
			d, err := a.describe(ctx, v.Name)
			if err != nil {
				return nil, err
			}
			r := replay.New(ctx, d.contract, replay.Options{Refuses: o.Undeclared == compare.Refused})
			if err := a.archive(ctx, name, r.Take); err != nil {
				return nil, err
			}
			report := r.Report()
			row.Exchanges = report.Exchanges
			row.Cells = append(row.Cells, wire.LineupPassed{Passed: report.Passed, Findings: len(report.Findings)})
		}
		all = append(all, row)
	}
	return all, ctx.Err()
}

func (a *app) showLineup(l *compare.Lineup, clients []wire.LineupClient, format string) error {
	switch format {
	case "json":
		return a.json(struct {
			*compare.Lineup
			Clients []wire.LineupClient `json:"clients,omitempty"`
		}{l, clients})
	case "markdown":
		return printf(a, "%s", report.MarkdownLineup(l))
	case "html":
		text, err := report.HTMLLineup(l)
		if err != nil {
			return err
		}
		return printf(a, "%s", text)
	}
	return printf(a, "%s", a.lineupText(l, clients))
}

// lineupText draws the matrix: a row for those who call, a column for what answers.
func (a *app) lineupText(l *compare.Lineup, clients []wire.LineupClient) string {
	s := a.style()
	titles := map[string]bool{}
	for _, v := range l.Versions {
		titles[v.Title] = true
	}
	name := func(m compare.Member) string {
		if len(titles) > 1 {
			return m.Title + " " + m.Version
		}
		return m.Version
	}
	first, cell := len("clients of"), len("✕ breaking")
	for _, v := range l.Versions {
		first, cell = max(first, len([]rune(name(v)))), max(cell, len([]rune(name(v))))
	}
	for _, c := range clients {
		first = max(first, len([]rune(c.Consumer)))
	}
	pad := func(text string, width int) string {
		return text + strings.Repeat(" ", max(0, width-len([]rune(text))))
	}
	var b strings.Builder
	if len(titles) == 1 {
		fmt.Fprintf(&b, "%s   %s\n", s.bold(l.Versions[0].Title), s.soft("a row is who calls, a column is who answers"))
	}
	fmt.Fprintf(&b, "%s\n\n", s.soft(compare.Manner(l.Reading, l.Undeclared)))
	b.WriteString(" " + s.soft(pad("clients of", first)))
	for _, v := range l.Versions {
		b.WriteString("   " + s.bold(pad(name(v), cell)))
	}
	for i, v := range l.Versions {
		b.WriteString("\n " + s.bold(pad(name(v), first)))
		for j := range l.Versions {
			if i == j {
				b.WriteString("   " + s.soft(pad("·", cell)))
				continue
			}
			g := l.Cells[i][j].Grade
			b.WriteString("   " + s.grade(g, pad(g.Mark()+" "+g.String(), cell)))
		}
	}
	if len(clients) > 0 {
		b.WriteString("\n\n " + s.soft("of recorded exchanges, how many pass"))
	}
	for _, c := range clients {
		b.WriteString("\n " + s.bold(pad(c.Consumer, first)))
		for _, p := range c.Cells {
			grade := compare.Safe
			if p.Passed < 0 {
				b.WriteString("   " + s.soft(pad("…", cell)))
				continue
			}
			if p.Passed < c.Exchanges {
				grade = compare.Breaking
			}
			b.WriteString("   " + s.grade(grade, pad(fmt.Sprintf("%s %d of %d", grade.Mark(), p.Passed, c.Exchanges), cell)))
		}
	}
	b.WriteString("\n")
	lines := strings.Split(b.String(), "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ")
	}
	return strings.Join(lines, "\n")
}

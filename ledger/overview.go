package ledger

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"oldledger/core/compare"
	"oldledger/core/housestyle"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/ledger/records"
)

// Overview is what a lead looks at once a month, of the APIs that the actor sees inside: how well they are described, what broke and why
// it was allowed, what leaves and how long that takes, and who was busy. The time is the last 90 days where none is named.
func (l *Ledger) Overview(ctx context.Context, who Actor, from, until string) (*report.Overview, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	s, err := w.spanOf(from, until)
	if err != nil {
		return nil, err
	}
	all, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	x := &overview{view: w, span: s}
	for _, a := range all {
		if w.keeping(a.Name).inside(who) {
			x.apis = append(x.apis, a)
		}
	}
	slices.SortStableFunc(x.apis, func(a, b API) int { return cmp.Or(strings.Compare(a.Team, b.Team), strings.Compare(a.Name, b.Name)) })
	out := &report.Overview{Format: report.OverviewFormat, From: dayText(s.from), Until: dayText(s.until)}
	for _, section := range []func(context.Context) (report.Section, error){
		x.documentation, x.style, x.breaks, x.deprecations, x.lastCalls, x.through, x.lines, x.activity,
	} {
		made, err := section(ctx)
		if err != nil {
			return nil, err
		}
		out.Sections = append(out.Sections, made)
	}
	return out, nil
}

// overview is one in the making.
type overview struct {
	view
	span span
	apis []API // of which it tells, by team and name
}

// sums are numbers by team.
type sums map[string][]int

func (s sums) add(team string, numbers ...int) {
	if s[team] == nil {
		s[team] = make([]int, len(numbers))
	}
	for i, n := range numbers {
		s[team][i] += n
	}
}

// numbers are columns of numbers behind one of names.
func numbers(first string, names ...string) []report.Column {
	columns := []report.Column{{Name: first}}
	for _, n := range names {
		columns = append(columns, report.Column{Name: n, Number: true})
	}
	return columns
}

func columns(names ...string) []report.Column {
	all := make([]report.Column, len(names))
	for i, n := range names {
		all[i] = report.Column{Name: strings.TrimPrefix(n, "#"), Number: strings.HasPrefix(n, "#")}
	}
	return all
}

// rows are sums as a table has them; more makes further cells of them.
func (s sums) rows(more func(n []int) []string) []report.Row {
	rows := []report.Row{}
	for _, team := range slices.Sorted(maps.Keys(s)) {
		rows = append(rows, report.Row{Cells: append([]string{teamName(team)}, more(s[team])...)})
	}
	return rows
}

func teamName(team string) string { return cmp.Or(team, "no team") }

func asTexts(ns ...int) []string {
	out := make([]string, len(ns))
	for i, n := range ns {
		out[i] = strconv.Itoa(n)
	}
	return out
}

func percent(n, of int) string {
	if of == 0 {
		return ""
	}
	return fmt.Sprintf("%d %%", 100*n/of)
}

// within reports whether a moment lies in the time of the overview.
func (x *overview) within(stamp string) bool {
	return stamp != "" && stamp[:min(10, len(stamp))] >= dayText(x.span.from) && stamp[:min(10, len(stamp))] <= dayText(x.span.until)
}

// newestOf is the newest published version of an API, as it was on a day; false where there was none.
func newestOf(a API, day string) (found Version, ok bool) {
	for _, v := range a.Versions {
		if v.State != Draft && v.PublishedAt != "" && v.PublishedAt[:10] <= day && v.number.Prerelease() == "" {
			found, ok = v, true
		}
	}
	return found, ok
}

// score judges a version by the style that is in force.
func (x *overview) score(ctx context.Context, v Version) (housestyle.Score, error) {
	found, err := x.findings(ctx, v)
	return found.Score, err
}

func (x *overview) documentation(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "documentation", Title: "Documentation",
		About:   "How many parts of the newest published versions say in words what they are: operations, parameters, answers, types, fields.",
		Summary: report.Table{Columns: numbers("team", "APIs", "parts", "described", "share")},
		Detail:  report.Table{Columns: columns("team", "API", "version", "#parts", "#described", "#share"), Rows: []report.Row{}},
	}
	by := sums{}
	for _, a := range x.apis {
		v, ok := newestOf(a, dayText(x.span.until))
		if !ok {
			continue
		}
		n, err := x.score(ctx, v)
		if err != nil {
			return s, err
		}
		by.add(a.Team, 1, n.Parts, n.Described)
		s.Detail.Rows = append(s.Detail.Rows, report.Row{
			Cells: append([]string{teamName(a.Team), a.Name, v.Number}, append(asTexts(n.Parts, n.Described), percent(n.Described, n.Parts))...),
			To:    "/apis/" + a.Name + "/style/" + v.Number,
		})
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return append(asTexts(n...), percent(n[2], n[1])) })
	return s, nil
}

func (x *overview) style(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "style", Title: "House style",
		About:   "Of how many parts nothing is found that may not stand, in the versions that were the newest on the first and on the last day, by today's style.",
		Summary: report.Table{Columns: numbers("team", "APIs", "on the first day", "on the last day")},
		Detail:  report.Table{Columns: columns("team", "API", "version", "published", "#parts", "#clean", "#share"), Rows: []report.Row{}},
	}
	by := sums{}
	for _, a := range x.apis {
		first, was := newestOf(a, dayText(x.span.from-1))
		last, is := newestOf(a, dayText(x.span.until))
		for _, v := range a.Versions {
			if !(x.within(v.PublishedAt) && v.State != Draft || was && v.Number == first.Number || is && v.Number == last.Number) {
				continue
			}
			n, err := x.score(ctx, v)
			if err != nil {
				return s, err
			}
			if was && v.Number == first.Number {
				by.add(a.Team, 0, n.Parts, n.Clean, 0, 0)
			}
			if is && v.Number == last.Number {
				by.add(a.Team, 1, 0, 0, n.Parts, n.Clean)
			}
			s.Detail.Rows = append(s.Detail.Rows, report.Row{
				Cells: append([]string{teamName(a.Team), a.Name, v.Number, dateOf(v.PublishedAt)},
					append(asTexts(n.Parts, n.Clean), percent(n.Clean, n.Parts))...),
				To: "/apis/" + a.Name + "/style/" + v.Number,
			})
		}
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return append(asTexts(n[0]), percent(n[2], n[1]), percent(n[4], n[3])) })
	return s, nil
}

func dateOf(stamp string) string { return stamp[:min(10, len(stamp))] }

func (x *overview) breaks(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "breaks", Title: "Breaking changes and waivers",
		About:   "Of the versions that were published: what breaks clients of the one before, and whether it began a new line or was let through, and why.",
		Summary: report.Table{Columns: numbers("team", "versions", "breaking changes", "on a new line", "waived", "on lines that promise nothing")},
		Detail:  report.Table{Columns: columns("team", "API", "version", "what breaks", "how", "by", "when"), Rows: []report.Row{}},
	}
	by := sums{}
	for _, a := range x.apis {
		waivers, err := x.waivers(ctx, a.Name)
		if err != nil {
			return s, err
		}
		for _, v := range a.Versions {
			if v.State == Draft || !x.within(v.PublishedAt) {
				continue
			}
			by.add(a.Team, 1, 0, 0, 0, 0)
			base := predecessor(a, v)
			if base == nil {
				continue
			}
			c, err := x.compared(ctx, *base, v, compare.Options{})
			if err != nil {
				return s, err
			}
			for _, ch := range c.Changes {
				if ch.Backward != compare.Breaking {
					continue
				}
				how, who, kind := "no promise", "", 4
				i := slices.IndexFunc(waivers, func(wv Waiver) bool { return wv.Version == v.Number && ch.HasID(wv.Change) })
				switch {
				case base.Line != v.Line:
					how, kind = "a new line", 2
				case i >= 0:
					how, who, kind = "waived: "+waivers[i].Reason, waivers[i].MadeBy, 3
				}
				n := []int{0, 1, 0, 0, 0}
				n[kind] = 1
				by.add(a.Team, n...)
				s.Detail.Rows = append(s.Detail.Rows, report.Row{
					Cells: []string{teamName(a.Team), a.Name, v.Number, ch.Title, how, who, dateOf(v.PublishedAt)},
					To:    "/apis/" + a.Name + "/compare/" + base.Number + ".." + v.Number + "?change=" + ch.ID,
				})
			}
		}
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return asTexts(n...) })
	return s, nil
}

// standing are the notices of what was not retired, by API.
func (x *overview) standing(do func(a API, n promise.Notice, gone bool) error) error {
	for _, a := range x.apis {
		for _, n := range a.Notices {
			covered := slices.DeleteFunc(slices.Clone(a.Versions), func(v Version) bool { return v.State == Draft || !n.Covers(v.Number, v.Line) })
			gone := !slices.ContainsFunc(covered, func(v Version) bool { return v.State != Retired })
			if err := do(a, n, gone); err != nil {
				return err
			}
		}
	}
	return nil
}

func (x *overview) deprecations(context.Context) (report.Section, error) {
	s := report.Section{
		ID: "deprecations", Title: "Deprecations",
		About:   "What was announced to leave and is not gone: since when, until when, and what is overdue.",
		Summary: report.Table{Columns: numbers("team", "announced", "oldest, days", "without a day", "overdue"), Rows: []report.Row{}},
		Detail:  report.Table{Columns: columns("team", "API", "no.", "what leaves", "since", "#days", "sunset", "state"), Rows: []report.Row{}},
	}
	today := dayText(x.span.until)
	by, oldest := sums{}, map[string]int{}
	err := x.standing(func(a API, n promise.Notice, gone bool) error {
		if gone || n.Since > today {
			return nil
		}
		age := daysFrom(n.Since, today)
		state := "announced"
		counts := []int{1, 0, 0}
		switch {
		case n.Sunset == "":
			state, counts[1] = "no day is named", 1
		case n.Sunset < today:
			state, counts[2] = "overdue", 1
		}
		by.add(a.Team, counts...)
		oldest[a.Team] = max(oldest[a.Team], age)
		s.Detail.Rows = append(s.Detail.Rows, report.Row{
			Cells: []string{teamName(a.Team), a.Name, strconv.FormatInt(n.ID, 10), n.Subject(), n.Since, strconv.Itoa(age), n.Sunset, state},
			To:    fmt.Sprintf("/apis/%s/leaving/notice-%d", a.Name, n.ID),
		})
		return nil
	})
	for _, team := range slices.Sorted(maps.Keys(by)) {
		n := by[team]
		s.Summary.Rows = append(s.Summary.Rows, report.Row{Cells: append([]string{teamName(team)}, asTexts(n[0], oldest[team], n[1], n[2])...)})
	}
	return s, err
}

// daysFrom is how many days lie between two.
func daysFrom(from, until string) int {
	a, err := time.Parse(time.DateOnly, from)
	b, wrong := time.Parse(time.DateOnly, until)
	if err != nil || wrong != nil || b.Before(a) {
		return 0
	}
	return int(b.Sub(a).Hours() / 24)
}

func (x *overview) lastCalls(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "last-call", Title: "From notice to last call",
		About:   "Of versions, lines and APIs that were announced to leave: how long after the notice they were called for the last time, as far as logs tell. What was called within the quiet time before the last day still is.",
		Summary: report.Table{Columns: numbers("team", "announced", "quiet", "days to the last call, median"), Rows: []report.Row{}},
		Detail:  report.Table{Columns: columns("team", "API", "no.", "what leaves", "announced", "last call", "#days", "state"), Rows: []report.Row{}},
	}
	by, quiet := sums{}, map[string][]int{}
	err := x.standing(func(a API, n promise.Notice, _ bool) error {
		if !n.Whole() || n.MadeAt == "" {
			return nil
		}
		announced := dateOf(n.MadeAt)
		from, err := dayOf(announced)
		if err != nil {
			return err
		}
		cells, err := x.cells(ctx, a.Name, span{from, x.span.until})
		if err != nil {
			return err
		}
		last := int64(-1)
		for _, c := range cells {
			if covers(a, n, c.version) {
				last = max(last, c.last)
			}
		}
		row := []string{teamName(a.Team), a.Name, strconv.FormatInt(n.ID, 10), n.Subject(), announced, "", "", "no log tells of a call since"}
		switch {
		case last < 0:
			by.add(a.Team, 1, 0)
		case last > x.span.until-int64(cmp.Or(a.Terms.Quiet, usualQuiet)):
			by.add(a.Team, 1, 0)
			row[5], row[7] = dayText(last), "still called"
		default:
			by.add(a.Team, 1, 1)
			quiet[a.Team] = append(quiet[a.Team], int(last-from))
			row[5], row[6], row[7] = dayText(last), strconv.FormatInt(last-from, 10), "quiet"
		}
		s.Detail.Rows = append(s.Detail.Rows, report.Row{Cells: row, To: fmt.Sprintf("/apis/%s/leaving/notice-%d", a.Name, n.ID)})
		return nil
	})
	for _, team := range slices.Sorted(maps.Keys(by)) {
		half := ""
		if days := quiet[team]; len(days) > 0 {
			slices.Sort(days)
			half = strconv.Itoa(days[len(days)/2])
		}
		s.Summary.Rows = append(s.Summary.Rows, report.Row{Cells: append(append([]string{teamName(team)}, asTexts(by[team]...)...), half)})
	}
	return s, err
}

// covers reports whether a notice speaks of a version.
func covers(a API, n promise.Notice, number string) bool {
	return slices.ContainsFunc(a.Versions, func(v Version) bool { return v.Number == number && n.Covers(v.Number, v.Line) })
}

func (x *overview) through(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "through", Title: "Let through",
		About:   "Findings of the house style that exceptions let stand in the newest published versions, and errors and credentials that were allowed, each with its reason.",
		Summary: report.Table{Columns: numbers("team", "findings let stand", "errors and credentials allowed")},
		Detail:  report.Table{Columns: columns("team", "API", "version", "what", "where", "why", "by", "when"), Rows: []report.Row{}},
	}
	by := sums{}
	for _, a := range x.apis {
		if v, ok := newestOf(a, dayText(x.span.until)); ok {
			found, err := x.findings(ctx, v)
			if err != nil {
				return s, err
			}
			for _, f := range found.Findings {
				if f.Let == "" {
					continue
				}
				by.add(a.Team, 1, 0)
				s.Detail.Rows = append(s.Detail.Rows, report.Row{
					Cells: []string{teamName(a.Team), a.Name, v.Number, f.Rule, f.Place.String(), f.Let, "", ""},
					To:    "/apis/" + a.Name + "/style/" + v.Number,
				})
			}
		}
		rows, err := x.rows.Allowances(ctx, a.Name)
		if err != nil {
			return s, err
		}
		for _, r := range rows {
			if !x.within(r.MadeAt) {
				continue
			}
			by.add(a.Team, 0, 1)
			s.Detail.Rows = append(s.Detail.Rows, report.Row{
				Cells: []string{teamName(a.Team), a.Name, r.Version, r.What, "", r.Reason, r.MadeBy, dateOf(r.MadeAt)}, To: "/apis/" + a.Name,
			})
		}
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return asTexts(n...) })
	return s, nil
}

func (x *overview) lines(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "lines", Title: "Live lines",
		About:   "Lines with a version that is published and not retired, and how much each was called.",
		Summary: report.Table{Columns: numbers("team", "APIs", "live lines", "APIs with more than one")},
		Detail:  report.Table{Columns: columns("team", "API", "line", "newest", "state", "#versions", "#calls"), Rows: []report.Row{}},
	}
	by := sums{}
	for _, a := range x.apis {
		cells, err := x.cells(ctx, a.Name, x.span)
		if err != nil {
			return s, err
		}
		newest, live, calls := map[string]Version{}, map[string]int{}, map[string]int{}
		for _, v := range a.Versions {
			if v.Shown() && v.State != Retired {
				newest[v.Line] = v
				live[v.Line]++
			}
		}
		for _, c := range cells {
			for _, v := range a.Versions {
				if v.Number == c.version {
					calls[v.Line] += int(c.calls)
				}
			}
		}
		several := 0
		if len(newest) > 1 {
			several = 1
		}
		if len(newest) > 0 {
			by.add(a.Team, 1, len(newest), several)
		}
		for _, line := range slices.SortedFunc(maps.Keys(newest), func(p, q string) int { return newest[p].number.Compare(newest[q].number) }) {
			v := newest[line]
			s.Detail.Rows = append(s.Detail.Rows, report.Row{
				Cells: append([]string{teamName(a.Team), a.Name, line, v.Number, string(v.State)}, asTexts(live[line], calls[line])...), To: "/apis/" + a.Name,
			})
		}
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return asTexts(n...) })
	return s, nil
}

// acts are what is counted of the journal, by the beginnings of the acts' names.
var acts = []struct{ name, prefix string }{
	{"recorded", "version.recorded"},
	{"published", "version.published"},
	{"announced", "notice."},
	{"waived", "change.waived"},
	{"guides written", "guide."},
	{"access decided", "access."},
	{"other", ""},
}

func (x *overview) activity(ctx context.Context) (report.Section, error) {
	s := report.Section{
		ID: "activity", Title: "What the teams did",
		About:  "Acts in the journal that concern their APIs.",
		Detail: report.Table{Columns: columns("team", "API"), Rows: []report.Row{}},
	}
	names := make([]string, len(acts))
	for i, a := range acts {
		names[i] = a.name
	}
	s.Summary.Columns = numbers("team", names...)
	s.Detail.Columns = append(s.Detail.Columns, numbers("", names...)[1:]...)
	did := sums{}
	asked := records.Question{Only: []string{}}
	told := map[string]bool{}
	for _, a := range x.apis {
		asked.Only = append(asked.Only, a.Name)
		told[a.Name] = true
	}
	var err error
	if asked.From, err = moment(dayText(x.span.from), 0); err != nil {
		return s, err
	}
	if asked.Before, err = moment(dayText(x.span.until), 1); err != nil {
		return s, err
	}
	const page = 1000
	for after := int64(0); ; {
		rows, err := x.rows.FindActs(ctx, asked, after, false, page)
		if err != nil {
			return s, err
		}
		for _, e := range rows {
			after = e.Seq
			if name := apiOf(e.Subject); told[name] {
				counts := make([]int, len(acts))
				counts[slices.IndexFunc(acts, func(a struct{ name, prefix string }) bool { return strings.HasPrefix(e.Act, a.prefix) })] = 1
				did.add(name, counts...)
			}
		}
		if len(rows) < page {
			break
		}
	}
	by := sums{}
	for _, a := range x.apis {
		if n := did[a.Name]; n != nil {
			by.add(a.Team, n...)
			s.Detail.Rows = append(s.Detail.Rows, report.Row{Cells: append([]string{teamName(a.Team), a.Name}, asTexts(n...)...), To: "/journal?api=" + a.Name})
		}
	}
	s.Summary.Rows = by.rows(func(n []int) []string { return asTexts(n...) })
	return s, nil
}

package ledger

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"oldledger/core/usage"
	"oldledger/ledger/records"
)

// UseQuestion asks how often an API is called.
type UseQuestion struct {
	API       string
	From      string // a day; "" for 90 days before the last
	Until     string // the last day; "" for today
	By        UseBy  // "" for versions
	Version   string // only its calls; "" for all
	Consumer  string // likewise
	Operation string // likewise
}

// UseBy is by what calls are told apart.
type UseBy string

// The ways.
const (
	ByVersion   UseBy = "version"
	ByLine      UseBy = "line"
	ByConsumer  UseBy = "consumer"
	ByOperation UseBy = "operation"
	ByClass     UseBy = "class"
)

var useBys = []UseBy{ByVersion, ByLine, ByConsumer, ByOperation, ByClass}

// How long a time may be asked for, in days.
const (
	usualUseDays = 90
	maxUseDays   = 3 * 366
)

// Use is how often an API was called, day by day.
type Use struct {
	API     string
	From    string
	Until   string
	By      UseBy
	Calls   int64
	Failed  int64       // with answers of 4xx and 5xx
	Unknown int64       // calls of nobody known
	Days    int         // of the time that was asked for
	Covered int         // of them, those of which a log tells
	Missing []DaySpan   // those of which none does
	Series  []UseSeries // versions and lines in their order, else the most called first
}

// DaySpan is some days, one after another.
type DaySpan struct{ From, Until string }

// UseSeries is one of those that are told apart.
type UseSeries struct {
	Name     string // of a version, line, consumer, operation or class ("2xx"); of nobody known what they call themselves
	Title    string // of a consumer
	Known    bool   // whether it is a consumer that is known; so of all that are none
	Calls    int64
	Failed   int64
	FirstDay string
	LastDay  string
	Days     []int64 // a number for each day
}

// useCell is how often somebody called an operation, with answers of one class.
type useCell struct {
	version, operation string
	consumer           string // "" for nobody known
	caller             usage.Caller
	class              int
	days               []int64
	calls              int64
	first, last        int64 // days since 1970 on which there were any
}

// span is a time, in days since 1970.
type span struct{ from, until int64 }

func (s span) days() int { return int(s.until - s.from + 1) }

// spanOf is the time that somebody asks for.
func (w view) spanOf(from, until string) (s span, err error) {
	s.until = w.day()
	if until != "" {
		if s.until, err = dayOf(until); err != nil {
			return s, err
		}
	}
	s.from = s.until - usualUseDays + 1
	if from != "" {
		if s.from, err = dayOf(from); err != nil {
			return s, err
		}
	}
	if s.from > s.until || s.days() > maxUseDays {
		return s, refuse(Invalid, "a time lasts 1 to %d days; from %s until %s is none", maxUseDays, dayText(s.from), dayText(s.until))
	}
	return s, nil
}

// cells are the calls of an API in a time.
func (w view) cells(ctx context.Context, api string, s span) ([]useCell, error) {
	from, _ := monthOf(s.from)
	until, _ := monthOf(s.until)
	rows, err := w.rows.Calls(ctx, api, records.Months{From: from, Until: until})
	if err != nil {
		return nil, err
	}
	targets, err := w.rows.Targets(ctx, api)
	if err != nil {
		return nil, err
	}
	callers, err := w.rows.Callers(ctx, api)
	if err != nil {
		return nil, err
	}
	uses, err := w.rows.Uses(ctx, api, "")
	if err != nil {
		return nil, err
	}
	target, caller, known := map[int64]records.Target{}, map[int64]usage.Caller{}, map[int64]string{}
	for _, t := range targets {
		target[t.ID] = t
	}
	for _, c := range callers {
		caller[c.ID] = usage.Caller{Credential: c.Credential, Header: c.Header, Agent: c.Agent}
	}
	for _, u := range uses {
		known[u.Caller] = u.Consumer
	}
	at := map[cell]int{}
	var all []useCell
	for _, row := range rows {
		key := cell{target: row.Target, caller: row.Caller, class: row.Class}
		i, there := at[key]
		if !there {
			i = len(all)
			at[key] = i
			t := target[row.Target]
			all = append(all, useCell{
				version: t.Version, operation: t.Operation, consumer: known[row.Caller], caller: caller[row.Caller], class: row.Class,
				days: make([]int64, s.days()),
			})
		}
		if err := all[i].add(row, s); err != nil {
			return nil, err
		}
	}
	return slices.DeleteFunc(all, func(c useCell) bool { return c.calls == 0 }), nil
}

// add adds the days of a row that lie in the time.
func (c *useCell) add(row records.Calls, s span) error {
	var d days
	if err := d.add(row.Days); err != nil {
		return err
	}
	first := firstOf(row.Month)
	for i, n := range d {
		day := first + int64(i)
		if n == 0 || day < s.from || day > s.until {
			continue
		}
		if c.calls == 0 {
			c.first = day
		}
		c.days[day-s.from] += n
		c.calls += n
		c.first, c.last = min(c.first, day), max(c.last, day)
	}
	return nil
}

func (c *useCell) failed() int64 {
	if c.class >= 4 {
		return c.calls
	}
	return 0
}

// who names who calls: the consumer, or what it calls itself.
func (c *useCell) who() string { return cmp.Or(c.consumer, c.caller.Name()) }

// seesCalls refuses whoever sees neither inside an API, nor keeps the consumer whose calls alone are asked for.
func (w view) seesCalls(ctx context.Context, asked UseQuestion) error {
	refused := w.may(w.who, SeeCalls, asked.API)
	if refused == nil || asked.Consumer == "" || mayIn(w.who, SeeConsumers, "", "") != nil {
		return refused
	}
	row, err := w.rows.Consumer(ctx, asked.Consumer)
	if err == nil && w.keeps(row) {
		return nil
	}
	if err != nil && !isNotFound(err) {
		return err
	}
	return refused
}

// Use tells how often an API of the actor's team is called, or how often a consumer of theirs calls it.
func (l *Ledger) Use(ctx context.Context, who Actor, asked UseQuestion) (Use, error) {
	w := l.view(who)
	if err := w.seesCalls(ctx, asked); err != nil {
		return Use{}, err
	}
	asked.By = cmp.Or(asked.By, ByVersion)
	if !slices.Contains(useBys, asked.By) {
		return Use{}, refuse(Invalid, "calls are told apart by version, line, consumer, operation or class, not by %q", asked.By)
	}
	a, err := w.api(ctx, asked.API)
	if err != nil {
		return Use{}, err
	}
	s, err := w.spanOf(asked.From, asked.Until)
	if err != nil {
		return Use{}, err
	}
	cells, err := w.cells(ctx, asked.API, s)
	if err != nil {
		return Use{}, err
	}
	use := Use{API: asked.API, From: dayText(s.from), Until: dayText(s.until), By: asked.By, Days: s.days(), Series: []UseSeries{}}
	if use.Covered, use.Missing, err = w.covered(ctx, asked.API, s); err != nil {
		return Use{}, err
	}
	titles, err := w.titles(ctx)
	if err != nil {
		return Use{}, err
	}
	at := map[string]int{}
	for i := range cells {
		c := &cells[i]
		if asked.Version != "" && c.version != asked.Version || asked.Consumer != "" && c.consumer != asked.Consumer ||
			asked.Operation != "" && c.operation != asked.Operation {
			continue
		}
		use.Calls += c.calls
		use.Failed += c.failed()
		if c.consumer == "" {
			use.Unknown += c.calls
		}
		name, known := seriesOf(a, c, asked.By)
		key := name
		if !known {
			key = "\x00" + name // who calls itself as a consumer is called is not that one
		}
		n, there := at[key]
		if !there {
			n = len(use.Series)
			at[key] = n
			use.Series = append(use.Series, UseSeries{Name: name, Known: known, Title: titles[c.consumer], Days: make([]int64, s.days())})
			if asked.By != ByConsumer {
				use.Series[n].Title = ""
			}
		}
		use.Series[n].take(c)
	}
	slices.SortStableFunc(use.Series, func(x, y UseSeries) int { return compareSeries(x, y, asked.By) })
	return use, nil
}

// take adds what a cell counts.
func (s *UseSeries) take(c *useCell) {
	if first := dayText(c.first); s.FirstDay == "" || first < s.FirstDay {
		s.FirstDay = first
	}
	s.LastDay = max(s.LastDay, dayText(c.last))
	s.Calls += c.calls
	s.Failed += c.failed()
	for i, n := range c.days {
		s.Days[i] += n
	}
}

// seriesOf names what a cell is part of, and reports whether that is known.
func seriesOf(a API, c *useCell, by UseBy) (name string, known bool) {
	switch by {
	case ByLine:
		for _, v := range a.Versions {
			if v.Number == c.version {
				return v.Line, true
			}
		}
		return c.version, true
	case ByConsumer:
		return c.who(), c.consumer != ""
	case ByOperation:
		return c.operation, true
	case ByClass:
		if c.class == 0 {
			return "not told", true
		}
		return string(rune('0'+c.class)) + "xx", true
	}
	return c.version, true
}

func compareSeries(x, y UseSeries, by UseBy) int {
	switch by {
	case ByVersion:
		return number(x.Name).Compare(number(y.Name))
	case ByLine:
		return cmp.Or(len(x.Name)-len(y.Name), strings.Compare(x.Name, y.Name))
	case ByClass:
		return strings.Compare(x.Name, y.Name)
	}
	return cmp.Or(cmp.Compare(y.Calls, x.Calls), strings.Compare(x.Name, y.Name))
}

// titles are the titles of consumers, by name.
func (w view) titles(ctx context.Context) (map[string]string, error) {
	rows, err := w.rows.Consumers(ctx)
	titles := map[string]string{}
	for _, row := range rows {
		titles[row.Name] = row.Title
	}
	return titles, err
}

// covered tells of how many days of a time logs tell, and of which none does.
func (w view) covered(ctx context.Context, api string, s span) (n int, missing []DaySpan, err error) {
	from, _ := monthOf(s.from)
	until, _ := monthOf(s.until)
	rows, err := w.rows.Covered(ctx, api, records.Months{From: from, Until: until})
	if err != nil {
		return 0, nil, err
	}
	told := map[int]int64{}
	for _, row := range rows {
		told[row.Month] = row.Days
	}
	missing = []DaySpan{}
	begun := int64(-1)
	for day := s.from; day <= s.until+1; day++ {
		month, within := monthOf(day)
		there := day <= s.until && told[month]&(1<<within) != 0
		if there {
			n++
		}
		if !there && day <= s.until && begun < 0 {
			begun = day
		} else if begun >= 0 && (there || day > s.until) {
			missing = append(missing, DaySpan{dayText(begun), dayText(day - 1)})
			begun = -1
		}
	}
	return n, missing, nil
}

// User is who calls some of an API: a consumer, or somebody of whom nobody knows which.
type User struct {
	Consumer   string // "" for nobody known
	Title      string
	Team       string // whose it is, or the person
	Contacts   []string
	Caller     string // by what nobody known is recognised: what it calls itself
	Versions   []string
	Operations []string
	Calls      int64
	Failed     int64
	FirstDay   string
	LastDay    string
	Days       []int64
}

// usersOf gathers cells by who calls; the most calls first.
func (w view) usersOf(ctx context.Context, cells []useCell, s span) ([]User, error) {
	rows, err := w.rows.Consumers(ctx)
	if err != nil {
		return nil, err
	}
	of := map[string]records.Consumer{}
	for _, row := range rows {
		of[row.Name] = row
	}
	at := map[[2]string]int{}
	users := []User{}
	for i := range cells {
		c := &cells[i]
		key := [2]string{c.consumer, ""}
		if c.consumer == "" {
			key[1] = c.caller.Name()
		}
		n, there := at[key]
		if !there {
			n = len(users)
			at[key] = n
			row := of[c.consumer]
			u := User{
				Consumer: c.consumer, Title: row.Title, Team: cmp.Or(row.Team, row.Person), Caller: key[1], Days: make([]int64, s.days()),
				Contacts: []string{},
			}
			if row.Name != "" {
				known, err := w.consumer(row, nil, nil)
				if err != nil {
					return nil, err
				}
				u.Contacts = known.Contacts
			}
			users = append(users, u)
		}
		users[n].take(c)
	}
	for i := range users {
		slices.SortFunc(users[i].Versions, func(x, y string) int { return number(x).Compare(number(y)) })
		slices.Sort(users[i].Operations)
	}
	slices.SortStableFunc(users, func(x, y User) int {
		return cmp.Or(cmp.Compare(y.Calls, x.Calls), strings.Compare(x.Consumer, y.Consumer))
	})
	return users, nil
}

func (u *User) take(c *useCell) {
	if !slices.Contains(u.Versions, c.version) {
		u.Versions = append(u.Versions, c.version)
	}
	if !slices.Contains(u.Operations, c.operation) {
		u.Operations = append(u.Operations, c.operation)
	}
	if first := dayText(c.first); u.FirstDay == "" || first < u.FirstDay {
		u.FirstDay = first
	}
	u.LastDay = max(u.LastDay, dayText(c.last))
	u.Calls += c.calls
	u.Failed += c.failed()
	for i, n := range c.days {
		u.Days[i] += n
	}
}

// Unmatched are calls of no operation that is described: of paths of APIs of the actor's teams, and for whoever has a role in all teams of
// nobody's paths, too; the most frequent first.
func (l *Ledger) Unmatched(ctx context.Context, who Actor) ([]UnmatchedCalls, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	rows, err := w.rows.Unmatched(ctx)
	if err != nil {
		return nil, err
	}
	all := []UnmatchedCalls{}
	for _, u := range rows {
		if who.everywhere() || u.API != "" && w.keeping(u.API).inside(who) {
			of := usage.Unmatched{Why: usage.Reason(u.Reason), API: u.API, Method: u.Method, Path: u.Path, Calls: u.Calls}
			all = append(all, UnmatchedCalls{of, dayText(u.LastDay)})
		}
	}
	return all, nil
}

// UnmatchedCalls are calls of no operation that is described.
type UnmatchedCalls struct {
	usage.Unmatched
	LastDay string // of the log in which they stood
}

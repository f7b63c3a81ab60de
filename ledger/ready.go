package ledger

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"oldledger/core/promise"
	"oldledger/core/reliance"
	"oldledger/core/usage"
)

// usualQuiet is how many days nobody calls what goes, where no house style says it.
const usualQuiet = 30

// Readiness is whether something may go.
type Readiness struct {
	Subject  string   // "line 1 of berths"
	Title    string   // the same with the API's title: "Line 1 of Berth Booking"
	API      string   //
	Team     string   // that keeps it
	Versions []string // that would go, or of which a part would
	Notice   int64    // that says that it leaves; 0 for none
	Sunset   string   // "" for none
	Guide    string   // that those who are left follow: "1.2.0..2.0.0"; "" for none
	Quiet    int      // how many days nobody calls what goes
	May      bool     //
	Reasons  []Reason //
	Evidence Evidence // of those days
	Users    []User   // who called in them
	Reliant  []string // consumers that say or show that they rely on it
	Moved    []User   // who called it in the last 90 days, and not in those
	From     string   // the first day of the curve
	Curve    []int64  // the calls of each of the last 90 days, up to the last one of which logs tell
	Ends     string   // when the calls end at this pace, at the earliest; "" where they do not become fewer
	EndsBy   string   // and at the latest; "" where nobody can say
}

// Reason is one of the questions on which it depends.
type Reason struct {
	Fine bool
	Text string
}

// leaving is what may go.
type leaving struct {
	of       string // "berths@1.2.0", "berths@1", "berths", or the number of a notice
	api      API
	versions []Version
	notice   promise.Notice // ID 0 for none
	whole    bool           // whether versions go, and not a part of them
}

// MayGo tells whether something may go: a version (berths@1.2.0), a line (berths@1), an API (berths), or what a notice speaks of, by its
// number.
func (l *Ledger) MayGo(ctx context.Context, who Actor, what string) (Readiness, error) {
	if err := mayAnywhere(who, SeeCalls); err != nil {
		return Readiness{}, err
	}
	w := l.view(who)
	leaves, err := w.leaving(ctx, what)
	if err != nil {
		return Readiness{}, err
	}
	if err := l.may(who, SeeCalls, leaves.api.Name); err != nil {
		return Readiness{}, err
	}
	return w.ready(ctx, leaves)
}

// leaving finds what may go.
func (w view) leaving(ctx context.Context, what string) (leaving, error) {
	leaves := leaving{of: what, whole: true}
	if id, err := strconv.ParseInt(what, 10, 64); err == nil {
		return w.noticed(ctx, id)
	}
	name, of, _ := strings.Cut(what, "@")
	a, err := w.api(ctx, name)
	if err != nil {
		return leaves, err
	}
	leaves.api = a
	switch {
	case of == "":
		leaves.versions = slices.Clone(a.Versions)
	case strings.Trim(of, "0123456789") == "":
		for _, v := range a.Versions {
			if v.Line == of {
				leaves.versions = append(leaves.versions, v)
			}
		}
	default:
		v, err := w.resolve(ctx, what)
		if err != nil {
			return leaves, err
		}
		leaves.versions = []Version{v}
	}
	leaves.versions = slices.DeleteFunc(leaves.versions, func(v Version) bool { return v.State == Draft })
	if len(leaves.versions) == 0 {
		return leaves, refuse(NotFound, "nothing of %s was ever published", what)
	}
	leaves.notice = noticeOf(a, leaves.versions)
	return leaves, nil
}

// noticed finds what a notice speaks of.
func (w view) noticed(ctx context.Context, id int64) (leaving, error) {
	apis, err := w.apis(ctx)
	if err != nil {
		return leaving{}, err
	}
	for _, a := range apis {
		for _, n := range a.Notices {
			if n.ID != id {
				continue
			}
			leaves := leaving{of: strconv.FormatInt(id, 10), api: a, notice: n, whole: n.Whole()}
			for _, v := range a.Versions {
				if v.State != Draft && n.Covers(v.Number, v.Line) {
					leaves.versions = append(leaves.versions, v)
				}
			}
			return leaves, nil
		}
	}
	return leaving{}, refuse(NotFound, "there is no notice %d", id)
}

// noticeOf is the notice that speaks of all of some versions, of several the one that ends last.
func noticeOf(a API, versions []Version) promise.Notice {
	var found promise.Notice
	for _, n := range a.Notices {
		covers := func(v Version) bool { return v.State == Retired || n.Covers(v.Number, v.Line) }
		if n.Whole() && !slices.ContainsFunc(versions, func(v Version) bool { return !covers(v) }) && (found.ID == 0 || n.Sunset > found.Sunset) {
			found = n
		}
	}
	return found
}

func (leaves leaving) subject() string {
	if leaves.notice.ID != 0 && !leaves.whole {
		return leaves.notice.Subject()
	}
	name, of, _ := strings.Cut(leaves.of, "@")
	if leaves.notice.ID != 0 && name == leaves.of && name != leaves.api.Name {
		return leaves.notice.Subject()
	}
	if len(leaves.versions) == 1 && of != leaves.versions[0].Line {
		return leaves.versions[0].Ref()
	}
	if of != "" {
		return "line " + of + " of " + leaves.api.Name
	}
	return leaves.api.Name
}

// title is what leaves as readers know it.
func (leaves leaving) title() string {
	title := cmp.Or(leaves.api.Title, leaves.api.Name)
	n := leaves.notice
	switch _, of, _ := strings.Cut(leaves.of, "@"); {
	case n.ID != 0 && n.Part() != "":
		return n.Part() + " of " + title
	case n.ID != 0 && n.Line != "":
		return "Line " + n.Line + " of " + title
	case n.ID != 0 && n.Version != "" && of == "":
		return title + " " + n.Version
	case of != "" && strings.Trim(of, "0123456789") == "":
		return "Line " + of + " of " + title
	case of != "" && len(leaves.versions) == 1:
		return title + " " + leaves.versions[0].Number
	}
	return title
}

// ready answers.
func (w view) ready(ctx context.Context, of leaving) (Readiness, error) {
	n := of.notice
	r := Readiness{
		Subject: of.subject(), Title: of.title(), API: of.api.Name, Team: of.api.Team, Notice: n.ID, Sunset: n.Sunset, Guide: n.Guide,
		Quiet: cmp.Or(of.api.Terms.Quiet, usualQuiet), Reasons: []Reason{}, Users: []User{}, Versions: []string{},
	}
	gone := true
	for _, v := range of.versions {
		r.Versions = append(r.Versions, v.Number)
		gone = gone && v.State == Retired
	}
	s := span{w.day() - int64(r.Quiet) + 1, w.day()}
	cells, err := w.cells(ctx, of.api.Name, s)
	if err != nil {
		return r, err
	}
	keys, err := w.keysLeaving(ctx, of)
	if err != nil {
		return r, err
	}
	cells = slices.DeleteFunc(cells, func(c useCell) bool { return !leaves(&r, keys, c) })
	if r.Users, err = w.usersOf(ctx, cells, s); err != nil {
		return r, err
	}
	if r.Evidence, err = w.evidence(ctx, of.api.Name, cells, s); err != nil {
		return r, err
	}
	if err := w.curve(ctx, &r, of.api.Name, keys); err != nil {
		return r, err
	}
	today := w.Today().Format(time.DateOnly)
	r.say(gone || n.Sunset != "" && n.Sunset < today, r.sunsetWords(gone, today))
	if r.Evidence.Covered > 0 {
		r.say(len(r.Users) == 0, r.callWords(of))
	}
	if r.Reliant, err = w.reliant(ctx, of, keys); err != nil {
		return r, err
	}
	r.say(len(r.Reliant) == 0, r.relianceWords())
	r.say(r.covered(), r.coverWords())
	r.May = !slices.ContainsFunc(r.Reasons, func(x Reason) bool { return !x.Fine })
	return r, nil
}

// leaves reports whether calls are of what leaves.
func leaves(r *Readiness, keys map[string]bool, c useCell) bool {
	return slices.Contains(r.Versions, c.version) && (keys == nil || keys[calledKey(c.operation)])
}

// curve tells how the calls became fewer, and when they end if they go on so.
func (w view) curve(ctx context.Context, r *Readiness, api string, keys map[string]bool) error {
	s, err := w.spanOf("", "")
	if err != nil {
		return err
	}
	cells, err := w.cells(ctx, api, s)
	if err != nil {
		return err
	}
	_, missing, err := w.covered(ctx, api, s)
	if err != nil {
		return err
	}
	if n := len(missing); n > 0 && missing[n-1].Until == dayText(s.until) {
		if s.until, err = dayOf(missing[n-1].From); err != nil {
			return err
		}
		s.until--
	}
	r.From, r.Curve = dayText(s.from), make([]int64, s.days())
	cells = slices.DeleteFunc(cells, func(c useCell) bool { return !leaves(r, keys, c) })
	for _, c := range cells {
		for i := range r.Curve {
			r.Curve[i] += c.days[i]
		}
	}
	all, err := w.usersOf(ctx, cells, span{s.from, w.day()})
	if err != nil {
		return err
	}
	r.Moved = slices.DeleteFunc(all, func(u User) bool {
		return slices.ContainsFunc(r.Users, func(left User) bool { return left.Consumer == u.Consumer && left.Caller == u.Caller })
	})
	if t, ok := usage.TrendOf(r.Curve); ok {
		r.Ends = dayText(s.until + int64(t.Early))
		if t.Late < maxTrend {
			r.EndsBy = dayText(s.until + int64(t.Late))
		}
	}
	return nil
}

// maxTrend is how far a trend is told, in days: what lies behind it nobody can say.
const maxTrend = 3 * 366

func (r *Readiness) say(fine bool, text string) { r.Reasons = append(r.Reasons, Reason{fine, text}) }

// covered reports whether logs tell of all the days but the last two: today is not over, and the logs of yesterday may be on their way.
func (r *Readiness) covered() bool { return r.Evidence.Covered >= r.Quiet-2 && r.Evidence.Covered > 0 }

func (r *Readiness) sunsetWords(gone bool, today string) string {
	switch {
	case gone:
		return "it is retired"
	case r.Notice == 0:
		return "no notice says that it leaves"
	case r.Sunset == "":
		return "its notice names no day"
	}
	if r.Sunset < today {
		return "its sunset, " + r.Sunset + ", has passed"
	}
	return "its sunset, " + r.Sunset + ", has not passed"
}

// callWords say who called.
func (r *Readiness) callWords(leaves leaving) string {
	of := "it"
	if !leaves.whole && leaves.notice.Operation == "" || leaves.notice.Parameter != "" || leaves.notice.Header != "" {
		of = "operations that have it"
	}
	if len(r.Users) == 0 {
		return fmt.Sprintf("nobody called %s in the last %d days, as far as logs tell", of, r.Quiet)
	}
	known := 0
	for _, u := range r.Users {
		if u.Consumer != "" {
			known++
		}
	}
	who := []string{}
	if known > 0 {
		who = append(who, counted(known, "consumer"))
	}
	if left := len(r.Users) - known; left > 0 {
		who = append(who, counted(left, "unknown caller"))
	}
	return fmt.Sprintf("%s called %s in the last %d days: %s", strings.Join(who, " and "), of, r.Quiet, counted(int(r.Evidence.Calls), "call"))
}

func (r *Readiness) relianceWords() string {
	if len(r.Reliant) == 0 {
		return "no consumer says that it relies on it"
	}
	if len(r.Reliant) == 1 {
		return r.Reliant[0] + " says that it relies on it"
	}
	return strings.Join(r.Reliant, ", ") + " say that they rely on it"
}

// reliant are the consumers that say or show that they rely on what leaves: that were built for one of its versions, and, where only a part
// goes, rely on an operation that has it.
func (w view) reliant(ctx context.Context, of leaving, keys map[string]bool) ([]string, error) {
	rows, err := w.rows.Reliances(ctx, of.api.Name, "")
	if err != nil {
		return nil, err
	}
	all := []string{}
	for _, row := range rows {
		built := func(v Version) bool { return v.State != Retired && builtFor(row.Version, v) }
		if !slices.ContainsFunc(of.versions, built) {
			continue
		}
		need, err := needOf(row)
		if err != nil {
			return nil, err
		}
		if keys == nil || slices.ContainsFunc(need.Operations, func(o *reliance.Operation) bool { return keys[o.Key()] }) {
			all = append(all, row.Consumer)
		}
	}
	return all, nil
}

func (r *Readiness) coverWords() string {
	e := r.Evidence
	text := fmt.Sprintf("logs tell of %d of these %d days", e.Covered, e.Days)
	if !r.covered() {
		if e.Covered == 0 {
			return "no log tells of these days: nobody knows who calls it"
		}
		text += "; nobody knows of the others"
	}
	if e.Calls > 0 && e.Unknown > 0 {
		text += fmt.Sprintf("; %.1f %% of the calls are of nobody known", 100*float64(e.Unknown)/float64(e.Calls))
	}
	return text
}

func counted(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return thousands(n) + " " + what + "s"
}

// thousands is a number as people read it: 6,054.
func thousands(n int) string {
	text := strconv.Itoa(n)
	for i := len(text) - 3; i > 0; i -= 3 {
		text = text[:i] + "," + text[i:]
	}
	return text
}

// Message reminds somebody who still calls what leaves; guide is the address of the guide that they follow, "" for none.
func (r *Readiness) Message(u User, guide string) string {
	var b strings.Builder
	fmt.Fprintf(&b, "Hello %s,\n\n", cmp.Or(u.Title, u.Consumer, "whoever calls us as "+u.Caller))
	leaves := "is to leave"
	if day, err := time.Parse(time.DateOnly, r.Sunset); err == nil {
		leaves = "leaves on " + day.Format("2 January 2006")
	}
	last := u.LastDay
	if day, err := time.Parse(time.DateOnly, u.LastDay); err == nil {
		last = day.Format("2 January 2006")
	}
	fmt.Fprintf(&b, "%s %s, and your application still calls it: %s in the last %d days, the last one on %s, of\n\n", r.Title, leaves,
		counted(int(u.Calls), "call"), r.Quiet, last)
	for _, op := range u.Operations {
		fmt.Fprintf(&b, "  %s\n", op)
	}
	if guide != "" {
		fmt.Fprintf(&b, "\nWhat there is to change, step by step:\n  %s\n", guide)
	}
	fmt.Fprintf(&b, "\nPlease tell us when you will have moved, or what is in your way.\n\n%s\n", cmp.Or(r.Team, "The team of "+r.API))
	return b.String()
}

// Words are what stands in its way, or, where nothing does, why it may go.
func (r *Readiness) Words() string {
	words := []string{}
	for _, x := range r.Reasons {
		if x.Fine == r.May {
			words = append(words, x.Text)
		}
	}
	return strings.Join(words, "; ")
}

// keysLeaving are the keys of the operations that have the part that goes; nil where all of the versions go.
func (w view) keysLeaving(ctx context.Context, leaves leaving) (map[string]bool, error) {
	if leaves.whole {
		return nil, nil
	}
	keys := map[string]bool{}
	for _, v := range leaves.versions {
		c, err := w.contract(ctx, v)
		if err != nil {
			return nil, err
		}
		reached, _ := leaves.notice.Reach(c)
		for _, key := range reached {
			keys[key] = true
		}
	}
	return keys, nil
}

package ledger

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reliance"
)

// Evidence is what logs tell of a time.
type Evidence struct {
	From    string
	Until   string
	Days    int
	Covered int       // the days of which logs tell
	Missing []DaySpan // those of which none does
	Calls   int64     // of what is asked for
	Unknown int64     // of them, calls of nobody known
}

// Impact is whom the changes from one version to another touch: those who call what they change, of the line of the old version up to it.
type Impact struct {
	Old      string
	New      string
	Evidence Evidence
	Team     string // that knows who calls the API
	Named    bool   // whether the actor may know the names of all
	Changes  []TouchingChange
	Users    []User // whose names the actor may know, the most calls first
	Hidden   int    // how many others there are
}

// TouchingChange is a change, and whom it touches.
type TouchingChange struct {
	*compare.Change
	Users   []string // consumers that the actor may know
	Unknown int      // callers of whom nobody knows which consumer they are
	Hidden  int      // consumers whose names the actor may not know
	Calls   int64
	LastDay string // "" where nobody called

	Relies []string // of the users: those who say or show that they rely on what it changes
	Breaks []string // of these: those whom it breaks, although it is a hazard for others
	Spared []string // consumers that call what it changes, and say that they rely on nothing of it; they are no users of it
	Others int      // how many such consumers there are whose names the actor may not know
}

// Touches is how many callers it touches.
func (t TouchingChange) Touches() int { return len(t.Users) + t.Unknown + t.Hidden }

// Grade is what it means for those whom it touches.
func (t TouchingChange) Grade() compare.Grade {
	if len(t.Breaks) > 0 {
		return compare.Breaking
	}
	return t.Backward
}

// Impact tells whom the changes from one version of an API to another touch, by the logs of the last 90 days.
func (l *Ledger) Impact(ctx context.Context, who Actor, old, new string, o compare.Options) (Impact, error) {
	if err := l.may(who, SeeImpact, ""); err != nil {
		return Impact{}, err
	}
	w := l.view(who)
	a, b, err := w.both(ctx, old, new)
	if err != nil {
		return Impact{}, err
	}
	c, err := w.compared(ctx, a, b, o)
	if err != nil {
		return Impact{}, err
	}
	impact := Impact{Old: a.Ref(), New: b.Ref(), Team: w.teamOf(a.API), Named: w.keeping(a.API).inside(who)}
	s, err := w.spanOf("", "")
	if err != nil {
		return Impact{}, err
	}
	cells, err := w.cellsOf(ctx, a, s)
	if err != nil {
		return Impact{}, err
	}
	if impact.Evidence, err = w.evidence(ctx, a.API, cells, s); err != nil {
		return Impact{}, err
	}
	knows, err := w.knowsCallers(ctx, a.API)
	if err != nil {
		return Impact{}, err
	}
	needs, err := w.needs(ctx, a)
	if err != nil {
		return Impact{}, err
	}
	for _, ch := range c.Changes {
		impact.Changes = append(impact.Changes, touching(ch, cells, needs, knows))
	}
	users, err := w.usersOf(ctx, cells, s)
	if err != nil {
		return Impact{}, err
	}
	impact.Users = []User{}
	for _, u := range users {
		if knows(u.Consumer) {
			impact.Users = append(impact.Users, u)
		} else {
			impact.Hidden++
		}
	}
	return impact, nil
}

// Words say to whoever may know all names how many callers it touches that something breaks or may break, as far as logs tell.
func (i *Impact) Words() string {
	users, unknown := map[string]bool{}, false
	for _, t := range i.Changes {
		if t.Backward == compare.Editorial || t.Backward == compare.Safe {
			continue
		}
		for _, name := range t.Users {
			users[name] = true
		}
		unknown = unknown || t.Unknown > 0
	}
	switch {
	case i.Evidence.Covered == 0:
		return "no log tells whom it touches"
	case len(users) == 0 && unknown:
		return "touches callers that nobody knows"
	case len(users) == 0:
		return fmt.Sprintf("touches nobody, by logs of %d of %d days", i.Evidence.Covered, i.Evidence.Days)
	case unknown:
		return "touches " + counted(len(users), "consumer") + " and callers that nobody knows"
	}
	return "touches " + counted(len(users), "consumer")
}

// knowsCallers tells of consumers whether the actor may know that they call an API. Callers that are no consumer have the name "".
func (w view) knowsCallers(ctx context.Context, api string) (func(consumer string) bool, error) {
	if w.keeping(api).inside(w.who) {
		return func(string) bool { return true }, nil
	}
	rows, err := w.rows.Consumers(ctx)
	mine := map[string]bool{}
	for _, row := range rows {
		mine[row.Name] = w.keeps(row)
	}
	return func(consumer string) bool { return mine[consumer] }, err
}

// cellsOf are the calls of a version, and of those before it in its line: whoever calls them meets what changes after it.
func (w view) cellsOf(ctx context.Context, v Version, s span) ([]useCell, error) {
	cells, err := w.cells(ctx, v.API, s)
	return slices.DeleteFunc(cells, func(c useCell) bool {
		n := number(c.version)
		return contract.LineOf(n) != v.Line || n.GreaterThan(v.number)
	}), err
}

func (w view) evidence(ctx context.Context, api string, cells []useCell, s span) (Evidence, error) {
	e := Evidence{From: dayText(s.from), Until: dayText(s.until), Days: s.days()}
	for i := range cells {
		e.Calls += cells[i].calls
		if cells[i].consumer == "" {
			e.Unknown += cells[i].calls
		}
	}
	var err error
	e.Covered, e.Missing, err = w.covered(ctx, api, s)
	return e, err
}

// calledKey is the key of an operation that was called, whose name its author wrote.
func calledKey(written string) string {
	method, path, _ := strings.Cut(written, " ")
	return method + " " + contract.WirePath(path)
}

// touching finds whom a change touches: those who call what it changes, but for consumers that say that they rely on nothing of it; and
// those who say that they rely on it.
func touching(ch *compare.Change, cells []useCell, needs map[string]*reliance.Need, knows func(string) bool) TouchingChange {
	t := TouchingChange{Change: ch, Users: []string{}, Relies: []string{}, Breaks: []string{}, Spared: []string{}}
	reached := map[string]bool{ch.Operation: true}
	for _, key := range ch.Reach {
		reached[key] = true
	}
	everywhere := ch.Operation == "" && len(ch.Reach) == 0
	seen, last := map[string]bool{}, int64(-1)
	for i := range cells {
		c := &cells[i]
		if !everywhere && !reached[calledKey(c.operation)] {
			continue
		}
		who, need := c.consumer, needs[c.consumer]
		if who == "" {
			who = "\x00" + c.caller.Name()
		}
		spared := need != nil && need.Touch(ch) == reliance.Apart
		if !spared {
			t.Calls += c.calls
			last = max(last, c.last)
		}
		if !seen[who] {
			seen[who] = true
			t.meets(c.consumer, spared, knows)
		}
	}
	for consumer, need := range needs {
		if need.Touch(ch) != reliance.Relied {
			continue
		}
		if !seen[consumer] {
			t.meets(consumer, false, knows)
		}
		if knows(consumer) {
			t.Relies = append(t.Relies, consumer)
			if breaksFor(need, ch) {
				t.Breaks = append(t.Breaks, consumer)
			}
		}
	}
	for _, names := range [][]string{t.Users, t.Relies, t.Breaks, t.Spared} {
		slices.Sort(names)
	}
	if last >= 0 {
		t.LastDay = dayText(last)
	}
	return t
}

// meets enters somebody whom a change touches, or spares; "" for nobody known.
func (t *TouchingChange) meets(consumer string, spared bool, knows func(string) bool) {
	switch {
	case consumer == "":
		t.Unknown++
	case knows(consumer) && spared:
		t.Spared = append(t.Spared, consumer)
	case knows(consumer):
		t.Users = append(t.Users, consumer)
	case spared:
		t.Others++
	default:
		t.Hidden++
	}
}

// Says is in a sentence whom a change touches, by the evidence.
func (t TouchingChange) Says(e Evidence) string {
	switch {
	case t.Touches() > 0:
		return ""
	case len(t.Spared)+t.Others > 0:
		return fmt.Sprintf("%s call it, and say that they rely on nothing of this", counted(len(t.Spared)+t.Others, "consumer"))
	case e.Covered == 0:
		return "no log tells who calls it"
	case e.Covered < e.Days:
		return fmt.Sprintf("nobody called it, as far as logs tell: of %d of %d days", e.Covered, e.Days)
	}
	return fmt.Sprintf("nobody called it in %d days", e.Days)
}

// letUntouched lets through what stands in the way of a gate and, as logs tell, touches nobody: of all of the last 90 days but the last
// two, of which logs may be on their way.
func (w view) letUntouched(ctx context.Context, a API, gate *promise.Gate) error {
	s, err := w.spanOf("", "")
	if err != nil {
		return err
	}
	covered, _, err := w.covered(ctx, a.Name, s)
	if err != nil || covered < s.days()-2 {
		return err
	}
	gate.Open = true
	for i := range gate.Obstacles {
		o := &gate.Obstacles[i]
		if !o.Waived && !o.Rollback {
			touched, err := w.touched(ctx, a, o, s)
			if err != nil {
				return err
			}
			if !touched {
				o.Waived = true
				o.Untouched = fmt.Sprintf("nobody called it from %s to %s; logs tell of %d of these %d days", dayText(s.from), dayText(s.until), covered,
					s.days())
			}
		}
		gate.Open = gate.Open && o.Waived
	}
	return nil
}

// touched reports whether somebody called what a change changes.
func (w view) touched(ctx context.Context, a API, o *promise.Obstacle, s span) (bool, error) {
	for _, number := range o.Against {
		for _, v := range a.Versions {
			if v.Number != number {
				continue
			}
			cells, err := w.cellsOf(ctx, v, s)
			if err != nil {
				return true, err
			}
			needs, err := w.needs(ctx, v)
			if err != nil {
				return true, err
			}
			// what consumers say is no proof that nobody reads it
			t := touching(o.Change, cells, needs, func(string) bool { return true })
			if t.Touches()+len(t.Spared) > 0 {
				return true, nil
			}
		}
	}
	return false, nil
}

// untouched are the waivers of what a gate lets through because it touches nobody.
func untouched(gate promise.Gate) []Waive {
	var waives []Waive
	for _, o := range gate.Obstacles {
		if o.Untouched != "" {
			waives = append(waives, Waive{Change: o.Change.ID, Reason: o.Untouched})
		}
	}
	return waives
}

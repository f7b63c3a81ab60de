package ledger

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"oldledger/core/promise"
)

// Waiting is what waits for somebody: drafts to publish, and what leaves soon.
type Waiting struct {
	Drafts  []WaitingDraft   // the actor's own first, then the newest first
	Notices []promise.Notice // what leaves within the next weeks or should have left, the next first
	Asked   []Request        // with what the actor may decide, the oldest first
}

// WaitingDraft is a draft before its gate.
type WaitingDraft struct {
	Version Version
	Mine    bool   // whether the actor recorded it last
	Open    bool   // whether it may be published as it is
	Why     string // what stands in the way: "1 change breaks the promise of its line, backward; 2 errors"
}

// What waits is told of so many drafts at most, and so many days ahead.
const (
	maxWaiting = 40
	soonDays   = 42
)

// Waiting tells what waits for the actor.
func (l *Ledger) Waiting(ctx context.Context, who Actor) (Waiting, error) {
	if err := l.may(who, SeeWaiting, ""); err != nil {
		return Waiting{}, err
	}
	apis, err := l.APIs(ctx, who)
	if err != nil {
		return Waiting{}, err
	}
	waiting := Waiting{Drafts: []WaitingDraft{}, Notices: []promise.Notice{}}
	near := l.Today().AddDate(0, 0, soonDays).Format(time.DateOnly)
	for _, a := range apis {
		for _, v := range a.Versions {
			if v.State == Draft && a.kept.inside(who) {
				waiting.Drafts = append(waiting.Drafts, WaitingDraft{Version: v, Mine: v.RecordedBy == who.Name})
			}
		}
		for _, n := range a.Notices {
			if n.Sunset != "" && n.Sunset <= near && a.stillThere(n) {
				waiting.Notices = append(waiting.Notices, n)
			}
		}
	}
	promise.SortNotices(waiting.Notices)
	slices.SortStableFunc(waiting.Drafts, func(x, y WaitingDraft) int {
		if x.Mine != y.Mine {
			if x.Mine {
				return -1
			}
			return 1
		}
		return strings.Compare(y.Version.RecordedAt, x.Version.RecordedAt)
	})
	waiting.Drafts = waiting.Drafts[:min(len(waiting.Drafts), maxWaiting)]
	there := []WaitingDraft{}
	for _, d := range waiting.Drafts {
		why, err := l.inTheWay(ctx, who, d.Version)
		var gone *Error
		if errors.As(err, &gone) && gone.Fault == NotFound {
			continue // somebody took it away meanwhile
		}
		if err != nil {
			return Waiting{}, err
		}
		d.Why, d.Open = why, why == ""
		there = append(there, d)
	}
	waiting.Drafts = there
	waiting.Asked, err = l.toDecide(ctx, who)
	return waiting, err
}

// toDecide are the requests that wait for the actor, with what of them does.
func (l *Ledger) toDecide(ctx context.Context, who Actor) ([]Request, error) {
	all, err := l.Requests(ctx, who)
	if err != nil {
		return nil, err
	}
	waits := []Request{}
	for _, r := range slices.Backward(all) {
		r.Items = slices.DeleteFunc(r.Items, func(i RequestItem) bool { return !i.Decides })
		if len(r.Items) > 0 {
			waits = append(waits, r)
		}
	}
	return waits, nil
}

// inTheWay says what stands in the way of a draft, which is found out once for each generation of its API, and each day.
func (l *Ledger) inTheWay(ctx context.Context, who Actor, v Version) (string, error) {
	style, err := l.view(who).inForce(ctx, v.API, l.teamOf(v.API))
	if err != nil {
		return "", err
	}
	a, err := l.view(who).apiAsIs(ctx, v.API)
	if err != nil {
		return "", err
	}
	unmet := l.view(who).unmet(a, v, false)
	if len(unmet) > 0 {
		return unmet[0], nil
	}
	key := fmt.Sprintf("%s %d %s %s", v.Ref(), l.Generation(who, v.API), l.Today().Format(time.DateOnly), style.key)
	if why, known := l.gates.Get(key); known {
		return why, nil
	}
	check, err := l.PublishCheck(ctx, who, v.Ref())
	if err != nil {
		return "", err
	}
	why := check.why()
	l.gates.Add(key, why)
	return why, nil
}

// stillThere reports whether a version that a notice speaks of is not yet retired.
func (a API) stillThere(n promise.Notice) bool {
	return slices.ContainsFunc(a.Versions, func(v Version) bool { return v.Shown() && n.Covers(v.Number, v.Line) })
}

// why says what stands in the way of publishing; "" where nothing does.
func (c PublishCheck) why() string {
	breaks, mistakes, credentials := 0, 0, 0
	for _, o := range c.Gate.Obstacles {
		if !o.Waived {
			breaks++
		}
	}
	for _, m := range c.Mistakes {
		if m.Allowed == "" {
			mistakes++
		}
	}
	for _, x := range c.Credentials {
		if x.Allowed == "" {
			credentials++
		}
	}
	var all []string
	if breaks == 1 {
		all = append(all, fmt.Sprintf("1 change breaks the promise of its line, %s", c.Gate.Promise))
	} else if breaks > 1 {
		all = append(all, fmt.Sprintf("%d changes break the promise of its line, %s", breaks, c.Gate.Promise))
	}
	for _, some := range []struct {
		n        int
		one, all string
	}{{mistakes, "1 error", "%d errors"}, {credentials, "something looks like a credential", "%d places look like credentials"}} {
		if some.n == 1 {
			all = append(all, some.one)
		} else if some.n > 1 {
			all = append(all, fmt.Sprintf(some.all, some.n))
		}
	}
	return strings.Join(all, "; ")
}

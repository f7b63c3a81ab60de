package ledger

import (
	"context"
	"slices"
	"strings"

	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// CarryWish carries those who may use a line of an API over to another one, and announces that the old one leaves.
type CarryWish struct {
	API       string
	From, To  string   // lines
	Consumers []string // who is carried over; none for all
	Sunset    string   // when the old line leaves; "" where nothing is announced
	Reason    string   // of the notice
	Guide     string   // that they follow: "1.2.0..2.0.0"
	Sooner    string   // why it may leave sooner than the notice period allows
}

// CarryOver gives consumers that may use a line the use of another one, by the plans that they have, and announces in the same act that the
// old line leaves. It returns whom it carried over, and the notice; its ID is 0 where there is none.
func (l *Ledger) CarryOver(ctx context.Context, who Actor, wish CarryWish) (carried []string, n promise.Notice, err error) {
	w := l.view(who)
	if err := l.may(who, DecideUse, wish.API); err != nil {
		return nil, n, err
	}
	if wish.Sunset != "" {
		if err := l.may(who, Announce, wish.API); err != nil {
			return nil, n, err
		}
	}
	a, err := w.api(ctx, wish.API)
	if err != nil {
		return nil, n, err
	}
	of := func(line string) Version {
		for _, v := range slices.Backward(a.Versions) {
			if v.Line == line && v.Shown() {
				return v
			}
		}
		return Version{}
	}
	old, fresh := of(wish.From), of(wish.To)
	if old.Number == "" || fresh.Number == "" || wish.From == wish.To {
		return nil, n, refuse(Invalid, "%s carries over from one published line to another, not from %q to %q", wish.API, wish.From, wish.To)
	}
	announcement := Announcement{
		Ref: old.Ref(), Line: true, Sunset: wish.Sunset, ReplacedBy: fresh.Ref(), Reason: wish.Reason, Guide: wish.Guide, Sooner: wish.Sooner,
	}
	check := func(w view) (err error) {
		if wish.Sunset == "" {
			return nil
		}
		if n, err = w.notice(ctx, announcement); err != nil {
			return err
		}
		return w.inTime(ctx, n, announcement.Sooner)
	}
	err = w.prepared(ctx, wish.API, check, func(w view) error {
		if err := check(w); err != nil {
			return err
		}
		if carried, err = w.carry(ctx, wish); err != nil || wish.Sunset == "" {
			return err
		}
		if n.ID, err = w.addNotice(ctx, n); err == nil && wish.Sooner != "" {
			err = w.appendJournal(ctx, "notice.hurried", n.Subject(), map[string]string{"sunset": n.Sunset, "reason": wish.Sooner})
		}
		return err
	})
	return carried, n, err
}

// carry gives the grants.
func (w view) carry(ctx context.Context, wish CarryWish) ([]string, error) {
	grants, err := w.rows.Grants(ctx, wish.API, "")
	if err != nil {
		return nil, err
	}
	has := func(consumer, line string) bool {
		return slices.ContainsFunc(grants, func(g records.Grant) bool { return g.Consumer == consumer && g.Line == line })
	}
	for _, c := range wish.Consumers {
		if !has(c, wish.From) {
			return nil, refuse(NotFound, "%s may not use line %s of %s", c, wish.From, wish.API)
		}
	}
	carried := []string{}
	for _, g := range grants {
		if g.Line != wish.From || len(wish.Consumers) > 0 && !slices.Contains(wish.Consumers, g.Consumer) || has(g.Consumer, wish.To) {
			continue
		}
		fresh := records.Grant{Consumer: g.Consumer, API: g.API, Line: wish.To, Plan: g.Plan, Since: w.stamp(), By: w.who.Name}
		if err := w.rows.PutGrant(ctx, fresh); err != nil {
			return nil, err
		}
		err := w.appendJournal(ctx, "access.carried-over", g.API, map[string]string{
			"consumer": g.Consumer, "line": wish.To, "plan": g.Plan, "from": wish.From,
		})
		if err != nil {
			return nil, err
		}
		carried = append(carried, g.Consumer)
	}
	if len(carried) == 0 && wish.Sunset == "" {
		return nil, refuse(Conflict, "nobody uses line %s of %s who may not use line %s already", wish.From, wish.API, strings.TrimSpace(wish.To))
	}
	return carried, nil
}

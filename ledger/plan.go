package ledger

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strconv"

	"oldledger/ledger/records"
)

// Plan is on which terms an API is used.
type Plan struct {
	API      string
	Name     string
	Quota    int64    // calls in a time; 0 for as many as one likes
	Per      string   // second, minute, hour, day, month; "" without a quota
	Terms    string   // CommonMark
	Asks     []string // what whoever asks is asked, each answered in a sentence
	Audience Audience // who may ask, of those who read the API
	Issues   bool     // whether the ledger issues credentials
}

// Bounds of plans.
const (
	maxPlans     = 20 // of an API
	maxPlanTerms = 20_000
	maxAsks      = 10
)

var quotaTimes = []string{"second", "minute", "hour", "day", "month"}

// Plans are those of an API for which the actor may ask, by name; all of them for its team.
func (l *Ledger) Plans(ctx context.Context, who Actor, api string) ([]Plan, error) {
	w := l.view(who)
	if _, err := w.api(ctx, api); err != nil {
		return nil, err
	}
	rows, err := w.rows.Plans(ctx, api)
	if err != nil {
		return nil, err
	}
	plans := []Plan{}
	for _, row := range rows {
		p, err := planOf(row)
		if err != nil {
			return nil, err
		}
		if w.mayAsk(p) {
			plans = append(plans, p)
		}
	}
	return plans, nil
}

// mayAsk reports whether the actor may ask for a plan.
func (w view) mayAsk(p Plan) bool {
	k := w.keeping(p.API)
	return k.inside(w.who) || k.admits(w.who, p.Audience)
}

func planOf(row records.Plan) (Plan, error) {
	p := Plan{API: row.API, Name: row.Name, Quota: row.Quota, Per: row.Per, Terms: row.Terms, Asks: []string{}, Issues: row.Issues}
	p.Audience = storedAudience(row.Audience)
	return p, json.Unmarshal([]byte(row.Asks), &p.Asks)
}

// PutPlan makes a plan of an API, or changes one. Who uses the API by it already keeps doing so.
func (l *Ledger) PutPlan(ctx context.Context, who Actor, p Plan) error {
	if err := l.may(who, SetPlans, p.API); err != nil {
		return err
	}
	if err := p.check(); err != nil {
		return err
	}
	asks, err := json.Marshal(append([]string{}, p.Asks...))
	if err != nil {
		return err
	}
	return l.view(who).act(ctx, p.API, func(w view) error {
		if err := w.sees(ctx, p.API); err != nil {
			return err
		}
		for _, g := range p.Audience {
			if team := g.Team(); team != "" {
				if err := w.isTeam(ctx, team); err != nil {
					return err
				}
			}
		}
		rows, err := w.rows.Plans(ctx, p.API)
		if err != nil {
			return err
		}
		if len(rows) >= maxPlans && !slices.ContainsFunc(rows, func(r records.Plan) bool { return r.Name == p.Name }) {
			return refuse(Conflict, "%s has %d plans; no more are kept", p.API, maxPlans)
		}
		row := records.Plan{
			API: p.API, Name: p.Name, Quota: p.Quota, Per: p.Per, Terms: p.Terms, Asks: string(asks), Audience: p.Audience.stored(),
			Issues: p.Issues,
		}
		if slices.Contains(rows, row) {
			return nil
		}
		if err := w.rows.PutPlan(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "plan.set", p.API, planDetail(row))
	})
}

func planDetail(row records.Plan) map[string]string {
	return map[string]string{
		"plan": row.Name, "quota": strconv.FormatInt(row.Quota, 10), "per": row.Per, "terms": digest([]byte(row.Terms), nil), "asks": row.Asks,
		"audience": row.Audience, "issues": strconv.FormatBool(row.Issues),
	}
}

func (p *Plan) check() error {
	switch {
	case !called(p.Name):
		return refuse(Invalid, "a plan has a name of 1 to %d characters, none of them a line break", maxFull)
	case p.Quota < 0 || p.Quota > 0 && !slices.Contains(quotaTimes, p.Per):
		return refuse(Invalid, "a quota is a number of calls in a second, minute, hour, day or month, not %d in %q", p.Quota, p.Per)
	case len(p.Terms) > maxPlanTerms:
		return refuse(Invalid, "terms have at most %d characters", maxPlanTerms)
	case len(p.Asks) > maxAsks || slices.ContainsFunc(p.Asks, func(a string) bool { return !called(a) }):
		return refuse(Invalid, "a plan asks at most %d questions, each of at most %d characters", maxAsks, maxFull)
	case slices.Contains(p.Audience, LinkHolder):
		return refuse(Invalid, "who asks is signed in; who has a link is nobody by name")
	}
	if p.Quota == 0 {
		p.Per = ""
	}
	p.Audience = p.Audience.tidy()
	return nil
}

// DropPlan takes a plan away by which nobody uses the API.
func (l *Ledger) DropPlan(ctx context.Context, who Actor, api, name string) error {
	if err := l.may(who, SetPlans, api); err != nil {
		return err
	}
	return l.view(who).act(ctx, api, func(w view) error {
		grants, err := w.rows.Grants(ctx, api, "")
		if err != nil {
			return err
		}
		for _, g := range grants {
			if g.Plan == name {
				return refuse(Conflict, "%s uses %s by the plan %q; end that first", g.Consumer, api, name)
			}
		}
		if err := w.rows.DropPlan(ctx, api, name); errors.Is(err, records.ErrStale) {
			return refuse(NotFound, "%s has no plan %q", api, name)
		} else if err != nil {
			return err
		}
		return w.appendJournal(ctx, "plan.dropped", api, map[string]string{"plan": name})
	})
}

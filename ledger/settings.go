package ledger

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/ledger/records"
)

// Settings is the wish to change what holds for an API. What is nil stays as it is.
type Settings struct {
	NoticeDays *int // how many days a notice must come before its sunset; -1 is as many as the ledger has
	Team       *string
	Switcher   *Picks  // to which versions its pages lead; [NewestOfLines] is the newest of each line
	Promise    *string // backward, both-ways or none; "" is what its API promises for a line, and what the house style says for an API
	Versioning *string // how callers choose the version, as versioning.Parse reads it; "" takes it back
	Undeclared *string // what the server does with input that is not declared: ignored, refused; "" takes it back
	Line       string  // the line whose promise it is; "" for all that have none of their own
	Reason     string  // why another promise holds from now on
}

// PromiseOf is what a line promises.
func (a API) PromiseOf(line string) promise.Promise {
	return promise.Promise(cmp.Or(a.LinePromises[line], a.Promise))
}

// Set changes what holds for an API: all that is asked, or nothing.
func (l *Ledger) Set(ctx context.Context, who Actor, api string, s Settings) error {
	asks := map[Act]bool{
		SetPeriod: s.NoticeDays != nil, SetPromise: s.Promise != nil, Arrange: s.Switcher != nil,
		SetCalling: s.Versioning != nil || s.Undeclared != nil,
	}
	some := slices.Contains(slices.Collect(maps.Values(asks)), true)
	if !some && s.Team == nil {
		return refuse(Invalid, "say what to set: noticeDays, team, promise, switcher, versioning or undeclared")
	}
	for act, asked := range asks {
		if !asked {
			continue
		}
		if err := l.may(who, act, api); err != nil {
			return err
		}
	}
	if s.Team != nil && !some {
		if err := mayAnywhere(who, Move); err != nil {
			return err
		}
	}
	if err := s.check(); err != nil {
		return err
	}
	return l.view(who).act(ctx, api, func(w view) error {
		row, err := w.rows.API(ctx, api)
		if err != nil {
			return notFound(err, "there is no API called %s", api)
		}
		// To whom it is offered knows of it, too: a lead of that team, and nobody else.
		if offered := s.Team != nil && row.Offered == *s.Team && mayIn(who, Move, *s.Team, "") == nil; !offered {
			if err := w.sees(ctx, api); err != nil {
				return err
			}
		}
		if s.NoticeDays != nil {
			if err := w.setNoticeDays(ctx, &row, *s.NoticeDays); err != nil {
				return err
			}
		}
		if s.Team != nil {
			if err := w.setTeam(ctx, &row, strings.TrimSpace(*s.Team)); err != nil {
				return err
			}
		}
		if s.Switcher != nil {
			if err := w.setSwitcher(ctx, &row, *s.Switcher); err != nil {
				return err
			}
		}
		if err := w.setCalling(ctx, &row, s); err != nil {
			return err
		}
		if s.Promise == nil {
			return nil
		}
		if s.Line != "" {
			return w.setLinePromise(ctx, api, s.Line, *s.Promise, s.Reason)
		}
		return w.setPromise(ctx, &row, *s.Promise, s.Reason)
	})
}

func (s Settings) check() error {
	if err := s.checkCalling(); err != nil {
		return err
	}
	switch {
	case s.NoticeDays != nil && (*s.NoticeDays < -1 || *s.NoticeDays > maxNoticeDays):
		return refuse(Invalid, "a notice period has 0 to %d days; -1 is as many as the house style or the ledger has", maxNoticeDays)
	case s.Promise == nil && s.Line != "":
		return refuse(Invalid, "say what line %s promises: backward, both-ways or none", s.Line)
	case s.Promise == nil:
		return nil
	case strings.TrimSpace(s.Reason) == "" || len(s.Reason) > maxReason:
		return refuse(Invalid, "another promise needs a reason of at most %d characters", maxReason)
	}
	if v, err := contract.ParseVersion(s.Line); s.Line != "" && (err != nil || contract.LineOf(v) != s.Line) {
		return refuse(Invalid, "%q is no line; a line is a major number, such as 2, or a date", s.Line)
	}
	switch promise.Promise(*s.Promise) {
	case promise.Backward, promise.BothWays, promise.None:
		return nil
	case "":
		return nil
	}
	return refuse(Invalid, "%q is no promise; a line promises backward, both-ways or none", *s.Promise)
}

func (w view) setNoticeDays(ctx context.Context, row *records.API, days int) error {
	before := row.NoticeDays
	row.NoticeDays = days
	if err := w.rows.PutAPI(ctx, *row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "notice-period.set", row.Name, map[string]string{"days": strconv.Itoa(days), "before": strconv.Itoa(before)})
}

// setSwitcher says to which versions the pages of an API lead.
func (w view) setSwitcher(ctx context.Context, row *records.API, to Picks) error {
	if !slices.Equal(to, Picks{NewestOfLines}) {
		a, err := w.api(ctx, row.Name)
		if err == nil {
			err = to.of(a)
		}
		if err != nil {
			return err
		}
	}
	before := row.Switcher
	if row.Switcher = ""; len(to) > 0 {
		row.Switcher = to.stored()
	}
	if err := w.rows.PutAPI(ctx, *row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "switcher.set", row.Name, map[string]string{"versions": row.Switcher, "before": before})
}

// setTeam gives an API to another team, with the word of both: at once where the actor may give it away and take it, else in two steps.
// Its own team offers it, and the other one takes it; to the team that keeps it, the offer is taken back.
func (w view) setTeam(ctx context.Context, row *records.API, team string) error {
	if team != "" {
		if err := w.isTeam(ctx, team); err != nil {
			return err
		}
	}
	gives, takes := mayIn(w.who, Move, row.Team, row.Name), mayIn(w.who, Move, team, team)
	before := row.Team
	switch {
	case gives == nil && takes == nil, takes == nil && team != "" && row.Offered == team:
		row.Team, row.Offered = team, ""
	case gives == nil && team != "":
		row.Offered = team
		if err := w.rows.PutAPI(ctx, *row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "team.offered", row.Name, map[string]string{"team": team, "before": before})
	default:
		return cmp.Or(gives, takes)
	}
	if err := w.rows.PutAPI(ctx, *row); err != nil {
		return err
	}
	uses, err := w.rows.Uses(ctx, row.Name, "")
	if err != nil {
		return err
	}
	if err := w.recogniseIn(ctx, uses, func(string) string { return row.Team }); err != nil {
		return err
	}
	return w.appendJournal(ctx, "team.set", row.Name, map[string]string{"team": team, "before": before})
}

func (w view) setPromise(ctx context.Context, row *records.API, to, reason string) error {
	before := row.Promise
	row.Promise = to
	if err := w.rows.PutAPI(ctx, *row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "promise.set", row.Name, map[string]string{"promise": to, "before": before, "reason": reason})
}

func (w view) setLinePromise(ctx context.Context, api, line, to, reason string) error {
	all, err := w.rows.LinePromises(ctx, api)
	if err != nil {
		return err
	}
	if err := w.rows.PutLinePromise(ctx, records.LinePromise{API: api, Line: line, Promise: to}); err != nil {
		return err
	}
	return w.appendJournal(ctx, "promise.set", api, map[string]string{
		"line": line, "promise": to, "before": linePromises(all)[api][line], "reason": reason,
	})
}

// linePromises are what lines promise, by API and line.
func linePromises(rows []records.LinePromise) map[string]map[string]string {
	by := map[string]map[string]string{}
	for _, p := range rows {
		if by[p.API] == nil {
			by[p.API] = map[string]string{}
		}
		by[p.API][p.Line] = p.Promise
	}
	return by
}

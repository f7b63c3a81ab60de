package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"oldledger/ledger/records"
)

// RequestState is where one of the APIs that a request asks for stands.
type RequestState string

// The states.
const (
	Asked     RequestState = "asked"
	Approved  RequestState = "approved"
	Refused   RequestState = "refused"
	Withdrawn RequestState = "withdrawn"
)

// Request is somebody's wish to use APIs.
type Request struct {
	ID       int64
	Consumer string
	Title    string // of the consumer
	AskedBy  string
	AskedAt  string
	Purpose  string
	Items    []RequestItem // that the actor may know of
	Mine     bool          // whether the consumer is the actor's
}

// RequestItem is one of the APIs that it asks for.
type RequestItem struct {
	API       string
	Line      string
	Plan      string
	Answers   []Answered
	State     RequestState
	DecidedBy string
	DecidedAt string
	Reason    string
	Decides   bool // whether the actor may decide it
}

// Answered is a question of a plan, and what whoever asks answers.
type Answered struct{ Question, Answer string }

// RequestWish is a wish to use APIs.
type RequestWish struct {
	Consumer string // a consumer of the actor's
	Title    string // of a new consumer of that name; "" where it is there
	Purpose  string
	Items    []RequestedAPI
}

// RequestedAPI is one of them.
type RequestedAPI struct {
	API, Line, Plan string
	Answers         []string // to what the plan asks, in its order
}

// Bounds of requests.
const (
	maxPurpose   = 2000
	maxRequested = 20   // APIs at once
	maxRequests  = 5000 // that are kept
)

// Ask asks for the use of APIs, each at a plan, for a consumer of the actor's, or a new one. Each API's team decides.
func (l *Ledger) Ask(ctx context.Context, who Actor, wish RequestWish) (id int64, err error) {
	if err := l.may(who, AskForUse, ""); err != nil {
		return 0, err
	}
	if len(wish.Items) == 0 || len(wish.Items) > maxRequested {
		return 0, refuse(Invalid, "a request asks for 1 to %d APIs", maxRequested)
	}
	if strings.TrimSpace(wish.Purpose) == "" || len(wish.Purpose) > maxPurpose {
		return 0, refuse(Invalid, "say in at most %d characters what it is for", maxPurpose)
	}
	err = l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if wish.Title != "" {
			if err := w.putConsumer(ctx, wish.Consumer, ConsumerWish{Title: &wish.Title}); err != nil {
				return err
			}
		}
		row, _, err := w.knownConsumer(ctx, wish.Consumer)
		if err != nil {
			return err
		}
		if !w.keeps(row) {
			return refuse(Forbidden, "%s is not yours to ask for; %s may", row.Name, keeperOf(row))
		}
		all, err := w.rows.Requests(ctx)
		if err != nil || len(all) >= maxRequests {
			return cmp.Or(err, refuse(Conflict, "%d requests are kept; no more are taken", maxRequests))
		}
		id, err = w.rows.AddRequest(ctx, records.Request{Consumer: row.Name, AskedBy: who.Name, AskedAt: w.stamp(), Purpose: wish.Purpose})
		if err != nil {
			return err
		}
		subjects := []string{}
		for _, item := range wish.Items {
			if err := w.askFor(ctx, id, row.Name, item); err != nil {
				return err
			}
			subjects = append(subjects, item.API)
		}
		slices.Sort(subjects)
		return w.appendJournal(ctx, "access.asked", strings.Join(subjects, ", "), map[string]string{
			"request": strconv.FormatInt(id, 10), "consumer": row.Name, "purpose": wish.Purpose,
		})
	})
	return id, err
}

// askFor adds one API to a request.
func (w view) askFor(ctx context.Context, request int64, consumer string, item RequestedAPI) error {
	a, err := w.api(ctx, item.API)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(a.Versions, func(v Version) bool { return v.Line == item.Line && v.Shown() }) {
		return refuse(NotFound, "%s has no line %q that is published", item.API, item.Line)
	}
	rows, err := w.rows.Plans(ctx, item.API)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(rows, func(r records.Plan) bool { return r.Name == item.Plan })
	if at < 0 {
		return refuse(NotFound, "%s has no plan %q", item.API, item.Plan)
	}
	plan, err := planOf(rows[at])
	if err != nil {
		return err
	}
	if !w.mayAsk(plan) {
		return refuse(NotFound, "%s has no plan %q", item.API, item.Plan)
	}
	answers, err := answersTo(plan, item.Answers)
	if err != nil {
		return err
	}
	if err := w.notYet(ctx, consumer, item); err != nil {
		return err
	}
	return w.rows.AddRequestItem(ctx, records.RequestItem{
		Request: request, API: item.API, Line: item.Line, Plan: item.Plan, Answers: answers, State: string(Asked),
	})
}

// answersTo are the answers to what a plan asks, as a row has them.
func answersTo(p Plan, answers []string) (string, error) {
	all := []Answered{}
	for i, question := range p.Asks {
		if i >= len(answers) || strings.TrimSpace(answers[i]) == "" || len(answers[i]) > maxPurpose {
			return "", refuse(Invalid, "%s asks: %s; answer in at most %d characters", p.API, question, maxPurpose)
		}
		all = append(all, Answered{question, answers[i]})
	}
	if len(answers) > len(p.Asks) {
		return "", refuse(Invalid, "%s asks %d questions at the plan %q, and there are %d answers", p.API, len(p.Asks), p.Name, len(answers))
	}
	text, err := json.Marshal(all)
	return string(text), err
}

// notYet refuses to ask for what is granted already, or asked for.
func (w view) notYet(ctx context.Context, consumer string, item RequestedAPI) error {
	grants, err := w.rows.Grants(ctx, item.API, consumer)
	if err != nil {
		return err
	}
	for _, g := range grants {
		if g.Line == item.Line && g.Plan == item.Plan {
			return refuse(Conflict, "%s may use line %s of %s by the plan %q already", consumer, g.Line, g.API, g.Plan)
		}
	}
	requests, err := w.rows.Requests(ctx)
	if err != nil {
		return err
	}
	items, err := w.rows.RequestItems(ctx, 0)
	if err != nil {
		return err
	}
	for _, i := range items {
		mine := slices.ContainsFunc(requests, func(r records.Request) bool { return r.ID == i.Request && r.Consumer == consumer })
		if mine && i.API == item.API && i.Line == item.Line && i.State == string(Asked) {
			return refuse(Conflict, "line %s of %s was asked for already, with the request %d; it waits for %s", i.Line, i.API, i.Request,
				cmp.Or(w.teamOf(i.API), "an admin"))
		}
	}
	return nil
}

// Requests are those of the actor's consumers, and those that ask for APIs of the actor's teams; the newest first.
func (l *Ledger) Requests(ctx context.Context, who Actor) ([]Request, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	rows, err := w.rows.Requests(ctx)
	if err != nil {
		return nil, err
	}
	items, err := w.rows.RequestItems(ctx, 0)
	if err != nil {
		return nil, err
	}
	consumers, err := w.rows.Consumers(ctx)
	if err != nil {
		return nil, err
	}
	of := map[string]records.Consumer{}
	for _, c := range consumers {
		of[c.Name] = c
	}
	all := []Request{}
	for _, row := range rows {
		r := Request{
			ID: row.ID, Consumer: row.Consumer, Title: of[row.Consumer].Title, AskedBy: row.AskedBy, AskedAt: row.AskedAt, Purpose: row.Purpose,
			Items: []RequestItem{}, Mine: w.keeps(of[row.Consumer]),
		}
		for _, i := range items {
			if i.Request != row.ID || !r.Mine && !w.keeping(i.API).inside(who) {
				continue
			}
			item := RequestItem{
				API: i.API, Line: i.Line, Plan: i.Plan, State: RequestState(i.State), DecidedBy: i.DecidedBy, DecidedAt: i.DecidedAt, Reason: i.Reason,
				Answers: []Answered{}, Decides: i.State == string(Asked) && l.may(who, DecideUse, i.API) == nil,
			}
			if err := json.Unmarshal([]byte(i.Answers), &item.Answers); err != nil {
				return nil, err
			}
			r.Items = append(r.Items, item)
		}
		if len(r.Items) > 0 {
			all = append(all, r)
		}
	}
	return all, nil
}

// Decision is what becomes of one of the APIs of a request.
type Decision struct {
	Request int64
	API     string
	Line    string
	State   RequestState // Approved or Refused, by the API's team; Withdrawn by whoever keeps the consumer
	Reason  string       // needed where it is refused
}

// Decide approves or refuses one of the APIs of a request, or withdraws it. What is approved may be used from then on.
func (l *Ledger) Decide(ctx context.Context, who Actor, d Decision) error {
	if err := l.may(who, AskForUse, ""); err != nil {
		return err
	}
	if d.State != Withdrawn {
		if err := l.may(who, DecideUse, d.API); err != nil {
			return err
		}
	}
	switch {
	case d.State != Approved && d.State != Refused && d.State != Withdrawn:
		return refuse(Invalid, "a request is approved, refused or withdrawn, not %q", d.State)
	case len(d.Reason) > maxReason, d.State == Refused && strings.TrimSpace(d.Reason) == "":
		return refuse(Invalid, "say why, in at most %d characters", maxReason)
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		rows, err := w.rows.Requests(ctx)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(rows, func(r records.Request) bool { return r.ID == d.Request })
		if at < 0 {
			return refuse(NotFound, "there is no request %d", d.Request)
		}
		consumer, err := w.rows.Consumer(ctx, rows[at].Consumer)
		if err != nil {
			return err
		}
		if d.State == Withdrawn && !w.keeps(consumer) {
			return refuse(NotFound, "there is no request %d of yours", d.Request)
		}
		items, err := w.rows.RequestItems(ctx, d.Request)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(items, func(i records.RequestItem) bool { return i.API == d.API && i.Line == d.Line })
		if i < 0 {
			return refuse(NotFound, "the request %d does not ask for line %s of %s", d.Request, d.Line, d.API)
		}
		item := items[i]
		if item.State != string(Asked) {
			return refuse(Conflict, "line %s of %s was %s by %s", d.Line, d.API, item.State, item.DecidedBy)
		}
		item.State, item.DecidedBy, item.DecidedAt, item.Reason = string(d.State), who.Name, w.stamp(), d.Reason
		if err := w.rows.DecideItem(ctx, item); errors.Is(err, records.ErrStale) {
			return refuse(Conflict, "somebody decided line %s of %s meanwhile", d.Line, d.API)
		} else if err != nil {
			return err
		}
		detail := map[string]string{
			"request": strconv.FormatInt(d.Request, 10), "consumer": consumer.Name, "line": d.Line, "plan": item.Plan, "reason": d.Reason,
		}
		if d.State == Approved {
			g := records.Grant{Consumer: consumer.Name, API: d.API, Line: d.Line, Plan: item.Plan, Since: w.stamp(), By: who.Name}
			if err := w.rows.PutGrant(ctx, g); err != nil {
				return err
			}
		}
		return w.appendJournal(ctx, "access."+string(d.State), d.API, detail)
	})
}

// Grant is that a consumer may use a line of an API.
type Grant struct {
	Consumer    string
	Title       string
	API         string
	Line        string
	Plan        Plan
	Since       string
	By          string
	Versions    []string           // of the line, those that are answered
	Credentials []IssuedCredential // of the consumer at the API
}

// IssuedCredential is by what a consumer is known at an API, without its secret.
type IssuedCredential struct {
	ID     string // as logs have it
	Hash   string // SHA-256 of all of it, in hexadecimal, for gateways of the API's team
	MadeAt string
	MadeBy string
	EndsAt string // "" for never
	Ended  bool
}

// Grants are what consumers may use: of an API of the actor's team, of a consumer that the actor keeps, or of both; "" for all.
func (l *Ledger) Grants(ctx context.Context, who Actor, api, consumer string) ([]Grant, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	rows, err := w.rows.Grants(ctx, api, consumer)
	if err != nil {
		return nil, err
	}
	consumers, err := w.rows.Consumers(ctx)
	if err != nil {
		return nil, err
	}
	plans, err := w.rows.Plans(ctx, api)
	if err != nil {
		return nil, err
	}
	credentials, err := w.rows.Credentials(ctx, api, consumer)
	if err != nil {
		return nil, err
	}
	all := []Grant{}
	for _, row := range rows {
		at := slices.IndexFunc(consumers, func(c records.Consumer) bool { return c.Name == row.Consumer })
		inside := w.keeping(row.API).inside(who)
		if at < 0 || !inside && !w.keeps(consumers[at]) {
			continue
		}
		g := Grant{
			Consumer: row.Consumer, Title: consumers[at].Title, API: row.API, Line: row.Line, Since: row.Since, By: row.By,
			Plan: Plan{API: row.API, Name: row.Plan}, Versions: []string{}, Credentials: []IssuedCredential{},
		}
		if i := slices.IndexFunc(plans, func(p records.Plan) bool { return p.API == row.API && p.Name == row.Plan }); i >= 0 {
			if g.Plan, err = planOf(plans[i]); err != nil {
				return nil, err
			}
		}
		a, err := w.apiAsIs(ctx, row.API)
		if err != nil {
			return nil, err
		}
		for _, v := range a.Versions {
			if v.Line == row.Line && v.Shown() {
				g.Versions = append(g.Versions, v.Number)
			}
		}
		for _, c := range credentials {
			if c.API == row.API && c.Consumer == row.Consumer {
				one := IssuedCredential{ID: c.ID, MadeAt: c.MadeAt, MadeBy: c.MadeBy, EndsAt: c.EndsAt}
				one.Ended = c.EndsAt != "" && c.EndsAt <= w.stamp()
				if inside {
					one.Hash = c.Hash
				}
				g.Credentials = append(g.Credentials, one)
			}
		}
		all = append(all, g)
	}
	return all, nil
}

// EndGrant ends that a consumer may use a line of an API: by its team, or by whoever keeps the consumer. Credentials end with the last
// line.
func (l *Ledger) EndGrant(ctx context.Context, who Actor, consumer, api, line, reason string) error {
	if err := l.may(who, AskForUse, ""); err != nil {
		return err
	}
	if strings.TrimSpace(reason) == "" || len(reason) > maxReason {
		return refuse(Invalid, "say why, in at most %d characters", maxReason)
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.overGrant(ctx, consumer, api); err != nil {
			return err
		}
		if err := w.rows.DropGrant(ctx, consumer, api, line); errors.Is(err, records.ErrStale) {
			return refuse(NotFound, "%s may not use line %s of %s", consumer, line, api)
		} else if err != nil {
			return err
		}
		left, err := w.rows.Grants(ctx, api, consumer)
		if err != nil {
			return err
		}
		detail := map[string]string{"consumer": consumer, "line": line, "reason": reason}
		if len(left) == 0 {
			detail["credentialsEnd"] = w.stamp()
			if err := w.endCredentials(ctx, api, consumer, detail["credentialsEnd"]); err != nil {
				return err
			}
		}
		return w.appendJournal(ctx, "access.ended", api, detail)
	})
}

// overGrant refuses whoever decides neither over an API's users nor over the consumer.
func (w view) overGrant(ctx context.Context, consumer, api string) error {
	row, err := w.rows.Consumer(ctx, consumer)
	if err != nil {
		return notFound(err, "there is no use of %s by %s that is yours to change", api, consumer)
	}
	if w.keeps(row) || w.may(w.who, DecideUse, api) == nil {
		return nil
	}
	if !w.keeping(api).inside(w.who) {
		return refuse(NotFound, "there is no use of %s by %s that is yours to change", api, consumer)
	}
	return w.may(w.who, DecideUse, api)
}

// endCredentials ends those credentials of a consumer at an API that last longer.
func (w view) endCredentials(ctx context.Context, api, consumer, at string) error {
	rows, err := w.rows.Credentials(ctx, api, consumer)
	if err != nil {
		return err
	}
	for _, c := range rows {
		if c.EndsAt == "" || c.EndsAt > at {
			if err := w.rows.EndCredential(ctx, c.ID, at); err != nil {
				return err
			}
		}
	}
	return nil
}

// credentialPrefix lets a leaked credential be recognised for what it is.
const credentialPrefix = "olc_"

// How many credentials a consumer has at an API that last, and how long those before go on beside a new one at most.
const (
	maxCredentials = 5
	maxOverlap     = 400 // days
)

// MakeCredential makes a credential of a consumer at an API, where its plan has the ledger issue them, and returns it; only its hash is
// kept. Logs tell of it by its id. Those before it end after so many days: overlap is -1 where they go on.
func (l *Ledger) MakeCredential(ctx context.Context, who Actor, consumer, api string, overlap int) (id, credential string, err error) {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return "", "", err
	}
	if overlap < -1 || overlap > maxOverlap {
		return "", "", refuse(Invalid, "credentials go on beside a new one for 0 to %d days, not %d", maxOverlap, overlap)
	}
	random, err := l.secret(6)
	if err != nil {
		return "", "", err
	}
	secret, err := l.secret(24)
	if err != nil {
		return "", "", err
	}
	id = credentialPrefix + strings.NewReplacer("-", "x", "_", "y").Replace(random)
	credential = id + "." + secret
	err = l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.overGrant(ctx, consumer, api); err != nil {
			return err
		}
		grants, err := l.Grants(ctx, Itself, api, consumer)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(grants, func(g Grant) bool { return g.Plan.Issues }) {
			return refuse(Conflict, "the ledger issues no credentials of %s for %s: it uses no line of it by a plan with such", api, consumer)
		}
		lasting := 0
		for _, c := range grants[0].Credentials {
			if !c.Ended {
				lasting++
			}
		}
		if lasting >= maxCredentials {
			return refuse(Conflict, "%s has %d credentials at %s; end one first", consumer, lasting, api)
		}
		ends := ""
		if overlap >= 0 {
			ends = w.Today().AddDate(0, 0, overlap).Format(time.RFC3339)
			if err := w.endCredentials(ctx, api, consumer, ends); err != nil {
				return err
			}
		}
		row := records.Credential{ID: id, Hash: tokenHash(credential), Consumer: consumer, API: api, MadeAt: w.stamp(), MadeBy: who.Name}
		if err := w.rows.AddCredential(ctx, row); err != nil {
			return err
		}
		if err := w.recognise(ctx, ""); err != nil {
			return err
		}
		return w.appendJournal(ctx, "access.credential-made", api, map[string]string{
			"consumer": consumer, "credential": id, "hash": row.Hash, "othersEnd": ends,
		})
	})
	if err != nil {
		return "", "", err
	}
	return id, credential, nil
}

// EndCredential ends a credential at once: by whoever keeps the consumer, or the API's team.
func (l *Ledger) EndCredential(ctx context.Context, who Actor, consumer, api, id string) error {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.overGrant(ctx, consumer, api); err != nil {
			return err
		}
		rows, err := w.rows.Credentials(ctx, api, consumer)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(rows, func(c records.Credential) bool { return c.ID == id }) {
			return refuse(NotFound, "%s has no credential %s at %s", consumer, id, api)
		}
		at := w.stamp()
		if err := w.rows.EndCredential(ctx, id, at); err != nil {
			return err
		}
		return w.appendJournal(ctx, "access.credential-ended", api, map[string]string{"consumer": consumer, "credential": id, "at": at})
	})
}

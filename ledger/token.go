package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"time"

	"oldledger/ledger/records"
)

// tokenPrefix lets a leaked token be recognised for what it is.
const tokenPrefix = "olt_"

// Scope is a kind of acts that a token does. Every token reads.
type Scope string

// The scopes.
const (
	ScopeRead       Scope = "read"
	ScopeRecord     Scope = "record"     // and word, and take drafts away
	ScopePublish    Scope = "publish"    // and announce
	ScopeSettle     Scope = "settle"     // what an API promises, whose it is, who may read it, its notice period
	ScopeTally      Scope = "tally"      // add what was called
	ScopeAdminister Scope = "administer" // people, teams, members
)

// usualScopes are those of a token of which nothing is said.
var usualScopes = []Scope{ScopeRead, ScopeRecord, ScopePublish, ScopeSettle, ScopeTally}

// firstScopes are those of tokens that were made before there were any.
var firstScopes = []Scope{ScopeRead, ScopeRecord, ScopePublish, ScopeSettle}

// ScopeOf is the scope that an act asks for of a token. What is not among them is done with a password alone.
var ScopeOf = map[Act]Scope{
	ReadInside: ScopeRead, DryRun: ScopeRead, SeeWaiting: ScopeRead, SeeJournal: ScopeRead, SeePeople: ScopeRead, Verify: ScopeRead,
	SeeStyle: ScopeRead,
	Record:   ScopeRecord, Word: ScopeRecord, Arrange: ScopeRecord, SharePreview: ScopeRecord, Discard: ScopeRecord,
	Publish: ScopePublish, Announce: ScopePublish, LetThrough: ScopePublish,
	SetPromise: ScopeSettle, SetCalling: ScopeSettle, Move: ScopeSettle, SetPeriod: ScopeSettle, SetAudience: ScopeSettle,
	Place: ScopeSettle, Shelve: ScopeSettle, SetStyle: ScopeSettle, SetHouse: ScopeSettle,
	AddCalls: ScopeTally, SeeCalls: ScopeRead, SeeConsumers: ScopeRead, SeeImpact: ScopeRead,
	SetPlans: ScopeSettle, AskForUse: ScopeSettle, DecideUse: ScopeSettle,
	SaveConsumers: ScopeSettle, KeepConsumer: ScopeSettle,
	SetMembers: ScopeAdminister, SetTeams: ScopeAdminister, SetPeople: ScopeAdminister,
}

// How long tokens last.
const (
	usualTokenDays = 90
	maxTokenDays   = 400
	linger         = time.Hour // how old what is known of a token's last use may be
)

// TokenWish is what somebody wants a token for.
type TokenWish struct {
	Label  string
	Scopes []Scope  // none for the usual ones: all but administer
	Teams  []string // for which it acts; none for all of its maker's
	APIs   []string // for which it acts alone, of those; none for all
	Days   int      // until it ends; 0 for 90
}

// Token is a token without what it is known by.
type Token struct {
	ID     string // by which it is taken back
	Person string
	Label  string
	Scopes []Scope
	Teams  []string
	APIs   []string
	MadeAt string
	EndsAt string // "" for never
	UsedAt string // "" for never, and else true to the hour
}

// tokenID is how many characters of its hash name a token.
const tokenID = 12

// MakeToken makes a token that acts for the person, and returns it; only its hash is kept. It never does more than its maker may do at that
// moment.
func (l *Ledger) MakeToken(ctx context.Context, who Actor, wish TokenWish) (string, error) {
	if err := l.may(who, MakeToken, ""); err != nil {
		return "", err
	}
	if !called(wish.Label) {
		return "", refuse(Invalid, "a token needs a label of at most %d characters that says what it is for", maxFull)
	}
	scopes, err := wish.scopes()
	if err != nil {
		return "", err
	}
	if wish.Days < 0 || wish.Days > maxTokenDays {
		return "", refuse(Invalid, "a token lasts 1 to %d days, not %d", maxTokenDays, wish.Days)
	}
	days := wish.Days
	if days == 0 {
		days = usualTokenDays
	}
	secret, err := l.secret(24)
	if err != nil {
		return "", err
	}
	token := tokenPrefix + secret
	teams, apis := listed(wish.Teams), listed(wish.APIs)
	return token, l.store.Write(ctx, func(r records.Rows) error {
		w := l.view(who).in(r)
		for _, team := range wish.Teams {
			if err := w.isTeam(ctx, team); err != nil {
				return err
			}
		}
		for _, api := range wish.APIs {
			if err := w.sees(ctx, api); err != nil {
				return err
			}
		}
		row := records.Token{
			Hash: tokenHash(token), Person: who.Name, Label: wish.Label, MadeAt: l.stamp(), Scopes: joined(scopes), Teams: teams, APIs: apis,
			EndsAt: l.Today().AddDate(0, 0, days).Format(time.RFC3339),
		}
		if err := r.AddToken(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "token.made", who.Name, map[string]string{
			"token": row.Hash[:tokenID], "label": row.Label, "scopes": row.Scopes, "teams": row.Teams, "apis": row.APIs, "ends": row.EndsAt,
		})
	})
}

// listed are names as a row has them, a JSON list: in order, each once.
func listed(names []string) string {
	text, err := json.Marshal(append([]string{}, slices.Compact(slices.Sorted(slices.Values(names)))...))
	if err != nil {
		panic(err) // a list of texts can be written
	}
	return string(text)
}

func (wish TokenWish) scopes() ([]Scope, error) {
	if len(wish.Scopes) == 0 {
		return usualScopes, nil
	}
	all := append(slices.Clone(usualScopes), ScopeAdminister)
	for _, s := range wish.Scopes {
		if !slices.Contains(all, s) {
			return nil, refuse(Invalid, "%q is no scope; there are %s", s, strings.ReplaceAll(joined(all), " ", ", "))
		}
	}
	return slices.DeleteFunc(all, func(s Scope) bool { return s != ScopeRead && !slices.Contains(wish.Scopes, s) }), nil
}

func joined(scopes []Scope) string {
	words := make([]string, len(scopes))
	for i, s := range scopes {
		words[i] = string(s)
	}
	return strings.Join(words, " ")
}

// TokenActor is the person for whom a token acts, as far as it does.
func (l *Ledger) TokenActor(ctx context.Context, token string) (Actor, error) {
	row, err := l.store.Read().Token(ctx, tokenHash(token))
	if isNotFound(err) {
		return Nobody, refuse(SignInFirst, "this token is not known")
	}
	if err != nil {
		return Nobody, err
	}
	if row.EndsAt != "" && row.EndsAt <= l.stamp() {
		return Nobody, refuse(SignInFirst, "this token ended on %s; make another", row.EndsAt[:len(time.DateOnly)])
	}
	p, err := l.person(ctx, l.store.Read(), row.Person)
	if err != nil {
		return Nobody, err
	}
	if err := l.vouched(ctx, row.Person); err != nil {
		return Nobody, err
	}
	t, err := tokenOf(row)
	if err != nil {
		return Nobody, err
	}
	if last := l.Today().Add(-linger).Format(time.RFC3339); row.UsedAt < last {
		if err := l.store.Write(ctx, func(r records.Rows) error { return r.UseToken(ctx, row.Hash, l.stamp()) }); err != nil {
			return Nobody, err
		}
	}
	who := Actor{Person: p.within(t.Teams), Token: row.Label, scopes: t.Scopes}
	if len(t.APIs) > 0 {
		who.apis = t.APIs
		who.Person = who.within(l.teamsOf(t.APIs))
	}
	return who, nil
}

// teamsOf are the teams that keep some APIs; "" where one has none.
func (l *Ledger) teamsOf(apis []string) []string {
	teams := make([]string, len(apis))
	for i, api := range apis {
		teams[i] = l.teamOf(api)
	}
	return teams
}

// within is what a person is where they act for some teams alone: what they are there, in whatever way.
func (p Person) within(teams []string) Person {
	if len(teams) == 0 {
		return p
	}
	roles := map[string]Role{}
	for _, team := range teams {
		for _, r := range []Role{Admin, Lead, Publisher, Editor, Reviewer, Auditor, Reader} {
			if p.Role == r || p.Teams[team] == r {
				roles[team] = r
				break
			}
		}
	}
	p.Role, p.Teams = NoRole, roles
	return p
}

func tokenOf(row records.Token) (Token, error) {
	t := Token{
		ID: row.Hash[:tokenID], Person: row.Person, Label: row.Label, Teams: []string{}, APIs: []string{},
		MadeAt: row.MadeAt, EndsAt: row.EndsAt, UsedAt: row.UsedAt,
	}
	for _, s := range strings.Fields(row.Scopes) {
		t.Scopes = append(t.Scopes, Scope(s))
	}
	return t, errors.Join(json.Unmarshal([]byte(row.Teams), &t.Teams), json.Unmarshal([]byte(row.APIs), &t.APIs))
}

// Tokens are the actor's, the newest first; everybody's for whoever says who may sign in.
func (l *Ledger) Tokens(ctx context.Context, who Actor) ([]Token, error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return nil, err
	}
	of := who.Name
	if l.may(who, SetPeople, "") == nil {
		of = ""
	}
	rows, err := l.store.Read().Tokens(ctx, of)
	if err != nil {
		return nil, err
	}
	tokens := make([]Token, len(rows))
	for i, row := range rows {
		if tokens[i], err = tokenOf(row); err != nil {
			return nil, err
		}
	}
	return tokens, nil
}

// DropToken takes a token back: one's own, or anybody's for whoever says who may sign in.
func (l *Ledger) DropToken(ctx context.Context, who Actor, id string) error {
	if err := l.may(who, MakeToken, ""); err != nil {
		return err
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		rows, err := r.Tokens(ctx, "")
		if err != nil {
			return err
		}
		for _, row := range rows {
			if row.Hash[:tokenID] != id || row.Person != who.Name && l.may(who, SetPeople, "") != nil {
				continue
			}
			if err := r.DropToken(ctx, row.Hash); err != nil {
				return err
			}
			return l.view(who).in(r).appendJournal(ctx, "token.revoked", row.Person, map[string]string{"token": id, "label": row.Label})
		}
		return refuse(NotFound, "there is no token %s of yours", id)
	})
}

func tokenHash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

package ledger

import (
	"cmp"
	"slices"
	"strings"
)

// Act is what somebody wants to do, in words that finish the sentence "an editor may …".
type Act string

// The acts that ask who acts. What is published, everybody reads; what of it an actor sees is decided in actor.go.
const (
	ReadInside    Act = "read what is not published"
	DryRun        Act = "see what recording would do"
	Record        Act = "record a version"
	Publish       Act = "publish a version or take it back"
	LetThrough    Act = "let through what stands in the way, where the house style asks for a lead"
	Announce      Act = "announce that something leaves"
	Word          Act = "word the reference"
	Arrange       Act = "say how the reference looks"
	SharePreview  Act = "show a draft to others"
	Discard       Act = "take a draft away"
	Move          Act = "give an API to another team"
	SetPromise    Act = "say what an API promises"
	SetCalling    Act = "say how an API is called"
	AddCalls      Act = "add what was called"
	SeeCalls      Act = "see who calls an API"
	SeeImpact     Act = "see whom changes touch"
	SaveConsumers Act = "say who the consumers of a team are, and by what they are recognised"
	SetPlans      Act = "say on which terms an API is used"
	AskForUse     Act = "ask for the use of APIs"
	DecideUse     Act = "decide who may use an API"
	KeepConsumer  Act = "keep consumers of one's own"
	SeeConsumers  Act = "see consumers"
	SetPeriod     Act = "set the notice period"
	SetMembers    Act = "say who is in a team"
	SetAudience   Act = "say who may read an API"
	Place         Act = "say on which shelves an API stands"
	Shelve        Act = "make shelves and arrange them"
	SeeStyle      Act = "read the house style"
	SetStyle      Act = "set the house style of a team or an API"
	SetHouse      Act = "set the house style of all"
	Verify        Act = "hold the journal against the records"
	SetPeople     Act = "say who may sign in, and as what"
	SetTeams      Act = "make and dissolve teams"
	SeeWaiting    Act = "see what waits"
	SeeJournal    Act = "read the journal"
	SeePeople     Act = "see who is in which team"
	MakeToken     Act = "make a token"
	SetPassword   Act = "change a password"
)

var (
	anyRole    = []Role{Admin, Auditor, Lead, Publisher, Editor, Reviewer, Reader}
	editors    = []Role{Admin, Lead, Publisher, Editor}
	publishers = []Role{Admin, Lead, Publisher}
	leads      = []Role{Admin, Lead}
	admins     = []Role{Admin}
	signedIn   = append([]Role{NoRole}, anyRole...)
)

// Access is who may do what: the roles to which an act is open, of those who signed in or sent a token. A role counts for the APIs of its
// team; what concerns no one API asks for a role in all teams. An auditor reads everything and writes nothing.
var Access = map[Act][]Role{
	ReadInside:    anyRole,
	DryRun:        anyRole,
	Record:        editors,
	Publish:       publishers,
	LetThrough:    leads,
	Announce:      publishers,
	Word:          editors,
	Arrange:       editors,
	SharePreview:  editors,
	Discard:       editors,
	Move:          leads,
	SetPromise:    publishers,
	SetCalling:    publishers,
	AddCalls:      editors,
	SeeCalls:      anyRole,
	SeeImpact:     signedIn,
	SaveConsumers: editors,
	SetPlans:      publishers,
	AskForUse:     signedIn,
	DecideUse:     publishers,
	KeepConsumer:  signedIn,
	SeeConsumers:  signedIn,
	SetPeriod:     admins,
	SetMembers:    leads,
	SetAudience:   leads,
	Place:         publishers,
	Shelve:        admins,
	SeeStyle:      signedIn,
	SetStyle:      leads,
	SetHouse:      admins,
	Verify:        anyRole,
	SetPeople:     admins,
	SetTeams:      admins,
	SeeWaiting:    signedIn,
	SeeJournal:    signedIn, // of the APIs that are the actor's to see inside; all of it with a role in all teams
	SeePeople:     signedIn,
	MakeToken:     signedIn,
	SetPassword:   signedIn,
}

// short are the names by which programs know the acts that are done to an API or to a team.
var short = []struct {
	act  Act
	name string
}{
	{ReadInside, "read"},
	{Record, "record"},
	{Publish, "publish"},
	{Announce, "announce"},
	{Word, "word"},
	{Arrange, "arrange"},
	{SharePreview, "preview"},
	{Discard, "discard"},
	{Move, "move"},
	{SetPromise, "promise"},
	{SetCalling, "calling"},
	{AddCalls, "tally"},
	{SaveConsumers, "consumers"},
	{SetPlans, "plans"},
	{DecideUse, "access"},
	{SetPeriod, "period"},
	{SetMembers, "members"},
	{SetAudience, "audience"},
	{Place, "place"},
	{Shelve, "shelves"},
	{SetStyle, "style"},
	{SetHouse, "house"},
	{SetTeams, "teams"},
	{SetPeople, "people"},
}

// MayDo are the short names of what the actor may do where a team is concerned: read, record, publish, announce, word, arrange, preview,
// discard, move, promise, calling, tally, consumers, plans, access, period, members, audience, place, shelves, style, house, teams, people.
func (a Actor) MayDo(team string) []string {
	return names(func(act Act) error { return mayIn(a, act, team, "") })
}

// MayDoSomewhere are those of what the actor may do in one team at least.
func (a Actor) MayDoSomewhere() []string {
	return names(func(act Act) error { return mayAnywhere(a, act) })
}

func names(refused func(Act) error) []string {
	may := []string{}
	for _, s := range short {
		if refused(s.act) == nil {
			may = append(may, s.name)
		}
	}
	return may
}

// may refuses an act that is not the actor's to do to an API; api is "" for what concerns no one API, or where it is not yet known which.
// What is refused is refused in the same words whether there is such an API or not.
func (l *Ledger) may(who Actor, act Act, api string) error {
	if api == "" {
		return mayIn(who, act, "", "")
	}
	return mayIn(who, act, l.teamOf(api), api)
}

// mayIn refuses an act that is not the actor's to do to what a team keeps.
func mayIn(who Actor, act Act, team, what string) error {
	is := bothRoles(who.rolesIn(team))
	switch {
	case what != "":
		is = cmp.Or(is, "nobody in the team") + " of " + what
	case team == "":
		is = cmp.Or(is, "nothing in all teams")
	default:
		is = cmp.Or(is, "nobody") + " in " + team
	}
	switch {
	case who.itself:
		return nil
	case who.seeing != "" && !slices.Contains(looks, act):
		return refuse(Forbidden, "you look as %s, and change nothing meanwhile", who.seeing)
	case who.Name == "":
		return refuse(SignInFirst, "sign in, or send a token, to %s", act)
	case who.Token != "" && ScopeOf[act] == "":
		return refuse(Forbidden, "a token may not %s; sign in with your password", act) // what a leaked one can do ends with it
	case who.Token != "" && !slices.Contains(who.scopes, ScopeOf[act]):
		return refuse(Forbidden, "the token %q may not %s; it has not the scope %s", who.Token, act, ScopeOf[act])
	case what != "" && !who.reaches(what):
		return refuse(Forbidden, "the token %q acts for %s alone", who.Token, strings.Join(who.apis, ", "))
	case !slices.ContainsFunc(who.rolesIn(team), func(r Role) bool { return slices.Contains(Access[act], r) }):
		return refuse(Forbidden, "%s is %s; %s may %s", who.Full, is, either(Access[act]), act)
	}
	return nil
}

// bothRoles names the roles that somebody has: "a reviewer", "a reader and an editor", "".
func bothRoles(roles []Role) string {
	names := []string{}
	for _, r := range roles {
		if r != NoRole && !slices.Contains(names, article(r)) {
			names = append(names, article(r))
		}
	}
	return strings.Join(names, " and ")
}

// article is a role with the article before it.
func article(r Role) string {
	if r != NoRole && strings.ContainsRune("ae", rune(r[0])) {
		return "an " + string(r)
	}
	return "a " + string(r)
}

// either names roles: "an admin, a lead or an editor".
func either(roles []Role) string {
	names := make([]string, len(roles))
	for i, r := range roles {
		names[i] = article(r)
	}
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " or " + names[len(names)-1]
}

package ledger

import (
	"slices"
	"strings"
)

// Act is what somebody wants to do, in words that finish the sentence "an editor may …".
type Act string

// The acts that ask who acts. What is published, everybody reads; what of it an actor sees is decided in actor.go.
const (
	ReadInside   Act = "read what is not published"
	DryRun       Act = "see what recording would do"
	Record       Act = "record a version"
	Publish      Act = "publish a version or take it back"
	Announce     Act = "announce that something leaves"
	Word         Act = "word the reference"
	Arrange      Act = "say how the reference looks"
	SharePreview Act = "show a draft to others"
	MakeToken    Act = "make a token"
	Discard      Act = "take a draft away"
	SetTeam      Act = "say which team an API belongs to"
	SetPromise   Act = "say what an API promises"
	SetPeriod    Act = "set the notice period"
	AddPeople    Act = "add people"
)

var (
	everybody = []Role{Admin, Editor, Reviewer, Reader}
	writers   = []Role{Admin, Editor}
	admins    = []Role{Admin}
)

// Access is who may do what: the roles to which an act is open, of those who signed in or sent a token.
var Access = map[Act][]Role{
	ReadInside:   everybody,
	DryRun:       everybody,
	Record:       writers,
	Publish:      writers,
	Announce:     writers,
	Word:         writers,
	Arrange:      writers,
	SharePreview: writers,
	MakeToken:    everybody,
	Discard:      writers,
	SetTeam:      writers,
	SetPromise:   writers,
	SetPeriod:    admins,
	AddPeople:    admins,
}

// signedInOnly are the acts that no token does: what a leaked token can do ends with the token.
var signedInOnly = map[Act]bool{MakeToken: true, AddPeople: true}

// may refuses an act that is not the actor's to do to an API; api is "" for what concerns no one API, or where it is not yet known which.
func (l *Ledger) may(who Actor, act Act, api string) error {
	of := ""
	if api != "" {
		of = " of " + api
	}
	switch {
	case who.itself:
		return nil
	case who.Name == "":
		return refuse(SignInFirst, "sign in, or send a token, to %s", act)
	case who.Token != "" && signedInOnly[act]:
		return refuse(Forbidden, "a token may not %s; sign in with your password", act)
	case !slices.Contains(Access[act], who.Role):
		return refuse(Forbidden, "%s is %s%s; %s may %s", who.Full, article(who.Role), of, either(Access[act]), act)
	}
	return nil
}

// article is a role with the article before it.
func article(r Role) string {
	if r == Admin || r == Editor {
		return "an " + string(r)
	}
	return "a " + string(r)
}

// either names roles: "an admin or an editor".
func either(roles []Role) string {
	names := make([]string, len(roles))
	for i, r := range roles {
		names[i] = article(r)
	}
	return strings.Join(names, " or ")
}

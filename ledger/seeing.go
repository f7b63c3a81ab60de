package ledger

import (
	"context"
	"slices"
	"strings"
)

// Seeing is as whom the actor looks; "" as themselves.
func (a Actor) Seeing() string { return a.seeing }

// SeeAs is the actor as somebody else, to look and change nothing: "nobody", "signed-in", "link pilotage" for whoever gave the password of
// a link, "reader of Quayside" for a role in a team. Whoever may say who reads may; of a team or an API where they may there.
func (l *Ledger) SeeAs(_ context.Context, who Actor, as string) (Actor, error) {
	if err := mayAnywhere(who, SetAudience); err != nil {
		return Nobody, err
	}
	word, of, _ := strings.Cut(as, " ")
	team, ofTeam := strings.CutPrefix(of, "of ")
	seen := Nobody
	switch {
	case as == "nobody":
	case as == string(SignedIn):
		seen = By(Person{Name: someone, Full: "Somebody who is signed in"})
	case word == string(LinkHolder) && of != "":
		if err := l.may(who, SetAudience, of); err != nil {
			return Nobody, err
		}
		seen = Nobody.Reading(of)
	case ofTeam && slices.Contains(TeamRoles, Role(word)):
		if err := mayIn(who, SetAudience, team, ""); err != nil {
			return Nobody, err
		}
		seen = By(Person{Name: someone, Full: "Somebody who is " + article(Role(word)) + " " + of, Teams: map[string]Role{team: Role(word)}})
	default:
		return Nobody, refuse(Invalid, "one sees as nobody, signed-in, link API, or as ROLE of TEAM, such as reader of Quayside; not as %q", as)
	}
	seen.seeing = as
	return seen, nil
}

// looks are the acts that change nothing.
var looks = []Act{ReadInside, DryRun, Verify, SeeWaiting, SeeJournal, SeePeople, SeeStyle, SeeCalls, SeeConsumers, SeeImpact}

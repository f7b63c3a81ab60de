package ledger

import (
	"context"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"

	"oldledger/ledger/records"
)

// Identity is who somebody is by the word of a provider of identities (OpenID Connect): the issuer's subject, which never changes, and what
// it says of them now.
type Identity struct {
	Issuer, Subject string
	Name            string // that they would like to sign in by; "" for one made of Full
	Full            string
	Groups          []string
}

// GroupRole is what whoever is in a provider's group is here: in a team or, where Team is "", in all.
type GroupRole struct {
	Group string
	Role  Role
	Team  string
}

// ParseGroupRole reads GROUP=ROLE of TEAM, or GROUP=ROLE for a role in all teams. A group may have any characters.
func ParseGroupRole(text string) (GroupRole, error) {
	for i := len(text) - 1; i > 0; i-- {
		if text[i] != '=' {
			continue
		}
		word, team, inTeam := strings.Cut(text[i+1:], " of ")
		g := GroupRole{Group: text[:i], Role: Role(strings.TrimSpace(word)), Team: strings.TrimSpace(team)}
		if inTeam && slices.Contains(TeamRoles, g.Role) && g.Team != "" || !inTeam && g.Role != NoRole && g.Role.everywhere() == nil {
			return g, nil
		}
	}
	return GroupRole{}, refuse(Invalid, "%q says of no group what it is; write GROUP=lead of Quayside, or GROUP=auditor for a role in all teams", text)
}

// providerWord is how long tokens and feeds go by what a provider said of somebody: until then they sign in again.
const providerWord = 30 * 24 * time.Hour

// ProviderSignIn is the person of an identity, for somebody at a network address; one is made at the first time. Where groups say what they
// are, they are that and nothing else in the teams that any group speaks of, from now on. The last admin stays one.
func (l *Ledger) ProviderSignIn(ctx context.Context, id Identity, groups []GroupRole, address string) (Actor, error) {
	if id.Issuer == "" || id.Subject == "" || len(id.Subject) > maxSubject {
		return Nobody, refuse(Invalid, "the provider does not say who this is")
	}
	name := ""
	err := l.view(Itself).act(ctx, "", func(w view) error {
		w.quiet()
		p, err := w.personOfIdentity(ctx, id)
		if err != nil {
			return err
		}
		name = p.Name
		if len(groups) > 0 {
			if err := w.takeGroups(ctx, &p, id.Groups, groups); err != nil {
				return err
			}
		}
		if called(id.Full) {
			p.Full = id.Full
		}
		if err := w.rows.PutPerson(ctx, p); err != nil {
			return err
		}
		row := records.Identity{Issuer: id.Issuer, Subject: id.Subject, Person: name, SeenAt: w.stamp()}
		if err := w.rows.PutIdentity(ctx, row); err != nil {
			return err
		}
		return w.appendJournal(ctx, "person.signed-in", name, map[string]string{"from": address, "by": id.Issuer})
	})
	if err != nil {
		return Nobody, err
	}
	return l.Actor(ctx, name)
}

// maxSubject bounds what an issuer calls somebody (OpenID Connect Core, section 2).
const maxSubject = 255

// personOfIdentity is the person of an identity, made where there is none. Nobody is taken for somebody who signs in by a password.
func (w view) personOfIdentity(ctx context.Context, id Identity) (records.Person, error) {
	known, err := w.rows.Identity(ctx, id.Issuer, id.Subject)
	if err == nil {
		p, err := w.rows.Person(ctx, known.Person)
		if err == nil && p.LeftAt != "" {
			err = refuse(Forbidden, "%s was let go here; an admin lets them in again", known.Person)
		}
		return p, err
	}
	if !isNotFound(err) {
		return records.Person{}, err
	}
	name, err := w.freeName(ctx, id)
	if err != nil {
		return records.Person{}, err
	}
	full := id.Full
	if !called(full) {
		full = name
	}
	p := records.Person{Name: name, Full: full}
	if err := w.rows.AddPerson(ctx, p); err != nil {
		return p, err
	}
	return p, w.appendJournal(ctx, "person.added", name, map[string]string{
		"everywhere": "", "by": id.Issuer, "identity": identityID(id.Issuer, id.Subject),
	})
}

// identityID names an identity in the journal, which keeps whose it is and not what a provider calls them.
func identityID(issuer, subject string) string { return tokenHash(issuer + "\n" + subject)[:tokenID] }

var notInName = regexp.MustCompile(`[^a-z0-9.-]+`)

// freeName is a sign-in name that nobody has or had, as near as can be to the one that the provider tells.
func (w view) freeName(ctx context.Context, id Identity) (string, error) {
	wish, _, _ := strings.Cut(id.Name, "@")
	if wish == "" {
		wish = id.Full
	}
	wish = strings.Trim(notInName.ReplaceAllString(strings.ToLower(wish), "-"), "-.")
	wish = strings.TrimLeft(wish, "-.0123456789")
	if wish == "" {
		wish = "someone"
	}
	wish = wish[:min(len(wish), maxName)]
	for n := 1; n < 10_000; n++ {
		name := wish
		if n > 1 {
			name = fmt.Sprintf("%s-%d", wish, n)
		}
		if _, err := w.rows.Person(ctx, name); isNotFound(err) {
			return name, nil
		} else if err != nil {
			return "", err
		}
	}
	return "", refuse(Conflict, "too many are called %s", wish)
}

// maxName leaves room for a number behind a name.
const maxName = 34

// takeGroups makes a person what the groups say that they are in.
func (w view) takeGroups(ctx context.Context, p *records.Person, in []string, groups []GroupRole) error {
	teams, err := w.rows.Teams(ctx)
	if err != nil {
		return err
	}
	everywhere, is, spoken := NoRole, map[string]Role{}, map[string]bool{}
	for _, g := range groups {
		there := g.Team == "" || slices.ContainsFunc(teams, func(t records.Team) bool { return t.Name == g.Team })
		if !there {
			continue // it may come, or is gone
		}
		spoken[g.Team] = true
		switch {
		case !slices.Contains(in, g.Group):
		case g.Team == "":
			everywhere = more(everywhere, g.Role)
		default:
			is[g.Team] = more(is[g.Team], g.Role)
		}
	}
	members, err := w.rows.Members(ctx, p.Name)
	if err != nil {
		return err
	}
	was := map[string]Role{}
	for _, m := range members {
		was[m.Team] = Role(m.Role)
	}
	for _, team := range slices.Sorted(maps.Keys(spoken)) {
		if team == "" || was[team] == is[team] {
			continue
		}
		if err := w.takeRole(ctx, p.Name, team, was[team], is[team]); err != nil {
			return err
		}
	}
	if !spoken[""] || p.Role == string(everywhere) {
		return nil
	}
	if p.Role == string(Admin) {
		people, err := w.rows.AllPeople(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(people, func(o records.Person) bool { return o.Name != p.Name && o.Role == string(Admin) && o.LeftAt == "" }) {
			return nil
		}
	}
	before := p.Role
	p.Role = string(everywhere)
	return w.appendJournal(ctx, "person.role-set", p.Name, map[string]string{"everywhere": p.Role, "before": before})
}

func (w view) takeRole(ctx context.Context, person, team string, before, now Role) error {
	if now == NoRole {
		if err := w.rows.DropMember(ctx, team, person); err != nil {
			return err
		}
		return w.appendJournal(ctx, "member.dropped", team, map[string]string{"person": person, "before": string(before)})
	}
	if err := w.rows.PutMember(ctx, records.Member{Team: team, Person: person, Role: string(now)}); err != nil {
		return err
	}
	return w.appendJournal(ctx, "member.set", team, map[string]string{"person": person, "role": string(now), "before": string(before)})
}

// more is the one of two roles that may more.
func more(a, b Role) Role {
	order := append([]Role{Admin}, append(slices.Clone(TeamRoles), Auditor, NoRole)...)
	if slices.Index(order, a) < slices.Index(order, b) {
		return a
	}
	return b
}

// vouched refuses somebody of whom a provider said too long ago who they are, for what acts without them.
func (l *Ledger) vouched(ctx context.Context, person string) error {
	id, err := l.store.Read().IdentityOf(ctx, person)
	if isNotFound(err) {
		return nil
	}
	if err == nil && id.SeenAt < l.Today().Add(-providerWord).Format(time.RFC3339) {
		return refuse(SignInFirst, "%s signed in by %s more than %d days ago; sign in again", person, id.Issuer, int(providerWord.Hours()/24))
	}
	return err
}

package ledger

import (
	"context"
	"maps"
	"slices"
	"strings"
	"unicode"

	"github.com/alexedwards/argon2id"

	"oldledger/ledger/records"
)

// maxFull bounds what a person or a team is called, in bytes.
const maxFull = 100

// check says what is wrong with what a person is to be.
func (p Person) check() error {
	if !called(p.Full) {
		return refuse(Invalid, "say what %s is called, in at most %d characters without line breaks", p.Name, maxFull)
	}
	return p.Role.everywhere()
}

// everywhere refuses what nobody can be in all teams.
func (r Role) everywhere() error {
	if all := append([]Role{Admin, Auditor}, TeamRoles...); r != NoRole && !slices.Contains(all, r) {
		return refuse(Invalid, "%q is no role; in all teams one is %s, or nothing", r, either(all))
	}
	return nil
}

// called reports whether something can be called so: it can be read, and begins and ends with what can be seen.
func called(name string) bool {
	return name != "" && len(name) <= maxFull && strings.TrimSpace(name) == name && !strings.ContainsFunc(name, func(r rune) bool {
		return !unicode.IsPrint(r)
	})
}

// person reads a person who can sign in, with their teams.
func (l *Ledger) person(ctx context.Context, r records.Rows, name string) (Person, error) {
	row, err := r.Person(ctx, name)
	if isNotFound(err) || err == nil && row.LeftAt != "" {
		return Person{}, refuse(SignInFirst, "there is no %s any more", name)
	}
	if err != nil {
		return Person{}, err
	}
	members, err := r.Members(ctx, name)
	return personOf(row, members), err
}

// personOf is a person as their rows have them.
func personOf(row records.Person, members []records.Member) Person {
	p := Person{Name: row.Name, Full: row.Full, Role: Role(row.Role)}
	for _, m := range members {
		if p.Teams == nil {
			p.Teams = map[string]Role{}
		}
		p.Teams[m.Team] = Role(m.Role)
	}
	return p
}

// People are all who can sign in, by name.
func (l *Ledger) People(ctx context.Context, who Actor) ([]Person, error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return nil, err
	}
	r := l.store.Read()
	rows, err := r.AllPeople(ctx)
	if err != nil {
		return nil, err
	}
	members, err := r.Members(ctx, "")
	if err != nil {
		return nil, err
	}
	teams := map[string]map[string]Role{}
	for _, m := range members {
		if teams[m.Person] == nil {
			teams[m.Person] = map[string]Role{}
		}
		teams[m.Person][m.Team] = Role(m.Role)
	}
	people := []Person{}
	for _, row := range rows {
		if row.LeftAt == "" {
			people = append(people, Person{row.Name, row.Full, Role(row.Role), teams[row.Name]})
		}
	}
	return people, nil
}

// SetRole says what a person is in all teams from now on; NoRole for nothing but what they are in their own. One admin stays.
func (l *Ledger) SetRole(ctx context.Context, who Actor, name string, to Role) error {
	if err := l.may(who, SetPeople, ""); err != nil {
		return err
	}
	if err := to.everywhere(); err != nil {
		return err
	}
	return l.changePerson(ctx, who, name, func(w view, p *records.Person) error {
		before := p.Role
		if before == string(to) {
			return nil
		}
		p.Role = string(to)
		return w.appendJournal(ctx, "person.role-set", name, map[string]string{"everywhere": string(to), "before": before})
	})
}

// DropPerson lets a person go: they cannot sign in any more, their sessions and tokens act for nobody, and they are in no team. What they
// did stays, and so does their name: nobody else gets it.
func (l *Ledger) DropPerson(ctx context.Context, who Actor, name string) error {
	if err := l.may(who, SetPeople, ""); err != nil {
		return err
	}
	return l.changePerson(ctx, who, name, func(w view, p *records.Person) error {
		members, err := w.rows.Members(ctx, name)
		if err != nil {
			return err
		}
		for _, m := range members {
			if err := w.rows.DropMember(ctx, m.Team, name); err != nil {
				return err
			}
		}
		for _, drop := range []func(context.Context, string) error{
			w.rows.DropTokens, w.rows.DropSessions, w.rows.DropInvitations, w.rows.DropFeeds,
		} {
			if err := drop(ctx, name); err != nil {
				return err
			}
		}
		p.LeftAt, p.Role = w.stamp(), ""
		return w.appendJournal(ctx, "person.left", name, map[string]string{})
	})
}

// changePerson changes a person who is there, unless nobody would be an admin then, or whoever asks is none any more.
func (l *Ledger) changePerson(ctx context.Context, who Actor, name string, change func(view, *records.Person) error) error {
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.still(ctx, SetPeople, ""); err != nil {
			return err
		}
		p, err := w.rows.Person(ctx, name)
		if isNotFound(err) || err == nil && p.LeftAt != "" {
			return refuse(NotFound, "there is no %s", name)
		}
		if err != nil {
			return err
		}
		if err := change(w, &p); err != nil {
			return err
		}
		if err := w.rows.PutPerson(ctx, p); err != nil {
			return err
		}
		people, err := w.rows.AllPeople(ctx)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(people, func(p records.Person) bool { return p.Role == string(Admin) && p.LeftAt == "" }) {
			return refuse(Conflict, "%s is the last admin; make somebody else one first", name)
		}
		return nil
	})
}

// still refuses what was the actor's to do when it was asked, and is not any more: whoever gives and takes roles is asked for their own in
// the transaction that does it.
func (w view) still(ctx context.Context, act Act, team string) error {
	if w.who.itself {
		return nil
	}
	p, err := w.person(ctx, w.rows, w.who.Name)
	if err != nil {
		return err
	}
	return mayIn(Actor{Person: p, Token: w.who.Token, scopes: w.who.scopes, apis: w.who.apis}, act, team, "")
}

// Readmit makes somebody who is there an admin again, or anew, under a password that it makes and returns: the way in for whoever keeps
// the machine, where no admin can sign in any more. The journal keeps that it was used.
func (l *Ledger) Readmit(ctx context.Context, name string) (password string, err error) {
	if password, err = l.secret(12); err != nil {
		return "", err
	}
	hash, err := argon2id.CreateHash(password, argon)
	if err != nil {
		return "", err
	}
	return password, l.view(Itself).act(ctx, "", func(w view) error {
		w.quiet()
		p, err := w.rows.Person(ctx, name)
		if isNotFound(err) {
			return refuse(NotFound, "there is nobody called %s, and there never was", name)
		}
		if err != nil {
			return err
		}
		p.Password, p.Role, p.LeftAt = hash, string(Admin), ""
		if err := w.rows.PutPerson(ctx, p); err != nil {
			return err
		}
		return w.appendJournal(ctx, "person.readmitted", name, map[string]string{"everywhere": string(Admin)})
	})
}

// TakeOver enters in the journal, once, whose each API is and what everybody is in all teams: what the journal of an earlier version of
// the ledger does not say.
func (l *Ledger) TakeOver(ctx context.Context) error {
	if err := l.takeOverAudience(ctx); err != nil {
		return err
	}
	if err := l.plantTree(ctx); err != nil {
		return err
	}
	r := l.store.Read()
	done, err := r.FindActs(ctx, records.Question{Act: tookOver}, 0, false, 1)
	if err != nil || len(done) > 0 {
		return err
	}
	return l.view(Itself).act(ctx, "", func(w view) error {
		detail := map[string]string{}
		apis, err := w.rows.APIs(ctx)
		if err != nil {
			return err
		}
		for _, a := range apis {
			detail["api "+a.Name] = a.Team
		}
		people, err := w.rows.AllPeople(ctx)
		if err != nil {
			return err
		}
		for _, p := range people {
			if p.LeftAt == "" {
				detail["person "+p.Name] = p.Role
			}
		}
		teams, err := w.rows.Teams(ctx)
		if err != nil {
			return err
		}
		for _, t := range teams {
			detail["team "+t.Name] = t.MadeBy
		}
		w.quiet()
		return w.appendJournal(ctx, tookOver, "", detail)
	})
}

// tookOver is the act by which a ledger says what it found.
const tookOver = "teams.taken-over"

// sortedTeams are the teams that somebody is in, by name.
func (p Person) sortedTeams() []string { return slices.Sorted(maps.Keys(p.Teams)) }

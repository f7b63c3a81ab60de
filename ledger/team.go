package ledger

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"oldledger/ledger/records"
)

// Team keeps APIs. Its members have a role in it, and so has whoever has one in all teams.
type Team struct {
	Name    string
	Members []Member // by name
	APIs    []string // that it keeps and the actor may know of, by name
	Offers  []string // APIs that another team offers it, for those who may take them, and for that team
}

// Member is somebody in a team.
type Member struct {
	Name string
	Full string
	Role Role
}

// Teams are all teams, by name.
func (l *Ledger) Teams(ctx context.Context, who Actor) ([]Team, error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	rows, err := w.rows.Teams(ctx)
	if err != nil {
		return nil, err
	}
	people, err := l.People(ctx, who)
	if err != nil {
		return nil, err
	}
	apis, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	kept, err := w.rows.APIs(ctx)
	if err != nil {
		return nil, err
	}
	teams := make([]Team, len(rows))
	for i, row := range rows {
		t := Team{Name: row.Name, Members: []Member{}, APIs: []string{}, Offers: []string{}}
		for _, p := range people {
			if role := p.Teams[t.Name]; role != NoRole {
				t.Members = append(t.Members, Member{p.Name, p.Full, role})
			}
		}
		for _, a := range apis {
			if a.Team == t.Name {
				t.APIs = append(t.APIs, a.Name)
			}
		}
		for _, a := range kept {
			if a.Offered == t.Name && (l.keeping(a.Name).inside(who) || mayIn(who, Move, t.Name, t.Name) == nil) {
				t.Offers = append(t.Offers, a.Name)
			}
		}
		teams[i] = t
	}
	return teams, nil
}

// AddTeam makes a team.
func (l *Ledger) AddTeam(ctx context.Context, who Actor, name string) error {
	if err := l.may(who, SetTeams, ""); err != nil {
		return err
	}
	if !called(name) {
		return refuse(Invalid, "%q is no name of a team; it has 1 to %d characters, none of them a line break", name, maxFull)
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		teams, err := w.rows.Teams(ctx)
		if err != nil {
			return err
		}
		for _, t := range teams {
			if strings.EqualFold(t.Name, name) {
				return refuse(Conflict, "there is a team called %s already", t.Name)
			}
		}
		if err := w.rows.AddTeam(ctx, records.Team{Name: name, MadeAt: w.stamp(), MadeBy: cmp.Or(who.Name, "the ledger")}); err != nil {
			return err
		}
		return w.appendJournal(ctx, "teams.made", name, map[string]string{})
	})
}

// DropTeam dissolves a team that keeps no API and is offered none.
func (l *Ledger) DropTeam(ctx context.Context, who Actor, name string) error {
	if err := l.may(who, SetTeams, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.isTeam(ctx, name); err != nil {
			return err
		}
		reads, err := w.readBy(ctx, name)
		if err != nil {
			return err
		}
		if reads != "" {
			return refuse(Conflict, "%s is among the readers of %s; take it out there first", name, reads)
		}
		apis, err := w.rows.APIs(ctx)
		if err != nil {
			return err
		}
		for _, a := range apis {
			if a.Team == name || a.Offered == name {
				return refuse(Conflict, "%s keeps %s; give it to another team first", name, a.Name)
			}
		}
		consumers, err := w.rows.Consumers(ctx)
		if err != nil {
			return err
		}
		for _, c := range consumers {
			if c.Team == name {
				return refuse(Conflict, "%s keeps the consumer %s; give it to somebody else first", name, c.Name)
			}
		}
		if err := w.rows.DropSigns(ctx, name); err != nil {
			return err
		}
		if err := w.rows.DropTeam(ctx, name); err != nil {
			return err
		}
		if err := w.rows.DropStyles(ctx, StyleScope{Team: name}.stored()); err != nil {
			return err
		}
		return w.appendJournal(ctx, "teams.dissolved", name, map[string]string{})
	})
}

// isTeam refuses what is no team.
func (w view) isTeam(ctx context.Context, name string) error {
	teams, err := w.rows.Teams(ctx)
	if err != nil || slices.ContainsFunc(teams, func(t records.Team) bool { return t.Name == name }) {
		return err
	}
	names := make([]string, len(teams))
	for i, t := range teams {
		names[i] = t.Name
	}
	if len(names) == 0 {
		return refuse(NotFound, "there is no team called %q, nor any other; an admin makes one: oldledger team %q --new", name, name)
	}
	return refuse(NotFound, "there is no team called %q; there are %s", name, strings.Join(names, ", "))
}

// PutMember says what a person is in a team from now on.
func (l *Ledger) PutMember(ctx context.Context, who Actor, team, person string, role Role) error {
	if !slices.Contains(TeamRoles, role) {
		return refuse(Invalid, "%q is no role; in a team one is %s", role, either(TeamRoles))
	}
	return l.changeMember(ctx, who, team, func(w view) error {
		if p, err := w.rows.Person(ctx, person); isNotFound(err) || err == nil && p.LeftAt != "" {
			return refuse(NotFound, "there is nobody called %s", person)
		} else if err != nil {
			return err
		}
		before, err := w.roleIn(ctx, team, person)
		if err != nil || before == role {
			return err
		}
		if err := w.rows.PutMember(ctx, records.Member{Team: team, Person: person, Role: string(role)}); err != nil {
			return err
		}
		return w.appendJournal(ctx, "member.set", team, map[string]string{"person": person, "role": string(role), "before": string(before)})
	})
}

// DropMember takes a person out of a team.
func (l *Ledger) DropMember(ctx context.Context, who Actor, team, person string) error {
	return l.changeMember(ctx, who, team, func(w view) error {
		before, err := w.roleIn(ctx, team, person)
		if err != nil {
			return err
		}
		if before == NoRole {
			return refuse(NotFound, "%s is not in %s", person, team)
		}
		if err := w.rows.DropMember(ctx, team, person); err != nil {
			return err
		}
		return w.appendJournal(ctx, "member.dropped", team, map[string]string{"person": person, "before": string(before)})
	})
}

func (l *Ledger) changeMember(ctx context.Context, who Actor, team string, change func(view) error) error {
	if err := mayIn(who, SetMembers, team, team); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if err := w.isTeam(ctx, team); err != nil {
			return err
		}
		if err := w.still(ctx, SetMembers, team); err != nil {
			return err
		}
		return change(w)
	})
}

// roleIn is what a person is in a team.
func (w view) roleIn(ctx context.Context, team, person string) (Role, error) {
	members, err := w.rows.Members(ctx, person)
	for _, m := range members {
		if m.Team == team && m.Person == person {
			return Role(m.Role), err
		}
	}
	return NoRole, err
}

// mayAnywhere refuses an act that is not the actor's to do in any team.
func mayAnywhere(who Actor, act Act) error {
	for _, team := range who.sortedTeams() {
		if mayIn(who, act, team, "") == nil {
			return nil
		}
	}
	return mayIn(who, act, "", "")
}

// teamFor finds the team that keeps an API, where an act there is the actor's to do; of a new API the one that was said or, where the actor
// may do so in one alone, that one.
func (w view) teamFor(ctx context.Context, act Act, api, said string) (string, error) {
	row, err := w.rows.API(ctx, api)
	if err == nil {
		if err := mayIn(w.who, act, row.Team, api); err != nil {
			return "", err
		}
		if said != "" && said != row.Team {
			return "", refuse(Conflict, "%s is kept by %s; settle it with another team first", api, cmp.Or(row.Team, "no team"))
		}
		return row.Team, nil
	}
	if !isNotFound(err) {
		return "", err
	}
	if !w.who.reaches(api) {
		return "", mayIn(w.who, act, "", api)
	}
	if said != "" {
		if err := w.isTeam(ctx, said); err != nil {
			return "", err
		}
		return said, mayIn(w.who, act, said, api)
	}
	if mayIn(w.who, act, "", "") == nil {
		return "", nil
	}
	mine := slices.DeleteFunc(w.who.sortedTeams(), func(team string) bool { return mayIn(w.who, Record, team, "") != nil })
	switch len(mine) {
	case 0:
		if act == DryRun {
			return "", nil // whoever may record nothing may see what it would do
		}
		return "", mayIn(w.who, act, "", api)
	case 1:
		return mine[0], nil
	}
	return "", refuse(Invalid, "say which of your teams keeps %s: %s", api, strings.Join(mine, ", "))
}

package ledger

import (
	"encoding/json"
	"slices"
	"strings"
	"unicode"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// Audience is who may read something beside the team that keeps it and those who have a role in all teams: some groups, in order, each
// once. The empty one is the team alone.
type Audience []Group

// Group is some people: Everyone, SignedIn, LinkHolder, or the members of a team (OfTeam).
type Group string

// The groups beside the teams.
const (
	Everyone   Group = "everyone"
	SignedIn   Group = "signed-in" // who has a name here
	LinkHolder Group = "link"      // who has a link and its password; of a draft, who has the address of a preview
)

// OfTeam are the members of a team.
func OfTeam(name string) Group { return Group(teamGroup + name) }

const (
	teamGroup = "team "
	ownTeam   = "team" // stands for the empty audience where one is written down
)

// Team is the name of the team whose members the group is; "" where it is another one.
func (g Group) Team() string {
	name, ok := strings.CutPrefix(string(g), teamGroup)
	if !ok {
		return ""
	}
	return name
}

// String names the groups: "everyone", "signed-in, team Navigation"; the empty audience is "team".
func (a Audience) String() string {
	if len(a) == 0 {
		return ownTeam
	}
	return strings.Join(a.Groups(), ", ")
}

// Groups are the names of the groups; never nil.
func (a Audience) Groups() []string {
	all := make([]string, len(a))
	for i, g := range a {
		all[i] = string(g)
	}
	return all
}

// AudienceOf reads groups by their names; "team" is the API's own, which always reads. Whether there is such a team is not asked. What is
// no group is a refusal.
func AudienceOf(groups []string) (Audience, error) {
	all := Audience{}
	for _, text := range groups {
		g := Group(strings.TrimSpace(text))
		switch team := strings.TrimSpace(g.Team()); {
		case g == ownTeam:
			continue
		case team != "":
			all = append(all, OfTeam(team))
		case g == Everyone, g == SignedIn, g == LinkHolder:
			all = append(all, g)
		default:
			return nil, refuse(Invalid, "%q is no group of readers; there are everyone, signed-in, link, team, and team NAME%s", string(g),
				source.DidYouMean(string(g), []string{string(Everyone), string(SignedIn), string(LinkHolder), ownTeam}))
		}
	}
	return all.tidy(), nil
}

// tidy orders the groups, names each once, and leaves out those that others hold.
func (a Audience) tidy() Audience {
	tidy := slices.Clone(a)
	if slices.Contains(tidy, Everyone) {
		return Audience{Everyone}
	}
	if slices.Contains(tidy, SignedIn) {
		tidy = slices.DeleteFunc(tidy, func(g Group) bool { return g.Team() != "" })
	}
	slices.Sort(tidy)
	return slices.Compact(tidy)
}

// What holds where nothing is said.
var (
	usualAudience = Audience{SignedIn}   // of what is published
	usualDrafts   = Audience{LinkHolder} // of drafts: the team, and to whom it shows one
)

// stored is the audience as its row has it, a JSON list.
func (a Audience) stored() string {
	text, err := json.Marshal(a.Groups())
	if err != nil {
		panic(err) // a list of texts can be written
	}
	return string(text)
}

// storedAudience reads what stored wrote. What was written by others and cannot be read opens nothing.
func storedAudience(text string) Audience {
	a := Audience{}
	if json.Unmarshal([]byte(text), &a) != nil {
		return Audience{}
	}
	return a
}

// Part is a part of an API that can be open to fewer than the API: an operation by its method and path, "GET /berths/{berth}", or a group
// of operations by its name. The zero Part is the whole API.
type Part struct{ Operation, Group string }

// key is the same for a part whatever its path's parameters are called.
func (p Part) key() Part { return Part{contract.WirePath(p.Operation), p.Group} }

// String names the part: "operation GET /berths/{berth}", "group Dues", "".
func (p Part) String() string {
	switch {
	case p.Operation != "":
		return "operation " + p.Operation
	case p.Group != "":
		return "group " + p.Group
	}
	return ""
}

// PartOf reads the name of a part.
func PartOf(text string) (Part, error) {
	kind, name, _ := strings.Cut(strings.TrimSpace(text), " ")
	name = strings.TrimSpace(name)
	switch {
	case kind == "":
		return Part{}, nil
	case strings.ContainsFunc(name, unicode.IsControl):
		return Part{}, refuse(Invalid, "%q is no name of a part: a line break or the like is in it", name)
	case kind == "operation" && name != "":
		return Part{Operation: name}, nil
	case kind == "group" && name != "":
		return Part{Group: name}, nil
	}
	return Part{}, refuse(Invalid, "%q is no part of an API; a part reads operation bookBerth, operation GET /berths or group Dues", text)
}

// storedPart reads what String wrote. What was written by others and cannot be read is no part of anything.
func storedPart(text string) Part {
	p, err := PartOf(text)
	if err != nil {
		return Part{Group: text}
	}
	return p
}

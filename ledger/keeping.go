package ledger

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/ledger/records"
)

// Audiences is to whom an API is open.
type Audiences struct {
	Published, Drafts                 Audience
	PublishedAsLedger, DraftsAsLedger bool           // whether they are what the ledger says of every API of which nothing else is said
	Parts                             []PartAudience // parts of it that are open to fewer, by name
}

// PartAudience is to whom a part of an API is open, of those who read the API.
type PartAudience struct {
	Part     Part
	Audience Audience
}

// keeping is whose an API is, and to whom it is open, as it was when it was read. It never changes.
type keeping struct {
	api, team string
	opens     string // names to whom it is open: the same for all APIs that are open to the same
	Audiences
}

// keptBy makes a keeping of what is recorded of an API, and of what the ledger says of every API.
func keptBy(api, team string, rows, usual []records.Audience) *keeping {
	k := &keeping{api: api, team: team}
	for _, row := range append(slices.Clip(rows), usual...) {
		if row.Part != "" {
			k.Parts = append(k.Parts, PartAudience{storedPart(row.Part), storedAudience(row.Published)})
			continue
		}
		ledgers := row.API == ""
		if k.Published == nil && row.Published != "" {
			k.Published, k.PublishedAsLedger = storedAudience(row.Published), ledgers
		}
		if k.Drafts == nil && row.Drafts != "" {
			k.Drafts, k.DraftsAsLedger = storedAudience(row.Drafts), ledgers
		}
	}
	if k.Published == nil {
		k.Published, k.PublishedAsLedger = usualAudience, true
	}
	if k.Drafts == nil {
		k.Drafts, k.DraftsAsLedger = usualDrafts, true
	}
	k.opens = k.named()
	return k
}

// inside reports whether somebody belongs to the API's team, and sees what it has not published.
func (k *keeping) inside(who Actor) bool { return who.inside(k.team) && who.reaches(k.api) }

// admits reports whether somebody is in an audience of the API: in one of its groups, in its team, or has a role in all teams. Who
// reads on a shelf is in none of what does not stand there.
func (k *keeping) admits(who Actor, to Audience) bool {
	if !who.shelf.has(k.api) {
		return false
	}
	if who.itself || who.Role != NoRole || k.team != "" && who.Teams[k.team] != NoRole && who.reaches(k.api) {
		return true
	}
	for _, g := range to {
		switch team := g.Team(); {
		case g == Everyone, g == SignedIn && who.Name != "", g == LinkHolder && slices.Contains(who.opened, k.api):
			return true
		case team != "" && who.Teams[team] != NoRole && who.reaches(k.api):
			return true
		}
	}
	return false
}

// shuts reports whether nothing of the API is for somebody, whatever there is of it.
func (k *keeping) shuts(who Actor) bool {
	return !k.inside(who) && !k.admits(who, k.Published) && (who.reading || !k.admits(who, k.Drafts)) && !k.holdsPreview(who)
}

// holdsPreview reports whether somebody holds the address of a preview of the API that still shows it.
func (k *keeping) holdsPreview(who Actor) bool {
	return who.holds != "" && apiOf(who.holds) == k.api && slices.Contains(k.Drafts, LinkHolder)
}

// lacks are the names of the parts of the API that are not for somebody, one a line; "" where all of it is. Who holds the address of a
// preview reads what those do who hold a link.
func (k *keeping) lacks(who Actor) string {
	if len(k.Parts) == 0 {
		return ""
	}
	var all []string
	for _, p := range k.Parts {
		if !k.admits(who, p.Audience) && !(k.holdsPreview(who) && slices.Contains(p.Audience, LinkHolder)) {
			all = append(all, p.Part.String())
		}
	}
	return strings.Join(all, "\n")
}

// cardKey names what somebody lacks of the API where they read: parts of it, and the versions that do not stand there.
func (k *keeping) cardKey(who Actor) string {
	if who.shelf == nil || len(who.shelf.picks[k.api]) == 0 {
		return k.lacks(who)
	}
	return "all but " + who.shelf.picks[k.api].stored() + "\n" + k.lacks(who)
}

// standing names what somebody sees of the API: the same for all who see the same, "" for what everybody sees of an API that is open to
// everyone, and no part of it to fewer.
func (k *keeping) standing(who Actor) string {
	if k.inside(who) {
		return "inside"
	}
	text := ""
	if who.shelf != nil && who.shelf.has(k.api) {
		text = "only " + who.shelf.picks[k.api].stored() + " "
	}
	if !k.admits(who, k.Published) {
		text += "nothing published "
	}
	if k.admits(who, k.Drafts) && !who.reading {
		text += "drafts "
	}
	return text + k.lacks(who)
}

// named names to whom the API is open.
func (k *keeping) named() string {
	var b strings.Builder
	fmt.Fprintf(&b, "%q %q", k.team, k.Published)
	if slices.Contains(k.Published, LinkHolder) {
		fmt.Fprintf(&b, " %q", k.api) // whoever holds its link holds no other's
	}
	for _, p := range k.Parts {
		fmt.Fprintf(&b, " %q %q", p.Part, p.Audience)
	}
	return b.String()
}

// openTo names what is open to somebody, of all APIs; nil where all of it is.
func (l *Ledger) openTo(who Actor) []records.Open {
	l.Generation(who, "")
	l.generations.mu.RLock()
	defer l.generations.mu.RUnlock()
	all, each := who.shelf == nil, map[string]*keeping{}
	for _, k := range l.generations.kept {
		switch {
		case who.shelf == nil:
			each[k.opens] = k
		case who.shelf.has(k.api):
			each[k.api] = k
		}
	}
	open := []records.Open{}
	for _, k := range each {
		if !k.admits(who, k.Published) {
			all = false
			continue
		}
		all = all && len(k.Parts) == 0
		o := records.Open{To: k.opens, Lacks: k.cardKey(who)}
		if who.shelf != nil {
			o.API = k.api
		}
		open = append(open, o)
	}
	if all {
		return nil
	}
	return open
}

// Standing names what somebody sees of an API: the same text for all who see the same; "" for what everybody sees of one that is open to
// everyone, and no part of it to fewer.
func (l *Ledger) Standing(who Actor, api string) string { return l.keeping(api).standing(who) }

// Public reports whether everybody reads what somebody reads of an API: then those may keep it who keep pages for many.
func (l *Ledger) Public(who Actor, api string) bool {
	k := l.keeping(api)
	nobody := nobodyAt(who.shelf)
	return l.Common(nobody) && k.admits(nobody, k.Published) && k.lacks(who) == k.lacks(nobody)
}

// Common reports whether everybody sees what somebody sees of all APIs where they read.
func (l *Ledger) Common(who Actor) bool {
	nobody := nobodyAt(who.shelf)
	return l.Sight(who) == l.Sight(nobody) && (who.shelf == nil || who.shelf.admits(nobody))
}

func nobodyAt(s *Shelf) Actor {
	nobody := Nobody
	nobody.shelf = s
	return nobody
}

// Plain reports whether everybody reads an API, and all of it.
func (l *Ledger) Plain(api string) bool {
	k := l.keeping(api)
	return slices.Contains(k.Published, Everyone) && len(k.Parts) == 0
}

// Reader is somebody as a reader of one API: nothing of them but what counts there, so that all who are the same for it have the same
// Sight.
func (l *Ledger) Reader(who Actor, api string) Actor {
	k := l.keeping(api)
	reader := nobodyAt(who.shelf)
	if slices.Contains(k.Published, Everyone) && len(k.Parts) == 0 {
		return reader
	}
	reader.Teams = map[string]Role{}
	switch own := who.itself || who.Role != NoRole || who.Teams[k.team] != NoRole && who.reaches(api); {
	case own && k.team == "":
		reader.Role = Reader
		return reader
	case own:
		reader.Teams[k.team] = Reader
		return reader
	}
	for _, a := range append([]PartAudience{{Audience: k.Published}}, k.Parts...) {
		for _, g := range a.Audience {
			switch team := g.Team(); {
			case g == SignedIn && who.Name != "":
				reader.Name = someone
			case g == LinkHolder && slices.Contains(who.opened, api):
				reader.opened = []string{api}
			case team != "" && who.Teams[team] != NoRole && who.reaches(api):
				reader.Teams[team] = Reader
			}
		}
	}
	return reader
}

// someone stands for whoever is signed in.
const someone = "someone"

// TypicalReader is a reader of an API such as most are: of those who are in its audience, one who is in as few groups as that takes.
func (l *Ledger) TypicalReader(api string) Actor {
	k := l.keeping(api)
	all := []Actor{Nobody, {Person: Person{Name: someone}}, Nobody.Reading(api)}
	for _, g := range k.Published {
		if team := g.Team(); team != "" {
			all = append(all, Actor{Person: Person{Name: someone, Teams: map[string]Role{team: Reader}}})
		}
	}
	for _, who := range all {
		if k.admits(who, k.Published) {
			return l.Reader(who, api)
		}
	}
	return l.Reader(Itself, api)
}

// Sight names what somebody sees of all APIs together: the same text for all who see the same, "" for what everybody does.
func (l *Ledger) Sight(who Actor) string {
	at := who.shelf.sight()
	switch {
	case who.everywhere():
		return at + who.way() + "all"
	case who.Name == "" && len(who.opened)+len(who.Teams) == 0:
		return at
	}
	return at + who.way() + fmt.Sprintf("%t %q %q %q", who.Name != "", who.sortedTeams(), who.opened, who.apis)
}

// keptNow is how an API is kept by its row: in a transaction, that may be newer than what is known.
func (w view) keptNow(row records.API) *keeping {
	k := w.keeping(row.Name)
	if k.api == row.Name && k.team == row.Team {
		return k
	}
	now := keeping{api: row.Name, team: row.Team, Audiences: k.Audiences}
	if k == nobodys {
		now.Audiences = w.keeping("").Audiences
	}
	now.opens = now.named()
	return &now
}

// lackedBy tells which operations a description lacks without some parts, by the names of those.
func lackedBy(lacks string) func(key string, groups []string) bool {
	if lacks == "" {
		return nil
	}
	lacking := map[Part]bool{}
	for name := range strings.SplitSeq(lacks, "\n") {
		lacking[storedPart(name).key()] = true
	}
	return func(key string, groups []string) bool {
		return lacking[Part{Operation: key}] || slices.ContainsFunc(groups, func(g string) bool { return lacking[Part{Group: g}] })
	}
}

// ReadBy says who can read a version now, in words, and what to do where that is its team alone.
func (a API) ReadBy(v Version) string {
	published := a.Audiences.Published.words("whoever has a link and its password")
	switch {
	case v.Shown() && published == "":
		return "its team alone; open the API to others"
	case v.Shown():
		return published
	case v.State == Draft:
		if drafts := a.Audiences.Drafts.words("whoever has the address of a preview"); drafts != "" {
			return "its team, " + drafts
		}
		return "its team alone; publish it, or open its drafts to others"
	case v.State == Unpublished:
		return "its team alone: it was taken back; publish it again"
	}
	return "nobody: it is retired, and its address leads on"
}

// words name the groups: "everyone", "Navigation, whoever is signed in"; "" for nobody.
func (a Audience) words(holder string) string {
	var all []string
	for _, g := range slices.Backward(a) { // teams first
		switch team := g.Team(); {
		case team != "":
			all = append(all, team)
		case g == SignedIn:
			all = append(all, "whoever is signed in")
		case g == LinkHolder:
			all = append(all, holder)
		default:
			all = append(all, string(g))
		}
	}
	return strings.Join(all, ", ")
}

// ToldReaders says who reads what is published of an API, in words, to whoever may change that; "" to others.
func (l *Ledger) ToldReaders(who Actor, api string) string {
	k := l.keeping(api)
	if k == nobodys || mayIn(who, SetAudience, k.team, api) != nil {
		return ""
	}
	return cmp.Or(k.Published.words("whoever has a link"), "its team alone")
}

// Audience is who may read what nothing else is said of.
func (l *Ledger) Audience(_ context.Context, who Actor) (Audiences, error) {
	if err := l.may(who, SeePeople, ""); err != nil {
		return Audiences{}, err
	}
	return l.keeping("").Audiences, nil
}

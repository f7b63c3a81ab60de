package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"oldledger/ledger/records"
)

// Verification is the result of checking the journal, and of holding the records against it.
type Verification struct {
	Entries  int64
	Contents int    // how many texts were compared with their digests
	Head     string // the number and the hash of the newest entry, to be kept elsewhere: "49:8e47…"
	Intact   bool
	Broken   int64 // the first entry that does not fit; 0 where the records do not
	Why      string
}

// VerifyJournal checks every entry against its hash and the entry before it, the records against what the entries say was done, and every
// content against its digest. head is one that an earlier verification gave and that was kept elsewhere, "" for none: a journal that was
// cut or written anew does not lead to it.
func (l *Ledger) VerifyJournal(ctx context.Context, who Actor, head string) (Verification, error) {
	if err := l.may(who, Verify, ""); err != nil {
		return Verification{}, err
	}
	kept, hash, err := parseHead(head)
	if err != nil {
		return Verification{}, err
	}
	for range maxTries {
		v, moved, err := l.verify(ctx, kept, hash)
		if err != nil || !moved {
			return v, err
		}
	}
	return Verification{}, refuse(Conflict, "the records change faster than they can be verified; try again")
}

func parseHead(head string) (seq int64, hash string, err error) {
	if head == "" {
		return 0, "", nil
	}
	number, hash, _ := strings.Cut(head, ":")
	seq, err = strconv.ParseInt(number, 10, 64)
	if err != nil || seq < 1 || len(hash) != 64 {
		return 0, "", refuse(Invalid, "%q is no head of a journal; one reads 49:8e47… with 64 characters behind the colon", head)
	}
	return seq, hash, nil
}

// verify does it once. moved tells that something was done meanwhile.
func (l *Ledger) verify(ctx context.Context, kept int64, hash string) (v Verification, moved bool, err error) {
	r := l.store.Read()
	told := newAccount()
	v, err = l.chain(ctx, r, told, kept, hash)
	if err != nil || v.Why != "" {
		return v, false, err
	}
	if v.Why, err = told.against(ctx, r); err != nil {
		return v, false, err
	}
	last, _, err := r.LastEntry(ctx)
	if err != nil || last.Seq != v.Entries {
		return v, err == nil, err
	}
	if v.Why == "" {
		v.Why, err = l.treeAsWritten(ctx, r, v.Entries)
	}
	if v.Why == "" && err == nil {
		v.Why, v.Contents, err = contentsAsRecorded(ctx, r)
	}
	v.Intact = v.Why == ""
	return v, false, err
}

// chain goes through the entries, and takes down what they say was done.
func (l *Ledger) chain(ctx context.Context, r records.Rows, told *account, kept int64, hash string) (Verification, error) {
	const page = 500
	var v Verification
	previous := ""
	for {
		rows, err := r.Entries(ctx, v.Entries, page)
		if err != nil {
			return v, err
		}
		for _, e := range rows {
			switch {
			case e.Seq != v.Entries+1:
				v.Why = fmt.Sprintf("entry %d is missing", v.Entries+1)
			case e.Previous != previous:
				v.Why = fmt.Sprintf("entry %d does not follow the one before it", e.Seq)
			case e.Hash != entryHash(e):
				v.Why = fmt.Sprintf("entry %d was changed after it was written", e.Seq)
			case e.Seq == kept && e.Hash != hash:
				v.Why = fmt.Sprintf("entry %d is not the one whose head was kept: the journal was written anew", e.Seq)
			}
			if v.Why != "" {
				v.Broken = v.Entries + 1
				return v, nil
			}
			if err := told.take(e); err != nil {
				return v, err
			}
			v.Entries, previous = e.Seq, e.Hash
			v.Head = fmt.Sprintf("%d:%s", e.Seq, e.Hash)
		}
		if len(rows) < page {
			break
		}
	}
	if v.Entries < kept {
		v.Why = fmt.Sprintf("the journal ends with entry %d, and the head of entry %d was kept: its end was cut off", v.Entries, kept)
		v.Broken = v.Entries + 1
	}
	return v, nil
}

// contentsAsRecorded compares all contents with their digests.
func contentsAsRecorded(ctx context.Context, r records.Rows) (why string, n int, err error) {
	err = r.Contents(ctx, func(c records.Content) error {
		n++
		if why == "" && digest(c.Text, c.Others) != c.Digest {
			why = fmt.Sprintf("the content %s of %s is not what was recorded", c.Digest[:min(12, len(c.Digest))], c.File)
		}
		return nil
	})
	return why, n, err
}

// account is what the journal says: where each version stands and what it says, who may do what, what was let through, what leaves when,
// how long before that is announced, and how the reference reads.
type account struct {
	versions map[string]standing // by reference
	roles    map[string]string   // in all teams, by name; without those who left
	members  map[member]string   // roles
	teams    map[string]bool     // whether there is such a team
	keepers  map[string]string   // which team keeps an API
	tokens   map[made]int        // how many of each
	tookOver bool                // whether it has what an earlier version of the ledger did not enter
	waivers  map[string]int      // how many of each: "berths@1.2.0 0f3a… reason"
	allowed  map[string]string   // reasons, by "berths@1.2.0 finding"
	notices  []announced         // in the order in which they were made, which is that of their numbers
	periods  map[string]string   // in days, by API
	overlays map[string]string   // digests of what is shown, by reference
	promises map[string]string   // by API, and by "berths 2" for a line
	open     map[opened]opening  // to whom
	links    map[string]string   // which APIs they lead to, by id
	feeds    map[string]bool     // who has a secret address of feeds
	known    map[string]string   // by which identity of a provider somebody signs in

	switchers map[string]string     // to which versions the pages of an API lead
	called    map[string][2]string  // how an API is called: how its version is chosen, and what is done with what is not declared
	shelves   map[string]*toldShelf // by name
	styles    map[string]string     // digests of the house styles, by scope and version

	consumers map[string]map[string]string // what is said of each, by name
	signs     map[string]string            // by what they are recognised, by signKey
	logs      map[string]toldLog           // by number
	calls     map[string]int64             // by API
	plans     map[string]map[string]string // what is said of each, by API and name
	grants    map[string]string            // plans, by consumer, API and line
	issued    map[string]toldCredential    // by id
	relied    map[string]string            // digests of what consumers rely on, by consumer and API
	recorded  map[string]toldRecording     // by consumer and API
}

// opened is what somebody opened to others: an API, or a part of one.
type opened struct{ api, part string }

type opening struct{ published, drafts string }

type member struct{ team, person string }

// made is a token as it was made; of an earlier version of the ledger only whose it is and what for.
type made struct{ id, person, label, scopes, teams, apis, ends string }

type announced struct{ subject, sunset, replacedBy, reason string }

type standing struct{ state, digest string }

func newAccount() *account {
	return &account{
		versions: map[string]standing{}, roles: map[string]string{}, waivers: map[string]int{}, allowed: map[string]string{},
		periods: map[string]string{}, members: map[member]string{}, teams: map[string]bool{}, keepers: map[string]string{},
		tokens:   map[made]int{},
		overlays: map[string]string{}, promises: map[string]string{}, open: map[opened]opening{}, links: map[string]string{},
		feeds: map[string]bool{}, known: map[string]string{}, switchers: map[string]string{}, called: map[string][2]string{},
		shelves: map[string]*toldShelf{}, styles: map[string]string{},
		consumers: map[string]map[string]string{}, signs: map[string]string{}, logs: map[string]toldLog{}, calls: map[string]int64{},
		plans: map[string]map[string]string{}, grants: map[string]string{}, issued: map[string]toldCredential{},
		relied: map[string]string{}, recorded: map[string]toldRecording{},
	}
}

// take enters what one entry says.
func (a *account) take(e records.Entry) error {
	var d map[string]string
	if err := json.Unmarshal([]byte(e.Detail), &d); err != nil {
		return fmt.Errorf("entry %d of the journal: %w", e.Seq, err)
	}
	known := a.versions[e.Subject]
	switch e.Act {
	case "version.recorded":
		a.versions[e.Subject] = standing{string(Draft), d["digest"]}
	case "version.published", "version.republished":
		a.versions[e.Subject] = standing{string(Published), d["digest"]}
	case "version.unpublished":
		a.versions[e.Subject] = standing{string(Unpublished), known.digest}
	case "version.retired":
		a.versions[e.Subject] = standing{string(Retired), known.digest}
	case "person.added", "person.role-set", "person.readmitted":
		role, said := d["everywhere"]
		if !said { // by a ledger without teams, whose editors could publish
			if role = d["role"]; role == string(Editor) {
				role = string(Publisher)
			}
		}
		a.roles[e.Subject] = role
		if d["identity"] != "" {
			a.known[e.Subject] = d["identity"]
		}
	case "person.left":
		delete(a.roles, e.Subject)
		delete(a.feeds, e.Subject)
		maps.DeleteFunc(a.members, func(m member, _ string) bool { return m.person == e.Subject })
		maps.DeleteFunc(a.tokens, func(t made, _ int) bool { return t.person == e.Subject })
	case "member.set":
		a.members[member{e.Subject, d["person"]}] = d["role"]
	case "member.dropped":
		delete(a.members, member{e.Subject, d["person"]})
	case "teams.made":
		a.teams[e.Subject] = true
	case "teams.dissolved":
		delete(a.teams, e.Subject)
		a.dropStyles(StyleScope{Team: e.Subject})
		maps.DeleteFunc(a.signs, func(key, _ string) bool { return strings.HasSuffix(key, "\n"+e.Subject) })
		maps.DeleteFunc(a.members, func(m member, _ string) bool { return m.team == e.Subject })
	case "token.made":
		a.tokens[made{d["token"], e.Subject, d["label"], d["scopes"], d["teams"], cmp.Or(d["apis"], "[]"), d["ends"]}]++
	case "token.revoked":
		maps.DeleteFunc(a.tokens, func(t made, _ int) bool { return t.id == d["token"] })
	case "team.set":
		a.keepers[e.Subject] = d["team"]
	case tookOver:
		a.takeOver(d)
	case "change.waived":
		a.waivers[waiverKey(e.Subject, d["change"], d["reason"])]++
	case "credential.allowed", "mistake.allowed":
		a.allowed[e.Subject+" "+d["finding"]] = d["reason"]
	case "notice.made":
		a.notices = append(a.notices, announced{e.Subject, d["sunset"], d["replacedBy"], d["reason"]})
	case "notice.changed":
		a.amend(e.Subject, d)
	case "version.discarded":
		delete(a.versions, e.Subject)
		delete(a.overlays, e.Subject)
	case "api.discarded":
		delete(a.keepers, e.Subject)
		delete(a.periods, e.Subject)
		delete(a.switchers, e.Subject)
		delete(a.called, e.Subject)
		maps.DeleteFunc(a.plans, func(key string, _ map[string]string) bool { return strings.HasPrefix(key, e.Subject+" ") })
		a.unplace(e.Subject, "")
		a.relyNoMore(func(_, api string) bool { return api == e.Subject })
		a.dropStyles(StyleScope{API: e.Subject})
		maps.DeleteFunc(a.open, func(of opened, _ opening) bool { return of.api == e.Subject })
		maps.DeleteFunc(a.links, func(_, api string) bool { return api == e.Subject })
		maps.DeleteFunc(a.promises, func(of, _ string) bool { return of == e.Subject || strings.HasPrefix(of, e.Subject+" ") })
	case "audience.set", openTookOver:
		of := opened{e.Subject, d["part"]}
		if of.api == subjectOf("") {
			of.api = ""
		}
		a.open[of] = opening{d["published"], d["drafts"]}
	case "consumer.set":
		a.consumers[strings.TrimPrefix(e.Subject, consumerSubject)] = d
	case "consumer.dropped":
		name := strings.TrimPrefix(e.Subject, consumerSubject)
		delete(a.consumers, name)
		maps.DeleteFunc(a.issued, func(_ string, c toldCredential) bool { return c.consumer == name })
		a.relyNoMore(func(consumer, _ string) bool { return consumer == name })
		maps.DeleteFunc(a.signs, func(key, _ string) bool { return strings.HasPrefix(key, signKey(name, "")) })
	case "consumer.known-by":
		a.signs[signKey(strings.TrimPrefix(e.Subject, consumerSubject), d["team"])] = d["signs"]
	case "consumer.relies", "consumer.relies-no-more", "consumer.recorded", "consumer.recording-dropped", "consumer.guarded":
		a.rely(strings.TrimPrefix(e.Subject, consumerSubject), strings.TrimPrefix(e.Act, "consumer."), d)
	case "plan.set":
		a.plans[e.Subject+" "+d["plan"]] = d
	case "plan.dropped":
		delete(a.plans, e.Subject+" "+d["plan"])
	case "access.approved", "access.carried-over":
		a.grants[grantKey(d["consumer"], e.Subject, d["line"])] = d["plan"]
	case "access.ended":
		delete(a.grants, grantKey(d["consumer"], e.Subject, d["line"]))
		if d["credentialsEnd"] != "" {
			a.endIssued(d["consumer"], e.Subject, d["credentialsEnd"])
		}
	case "access.credential-made":
		if d["othersEnd"] != "" {
			a.endIssued(d["consumer"], e.Subject, d["othersEnd"])
		}
		a.issued[d["credential"]] = toldCredential{d["consumer"], e.Subject, d["hash"], ""}
	case "access.credential-ended":
		c := a.issued[d["credential"]]
		c.ends = d["at"]
		a.issued[d["credential"]] = c
	case "calls.added":
		return a.count(d)
	case "calling.set":
		a.called[e.Subject] = [2]string{d["versioning"], d["undeclared"]}
	case "switcher.set":
		a.switchers[e.Subject] = d["versions"]
	case "style.set":
		a.styles[d["scope"]+" "+d["version"]] = d["digest"]
	case "shelf.set":
		return a.shelve(strings.TrimPrefix(e.Subject, shelfSubject), d)
	case "shelf.dropped":
		delete(a.shelves, strings.TrimPrefix(e.Subject, shelfSubject))
	case "shelf.placed":
		a.place(d["shelf"], records.Stand{Shelf: d["shelf"], API: e.Subject, Versions: d["versions"]})
	case "shelf.removed":
		a.unplace(e.Subject, d["shelf"])
	case "feed.made":
		a.feeds[e.Subject] = true
	case "feed.dropped":
		delete(a.feeds, e.Subject)
	case "link.made":
		a.links[d["link"]] = e.Subject
	case "link.withdrawn":
		delete(a.links, d["link"])
	case "promise.set":
		a.promises[strings.TrimSpace(e.Subject+" "+d["line"])] = d["promise"]
	case "notice-period.set":
		a.periods[e.Subject] = d["days"]
	case "overlay.shown":
		a.overlays[e.Subject] = d["digest"]
	case "overlay.dropped":
		if d["state"] == overlayShown {
			delete(a.overlays, e.Subject)
		}
	}
	return nil
}

// amend changes a notice: the one that the entry names or, in entries that name none, the last one of its subject that said what it says
// was before.
func (a *account) amend(subject string, d map[string]string) {
	at, err := strconv.Atoi(d["notice"])
	at-- // notices are numbered from 1
	if err != nil {
		for at = len(a.notices) - 1; at >= 0; at-- {
			if n := a.notices[at]; n.subject == subject && n.sunset == d["sunsetBefore"] {
				break
			}
		}
	}
	if at >= 0 && at < len(a.notices) {
		a.notices[at] = announced{subject, d["sunset"], d["replacedBy"], d["reason"]}
	}
}

func waiverKey(ref, change, reason string) string { return ref + " " + change + " " + reason }

// against holds the records against the account; why is "" where they agree.
func (a *account) against(ctx context.Context, r records.Rows) (why string, err error) {
	for _, check := range []func(context.Context, records.Rows) (string, error){
		a.againstVersions, a.againstPeople, a.againstTokens, a.againstTeams, a.againstWaivers,
		a.againstAllowances, a.againstNotices, a.againstPeriods, a.againstPromises, a.againstOverlays, a.againstAudiences,
		a.againstLinks, a.againstFeeds, a.againstIdentities, a.againstShelves, a.againstSwitchers, a.againstStyles,
		a.againstConsumers, a.againstCalls, a.againstAccess, a.againstReliances,
	} {
		if why, err = check(ctx, r); why != "" || err != nil {
			return why, err
		}
	}
	return "", nil
}

func (a *account) againstVersions(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Versions(ctx, "")
	if err != nil {
		return "", err
	}
	for _, v := range rows {
		ref := v.API + "@" + v.Number
		known, there := a.versions[ref]
		switch {
		case !there:
			return fmt.Sprintf("%s is not in the journal", ref), nil
		case known.state != v.State:
			return fmt.Sprintf("%s is %s, and the journal says %s", ref, v.State, known.state), nil
		case known.digest != v.Digest:
			return fmt.Sprintf("%s says something else than the journal says was recorded", ref), nil
		}
		delete(a.versions, ref)
	}
	for ref := range a.versions {
		return fmt.Sprintf("%s is in the journal, and gone", ref), nil
	}
	return "", nil
}

func (a *account) againstPeople(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.AllPeople(ctx)
	if err != nil {
		return "", err
	}
	for _, p := range rows {
		role, there := a.roles[p.Name]
		switch {
		case p.LeftAt != "" && !there:
		case p.LeftAt != "":
			return fmt.Sprintf("%s left, and the journal does not say so", p.Name), nil
		case !there:
			return fmt.Sprintf("%s can sign in, and the journal does not say who added them", p.Name), nil
		case role != p.Role:
			return fmt.Sprintf("%s is %s, and the journal says %s", p.Name, cmp.Or(bothRoles([]Role{Role(p.Role)}), "nothing"), cmp.Or(role, "nothing")), nil
		}
	}
	return "", nil
}

// againstTokens finds what nobody made. One that is gone acts for nobody.
func (a *account) againstTokens(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Tokens(ctx, "")
	if err != nil {
		return "", err
	}
	for _, t := range rows {
		key := made{t.Hash[:tokenID], t.Person, t.Label, t.Scopes, t.Teams, t.APIs, t.EndsAt}
		if before := (made{person: t.Person, label: t.Label, apis: "[]"}); a.tokens[key] == 0 && t.Scopes == joined(firstScopes) && t.EndsAt == "" {
			key = before
		}
		if a.tokens[key]--; a.tokens[key] < 0 {
			return fmt.Sprintf("the token %q of %s is not in the journal as it is kept", t.Label, t.Person), nil
		}
	}
	return "", nil
}

// takeOver enters what a ledger found that had no teams before.
func (a *account) takeOver(found map[string]string) {
	for key, value := range found {
		switch kind, name, _ := strings.Cut(key, " "); kind {
		case "api":
			a.keepers[name] = value
		case "person":
			a.roles[name] = value
		case "team":
			a.teams[name] = true
		}
	}
	a.tookOver = true
}

func (a *account) againstTeams(ctx context.Context, r records.Rows) (string, error) {
	members, err := r.Members(ctx, "")
	if err != nil {
		return "", err
	}
	for _, m := range members {
		key := member{m.Team, m.Person}
		if said := a.members[key]; said != m.Role {
			return fmt.Sprintf("%s is %s in %s, and the journal says %s", m.Person, article(Role(m.Role)), m.Team, cmp.Or(said, "nothing")), nil
		}
		delete(a.members, key)
	}
	for m := range a.members {
		return fmt.Sprintf("%s is in %s by the journal, and gone", m.person, m.team), nil
	}
	teams, err := r.Teams(ctx)
	if err != nil {
		return "", err
	}
	former := map[string]bool{} // those of an earlier version of the ledger, which it did not take over yet
	for _, t := range teams {
		former[t.Name] = !a.teams[t.Name] && !a.tookOver && t.MadeBy == ""
		if !a.teams[t.Name] && !former[t.Name] {
			return fmt.Sprintf("there is a team %s, and the journal does not say who made it", t.Name), nil
		}
		delete(a.teams, t.Name)
	}
	for t := range a.teams {
		return fmt.Sprintf("the team %s is in the journal, and gone", t), nil
	}
	apis, err := r.APIs(ctx)
	if err != nil {
		return "", err
	}
	for _, api := range apis {
		if said := a.keepers[api.Name]; said != api.Team && !former[api.Team] {
			return fmt.Sprintf("%s is kept by %s, and the journal says %s", api.Name, cmp.Or(api.Team, "no team"), cmp.Or(said, "no team")), nil
		}
	}
	return "", nil
}

func (a *account) againstWaivers(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Waivers(ctx, "")
	if err != nil {
		return "", err
	}
	for _, w := range rows {
		key := waiverKey(w.API+"@"+w.Version, w.Change, w.Reason)
		if a.waivers[key]--; a.waivers[key] < 0 {
			return fmt.Sprintf("a waiver of %s@%s for %s is not in the journal as it is kept", w.API, w.Version, w.Change), nil
		}
	}
	for key, n := range a.waivers {
		if n > 0 {
			ref, _, _ := strings.Cut(key, " ")
			return fmt.Sprintf("a waiver of %s is in the journal, and gone", ref), nil
		}
	}
	return "", nil
}

func (a *account) againstAllowances(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Allowances(ctx, "")
	if err != nil {
		return "", err
	}
	for _, x := range rows {
		if reason, there := a.allowed[x.API+"@"+x.Version+" "+x.Finding]; !there || reason != x.Reason {
			return fmt.Sprintf("what was let through in %s@%s as %s is not in the journal as it is kept", x.API, x.Version, x.Finding), nil
		}
	}
	return "", nil
}

func (a *account) againstNotices(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Notices(ctx, "")
	if err != nil {
		return "", err
	}
	if len(rows) != len(a.notices) {
		return fmt.Sprintf("there are %d notices, and the journal says that %d were made", len(rows), len(a.notices)), nil
	}
	slices.SortFunc(rows, func(x, y records.Notice) int { return cmp.Compare(x.ID, y.ID) })
	for i, n := range rows {
		if known := a.notices[i]; known.sunset != n.Sunset || known.reason != n.Reason || known.replacedBy != n.ReplacedBy {
			return fmt.Sprintf("notice %d, of %s, is not as the journal says", n.ID, known.subject), nil
		}
	}
	return "", nil
}

func (a *account) againstPeriods(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.APIs(ctx)
	if err != nil {
		return "", err
	}
	for _, api := range rows {
		if days := cmp.Or(a.periods[api.Name], "-1"); days != strconv.Itoa(api.NoticeDays) {
			return fmt.Sprintf("the notice period of %s is %d, and the journal says %s", api.Name, api.NoticeDays, days), nil
		}
	}
	return "", nil
}

func (a *account) againstPromises(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.APIs(ctx)
	if err != nil {
		return "", err
	}
	lines, err := r.LinePromises(ctx, "")
	if err != nil {
		return "", err
	}
	is := map[string]string{}
	for _, api := range rows {
		if api.Promise != "" {
			is[api.Name] = api.Promise
		}
	}
	for _, p := range lines {
		is[p.API+" "+p.Line] = p.Promise
	}
	for of, said := range a.promises {
		if is[of] != said {
			return fmt.Sprintf("%s promises %s, and the journal says %s", of, cmp.Or(is[of], "nothing of its own"), cmp.Or(said, "nothing of its own")), nil
		}
		delete(is, of)
	}
	for of, promised := range is {
		return fmt.Sprintf("%s promises %s, and the journal says nothing of its own", of, promised), nil
	}
	return "", nil
}

func (a *account) againstOverlays(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Versions(ctx, "")
	if err != nil {
		return "", err
	}
	for _, v := range rows {
		ref := v.API + "@" + v.Number
		row, err := r.Overlay(ctx, v.API, v.Number, overlayShown)
		if err != nil && !isNotFound(err) {
			return "", err
		}
		is := ""
		if err == nil {
			is = digest(row.Text, nil)
		}
		if is != a.overlays[ref] {
			return fmt.Sprintf("how the reference of %s reads is not as the journal says", ref), nil
		}
	}
	return "", nil
}

// everyonesBefore is to whom a ledger was open that knew no audiences, as the migration has it.
const everyonesBefore = `["everyone"]`

func (a *account) againstAudiences(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Audiences(ctx)
	if err != nil {
		return "", err
	}
	is := map[opened]opening{}
	for _, row := range rows {
		is[opened{row.API, row.Part}] = opening{row.Published, row.Drafts}
	}
	for of := range a.open {
		if _, there := is[of]; !there {
			is[of] = opening{} // nothing is kept of what says nothing
		}
	}
	if former := (opened{}); !a.tookOver && a.open[former] == (opening{}) && is[former].published == everyonesBefore {
		delete(is, former) // it is entered when the ledger starts
	}
	for of, to := range is {
		if said := a.open[of]; said != to {
			what := strings.TrimSpace(cmp.Or(of.api, "every API of which nothing else is said") + " " + of.part)
			return fmt.Sprintf("who may read %s is not as the journal says", what), nil
		}
	}
	return "", nil
}

// againstLinks finds what nobody made. One that is gone opens nothing.
func (a *account) againstLinks(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Links(ctx, "")
	if err != nil {
		return "", err
	}
	for _, link := range rows {
		if api := a.links[link.Hash[:linkID]]; api != link.API {
			return fmt.Sprintf("the link %q of %s is not in the journal as it is kept", link.Label, link.API), nil
		}
	}
	return "", nil
}

// againstFeeds finds secret addresses that nobody made.
func (a *account) againstFeeds(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Feeds(ctx)
	if err != nil {
		return "", err
	}
	for _, f := range rows {
		if !a.feeds[f.Person] {
			return fmt.Sprintf("%s has a secret address of feeds, and the journal does not say so", f.Person), nil
		}
	}
	return "", nil
}

// againstIdentities finds who would sign in by a provider as somebody else.
func (a *account) againstIdentities(ctx context.Context, r records.Rows) (string, error) {
	rows, err := r.Identities(ctx)
	if err != nil {
		return "", err
	}
	for _, id := range rows {
		if a.known[id.Person] != identityID(id.Issuer, id.Subject) {
			return fmt.Sprintf("by whom %s signs in at %s is not as the journal says", id.Person, id.Issuer), nil
		}
	}
	return "", nil
}

package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"net/mail"
	"net/url"
	"slices"
	"strings"

	"oldledger/core/usage"
	"oldledger/ledger/records"
)

// Consumer is an application that calls APIs.
type Consumer struct {
	Name     string
	Title    string
	Note     string // what it is for
	Team     string // whose it is; "" where it is one person's
	Person   string // whose it is, where it is no team's
	Contacts []string
	MadeAt   string
	MadeBy   string
	Signs    []Sign        // by which it is recognised, that the actor may know of
	Uses     []ConsumerUse // of APIs whose callers the actor may know, by API
	Mine     bool          // whether the actor keeps it
}

// Sign is by what a consumer is recognised at the APIs of a team, or at all where Team is "".
type Sign struct {
	Team  string
	Kind  usage.Kind
	Value string // a * stands for any text; of a header "name: value"
}

// ConsumerUse is that a consumer calls an API.
type ConsumerUse struct {
	API      string
	FirstDay string // in UTC
	LastDay  string
	Calls    int64
}

// ConsumerWish says what is to be said of a consumer; nil leaves it as it is.
type ConsumerWish struct {
	Title, Note, Team, Person *string
	Contacts                  *[]string
}

// Bounds of what is said of consumers.
const (
	maxNote      = 2000
	maxContacts  = 20
	maxSigns     = 200 // of one consumer
	maxSign      = 120 // characters, as of a caller
	maxConsumers = 10_000
	maxFind      = 100
)

// keeps reports whether a consumer is the actor's: theirs, their team's whose editors they are among, or anybody's for an admin.
func (w view) keeps(c records.Consumer) bool {
	if w.who.itself || c.Person != "" && c.Person == w.who.Name && mayIn(w.who, KeepConsumer, "", "") == nil {
		return true
	}
	return c.Team != "" && mayIn(w.who, SaveConsumers, c.Team, c.Team) == nil || mayIn(w.who, SaveConsumers, "", "") == nil
}

// ConsumersQuestion asks for some of the consumers.
type ConsumersQuestion struct {
	Find  string // what stands in the name or the title, in whose they are, or in the name of an API that concerns them; "" for all
	After string // only those whose names come after it
	Limit int    // how many at most; 0 for all
}

// Consumers are those that the actor may know of, by name, and whether there are more of them.
func (l *Ledger) Consumers(ctx context.Context, who Actor, asked ConsumersQuestion) (known []Consumer, more bool, err error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, false, err
	}
	w := l.view(who)
	rows, err := w.knownConsumers(ctx, asked.Find)
	if err != nil {
		return nil, false, err
	}
	signs, err := w.rows.Signs(ctx)
	if err != nil {
		return nil, false, err
	}
	known = []Consumer{}
	for _, row := range rows {
		if row.Name <= asked.After {
			continue
		}
		if asked.Limit > 0 && len(known) == asked.Limit {
			return known, true, nil
		}
		uses, err := w.rows.Uses(ctx, "", row.Name)
		if err != nil {
			return nil, false, err
		}
		c, err := w.consumer(row, signs, uses)
		if err != nil {
			return nil, false, err
		}
		known = append(known, c)
	}
	return known, false, nil
}

// knownConsumers are the consumers that the actor may know of, and in which a text is found: theirs, their teams', and those that call, may
// use, or asked for an API of their teams.
func (w view) knownConsumers(ctx context.Context, find string) ([]records.Consumer, error) {
	rows, err := w.rows.Consumers(ctx)
	if err != nil {
		return nil, err
	}
	if len(find) > maxFind {
		return nil, refuse(Invalid, "what is looked for has at most %d characters", maxFind)
	}
	find = strings.ToLower(strings.TrimSpace(find))
	inside := func(api string) bool { return w.keeping(api).inside(w.who) }
	concerned, err := w.concerned(ctx, inside)
	if err != nil {
		return nil, err
	}
	found, mine := concerned, concerned
	if find != "" {
		called := func(api string) bool { return strings.Contains(api, find) }
		if found, err = w.concerned(ctx, func(api string) bool { return called(api) && inside(api) }); err != nil {
			return nil, err
		}
		if mine, err = w.concerned(ctx, called); err != nil { // whoever keeps a consumer knows all that it calls
			return nil, err
		}
	}
	return slices.DeleteFunc(rows, func(c records.Consumer) bool {
		text := strings.ToLower(strings.Join([]string{c.Name, c.Title, c.Team, c.Person}, "\n"))
		return !w.minds(c) && !concerned[c.Name] || !strings.Contains(text, find) && !found[c.Name] && !(mine[c.Name] && w.keeps(c))
	}), nil
}

// concerned are the consumers that call, may use, or asked for one of some APIs.
func (w view) concerned(ctx context.Context, of func(api string) bool) (map[string]bool, error) {
	rows, err := w.rows.APIs(ctx)
	if err != nil {
		return nil, err
	}
	var apis []string
	for _, a := range rows {
		if of(a.Name) {
			apis = append(apis, a.Name)
		}
	}
	names, err := w.rows.ConsumersOf(ctx, apis)
	all := map[string]bool{}
	for _, name := range names {
		all[name] = true
	}
	return all, err
}

// minds reports whether a consumer is the actor's or their team's, or anybody's for whoever has a role in all teams.
func (w view) minds(c records.Consumer) bool {
	return w.keeps(c) || w.who.everywhere() || c.Team != "" && w.who.inside(c.Team) || c.Person != "" && c.Person == w.who.Name
}

// Consumer is one of them.
func (l *Ledger) Consumer(ctx context.Context, who Actor, name string) (Consumer, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return Consumer{}, err
	}
	w := l.view(who)
	row, uses, err := w.knownConsumer(ctx, name)
	if err != nil {
		return Consumer{}, err
	}
	signs, err := w.rows.Signs(ctx)
	if err != nil {
		return Consumer{}, err
	}
	return w.consumer(row, signs, uses)
}

// knownConsumer finds a consumer that the actor may know of, with what it calls.
func (w view) knownConsumer(ctx context.Context, name string) (records.Consumer, []records.Use, error) {
	row, err := w.rows.Consumer(ctx, name)
	if err != nil {
		return row, nil, notFound(err, "there is no consumer called %s", name)
	}
	uses, err := w.rows.Uses(ctx, "", name)
	if err != nil || w.minds(row) {
		return row, uses, err
	}
	concerned, err := w.concerned(ctx, func(api string) bool { return w.keeping(api).inside(w.who) })
	if err == nil && !concerned[name] {
		err = refuse(NotFound, "there is no consumer called %s", name)
	}
	return row, uses, err
}

// consumer is a consumer as the actor may know it.
func (w view) consumer(row records.Consumer, signs []records.Sign, uses []records.Use) (Consumer, error) {
	c := Consumer{
		Name: row.Name, Title: row.Title, Note: row.Note, Team: row.Team, Person: row.Person, MadeAt: row.MadeAt, MadeBy: row.MadeBy,
		Contacts: []string{}, Signs: []Sign{}, Uses: []ConsumerUse{}, Mine: w.keeps(row),
	}
	if err := json.Unmarshal([]byte(row.Contacts), &c.Contacts); err != nil {
		return c, err
	}
	for _, s := range signs {
		if s.Consumer == row.Name && (c.Mine || w.who.everywhere() || s.Team != "" && w.who.inside(s.Team)) {
			c.Signs = append(c.Signs, Sign{s.Team, usage.Kind(s.Kind), s.Value})
		}
	}
	by := map[string]*records.Use{}
	for _, u := range uses {
		if !c.Mine && !w.keeping(u.API).inside(w.who) {
			continue
		}
		sum := by[u.API]
		if sum == nil {
			sum = &records.Use{API: u.API, FirstDay: u.FirstDay, LastDay: u.LastDay}
			by[u.API] = sum
		}
		sum.FirstDay, sum.LastDay, sum.Calls = min(sum.FirstDay, u.FirstDay), max(sum.LastDay, u.LastDay), sum.Calls+u.Calls
	}
	for _, u := range by {
		c.Uses = append(c.Uses, ConsumerUse{u.API, dayText(u.FirstDay), dayText(u.LastDay), u.Calls})
	}
	slices.SortFunc(c.Uses, func(a, b ConsumerUse) int { return strings.Compare(a.API, b.API) })
	return c, nil
}

// PutConsumer makes a consumer, or changes one of the actor's. A new one is the actor's own where no team is named.
func (l *Ledger) PutConsumer(ctx context.Context, who Actor, name string, wish ConsumerWish) error {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		return w.putConsumer(ctx, name, wish)
	})
}

// putConsumer makes or changes a consumer, in the transaction that is under way.
func (w view) putConsumer(ctx context.Context, name string, wish ConsumerWish) error {
	if !apiName.MatchString(name) {
		return refuse(Invalid, "%q is no name of a consumer; one has small letters, digits and dashes, begins with a letter, and has at most 63 characters", name)
	}
	row, err := w.rows.Consumer(ctx, name)
	fresh := isNotFound(err)
	switch {
	case fresh:
		if all, err := w.rows.Consumers(ctx); err != nil || len(all) >= maxConsumers {
			return cmp.Or(err, refuse(Conflict, "there are %d consumers; no more are kept", maxConsumers))
		}
		row = records.Consumer{
			Name: name, Title: name, Person: w.who.Name, Contacts: "[]", MadeAt: w.stamp(), MadeBy: cmp.Or(w.who.Name, "the ledger"),
		}
	case err != nil:
		return err
	case !w.keeps(row):
		if _, _, err := w.knownConsumer(ctx, name); err == nil {
			return refuse(Forbidden, "%s is not yours to change; %s may", name, keeperOf(row))
		}
		return refuse(Conflict, "the name %s is taken", name)
	}
	before := row
	if err := w.wished(ctx, &row, wish); err != nil || row == before && !fresh {
		return err
	}
	if err := w.rows.PutConsumer(ctx, row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "consumer.set", consumerSubject+name, consumerDetail(row))
}

// consumerSubject begins the subjects of what concerns a consumer in the journal: an API may have the same name.
const consumerSubject = "consumer "

func consumerDetail(row records.Consumer) map[string]string {
	return map[string]string{"title": row.Title, "note": row.Note, "team": row.Team, "person": row.Person, "contacts": row.Contacts}
}

func keeperOf(row records.Consumer) string {
	if row.Team != "" {
		return "an editor of " + row.Team
	}
	return cmp.Or(row.Person, "an admin")
}

// wished changes a row as somebody wishes.
func (w view) wished(ctx context.Context, row *records.Consumer, wish ConsumerWish) error {
	if wish.Title != nil {
		if row.Title = *wish.Title; !called(row.Title) {
			return refuse(Invalid, "a consumer's title has 1 to %d characters, none of them a line break", maxFull)
		}
	}
	if wish.Note != nil {
		if row.Note = *wish.Note; len(row.Note) > maxNote {
			return refuse(Invalid, "what a consumer is for is said in at most %d characters", maxNote)
		}
	}
	if wish.Contacts != nil {
		if len(*wish.Contacts) > maxContacts {
			return refuse(Invalid, "a consumer has at most %d contacts", maxContacts)
		}
		for _, c := range *wish.Contacts {
			if !isContact(c) {
				return refuse(Invalid, "%q is no contact; write an e-mail address or an https address", c)
			}
		}
		row.Contacts = listed(*wish.Contacts)
	}
	if wish.Team != nil && *wish.Team != row.Team {
		if *wish.Team != "" {
			if err := w.isTeam(ctx, *wish.Team); err != nil {
				return err
			}
			if err := mayIn(w.who, SaveConsumers, *wish.Team, *wish.Team); err != nil {
				return err
			}
		}
		row.Team, row.Person = *wish.Team, ""
		if row.Team == "" {
			row.Person = w.who.Name
		}
	}
	if wish.Person != nil && *wish.Person != row.Person {
		if p, err := w.rows.Person(ctx, *wish.Person); isNotFound(err) || err == nil && p.LeftAt != "" {
			return refuse(NotFound, "there is nobody called %s", *wish.Person)
		} else if err != nil {
			return err
		}
		row.Person, row.Team = *wish.Person, ""
	}
	return nil
}

func isContact(text string) bool {
	if len(text) > 200 {
		return false
	}
	if a, err := mail.ParseAddress(text); err == nil && a.Name == "" && a.Address == text {
		return true
	}
	u, err := url.Parse(text)
	return err == nil && u.Scheme == "https" && u.Host != ""
}

// DropConsumer takes a consumer away. Its calls stay, and are nobody's that is known.
func (l *Ledger) DropConsumer(ctx context.Context, who Actor, name string) error {
	if err := l.may(who, KeepConsumer, ""); err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		row, _, err := w.knownConsumer(ctx, name)
		if err != nil {
			return err
		}
		if !w.keeps(row) {
			return refuse(Forbidden, "%s is not yours to take away; %s may", name, keeperOf(row))
		}
		grants, err := w.rows.Grants(ctx, "", name)
		if err != nil {
			return err
		}
		if len(grants) > 0 {
			return refuse(Conflict, "%s may use line %s of %s; end that first", name, grants[0].Line, grants[0].API)
		}
		if err := w.rows.DropConsumer(ctx, name); err != nil {
			return err
		}
		if err := w.recognise(ctx, ""); err != nil {
			return err
		}
		return w.appendJournal(ctx, "consumer.dropped", consumerSubject+name, map[string]string{})
	})
}

// SetSigns says by what a consumer is recognised at the APIs of a team, in place of what was said for it; where the team is "", at all.
func (l *Ledger) SetSigns(ctx context.Context, who Actor, name, team string, signs []Sign) error {
	if err := mayIn(who, SaveConsumers, team, team); err != nil {
		return err
	}
	if len(signs) > maxSigns {
		return refuse(Invalid, "a consumer is recognised by at most %d signs", maxSigns)
	}
	rows := make([]records.Sign, len(signs))
	for i, s := range signs {
		value, err := signValue(s)
		if err != nil {
			return err
		}
		rows[i] = records.Sign{Team: team, Kind: string(s.Kind), Value: value, Consumer: name}
	}
	slices.SortFunc(rows, func(a, b records.Sign) int {
		return cmp.Or(strings.Compare(a.Kind, b.Kind), strings.Compare(a.Value, b.Value))
	})
	rows = slices.Compact(rows)
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		if team != "" {
			if err := w.isTeam(ctx, team); err != nil {
				return err
			}
		}
		if _, _, err := w.knownConsumer(ctx, name); err != nil {
			return err
		}
		all, err := w.rows.Signs(ctx)
		if err != nil {
			return err
		}
		for _, row := range rows {
			for _, s := range all {
				if s.Team == team && s.Kind == row.Kind && s.Value == row.Value && s.Consumer != name {
					return refuse(Conflict, "by the %s %s %s is recognised already; take it away there first", s.Kind, s.Value, s.Consumer)
				}
			}
		}
		if err := w.rows.PutSigns(ctx, team, name, rows); err != nil {
			return err
		}
		if err := w.recognise(ctx, team); err != nil {
			return err
		}
		return w.appendJournal(ctx, "consumer.known-by", consumerSubject+name, map[string]string{"team": team, "signs": signList(rows)})
	})
}

// signList is signs as the journal has them: a JSON list of "kind value".
func signList(rows []records.Sign) string {
	texts := make([]string, len(rows))
	for i, s := range rows {
		texts[i] = s.Kind + " " + s.Value
	}
	return listed(texts)
}

// signValue is the value of a sign as it is kept.
func signValue(s Sign) (string, error) {
	value := strings.TrimSpace(s.Value)
	if s.Kind == usage.ByHeader {
		name, said, ok := strings.Cut(value, ":")
		if name = strings.ToLower(strings.TrimSpace(name)); !ok || name == "" || strings.ContainsAny(name, " *") {
			return "", refuse(Invalid, "%q is no sign of a header; write its name, a colon and its value: Client-Name: boards", s.Value)
		}
		value = name + ": " + strings.TrimSpace(said)
	}
	switch {
	case !slices.Contains(usage.Kinds, s.Kind):
		return "", refuse(Invalid, "%q is nothing by which a caller is recognised; there are credential, header and agent", s.Kind)
	case strings.Trim(value, "* ") == "" || s.Kind == usage.ByHeader && strings.HasSuffix(value, ": "):
		return "", refuse(Invalid, "%q recognises everybody; say more", s.Value)
	case len(value) > maxSign || strings.ContainsFunc(value, func(r rune) bool { return r < ' ' }):
		return "", refuse(Invalid, "a sign has at most %d characters, none of them a line break", maxSign)
	case strings.Count(value, "*") > 4:
		return "", refuse(Invalid, "%q has more than four stars", s.Value)
	}
	return value, nil
}

// signsFor are the signs by which consumers are recognised at an API of a team: its own before those of all.
func signsFor(rows []records.Sign, team string) *usage.Signs {
	var signs []usage.Sign
	own := map[[2]string]bool{}
	for _, s := range rows {
		if team != "" && s.Team == team {
			own[[2]string{s.Kind, s.Value}] = true
			signs = append(signs, usage.Sign{Kind: usage.Kind(s.Kind), Value: s.Value, Consumer: s.Consumer})
		}
	}
	for _, s := range rows {
		if s.Team == "" && !own[[2]string{s.Kind, s.Value}] {
			signs = append(signs, usage.Sign{Kind: usage.Kind(s.Kind), Value: s.Value, Consumer: s.Consumer})
		}
	}
	return usage.NewSigns(signs)
}

// recognise says anew as whom callers are known, at the APIs of a team; at all of them where it is "".
func (w view) recognise(ctx context.Context, team string) error {
	uses, err := w.rows.Uses(ctx, "", "")
	if err != nil {
		return err
	}
	return w.recogniseIn(ctx, slices.DeleteFunc(uses, func(u records.Use) bool { return team != "" && w.teamOf(u.API) != team }), w.teamOf)
}

func (w view) recogniseIn(ctx context.Context, uses []records.Use, teamOf func(api string) string) error {
	if len(uses) == 0 {
		return nil
	}
	rows, err := w.rows.Signs(ctx)
	if err != nil {
		return err
	}
	issued, err := w.rows.Credentials(ctx, "", "")
	if err != nil {
		return err
	}
	for _, c := range issued {
		rows = append(rows, records.Sign{Kind: string(usage.ByCredential), Value: c.ID, Consumer: c.Consumer})
	}
	callers, err := w.rows.Callers(ctx, "")
	if err != nil {
		return err
	}
	by := make(map[int64]usage.Caller, len(callers))
	for _, c := range callers {
		by[c.ID] = usage.Caller{Credential: c.Credential, Header: c.Header, Agent: c.Agent}
	}
	signs := map[string]*usage.Signs{}
	for _, u := range uses {
		team := teamOf(u.API)
		if signs[team] == nil {
			signs[team] = signsFor(rows, team)
		}
		is := signs[team].Who(by[u.Caller])
		if is == u.Consumer {
			continue
		}
		u.Consumer = is
		if err := w.rows.Recognise(ctx, u); err != nil {
			return err
		}
	}
	return nil
}

package ledger_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/ledger"
	"oldledger/store"
)

func audience(t *testing.T, groups ...string) *ledger.Audience {
	t.Helper()
	a, err := ledger.AudienceOf(groups)
	require.NoError(t, err)
	return &a
}

// TestAudienceOf reads groups in any order and spelling, each once, without those that others hold.
func TestAudienceOf(t *testing.T) {
	t.Parallel()
	for groups, want := range map[string]string{
		"": "team", "team": "team", "everyone": "everyone", " link , signed-in": "link, signed-in", "everyone,link": "everyone",
		"team  Quayside,team Navigation,link,team Quayside": "link, team Navigation, team Quayside", "team Quayside,signed-in": "signed-in",
		"team team": "team team",
	} {
		require.Equal(t, want, audience(t, strings.FieldsFunc(groups, func(r rune) bool { return r == ',' })...).String(), groups)
	}
	for wrong, why := range map[string]string{
		"everybody": "there are everyone, signed-in, link, team, and team NAME; did you mean \"everyone\"?", "Quayside": "is no group of readers", "": "is no group",
		"team\tX": "is no group",
	} {
		_, err := ledger.AudienceOf([]string{wrong})
		require.ErrorContains(t, err, why, "%q", wrong)
	}
}

// opened is a house with berths of Quayside published, and a draft of it; nothing is said of who may read.
func opened(t *testing.T) (*ledger.Ledger, func(string) ledger.Actor) {
	t.Helper()
	ctx := t.Context()
	l, as := house(t)
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "vik", Full: "Vik"}, "long enough"))
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "ebba", Full: "Ebba", Role: ledger.Auditor}, "long enough"))
	for _, number := range []string{"1.0.0", "1.1.0", "1.2.0"} {
		_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe(number, "a"+number[2:3]+": {type: string}")})
		require.NoError(t, err)
		if number != "1.2.0" {
			_, err = l.Publish(ctx, as("lead.q"), "berths@"+number, nil)
			require.NoError(t, err)
		}
	}
	return l, as
}

// TestAudiences opens an API to one group after the other, and has everybody ask: whoever is in none gets the answer for what is not there.
// Each change holds for the next who asks.
func TestAudiences(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	sees := func(who ledger.Actor) string {
		a, err := l.API(ctx, who, "berths")
		if err != nil {
			require.EqualError(t, err, "there is no API called berths")
			_, missing := l.API(ctx, who, "none")
			require.EqualError(t, missing, "there is no API called none")
			return ""
		}
		var numbers []string
		for _, v := range a.Versions {
			numbers = append(numbers, v.Number)
			_, err := l.Description(ctx, who, v.Ref())
			require.NoError(t, err)
		}
		return strings.Join(numbers, " ")
	}
	const published, all = "1.0.0 1.1.0", "1.0.0 1.1.0 1.2.0"
	actors := map[string]ledger.Actor{"nobody": ledger.Nobody}
	for _, name := range []string{"vik", "ebba", "imke", "reader.q", "reader.n", "lead.n"} {
		actors[name] = as(name)
	}
	for _, c := range []struct {
		published, drafts string // "" changes nothing
		nobody, vik, navi string
	}{
		{"", "", published, published, published}, // house opens its ledger
		{"team", "team", "", "", ""},
		{"signed-in", "", "", published, published},
		{"team Navigation", "", "", "", published},
		{"link", "team Navigation", "", "", "1.2.0"},
		{"everyone", "signed-in", published, all, all},
		{"team", "", "", "1.2.0", "1.2.0"},
		{"everyone", "link", published, published, published},
	} {
		if c.published+c.drafts != "" {
			wish := ledger.AudienceWish{}
			if c.published != "" {
				wish.Published = audience(t, c.published)
			}
			if c.drafts != "" {
				wish.Drafts = audience(t, c.drafts)
			}
			require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", wish))
		}
		for name, who := range actors {
			want := map[string]string{"nobody": c.nobody, "vik": c.vik, "reader.n": c.navi, "lead.n": c.navi}[name]
			if slices.Contains([]string{"ebba", "imke", "reader.q"}, name) {
				want = all
			}
			require.Equal(t, want, sees(who), "%s, of %+v", name, c)
			reads := strings.TrimSuffix(strings.TrimSuffix(want, "1.2.0"), " ")
			require.Equal(t, reads, sees(who.Reading()), "%s reads, of %+v", name, c)
		}
	}
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestNewLedger opens nothing to everybody: what is published is for those who are signed in, what is not for its team. One act opens all.
func TestNewLedger(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s, err := store.Open(ctx, filepath.Join(t.TempDir(), "ledger.sqlite"))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	l := ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader})
	require.NoError(t, l.TakeOver(ctx))
	record(t, l, "1.0.0", "a: {type: string}")
	publish(t, l, "berths@1.0.0")
	vik := ledger.By(ledger.Person{Name: "vik", Full: "Vik"})
	_, err = l.API(ctx, ledger.Nobody, "berths")
	require.EqualError(t, err, "there is no API called berths")
	_, err = l.API(ctx, vik, "berths")
	require.NoError(t, err)
	imke := ledger.By(ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin})
	require.NoError(t, l.SetAudience(ctx, imke, "", ledger.AudienceWish{Published: audience(t, "everyone")}))
	a, err := l.API(ctx, ledger.Nobody, "berths")
	require.NoError(t, err)
	require.Zero(t, a.Audiences, "who else reads is told to nobody")
	v, err := l.VerifyJournal(ctx, imke, "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestParts opens an operation and a group to fewer than the API: the others get a description, a comparison and a guide without it.
func TestParts(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	text := func(number, rates string) []byte {
		return fmt.Appendf(nil, `openapi: 3.1.0
info: {title: Dues, version: %q, x-ledger-name: dues}
tags: [{name: Partners, description: For partners.}, {name: All}]
paths:
  /tariffs: {get: {operationId: tariffs, tags: [All], responses: {'200': {description: All of them.}}}}
  /rates/{quay}:
    parameters: [{name: quay, in: path, required: true, schema: {type: string}}]
    get: {operationId: rates, tags: [All], responses: {'200': {description: Rates., content: {application/json: {schema: {$ref: '#/components/schemas/SecretRate'}}}}}}
  /rebates: {post: {operationId: rebate, tags: [Partners], responses: {'200': {description: Given., content: {application/json: {schema: {$ref: '#/components/schemas/SecretRebate'}}}}}}}
components: {schemas: {SecretRate: {type: object, properties: {%s: {type: string}}}, SecretRebate: {type: object, properties: {%[2]s: {type: string}}}}}
`, number, rates)
	}
	for _, number := range []string{"1.0.0", "2.0.0"} {
		_, err := l.Record(ctx, as("editor.q"), ledger.Submission{Text: text(number, "secret"+number[:1])})
		require.NoError(t, err)
		var waive []ledger.Waive
		if number == "2.0.0" {
			_, err = l.Publish(ctx, as("lead.q"), "dues@2.0.0", nil)
		} else {
			_, err = l.Publish(ctx, as("lead.q"), "dues@1.0.0", waive)
		}
		require.NoError(t, err)
	}
	_, err := l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "dues@1.0.0", Operation: "rebate", Reason: "Secret reasons.", Sunset: "2027-01-10"})
	require.NoError(t, err)
	for _, wish := range []ledger.AudienceWish{
		{Part: "operation rates", Published: audience(t, "team Navigation", "link")},
		{Part: "group Partners", Published: audience(t, "link")},
	} {
		require.NoError(t, l.SetAudience(ctx, as("lead.q"), "dues", wish))
	}
	a, err := l.API(ctx, as("lead.q"), "dues")
	require.NoError(t, err)
	require.Equal(t, []string{"group Partners", "operation GET /rates/{quay}"},
		[]string{a.Audiences.Parts[0].Part.String(), a.Audiences.Parts[1].Part.String()}, "as it is written")

	for _, c := range []struct {
		name    string
		who     ledger.Actor
		has     []string
		notices int
	}{
		{"nobody", ledger.Nobody, []string{"tariffs"}, 0},
		{"navigation", as("reader.n"), []string{"tariffs", "rates"}, 0},
		{"holder", ledger.Nobody.Reading("dues"), []string{"tariffs", "rates", "rebate"}, 1},
		{"holder of another", ledger.Nobody.Reading("berths"), []string{"tariffs"}, 0},
		{"its own", as("reader.q"), []string{"tariffs", "rates", "rebate"}, 1},
		{"its own, reading", as("reader.q").Reading(), []string{"tariffs", "rates", "rebate"}, 1},
		{"admin, reading", as("imke").Reading(), []string{"tariffs", "rates", "rebate"}, 1},
	} {
		_, bundled, err := l.Bundled(ctx, c.who, "dues@2.0.0")
		require.NoError(t, err)
		v, err := l.Version(ctx, c.who, "dues@2.0.0")
		require.NoError(t, err)
		d, err := l.Description(ctx, c.who, "dues@2.0.0")
		require.NoError(t, err)
		documented, err := l.Documented(ctx, c.who, v)
		require.NoError(t, err)
		for _, read := range []int{len(d.Contract.All()), len(documented.All())} {
			require.Equal(t, len(c.has), read, c.name)
		}
		for _, id := range []string{"tariffs", "rates", "rebate"} {
			require.Equal(t, slices.Contains(c.has, id), strings.Contains(string(bundled), "operationId: "+id), "%s: %s", c.name, id)
		}
		require.Equal(t, slices.Contains(c.has, "rates"), strings.Contains(string(bundled), "SecretRate:"), c.name)
		require.Equal(t, slices.Contains(c.has, "rebate"), strings.Contains(string(bundled), "Partners"), c.name)
		changes, err := l.Compare(ctx, c.who, "dues@1.0.0", "dues@2.0.0", compare.Options{})
		require.NoError(t, err)
		var reached []string
		for _, ch := range changes.Changes {
			reached = append(reached, ch.Reach...)
		}
		require.Equal(t, slices.Contains(c.has, "rates"), slices.Contains(reached, "GET /rates/{}"), c.name)
		require.Equal(t, slices.Contains(c.has, "rebate"), slices.Contains(reached, "POST /rebates"), c.name)
		g, err := l.Guide(ctx, c.who, "dues@1.0.0", "dues@2.0.0")
		require.NoError(t, err)
		require.Equal(t, slices.Contains(c.has, "rates"), strings.Contains(g.Markdown(), "/rates"), c.name)
		a, err := l.API(ctx, c.who, "dues")
		require.NoError(t, err)
		require.Len(t, a.Notices, c.notices, c.name)
		public := l.Public(c.who, "dues")
		require.Equal(t, len(c.has) == 1, public, c.name)
	}
	moved := strings.ReplaceAll(string(text("3.0.0", "secret3")), "/rates/{quay}", "/prices/{quay}")
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{Text: []byte(moved)})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "dues@3.0.0", nil)
	require.ErrorContains(t, err, "the operation GET /rates/{quay} of 2.0.0 is for fewer readers than the API, and is not here")
	check, err := l.PublishCheck(ctx, as("lead.q"), "dues@3.0.0")
	require.NoError(t, err)
	require.Len(t, check.Mistakes, 1)
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "dues", ledger.AudienceWish{Part: "operation GET /prices/{q}", Published: audience(t, "link")}))
	_, err = l.Publish(ctx, as("lead.q"), "dues@3.0.0", nil, ledger.Exception{Finding: check.Mistakes[0].ID, Reason: "Prices are for partners, too."})
	require.NoError(t, err)
	d, err := l.Description(ctx, ledger.Nobody, "dues@3.0.0")
	require.NoError(t, err)
	require.Len(t, d.Contract.All(), 1)

	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "dues", ledger.AudienceWish{Part: "operation GET /rates/{berth}", AsLedger: true}))
	d, err = l.Description(ctx, ledger.Nobody, "dues@2.0.0")
	require.NoError(t, err)
	require.Len(t, d.Contract.All(), 2)
}

// TestNamedElsewhere names a private API in the notice of one that everybody reads: only who may know of it reads the name, whoever read
// the same page before.
func TestNamedElsewhere(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	_, err := l.Record(ctx, as("editor.n"), ledger.Submission{API: "secret-lights", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.n"), "secret-lights@1.0.0", nil)
	require.NoError(t, err)
	for _, instead := range []string{"secret-lights@1.0.0", "secret-lights@1", "secret-lights"} {
		_, err = l.Deprecate(ctx, as("lead.q"), ledger.Announcement{Ref: "berths@1.0.0", Operation: "book", ReplacedBy: instead, Reason: "Old."})
		require.NoError(t, err)
	}
	require.NoError(t, l.SetAudience(ctx, as("lead.n"), "secret-lights", ledger.AudienceWish{Published: audience(t, "team")}))
	told := func(who ledger.Actor) (n int) {
		for _, named := range []func() ([]ledger.API, error){
			func() ([]ledger.API, error) { return l.APIs(ctx, who) },
			func() ([]ledger.API, error) { a, err := l.API(ctx, who, "berths"); return []ledger.API{a}, err },
		} {
			apis, err := named()
			require.NoError(t, err)
			for _, notice := range apis[0].Notices {
				if strings.Contains(notice.ReplacedBy, "secret") {
					n++
				}
			}
		}
		return n
	}
	for range 2 {
		require.Equal(t, 6, told(as("reader.n").Reading()))
		require.Equal(t, 6, told(as("reader.n")))
		require.Equal(t, 0, told(ledger.Nobody))
		require.Equal(t, 0, told(as("vik")))
		require.Equal(t, 6, told(as("editor.q")), "whose own words they are")
		g, err := l.Guide(ctx, as("reader.n"), "berths@1.0.0", "berths@1.1.0")
		require.NoError(t, err)
		require.Contains(t, g.Markdown(), "secret-lights")
		g, err = l.Guide(ctx, as("vik"), "berths@1.0.0", "berths@1.1.0")
		require.NoError(t, err)
		require.NotContains(t, g.Markdown(), "secret-lights")
	}
	require.NoError(t, l.SetAudience(ctx, as("lead.n"), "secret-lights", ledger.AudienceWish{AsLedger: true}))
	require.Equal(t, 6, told(ledger.Nobody), "it is open now")
}

// TestLinks opens an API to those who have a link and its password, until it ends or is withdrawn.
func TestLinks(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	_, _, err := l.MakeLink(ctx, as("lead.q"), "berths", ledger.LinkWish{Label: "Skerry", Password: "short"})
	require.Equal(t, ledger.Invalid, fault(err))
	link, password, err := l.MakeLink(ctx, as("lead.q"), "berths", ledger.LinkWish{Label: "Skerry Planner"})
	require.NoError(t, err)
	key := strings.Split(link.Path, "/")[2]
	require.Equal(t, ledger.NotFound, fault(l.Linked(ctx, key)), "the API is open to others than those who hold a link")
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "link")}))
	require.NoError(t, l.Linked(ctx, key))
	require.Equal(t, ledger.NotFound, fault(l.Linked(ctx, key+"x")))

	_, _, _, err = l.OpenLink(ctx, key, "wrong password", "192.0.2.7")
	require.Equal(t, ledger.SignInFirst, fault(err))
	_, _, _, err = l.OpenLink(ctx, "none", password, "192.0.2.7")
	require.Equal(t, ledger.NotFound, fault(err))
	api, opening, _, err := l.OpenLink(ctx, key, password, "192.0.2.7")
	require.NoError(t, err)
	require.Equal(t, "berths", api)
	reads := func() bool {
		apis, err := l.Opened(ctx, []string{"none", opening, ""})
		require.NoError(t, err)
		a, err := l.API(ctx, ledger.Nobody.Reading(apis...), "berths")
		return err == nil && len(a.Versions) == 2
	}
	require.True(t, reads())
	links, err := l.Links(ctx, as("lead.q"), "berths")
	require.NoError(t, err)
	require.Len(t, links, 1)
	require.Empty(t, links[0].Path, "told once")
	require.Equal(t, ledger.NotFound, fault(l.WithdrawLink(ctx, as("lead.q"), "berths", "none")))
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
	require.NoError(t, l.WithdrawLink(ctx, as("lead.q"), "berths", links[0].ID))
	require.False(t, reads(), "from the next request on")
	acts, err := l.Journal(ctx, as("reader.q"), ledger.Question{Act: "link"}, 0, 10)
	require.NoError(t, err)
	var done []string
	for _, a := range acts {
		done = append(done, a.Act)
		require.NotContains(t, string(a.Detail), key)
		require.NotContains(t, string(a.Detail), password)
	}
	require.Equal(t, []string{"link.made", "link.refused", "link.opened", "link.withdrawn"}, done)
}

// TestAudienceRefusals asks for what there is not, and for what nobody can mean.
func TestAudienceRefusals(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	for _, c := range []struct {
		who, api string
		wish     ledger.AudienceWish
		why      string
	}{
		{"lead.q", "berths", ledger.AudienceWish{}, "say who may read what is published, or drafts"},
		{"lead.q", "berths", ledger.AudienceWish{AsLedger: true, Published: audience(t, "team")}, "not both"},
		{"lead.q", "berths", ledger.AudienceWish{Published: audience(t, "team Quays")}, "there is no team called \"Quays\"; there are"},
		{"lead.q", "berths", ledger.AudienceWish{Drafts: audience(t, "everyone")}, "drafts are for those who are signed in, at most"},
		{"lead.q", "berths", ledger.AudienceWish{Part: "operation bok", Published: audience(t, "team")}, "berths has no operation bok; did you mean \"book\"?"},
		{"lead.q", "berths", ledger.AudienceWish{Part: "group None", Published: audience(t, "team")}, "berths has no group None"},
		{"lead.q", "berths", ledger.AudienceWish{Part: "schema Booking", Published: audience(t, "team")}, "is no part of an API"},
		{"lead.q", "berths", ledger.AudienceWish{Part: "group A\nB", Published: audience(t, "team")}, "line break"},
		{"lead.q", "berths", ledger.AudienceWish{Part: "operation book", Drafts: audience(t, "team")}, "a part has no audience of its drafts"},
		{"lead.q", "none", ledger.AudienceWish{Published: audience(t, "team")}, "nobody in the team of none"},
		{"lead.q", "", ledger.AudienceWish{Published: audience(t, "team")}, "nothing in all teams"},
		{"lead.n", "berths", ledger.AudienceWish{Published: audience(t, "everyone")}, "nobody in the team of berths"},
		{"publisher.q", "berths", ledger.AudienceWish{Published: audience(t, "everyone")}, "a publisher of berths"},
		{"imke", "none", ledger.AudienceWish{Published: audience(t, "team")}, "there is no API called none"},
		{"imke", "", ledger.AudienceWish{Published: audience(t, "link")}, "a link leads to one API"},
		{"imke", "", ledger.AudienceWish{AsLedger: true}, "what the ledger says cannot be"},
		{"imke", "", ledger.AudienceWish{Part: "group A", Published: audience(t, "team")}, "a part belongs to an API"},
	} {
		require.ErrorContains(t, l.SetAudience(ctx, as(c.who), c.api, c.wish), c.why)
	}
	acts, err := l.Journal(ctx, as("imke"), ledger.Question{Act: "audience"}, 0, 10)
	require.NoError(t, err)
	require.Len(t, acts, 1, "nothing was done but what the house did")
}

// TestVerifyAudience opens something behind the ledger's back.
func TestVerifyAudience(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	for statements, why := range map[string]string{
		`INSERT INTO audiences (api, published) VALUES ('berths', '["everyone"]')`:                           "who may read berths is not as the journal says",
		`INSERT INTO audiences (api, published) VALUES ('', '["everyone"]')`:                                 "who may read every API of which nothing else is said is not",
		`INSERT INTO audiences (api, part, published) VALUES ('berths', 'group A', '["link"]')`:              "who may read berths group A is not",
		`INSERT INTO links VALUES ('0123456789abcdef', 'berths', 'x', 'y', '2026-01-01', 'z', '2027-01-01')`: `the link "x" of berths is not in the journal`,
	} {
		_, l, behind := openFile(t)
		require.NoError(t, l.TakeOver(ctx))
		record(t, l, "1.0.0", "a: {type: string}")
		require.NoError(t, behind(statements))
		v, err := l.VerifyJournal(ctx, teodor, "")
		require.NoError(t, err)
		require.Contains(t, v.Why, why)
	}
}

// TestTeamThatReads is not dissolved while something is open to it: another team of its name would read it.
func TestTeamThatReads(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	require.NoError(t, l.AddTeam(ctx, as("imke"), "Ferries"))
	for _, wish := range []ledger.AudienceWish{
		{Drafts: audience(t, "team Ferries")}, {Published: audience(t, "team Ferries", "link")}, {Part: "operation book", Published: audience(t, "team Ferries")},
	} {
		require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", wish))
		require.EqualError(t, l.DropTeam(ctx, as("imke"), "Ferries"), "Ferries is among the readers of berths; take it out there first")
		require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Part: wish.Part, AsLedger: true}))
	}
	require.NoError(t, l.DropTeam(ctx, as("imke"), "Ferries"))
}

// TestPreviewShut shows a preview of a draft, and of the wording of a version that everybody reads, while the audience of drafts has those
// who hold an address in it; also where nothing else of the API is for them.
func TestPreviewShut(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "team")}))
	for _, ref := range []string{"berths@1.1.0", "berths@1.2.0"} {
		link, err := l.CreatePreviewLink(ctx, as("editor.q"), ref, 1)
		require.NoError(t, err)
		key := strings.Split(link.Path, "/")[2]
		holder, v, _, err := l.Shown(ctx, key)
		require.NoError(t, err)
		_, err = l.Documented(ctx, holder, v)
		require.NoError(t, err)
		for _, published := range []string{"team", "everyone"} {
			require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, published), Drafts: audience(t, "signed-in")}))
			_, _, _, err = l.Shown(ctx, key)
			require.Equal(t, ledger.NotFound, fault(err), "%s %s", ref, published)
		}
		require.NoError(t, l.SetAudience(ctx, as("lead.q"), "berths", ledger.AudienceWish{Published: audience(t, "team"), Drafts: audience(t, "link")}))
	}
}

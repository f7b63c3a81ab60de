package ledger_test

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// house is a ledger with two teams and somebody in each role of both.
func house(t *testing.T) (*ledger.Ledger, func(name string) ledger.Actor) {
	t.Helper()
	_, l := openAt(t, "2026-01-10")
	return l, peopled(t, l)
}

// peopled puts people into a ledger: one of each role in each of two teams, and an admin.
func peopled(t *testing.T, l *ledger.Ledger) func(name string) ledger.Actor {
	t.Helper()
	ctx := t.Context()
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "Imke Aldous", Role: ledger.Admin}, "long enough"))
	for _, team := range []string{"Quayside", "Navigation"} {
		require.NoError(t, l.AddTeam(ctx, ledger.Itself, team))
		for _, role := range ledger.TeamRoles {
			name := string(role) + map[string]string{"Quayside": ".q", "Navigation": ".n"}[team]
			require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: name, Full: name}, "long enough"))
			require.NoError(t, l.PutMember(ctx, ledger.Itself, team, name, role))
		}
	}
	return func(name string) ledger.Actor {
		t.Helper()
		who, err := l.Actor(t.Context(), name)
		require.NoError(t, err)
		return who
	}
}

// TestTeams does each act as each role of the team that keeps an API, and of another one: there, a role counts for nothing.
func TestTeams(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err, "whose only team it is need not say so")
	a, err := l.API(ctx, as("reader.q"), "berths")
	require.NoError(t, err)
	require.Equal(t, "Quayside", a.Team)

	for act, try := range map[ledger.Act]func(ledger.Actor) error{
		ledger.Record: func(who ledger.Actor) error {
			_, err := l.Record(ctx, who, ledger.Submission{API: "berths", Text: describe("1.0.0", "a: {type: strin}")})
			return err
		},
		ledger.Word: func(who ledger.Actor) error { _, err := l.PutOverlay(ctx, who, "berths@draft", "x", ""); return err },
		ledger.Publish: func(who ledger.Actor) error {
			_, err := l.Publish(ctx, who, "berths@1.0.0", []ledger.Waive{{Change: "x"}})
			return err
		},
		ledger.SetMembers: func(who ledger.Actor) error {
			return l.PutMember(ctx, who, "Quayside", "reader.q", ledger.Reader)
		},
		ledger.SetPromise: func(who ledger.Actor) error {
			return l.Set(ctx, who, "berths", ledger.Settings{Promise: new("backward"), Reason: "r"})
		},
		ledger.SetPeriod: func(who ledger.Actor) error {
			return l.Set(ctx, who, "berths", ledger.Settings{NoticeDays: new(0)})
		},
	} {
		for _, role := range ledger.TeamRoles {
			refused := fault(try(as(string(role)+".q"))) == ledger.Forbidden
			require.Equal(t, !slices.Contains(ledger.Access[act], role), refused, "%s, in the team: %s", role, act)
			require.Equal(t, ledger.Forbidden, fault(try(as(string(role)+".n"))), "%s, of another team: %s", role, act)
		}
	}
	require.ErrorContains(t, l.PutMember(ctx, as("editor.q"), "Quayside", "reader.q", ledger.Lead),
		"editor.q is an editor of Quayside; an admin or a lead may say who is in a team")
}

// TestTeamsSee has everybody ask for an API that another team has not published: each answer is the one for what is not there.
func TestTeamsSee(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "moorings", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.Publish(ctx, as("lead.q"), "berths@1.0.0", nil)
	require.NoError(t, err)
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe("1.1.0", "a: {type: string}, b: {type: string}")})
	require.NoError(t, err)
	require.NoError(t, l.AddPerson(ctx, as("imke"), ledger.Person{Name: "ebba", Full: "Ebba", Role: ledger.Auditor}, "long enough"))
	require.NoError(t, l.AddPerson(ctx, as("imke"), ledger.Person{Name: "vik", Full: "Vik"}, "long enough"))

	known := func(who ledger.Actor) []string {
		names := []string{}
		for range 2 { // as read, and as kept
			apis, err := l.APIs(ctx, who)
			require.NoError(t, err)
			names = names[:0]
			for _, a := range apis {
				for _, v := range a.Versions {
					names = append(names, v.Ref())
				}
			}
		}
		return names
	}
	all, some := []string{"berths@1.0.0", "berths@1.1.0", "moorings@1.0.0"}, []string{"berths@1.0.0"}
	for name, want := range map[string][]string{
		"imke": all, "ebba": all, "reader.q": all, "lead.q": all, "lead.n": some, "reader.n": some, "vik": some,
	} {
		who := as(name)
		require.Equal(t, want, known(who), name)
		inside := len(want) == len(all)
		for _, ask := range map[string]func(api string) error{
			"API":      func(api string) error { _, err := l.API(ctx, who, api); return err },
			"version":  func(api string) error { _, err := l.Version(ctx, who, api+"@1.0.0"); return err },
			"files":    func(api string) error { _, err := l.Files(ctx, who, api+"@draft"); return err },
			"compare":  func(api string) error { _, err := l.Guide(ctx, who, "berths", api+"@1.0.0"); return err },
			"history":  func(api string) error { _, err := l.History(ctx, who, api); return err },
			"revision": func(api string) error { _, err := l.Revisions(ctx, who, api+"@1.0.0"); return err },
			"gate":     func(api string) error { _, err := l.Gate(ctx, who, api+"@1.0.0"); return err },
			"publish":  func(api string) error { _, err := l.Publish(ctx, who, api+"@1.0.0", nil); return err },
			"discard":  func(api string) error { return l.DiscardAPI(ctx, who, api) },
			"settle":   func(api string) error { return l.Set(ctx, who, api, ledger.Settings{Team: new("Navigation")}) },
			"looks":    func(api string) error { _, err := l.Looks(ctx, who, api); return err },
		} {
			if inside {
				continue
			}
			there, not := ask("moorings"), ask("nothings")
			require.Equal(t, fault(not), fault(there), name)
			if not != nil {
				require.Equal(t, not.Error(), strings.ReplaceAll(there.Error(), "moorings", "nothings"), name)
			}
		}
		acts, err := l.Journal(ctx, who, ledger.Question{}, 0, 1000)
		require.NoError(t, err)
		for _, e := range acts {
			require.True(t, inside, "%s reads of %s", name, e.Subject)
		}
		waiting, err := l.Waiting(ctx, who)
		require.NoError(t, err)
		require.Len(t, waiting.Drafts, map[bool]int{true: 2}[inside], name)
	}

	// Who joins sees from then on, and who leaves does not.
	require.NoError(t, l.PutMember(ctx, as("lead.q"), "Quayside", "vik", ledger.Reader))
	require.Equal(t, all, known(as("vik")))
	acts, err := l.Journal(ctx, as("vik"), ledger.Question{}, 0, 1000)
	require.NoError(t, err)
	require.Len(t, acts, 6, "what was done with the team's APIs, and nothing of people")
	require.NoError(t, l.DropMember(ctx, as("lead.q"), "Quayside", "vik"))
	require.Equal(t, some, known(as("vik")))
	require.ErrorContains(t, l.DropMember(ctx, as("lead.q"), "Quayside", "vik"), "vik is not in Quayside")
}

// TestMoves gives an API to another team: the two leads each with their word, or whoever may speak for both.
func TestMoves(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "berths", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	to := func(who, team string) error { return l.Set(ctx, as(who), "berths", ledger.Settings{Team: &team}) }
	keeper := func() [2]string {
		a, err := l.API(ctx, as("imke"), "berths")
		require.NoError(t, err)
		return [2]string{a.Team, a.Offered}
	}
	require.ErrorContains(t, to("lead.n", "Navigation"), "there is no API called berths", "it was not offered")
	require.ErrorContains(t, to("publisher.q", "Navigation"), "an admin or a lead may give an API to another team")
	require.ErrorContains(t, to("lead.q", "Nowhere"), `there is no team called "Nowhere"; there are Navigation, Quayside`)
	require.NoError(t, to("lead.q", "Navigation"))
	require.Equal(t, [2]string{"Quayside", "Navigation"}, keeper())
	teams, err := l.Teams(ctx, as("lead.n"))
	require.NoError(t, err)
	require.Equal(t, []string{"berths"}, teams[0].Offers, "who may take it is told")
	teams, err = l.Teams(ctx, as("reader.n"))
	require.NoError(t, err)
	require.Empty(t, teams[0].Offers)
	require.ErrorContains(t, to("publisher.n", "Navigation"), "may give an API to another team")
	require.NoError(t, l.AddTeam(ctx, as("imke"), "Third"))
	require.NoError(t, l.PutMember(ctx, as("imke"), "Third", "reader.n", ledger.Lead))
	require.ErrorContains(t, to("reader.n", "Navigation"), "there is no API called berths", "a lead of a third team learns nothing")
	require.ErrorContains(t, l.DropTeam(ctx, as("imke"), "Navigation"), "keeps berths; give it to another team first")
	require.NoError(t, to("lead.q", "Quayside"))
	require.Equal(t, [2]string{"Quayside", ""}, keeper(), "the offer is taken back")
	require.ErrorContains(t, to("lead.n", "Navigation"), "there is no API called berths")
	require.NoError(t, to("lead.q", "Navigation"))
	require.NoError(t, to("lead.n", "Navigation"))
	require.Equal(t, [2]string{"Navigation", ""}, keeper())
	_, err = l.Version(ctx, as("lead.q"), "berths@1.0.0")
	require.Equal(t, ledger.NotFound, fault(err), "it is no longer theirs to see")
	_, err = l.Version(ctx, as("reader.n"), "berths@1.0.0")
	require.NoError(t, err)
	require.NoError(t, to("imke", "Quayside"), "an admin speaks for both")

	// Recording gives nothing away.
	_, err = l.Record(ctx, as("imke"), ledger.Submission{API: "berths", Text: describe("1.1.0", "a: {type: string}"), Team: "Navigation"})
	require.ErrorContains(t, err, "berths is kept by Quayside; settle it with another team first")
	_, err = l.Record(ctx, as("editor.n"), ledger.Submission{API: "tides", Text: describe("1.0.0", "a: {type: string}"), Team: "Quayside"})
	require.ErrorContains(t, err, "editor.n is nobody in the team of tides; an admin, a lead, a publisher or an editor may record a version")
	require.NoError(t, l.PutMember(ctx, as("imke"), "Navigation", "editor.q", ledger.Editor))
	for who, want := range map[string]string{"reader.n": "", "editor.n": "", "editor.q": "say which of your teams keeps tides"} {
		_, err := l.DryRun(ctx, as(who), ledger.Submission{API: "tides", Text: describe("1.0.0", "a: {type: string}")})
		if want == "" {
			require.NoError(t, err, who)
		} else {
			require.ErrorContains(t, err, want)
		}
	}
	require.NoError(t, l.PutMember(ctx, as("imke"), "Navigation", "lead.q", ledger.Reader))
	dry, err := l.DryRun(ctx, as("lead.q"), ledger.Submission{API: "tides", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err, "in one of the two teams alone they may record")
	require.Equal(t, "new", dry.Outcome)
	_, err = l.Record(ctx, as("editor.q"), ledger.Submission{API: "tides", Text: describe("1.0.0", "a: {type: string}")})
	require.ErrorContains(t, err, "say which of your teams keeps tides: Navigation, Quayside")
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestLastAdmin keeps one admin, whatever two do to each other, and lets the one who keeps the machine back in.
func TestLastAdmin(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	imke := as("imke")
	shown := l.Generation(ledger.Nobody, "")
	defer func() {
		require.Equal(t, shown, l.Generation(ledger.Nobody, ""), "readers' pages are none the staler for it")
	}()
	token, err := l.MakeToken(ctx, imke, ledger.TokenWish{Label: "pipeline"})
	require.NoError(t, err)
	require.ErrorContains(t, l.SetRole(ctx, imke, "imke", ledger.Auditor), "imke is the last admin; make somebody else one first")
	require.ErrorContains(t, l.DropPerson(ctx, imke, "imke"), "imke is the last admin")
	require.ErrorContains(t, l.SetRole(ctx, imke, "nobody", ledger.Admin), "there is no nobody")
	require.NoError(t, l.SetRole(ctx, imke, "lead.q", ledger.Admin))
	other := as("lead.q")
	require.NoError(t, l.DropPerson(ctx, other, "imke"))
	require.Equal(t, ledger.SignInFirst, fault(l.DropPerson(ctx, imke, "lead.q")), "who was let go a moment ago lets nobody go")
	_, err = l.SignIn(ctx, "imke", "long enough", "192.0.2.1")
	require.ErrorContains(t, err, "do not belong together")
	_, err = l.TokenActor(ctx, token)
	require.ErrorContains(t, err, "this token is not known")
	_, err = l.Actor(ctx, "imke")
	require.Equal(t, ledger.SignInFirst, fault(err), "a session of hers acts for nobody")
	require.ErrorContains(t, l.AddPerson(ctx, other, ledger.Person{Name: "imke", Full: "Another"}, "long enough"), "imke was here before, and left")
	people, err := l.People(ctx, other)
	require.NoError(t, err)
	require.False(t, slices.ContainsFunc(people, func(p ledger.Person) bool { return p.Name == "imke" }))

	password, err := l.Readmit(ctx, "imke")
	require.NoError(t, err)
	back, err := l.SignIn(ctx, "imke", password, "192.0.2.1")
	require.NoError(t, err)
	require.Equal(t, ledger.Admin, back.Role)
	_, err = l.Readmit(ctx, "nobody")
	require.ErrorContains(t, err, "there is nobody called nobody")
	v, err := l.VerifyJournal(ctx, back, "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestTeamNames refuses what nobody could read or tell from another.
func TestTeamNames(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	l, as := house(t)
	for name, want := range map[string]string{
		"": "is no name of a team", " Quay": "is no name of a team", "Quay\nside": "is no name of a team", "Quay\u202eside": "is no name of a team",
		"quayside": "there is a team called Quayside already", string(make([]byte, 101)): "is no name of a team",
	} {
		require.ErrorContains(t, l.AddTeam(ctx, as("imke"), name), want, name)
	}
	for _, name := range []string{"Hafen & Söhne", "a/b=c", "港", "o'Neill"} {
		require.NoError(t, l.AddTeam(ctx, as("imke"), name))
		require.NoError(t, l.PutMember(ctx, as("imke"), name, "reader.q", ledger.Lead))
		require.NoError(t, l.PutMember(ctx, as("reader.q"), name, "editor.q", ledger.Reader), "a lead leads")
		require.ErrorContains(t, l.DropTeam(ctx, as("reader.q"), name), "an admin may make and dissolve teams")
		require.NoError(t, l.DropTeam(ctx, as("imke"), name))
	}
	require.ErrorContains(t, l.PutMember(ctx, as("imke"), "Quayside", "reader.q", ledger.Admin), `"admin" is no role; in a team one is a lead`)
	require.ErrorContains(t, l.PutMember(ctx, as("imke"), "Quayside", "nobody", ledger.Lead), "there is nobody called nobody")
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

package ledger_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestTokens has tokens do what their scopes and teams let them, as long as they last and their maker may.
func TestTokens(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := house(t)
	for api, who := range map[string]string{"berths": "lead.q", "tides": "lead.n"} {
		_, err := l.Record(ctx, as(who), ledger.Submission{API: api, Text: describe("1.0.0", "a: {type: string}")})
		require.NoError(t, err)
	}
	issue := func(who string, wish ledger.TokenWish) func() ledger.Actor {
		t.Helper()
		wish.Label = "pipeline"
		token, err := l.MakeToken(ctx, as(who), wish)
		require.NoError(t, err)
		return func() ledger.Actor {
			t.Helper()
			a, err := l.TokenActor(ctx, token)
			require.NoError(t, err)
			return a
		}
	}
	record := func(who ledger.Actor, api string) error {
		_, err := l.Record(ctx, who, ledger.Submission{API: api, Text: describe("1.1.0", "a: {type: string}")})
		return err
	}
	publish := func(who ledger.Actor, api string) error {
		_, err := l.Publish(ctx, who, api+"@1.0.0", []ledger.Waive{{Change: "none"}})
		return err
	}
	recorder := issue("lead.q", ledger.TokenWish{Scopes: []ledger.Scope{ledger.ScopeRecord}})
	require.NoError(t, record(recorder(), "berths"))
	require.ErrorContains(t, publish(recorder(), "berths"), `the token "pipeline" may not publish a version or take it back; it has not the scope publish`)
	require.Equal(t, ledger.Forbidden, fault(record(recorder(), "tides")), "it does no more than its maker")
	require.ErrorContains(t, l.PutMember(ctx, issue("lead.q", ledger.TokenWish{})(), "Quayside", "reader.q", ledger.Reader), "it has not the scope administer")
	admin := issue("imke", ledger.TokenWish{Scopes: []ledger.Scope{ledger.ScopeAdminister}})
	require.NoError(t, l.PutMember(ctx, admin(), "Quayside", "reader.n", ledger.Reader))
	_, err := l.MakeToken(ctx, admin(), ledger.TokenWish{Label: "x"})
	require.ErrorContains(t, err, "a token may not make a token")

	// For one team, it is what its maker is there, and sees no more.
	limited := issue("imke", ledger.TokenWish{Teams: []string{"Quayside"}, Scopes: []ledger.Scope{ledger.ScopePublish, ledger.ScopeAdminister}})
	require.Equal(t, ledger.Forbidden, fault(publish(limited(), "tides")))
	_, err = l.API(ctx, limited(), "tides")
	require.Equal(t, ledger.NotFound, fault(err))
	_, err = l.API(ctx, limited(), "berths")
	require.NoError(t, err)
	require.NotEqual(t, ledger.Forbidden, fault(publish(limited(), "berths")))
	require.Equal(t, ledger.Forbidden, fault(l.AddTeam(ctx, limited(), "Another")))
	require.Equal(t, ledger.Forbidden, fault(l.SetRole(ctx, limited(), "reader.q", ledger.Admin)))
	other := issue("reader.n", ledger.TokenWish{Teams: []string{"Navigation"}})
	_, err = l.Version(ctx, other(), "berths@1.0.0")
	require.Equal(t, ledger.NotFound, fault(err), "it is in Quayside, too, and this token is not")

	// What its maker loses, it loses.
	require.NoError(t, l.DropMember(ctx, as("imke"), "Quayside", "lead.q"))
	require.Equal(t, ledger.Forbidden, fault(record(recorder(), "berths")))

	tokens, err := l.Tokens(ctx, as("reader.n"))
	require.NoError(t, err)
	require.Len(t, tokens, 1)
	require.NotEmpty(t, tokens[0].UsedAt)
	require.Equal(t, "2026-04-10T09:00:00Z", tokens[0].EndsAt, "90 days")
	require.ErrorContains(t, l.DropToken(ctx, as("reader.q"), tokens[0].ID), "there is no token "+tokens[0].ID+" of yours")
	require.NoError(t, l.DropToken(ctx, as("imke"), tokens[0].ID), "an admin takes back anybody's")
	require.ErrorContains(t, l.DropToken(ctx, as("reader.n"), tokens[0].ID), "there is no token")
	all, err := l.Tokens(ctx, as("imke"))
	require.NoError(t, err)
	require.Len(t, all, 4)
	for _, bad := range []struct {
		wish ledger.TokenWish
		want string
	}{
		{ledger.TokenWish{}, "needs a label"},
		{ledger.TokenWish{Label: "a\nb"}, "needs a label"},
		{ledger.TokenWish{Label: "x", Days: 401}, "a token lasts 1 to 400 days, not 401"},
		{ledger.TokenWish{Label: "x", Days: -1}, "a token lasts"},
		{ledger.TokenWish{Label: "x", Teams: []string{"None"}}, `there is no team called "None"`},
		{ledger.TokenWish{Label: "x", Scopes: []ledger.Scope{"all"}}, `"all" is no scope`},
	} {
		_, err := l.MakeToken(ctx, as("imke"), bad.wish)
		require.ErrorContains(t, err, bad.want)
	}
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
}

// TestTokenEnds lets a token end on its day.
func TestTokenEnds(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l := openAt(t, "2026-01-10")
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin}, "long enough"))
	who, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	token, err := l.MakeToken(ctx, who, ledger.TokenWish{Label: "x", Days: 1})
	require.NoError(t, err)
	c.now = c.now.Add(24*time.Hour - time.Second)
	_, err = l.TokenActor(ctx, token)
	require.NoError(t, err)
	c.now = c.now.Add(time.Second)
	_, err = l.TokenActor(ctx, token)
	require.Equal(t, ledger.SignInFirst, fault(err))
	require.ErrorContains(t, err, "this token ended on 2026-01-11; make another")
}

// TestTokensOfWhoLeft lets no token of somebody who left act again once they are back, without verifying telling.
func TestTokensOfWhoLeft(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	_, l, behind := openFile(t)
	for _, name := range []string{"imke", "vik"} {
		require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: name, Full: name, Role: ledger.Admin}, "long enough"))
	}
	vik, err := l.Actor(ctx, "vik")
	require.NoError(t, err)
	_, err = l.MakeToken(ctx, vik, ledger.TokenWish{Label: "old"})
	require.NoError(t, err)
	require.NoError(t, behind("CREATE TABLE aside AS SELECT * FROM tokens"))
	imke, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	require.NoError(t, l.DropPerson(ctx, imke, "vik"))
	require.NoError(t, l.TakeOver(ctx), "of those who are there")
	_, err = l.Readmit(ctx, "vik")
	require.NoError(t, err)
	v, err := l.VerifyJournal(ctx, imke, "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
	require.NoError(t, behind("INSERT INTO tokens SELECT * FROM aside"))
	v, err = l.VerifyJournal(ctx, imke, "")
	require.NoError(t, err)
	require.Equal(t, `the token "old" of vik is not in the journal as it is kept`, v.Why)
}

// TestTokenOfOneAPI acts by a token that is for one API alone: of others it sees what everybody does, and does nothing to them.
func TestTokenOfOneAPI(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	l, as := opened(t)
	_, err := l.Record(ctx, as("editor.q"), ledger.Submission{API: "moorings", Text: describe("1.0.0", "a: {type: string}")})
	require.NoError(t, err)
	_, err = l.MakeToken(ctx, as("lead.q"), ledger.TokenWish{Label: "x", APIs: []string{"none"}})
	require.EqualError(t, err, "there is no API called none")
	for _, name := range []string{"lead.q", "imke"} {
		secret, err := l.MakeToken(ctx, as(name), ledger.TokenWish{Label: "berths pipeline", APIs: []string{"berths"}, Scopes: []ledger.Scope{"publish", "record", "settle", "administer"}})
		require.NoError(t, err)
		who, err := l.TokenActor(ctx, secret)
		require.NoError(t, err)
		_, err = l.Description(ctx, who, "berths@1.2.0")
		require.NoError(t, err)
		_, err = l.API(ctx, who, "moorings")
		require.EqualError(t, err, "there is no API called moorings")
		apis, err := l.APIs(ctx, who)
		require.NoError(t, err)
		require.Len(t, apis, 1)
		require.Empty(t, l.Reader(who, "moorings").Teams, "nor as a reader of what is published for its team")
		waiting, err := l.Waiting(ctx, who)
		require.NoError(t, err)
		require.Len(t, waiting.Drafts, 1)
		for _, api := range []string{"moorings", "brand-new"} {
			_, err = l.Record(ctx, who, ledger.Submission{API: api, Text: describe("1.1.0", "a: {type: string}")})
			require.EqualError(t, err, `the token "berths pipeline" acts for berths alone`)
			_, err = l.Publish(ctx, who, api+"@1.0.0", nil)
			require.EqualError(t, err, `the token "berths pipeline" acts for berths alone`)
			require.ErrorContains(t, l.SetAudience(ctx, who, api, ledger.AudienceWish{}), "acts for berths alone")
		}
		for _, refused := range []error{
			l.AddTeam(ctx, who, "Ferries"), l.SetRole(ctx, who, "vik", ledger.Reader), l.PutMember(ctx, who, "Quayside", "vik", ledger.Reader),
			l.SetAudience(ctx, who, "", ledger.AudienceWish{Published: audience(t, "everyone")}),
		} {
			require.Equal(t, ledger.Forbidden, fault(refused), "%v", refused)
		}
		_, err = l.Record(ctx, who, ledger.Submission{API: "berths", Text: describe("1.3.0", "a2: {type: string}")})
		require.NoError(t, err)
		acts, err := l.Journal(ctx, who, ledger.Question{}, 0, 100)
		require.NoError(t, err)
		for _, a := range acts {
			require.True(t, strings.HasPrefix(a.Subject, "berths"), a.Subject)
		}
		require.NoError(t, l.Discard(ctx, who, "berths@1.3.0"))
	}
	v, err := l.VerifyJournal(ctx, as("imke"), "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
	reader, err := l.MakeToken(ctx, as("imke"), ledger.TokenWish{Label: "x", APIs: []string{"berths"}})
	require.NoError(t, err)
	require.NoError(t, l.Set(ctx, as("imke"), "berths", ledger.Settings{Team: new("Navigation")}))
	who, err := l.TokenActor(ctx, reader)
	require.NoError(t, err)
	_, err = l.Description(ctx, who, "berths@1.2.0")
	require.NoError(t, err, "it goes with the API, as far as its maker may")
}

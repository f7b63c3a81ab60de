package ledger_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestProviderWord lets tokens and feeds of somebody who signed in by a provider end when it said so too long ago.
func TestProviderWord(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l := openAt(t, "2026-01-10")
	id := ledger.Identity{Issuer: "https://accounts.saltmere.example", Subject: "1", Name: "vik"}
	who, err := l.ProviderSignIn(ctx, id, nil, "192.0.2.1")
	require.NoError(t, err)
	token, err := l.MakeToken(ctx, who, ledger.TokenWish{Label: "x"})
	require.NoError(t, err)
	key, err := l.MakeFeed(ctx, who)
	require.NoError(t, err)
	asks := func() []error {
		_, byToken := l.TokenActor(ctx, token)
		_, byFeed := l.FeedActor(ctx, key)
		return []error{byToken, byFeed}
	}
	require.Equal(t, []error{nil, nil}, asks())
	c.now = c.now.AddDate(0, 0, 31)
	for _, err := range asks() {
		require.ErrorContains(t, err, "more than 30 days ago; sign in again")
	}
	_, err = l.ProviderSignIn(ctx, id, nil, "192.0.2.1")
	require.NoError(t, err)
	require.Equal(t, []error{nil, nil}, asks())
}

// TestParseGroupRole reads what a group is, whatever it is called.
func TestParseGroupRole(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]ledger.GroupRole{
		"a=lead of Quayside":     {Group: "a", Role: ledger.Lead, Team: "Quayside"},
		"a=b=reader of A of B":   {Group: "a=b", Role: ledger.Reader, Team: "A of B"},
		"a=admin":                {Group: "a", Role: ledger.Admin},
		"cn=x,ou=y = auditor":    {Group: "cn=x,ou=y ", Role: ledger.Auditor},
		"a=lead of Berths = One": {Group: "a", Role: ledger.Lead, Team: "Berths = One"},
	} {
		g, err := ledger.ParseGroupRole(text)
		require.NoError(t, err, text)
		require.Equal(t, want, g, text)
	}
	for _, wrong := range []string{"", "a", "a=", "a=master of Quayside", "=lead of Quayside", "a=lead of ", "a=admin of Quayside", "a=of Quayside"} {
		_, err := ledger.ParseGroupRole(wrong)
		require.Error(t, err, wrong)
	}
}

// TestVerifyWhoIsKnown lets somebody in behind the ledger's back: by an identity that is somebody else's, by an address of feeds.
func TestVerifyWhoIsKnown(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	for statements, why := range map[string]string{
		`INSERT INTO identities VALUES ('https://a.example', 'mine', 'imke', '2026-01-01')`: "by whom imke signs in at https://a.example is not as the journal says",
		`UPDATE identities SET subject = 'mine'`:                                            "by whom vik signs in",
		`INSERT INTO feeds VALUES ('imke', 'mine', '2026-01-01')`:                           "imke has a secret address of feeds",
	} {
		_, l, behind := openFile(t)
		require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin}, "long enough"))
		vik, err := l.ProviderSignIn(ctx, ledger.Identity{Issuer: "https://a.example", Subject: "1", Name: "vik"}, nil, "192.0.2.1")
		require.NoError(t, err)
		_, err = l.MakeFeed(ctx, vik)
		require.NoError(t, err)
		v, err := l.VerifyJournal(ctx, teodor, "")
		require.NoError(t, err)
		require.Empty(t, v.Why)
		require.NoError(t, behind(statements))
		v, err = l.VerifyJournal(ctx, teodor, "")
		require.NoError(t, err)
		require.Contains(t, v.Why, why)
	}
}

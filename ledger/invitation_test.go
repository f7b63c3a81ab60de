package ledger_test

import (
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
)

// TestInvitations lets somebody choose a password by an invitation, once and in time; another invitation takes its place.
func TestInvitations(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	c, l := openAt(t, "2026-01-10")
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "imke", Full: "Imke", Role: ledger.Admin}, "long enough"))
	require.NoError(t, l.AddPerson(ctx, ledger.Itself, ledger.Person{Name: "ebba", Full: "Ebba"}, ""))
	imke, err := l.Actor(ctx, "imke")
	require.NoError(t, err)
	_, err = l.SignIn(ctx, "ebba", "", "192.0.2.1")
	require.ErrorContains(t, err, "do not belong together", "without a password nobody signs in")
	_, err = l.Invite(ctx, imke, "nobody")
	require.ErrorContains(t, err, "there is no nobody")

	first, err := l.Invite(ctx, imke, "ebba")
	require.NoError(t, err)
	second, err := l.Invite(ctx, imke, "ebba")
	require.NoError(t, err)
	_, err = l.AcceptInvitation(ctx, first.Key, "another long one")
	require.ErrorContains(t, err, "this invitation is not known", "the second took its place")
	_, err = l.AcceptInvitation(ctx, second.Key, "short")
	require.ErrorContains(t, err, "10 to 200 characters")
	p, err := l.Invited(ctx, second.Key)
	require.NoError(t, err)
	require.Equal(t, "Ebba", p.Full)

	// Two take it at once: one password holds.
	var group sync.WaitGroup
	faults := make([]error, 4)
	for i := range faults {
		group.Go(func() { _, faults[i] = l.AcceptInvitation(ctx, second.Key, "another long one") })
	}
	group.Wait()
	taken := 0
	for _, err := range faults {
		if err == nil {
			taken++
		} else {
			require.ErrorContains(t, err, "this invitation is not known")
		}
	}
	require.Equal(t, 1, taken)
	ebba, err := l.SignIn(ctx, "ebba", "another long one", "192.0.2.1")
	require.NoError(t, err)

	// One that waits too long ends; so does that of somebody who left.
	third, err := l.Invite(ctx, imke, "ebba")
	require.NoError(t, err)
	_, err = l.SignIn(ctx, "ebba", "another long one", "192.0.2.1")
	require.NoError(t, err, "until it is taken, the password that there is holds")
	c.now = c.now.AddDate(0, 0, 7)
	_, err = l.AcceptInvitation(ctx, third.Key, "yet another one")
	require.ErrorContains(t, err, "this invitation is not known")
	fourth, err := l.Invite(ctx, imke, "ebba")
	require.NoError(t, err)

	require.NoError(t, l.StoreSession(ctx, "cookie", "ebba", "", []byte("x"), c.now.Add(time.Hour)))
	sessions, err := l.Sessions(ctx, ebba)
	require.NoError(t, err)
	require.Len(t, sessions, 1)
	require.ErrorContains(t, l.ChangePassword(ctx, ebba, "wrong", "yet another one"), "this is not your password")
	require.ErrorContains(t, l.ChangePassword(ctx, ebba, "another long one", "short"), "10 to 200 characters")
	require.NoError(t, l.ChangePassword(ctx, ebba, "another long one", "yet another one"))
	data, err := l.SessionData(ctx, "cookie")
	require.NoError(t, err)
	require.Nil(t, data, "sessions end with the password")
	_, err = l.Invited(ctx, fourth.Key)
	require.ErrorContains(t, err, "this invitation is not known", "and so do invitations")
	_, err = l.SignIn(ctx, "ebba", "yet another one", "192.0.2.1")
	require.NoError(t, err)

	require.NoError(t, l.StoreSession(ctx, "cookie", "ebba", "", []byte("x"), c.now.Add(time.Hour)))
	require.NoError(t, l.StoreSession(ctx, "hers", "imke", "", []byte("x"), c.now.Add(time.Hour)))
	require.NoError(t, l.EndSessions(ctx, ebba))
	sessions, err = l.Sessions(ctx, imke)
	require.NoError(t, err)
	require.Len(t, sessions, 1, "nobody else's")
	sessions, err = l.Sessions(ctx, ebba)
	require.NoError(t, err)
	require.Empty(t, sessions)
	v, err := l.VerifyJournal(ctx, imke, "")
	require.NoError(t, err)
	require.Empty(t, v.Why)
	acts, err := l.Journal(ctx, imke, ledger.Question{}, 0, 1000)
	require.NoError(t, err)
	for _, e := range acts {
		for _, secret := range []string{first.Key, second.Key, third.Key, "another long one", "yet another one"} {
			require.NotContains(t, string(e.Detail)+e.Subject, secret)
		}
	}
}

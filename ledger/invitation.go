package ledger

import (
	"context"
	"errors"
	"time"

	"github.com/alexedwards/argon2id"

	"oldledger/ledger/records"
)

// invitationDays is how long an invitation waits.
const invitationDays = 7

// Invitation lets somebody choose a password. Its key is told once.
type Invitation struct {
	Person string
	Key    string
	EndsAt string
}

// Invite makes an invitation for somebody who is there, in place of an earlier one: to choose a first password, or another one where theirs
// is lost. Until it is taken, the password that they have holds.
func (l *Ledger) Invite(ctx context.Context, who Actor, name string) (Invitation, error) {
	if err := l.may(who, SetPeople, ""); err != nil {
		return Invitation{}, err
	}
	key, err := l.secret(18)
	if err != nil {
		return Invitation{}, err
	}
	i := Invitation{name, key, l.Today().AddDate(0, 0, invitationDays).Format(time.RFC3339)}
	return i, l.changePerson(ctx, who, name, func(w view, _ *records.Person) error {
		if err := w.rows.PutInvitation(ctx, records.Invitation{Hash: tokenHash(key), Person: name, EndsAt: i.EndsAt}); err != nil {
			return err
		}
		return w.appendJournal(ctx, "person.invited", name, map[string]string{"ends": i.EndsAt})
	})
}

// Invited is whom an invitation is for.
func (l *Ledger) Invited(ctx context.Context, key string) (Person, error) {
	return l.invited(ctx, l.store.Read(), key)
}

func (l *Ledger) invited(ctx context.Context, r records.Rows, key string) (Person, error) {
	row, err := r.Invitation(ctx, tokenHash(key), l.stamp())
	if isNotFound(err) {
		return Person{}, refuse(NotFound, "this invitation is not known: it was taken, it ended, or another one came; ask an administrator for another")
	}
	if err != nil {
		return Person{}, err
	}
	p, err := l.person(ctx, r, row.Person)
	var gone *Error
	if errors.As(err, &gone) {
		return Person{}, refuse(NotFound, "%s left", row.Person)
	}
	return p, err
}

// AcceptInvitation sets the password that somebody chose who was invited. It is taken once; sessions that they had end.
func (l *Ledger) AcceptInvitation(ctx context.Context, key, password string) (Person, error) {
	p, err := l.Invited(ctx, key)
	if err != nil {
		return p, err
	}
	hash, err := l.hashed(ctx, password)
	if err != nil {
		return p, err
	}
	return p, l.view(By(p)).act(ctx, "", func(w view) error {
		w.quiet()
		if _, err := l.invited(ctx, w.rows, key); err != nil {
			return err // somebody else took it meanwhile
		}
		return w.setPassword(ctx, p.Name, hash, "person.accepted")
	})
}

// ChangePassword sets another password of the actor's own, who knows the one before it. All their sessions end.
func (l *Ledger) ChangePassword(ctx context.Context, who Actor, old, password string) error {
	if err := l.may(who, SetPassword, ""); err != nil {
		return err
	}
	if _, err := l.checkPassword(ctx, who.Name, old); err != nil {
		var refused *Error
		if errors.As(err, &refused) {
			return refuse(Invalid, "this is not your password")
		}
		return err
	}
	hash, err := l.hashed(ctx, password)
	if err != nil {
		return err
	}
	return l.view(who).act(ctx, "", func(w view) error {
		w.quiet()
		return w.setPassword(ctx, who.Name, hash, "person.changed-password")
	})
}

func (w view) setPassword(ctx context.Context, name, hash, act string) error {
	row, err := w.rows.Person(ctx, name)
	if err != nil {
		return err
	}
	row.Password = hash
	if err := w.rows.PutPerson(ctx, row); err != nil {
		return err
	}
	if err := w.rows.DropInvitations(ctx, name); err != nil {
		return err
	}
	if err := w.rows.DropSessions(ctx, name); err != nil {
		return err
	}
	return w.appendJournal(ctx, act, name, map[string]string{})
}

// hashed is what is kept of a password.
func (l *Ledger) hashed(ctx context.Context, password string) (string, error) {
	if len(password) < minPassword || len(password) > maxPassword {
		return "", refuse(Invalid, "a password has %d to %d characters", minPassword, maxPassword)
	}
	select {
	case l.hashing <- struct{}{}:
		defer func() { <-l.hashing }()
	case <-ctx.Done():
		return "", ctx.Err()
	}
	return argon2id.CreateHash(password, argon)
}

package ledger

import (
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"regexp"

	"github.com/alexedwards/argon2id"

	"oldledger/ledger/records"
)

// Role is what a person may do: in a team, or in all of them.
type Role string

// The roles. What each may do stands in Access.
const (
	NoRole    Role = ""
	Admin     Role = "admin"   // of the whole ledger
	Auditor   Role = "auditor" // of the whole ledger: reads everything, writes nothing
	Lead      Role = "lead"
	Publisher Role = "publisher"
	Editor    Role = "editor"
	Reviewer  Role = "reviewer"
	Reader    Role = "reader"
)

// TeamRoles are those that one has in a team, the one that may most first.
var TeamRoles = []Role{Lead, Publisher, Editor, Reviewer, Reader}

// Person is someone who can sign in.
type Person struct {
	Name  string
	Full  string
	Role  Role            // in all teams, also those that are yet to come; NoRole where the person has none but in Teams
	Teams map[string]Role // by team
}

var (
	personName = regexp.MustCompile(`^[a-z][a-z0-9.-]{0,39}$`)
	// argon is RFC 9106's second recommendation, scaled to answer in a fraction of a second.
	argon = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}
)

const (
	minPassword = 10
	maxPassword = 200
)

// AddPerson makes a person who can sign in; without a password, once they were invited. Their teams are said with PutMember.
func (l *Ledger) AddPerson(ctx context.Context, who Actor, p Person, password string) error {
	if err := l.may(who, SetPeople, ""); err != nil {
		return err
	}
	if !personName.MatchString(p.Name) {
		return refuse(Invalid, "%q is no sign-in name; use lower-case letters, digits, dots and dashes", p.Name)
	}
	if err := p.check(); err != nil {
		return err
	}
	hash := ""
	if password != "" {
		var err error
		if hash, err = l.hashed(ctx, password); err != nil {
			return err
		}
	}
	return l.store.Write(ctx, func(r records.Rows) error {
		switch known, err := r.Person(ctx, p.Name); {
		case err == nil && known.LeftAt != "":
			return refuse(Conflict, "%s was here before, and left; the journal names them, so nobody else gets the name", p.Name)
		case err == nil:
			return refuse(Conflict, "%s is already there", p.Name)
		}
		if err := r.AddPerson(ctx, records.Person{Name: p.Name, Full: p.Full, Role: string(p.Role), Password: hash}); err != nil {
			return err
		}
		return l.view(who).in(r).appendJournal(ctx, "person.added", p.Name, map[string]string{"everywhere": string(p.Role)})
	})
}

// FirstAdmin makes the first administrator when there is nobody yet, and returns the password that was made; "" when there
// is somebody.
func (l *Ledger) FirstAdmin(ctx context.Context) (password string, err error) {
	people, err := l.store.Read().AllPeople(ctx)
	if err != nil || len(people) > 0 {
		return "", err
	}
	password, err = l.secret(12)
	if err != nil {
		return "", err
	}
	return password, l.AddPerson(ctx, Itself, Person{Name: "admin", Full: "Administrator", Role: Admin}, password)
}

func (l *Ledger) secret(bytes int) (string, error) {
	raw := make([]byte, bytes)
	if _, err := io.ReadFull(l.options.Random, raw); err != nil {
		return "", fmt.Errorf("make a secret: %w", err)
	}
	return base64.RawURLEncoding.EncodeToString(raw), nil
}

// noPassword is the hash that a sign-in of nobody is checked against, so that both take as long.
const noPassword = "$argon2id$v=19$m=19456,t=2,p=1$c2FsdG1lcmVoYXJib3Vy$u0vJm9jrP9w6T0yS6V0l0l7Wb0Jv7mZ4qk1Yw9C1y7A"

// maxHashing is how many passwords are checked at a time: each takes 19 MB and a while, whoever asks for it.
const maxHashing = 2

// SignIn checks a name and a password, for somebody at a network address. That it failed, or did not, is entered in the journal.
func (l *Ledger) SignIn(ctx context.Context, name, password, address string) (Actor, error) {
	who, err := l.checkPassword(ctx, name, password)
	act, subject := "person.signed-in", name
	var refused *Error
	if errors.As(err, &refused) {
		act = "sign-in.failed"
		if !personName.MatchString(name) {
			subject = "a name that nobody can have"
		}
	} else if err != nil {
		return Nobody, err
	}
	entered := l.store.Write(ctx, func(r records.Rows) error {
		return l.view(who).in(r).appendJournal(ctx, act, subject, map[string]string{"from": address})
	})
	if entered != nil {
		return Nobody, entered
	}
	return who, err
}

// checkPassword finds out whether a name and a password belong together, in the same time whether the name is known or not.
func (l *Ledger) checkPassword(ctx context.Context, name, password string) (Actor, error) {
	row, err := l.store.Read().Person(ctx, name)
	known := err == nil && row.LeftAt == "" && row.Password != ""
	if err != nil && !errors.Is(err, records.ErrNotFound) {
		return Nobody, err
	}
	hash := noPassword
	if known {
		hash = row.Password
	}
	match, err := l.matches(ctx, password, hash)
	if err != nil {
		return Nobody, err
	}
	if !known || !match {
		return Nobody, refuse(SignInFirst, "name and password do not belong together")
	}
	p, err := l.person(ctx, l.store.Read(), name)
	return By(p), err
}

// matches compares a password with a hash, in its turn.
func (l *Ledger) matches(ctx context.Context, password, hash string) (bool, error) {
	if len(password) > maxPassword {
		return false, nil
	}
	select {
	case l.hashing <- struct{}{}:
		defer func() { <-l.hashing }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	return argon2id.ComparePasswordAndHash(password, hash)
}

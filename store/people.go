package store

import (
	"context"
	"errors"
)

// Person is one row of people; Password is a hash.
type Person struct {
	Name, Full, Role, Password string
}

func (p *Person) columns() []any { return []any{&p.Name, &p.Full, &p.Role, &p.Password} }

// Person reads one person.
func (r Rows) Person(ctx context.Context, name string) (Person, error) {
	return one(r.q.QueryRowContext(ctx, `SELECT name, full, role, password FROM people WHERE name = ?`, name), (*Person).columns)
}

// CountPeople tells how many people there are.
func (r Rows) CountPeople(ctx context.Context) (n int, err error) {
	err = r.q.QueryRowContext(ctx, `SELECT count(*) FROM people`).Scan(&n)
	return n, err
}

// AddPerson adds a person.
func (r Rows) AddPerson(ctx context.Context, p Person) error {
	_, err := r.q.ExecContext(ctx, `INSERT INTO people (name, full, role, password) VALUES (?, ?, ?, ?)`, p.Name, p.Full, p.Role, p.Password)
	return err
}

// Token is one row of tokens, with the person that it acts for.
type Token struct {
	Label string
	Person
}

// Token finds the token that has the hash.
func (r Rows) Token(ctx context.Context, hash string) (Token, error) {
	return one(r.q.QueryRowContext(ctx, `
		SELECT t.label, p.name, p.full, p.role, p.password FROM tokens t JOIN people p ON p.name = t.person WHERE t.hash = ?`, hash),
		func(t *Token) []any { return append([]any{&t.Label}, t.Person.columns()...) })
}

// AddToken adds a token by its hash.
func (r Rows) AddToken(ctx context.Context, hash, person, label, at string) error {
	_, err := r.q.ExecContext(ctx, `INSERT INTO tokens (hash, person, label, made_at) VALUES (?, ?, ?, ?)`, hash, person, label, at)
	return err
}

// Answer is what a write with an Idempotency-Key was answered.
type Answer struct {
	Request string // a digest of the request
	Status  int
	Body    []byte
}

// Answer reads what was answered to a key of a person.
func (r Rows) Answer(ctx context.Context, key, person string) (Answer, bool, error) {
	a, err := one(r.q.QueryRowContext(ctx, `SELECT request, status, body FROM answers WHERE key = ? AND person = ?`, key, person),
		func(a *Answer) []any { return []any{&a.Request, &a.Status, &a.Body} })
	if errors.Is(err, ErrNotFound) {
		return a, false, nil
	}
	return a, err == nil, err
}

// AddAnswer keeps what was answered, and forgets what is older than before.
func (r Rows) AddAnswer(ctx context.Context, key, person string, a Answer, at, before string) error {
	if _, err := r.q.ExecContext(ctx, `DELETE FROM answers WHERE made_at < ?`, before); err != nil {
		return err
	}
	_, err := r.q.ExecContext(ctx, `
		INSERT INTO answers (key, person, request, status, body, made_at) VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING`,
		key, person, a.Request, a.Status, a.Body, at)
	return err
}

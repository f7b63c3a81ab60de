package client

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"net/url"

	"oldledger/wire"
)

// People lists who can sign in.
func (c *Client) People(ctx context.Context) ([]wire.Person, error) {
	list, err := get[wire.Items[wire.Person]](ctx, c, "/people", nil)
	return list.Items, err
}

// AddPerson makes a person who can sign in.
func (c *Client) AddPerson(ctx context.Context, p wire.NewPerson) (wire.Person, error) {
	return post[wire.Person](ctx, c, "/people", nil, p)
}

// SetRole says what a person is in all teams; "" for nothing but in their own.
func (c *Client) SetRole(ctx context.Context, name, role string) error {
	return c.put(ctx, http.MethodPatch, "/people/"+url.PathEscape(name), map[string]string{"role": role})
}

// DropPerson lets a person go.
func (c *Client) DropPerson(ctx context.Context, name string) error {
	return c.put(ctx, http.MethodDelete, "/people/"+url.PathEscape(name), nil)
}

// Teams lists the teams with their members.
func (c *Client) Teams(ctx context.Context) ([]wire.Team, error) {
	list, err := get[wire.Items[wire.Team]](ctx, c, "/teams", nil)
	return list.Items, err
}

// AddTeam makes a team.
func (c *Client) AddTeam(ctx context.Context, name string) error {
	return c.put(ctx, http.MethodPost, "/teams", map[string]string{"name": name})
}

// DropTeam dissolves a team.
func (c *Client) DropTeam(ctx context.Context, name string) error {
	return c.put(ctx, http.MethodDelete, "/teams/"+url.PathEscape(name), nil)
}

// PutMember says what a person is in a team.
func (c *Client) PutMember(ctx context.Context, team, person, role string) error {
	return c.put(ctx, http.MethodPut, "/teams/"+url.PathEscape(team)+"/members/"+url.PathEscape(person), map[string]string{"role": role})
}

// DropMember takes a person out of a team.
func (c *Client) DropMember(ctx context.Context, team, person string) error {
	return c.put(ctx, http.MethodDelete, "/teams/"+url.PathEscape(team)+"/members/"+url.PathEscape(person), nil)
}

// put sends a JSON body, where there is one, and wants no answer.
func (c *Client) put(ctx context.Context, method, path string, in any) error {
	if in == nil {
		_, err := c.do(ctx, method, path, nil, nil, nil, nil)
		return err
	}
	body, err := json.Marshal(in)
	if err == nil {
		_, err = c.do(ctx, method, path, nil, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), nil)
	}
	return err
}

// Tokens lists one's own tokens; everybody's for an administrator.
func (c *Client) Tokens(ctx context.Context) ([]wire.TokenEntry, error) {
	list, err := get[wire.Items[wire.TokenEntry]](ctx, c, "/tokens", nil)
	return list.Items, err
}

// MakeToken makes a token, and returns it.
func (c *Client) MakeToken(ctx context.Context, wish wire.TokenWish) (string, error) {
	made, err := post[wire.Token](ctx, c, "/tokens", nil, wish)
	return made.Token, err
}

// DropToken takes a token back.
func (c *Client) DropToken(ctx context.Context, id string) error {
	return c.put(ctx, http.MethodDelete, "/tokens/"+url.PathEscape(id), nil)
}

// Invite makes an address at which a person chooses a password.
func (c *Client) Invite(ctx context.Context, name string) (wire.Invitation, error) {
	return post[wire.Invitation](ctx, c, "/people/"+url.PathEscape(name)+"/invitation", nil, struct{}{})
}

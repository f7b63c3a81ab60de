package client

import (
	"context"
	"net/http"
	"net/url"

	"oldledger/wire"
)

// stylePath is where a style stands: an API's, a team's, or the house's.
func stylePath(team, api string) string {
	switch {
	case api != "":
		return "/apis/" + url.PathEscape(api) + "/style"
	case team != "":
		return "/teams/" + url.PathEscape(team) + "/style"
	}
	return "/style"
}

// Style reads the house style of an API or a team, or, where neither is named, of the house.
func (c *Client) Style(ctx context.Context, team, api string) (wire.Style, error) {
	return get[wire.Style](ctx, c, stylePath(team, api), nil)
}

// PutStyle keeps a new version of a house style.
func (c *Client) PutStyle(ctx context.Context, team, api string, wish wire.StyleWish) error {
	return c.put(ctx, http.MethodPut, stylePath(team, api), wish)
}

// Vocabulary reads how the APIs of the ledger name their fields.
func (c *Client) Vocabulary(ctx context.Context) (wire.Vocabulary, error) {
	return get[wire.Vocabulary](ctx, c, "/vocabulary", nil)
}

// Findings reads what is wrong with a version, and what does not follow the house style.
func (c *Client) Findings(ctx context.Context, ref string) (wire.Findings, error) {
	return get[wire.Findings](ctx, c, "/versions/"+url.PathEscape(ref)+"/findings", nil)
}

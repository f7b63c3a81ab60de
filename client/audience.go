package client

import (
	"context"
	"net/http"
	"net/url"

	"oldledger/wire"
)

// Audience is who may read every API of which nothing else is said.
func (c *Client) Audience(ctx context.Context) (wire.Audience, error) {
	return get[wire.Audience](ctx, c, "/audience", nil)
}

// SetAudience says who may read an API or, where its name is "", every one of which nothing else is said.
func (c *Client) SetAudience(ctx context.Context, api string, wish wire.AudienceWish) error {
	path := "/audience"
	if api != "" {
		path = "/apis/" + url.PathEscape(api) + "/audience"
	}
	return c.put(ctx, http.MethodPatch, path, wish)
}

// Links lists the links by which an API is read.
func (c *Client) Links(ctx context.Context, api string) ([]wire.Link, error) {
	list, err := get[wire.Items[wire.Link]](ctx, c, "/apis/"+url.PathEscape(api)+"/links", nil)
	return list.Items, err
}

// MakeLink makes a link; its address and its password are told once.
func (c *Client) MakeLink(ctx context.Context, api string, wish wire.LinkWish) (wire.NewLink, error) {
	return post[wire.NewLink](ctx, c, "/apis/"+url.PathEscape(api)+"/links", nil, wish)
}

// WithdrawLink ends a link.
func (c *Client) WithdrawLink(ctx context.Context, api, id string) error {
	return c.put(ctx, http.MethodDelete, "/apis/"+url.PathEscape(api)+"/links/"+url.PathEscape(id), nil)
}

// MakeFeed makes one's secret addresses of a feed and a calendar, in place of earlier ones.
func (c *Client) MakeFeed(ctx context.Context) (wire.NewFeed, error) {
	return post[wire.NewFeed](ctx, c, "/me/feed", nil, struct{}{})
}

// DropFeed ends one's secret addresses.
func (c *Client) DropFeed(ctx context.Context) error {
	return c.put(ctx, http.MethodDelete, "/me/feed", nil)
}

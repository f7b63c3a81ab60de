package client

import (
	"context"
	"net/http"
	"net/url"

	"oldledger/wire"
)

// Shelves lists the shelves that one sees.
func (c *Client) Shelves(ctx context.Context) ([]wire.Shelf, error) {
	list, err := get[wire.Items[wire.Shelf]](ctx, c, "/shelves", nil)
	return list.Items, err
}

// SetShelf makes a shelf, or changes one.
func (c *Client) SetShelf(ctx context.Context, name string, wish wire.ShelfWish) error {
	return c.put(ctx, http.MethodPatch, "/shelves/"+url.PathEscape(name), wish)
}

// DropShelf takes a shelf away.
func (c *Client) DropShelf(ctx context.Context, name string) error {
	return c.put(ctx, http.MethodDelete, "/shelves/"+url.PathEscape(name), nil)
}

// Place has an API stand on a shelf: the versions of some lines and numbers, or all.
func (c *Client) Place(ctx context.Context, shelf, api string, versions []string) error {
	return c.put(ctx, http.MethodPut, placePath(shelf, api), wire.Placing{Versions: versions})
}

// Unplace takes an API from a shelf.
func (c *Client) Unplace(ctx context.Context, shelf, api string) error {
	return c.put(ctx, http.MethodDelete, placePath(shelf, api), nil)
}

func placePath(shelf, api string) string {
	return "/shelves/" + url.PathEscape(shelf) + "/apis/" + url.PathEscape(api)
}

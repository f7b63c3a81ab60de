package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"oldledger/core/proof"
	"oldledger/wire"
)

// Checkpoint is the journal as it is, signed; with what proves that it goes on from an earlier size, 0 for none.
func (c *Client) Checkpoint(ctx context.Context, from int64) (wire.Checkpoint, error) {
	return get[wire.Checkpoint](ctx, c, "/journal/checkpoint", url.Values{"from": {strconv.FormatInt(from, 10)}})
}

// Proof proves that a version was published as it is.
func (c *Client) Proof(ctx context.Context, ref string) (proof.Inclusion, error) {
	return get[proof.Inclusion](ctx, c, "/versions/"+url.PathEscape(ref)+"/proof", nil)
}

// ExportJournal writes the journal as lines of JSON (proof.CheckExport).
func (c *Client) ExportJournal(ctx context.Context, to io.Writer) error {
	_, err := c.do(ctx, http.MethodGet, "/journal/export", nil, nil, nil, to)
	return err
}

package client

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"net/url"

	"oldledger/core/guide"
	"oldledger/wire"
)

// GuideWish is which guide is asked for.
type GuideWish struct {
	Old, New string
	Use      []string // the operations that the reader uses; all where there are none
	Language string   // of the code: one of the team's, "all", "none", or "" for the team's first
}

// Guide reads the migration guide between two recorded versions.
func (c *Client) Guide(ctx context.Context, w GuideWish) (*guide.Guide, error) {
	query := url.Values{"old": {w.Old}, "new": {w.New}, "use": w.Use}
	if w.Language != "" {
		query.Set("language", w.Language)
	}
	return get[*guide.Guide](ctx, c, "/guide", query)
}

// WriteGuide writes an author's text into a guide, and reads the guide as it is then.
func (c *Client) WriteGuide(ctx context.Context, t wire.GuideText) (*guide.Guide, error) {
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	g := &guide.Guide{}
	_, err = c.do(ctx, http.MethodPut, "/guide/texts", nil, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), g)
	return g, err
}

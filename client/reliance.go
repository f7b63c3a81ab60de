package client

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"oldledger/core/replay"
	"oldledger/wire"
)

// Reliance reads what a consumer says or shows that it relies on.
func (c *Client) Reliance(ctx context.Context, consumer string) (wire.Reliance, error) {
	return get[wire.Reliance](ctx, c, consumerPath(consumer)+"/reliance", nil)
}

// SetReliance says what a consumer relies on, by the text of its file.
func (c *Client) SetReliance(ctx context.Context, consumer, text string) error {
	return c.put(ctx, http.MethodPut, consumerPath(consumer)+"/reliance", wire.RelianceWish{Text: text})
}

func recordingPath(consumer, api string) string {
	return consumerPath(consumer) + "/recordings/" + url.PathEscape(api)
}

// AddRecording keeps exchanges of a consumer with an API, recorded at a version (HAR 1.2). guards says whether the gate replays them; nil
// leaves that as it is.
func (c *Client) AddRecording(
	ctx context.Context, consumer, api, version string, guards *bool, archive io.Reader,
) (wire.AddedRecording, error) {
	query := url.Values{"version": {version}}
	if guards != nil {
		query.Set("guards", strconv.FormatBool(*guards))
	}
	var added wire.AddedRecording
	_, err := c.do(ctx, http.MethodPut, recordingPath(consumer, api), query, http.Header{"Content-Type": {"application/json"}}, archive, &added)
	return added, err
}

// SetGuards says whether the gate of an API replays the recording of a consumer.
func (c *Client) SetGuards(ctx context.Context, consumer, api string, guards bool) error {
	return c.put(ctx, http.MethodPatch, recordingPath(consumer, api), wire.Guarding{Guards: guards})
}

// DropRecording takes a recording away.
func (c *Client) DropRecording(ctx context.Context, consumer, api string) error {
	return c.put(ctx, http.MethodDelete, recordingPath(consumer, api), nil)
}

// Replay reads what of the recording of a consumer a version still answers.
func (c *Client) Replay(ctx context.Context, consumer, against string) (*replay.Report, error) {
	return get[*replay.Report](ctx, c, consumerPath(consumer)+"/replay", url.Values{"against": {against}})
}

// LineupClients reads which versions of an API answer the consumers of which recordings are kept.
func (c *Client) LineupClients(ctx context.Context, api string) ([]wire.LineupClient, error) {
	list, err := get[wire.Items[wire.LineupClient]](ctx, c, "/apis/"+url.PathEscape(api)+"/lineup/clients", nil)
	return list.Items, err
}

package client

import (
	"context"
	"io"
	"net/http"
	"net/url"

	"oldledger/core/report"
	"oldledger/wire"
)

// Consumers lists the consumers that one may know of.
func (c *Client) Consumers(ctx context.Context) ([]wire.Consumer, error) {
	return listed[wire.Consumer](ctx, c, "/consumers")
}

func consumerPath(name string) string { return "/consumers/" + url.PathEscape(name) }

// Consumer reads one of them.
func (c *Client) Consumer(ctx context.Context, name string) (wire.Consumer, error) {
	return get[wire.Consumer](ctx, c, consumerPath(name), nil)
}

// SetConsumer makes a consumer, or changes one.
func (c *Client) SetConsumer(ctx context.Context, name string, wish wire.ConsumerWish) error {
	return c.put(ctx, http.MethodPatch, consumerPath(name), wish)
}

// DropConsumer takes a consumer away.
func (c *Client) DropConsumer(ctx context.Context, name string) error {
	return c.put(ctx, http.MethodDelete, consumerPath(name), nil)
}

// SetSigns says by what a consumer is recognised at the APIs of a team, or, where none is named, at all.
func (c *Client) SetSigns(ctx context.Context, name string, signs wire.Signs) error {
	return c.put(ctx, http.MethodPut, consumerPath(name)+"/signs", signs)
}

// Logs lists the logs that were added, the newest first.
func (c *Client) Logs(ctx context.Context) ([]wire.Log, error) {
	list, err := get[wire.Items[wire.Log]](ctx, c, "/logs", nil)
	return list.Items, err
}

// AddLog counts the calls of a log, of some APIs or of all of which one may add calls. mapping names what lines of JSON hold; "" for the
// usual names.
func (c *Client) AddLog(ctx context.Context, name string, apis []string, mapping string, text io.Reader) (wire.AddedLog, error) {
	query := url.Values{"name": {name}, "of": apis}
	if mapping != "" {
		query.Set("mapping", mapping)
	}
	var added wire.AddedLog
	patient := *c
	patient.http = &http.Client{} // it lasts as long as the log is long
	_, err := patient.do(ctx, http.MethodPost, "/logs", query, http.Header{"Content-Type": {"application/octet-stream"}}, text, &added)
	return added, err
}

// Unmatched lists calls of no operation that is described, the most frequent first.
func (c *Client) Unmatched(ctx context.Context) ([]wire.Unmatched, error) {
	list, err := get[wire.Items[wire.Unmatched]](ctx, c, "/unmatched", nil)
	return list.Items, err
}

// Use reads how often an API is called; asked has from, until, by, version, consumer and operation, where they are asked for.
func (c *Client) Use(ctx context.Context, api string, asked url.Values) (wire.Use, error) {
	return get[wire.Use](ctx, c, "/apis/"+url.PathEscape(api)+"/use", asked)
}

// Impact reads whom the changes from one version to another touch.
func (c *Client) Impact(ctx context.Context, old, new string) (wire.Impact, error) {
	return get[wire.Impact](ctx, c, "/impact", url.Values{"old": {old}, "new": {new}})
}

// Ready reads whether a version, a line, an API, or what a notice speaks of, may go.
func (c *Client) Ready(ctx context.Context, of string) (wire.Readiness, error) {
	return get[wire.Readiness](ctx, c, "/readiness", url.Values{"of": {of}})
}

// Overview reads what a lead looks at once a month, of a time; "" for the usual one.
func (c *Client) Overview(ctx context.Context, from, until string) (*report.Overview, error) {
	query := url.Values{}
	for name, day := range map[string]string{"from": from, "until": until} {
		if day != "" {
			query.Set(name, day)
		}
	}
	return get[*report.Overview](ctx, c, "/overview", query)
}

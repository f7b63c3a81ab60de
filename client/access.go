package client

import (
	"context"
	"fmt"
	"net/http"
	"net/url"

	"oldledger/wire"
)

func planPath(api, plan string) string {
	return "/apis/" + url.PathEscape(api) + "/plans/" + url.PathEscape(plan)
}

// Plans lists the plans of an API for which one may ask; all of them for its team.
func (c *Client) Plans(ctx context.Context, api string) ([]wire.Plan, error) {
	list, err := get[wire.Items[wire.Plan]](ctx, c, "/apis/"+url.PathEscape(api)+"/plans", nil)
	return list.Items, err
}

// SetPlan makes a plan, or changes one.
func (c *Client) SetPlan(ctx context.Context, api, plan string, wish wire.PlanWish) error {
	return c.put(ctx, http.MethodPut, planPath(api, plan), wish)
}

// DropPlan takes a plan away by which nobody uses the API.
func (c *Client) DropPlan(ctx context.Context, api, plan string) error {
	return c.put(ctx, http.MethodDelete, planPath(api, plan), nil)
}

// Requests lists what one asked for, and what one's teams are asked for; the newest first.
func (c *Client) Requests(ctx context.Context) ([]wire.Request, error) {
	list, err := get[wire.Items[wire.Request]](ctx, c, "/requests", nil)
	return list.Items, err
}

// Ask asks for the use of APIs, and returns the number of the request.
func (c *Client) Ask(ctx context.Context, wish wire.RequestWish) (int64, error) {
	made, err := post[wire.RequestMade](ctx, c, "/requests", nil, wish)
	return made.ID, err
}

// Decide approves or refuses one of the APIs of a request, or withdraws it.
func (c *Client) Decide(ctx context.Context, request int64, d wire.Decision) error {
	return c.put(ctx, http.MethodPost, fmt.Sprintf("/requests/%d/decisions", request), d)
}

// Grants lists what consumers may use; of an API and a consumer alone where they are named.
func (c *Client) Grants(ctx context.Context, api, consumer string) ([]wire.Grant, error) {
	list, err := get[wire.Items[wire.Grant]](ctx, c, "/grants", url.Values{"api": {api}, "consumer": {consumer}})
	return list.Items, err
}

func usedPath(consumer, api string) string {
	return consumerPath(consumer) + "/apis/" + url.PathEscape(api)
}

// EndGrant ends that a consumer may use a line of an API.
func (c *Client) EndGrant(ctx context.Context, consumer, api, line, reason string) error {
	_, err := c.do(ctx, http.MethodDelete, usedPath(consumer, api)+"/lines/"+url.PathEscape(line), url.Values{"reason": {reason}}, nil, nil, nil)
	return err
}

// MakeCredential makes a credential; those before it end after so many days, and go on where that is -1.
func (c *Client) MakeCredential(ctx context.Context, consumer, api string, overlap int) (wire.NewCredential, error) {
	return post[wire.NewCredential](ctx, c, usedPath(consumer, api)+"/credentials", nil, wire.CredentialWish{Overlap: overlap})
}

// EndCredential ends a credential at once.
func (c *Client) EndCredential(ctx context.Context, consumer, api, id string) error {
	return c.put(ctx, http.MethodDelete, usedPath(consumer, api)+"/credentials/"+url.PathEscape(id), nil)
}

// CarryOver carries those who may use a line of an API over to another one.
func (c *Client) CarryOver(ctx context.Context, api string, wish wire.CarryWish) (wire.Carried, error) {
	return post[wire.Carried](ctx, c, "/apis/"+url.PathEscape(api)+"/carrying-over", nil, wish)
}

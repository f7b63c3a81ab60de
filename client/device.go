package client

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"strings"
)

// Device is a sign-in that is finished elsewhere: somebody opens Address there and enters Code.
type Device struct {
	Handle  string `json:"handle"`
	Address string `json:"address"`
	Code    string `json:"code"`
	Whole   string `json:"whole"` // an address that has the code in it; "" for none
}

// SignInElsewhere begins to sign in by the ledger's provider of identities, for who has no browser here.
func (c *Client) SignInElsewhere(ctx context.Context) (Device, error) {
	var d Device
	return d, c.elsewhere(ctx, "/sign-in/provider/device", struct{}{}, &d)
}

// Arrived waits a while for somebody who signs in elsewhere. token is "" where they have not yet.
func (c *Client) Arrived(ctx context.Context, d Device, label string) (token, name string, err error) {
	var in struct{ Token, Name string }
	err = c.elsewhere(ctx, "/sign-in/provider/device/wait", map[string]string{"handle": d.Handle, "label": label}, &in)
	return in.Token, in.Name, err
}

// elsewhere asks beside the interface. An empty answer leaves out as it is.
func (c *Client) elsewhere(ctx context.Context, path string, in, out any) error {
	body, err := json.Marshal(in)
	if err != nil {
		return err
	}
	beside := *c
	beside.base = strings.TrimSuffix(c.base, "/api/v1")
	var text []byte
	if _, err := beside.do(ctx, http.MethodPost, path, nil, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), &text); err != nil {
		return err
	}
	if len(text) == 0 {
		return nil
	}
	return json.Unmarshal(text, out)
}

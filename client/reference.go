package client

import (
	"bytes"
	"context"
	"encoding/json"
	"mime"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"

	"oldledger/core/promise"
	"oldledger/wire"
)

func of(ref, what string) string { return "/versions/" + url.PathEscape(ref) + what }

// PublishCheck says whether a version may be published as it is, and what of it deserves a second look.
func (c *Client) PublishCheck(ctx context.Context, ref string) (wire.PublishCheck, error) {
	return get[wire.PublishCheck](ctx, c, of(ref, "/gate"), nil)
}

// Overlay reads how a version's reference is worded.
func (c *Client) Overlay(ctx context.Context, ref string) (wire.Overlay, error) {
	return get[wire.Overlay](ctx, c, of(ref, "/overlay"), nil)
}

// PutOverlay keeps a draft of an overlay, in YAML or JSON.
func (c *Client) PutOverlay(ctx context.Context, ref string, text []byte) (wire.Overlay, error) {
	var o wire.Overlay
	_, err := c.do(ctx, http.MethodPut, of(ref, "/overlay"), nil, http.Header{"Content-Type": {"application/yaml"}}, bytes.NewReader(text), &o)
	return o, err
}

// ShowOverlay shows readers the draft of an overlay.
func (c *Client) ShowOverlay(ctx context.Context, ref string) (wire.Overlay, error) {
	return post[wire.Overlay](ctx, c, of(ref, "/overlay/shown"), nil, struct{}{})
}

// DropOverlay takes away the draft of an overlay, or what is shown where there is no draft.
func (c *Client) DropOverlay(ctx context.Context, ref string) error {
	_, err := c.do(ctx, http.MethodDelete, of(ref, "/overlay"), nil, nil, nil, nil)
	return err
}

// CreatePreviewLink makes an address for a preview of a version.
func (c *Client) CreatePreviewLink(ctx context.Context, ref string, days int) (wire.PreviewLink, error) {
	return post[wire.PreviewLink](ctx, c, of(ref, "/previews"), nil, map[string]int{"days": days})
}

// Unpublish takes a version's reference back.
func (c *Client) Unpublish(ctx context.Context, ref, reason string) (wire.Version, error) {
	return c.send(ctx, http.MethodDelete, of(ref, "/publication"), map[string]string{"reason": reason})
}

// Retire ends a version for good; despite says why, where it may not go yet.
func (c *Client) Retire(ctx context.Context, ref, reason, despite string) (wire.Version, error) {
	return c.send(ctx, http.MethodPost, of(ref, "/retirement"), wire.Retirement{Reason: reason, Despite: despite})
}

func (c *Client) send(ctx context.Context, method, path string, in any) (wire.Version, error) {
	var v wire.Version
	body, err := json.Marshal(in)
	if err != nil {
		return v, err
	}
	_, err = c.do(ctx, method, path, nil, http.Header{"Content-Type": {"application/json"}}, bytes.NewReader(body), &v)
	return v, err
}

// looksName is what the interface calls all APIs that have no looks of their own.
func looksName(api string) string {
	if api == "" {
		return "_"
	}
	return url.PathEscape(api)
}

// Looks reads how the reference of an API looks; of all that have no looks of their own where the name is "".
func (c *Client) Looks(ctx context.Context, api string) (wire.Looks, error) {
	return get[wire.Looks](ctx, c, "/looks/"+looksName(api), nil)
}

// PutLooks changes how the reference of an API looks.
func (c *Client) PutLooks(ctx context.Context, api string, looks wire.Looks) (wire.Looks, error) {
	var out wire.Looks
	body, err := json.Marshal(looks)
	if err == nil {
		_, err = c.do(ctx, http.MethodPut, "/looks/"+looksName(api), nil, http.Header{"Content-Type": {"application/json"}},
			bytes.NewReader(body), &out)
	}
	return out, err
}

// PreviewLinks lists the previews of a version that still hold, without their addresses.
func (c *Client) PreviewLinks(ctx context.Context, ref string) ([]wire.PreviewLink, error) {
	list, err := get[wire.Items[wire.PreviewLink]](ctx, c, of(ref, "/previews"), nil)
	return list.Items, err
}

// WithdrawPreview ends a preview, by its id.
func (c *Client) WithdrawPreview(ctx context.Context, ref, id string) error {
	_, err := c.do(ctx, http.MethodDelete, of(ref, "/previews/"+url.PathEscape(id)), nil, nil, nil, nil)
	return err
}

// Pictures lists the pictures of an API; of the house where the name is "".
func (c *Client) Pictures(ctx context.Context, api string) ([]wire.Picture, error) {
	list, err := get[wire.Items[wire.Picture]](ctx, c, "/looks/"+looksName(api)+"/pictures", nil)
	return list.Items, err
}

// PutPicture keeps a picture under a name.
func (c *Client) PutPicture(ctx context.Context, api, name string, picture []byte) (wire.Picture, error) {
	var p wire.Picture
	mediaType := mime.TypeByExtension(path.Ext(name))
	if !strings.HasPrefix(mediaType, "image/") {
		mediaType = "application/octet-stream"
	}
	_, err := c.do(ctx, http.MethodPut, "/looks/"+looksName(api)+"/pictures/"+url.PathEscape(name), nil,
		http.Header{"Content-Type": {mediaType}}, bytes.NewReader(picture), &p)
	return p, err
}

// DropPicture removes a picture.
func (c *Client) DropPicture(ctx context.Context, api, name string) error {
	_, err := c.do(ctx, http.MethodDelete, "/looks/"+looksName(api)+"/pictures/"+url.PathEscape(name), nil, nil, nil, nil)
	return err
}

// Address is where a path of the service stands, for people.
func (c *Client) Address(path string) string { return strings.TrimSuffix(c.base, "/api/v1") + path }

// Exported reads one of the forms in which a version's reference can be taken along: site.zip or reference.md.
func (c *Client) Exported(ctx context.Context, v wire.Version, form string) ([]byte, error) {
	site := *c
	site.base = strings.TrimSuffix(c.base, "/api/v1")
	site.token = ""
	var body []byte
	_, err := site.do(ctx, http.MethodGet, "/reference/"+url.PathEscape(v.API)+"/"+v.Number+"/"+form, nil, nil, nil, &body)
	return body, err
}

// Headers reads what a gateway should send with the answers of a version.
func (c *Client) Headers(ctx context.Context, ref string) ([]wire.GatewayHeader, error) {
	list, err := get[wire.Items[wire.GatewayHeader]](ctx, c, of(ref, "/headers"), nil)
	return list.Items, err
}

// Amend changes a notice.
func (c *Client) Amend(ctx context.Context, id int64, a wire.Amendment) (promise.Notice, error) {
	var n promise.Notice
	body, err := json.Marshal(a)
	if err == nil {
		_, err = c.do(ctx, http.MethodPatch, "/notices/"+strconv.FormatInt(id, 10), nil, http.Header{"Content-Type": {"application/json"}},
			bytes.NewReader(body), &n)
	}
	return n, err
}

// Calling says how callers choose a version of an API.
func (c *Client) Calling(ctx context.Context, api string) (wire.Calling, error) {
	return get[wire.Calling](ctx, c, "/apis/"+url.PathEscape(api)+"/calling", nil)
}

// Set changes what holds for an API.
func (c *Client) Set(ctx context.Context, api string, s wire.Settings) (wire.API, error) {
	var a wire.API
	body, err := json.Marshal(s)
	if err == nil {
		_, err = c.do(ctx, http.MethodPatch, "/apis/"+url.PathEscape(api), nil, http.Header{"Content-Type": {"application/json"}},
			bytes.NewReader(body), &a)
	}
	return a, err
}

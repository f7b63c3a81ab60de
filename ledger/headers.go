package ledger

import (
	"context"
	"net/url"
	"strconv"
	"strings"

	"oldledger/core/promise"
)

// GatewayHeader is what a gateway should send with every answer of one operation.
type GatewayHeader struct {
	Method string
	Path   string // with the path of the server before it: "/v1/berths/{berth}/bookings"
	promise.Header
	By   string // what leaves on the day of the sunset, as its notice names it
	Link []string
}

// Headers are what a gateway should send for a version that it answers: with every operation the fields that its own notices and those of
// the version come to, and links to the notices of its parts. home is where readers reach the reference. Operations of which nothing leaves
// are left out.
func (l *Ledger) Headers(ctx context.Context, who Actor, ref, home string) ([]GatewayHeader, error) {
	w := l.view(who)
	v, err := w.readable(ctx, ref)
	if err != nil {
		return nil, err
	}
	d, err := w.describe(ctx, v)
	if err != nil {
		return nil, err
	}
	a, err := w.api(ctx, v.API)
	if err != nil {
		return nil, err
	}
	notices := home + "/reference/" + a.Name + "/notices"
	all := []GatewayHeader{}
	whole, parts := map[string][]promise.Notice{}, map[string][]promise.Notice{} // by operation
	for _, n := range a.Notices {
		if !n.Covers(d.Version.Number, d.Version.Line) {
			continue
		}
		into := parts
		if n.Whole() || n.OfOperation(n.Operation) && n.Operation != "" {
			into = whole
		}
		reach, _ := n.Reach(d.Contract)
		for _, key := range reach {
			into[key] = append(into[key], n)
		}
	}
	for _, op := range d.Contract.Operations {
		speaking, ofParts := whole[op.Key()], parts[op.Key()]
		if len(speaking)+len(ofParts) == 0 {
			continue
		}
		h := GatewayHeader{Method: op.Method, Path: op.Path, Header: promise.HeaderOf(speaking)}
		for _, n := range speaking {
			if n.Sunset != "" && promise.HeaderOf([]promise.Notice{n}).Sunset == h.Sunset {
				h.By = n.Subject()
			}
		}
		if len(op.Servers) > 0 {
			if u, err := url.Parse(op.Servers[0].URL); err == nil {
				h.Path = strings.TrimRight(u.Path, "/") + op.Path
			}
		}
		if len(speaking) > 0 {
			h.Link = append(h.Link, promise.Linked(notices, "deprecation"))
		}
		for _, n := range ofParts {
			h.Link = append(h.Link, promise.LinkedPart(notices+"#notice-"+strconv.FormatInt(n.ID, 10), n))
		}
		if h.Sunset != "" {
			h.Link = append(h.Link, promise.Linked(notices, "sunset"))
		}
		if next := successor(a, d.Version); next != nil {
			h.Link = append(h.Link, promise.Linked(home+"/reference/"+a.Name+"/"+next.Number+"/", "successor-version"))
		}
		h.Link = append(h.Link, promise.Linked(home+"/reference/"+a.Name+"/", "latest-version"))
		all = append(all, h)
	}
	return all, nil
}

// successor is the next greater version that readers see.
func successor(a API, v Version) *Version {
	for i, o := range a.Versions {
		if v.Before(o) && o.Shown() {
			return &a.Versions[i]
		}
	}
	return nil
}

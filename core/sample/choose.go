package sample

import (
	"strings"

	"oldledger/core/contract"
	"oldledger/core/versioning"
)

// Choose has the call say which version it means, where that is said by a header, the query or a media type; path and host stand in
// the address. op is the operation that is called.
func (c *Call) Choose(op *contract.Operation, choice versioning.Choice) {
	if !choice.Said() {
		return
	}
	switch s, written := choice.Scheme, choice.Written(); s.By {
	case versioning.Header:
		c.Headers = with(c.Headers, s.Name, written, strings.EqualFold)
	case versioning.Query:
		c.Query = with(c.Query, s.Name, written, func(a, b string) bool { return a == b })
	case versioning.MediaType:
		if s.Name != "" {
			written = answered(op) + "; " + s.Name + "=" + written
		}
		c.Headers = with(c.Headers, "Accept", written, strings.EqualFold)
	}
}

// with are pairs with one of a name, in the place of the first that there is.
func with(pairs []Pair, name, value string, same func(a, b string) bool) []Pair {
	var all []Pair
	there := false
	for _, p := range pairs {
		switch {
		case !same(p.Name, name):
			all = append(all, p)
		case !there:
			there = true
			all = append(all, Pair{p.Name, value})
		}
	}
	if !there {
		all = append(all, Pair{name, value})
	}
	return all
}

// answered is the media type of what an operation answers with, without its parameters: JSON where there is some.
func answered(op *contract.Operation) string {
	first := "*/*"
	for _, r := range op.Responses {
		if !strings.HasPrefix(r.Status, "2") {
			continue
		}
		for _, m := range r.Content {
			base, _, _ := strings.Cut(m.Type, ";")
			base = strings.TrimSpace(base)
			if strings.Contains(base, "json") {
				return base
			}
			if first == "*/*" {
				first = base
			}
		}
	}
	return first
}

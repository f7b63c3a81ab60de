// Package trace gives every request a name, under which the log and whoever asked speak of the same thing.
package trace

import (
	"context"
	"fmt"
	"math/rand/v2"
)

// Request is what becomes known of a request while it is answered.
type Request struct {
	ID    string // 16 hexadecimal digits
	Route string // the pattern that its address fits: "/api/v1/apis/:api"
	Err   error  // why it was refused, or went wrong; nil where it was answered
}

type key struct{}

// Name makes a name. It is no secret: it only has to be another one each time.
func Name() string { return fmt.Sprintf("%016x", rand.Uint64()) }

// New begins a request.
func New(ctx context.Context) (context.Context, *Request) {
	r := &Request{ID: Name()}
	return context.WithValue(ctx, key{}, r), r
}

// Of is the request that a context belongs to; one without a name where it belongs to none.
func Of(ctx context.Context) *Request {
	if r, ok := ctx.Value(key{}).(*Request); ok {
		return r
	}
	return &Request{}
}

// Package budget bounds a question, such as a comparison or the making of a page: in steps, in bytes, and by a context that ends it at
// once.
//
//	b := budget.New(ctx, budget.For(nodes))
//	for work {
//		if !b.Step(1) {
//			break // what is left is undecided, or left out
//		}
//	}
//	return b.Err() // the error of the context, if that was the end
//
// A step is about as much as one call of a small function: some ten nanoseconds. Nobody looks at a clock: the same question ends at the
// same step on every machine.
package budget

import "context"

// Limits are how much a question may take.
type Limits struct {
	Steps int64
	Bytes int64 // of what is kept while it lasts, as estimated
}

// small is up to how many nodes of source a description counts as small: hostile ones need no more.
const small = 50_000

// For is how much a question about so many nodes of source may take: what is enough for small ones, and more for what is large.
func For(nodes int) Limits {
	beyond := int64(max(0, nodes-small))
	return Limits{Steps: 40_000_000 + 2_000*beyond, Bytes: 400<<20 + 2_000*beyond}
}

// Budget is what a question has left. nil has no end. It is not for concurrent use.
type Budget struct {
	ctx          context.Context
	steps, bytes int64 // left
	next         int64 // the context is asked when so many steps are left
	over         bool
}

// poll is how many steps lie between two looks at the context.
const poll = 1 << 14

// New gives a question its budget.
func New(ctx context.Context, l Limits) *Budget {
	return &Budget{ctx: ctx, steps: l.Steps, bytes: l.Bytes, next: l.Steps}
}

// Step spends n steps; false once the budget or its context has ended.
func (b *Budget) Step(n int) bool {
	if b == nil {
		return true
	}
	if b.steps -= int64(n); b.steps <= b.next {
		b.look()
	}
	return !b.over
}

func (b *Budget) look() {
	b.next = b.steps - poll
	if b.steps <= 0 || b.ctx.Err() != nil {
		b.over, b.next = true, b.steps-1<<62
	}
}

// Hold spends n bytes; false once the budget or its context has ended.
func (b *Budget) Hold(n int) bool {
	if b == nil {
		return true
	}
	if b.bytes -= int64(n); b.bytes <= 0 {
		b.over = true
	}
	return !b.over
}

// Over reports whether the budget or its context has ended.
func (b *Budget) Over() bool { return b != nil && b.over }

// Err is the error of the context, nil while that lasts.
func (b *Budget) Err() error {
	if b == nil {
		return nil
	}
	return b.ctx.Err()
}

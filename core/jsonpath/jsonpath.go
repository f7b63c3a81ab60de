// Package jsonpath finds values inside a JSON value: JSONPath as RFC 9535 has it.
//
//	path, err := jsonpath.Parse(`$.paths['/bookings'].post.tags[?@ == 'Bookings']`)
//	for _, at := range path.Select(root) {
//		at.String() // "$['paths']['/bookings']['post']['tags'][0]", the normalized path (section 2.7)
//		at.Value    // what stands there
//	}
//
// Objects are walked in the order in which their members were written. A query has limits: its length, its depth, and how many
// values it looks at.
package jsonpath

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/value"
)

// Path is a query.
type Path struct {
	text     string
	segments []segment
}

// String is the query as it was written.
func (p *Path) String() string { return p.text }

// Located is a value that was found, and where it stands.
type Located struct {
	Value *value.Value
	Steps []Step
}

// Step leads from a value to one inside it: to a member, or, where Index is not negative, to an item.
type Step struct {
	Name  string
	Index int
}

// String is the normalized path (RFC 9535, section 2.7).
func (l Located) String() string {
	var b strings.Builder
	b.WriteByte('$')
	for _, s := range l.Steps {
		b.WriteString(s.String())
	}
	return b.String()
}

// String is the step as a normalized path has it.
func (s Step) String() string {
	if s.Index >= 0 {
		return "[" + strconv.Itoa(s.Index) + "]"
	}
	return "[" + Quote(s.Name) + "]"
}

// Quote writes a member's name as a normalized path has it.
func Quote(name string) string {
	var b strings.Builder
	b.WriteByte('\'')
	for _, c := range name {
		switch {
		case c == '\'' || c == '\\':
			b.WriteByte('\\')
			b.WriteRune(c)
		case c == '\b':
			b.WriteString(`\b`)
		case c == '\t':
			b.WriteString(`\t`)
		case c == '\n':
			b.WriteString(`\n`)
		case c == '\f':
			b.WriteString(`\f`)
		case c == '\r':
			b.WriteString(`\r`)
		case c < ' ':
			fmt.Fprintf(&b, `\u%04x`, c)
		default:
			b.WriteRune(c)
		}
	}
	b.WriteByte('\'')
	return b.String()
}

// maxVisits bounds how many values one query looks at.
const maxVisits = 5_000_000

// ErrTooMuch is the end of a query that looks at too many values.
var ErrTooMuch = errors.New("the path looks at too many values")

// Select finds the values that the query names, in the order of RFC 9535, section 2.1.2; the same place may come twice.
func (p *Path) Select(root *value.Value) ([]Located, error) { return p.SelectWithin(nil, root) }

// SelectWithin is Select as part of a question that spends of b.
func (p *Path) SelectWithin(b *budget.Budget, root *value.Value) ([]Located, error) {
	q := &query{root: root, budget: b}
	found := q.run(p.segments, []Located{{Value: root}})
	if err := b.Err(); err != nil {
		return nil, err
	}
	if q.visits > maxVisits || b.Over() {
		return nil, ErrTooMuch
	}
	return found, nil
}

// query is one run over a value.
type query struct {
	root   *value.Value
	visits int
	budget *budget.Budget
}

func (q *query) run(segments []segment, from []Located) []Located {
	for _, s := range segments {
		var next []Located
		for _, at := range from {
			next = q.segment(s, at, next)
		}
		from = next
	}
	return from
}

func (q *query) segment(s segment, at Located, into []Located) []Located {
	if q.visits++; q.visits > maxVisits || !q.budget.Step(10+2*len(at.Steps)) {
		return into
	}
	for _, sel := range s.selectors {
		into = sel.pick(q, at, into)
	}
	if s.descend {
		for _, child := range children(at) {
			into = q.segment(s, child, into)
		}
	}
	return into
}

// children are the members or items of a value.
func children(at Located) []Located {
	var all []Located
	for _, m := range at.Value.Members {
		all = append(all, at.to(Step{m.Name, -1}, m.Value))
	}
	for i, it := range at.Value.Items {
		all = append(all, at.to(Step{Index: i}, it))
	}
	return all
}

func (l Located) to(s Step, v *value.Value) Located {
	return Located{v, append(l.Steps[:len(l.Steps):len(l.Steps)], s)}
}

// segment is one or several selectors, applied to a value or to it and all that is inside it.
type segment struct {
	descend   bool
	selectors []selector
}

// selector picks among the children of a value (RFC 9535, section 2.3).
type selector interface {
	pick(q *query, at Located, into []Located) []Located
}

type byName string

func (n byName) pick(_ *query, at Located, into []Located) []Located {
	if at.Value.Kind == value.Object {
		if v := at.Value.Get(string(n)); v != nil {
			into = append(into, at.to(Step{string(n), -1}, v))
		}
	}
	return into
}

type wildcard struct{}

func (wildcard) pick(_ *query, at Located, into []Located) []Located {
	return append(into, children(at)...)
}

type byIndex int

func (i byIndex) pick(_ *query, at Located, into []Located) []Located {
	n := int(i)
	if n < 0 {
		n += len(at.Value.Items)
	}
	if at.Value.Kind == value.Array && n >= 0 && n < len(at.Value.Items) {
		into = append(into, at.to(Step{Index: n}, at.Value.Items[n]))
	}
	return into
}

// slice is start:end:step, each of which may be left out (RFC 9535, section 2.3.4).
type slice struct{ start, end, step *int }

func (s slice) pick(_ *query, at Located, into []Located) []Located {
	n, step := len(at.Value.Items), 1
	if s.step != nil {
		step = *s.step
	}
	if at.Value.Kind != value.Array || step == 0 {
		return into
	}
	within := func(given *int, otherwise, low, high int) int {
		if given == nil {
			return otherwise
		}
		i := *given
		if i < 0 {
			i += n
		}
		return min(max(i, low), high)
	}
	if step > 0 {
		for i := within(s.start, 0, 0, n); i < within(s.end, n, 0, n); i += step {
			into = append(into, at.to(Step{Index: i}, at.Value.Items[i]))
		}
		return into
	}
	for i := within(s.start, n-1, -1, n-1); i > within(s.end, -1, -1, n-1); i += step {
		into = append(into, at.to(Step{Index: i}, at.Value.Items[i]))
	}
	return into
}

// filter keeps the children for which an expression holds.
type filter struct{ holds logical }

func (f filter) pick(q *query, at Located, into []Located) []Located {
	for _, child := range children(at) {
		if q.visits++; q.visits > maxVisits {
			return into
		}
		if f.holds.test(q, child.Value) {
			into = append(into, child)
		}
	}
	return into
}

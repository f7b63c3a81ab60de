package jsonpath

import (
	"math/big"
	"regexp"
	"unicode/utf8"

	"oldledger/core/value"
)

// logical is an expression that holds or does not (RFC 9535, section 2.3.5).
type logical interface {
	test(q *query, current *value.Value) bool
}

type or []logical

func (all or) test(q *query, current *value.Value) bool {
	for _, l := range all {
		if l.test(q, current) {
			return true
		}
	}
	return false
}

type and []logical

func (all and) test(q *query, current *value.Value) bool {
	for _, l := range all {
		if !l.test(q, current) {
			return false
		}
	}
	return true
}

type not struct{ of logical }

func (n not) test(q *query, current *value.Value) bool { return !n.of.test(q, current) }

// subquery begins at the current value (@) or at the root ($).
type subquery struct {
	root     bool
	segments []segment
	singular bool // it finds one value at most (section 2.3.5.1)
}

func (s subquery) nodes(q *query, current *value.Value) []Located {
	if s.root {
		current = q.root
	}
	return q.run(s.segments, []Located{{Value: current}})
}

func (s subquery) test(q *query, current *value.Value) bool { return len(s.nodes(q, current)) > 0 }

// operand gives a value, or nothing.
type operand interface {
	of(q *query, current *value.Value) *value.Value
}

type literal struct{ v *value.Value }

func (l literal) of(*query, *value.Value) *value.Value { return l.v }

func (s subquery) of(q *query, current *value.Value) *value.Value {
	if found := s.nodes(q, current); len(found) == 1 {
		return found[0].Value
	}
	return nil
}

// comparison compares two operands (section 2.3.5.2.2).
type comparison struct {
	left, right operand
	sign        string
}

func (c comparison) test(q *query, current *value.Value) bool {
	a, b := c.left.of(q, current), c.right.of(q, current)
	switch c.sign {
	case "==":
		return same(a, b)
	case "!=":
		return !same(a, b)
	case "<":
		return less(a, b)
	case ">":
		return less(b, a)
	case "<=":
		return less(a, b) || same(a, b)
	}
	return less(b, a) || same(a, b)
}

func same(a, b *value.Value) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Equal(b)
}

func less(a, b *value.Value) bool {
	switch {
	case a == nil || b == nil || a.Kind != b.Kind:
		return false
	case a.Kind == value.Number:
		return a.Num.Cmp(b.Num) < 0
	}
	return a.Kind == value.String && a.Text < b.Text
}

// The functions of section 2.4: length, count and value give values; match and search hold or do not.

type lengthOf struct{ arg operand }

func (f lengthOf) of(q *query, current *value.Value) *value.Value {
	v := f.arg.of(q, current)
	if v == nil {
		return nil
	}
	switch v.Kind {
	case value.String:
		return count(utf8.RuneCountInString(v.Text))
	case value.Array:
		return count(len(v.Items))
	case value.Object:
		return count(len(v.Members))
	}
	return nil
}

type countOf struct{ arg subquery }

func (f countOf) of(q *query, current *value.Value) *value.Value {
	return count(len(f.arg.nodes(q, current)))
}

func count(n int) *value.Value { return value.Rat(big.NewRat(int64(n), 1)) }

// matches is match (whole) or search.
type matches struct {
	text, pattern operand
	whole         bool
}

func (f matches) test(q *query, current *value.Value) bool {
	text, pattern := f.text.of(q, current), f.pattern.of(q, current)
	if text == nil || pattern == nil || text.Kind != value.String || pattern.Kind != value.String {
		return false
	}
	expr := "(?:" + dots(pattern.Text) + ")"
	if f.whole {
		expr = `\A` + expr + `\z`
	}
	re, err := regexp.Compile(expr)
	return err == nil && re.MatchString(text.Text) // a pattern that is none matches nothing (section 2.4.6)
}

// dots writes an I-Regexp (RFC 9485) for Go: outside of classes, a dot is no line feed and no carriage return.
func dots(pattern string) string {
	out := make([]byte, 0, len(pattern)+8)
	inClass := false
	for i := 0; i < len(pattern); i++ {
		switch c := pattern[i]; {
		case c == '\\' && i+1 < len(pattern):
			out = append(out, c, pattern[i+1])
			i++
			continue
		case c == '[':
			inClass = true
		case c == ']':
			inClass = false
		case c == '.' && !inClass:
			out = append(out, `[^\n\r]`...)
			continue
		}
		out = append(out, pattern[i])
	}
	return string(out)
}

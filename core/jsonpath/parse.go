package jsonpath

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"oldledger/core/value"
)

// Limits of a query.
const (
	maxLength = 4000
	maxDepth  = 50
)

// Parse reads a query. The error says at which character it goes wrong, and what would be right.
func Parse(text string) (p *Path, err error) {
	r := &reader{text: text}
	defer func() {
		if failed := recover(); failed != nil {
			problem, ours := failed.(*syntax)
			if !ours {
				panic(failed)
			}
			p, err = nil, problem
		}
	}()
	if len(text) > maxLength {
		r.fail("a path has at most %d characters", maxLength)
	}
	if !utf8.ValidString(text) {
		r.fail("a path is UTF-8 text")
	}
	if !r.take("$") {
		r.fail("a path begins with $")
	}
	segments := r.segments()
	if r.at < len(text) {
		r.fail("expected . or [ or the end")
	}
	return &Path{text, segments}, nil
}

// syntax is what is wrong with a query.
type syntax struct {
	at   int
	text string
}

func (s *syntax) Error() string {
	return fmt.Sprintf("not a JSONPath (RFC 9535), at character %d: %s", s.at+1, s.text)
}

type reader struct {
	text  string
	at    int
	depth int
}

func (r *reader) fail(format string, args ...any) {
	panic(&syntax{utf8.RuneCountInString(r.text[:r.at]), fmt.Sprintf(format, args...)})
}

func (r *reader) take(token string) bool {
	if strings.HasPrefix(r.text[r.at:], token) {
		r.at += len(token)
		return true
	}
	return false
}

func (r *reader) peek() byte {
	if r.at < len(r.text) {
		return r.text[r.at]
	}
	return 0
}

func (r *reader) blanks() {
	for r.at < len(r.text) && strings.IndexByte(" \t\n\r", r.text[r.at]) >= 0 {
		r.at++
	}
}

// expect takes a token behind blanks.
func (r *reader) expect(token string) {
	r.blanks()
	if !r.take(token) {
		r.fail("expected %s", token)
	}
}

func (r *reader) segments() []segment {
	var all []segment
	for {
		before := r.at
		r.blanks()
		switch {
		case r.take("..["):
			all = append(all, segment{true, r.brackets()})
		case r.take(".."):
			all = append(all, segment{true, []selector{r.short()}})
		case r.take("."):
			all = append(all, segment{false, []selector{r.short()}})
		case r.take("["):
			all = append(all, segment{false, r.brackets()})
		default:
			r.at = before
			return all
		}
	}
}

// short is a name or * behind a dot.
func (r *reader) short() selector {
	if r.take("*") {
		return wildcard{}
	}
	start := r.at
	for r.at < len(r.text) {
		c, size := utf8.DecodeRuneInString(r.text[r.at:])
		letter := c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= 0x80
		if !letter && (r.at == start || c < '0' || c > '9') {
			break
		}
		r.at += size
	}
	if r.at == start {
		r.fail("expected a name or *; a name with other characters stands in brackets and quotes: ['x-name']")
	}
	return byName(r.text[start:r.at])
}

func (r *reader) brackets() []selector {
	var all []selector
	for {
		r.blanks()
		all = append(all, r.selector())
		r.blanks()
		if r.take("]") {
			return all
		}
		if !r.take(",") {
			r.fail("expected , or ]")
		}
	}
}

func (r *reader) selector() selector {
	switch c := r.peek(); {
	case c == '\'' || c == '"':
		return byName(r.quoted())
	case r.take("*"):
		return wildcard{}
	case r.take("?"):
		r.blanks()
		return filter{r.or()}
	case c == ':' || c == '-' || c >= '0' && c <= '9':
		return r.indexOrSlice()
	}
	r.fail("expected a name in quotes, a number, a slice, * or ?")
	return nil
}

func (r *reader) indexOrSlice() selector {
	number := func() *int {
		r.blanks()
		if c := r.peek(); c != '-' && (c < '0' || c > '9') {
			return nil
		}
		n := r.integer()
		return &n
	}
	start := number()
	r.blanks()
	if !r.take(":") {
		return byIndex(*start)
	}
	s := slice{start: start, end: number()}
	r.blanks()
	if r.take(":") {
		s.step = number()
	}
	return s
}

// integer is a whole number without leading zeros, in the range of I-JSON (RFC 7493).
func (r *reader) integer() int {
	start := r.at
	r.take("-")
	digits := r.at
	for r.at < len(r.text) && r.text[r.at] >= '0' && r.text[r.at] <= '9' {
		r.at++
	}
	text := r.text[digits:r.at]
	n, err := strconv.Atoi(r.text[start:r.at])
	const most = 1<<53 - 1
	if err != nil || len(text) > 1 && text[0] == '0' || n == 0 && digits > start || n > most || n < -most {
		r.at = start
		r.fail("expected a whole number without leading zeros, such as 0, 12 or -1")
	}
	return n
}

// quoted is a text in single or double quotes (section 2.3.1.1).
func (r *reader) quoted() string {
	quote := r.peek()
	r.at++
	var b strings.Builder
	for r.at < len(r.text) {
		c := r.text[r.at]
		switch {
		case c == quote:
			r.at++
			return b.String()
		case c < ' ':
			r.fail("a control character stands in a text as an escape")
		case c == '\\':
			r.at++
			b.WriteRune(r.escape(quote))
		default:
			b.WriteByte(c)
			r.at++
		}
	}
	r.fail("the text has no closing quote")
	return ""
}

func (r *reader) escape(quote byte) rune {
	if r.at == len(r.text) {
		r.fail("the text has no closing quote")
	}
	c := r.peek()
	r.at++
	switch c {
	case 'b':
		return '\b'
	case 'f':
		return '\f'
	case 'n':
		return '\n'
	case 'r':
		return '\r'
	case 't':
		return '\t'
	case '/', '\\', quote:
		return rune(c)
	case 'u':
		first := r.hex()
		if !utf16.IsSurrogate(first) {
			return first
		}
		if r.take(`\u`) {
			if both := utf16.DecodeRune(first, r.hex()); both != utf8.RuneError {
				return both
			}
		}
	}
	r.fail("no such escape")
	return 0
}

func (r *reader) hex() rune {
	if r.at+4 > len(r.text) {
		r.fail("expected four hexadecimal digits")
	}
	n, err := strconv.ParseUint(r.text[r.at:r.at+4], 16, 16)
	if err != nil {
		r.fail("expected four hexadecimal digits")
	}
	r.at += 4
	return rune(n)
}

func (r *reader) or() logical {
	if r.depth++; r.depth > maxDepth {
		r.fail("an expression is at most %d deep", maxDepth)
	}
	defer func() { r.depth-- }()
	all := or{r.and()}
	for {
		r.blanks()
		if !r.take("||") {
			return all
		}
		all = append(all, r.and())
	}
}

func (r *reader) and() logical {
	all := and{r.basic()}
	for {
		r.blanks()
		if !r.take("&&") {
			return all
		}
		all = append(all, r.basic())
	}
}

// basic is a comparison, a test, or either of them in parentheses or behind a !.
func (r *reader) basic() logical {
	r.blanks()
	if r.take("!") {
		r.blanks()
		if r.take("(") {
			inner := r.or()
			r.expect(")")
			return not{inner}
		}
		return not{r.test(r.term())}
	}
	if r.take("(") {
		inner := r.or()
		r.expect(")")
		return inner
	}
	left := r.term()
	r.blanks()
	for _, sign := range []string{"==", "!=", "<=", ">=", "<", ">"} {
		if r.take(sign) {
			r.blanks()
			return comparison{r.comparable(left), r.comparable(r.term()), sign}
		}
	}
	return r.test(left)
}

// test is a term that stands alone: a query that finds something, or a function that holds.
func (r *reader) test(term any) logical {
	if l, ok := term.(logical); ok {
		return l
	}
	r.fail("a value stands on one side of a comparison: == != < <= > >=")
	return nil
}

// comparable is a term on one side of a comparison: what gives one value at most.
func (r *reader) comparable(term any) operand {
	if s, ok := term.(subquery); ok && !s.singular {
		r.fail("a comparison takes a query that finds one value at most, without *, .., slices and filters")
	}
	o, ok := term.(operand)
	if !ok {
		r.fail("a comparison takes a value, not a function that holds or does not")
	}
	return o
}

// term is a literal, a query or a function.
func (r *reader) term() any {
	switch c := r.peek(); {
	case c == '@' || c == '$':
		return r.subquery()
	case c == '\'' || c == '"':
		return literal{value.Str(r.quoted())}
	case c == '-' || c >= '0' && c <= '9':
		return r.number()
	case c >= 'a' && c <= 'z':
		return r.word()
	}
	r.fail("expected @, $, a value or a function")
	return nil
}

func (r *reader) subquery() subquery {
	s := subquery{root: r.take("$"), singular: true}
	if !s.root {
		r.take("@")
	}
	s.segments = r.segments()
	for _, g := range s.segments {
		if g.descend || len(g.selectors) != 1 {
			s.singular = false
			continue
		}
		switch g.selectors[0].(type) {
		case byName, byIndex:
		default:
			s.singular = false
		}
	}
	return s
}

func (r *reader) number() literal {
	start := r.at
	for r.at < len(r.text) && strings.IndexByte("-+.0123456789eE", r.text[r.at]) >= 0 {
		r.at++
	}
	text := r.text[start:r.at]
	v, err := value.Parse([]byte(text))
	if err != nil {
		r.at = start
		r.fail("%s is no number", text)
	}
	return literal{v}
}

// word is true, false, null or the name of a function.
func (r *reader) word() any {
	start := r.at
	for c := r.peek(); c >= 'a' && c <= 'z' || c == '_' || c >= '0' && c <= '9'; c = r.peek() {
		r.at++
	}
	switch name := r.text[start:r.at]; name {
	case "true":
		return literal{value.Bool(true)}
	case "false":
		return literal{value.Bool(false)}
	case "null":
		return literal{&value.Value{Kind: value.Null}}
	case "length", "count", "value", "match", "search":
		if r.take("(") {
			return r.function(name)
		}
	}
	r.at = start
	r.fail("expected true, false, null, or one of the functions length, count, value, match and search")
	return nil
}

func (r *reader) function(name string) any {
	args := []any{r.argument()}
	for r.blanks(); r.take(","); r.blanks() {
		args = append(args, r.argument())
	}
	r.expect(")")
	wanted := 1
	if name == "match" || name == "search" {
		wanted = 2
	}
	if len(args) != wanted {
		r.fail("%s takes %d arguments, not %d", name, wanted, len(args))
	}
	if name == "count" || name == "value" {
		s, ok := args[0].(subquery)
		if !ok {
			r.fail("%s takes a query", name)
		}
		if name == "count" {
			return countOf{s}
		}
		return valueOf{s}
	}
	operands := make([]operand, len(args))
	for i, a := range args {
		operands[i] = r.comparable(a)
	}
	if name == "length" {
		return lengthOf{operands[0]}
	}
	return matches{operands[0], operands[1], name == "match"}
}

func (r *reader) argument() any {
	r.blanks()
	return r.term()
}

// valueOf is the one value that a query finds.
type valueOf struct{ arg subquery }

func (f valueOf) of(q *query, current *value.Value) *value.Value { return f.arg.of(q, current) }

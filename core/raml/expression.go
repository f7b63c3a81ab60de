package raml

import (
	"fmt"
	"strings"
)

// expression is a type expression taken apart (RAML 1.0, Type Expressions): a name, a list of something, or a choice.
type expression struct {
	name  string
	items *expression
	union []*expression
}

// parseExpression reads a type expression; problem says what is wrong with it, "" when nothing is.
func parseExpression(text string) (e *expression, problem string) {
	p := &expressionParser{text: text}
	e = p.choice(0)
	if p.skip(); p.problem == "" && p.at < len(text) {
		p.fail("%q is out of place", text[p.at:])
	}
	return e, p.problem
}

type expressionParser struct {
	text    string
	at      int
	problem string
}

func (p *expressionParser) fail(format string, args ...any) {
	if p.problem == "" {
		p.problem = fmt.Sprintf(format, args...)
	}
}

func (p *expressionParser) skip() {
	for p.at < len(p.text) && strings.IndexByte(" \t\r\n", p.text[p.at]) >= 0 {
		p.at++
	}
}

func (p *expressionParser) next(c byte) bool {
	if p.skip(); p.at < len(p.text) && p.text[p.at] == c {
		p.at++
		return true
	}
	return false
}

func (p *expressionParser) choice(depth int) *expression {
	all := []*expression{p.list(depth)}
	for p.problem == "" && p.next('|') {
		all = append(all, p.list(depth))
	}
	if len(all) == 1 {
		return all[0]
	}
	return &expression{union: all}
}

func (p *expressionParser) list(depth int) *expression {
	e := p.primary(depth)
	for p.problem == "" && p.next('[') {
		if !p.next(']') {
			p.fail("a [ is not closed by ]")
		}
		e = &expression{items: e}
	}
	return e
}

func (p *expressionParser) primary(depth int) *expression {
	if depth > maxDepth {
		p.fail("brackets are nested deeper than %d levels", maxDepth)
		return &expression{}
	}
	if p.next('(') {
		e := p.choice(depth + 1)
		if p.problem == "" && !p.next(')') {
			p.fail("a ( is not closed by )")
		}
		return e
	}
	p.skip()
	start := p.at
	for p.at < len(p.text) && strings.IndexByte(" \t\r\n|()[]", p.text[p.at]) < 0 {
		p.at++
	}
	if start == p.at {
		p.fail("the name of a type is missing")
	}
	return &expression{name: p.text[start:p.at]}
}

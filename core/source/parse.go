package source

import (
	"bytes"
	"context"
	"errors"
	"math/big"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"oldledger/core/value"
)

// Parse reads text as JSON when the name ends in .json or the text begins with a brace, and as YAML otherwise.
// The error is Diagnostics.
func Parse(name string, text []byte) (*File, error) {
	return parse(name, text, &tally{ctx: context.Background()})
}

func parse(name string, text []byte, t *tally) (*File, error) {
	f := &File{Name: name, Text: text}
	if err := f.admit(); err != nil {
		return nil, Diagnostics{err}
	}
	read := parseYAML
	if f.looksLikeJSON() {
		read = parseJSON
	}
	before := t.nodes
	root, wrong := read(f, t)
	if err := t.ctx.Err(); err != nil {
		return nil, err
	}
	if wrong != nil {
		return nil, Diagnostics{wrong}
	}
	f.Root, f.nodes = root, t.nodes-before
	return f, nil
}

// tally counts what the files of a set hold together, while their context lasts.
type tally struct {
	ctx     context.Context
	nodes   int
	aliased int // those of them that aliases and merge keys made
}

// input is a text that ends early when the context does.
type input struct {
	ctx  context.Context
	text *bytes.Reader
}

func (in input) Read(p []byte) (int, error) {
	if err := in.ctx.Err(); err != nil {
		return 0, err
	}
	return in.text.Read(p[:min(len(p), 1<<16)])
}

// Embedded parses the JSON or YAML text that a string of another file holds. Its nodes stand where they stand in that file.
func Embedded(n *Node) (*File, error) {
	outer := n.File()
	f, err := Parse(outer.Name, []byte(n.Text))
	lines, columns := int(n.Line)-1, 0
	if at := outer.line(int(n.Line)); strings.ContainsAny(at[min(len(at), int(n.Column)-1):][:min(1, max(0, len(at)-int(n.Column)+1))], "|>") {
		lines++ // a block begins on the line after its mark
		below := outer.line(int(n.Line) + 1)
		columns = len(below) - len(strings.TrimLeft(below, " "))
	}
	var wrong Diagnostics
	if errors.As(err, &wrong) {
		for _, d := range wrong {
			d.Line, d.Column, d.EndLine, d.EndColumn = d.Line+lines, d.Column+columns, d.EndLine+lines, d.EndColumn+columns
		}
		return nil, wrong
	}
	if err != nil {
		return nil, err
	}
	f.path, f.outer = outer.path, outer
	f.Root.shift(int32(lines), int32(columns))
	return f, nil
}

func (n *Node) shift(lines, columns int32) {
	n.Line, n.Column = n.Line+lines, n.Column+columns
	for i := range n.Members {
		n.Members[i].KeyLine, n.Members[i].KeyColumn = n.Members[i].KeyLine+lines, n.Members[i].KeyColumn+columns
		n.Members[i].Value.shift(lines, columns)
	}
	for _, it := range n.Items() {
		it.shift(lines, columns)
	}
}

// line is a line of the text, from 1.
func (f *File) line(number int) string {
	rest := f.Text
	for range number - 1 {
		_, after, found := bytes.Cut(rest, []byte{'\n'})
		if !found {
			return ""
		}
		rest = after
	}
	line, _, _ := bytes.Cut(rest, []byte{'\n'})
	return string(line)
}

// plain makes a file of a text that has no structure.
func plain(name string, text []byte, _ *tally) (*File, error) {
	f := &File{Name: name, Text: text}
	if err := f.admit(); err != nil {
		return nil, Diagnostics{err}
	}
	f.Root = &Node{Kind: String, Text: string(text), Line: 1, Column: 1, file: f}
	return f, nil
}

// admit refuses what no parser should see.
func (f *File) admit() *Diagnostic {
	switch {
	case len(f.Text) > MaxBytes:
		return f.wrong(TooLarge, 1, 1, "the file is larger than %d MB; that is the most that a description may have", MaxBytes>>20)
	case len(bytes.TrimSpace(f.Text)) == 0:
		return f.wrong(Syntax, 1, 1, "the file is empty; a description begins with a line such as openapi: 3.1.0")
	case !utf8.Valid(f.Text):
		line, column := f.invalidUTF8()
		return f.wrong(Syntax, line, column, "this is not UTF-8 text; save the description as UTF-8")
	}
	return nil
}

func (f *File) invalidUTF8() (line, column int) {
	at := 0
	for at < len(f.Text) {
		r, size := utf8.DecodeRune(f.Text[at:])
		if r == utf8.RuneError && size == 1 {
			break
		}
		at += size
	}
	return f.position(at)
}

func (f *File) looksLikeJSON() bool {
	if strings.EqualFold(filepath.Ext(f.Name), ".json") {
		return true
	}
	// A flow mapping is YAML, too: only what begins like a JSON object is held to JSON's rules.
	trimmed := bytes.TrimLeft(bytes.TrimPrefix(f.Text, []byte("\ufeff")), " \t\r\n")
	if !bytes.HasPrefix(trimmed, []byte("{")) {
		return false
	}
	rest := bytes.TrimLeft(trimmed[1:], " \t\r\n")
	return bytes.HasPrefix(rest, []byte(`"`)) || bytes.HasPrefix(rest, []byte("}"))
}

// wrong is what is wrong at one character.
func (f *File) wrong(rule Rule, line, column int, format string, args ...any) *Diagnostic {
	at := Range{Place: Place{File: f.Name, Line: line, Column: column}, EndLine: line, EndColumn: column + 1}
	return diagnose(rule, at, format, args)
}

// counter keeps a tree within the limits, and makes its nodes.
type counter struct {
	*tally
	file    *File
	own     int                 // nodes of this file
	slab    []Node              // nodes are made many at a time
	numbers map[string]*big.Rat // equal numbers are one
}

func (c *counter) make(line, column int) *Node {
	if len(c.slab) == 0 {
		c.slab = make([]Node, min(max(c.own, 16), 1024))
	}
	n := &c.slab[0]
	c.slab = c.slab[1:]
	n.file, n.Line, n.Column = c.file, int32(line), int32(column)
	return n
}

// maxNumbers bounds the numbers that are kept for those who spell them alike.
const maxNumbers = 10_000

func (c *counter) number(text string) (*big.Rat, error) {
	if n := c.numbers[text]; n != nil {
		return n, nil
	}
	n, err := value.ParseNumber(text)
	if err == nil && len(c.numbers) < maxNumbers {
		if c.numbers == nil {
			c.numbers = map[string]*big.Rat{}
		}
		c.numbers[text] = n
	}
	return n, err
}

func (c *counter) enter(depth, line, column int) *Diagnostic {
	c.nodes++
	c.own++
	switch {
	case depth > MaxDepth:
		return c.tooDeep(line, column)
	case c.nodes > MaxNodes:
		return c.file.wrong(TooLarge, line, column,
			"more than %d values in all files together, aliases counted where they are used; that is the most that a description may have", MaxNodes)
	case c.nodes&1023 == 0 && c.ctx.Err() != nil:
		return c.file.wrong(TooLarge, line, column, "%v", c.ctx.Err())
	}
	return nil
}

func (c *counter) tooDeep(line, column int) *Diagnostic {
	return c.file.wrong(TooLarge, line, column, "nested deeper than %d levels; that is the most that a description may have", MaxDepth)
}

// repeated is what is wrong with a key that stands twice in one object.
func (f *File) repeated(key string, line, column, firstLine int) *Diagnostic {
	d := f.wrong(KeyTwice, line, column, "the key %q stands twice in this object (first in line %d); keep one of them", key, firstLine)
	d.EndLine, d.EndColumn = f.position(f.tokenEnd(f.offset(line, column), key))
	return d
}

// JSON reports whether the text was read as JSON.
func (f *File) JSON() bool { return f.looksLikeJSON() }

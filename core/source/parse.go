package source

import (
	"bytes"
	"errors"
	"fmt"
	"math/big"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"oldledger/core/value"
)

// Parse reads text as JSON when the name ends in .json or the text begins with a brace, and as YAML otherwise.
// The error is always Problems.
func Parse(name string, text []byte) (*File, error) {
	f := &File{Name: name, Text: text}
	if err := f.admit(); err != nil {
		return nil, Problems{err}
	}
	parse := parseYAML
	if f.looksLikeJSON() {
		parse = parseJSON
	}
	root, err := parse(f)
	if err != nil {
		return nil, Problems{err}
	}
	f.Root = root
	return f, nil
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
	var problems Problems
	if errors.As(err, &problems) {
		for _, p := range problems {
			p.Place.Line, p.Place.Column = p.Place.Line+lines, p.Place.Column+columns
		}
		return nil, problems
	}
	if err != nil {
		return nil, err
	}
	f.path = outer.path
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
func plain(name string, text []byte) (*File, error) {
	f := &File{Name: name, Text: text}
	if err := f.admit(); err != nil {
		return nil, Problems{err}
	}
	f.Root = &Node{Kind: String, Text: string(text), Line: 1, Column: 1, file: f}
	return f, nil
}

// admit refuses what no parser should see.
func (f *File) admit() *Problem {
	switch {
	case len(f.Text) > MaxBytes:
		return f.problem(1, 1, "the file is larger than %d MB, the most that a description may have", MaxBytes>>20)
	case len(bytes.TrimSpace(f.Text)) == 0:
		return f.problem(1, 1, "the file is empty; a description begins with a line such as openapi: 3.1.0")
	case !utf8.Valid(f.Text):
		line, column := f.invalidUTF8()
		return f.problem(line, column, "this is not UTF-8 text; save the description as UTF-8")
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

// position turns a byte offset into a line and a column, both from 1; columns count code points.
func (f *File) position(offset int) (line, column int) {
	offset = min(offset, len(f.Text))
	before := f.Text[:offset]
	line = bytes.Count(before, []byte{'\n'}) + 1
	column = utf8.RuneCount(before[bytes.LastIndexByte(before, '\n')+1:]) + 1
	return line, column
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

func (f *File) problem(line, column int, format string, args ...any) *Problem {
	return &Problem{Place: Place{File: f.Name, Line: line, Column: column}, Text: fmt.Sprintf(format, args...)}
}

// counter keeps a tree within MaxNodes and MaxDepth, and makes its nodes.
type counter struct {
	file    *File
	nodes   int
	slab    []Node              // nodes are made many at a time
	numbers map[string]*big.Rat // equal numbers are one
}

func (c *counter) make(line, column int) *Node {
	if len(c.slab) == 0 {
		c.slab = make([]Node, min(max(c.nodes, 16), 1024))
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

func (c *counter) enter(depth, line, column int) *Problem {
	c.nodes++
	switch {
	case depth > MaxDepth:
		return c.file.problem(line, column, "nested deeper than %d levels", MaxDepth)
	case c.nodes > MaxNodes:
		return c.file.problem(line, column, "more than %d values, aliases counted where they are used", MaxNodes)
	}
	return nil
}

// repeated is the problem of a key that stands twice in one object.
func (f *File) repeated(key string, line, column, firstLine int) *Problem {
	return f.problem(line, column, "the key %q stands twice in this object (first in line %d); keep one of them", key, firstLine)
}

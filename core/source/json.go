package source

import (
	"bytes"
	"errors"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"
)

// parseJSON reads one JSON text.
func parseJSON(f *File, t *tally) (*Node, *Diagnostic) {
	skip := 0
	if bytes.HasPrefix(f.Text, []byte("\ufeff")) {
		skip = len("\ufeff")
	}
	r := &jsonReader{
		counter: counter{tally: t, file: f},
		dec:     jsontext.NewDecoder(bytes.NewReader(f.Text[skip:]), jsontext.AllowDuplicateNames(true)),
		skip:    skip,
		whole:   f.whole(),
		mark:    skip,
		line:    1,
	}
	root, p := r.read(1)
	if p != nil {
		return nil, p
	}
	end := r.end()
	if _, err := r.dec.ReadToken(); !errors.Is(err, io.EOF) {
		return nil, f.jsonFault(end, nil)
	}
	return root, nil
}

// jsonReader walks the tokens once. Line and column follow the offset, so that a place costs no second look.
type jsonReader struct {
	counter
	dec          *jsontext.Decoder
	skip         int
	whole        string // the text, without a copy
	mark         int    // the offset that line and column stand for
	line, column int    // from 1 and from 0
	memberStack  []Member
	itemStack    []*Node
}

func (r *jsonReader) end() int { return r.skip + int(r.dec.InputOffset()) }

// begin is the offset of the token that ReadToken will return.
func (r *jsonReader) begin() int {
	r.dec.PeekKind()
	at, text := r.end(), r.whole
	for at < len(text) {
		switch text[at] {
		case ' ', '\t', '\r', '\n', ',', ':':
			at++
			continue
		}
		return at
	}
	return at
}

// place is the line and column of an offset at or behind the mark.
func (r *jsonReader) place(offset int) (line, column int) {
	passed := r.whole[r.mark:offset]
	if lines := strings.Count(passed, "\n"); lines > 0 {
		r.line, r.column = r.line+lines, 0
		passed = passed[strings.LastIndexByte(passed, '\n')+1:]
	}
	r.column += utf8.RuneCountInString(passed)
	r.mark = offset
	return r.line, r.column + 1
}

func (r *jsonReader) fail(err error) *Diagnostic {
	at := r.end()
	var syntax *jsontext.SyntacticError
	if errors.As(err, &syntax) {
		at = r.skip + int(syntax.ByteOffset)
		err = syntax.Err
	}
	return r.file.jsonFault(at, err)
}

func (r *jsonReader) read(depth int) (*Node, *Diagnostic) {
	line, column := r.place(r.begin())
	if p := r.enter(depth, line, column); p != nil {
		return nil, p
	}
	n := r.make(line, column)
	switch r.dec.PeekKind() {
	case '[', '{':
		tok, err := r.dec.ReadToken()
		if err != nil {
			return nil, r.fail(err)
		}
		if tok.Kind() == '[' {
			return n, r.items(n, depth)
		}
		if p := r.members(n, depth); p != nil {
			return nil, p
		}
		n.seal()
		return n, nil
	}
	text, kind, err := r.scalar()
	if err != nil {
		return nil, r.fail(err)
	}
	switch kind {
	case 't', 'f':
		n.Kind, n.Bool, n.Text = Boolean, kind == 't', text
	case '"':
		n.Kind, n.Text = String, text
	case '0':
		n.Kind, n.Text = Number, text
		num, err := r.number(text)
		if err != nil {
			return nil, r.file.wrong(Syntax, line, column, "%v", err)
		}
		n.of = num
	}
	return n, nil
}

// scalar reads a value that is no list and no object. A string without escapes is a part of the whole text, not a copy.
func (r *jsonReader) scalar() (text string, kind jsontext.Kind, err error) {
	raw, err := r.dec.ReadValue()
	if err != nil {
		return "", 0, err
	}
	kind = raw.Kind()
	end := r.end()
	text = r.whole[end-len(raw) : end]
	if kind != '"' {
		return text, kind, nil
	}
	if strings.IndexByte(text, '\\') < 0 {
		return text[1 : len(text)-1], kind, nil
	}
	plain, err := jsontext.AppendUnquote(nil, raw)
	return string(plain), kind, err
}

func (r *jsonReader) items(n *Node, depth int) *Diagnostic {
	n.Kind = Sequence
	start := len(r.itemStack)
	for r.dec.PeekKind() != ']' {
		child, p := r.read(depth + 1)
		if p != nil {
			return p
		}
		n.adopt(child, len(r.itemStack)-start)
		r.itemStack = append(r.itemStack, child)
	}
	n.of = slices.Clone(r.itemStack[start:])
	r.itemStack = r.itemStack[:start]
	return r.close()
}

// fewMembers is how many members are compared one by one to find a key that stands twice.
const fewMembers = 12

func (r *jsonReader) members(n *Node, depth int) *Diagnostic {
	n.Kind = Mapping
	start := len(r.memberStack)
	var seen map[string]int
	for r.dec.PeekKind() != '}' {
		line, column := r.place(r.begin())
		key, kind, err := r.scalar()
		if err == nil && kind != '"' {
			err = errors.New("the key of a member must be a string")
		}
		if err != nil {
			return r.fail(err)
		}
		own := r.memberStack[start:]
		if seen == nil && len(own) > fewMembers {
			seen = make(map[string]int, 2*len(own))
			for _, m := range own {
				seen[m.Key] = int(m.KeyLine)
			}
		}
		if seen == nil {
			for i := range own {
				if own[i].Key == key {
					return r.file.repeated(key, line, column, int(own[i].KeyLine))
				}
			}
		} else {
			if first, twice := seen[key]; twice {
				return r.file.repeated(key, line, column, first)
			}
			seen[key] = line
		}
		child, p := r.read(depth + 1)
		if p != nil {
			return p
		}
		n.adopt(child, len(r.memberStack)-start)
		r.memberStack = append(r.memberStack, Member{key, child, int32(line), int32(column)})
	}
	n.Members = slices.Clone(r.memberStack[start:])
	r.memberStack = r.memberStack[:start]
	return r.close()
}

func (r *jsonReader) close() *Diagnostic {
	if _, err := r.dec.ReadToken(); err != nil {
		return r.fail(err)
	}
	return nil
}

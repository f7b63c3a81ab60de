package source

import (
	"bytes"
	"errors"
	"io"
	"strconv"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"

	"oldledger/core/value"
)

// parseJSON reads one JSON text.
func parseJSON(f *File) (*Node, *Problem) {
	skip := 0
	if bytes.HasPrefix(f.Text, []byte("\ufeff")) {
		skip = len("\ufeff")
	}
	r := &jsonReader{
		counter: counter{file: f},
		dec:     jsontext.NewDecoder(bytes.NewReader(f.Text[skip:]), jsontext.AllowDuplicateNames(true)),
		skip:    skip,
		mark:    skip,
		line:    1,
	}
	root, p := r.read(1)
	if p != nil {
		return nil, p
	}
	if _, err := r.dec.ReadToken(); !errors.Is(err, io.EOF) {
		line, column := f.position(r.end())
		return nil, f.problem(line, column, "something follows the end of the JSON text")
	}
	return root, nil
}

// jsonReader walks the tokens once. Line and column follow the offset, so that a place costs no second look.
type jsonReader struct {
	counter
	dec          *jsontext.Decoder
	skip         int
	mark         int // the offset that line and column stand for
	line, column int // from 1 and from 0
}

func (r *jsonReader) end() int { return r.skip + int(r.dec.InputOffset()) }

// begin is the offset of the token that ReadToken will return.
func (r *jsonReader) begin() int {
	r.dec.PeekKind()
	at := r.end()
	for at < len(r.file.Text) && bytes.IndexByte([]byte(" \t\r\n,:"), r.file.Text[at]) >= 0 {
		at++
	}
	return at
}

// place is the line and column of an offset at or behind the mark.
func (r *jsonReader) place(offset int) (line, column int) {
	passed := r.file.Text[r.mark:offset]
	if lines := bytes.Count(passed, []byte{'\n'}); lines > 0 {
		r.line, r.column = r.line+lines, 0
		passed = passed[bytes.LastIndexByte(passed, '\n')+1:]
	}
	r.column += utf8.RuneCount(passed)
	r.mark = offset
	return r.line, r.column + 1
}

func (r *jsonReader) fail(err error) *Problem {
	at := r.end()
	var syntax *jsontext.SyntacticError
	if errors.As(err, &syntax) {
		at = r.skip + int(syntax.ByteOffset)
		err = syntax.Err
	}
	line, column := r.file.position(at)
	return r.file.problem(line, column, "this is not JSON: %v", err)
}

func (r *jsonReader) read(depth int) (*Node, *Problem) {
	line, column := r.place(r.begin())
	if p := r.enter(depth, line, column); p != nil {
		return nil, p
	}
	tok, err := r.dec.ReadToken()
	if err != nil {
		return nil, r.fail(err)
	}
	n := &Node{file: r.file, Line: line, Column: column}
	switch tok.Kind() {
	case 'n':
	case 't', 'f':
		n.Kind, n.Bool, n.Text = Boolean, tok.Bool(), tok.String()
	case '"':
		n.Kind, n.Text = String, tok.String()
	case '0':
		n.Kind, n.Text = Number, tok.String()
		num, err := value.ParseNumber(n.Text)
		if err != nil {
			return nil, r.file.problem(line, column, "%v", err)
		}
		n.Num = num
	case '[':
		return n, r.items(n, depth)
	case '{':
		if p := r.members(n, depth); p != nil {
			return nil, p
		}
		n.seal()
	}
	return n, nil
}

func (r *jsonReader) items(n *Node, depth int) *Problem {
	n.Kind = Sequence
	for r.dec.PeekKind() != ']' {
		child, p := r.read(depth + 1)
		if p != nil {
			return p
		}
		n.adopt(strconv.Itoa(len(n.Items)), child)
		n.Items = append(n.Items, child)
	}
	return r.close()
}

func (r *jsonReader) members(n *Node, depth int) *Problem {
	n.Kind = Mapping
	seen := map[string]int{}
	for r.dec.PeekKind() != '}' {
		line, column := r.place(r.begin())
		tok, err := r.dec.ReadToken()
		if err != nil {
			return r.fail(err)
		}
		key := tok.String()
		if first, twice := seen[key]; twice {
			return r.file.repeated(key, line, column, first)
		}
		seen[key] = line
		child, p := r.read(depth + 1)
		if p != nil {
			return p
		}
		n.adopt(key, child)
		n.Members = append(n.Members, Member{key, line, column, child})
	}
	return r.close()
}

func (r *jsonReader) close() *Problem {
	if _, err := r.dec.ReadToken(); err != nil {
		return r.fail(err)
	}
	return nil
}

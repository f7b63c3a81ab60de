package source

import (
	"bytes"
	"errors"
	"io"
	"strconv"

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

// jsonReader walks the tokens once; line and mark follow the offset, so that a place costs no second look.
type jsonReader struct {
	counter
	dec  *jsontext.Decoder
	skip int
	line int // the line of offset mark
	mark int
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

func (r *jsonReader) place(offset int) (line, column int) {
	r.line += bytes.Count(r.file.Text[r.mark:offset], []byte{'\n'})
	r.mark = offset
	start := bytes.LastIndexByte(r.file.Text[:offset], '\n') + 1
	return r.line, len([]rune(string(r.file.Text[start:min(offset, start+4096)]))) + max(0, offset-start-4096) + 1
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
	n := &Node{file: r.file, Line: line, Column: column, EndLine: line}
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
	return r.close(n)
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
	return r.close(n)
}

func (r *jsonReader) close(n *Node) *Problem {
	n.EndLine, _ = r.place(r.begin())
	if _, err := r.dec.ReadToken(); err != nil {
		return r.fail(err)
	}
	return nil
}

package source

import (
	"bytes"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"
	"unsafe"
)

// Ends of things are found in the text when they are asked for: nodes are many, and few are ever told of.

// ValueRange is where the node's value stands.
func (n *Node) ValueRange() Range {
	n = n.origin()
	at := Range{Place: n.ValuePlace()}
	at.EndLine, at.EndColumn = n.written().position(n.end())
	return at
}

// KeyRange is where the node's key stands, or its value where it has none.
func (n *Node) KeyRange() Range {
	n = n.origin()
	at := Range{Place: n.Place()}
	if at.Line == int(n.Line) && at.Column == int(n.Column) {
		return n.ValueRange()
	}
	f := n.written()
	at.EndLine, at.EndColumn = f.position(f.tokenEnd(f.offset(at.Line, at.Column), n.Step()))
	return at
}

// end is the offset behind the value.
func (n *Node) end() int {
	f := n.written()
	start := f.afterProperties(f.offset(int(n.Line), int(n.Column)))
	if n.Kind != Mapping && n.Kind != Sequence {
		return f.tokenEnd(start, n.Text)
	}
	var last *Node
	if len(n.Members) > 0 {
		last = n.Members[len(n.Members)-1].Value
	} else if items := n.Items(); len(items) > 0 {
		last = items[len(items)-1]
	}
	end := start
	if last != nil && last.written() == f {
		end = max(end, last.origin().end())
	}
	if end == start && start < len(f.Text) && strings.IndexByte("{[", f.Text[start]) >= 0 {
		end++ // an empty one
	}
	if start < len(f.Text) && strings.IndexByte("{[", f.Text[start]) >= 0 {
		close := byte('}')
		if f.Text[start] == '[' {
			close = ']'
		}
		if i := bytes.IndexByte(f.Text[end:min(len(f.Text), end+block)], close); i >= 0 {
			return end + i + 1
		}
	}
	return end
}

// afterProperties is the offset behind the anchor and the tag with which a value of YAML may begin.
func (f *File) afterProperties(at int) int {
	text := f.whole()
	for at < len(text) && (text[at] == '&' || text[at] == '!') {
		if i := strings.IndexAny(text[at:], " \t\r\n"); i >= 0 {
			at += i
		} else {
			return len(text)
		}
		for at < len(text) && strings.IndexByte(" \t\r\n", text[at]) >= 0 {
			at++
		}
	}
	return at
}

// tokenEnd is the offset behind the scalar that begins at an offset and means text: its closing quote, the end of its block, or its last
// word.
func (f *File) tokenEnd(start int, text string) int {
	if start >= len(f.Text) {
		return start
	}
	switch rest := f.whole()[start:]; rest[0] {
	case '"':
		for i := 1; i < len(rest); i++ {
			switch rest[i] {
			case '\\':
				i++
			case '"':
				return start + i + 1
			}
		}
	case '\'':
		for i := 1; i < len(rest); i++ {
			if rest[i] != '\'' {
				continue
			}
			if i+1 < len(rest) && rest[i+1] == '\'' {
				i++
				continue
			}
			return start + i + 1
		}
	case '|', '>':
		return f.blockEnd(start)
	default:
		return f.wordsEnd(start, text)
	}
	return len(f.Text)
}

// blockEnd is the end of the last line of a block scalar: all that is indented more than the line of its mark, or empty.
func (f *File) blockEnd(start int) int {
	text := f.whole()
	from := strings.LastIndexByte(text[:start], '\n') + 1
	indent := len(text[from:start]) - len(strings.TrimLeft(text[from:start], " -"))
	end := start
	for at := start; ; {
		next := strings.IndexByte(text[at:], '\n')
		if next < 0 {
			return len(strings.TrimRight(text, "\r\n "))
		}
		line := text[at : at+next]
		if at > start {
			if bare := strings.TrimLeft(line, " "); strings.TrimSpace(bare) != "" {
				if len(line)-len(bare) <= indent {
					return end
				}
				end = at + len(strings.TrimRight(line, "\r "))
			}
		} else {
			end = at + len(strings.TrimRight(line, "\r "))
		}
		at += next + 1
	}
}

// wordsEnd follows the words of a plain scalar over the lines on which they stand.
func (f *File) wordsEnd(start int, meant string) int {
	text := f.whole()
	at := start
	for word := range strings.FieldsSeq(meant) {
		for at < len(text) && strings.IndexByte(" \t\r\n", text[at]) >= 0 {
			at++
		}
		if !strings.HasPrefix(text[at:], word) {
			break // written in another way than it reads
		}
		at += len(word)
	}
	if at > start {
		return at
	}
	for at < len(text) && strings.IndexByte(" \t\r\n,]}:#", text[at]) < 0 {
		at++
	}
	return at
}

// whole is the text without a copy: nobody writes to the text of a file.
func (f *File) whole() string { return unsafe.String(unsafe.SliceData(f.Text), len(f.Text)) }

// written is the file in which the places of the nodes are counted: the outer one, for a text that a string of it holds.
func (n *Node) written() *File {
	if n.file.outer != nil {
		return n.file.outer
	}
	return n.file
}

// block is how many bytes stand between two places whose column is known.
const block = 4096

// longLine is from how many bytes on a column is not counted from the beginning of its line.
const longLine = 64 << 10

// lineIndex is where the lines of a text begin, as far as it was looked through.
type lineIndex struct {
	lines   []int32
	scanned int // up to which offset; -1 once all was
}

// manyLines is how many lines are found before room is made for all that are left.
const manyLines = 1 << 12

// index finds where lines begin, up to a line and an offset: most texts are asked for few places.
func (f *File) index(line, offset int) *lineIndex {
	f.indexing.Lock()
	defer f.indexing.Unlock()
	x := &f.lineIndex
	if x.lines == nil {
		x.lines = []int32{0}
	}
	for x.scanned >= 0 && (len(x.lines) <= line || x.scanned <= offset) {
		i := bytes.IndexByte(f.Text[x.scanned:], '\n')
		if i < 0 {
			x.scanned = -1
			break
		}
		x.scanned += i + 1
		if len(x.lines) == manyLines { // who asks for that many asks for most
			x.lines = slices.Grow(x.lines, bytes.Count(f.Text[x.scanned:], []byte("\n"))+1)
		}
		x.lines = append(x.lines, int32(x.scanned))
	}
	known := *x
	return &known
}

// blocks finds the starts of the blocks of a text, and their columns, when a long line is first asked for.
func (f *File) blocks() (columns, starts []int32) {
	f.blocked.Do(func() { f.columns, f.starts = f.newBlocks() })
	return f.columns, f.starts
}

func (f *File) newBlocks() (columns, starts []int32) {
	text := f.Text
	columns, starts = make([]int32, 0, len(text)/block+1), make([]int32, 0, len(text)/block+1)
	before, column := 0, 0
	for at := 0; at < len(text); at += block {
		start := at
		for start > 0 && !utf8.RuneStart(text[start]) {
			start--
		}
		if i := bytes.LastIndexByte(text[before:start], '\n'); i >= 0 {
			before, column = before+i+1, 0
		}
		column += utf8.RuneCountInString(f.whole()[before:start])
		before = start
		columns, starts = append(columns, int32(column)), append(starts, int32(start))
	}
	return columns, starts
}

// offset is the byte at which a line and column stand, both from 1; columns count code points.
func (f *File) offset(line, column int) int {
	x := f.index(line, 0)
	if line < 1 || line > len(x.lines) {
		return len(f.Text)
	}
	var columns, starts []int32
	at, end := int(x.lines[line-1]), len(f.Text)
	if line < len(x.lines) {
		end = int(x.lines[line])
	}
	left := column - 1
	if end-at > longLine {
		columns, starts = f.blocks()
	}
	for lo, hi := at/block+1, (end-1)/block; end-at > longLine && lo <= hi; {
		mid := (lo + hi) / 2
		if mid < len(columns) && int(columns[mid]) <= column-1 && int(starts[mid]) < end {
			at, left, lo = int(starts[mid]), column-1-int(columns[mid]), mid+1
		} else {
			hi = mid - 1
		}
	}
	for ; left > 0 && at < end; left-- {
		_, size := utf8.DecodeRune(f.Text[at:])
		at += size
	}
	return at
}

// position turns a byte offset into a line and a column, both from 1; columns count code points.
func (f *File) position(offset int) (line, column int) {
	offset = min(max(offset, 0), len(f.Text))
	x := f.index(0, offset)
	var columns, starts []int32
	line = sort.Search(len(x.lines), func(i int) bool { return int(x.lines[i]) > offset })
	from, before := int(x.lines[line-1]), 0
	if offset-from > longLine {
		columns, starts = f.blocks()
	}
	if b := offset / block; b < len(starts) && int(starts[b]) > from && int(starts[b]) <= offset {
		from, before = int(starts[b]), int(columns[b])
	}
	return line, before + utf8.RuneCountInString(f.whole()[from:offset]) + 1
}

func (f *File) runeAt(line, column int) rune {
	r, _ := utf8.DecodeRune(f.Text[min(f.offset(line, column), len(f.Text)):])
	return r
}

// Bytes is where a range stands in the text: from its first byte to the one behind its last.
func (f *File) Bytes(at Range) (from, to int) {
	return f.offset(at.Line, at.Column), f.offset(at.EndLine, at.EndColumn)
}

// RangeOf is where bytes stand in the text: from the first to before the one behind the last.
func (f *File) RangeOf(from, to int) Range {
	at := Range{Place: Place{File: f.Name}}
	at.Line, at.Column = f.position(from)
	at.EndLine, at.EndColumn = f.position(to)
	return at
}

// Line is a line of the text, from 1, without its end; "" where there is none.
func (f *File) Line(number int) string {
	if number < 1 {
		return ""
	}
	rest := f.whole()[f.offset(number, 1):]
	line, _, _ := strings.Cut(rest, "\n")
	return strings.TrimSuffix(line, "\r")
}

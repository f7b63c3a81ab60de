package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"go.yaml.in/yaml/v3"

	"oldledger/core/source"
)

// layout is a text with where things stand in it. In JSON, and between braces in YAML, that is found by reading the text; in blocks, the
// reader of YAML says where things begin, and the text where they end.
type layout struct {
	text  string
	lines []int         // where they begin
	root  *yaml.Node    // nil for JSON
	boxes map[int]*box  // that were looked at, by where they begin
	marks map[int][]int // where characters of long lines stand, by line
	eol   string
	step  int  // by how much blocks are indented
	short bool // whether no text is written line by line
	flush bool // whether the dashes of a list stand below its key, and not indented
}

// box is a container as it is written.
type box struct {
	list       bool
	flow       bool // between braces or brackets
	start, end int  // behind properties; end is behind the closing brace, or behind the last value
	indent     int  // of a block: before its keys or dashes
	entries    []entry
	behind     int // what it stands behind: a colon, a dash; -1 for the whole text
}

// entry is a member or an item as it is written.
type entry struct {
	key    string
	start  int // of the key, the dash or, between brackets, the value
	keyEnd int // behind the key
	after  int // behind the colon or the dash
	value  int // where the value begins, with its properties; after, where there is none
	end    int // behind the value
	node   *yaml.Node
	merge  bool // <<
}

func (e entry) empty() bool { return e.end == e.after }

// standIn takes the place of the question mark in {name?: string}, as the reader of descriptions has it: one character for another.
const standIn = "\ue000:"

func open(f *source.File) (*layout, error) {
	l := &layout{text: string(f.Text), eol: "\n", lines: []int{0}, boxes: map[int]*box{}}
	for i := 0; ; {
		next := strings.IndexByte(l.text[i:], '\n')
		if next < 0 {
			break
		}
		i += next + 1
		l.lines = append(l.lines, i)
	}
	if len(l.lines) > 1 && l.lines[1] >= 2 && l.text[l.lines[1]-2] == '\r' {
		l.eol = "\r\n"
	}
	if f.JSON() {
		l.step = l.stepOfJSON()
		return l, nil
	}
	var doc yaml.Node
	if err := yaml.Unmarshal(f.Text, &doc); err != nil {
		if err := yaml.Unmarshal([]byte(strings.ReplaceAll(l.text, "?:", standIn)), &doc); err != nil {
			return nil, fmt.Errorf("%w: %w", ErrLayout, err)
		}
	}
	l.root = doc.Content[0]
	l.look(l.root)
	if l.step == 0 {
		l.step = 2
	}
	return l, nil
}

// stepOfJSON is how far the first member stands from its brace's line; 0 where all is in one line.
func (l *layout) stepOfJSON() int {
	if len(l.lines) < 2 {
		return 0
	}
	for _, start := range l.lines[1:] {
		if n := l.indentAt(start); n > 0 {
			return n
		}
	}
	return 0
}

// look finds how the author indents, where blocks are first nested.
func (l *layout) look(y *yaml.Node) (found bool) {
	if y.Kind != yaml.MappingNode || y.Style&yaml.FlowStyle != 0 {
		return false
	}
	for i := 0; i+1 < len(y.Content); i += 2 {
		k, v := y.Content[i], y.Content[i+1]
		if v.Kind == yaml.MappingNode && v.Style&yaml.FlowStyle == 0 && len(v.Content) > 0 && v.Content[0].Line > k.Line && l.step == 0 {
			l.step = max(1, v.Content[0].Column-k.Column)
		}
		if v.Kind == yaml.SequenceNode && v.Style&yaml.FlowStyle == 0 && len(v.Content) > 0 {
			l.flush = l.dash(v, 0)-l.lineStart(l.dash(v, 0)) == k.Column-1
			return true
		}
		if l.look(v) {
			return true
		}
	}
	return false
}

// offset is where something begins that stands in a line and column, both from 1.
func (l *layout) offset(line, column int) int {
	if line < 1 || line > len(l.lines) {
		return len(l.text)
	}
	at, left := l.lines[line-1], column-1
	if left >= stride {
		marks := l.marksOf(line)
		i := min(left/stride, len(marks)-1)
		at, left = marks[i], left-i*stride
	}
	for range left {
		_, size := utf8.DecodeRuneInString(l.text[at:])
		at += size
	}
	return min(at, len(l.text))
}

// stride is how many characters stand between two whose place in a long line is kept.
const stride = 256

// marksOf are the offsets of every so many characters of a line.
func (l *layout) marksOf(line int) []int {
	if marks, known := l.marks[line]; known {
		return marks
	}
	var marks []int
	end := len(l.text)
	if line < len(l.lines) {
		end = l.lines[line]
	}
	n := 0
	for i := range l.text[l.lines[line-1]:end] {
		if n%stride == 0 {
			marks = append(marks, l.lines[line-1]+i)
		}
		n++
	}
	if l.marks == nil {
		l.marks = map[int][]int{}
	}
	l.marks[line] = marks
	return marks
}

func (l *layout) at(y *yaml.Node) int { return l.offset(y.Line, y.Column) }

// lineStart is where the line of an offset begins.
func (l *layout) lineStart(at int) int { return strings.LastIndexByte(l.text[:at], '\n') + 1 }

// lineEnd is the end of the line of an offset, before its line break.
func (l *layout) lineEnd(at int) int {
	i := strings.IndexByte(l.text[at:], '\n')
	if i < 0 {
		return len(l.text)
	}
	if at += i; at > 0 && l.text[at-1] == '\r' {
		at--
	}
	return at
}

// nextLine is where the line behind that of an offset begins; the end of the text where there is none.
func (l *layout) nextLine(at int) int {
	i := strings.IndexByte(l.text[at:], '\n')
	if i < 0 {
		return len(l.text)
	}
	return at + i + 1
}

// indentAt is how many spaces a line begins with.
func (l *layout) indentAt(start int) int {
	return len(l.text[start:]) - len(strings.TrimLeft(l.text[start:], " "))
}

// blank reports whether there is nothing but spaces between two offsets.
func (l *layout) blank(from, to int) bool { return strings.Trim(l.text[from:to], " \t") == "" }

// space is the offset behind spaces and line breaks, and behind comments of YAML.
func (l *layout) space(at int) int {
	for at < len(l.text) {
		switch c := l.text[at]; {
		case c == ' ' || c == '\t' || c == '\r' || c == '\n':
			at++
		case c == '#' && l.root != nil && (at == 0 || strings.IndexByte(" \t\r\n", l.text[at-1]) >= 0):
			at = l.lineEnd(at)
		default:
			return at
		}
	}
	return at
}

// properties is the offset behind the anchor and the tag of a value, and what stands before it.
func (l *layout) properties(at int) int {
	for at < len(l.text) && (l.text[at] == '&' || l.text[at] == '!') {
		for at < len(l.text) && strings.IndexByte(" \t\r\n,[]{}", l.text[at]) < 0 {
			at++
		}
		at = l.space(at)
	}
	return at
}

// quoted is the offset behind a text in quotes.
func (l *layout) quoted(at int) int {
	quote := l.text[at]
	for at++; at < len(l.text); at++ {
		switch c := l.text[at]; {
		case c == '\\' && quote == '"':
			at++
		case c == quote && quote == '\'' && strings.HasPrefix(l.text[at+1:], "'"):
			at++
		case c == quote:
			return at + 1
		}
	}
	return at
}

// flowWords is the offset behind words without quotes between braces; of a key, before its colon.
func (l *layout) flowWords(at int) int {
	end := at
	for at < len(l.text) {
		c := l.text[at]
		ends := strings.IndexByte(",[]{}", c) >= 0 ||
			c == ':' && (at+1 == len(l.text) || strings.IndexByte(" \t\r\n,[]{}", l.text[at+1]) >= 0) ||
			c == '#' && at > 0 && strings.IndexByte(" \t\r\n", l.text[at-1]) >= 0
		if ends {
			break
		}
		if at++; strings.IndexByte(" \t\r\n", c) < 0 {
			end = at
		}
	}
	return end
}

// flowEnd is the offset behind a value between braces; its properties are passed.
func (l *layout) flowEnd(at int) int {
	if at = l.properties(at); at >= len(l.text) {
		return at
	}
	switch l.text[at] {
	case '"', '\'':
		return l.quoted(at)
	case '{', '[':
		depth := 0
		for at < len(l.text) {
			switch c := l.text[at]; c {
			case '"', '\'':
				if c == '\'' && l.inWord(at) {
					at++
					continue
				}
				at = l.quoted(at)
				continue
			case '{', '[':
				depth++
			case '}', ']':
				if depth--; depth == 0 {
					return at + 1
				}
			case '#':
				if next := l.space(at); next > at {
					at = next
					continue
				}
			}
			at++
		}
		return at
	}
	return l.flowWords(at)
}

// inWord reports whether a quote stands within words, where it is none.
func (l *layout) inWord(at int) bool {
	return l.root != nil && at > 0 && strings.IndexByte(" \t\r\n,[]{}:", l.text[at-1]) < 0
}

// flowBox reads a container between braces.
func (l *layout) flowBox(at int, y *yaml.Node) (*box, error) {
	start := l.properties(at)
	b := &box{flow: true, start: start, list: l.text[start] == '['}
	at = l.space(start + 1)
	for n := 0; at < len(l.text) && l.text[at] != ']' && l.text[at] != '}'; n++ {
		e := entry{start: at, after: at}
		if !b.list {
			if l.text[at] == '?' {
				return nil, ErrLayout
			}
			e.keyEnd = l.flowEnd(at)
			colon := l.space(e.keyEnd)
			if colon >= len(l.text) || l.text[colon] != ':' {
				return nil, ErrLayout // a key alone
			}
			e.after = colon + 1
			at = l.space(e.after)
		}
		if strings.IndexByte(",]}", l.text[at]) >= 0 {
			e.value, e.end = e.after, e.after
		} else {
			e.value = at
			e.end = l.flowEnd(at)
		}
		if at = l.space(e.end); b.list && at < len(l.text) && l.text[at] == ':' {
			return nil, ErrLayout // a pair in place of an item
		}
		if y != nil {
			if i := n; b.list && i < len(y.Content) {
				e.node = y.Content[i]
			} else if !b.list && 2*i+1 < len(y.Content) {
				e.key, e.node, e.merge = strings.ReplaceAll(y.Content[2*i].Value, "\ue000", "?"), y.Content[2*i+1], y.Content[2*i].Tag == "!!merge"
				if y.Content[2*i].Kind == yaml.AliasNode {
					e.key = y.Content[2*i].Alias.Value
				}
			} else {
				return nil, ErrLayout
			}
		} else if !b.list {
			var err error
			if e.key, err = unquoteJSON(l.text[e.start:e.keyEnd]); err != nil {
				return nil, ErrLayout
			}
		}
		b.entries = append(b.entries, e)
		if at < len(l.text) && l.text[at] == ',' {
			at = l.space(at + 1)
		}
	}
	b.end = min(at+1, len(l.text))
	if y != nil && (b.list && len(y.Content) != len(b.entries) || !b.list && len(y.Content) != 2*len(b.entries)) {
		return nil, ErrLayout
	}
	return b, nil
}

// isBlock reports whether a container is written as a block.
func isBlock(y *yaml.Node) bool {
	return y != nil && (y.Kind == yaml.MappingNode || y.Kind == yaml.SequenceNode) && y.Style&yaml.FlowStyle == 0
}

// dash is where the dash of an item of a block stands; -1 where it cannot be told.
func (l *layout) dash(y *yaml.Node, i int) int {
	at := l.at(y.Content[i])
	for at > 0 {
		at--
		switch c := l.text[at]; {
		case c == '-':
			return at
		case c != ' ' && c != '\t' && c != '\r' && c != '\n':
			// A comment, or something that the item has before its value: look in the lines before.
			start := l.lineStart(at)
			if line := strings.TrimLeft(l.text[start:at+1], " "); strings.HasPrefix(line, "- ") || line == "-" {
				return start + l.indentAt(start)
			} else if !strings.HasPrefix(line, "#") || start == 0 {
				return -1
			}
			at = start
		}
	}
	return -1
}

// absent reports whether nothing stands where a value could.
func absent(y *yaml.Node) bool {
	return y.Kind == yaml.ScalarNode && y.Value == "" && y.Style == 0 && y.Tag == "!!null" && y.Anchor == ""
}

// blockBox reads a container that is written as a block.
func (l *layout) blockBox(y *yaml.Node) (*box, error) {
	b := &box{list: y.Kind == yaml.SequenceNode}
	step := 2
	if b.list {
		step = 1
	}
	for i := 0; i+step <= len(y.Content); i += step {
		e, err := l.blockEntry(y, i, b.list)
		if err != nil {
			return nil, err
		}
		b.entries = append(b.entries, e)
		b.end = e.end
	}
	if len(b.entries) == 0 {
		return nil, ErrLayout
	}
	b.start = b.entries[0].start
	b.indent = utf8.RuneCountInString(l.text[l.lineStart(b.start):b.start])
	return b, nil
}

func (l *layout) blockEntry(y *yaml.Node, i int, list bool) (entry, error) {
	e := entry{node: y.Content[i]}
	if list {
		if e.start = l.dash(y, i); e.start < 0 {
			return e, ErrLayout
		}
		e.after = e.start + 1
	} else {
		k := y.Content[i]
		e.node, e.start, e.merge = y.Content[i+1], l.at(k), k.Tag == "!!merge"
		e.key = strings.ReplaceAll(k.Value, "\ue000", "?")
		if k.Kind == yaml.AliasNode {
			e.key = k.Alias.Value
		}
		var ok bool
		if e.keyEnd, ok = l.keyEnd(e.start); !ok {
			return e, ErrLayout
		}
		e.after = strings.IndexByte(l.text[e.keyEnd:], ':') + e.keyEnd + 1
	}
	e.value, e.end = e.after, e.after
	if !absent(e.node) {
		e.value = l.at(e.node)
		indent := utf8.RuneCountInString(l.text[l.lineStart(e.start):e.start])
		var err error
		if e.end, err = l.blockEnd(e.node, indent); err != nil {
			return e, err
		}
	}
	return e, nil
}

// keyEnd is the offset behind a key of a block that begins at an offset.
func (l *layout) keyEnd(at int) (int, bool) {
	if before := strings.TrimRight(l.text[l.lineStart(at):at], " "); strings.HasSuffix(before, "?") {
		return at, false
	}
	at = l.properties(at)
	if at < len(l.text) && (l.text[at] == '"' || l.text[at] == '\'') {
		at = l.quoted(at)
		return at, strings.HasPrefix(strings.TrimLeft(l.text[at:], " "), ":")
	}
	for end := l.lineEnd(at); at < end; at++ {
		if l.text[at] == ':' && (at+1 >= end || l.text[at+1] == ' ' || l.text[at+1] == '\t') {
			return len(strings.TrimRight(l.text[:at], " ")), true
		}
	}
	return at, false
}

// blockEnd is the offset behind a value in a block whose keys or dashes stand behind so many spaces.
func (l *layout) blockEnd(y *yaml.Node, indent int) (int, error) {
	at := l.at(y)
	switch {
	case y.Kind == yaml.AliasNode:
		return at + 1 + len(y.Value), nil
	case isBlock(y):
		if len(y.Content) == 0 {
			return 0, ErrLayout
		}
		list := y.Kind == yaml.SequenceNode
		last := len(y.Content) - 1
		if !list {
			last--
		}
		e, err := l.blockEntry(y, last, list)
		return e.end, err
	case y.Kind != yaml.ScalarNode:
		return l.flowEnd(at), nil
	}
	behind := l.properties(at)
	if y.Value == "" && y.Style&^yaml.TaggedStyle == 0 {
		return len(strings.TrimRight(l.text[:l.propertiesEnd(at)], " \t")), nil // properties alone
	}
	if behind >= len(l.text) {
		return behind, nil
	}
	switch c := l.text[behind]; {
	case c == '"' || c == '\'':
		return l.quoted(behind), nil
	case y.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0:
		return l.literalEnd(behind, indent), nil
	}
	return l.wordsEnd(behind, indent), nil
}

// propertiesEnd is the offset behind the last property of a value that has nothing else.
func (l *layout) propertiesEnd(at int) int {
	end := at
	for at < len(l.text) && (l.text[at] == '&' || l.text[at] == '!') {
		for at < len(l.text) && strings.IndexByte(" \t\r\n", l.text[at]) < 0 {
			at++
		}
		end = at
		for at < len(l.text) && l.text[at] == ' ' {
			at++
		}
	}
	return end
}

// literalEnd is the end of the last line of a block scalar (YAML 1.2.2, section 8.1).
func (l *layout) literalEnd(at, indent int) int {
	head := l.text[at:l.lineEnd(at)]
	head, _, _ = strings.Cut(head, " ")
	keeps, width := strings.Contains(head, "+"), 0
	if i := strings.IndexAny(head, "123456789"); i > 0 {
		width = max(indent, 0) + int(head[i]-'0')
	}
	end := l.lineEnd(at)
	for start := l.nextLine(at); start < len(l.text); start = l.nextLine(start) {
		stop := l.lineEnd(start)
		if l.blank(start, stop) {
			if keeps {
				end = stop
			}
			if start == len(l.text) {
				break
			}
			continue
		}
		n := l.indentAt(start)
		if width == 0 {
			if n <= indent {
				break
			}
			width = n
		}
		if n < width {
			break
		}
		end = stop
	}
	return end
}

// wordsEnd is the offset behind a text without quotes in a block (section 7.3.3).
func (l *layout) wordsEnd(at, indent int) int {
	end := at
	for start := at; ; {
		stop := l.lineEnd(start)
		line := l.text[start:stop]
		comment := strings.Index(line, " #")
		if i := strings.Index(line, "\t#"); i >= 0 && (comment < 0 || i < comment) {
			comment = i
		}
		if comment >= 0 {
			return start + len(strings.TrimRight(line[:comment], " \t"))
		}
		if trimmed := strings.TrimRight(line, " \t"); trimmed != "" {
			end = start + len(trimmed)
		}
		next := l.nextLine(start)
		for next < len(l.text) && l.blank(next, l.lineEnd(next)) {
			next = l.nextLine(next)
		}
		if next >= len(l.text) || l.indentAt(next) <= indent || l.text[next+l.indentAt(next)] == '#' {
			return end
		}
		start = next + l.indentAt(next)
	}
}

// find gives the containers that a pointer leads through, each with the position of the entry that was taken; the last position is -1 where
// nothing stands there. What goes through an alias goes on where it was written.
func (l *layout) find(pointer string) (*box, int, error) {
	b, err := l.boxAt(l.root, l.space(l.bom()), -1)
	if err != nil {
		return nil, 0, err
	}
	steps := strings.Split(pointer, "/")[1:]
	for i, step := range steps {
		at := b.at(unescape(step))
		if at < 0 && !b.list {
			if from, there := l.merged(b, unescape(step)); there >= 0 {
				b, at = from, there
			}
		}
		if i == len(steps)-1 {
			return b, at, nil
		}
		if at < 0 {
			return nil, 0, ErrLayout
		}
		if b, err = l.boxAt(b.entries[at].node, b.entries[at].value, b.entries[at].after); err != nil {
			return nil, 0, err
		}
	}
	return nil, 0, ErrLayout
}

// merged is the container from which a member comes by a merge key, and its position there; -1 where none has it.
func (l *layout) merged(b *box, key string) (*box, int) {
	for _, e := range b.entries {
		if !e.merge {
			continue
		}
		from, err := l.boxAt(e.node, e.value, e.after)
		if err != nil {
			continue
		}
		all := []*box{from}
		if from.list {
			all = nil
			for _, item := range from.entries {
				if one, err := l.boxAt(item.node, item.value, item.after); err == nil {
					all = append(all, one)
				}
			}
		}
		for _, one := range all {
			if i := one.at(key); i >= 0 {
				return one, i
			}
			if deeper, i := l.merged(one, key); i >= 0 {
				return deeper, i
			}
		}
	}
	return nil, -1
}

func (l *layout) bom() int {
	if strings.HasPrefix(l.text, "\ufeff") {
		return len("\ufeff")
	}
	return 0
}

// boxAt is the container that stands at an offset, or that an alias there names.
func (l *layout) boxAt(y *yaml.Node, at, behind int) (*box, error) {
	if y != nil && y.Kind == yaml.AliasNode {
		y = y.Alias
		behind = l.beforeComment(l.at(y))
	}
	if y != nil {
		at = l.at(y)
	}
	if b := l.boxes[at]; b != nil {
		return b, nil
	}
	b, err := l.newBox(y, at)
	if err == nil {
		b.behind = behind
		l.boxes[at] = b
	}
	return b, err
}

func (l *layout) newBox(y *yaml.Node, at int) (*box, error) {
	if isBlock(y) {
		return l.blockBox(y)
	}
	if at = l.properties(at); at >= len(l.text) || l.text[at] != '{' && l.text[at] != '[' {
		return nil, ErrLayout
	}
	return l.flowBox(at, y)
}

// at is the entry of a step; -1 for none.
func (b *box) at(step string) int {
	if !b.list {
		return slices.IndexFunc(b.entries, func(e entry) bool { return !e.merge && e.key == step })
	}
	i, err := strconv.Atoi(step)
	if err != nil || i < 0 || i >= len(b.entries) || strconv.Itoa(i) != step {
		return -1
	}
	return i
}

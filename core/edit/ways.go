package edit

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"oldledger/core/value"
)

// way is how a wish could be fulfilled: changes of the text, in any order.
type way []Change

// ways are those of a wish, the least first. Which of them does it is found out by reading the text.
func (l *layout) ways(w Wish) ([]way, error) {
	if w.at == "" {
		return l.whole(w.value), nil
	}
	b, i, err := l.find(w.at)
	if err != nil {
		return nil, err
	}
	_, step, err := split(w.at)
	if err != nil {
		return nil, err
	}
	switch {
	case w.act == rename:
		return l.renamed(b, i, w.to)
	case w.act == move && i >= 0:
		return l.moved(b, i, w.at, w.to), nil
	case w.act == remove && i >= 0:
		return l.removed(b, i), nil
	case w.act == set && i >= 0:
		return l.replaced(b, i, w.value), nil
	case w.act == set && !b.list, w.act == insert && !b.list:
		return l.added(b, step, w.value), nil
	case w.act == insert:
		if i < 0 {
			i = len(b.entries)
		}
		return l.inserted(b, i, w.value), nil
	}
	return nil, ErrLayout // by a merge key
}

// whole is a text that says something else altogether.
func (l *layout) whole(v *value.Value) []way {
	if l.root == nil {
		return []way{{{l.bom(), len(l.text), l.spread(v, "") + l.eol}}}
	}
	_, lines := l.block(v, 0)
	if !l.tall(v) || v.Kind == value.String {
		lines = []string{l.inline(v, 0)}
	}
	return []way{{{l.bom(), len(l.text), strings.Join(lines, l.eol) + l.eol}}}
}

// margin is what stands before something in its line, as spaces.
func (l *layout) margin(at int) string {
	return strings.Repeat(" ", utf8.RuneCountInString(l.text[l.lineStart(at):at]))
}

// lineMargin is what the line of an offset begins with.
func (l *layout) lineMargin(at int) string {
	start := l.lineStart(at)
	line := l.text[start:]
	return line[:len(line)-len(strings.TrimLeft(line, " \t"))]
}

// first reports whether nothing stands before something in its line.
func (l *layout) first(at int) bool { return l.blank(l.lineStart(at), at) }

// anchored is the anchor that a value keeps, whatever it says.
func (e entry) anchored() string {
	if e.node == nil || e.node.Anchor == "" {
		return ""
	}
	return "&" + e.node.Anchor + " "
}

// quoteOf is the quote with which a value or a key begins.
func (l *layout) quoteOf(at int) byte {
	if at = l.properties(at); at < len(l.text) && (l.text[at] == '"' || l.text[at] == '\'') {
		return l.text[at]
	}
	return 0
}

func (l *layout) replaced(b *box, i int, v *value.Value) []way {
	e := b.entries[i]
	if e.empty() {
		return l.filled(b, e, v)
	}
	if b.flow {
		text := l.inline(v, l.quoteOf(e.value))
		if l.root == nil {
			text = l.spread(v, l.lineMargin(e.value))
		}
		return []way{{{e.value, e.end, e.anchored() + text}}}
	}
	behind := l.properties(e.value)
	sameLine := l.lineStart(e.start) == l.lineStart(behind)
	if !l.tall(v) {
		short := e.anchored() + l.inline(v, l.quoteOf(e.value))
		if sameLine {
			return []way{{{e.value, e.end, short}}}
		}
		// Below its key: what stands behind the key, a comment, stays.
		return []way{
			{{e.after, l.beforeComment(e.after), " " + short}, {l.lineEnd(e.after), e.end, ""}},
			{{e.value, e.end, short}},
		}
	}
	anchor := strings.TrimSuffix(" "+e.anchored(), " ")
	if sameLine && isBlock(e.node) { // - a: 1
		_, lines := l.block(v, utf8.RuneCountInString(l.text[l.lineStart(behind):behind]))
		if v.Kind != value.String {
			return []way{{{behind, e.end, strings.TrimLeft(strings.Join(lines, l.eol), " ")}}}
		}
	}
	head, lines := l.block(v, l.below(b, e, v))
	below := l.eol + strings.Join(lines, l.eol)
	if sameLine {
		end := l.lineEnd(e.end)
		return []way{{{e.after, e.end, anchor + head}, {end, end, below}}}
	}
	return []way{{{e.after, l.beforeComment(e.after), anchor + head}, {l.lineEnd(e.after), e.end, below}}}
}

// beforeComment is the end of what stands in the line of an offset before its comment, or of the line.
func (l *layout) beforeComment(at int) int {
	end := l.lineEnd(at)
	if i := strings.Index(l.text[at:end], " #"); i >= 0 {
		end = at + i
	}
	return end
}

// below is the indent of a block that stands below a key or a dash: that of the one that stands there, where there is one.
func (l *layout) below(b *box, e entry, v *value.Value) int {
	if isBlock(e.node) && v.Kind != value.String {
		if behind := l.properties(e.value); l.lineStart(behind) != l.lineStart(e.start) && l.first(behind) {
			if n := l.indentAt(l.lineStart(behind)); n > b.indent || n == b.indent && v.Kind == value.Array {
				return n
			}
		}
	}
	switch {
	case b.list:
		return b.indent + 2
	case v.Kind == value.Array && l.flush:
		return b.indent
	}
	return b.indent + l.step
}

// filled gives a value to a key or a dash that has none.
func (l *layout) filled(b *box, e entry, v *value.Value) []way {
	if b.flow || !l.tall(v) {
		return []way{{{e.after, e.after, " " + l.inline(v, 0)}}}
	}
	head, lines := l.block(v, l.below(b, e, v))
	end := l.lineEnd(e.after)
	return []way{{{e.after, e.after, head}, {end, end, l.eol + strings.Join(lines, l.eol)}}}
}

// added adds a member behind the others.
func (l *layout) added(b *box, key string, v *value.Value) []way {
	if b.flow {
		text := l.key(key, 0) + ": " + l.inline(v, 0)
		if l.root == nil {
			text = quoteJSON(key) + ": " + l.spreadIn(b, v)
		}
		return l.addedFlow(b, text)
	}
	like := byte(0)
	for _, e := range b.entries {
		if like = l.quoteOf(e.start); like == 0 {
			break // not all are quoted
		}
	}
	lines := l.keyed(l.key(key, like), v, b.indent)
	end := l.lineEnd(b.end)
	below := way{{end, end, l.eol + strings.Join(lines, l.eol)}}
	return []way{below, l.above(b.start, lines)}
}

// above puts lines before what stands at an offset, in its place.
func (l *layout) above(at int, lines []string) way {
	return way{{at, at, strings.TrimLeft(strings.Join(lines, l.eol), " ") + l.eol + l.margin(at)}}
}

// spreadIn is a value of JSON in a container: over lines, where its entries stand on their own.
func (l *layout) spreadIn(b *box, v *value.Value) string {
	if len(b.entries) > 0 && l.lineStart(b.start) == l.lineStart(b.end) {
		return l.inline(v, 0)
	}
	return l.spread(v, l.entryMargin(b))
}

// entryMargin is the indent of the entries of a container of JSON that stand on lines of their own.
func (l *layout) entryMargin(b *box) string {
	if len(b.entries) > 0 {
		return l.lineMargin(b.entries[len(b.entries)-1].start)
	}
	return l.lineMargin(b.start) + strings.Repeat(" ", l.step)
}

// addedFlow adds an entry behind the others between braces.
func (l *layout) addedFlow(b *box, text string) []way {
	if len(b.entries) == 0 {
		if l.root == nil && l.step > 0 {
			margin := l.lineMargin(b.start)
			return []way{{{b.start + 1, b.end - 1, l.eol + l.entryMargin(b) + text + l.eol + margin}}}
		}
		return []way{{{b.start + 1, b.end - 1, text}}}
	}
	last := b.entries[len(b.entries)-1]
	return []way{{{last.end, last.end, l.between(b, last) + text}}}
}

// between is what stands between two entries: a comma, and what the author puts behind it.
func (l *layout) between(b *box, e entry) string {
	if l.first(e.start) && l.lineStart(b.start) != l.lineStart(e.start) {
		return "," + l.eol + l.lineMargin(e.start)
	}
	if l.root == nil && len(b.entries) > 1 && b.entries[1].start-b.entries[0].end == 1 {
		return ","
	}
	return ", "
}

// inserted adds an item before the one at a position, or behind the last.
func (l *layout) inserted(b *box, i int, v *value.Value) []way {
	if b.flow {
		text := l.inline(v, 0)
		if l.root == nil {
			text = l.spreadIn(b, v)
		}
		if i == len(b.entries) {
			return l.addedFlow(b, text)
		}
		e := b.entries[i]
		return []way{{{e.start, e.start, text + l.between(b, e)}}}
	}
	lines := l.dashed(v, b.indent)
	if i == len(b.entries) {
		end := l.lineEnd(b.end)
		return []way{{{end, end, l.eol + strings.Join(lines, l.eol)}}}
	}
	at := b.entries[i].start
	if l.first(at) {
		top := l.commentsAbove(b, i)
		return []way{{{top, top, strings.Join(lines, l.eol) + l.eol}}, l.above(at, lines)}
	}
	return []way{l.above(at, lines)}
}

// commentsAbove is where the comments begin that stand right above an entry; its own line, where there are none, or they could speak of the
// whole text.
func (l *layout) commentsAbove(b *box, i int) int {
	start, least := l.lineStart(b.entries[i].start), b.behind
	if i > 0 {
		least = b.entries[i-1].end
	}
	for least >= 0 && start > least {
		above := l.lineStart(start - 1)
		line := strings.TrimLeft(l.text[above:start], " ")
		if above <= least || !strings.HasPrefix(line, "#") || l.indentAt(above) != b.indent {
			break
		}
		start = above
	}
	return start
}

// removed takes an entry away.
func (l *layout) removed(b *box, i int) []way {
	e := b.entries[i]
	if len(b.entries) == 1 {
		return l.emptied(b)
	}
	if b.flow {
		if i == len(b.entries)-1 {
			return []way{{{b.entries[i-1].end, e.end, ""}}}
		}
		return []way{{{e.start, b.entries[i+1].start, ""}}}
	}
	if !l.first(e.start) { // - a: 1, before others
		next := b.entries[i+1].start
		if strings.Contains(l.text[l.lineEnd(e.end):next], "#") {
			return []way{{{e.start, l.lineEnd(e.end), ""}}}
		}
		return []way{{{e.start, next, ""}}}
	}
	top, end := l.commentsAbove(b, i), l.nextLine(e.end)
	if end == len(l.text) && !strings.HasSuffix(l.text, "\n") {
		return []way{{{l.lineEnd(max(top-1, 0)), end, ""}}}
	}
	return []way{{{top, end, ""}}}
}

// emptied takes the only entry of a container away.
func (l *layout) emptied(b *box) []way {
	empty := "{}"
	if b.list {
		empty = "[]"
	}
	if b.flow && b.behind >= 0 {
		return []way{{{b.start, b.end, empty}}}
	}
	all := []way{{{b.start, b.end, empty}}}
	if b.behind >= 0 && !b.flow && l.lineStart(b.start) > b.behind {
		at, top := l.beforeComment(b.behind), l.commentsAbove(b, 0)
		all = []way{{{at, at, " " + empty}, {l.lineEnd(top - 1), l.lineEnd(b.end), ""}}, all[0]}
	}
	if b.behind < 0 { // what begins with a brace is held to the rules of JSON, which knows no comments
		all = append(all, way{{l.bom(), len(l.text), empty + l.eol}})
	}
	return all
}

func (l *layout) renamed(b *box, i int, key string) ([]way, error) {
	if i < 0 {
		return nil, ErrLayout
	}
	e := b.entries[i]
	if e.node != nil && l.text[e.start] == '*' {
		return nil, ErrLayout // a key by an alias
	}
	at := l.properties(e.start)
	return []way{{{at, e.keyEnd, l.key(key, l.quoteOf(at))}}}, nil
}

// moved takes the lines of an entry to where it goes, with its comments, as they are but for their indent.
func (l *layout) moved(from *box, i int, at, to string) []way {
	e := from.entries[i]
	to = unshifted(at, to)
	dst, j, err := l.find(to)
	if err != nil || from.flow || dst.flow || from.list != dst.list || len(from.entries) == 1 || !l.first(e.start) || to == at ||
		strings.HasPrefix(to, at+"/") {
		return nil
	}
	top, end := l.commentsAbove(from, i), l.nextLine(e.end)
	lines := strings.SplitAfter(strings.TrimSuffix(l.text[top:end], "\n"), "\n")
	if _, step, err := split(to); err == nil && !dst.list && step != e.key {
		head := l.text[top:e.start] + l.key(step, l.quoteOf(e.start)) + l.text[e.keyEnd:end]
		lines = strings.SplitAfter(strings.TrimSuffix(head, "\n"), "\n")
	}
	text := strings.TrimSuffix(reindented(lines, dst.indent-from.indent), "\r")
	gone := l.removed(from, i)[0]
	if !dst.list || j < 0 {
		stop := l.lineEnd(dst.end)
		return []way{append(gone, Change{stop, stop, l.eol + text})}
	}
	start := l.commentsAbove(dst, j)
	if !l.first(dst.entries[j].start) {
		return nil
	}
	return []way{append(gone, Change{start, start, text + l.eol})}
}

// reindented are lines that stand so much further to the right, or to the left where by is less than 0.
func reindented(lines []string, by int) string {
	var b strings.Builder
	for _, line := range lines {
		switch bare := strings.TrimLeft(line, " "); {
		case strings.TrimSpace(bare) == "":
			b.WriteString(line)
		case by >= 0:
			b.WriteString(strings.Repeat(" ", by) + line)
		default:
			b.WriteString(line[min(-by, len(line)-len(bare)):])
		}
	}
	return b.String()
}

// unshifted is where a pointer leads in a text in which something is yet that it takes for gone: behind an item of a list, the others
// stand one further down.
func unshifted(gone, pointer string) string {
	parent, step, err := split(gone)
	if err != nil {
		return pointer
	}
	rest, below := strings.CutPrefix(pointer, parent+"/")
	n, isIndex := strconv.Atoi(step)
	if !below || isIndex != nil {
		return pointer
	}
	head, tail, deeper := strings.Cut(rest, "/")
	if m, err := strconv.Atoi(head); err == nil && m >= n {
		head = fmt.Sprint(m + 1)
	}
	if deeper {
		head += "/" + tail
	}
	return parent + "/" + head
}

package source

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"
)

// What a parser says of a broken text is seldom where its author broke it. Here the text is read once more, from the beginning to the
// fault, for what was opened and never closed.

// opened is a bracket or a quote that waits for its end.
type opened struct {
	sign byte
	at   int // its offset
}

// what names the thing that a sign opens.
func (o opened) what() string {
	switch o.sign {
	case '{':
		return "the object"
	case '[':
		return "the list"
	}
	return "the text"
}

// closer is the sign that ends what was opened.
func (o opened) closer() byte {
	switch o.sign {
	case '{':
		return '}'
	case '[':
		return ']'
	}
	return o.sign
}

// jsonFault says what is wrong with a JSON text at an offset; err is what the parser says, nil where something follows the end.
func (f *File) jsonFault(at int, err error) *Diagnostic {
	text := f.whole()
	for at < len(text) && strings.IndexByte(" \t\r\n", text[at]) >= 0 {
		at++
	}
	say := func(at int, format string, args ...any) *Diagnostic {
		line, column := f.position(at)
		return f.wrong(Syntax, line, column, format, args...)
	}
	open, inText := jsonOpen(text[:min(at, len(text))])
	before := strings.TrimRight(text[:min(at, len(text))], " \t\r\n")
	rest := text[min(at, len(text)):]
	if strings.HasPrefix(rest, ",") { // what follows says what the comma is
		if after := strings.TrimLeft(rest[1:], " \t\r\n"); after != "" {
			before, rest = text[:at+1], after
		}
	}
	switch {
	case inText:
		start := open[len(open)-1].at
		return say(start, "the text that begins here is not closed on its line; end it with \", and write a line break in it as \\n")
	case rest == "" && len(open) > 0:
		o := open[len(open)-1]
		return say(o.at, "%s that begins here is never closed; write %c where it ends", o.what(), o.closer())
	case strings.HasPrefix(rest, "//"), strings.HasPrefix(rest, "/*"), strings.HasPrefix(rest, "#"):
		return say(at, "JSON has no comments; take it out, or write the description as YAML, which has")
	case strings.HasSuffix(before, ",") && rest != "" && (rest[0] == '}' || rest[0] == ']'):
		return say(len(before)-1, "a comma stands before the closing %c; take the comma out", rest[0])
	case rest != "" && (rest[0] == '}' || rest[0] == ']') && len(open) > 0 && open[len(open)-1].closer() != rest[0]:
		o := open[len(open)-1]
		line, _ := f.position(o.at)
		return say(at, "this %c closes nothing: %s that begins in line %d is still open; write %c where it ends", rest[0], o.what(), line,
			o.closer())
	case rest != "" && strings.HasSuffix(before, ":") && strings.IndexByte("}],", rest[0]) >= 0:
		return say(at, "a value is missing here; write it, or take the key out")
	case strings.HasPrefix(rest, "'"):
		return say(at, "JSON quotes text with \"; write it so, or write the description as YAML")
	case err == nil:
		return say(at, "something follows the end of the JSON text; take it out")
	case rest != "" && len(open) > 0 && startsValue(rest) && endsValue(before):
		return say(len(before), "a comma is missing here; write one between the two")
	case rest != "" && len(open) > 0 && open[len(open)-1].sign == '{' && bareWord.MatchString(rest) &&
		(strings.HasSuffix(before, "{") || strings.HasSuffix(before, ",")):
		return say(at, "a key of JSON stands in quotes; write \"%s\"", bareWord.FindString(rest))
	}
	return say(at, "this is not JSON: %v", err)
}

var bareWord = regexp.MustCompile(`^[A-Za-z_$][\w$-]*`)

func startsValue(rest string) bool {
	return strings.IndexByte(`"{[-0123456789`, rest[0]) >= 0 || strings.HasPrefix(rest, "true") || strings.HasPrefix(rest, "false") ||
		strings.HasPrefix(rest, "null")
}

func endsValue(before string) bool {
	return before != "" && strings.IndexByte(`"}]0123456789el`, before[len(before)-1]) >= 0
}

// jsonOpen is what is open at the end of the beginning of a JSON text; inText tells that a text is.
func jsonOpen(text string) (open []opened, inText bool) {
	for i := 0; i < len(text); i++ {
		switch c := text[i]; c {
		case '{', '[':
			open = append(open, opened{c, i})
		case '}', ']':
			if len(open) > 0 && open[len(open)-1].closer() == c {
				open = open[:len(open)-1]
			}
		case '"':
			start := i
			for i++; i < len(text) && text[i] != '"' && text[i] != '\n'; i++ {
				if text[i] == '\\' {
					i++
				}
			}
			if i >= len(text) || text[i] == '\n' {
				return append(open, opened{'"', start}), true
			}
		}
	}
	return open, false
}

var yamlLine = regexp.MustCompile(`line (\d+): `)

// yamlWords are what the parser of YAML says, and what a person can do about it.
var yamlWords = []struct{ said, wrong string }{
	{"mapping values are not allowed", "a second \": \" stands in this line; a text that holds one stands in quotes"},
	{
		"could not find expected ':'",
		"a key without its colon stands here, or a text goes on that is indented too little; write the colon, or indent the text",
	},
	{
		"did not find expected key",
		"this line is indented like none above it, or something stands before it that is not closed; bring it below the key to which it belongs",
	},
	{"did not find expected '-' indicator", "an item of a list is expected here; begin it with \"- \", or indent it like what it belongs to"},
	{"found character that cannot start any token", "a text cannot begin with this character; put it in quotes"},
	{
		"found unknown escape character",
		"a backslash in double quotes begins an escape that YAML does not have; write two backslashes, or use single quotes",
	},
	{"unknown anchor", "no anchor of that name stands before it; write one with &"},
	{"block sequence entries are not allowed", "a list cannot begin in the line of its key; begin it in the next"},
	{
		"did not find expected alphabetic or numeric character",
		"an alias or anchor has no name; a text that begins with * or & stands in quotes",
	},
}

// yamlFault says what is wrong with a text that YAML's parser refused.
func (f *File) yamlFault(err error) *Diagnostic {
	said := strings.TrimPrefix(err.Error(), "yaml: ")
	line := 1
	if m := yamlLine.FindStringSubmatch(said); m != nil {
		line, _ = strconv.Atoi(m[1]) // the expression admits digits only
		said = strings.Replace(said, m[0], "", 1)
	}
	line = max(line, 1)
	for _, l := range []int{line, line + 1, line - 1} {
		if column := f.tabIn(l); column > 0 {
			return f.wrong(Syntax, l, column, "a tab indents this line; YAML indents with spaces")
		}
	}
	if o, ok := f.yamlOpen(); ok {
		opensIn, column := f.position(o.at)
		return f.wrong(Syntax, opensIn, column, "%s that begins here with %c is not closed; write %c where it ends", o.what(), o.sign, o.closer())
	}
	for _, w := range yamlWords {
		if strings.Contains(said, w.said) {
			text := f.line(line)
			return f.wrong(Syntax, line, utf8.RuneCountInString(text)-utf8.RuneCountInString(strings.TrimLeft(text, " "))+1,
				strings.ReplaceAll(w.wrong, "%", "%%"))
		}
	}
	return f.wrong(Syntax, line, 1, "this is not YAML: %s", said)
}

// tabIn is the column of a tab that indents a line, 0 where none does.
func (f *File) tabIn(line int) int {
	text := f.line(line)
	indent := text[:len(text)-len(strings.TrimLeft(text, " \t"))]
	if strings.TrimSpace(text) == "" {
		return 0
	}
	return strings.IndexByte(indent, '\t') + 1
}

var nextKey = regexp.MustCompile(`^[ ]*(- )?[\w$./{}-]+:([ ]|$)`)

// yamlOpen finds the first bracket or quote that is not closed before a line begins a key that does not belong to it.
func (f *File) yamlOpen() (opened, bool) {
	text := f.Text
	var open []opened
	depth := func(at int) int { // how far the line of an offset is indented
		from := bytes.LastIndexByte(text[:at], '\n') + 1
		return len(text[from:at]) - len(bytes.TrimLeft(text[from:at], " "))
	}
	block := -1 // the indentation of what holds a block of text
	for from := 0; from < len(text); {
		to := len(text)
		if i := bytes.IndexByte(text[from:], '\n'); i >= 0 {
			to = from + i
		}
		line := text[from:to]
		indent := len(line) - len(bytes.TrimLeft(line, " "))
		blank := len(bytes.TrimSpace(line)) == 0
		switch {
		case blank:
		case block >= 0 && indent > block:
		default:
			block = -1
			if len(open) > 0 && indent <= depth(open[0].at) && nextKey.Match(line) {
				return open[len(open)-1], true
			}
			open = scanLine(text, from+indent, to, open)
			if trimmed := strings.TrimRight(string(line), " \r"); len(open) == 0 && blockMark.MatchString(trimmed) {
				block = indent
			}
		}
		from = to + 1
	}
	if len(open) > 0 {
		return open[len(open)-1], true
	}
	return opened{}, false
}

var blockMark = regexp.MustCompile(`(^|[:-] +|\? +)[|>][-+0-9]*( +#.*)?$`)

// scanLine follows the brackets and quotes of one line.
func scanLine(text []byte, from, to int, open []opened) []opened {
	quoted := func() bool { return len(open) > 0 && (open[len(open)-1].sign == '"' || open[len(open)-1].sign == '\'') }
	flow := func() bool { return len(open) > 0 }
	begins := true // whether a value may begin here
	for i := from; i < to; i++ {
		c := text[i]
		if quoted() {
			switch {
			case c == '\\' && open[len(open)-1].sign == '"':
				i++
			case c == open[len(open)-1].sign && c == '\'' && i+1 < to && text[i+1] == '\'':
				i++
			case c == open[len(open)-1].sign:
				open, begins = open[:len(open)-1], false
			}
			continue
		}
		switch {
		case c == '#' && (i == from || text[i-1] == ' '):
			return open
		case (c == '[' || c == '{') && begins, (c == '"' || c == '\'') && begins:
			open = append(open, opened{c, i})
			begins = true
			continue
		case (c == ']' || c == '}') && flow() && open[len(open)-1].closer() == c:
			open, begins = open[:len(open)-1], false
			continue
		}
		switch {
		case c == ' ':
		case (c == ':' || c == '-' || c == '?') && (i+1 == to || text[i+1] == ' '), c == ',' && flow(), c == ':' && flow():
			begins = true
		default:
			begins = false
		}
	}
	return open
}

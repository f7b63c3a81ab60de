package sample

import (
	"iter"
	"strings"
	"unicode/utf8"
)

// TokenKind tells what a token of a program is.
type TokenKind uint8

// The kinds of tokens. Text is all that needs no mark: names, operators, space, and the names of members.
const (
	Text TokenKind = iota
	Keyword
	String
	Number
	Comment
)

// syntax is what has to be known of a language to tell its tokens apart.
type syntax struct {
	keywords map[string]bool
	comment  string   // what begins one up to the end of the line
	raw      []string // what begins and ends a string without escapes; the longer first
	members  bool     // whether a string before a colon is the name of a member
}

var syntaxes = map[string]syntax{
	"sh":         {keywords("curl"), "#", []string{"'"}, false},
	"javascript": {keywords("import from const await new null true false undefined"), "//", nil, true},
	"python":     {keywords("import as from with open print None True False"), "#", []string{`"""`}, true},
	"go":         {keywords("package import func var if else defer nil true false"), "//", []string{"`"}, false},
	"java":       {keywords("var new null true false int import"), "//", []string{`"""`}, false},
	"csharp":     {keywords("using var new await null true false int string"), "//", []string{`"""`}, false},
	"json":       {keywords("null true false"), "", nil, true},
}

func keywords(text string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(text) {
		all[w] = true
	}
	return all
}

// Tokens takes a program apart, in one pass over it: their texts, one after the other, are the program. syntax is what Fence gives for a
// language, or "json"; a program in a language that is not known is one Text.
func Tokens(syntax, program string) iter.Seq2[TokenKind, string] {
	s, known := syntaxes[syntax]
	return func(yield func(TokenKind, string) bool) {
		if !known {
			yield(Text, program)
			return
		}
		plain := 0 // where the text begins that no mark was given to yet
		for at := 0; at < len(program); {
			kind, n := s.next(program[at:])
			if kind == Text {
				at += n
				continue
			}
			if plain < at && !yield(Text, program[plain:at]) || !yield(kind, program[at:at+n]) {
				return
			}
			at += n
			plain = at
		}
		if plain < len(program) {
			yield(Text, program[plain:])
		}
	}
}

// next is the kind and the length of the token that a text begins with; the length is at least 1.
func (s syntax) next(text string) (TokenKind, int) {
	for _, mark := range s.raw {
		if strings.HasPrefix(text, mark) {
			return String, through(text, len(mark), mark)
		}
	}
	if s.comment != "" && strings.HasPrefix(text, s.comment) {
		return Comment, lineLength(text)
	}
	switch c := text[0]; {
	case c == '\\' && len(text) > 1:
		_, n := utf8.DecodeRuneInString(text[1:])
		return Text, 1 + n
	case c == '"' || c == '\'' || c == '`':
		n := quotedLength(text, c)
		if s.members && strings.HasPrefix(text[n:], ":") {
			return Text, n
		}
		return String, n
	case isDigit(c):
		return Number, runLength(text, func(c byte) bool { return isDigit(c) || c == '.' || c == 'e' || c == 'E' })
	case c == '-' && len(text) > 1 && isDigit(text[1]) && s.comment == "": // JSON alone knows no subtraction
		return Number, 1 + runLength(text[1:], func(c byte) bool { return isDigit(c) || strings.IndexByte(".eE-+", c) >= 0 })
	case isLetter(c):
		n := runLength(text, func(c byte) bool { return isLetter(c) || isDigit(c) })
		if s.keywords[text[:n]] {
			return Keyword, n
		}
		return Text, n
	}
	_, n := utf8.DecodeRuneInString(text)
	return Text, n
}

// through is the length up to and with the next mark, or of all where there is none.
func through(text string, from int, mark string) int {
	if i := strings.Index(text[from:], mark); i >= 0 {
		return from + i + len(mark)
	}
	return len(text)
}

// quotedLength is the length of a string with escapes that c begins and ends.
func quotedLength(text string, c byte) int {
	for i := 1; i < len(text); i++ {
		switch text[i] {
		case '\\':
			i++
		case c:
			return i + 1
		}
	}
	return len(text)
}

func lineLength(text string) int {
	if i := strings.IndexByte(text, '\n'); i >= 0 {
		return i
	}
	return len(text)
}

func runLength(text string, in func(c byte) bool) int {
	n := 0
	for n < len(text) && in(text[n]) {
		n++
	}
	return n
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

func isLetter(c byte) bool {
	return c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_' || c == '$' || c >= utf8.RuneSelf
}

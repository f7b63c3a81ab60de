package housestyle

import (
	"fmt"
	"strings"
	"unicode"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
)

// maxSaid bounds what a rule says of one element, in characters.
const maxSaid = 300

// phrase is a text with values in it: "{field.name} is written otherwise". {{ and }} stand for braces.
type phrase struct {
	text  string
	parts []phrasePart
}

// phrasePart is a text, or the value of a condition.
type phrasePart struct {
	text string
	of   *condition
	fact *fact // where only one is asked for
}

// phraseOf reads a text with values in it. The fault's column is that in the text.
func phraseOf(text string, k *kind, trusted bool) (*phrase, *conditionFault) {
	p := &phrase{text: text}
	rest := text
	plain := func(t string) {
		if t != "" {
			p.parts = append(p.parts, phrasePart{text: strings.ReplaceAll(t, "}}", "}")})
		}
	}
	for {
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			plain(rest)
			return p, nil
		}
		at := len(text) - len(rest) + open
		if strings.HasPrefix(rest[open:], "{{") {
			plain(rest[:open+1])
			rest = rest[open+2:]
			continue
		}
		end := closing(rest[open:])
		if end < 0 {
			return nil, &conditionFault{1, at, "a brace is not closed", "close it, or write {{ for a brace"}
		}
		plain(rest[:open])
		c, fault := compile(rest[open+1:open+end], k, nil, trusted)
		if fault != nil {
			fault.column += at + 1
			return nil, fault
		}
		p.parts = append(p.parts, phrasePart{of: c, fact: c.fact()})
		rest = rest[open+end+1:]
	}
}

// closing is where the brace closes with which a text begins, texts and braces in it left aside; -1 where it does not.
func closing(text string) int {
	depth := 0
	var quote byte
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case quote != 0:
			if c == '\\' {
				i++
			} else if c == quote {
				quote = 0
			}
		case c == '\'' || c == '"':
			quote = c
		case c == '{':
			depth++
		case c == '}':
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

// of is what a phrase says of an element, in one line.
func (p *phrase) of(in *scope) (string, error) {
	var b strings.Builder
	for _, part := range p.parts {
		if part.of == nil {
			b.WriteString(part.text)
			continue
		}
		if part.fact != nil {
			if v := part.fact.get(in.e); v != nil {
				b.WriteString(inWords(v))
			}
			continue
		}
		v, err := part.of.ask(in)
		if err != nil {
			return "", err
		}
		b.WriteString(inWords(v))
	}
	return clipped(inOneLine(b.String())), nil
}

// inWords is a value as a message has it.
func inWords(v ref.Val) string {
	switch v := v.(type) {
	case types.String:
		return string(v)
	case *element:
		return v.called()
	}
	if t := v.ConvertToType(types.StringType); !types.IsError(t) {
		return fmt.Sprint(t.Value())
	}
	return listInWords(v)
}

func listInWords(v ref.Val) string {
	list := joined([]ref.Val{v, types.String(", ")})
	if s, ok := list.(types.String); ok {
		return string(s)
	}
	return v.Type().TypeName()
}

// inOneLine is a text with one space between its words.
func inOneLine(text string) string {
	if strings.IndexFunc(text, func(r rune) bool { return r != ' ' && unicode.IsSpace(r) }) < 0 && !strings.Contains(text, "  ") {
		return strings.Trim(text, " ")
	}
	return strings.Join(strings.Fields(text), " ")
}

func clipped(text string) string {
	if len(text) <= maxSaid {
		return text
	}
	if r := []rune(text); len(r) > maxSaid {
		return string(r[:maxSaid-1]) + "…"
	}
	return text
}

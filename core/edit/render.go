package edit

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/go-json-experiment/json/jsontext"

	"oldledger/core/value"
)

func unquoteJSON(raw string) (string, error) {
	text, err := jsontext.AppendUnquote(nil, raw)
	return string(text), err
}

func quoteJSON(text string) string {
	quoted, err := jsontext.AppendQuote(nil, text)
	if err != nil {
		return `""` // a value holds UTF-8 alone
	}
	return string(quoted)
}

// Words that need no quotes in YAML, whatever its version reads them as, between braces and outside of them.
var (
	plainWords = regexp.MustCompile(`^[\p{L}_/$][\p{L}\p{N} _./$()+*=@%^~|<>;'"?!&-]*$`)
	othersRead = regexp.MustCompile(`(?i)^(true|false|yes|no|on|off|y|n|null|~|nan|[-+]?\.?inf)$`)
)

// plainly reports whether a text reads as itself without quotes, as a value or a key, wherever it stands.
func plainly(text string) bool {
	return plainWords.MatchString(text) && !othersRead.MatchString(text) && !strings.HasSuffix(text, " ") && !strings.Contains(text, " #") &&
		!strings.HasSuffix(text, "?") // a key so would be one of RAML that the reader takes apart
}

// scalar is a value that is no container, as it stands in one line; like is how the value before it began.
func (l *layout) scalar(v *value.Value, like byte) string {
	switch v.Kind {
	case value.Null:
		return "null"
	case value.Boolean:
		if v.Bool {
			return "true"
		}
		return "false"
	case value.Number:
		return number(v)
	}
	text := v.Text
	switch {
	case l.root == nil || like == '"' || strings.ContainsFunc(text, func(r rune) bool { return !unicode.IsPrint(r) }):
		return quoteYAML(text)
	case like != '\'' && plainly(text):
		return text
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}

// quoteYAML is a text in double quotes that JSON and YAML read alike: what cannot be seen is escaped.
func quoteYAML(text string) string {
	quoted := quoteJSON(text)
	if !strings.ContainsFunc(quoted, func(r rune) bool { return !unicode.IsPrint(r) }) {
		return quoted
	}
	var b strings.Builder
	for _, r := range quoted {
		if unicode.IsPrint(r) {
			b.WriteRune(r)
			continue
		}
		escaped, err := json.Marshal(string(r))
		if text := string(escaped); err == nil && text[1] == '\\' {
			b.WriteString(text[1 : len(text)-1])
			continue
		}
		for _, unit := range utf16.Encode([]rune{r}) {
			fmt.Fprintf(&b, `\u%04x`, unit)
		}
	}
	return b.String()
}

// number is a number as its author spelt it, or as JSON does.
func number(v *value.Value) string {
	if json.Valid([]byte(v.Text)) { // what YAML alone reads is spelt anew
		return v.Text
	}
	return value.NumberText(v.Num)
}

// key is a key, quoted as the one before it was.
func (l *layout) key(text string, like byte) string { return l.scalar(value.Str(text), like) }

// inline is a value in one line; between braces where it is a container.
func (l *layout) inline(v *value.Value, like byte) string {
	var parts []string
	switch v.Kind {
	case value.Array:
		for _, item := range v.Items {
			parts = append(parts, l.inline(item, 0))
		}
		return "[" + strings.Join(parts, ", ") + "]"
	case value.Object:
		for _, m := range v.Members {
			parts = append(parts, l.key(m.Name, 0)+": "+l.inline(m.Value, 0))
		}
		return "{" + strings.Join(parts, ", ") + "}"
	}
	return l.scalar(v, like)
}

// spread is a value of JSON over lines, as its author breaks them; in one line where they break none.
func (l *layout) spread(v *value.Value, indent string) string {
	if l.root != nil || l.step == 0 {
		return l.inline(v, 0)
	}
	below := indent + strings.Repeat(" ", l.step)
	var parts []string
	switch {
	case v.Kind == value.Array && len(v.Items) > 0:
		for _, item := range v.Items {
			parts = append(parts, below+l.spread(item, below))
		}
		return "[" + l.eol + strings.Join(parts, ","+l.eol) + l.eol + indent + "]"
	case v.Kind == value.Object && len(v.Members) > 0:
		for _, m := range v.Members {
			parts = append(parts, below+quoteJSON(m.Name)+": "+l.spread(m.Value, below))
		}
		return "{" + l.eol + strings.Join(parts, ","+l.eol) + l.eol + indent + "}"
	}
	return l.inline(v, 0)
}

// tall reports whether a value of YAML is written as a block.
func (l *layout) tall(v *value.Value) bool {
	switch v.Kind {
	case value.Array:
		return len(v.Items) > 0
	case value.Object:
		return len(v.Members) > 0
	}
	return !l.short && v.Kind == value.String && literally(v.Text)
}

// literally reports whether a text is written line by line.
func literally(text string) bool {
	body := strings.TrimSuffix(text, "\n")
	return strings.Contains(body, "\n") && !strings.HasSuffix(body, "\n") && !strings.HasPrefix(body, " ") && !strings.HasPrefix(body, "\n") &&
		!strings.ContainsFunc(body, func(r rune) bool { return r != '\n' && !unicode.IsPrint(r) }) && utf8.ValidString(body)
}

// block is a tall value: what stands behind its colon or dash, and the lines below, each with its indent.
func (l *layout) block(v *value.Value, indent int) (head string, lines []string) {
	pad := strings.Repeat(" ", indent)
	switch v.Kind {
	case value.String:
		head = " |"
		if !strings.HasSuffix(v.Text, "\n") {
			head = " |-"
		}
		for line := range strings.SplitSeq(strings.TrimSuffix(v.Text, "\n"), "\n") {
			if line != "" {
				line = pad + line
			}
			lines = append(lines, line)
		}
	case value.Array:
		for _, item := range v.Items {
			lines = append(lines, l.dashed(item, indent)...)
		}
	case value.Object:
		for _, m := range v.Members {
			lines = append(lines, l.keyed(l.key(m.Name, 0), m.Value, indent)...)
		}
	}
	return head, lines
}

// keyed are the lines of a member of a block.
func (l *layout) keyed(key string, v *value.Value, indent int) []string {
	pad := strings.Repeat(" ", indent)
	if !l.tall(v) {
		return []string{pad + key + ": " + l.inline(v, 0)}
	}
	below := indent + l.step
	if v.Kind == value.Array && l.flush {
		below = indent
	}
	head, lines := l.block(v, below)
	return append([]string{pad + key + ":" + head}, lines...)
}

// dashed are the lines of an item of a block.
func (l *layout) dashed(v *value.Value, indent int) []string {
	pad := strings.Repeat(" ", indent)
	if !l.tall(v) {
		return []string{pad + "- " + l.inline(v, 0)}
	}
	head, lines := l.block(v, indent+2)
	if head != "" {
		return append([]string{pad + "-" + head}, lines...)
	}
	lines[0] = pad + "- " + lines[0][indent+2:]
	return lines
}

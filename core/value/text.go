package value

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Limits of a number's spelling: beyond them exact arithmetic would let a short text cost much memory.
const (
	maxDigits   = 1000
	maxExponent = 1000
)

// ParseNumber reads a JSON number exactly. It fails on a spelling that JSON does not know, on more than
// 1,000 digits, and on exponents beyond ±1,000.
func ParseNumber(text string) (*big.Rat, error) {
	if !json.Valid([]byte(text)) || text == "" || !strings.ContainsAny(text[:1], "-0123456789") {
		return nil, fmt.Errorf("%q is not a number", clip(text))
	}
	if len(text) > maxDigits {
		return nil, fmt.Errorf("a number of %d characters is too long (at most %d)", len(text), maxDigits)
	}
	if i := strings.IndexAny(text, "eE"); i >= 0 {
		exp := strings.TrimLeft(text[i+1:], "+-0")
		if len(exp) > 4 || (len(exp) == 4 && exp > fmt.Sprint(maxExponent)) {
			return nil, fmt.Errorf("the exponent of %q is beyond ±%d", clip(text), maxExponent)
		}
	}
	r, ok := new(big.Rat).SetString(text)
	if !ok {
		return nil, fmt.Errorf("%q is not a number", clip(text))
	}
	return r, nil
}

func clip(s string) string {
	if len(s) > 40 {
		return s[:40] + "…"
	}
	return s
}

// NumberText spells r in decimal, exactly where decimal can, with up to 20 places otherwise.
func NumberText(r *big.Rat) string {
	if r.IsInt() {
		return r.Num().String()
	}
	places, exact := r.FloatPrec()
	if !exact {
		places = 20
	}
	return r.FloatString(places)
}

// MarshalJSON writes the value as compact JSON, members in their order.
func (v *Value) MarshalJSON() ([]byte, error) {
	var b strings.Builder
	v.write(&b)
	return []byte(b.String()), nil
}

// String is the value as compact JSON.
func (v *Value) String() string {
	var b strings.Builder
	v.write(&b)
	return b.String()
}

func (v *Value) write(b *strings.Builder) { v.put(b, ",", ":") }

// space writes a value on one line with a space behind each comma and colon.
func (v *Value) space(b *strings.Builder) { v.put(b, ", ", ": ") }

// put writes a value on one line.
func (v *Value) put(b *strings.Builder, comma, colon string) {
	switch v.Kind {
	case Null:
		b.WriteString("null")
	case Boolean:
		b.WriteString(strconv.FormatBool(v.Bool))
	case Number:
		b.WriteString(v.number())
	case String:
		writeString(b, v.Text)
	case Array:
		b.WriteByte('[')
		for i, it := range v.Items {
			if i > 0 {
				b.WriteString(comma)
			}
			it.put(b, comma, colon)
		}
		b.WriteByte(']')
	case Object:
		b.WriteByte('{')
		for i, m := range v.Members {
			if i > 0 {
				b.WriteString(comma)
			}
			writeString(b, m.Name)
			b.WriteString(colon)
			m.Value.put(b, comma, colon)
		}
		b.WriteByte('}')
	}
}

func (v *Value) number() string {
	if v.Text != "" {
		return v.Text
	}
	return NumberText(v.Num)
}

// Indented is the value as JSON over several lines, two spaces a level. Short arrays and objects of scalars stay on one line.
func (v *Value) Indented() string {
	var b strings.Builder
	v.indent(&b, "")
	return b.String()
}

const shortLine = 60

func (v *Value) indent(b *strings.Builder, margin string) {
	if len(v.Items)+len(v.Members) == 0 {
		v.space(b)
		return
	}
	if !v.nested() && utf8.RuneCountInString(v.String()) <= shortLine {
		v.space(b)
		return
	}
	inner := margin + "  "
	if v.Kind == Array {
		b.WriteString("[\n")
		for i, it := range v.Items {
			b.WriteString(inner)
			it.indent(b, inner)
			b.WriteString(comma(i, len(v.Items)))
		}
		b.WriteString(margin + "]")
		return
	}
	b.WriteString("{\n")
	for i, m := range v.Members {
		b.WriteString(inner)
		writeString(b, m.Name)
		b.WriteString(": ")
		m.Value.indent(b, inner)
		b.WriteString(comma(i, len(v.Members)))
	}
	b.WriteString(margin + "}")
}

func comma(i, n int) string {
	if i < n-1 {
		return ",\n"
	}
	return "\n"
}

// nested reports whether some member or item has members or items of its own.
func (v *Value) nested() bool {
	for _, it := range v.Items {
		if len(it.Items)+len(it.Members) > 0 {
			return true
		}
	}
	for _, m := range v.Members {
		if len(m.Value.Items)+len(m.Value.Members) > 0 {
			return true
		}
	}
	return v.Kind == Object && len(v.Members) > 2
}

// Spaced is the value as JSON on one line, with a space behind each comma and colon.
func (v *Value) Spaced() string {
	var b strings.Builder
	v.space(&b)
	return b.String()
}

// writeString writes s as a JSON string, with letters of every script as they are.
func writeString(b *strings.Builder, s string) {
	if plain(s) {
		b.WriteByte('"')
		b.WriteString(s)
		b.WriteByte('"')
		return
	}
	var enc strings.Builder
	e := json.NewEncoder(&enc)
	e.SetEscapeHTML(false)
	if err := e.Encode(s); err != nil {
		panic(err) // encoding a string to memory cannot fail
	}
	b.WriteString(strings.TrimSuffix(enc.String(), "\n"))
}

// plain reports whether a text stands between quotes as it is.
func plain(s string) bool {
	for i := range len(s) {
		if c := s[i]; c < ' ' || c >= 0x7f || c == '"' || c == '\\' {
			return false
		}
	}
	return true
}

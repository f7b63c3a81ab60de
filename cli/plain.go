package cli

import (
	"io"
	"regexp"
	"unicode/utf8"
)

// plain keeps what a description says from steering the terminal that shows it: of control characters it lets through ends of lines, tabs
// and the colours of this program, and shows all others as what they are; also those that turn the direction of writing (Unicode, annex 9).
type plain struct {
	to   io.Writer
	rest []byte // the beginning of a character whose end was not written yet
}

// ours are the colours and weights that the program itself writes (ECMA-48, SGR).
var ours = regexp.MustCompile(`^\x1b\[(?:0|1|(?:1;)?38;5;[0-9]{1,3})?m`)

func (p *plain) Write(text []byte) (int, error) {
	all := append(p.rest, text...)
	out := make([]byte, 0, len(all)+16)
	p.rest = nil
	for len(all) > 0 {
		if all[0] == 0x1b {
			if colour := ours.Find(all); colour != nil {
				out = append(out, colour...)
				all = all[len(colour):]
				continue
			}
		}
		r, size := utf8.DecodeRune(all)
		if r == utf8.RuneError && size == 1 && !utf8.FullRune(all) {
			p.rest = append([]byte{}, all...)
			break
		}
		out = append(out, shown(r, all[:size])...)
		all = all[size:]
	}
	if _, err := p.to.Write(out); err != nil {
		return 0, err
	}
	return len(text), nil
}

// shown is a character as a terminal may have it.
func shown(r rune, raw []byte) string {
	switch {
	case r == '\n' || r == '\t':
		return string(r)
	case r < 0x20:
		return string('\u2400' + r) // its picture
	case r == 0x7f:
		return "\u2421"
	case r == utf8.RuneError && len(raw) == 1, 0x80 <= r && r < 0xa0, 0x200e <= r && r <= 0x200f, 0x202a <= r && r <= 0x202e, 0x2066 <= r &&
		r <= 0x2069:
		return "\ufffd"
	}
	return string(raw)
}

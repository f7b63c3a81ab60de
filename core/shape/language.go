package shape

import (
	"errors"
	"fmt"
	"regexp"
	"regexp/syntax"
	"slices"
	"strings"
	"unicode"
)

// language is a set of strings given by a pattern: ECMA-262 syntax as far as it is regular, matched anywhere in the
// string unless anchored (JSON Schema 2020-12, Validation section 6.3.3).
type language struct {
	source string
	prog   *syntax.Prog   // nil where the pattern is not regular or not understood
	re     *regexp.Regexp // the same language for testing one string
	why    string         // why prog is nil

	seen  []int32 // by place of the program: the round in which it was met last
	round int32
}

// begin starts a round of meeting the places of the program.
func (l *language) begin() {
	if l.seen == nil {
		l.seen = make([]int32, len(l.prog.Inst))
	}
	l.round++
}

// meet reports whether a place is met for the first time in this round.
func (l *language) meet(pc uint32) bool {
	if l.seen[pc] == l.round {
		return false
	}
	l.seen[pc] = l.round
	return true
}

// maxProgram bounds the programs that are stepped through; larger patterns are left undecided.
const maxProgram = 4000

// language compiles a pattern once a space.
func (s *Space) language(pattern string) *language {
	if l, done := s.texts[pattern]; done {
		return l
	}
	l := compileLanguage(pattern)
	s.texts[pattern] = l
	return l
}

func compileLanguage(pattern string) *language {
	l := &language{source: pattern}
	translated, err := translate(pattern)
	if err == nil {
		l.re, err = regexp.Compile(translated)
	}
	if err != nil {
		l.re = nil
		l.why = fmt.Sprintf("the pattern %s is not decided here: %v", pattern, err)
		return l
	}
	tree, err := syntax.Parse(translated, syntax.Perl)
	if err == nil {
		l.prog, err = syntax.Compile(tree.Simplify())
	}
	if err == nil && len(l.prog.Inst) > maxProgram {
		err = fmt.Errorf("it is too large")
	}
	if err != nil {
		l.re, l.prog = nil, nil
		l.why = fmt.Sprintf("the pattern %s is not decided here: %v", pattern, err)
	}
	return l
}

// contains reports whether text is in the language.
func (l *language) contains(text string) tri {
	if l.re == nil {
		return maybe
	}
	return triOf(l.re.MatchString(text))
}

const ecmaSpace = `\t\n\v\f\r \x{a0}\x{1680}\x{2000}-\x{200a}\x{2028}\x{2029}\x{202f}\x{205f}\x{3000}\x{feff}`

// translate writes an ECMA-262 pattern in the syntax of package regexp, or says what is not regular in it.
func translate(p string) (string, error) {
	var b strings.Builder
	inClass := false
	for i := 0; i < len(p); i++ {
		c := p[i]
		switch {
		case c == '\\':
			if i+1 == len(p) {
				return "", fmt.Errorf("it ends in a backslash")
			}
			n, err := translateEscape(&b, p[i+1:], inClass)
			if err != nil {
				return "", err
			}
			i += n
		case inClass:
			if c == ']' {
				inClass = false
			}
			if c == '[' {
				b.WriteByte('\\')
			}
			b.WriteByte(c)
		case c == '[':
			inClass = true
			b.WriteByte(c)
			if i+1 < len(p) && p[i+1] == '^' {
				b.WriteByte('^')
				i++
			}
			if i+1 < len(p) && p[i+1] == ']' {
				return "", fmt.Errorf("it holds an empty class")
			}
		case c == '.':
			b.WriteString(`[^\n\r\x{2028}\x{2029}]`)
		case c == '(' && strings.HasPrefix(p[i:], "(?"):
			if err := regularGroup(p[i:]); err != nil {
				return "", err
			}
			b.WriteByte(c)
		default:
			b.WriteByte(c)
		}
	}
	return b.String(), nil
}

func regularGroup(p string) error {
	switch {
	case strings.HasPrefix(p, "(?:"):
		return nil
	case strings.HasPrefix(p, "(?<") && !strings.HasPrefix(p, "(?<=") && !strings.HasPrefix(p, "(?<!"):
		return nil
	}
	return fmt.Errorf("it looks around itself")
}

// translateEscape writes the escape whose text behind the backslash is p, and returns its length.
func translateEscape(b *strings.Builder, p string, inClass bool) (int, error) {
	switch c := p[0]; {
	case c == 's' && inClass:
		b.WriteString(ecmaSpace)
	case c == 's':
		b.WriteString("[" + ecmaSpace + "]")
	case c == 'S' && !inClass:
		b.WriteString("[^" + ecmaSpace + "]")
	case c == 'S':
		return 0, fmt.Errorf(`it uses \S inside a class`)
	case c == 'u':
		hex, n := p[1:], 1
		if strings.HasPrefix(hex, "{") && strings.IndexByte(hex, '}') > 0 {
			end := strings.IndexByte(hex, '}')
			hex, n = hex[1:end], end+2
		} else if len(hex) >= 4 {
			hex, n = hex[:4], 5
		}
		if !regexp.MustCompile(`^[0-9A-Fa-f]{1,6}$`).MatchString(hex) {
			return 0, fmt.Errorf(`\u is not followed by a code point`)
		}
		fmt.Fprintf(b, `\x{%s}`, hex)
		return n, nil
	case c == 'c' && len(p) > 1:
		fmt.Fprintf(b, `\x{%x}`, p[1]%32)
		return 2, nil
	case c >= '1' && c <= '9', c == 'k':
		return 0, fmt.Errorf("it refers back to a group")
	case c == '0':
		b.WriteString(`\x{0}`)
	case strings.IndexByte("bB", c) >= 0:
		return 0, fmt.Errorf("it asks for a word boundary")
	case strings.IndexByte("AzQEC", c) >= 0, c == 'a':
		return 0, fmt.Errorf(`\%c is no escape`, c)
	case strings.IndexByte("dDwWpPtnvfrx", c) >= 0:
		b.WriteString(`\` + string(c))
	case c < 0x80 && (unicode.IsLetter(rune(c)) || unicode.IsDigit(rune(c))):
		return 0, fmt.Errorf(`\%c is no escape`, c)
	case c < 0x80:
		b.WriteString(`\` + string(c))
	default:
		b.WriteString(p[:1])
	}
	return 1, nil
}

// threads is a set of places in a program, and whether it has matched for good.
type threads struct {
	pcs  []uint32
	done bool
}

func (t threads) key(b *strings.Builder) {
	if t.done {
		b.WriteString("!;")
		return
	}
	for _, pc := range t.pcs {
		b.WriteByte(byte(pc))
		b.WriteByte(byte(pc >> 8))
		b.WriteByte(byte(pc >> 16))
	}
	b.WriteString(";")
}

// start is the state before the first character.
func (l *language) start() threads { return l.closure([]uint32{uint32(l.prog.Start)}, true) }

// closure follows everything that reads no character. Places that wait for the end of the text stay in the set.
func (l *language) closure(from []uint32, atStart bool) threads {
	l.begin()
	var out threads
	stack := slices.Clone(from)
	for len(stack) > 0 {
		pc := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if !l.meet(pc) {
			continue
		}
		switch in := &l.prog.Inst[pc]; in.Op {
		case syntax.InstAlt, syntax.InstAltMatch:
			stack = append(stack, in.Out, in.Arg)
		case syntax.InstCapture, syntax.InstNop:
			stack = append(stack, in.Out)
		case syntax.InstEmptyWidth:
			switch syntax.EmptyOp(in.Arg) {
			case syntax.EmptyBeginText:
				if atStart {
					stack = append(stack, in.Out)
				}
			case syntax.EmptyEndText:
				out.pcs = append(out.pcs, pc)
			}
		case syntax.InstMatch:
			return threads{done: true}
		case syntax.InstFail:
		default:
			out.pcs = append(out.pcs, pc)
		}
	}
	slices.Sort(out.pcs)
	return out
}

// step is the state after one more character. A match may begin anywhere, so the start is always among the places.
func (l *language) step(t threads, r rune) threads {
	if t.done {
		return t
	}
	next := []uint32{uint32(l.prog.Start)}
	for _, pc := range t.pcs {
		if in := &l.prog.Inst[pc]; in.Op != syntax.InstEmptyWidth && in.MatchRune(r) {
			next = append(next, in.Out)
		}
	}
	return l.closure(next, false)
}

// accepts reports whether the text may end here. empty is true before the first character.
func (l *language) accepts(t threads, empty bool) bool {
	if t.done {
		return true
	}
	l.begin()
	stack := slices.Clone(t.pcs)
	for len(stack) > 0 {
		pc := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if !l.meet(pc) {
			continue
		}
		switch in := &l.prog.Inst[pc]; in.Op {
		case syntax.InstAlt, syntax.InstAltMatch:
			stack = append(stack, in.Out, in.Arg)
		case syntax.InstCapture, syntax.InstNop:
			stack = append(stack, in.Out)
		case syntax.InstEmptyWidth:
			if op := syntax.EmptyOp(in.Arg); op == syntax.EmptyEndText || op == syntax.EmptyBeginText && empty {
				stack = append(stack, in.Out)
			}
		case syntax.InstMatch:
			return true
		}
	}
	return false
}

// breaks adds the code points at which the program begins to tell characters apart.
func (l *language) breaks(set map[rune]bool) {
	for i := range l.prog.Inst {
		in := &l.prog.Inst[i]
		switch in.Op {
		case syntax.InstRune1, syntax.InstRune:
			if len(in.Rune) == 1 {
				set[in.Rune[0]], set[in.Rune[0]+1] = true, true
				for f := unicode.SimpleFold(in.Rune[0]); f != in.Rune[0]; f = unicode.SimpleFold(f) {
					set[f], set[f+1] = true, true
				}
			}
			for j := 0; j+1 < len(in.Rune); j += 2 {
				set[in.Rune[j]], set[in.Rune[j+1]+1] = true, true
			}
		case syntax.InstRuneAnyNotNL:
			set['\n'], set['\n'+1] = true, true
		}
	}
}

// PatternFault says why a pattern is no regular expression of ECMA-262, "" where it may be one.
func PatternFault(pattern string) string {
	translated, err := translate(pattern)
	if err != nil {
		if strings.HasSuffix(pattern, `\`) {
			return err.Error()
		}
		return "" // not regular, or not known here
	}
	_, err = syntax.Parse(translated, syntax.Perl)
	var fault *syntax.Error
	if !errors.As(err, &fault) {
		return ""
	}
	switch fault.Code {
	case syntax.ErrMissingParen:
		return "a parenthesis is not closed"
	case syntax.ErrUnexpectedParen:
		return "a parenthesis closes that was not opened"
	case syntax.ErrMissingBracket:
		return "a bracket is not closed"
	case syntax.ErrMissingRepeatArgument:
		return "nothing stands before " + fault.Expr + " that it could repeat"
	case syntax.ErrInvalidCharRange:
		return "the range " + fault.Expr + " ends before it begins"
	}
	return ""
}

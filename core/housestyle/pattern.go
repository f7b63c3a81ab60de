package housestyle

import (
	"regexp/syntax"
	"strings"
)

// maxStates bounds the patterns that are looked into: the states of the automaton.
const maxStates = 160

// maxWork bounds the search in one pattern: pairs of steps.
const maxWork = 100_000

// growsFast reports whether an engine that tries one way after the other can need exponentially many on a text that a pattern nearly
// matches: whether its automaton has a state to which one text leads back in two ways, and something behind it that may fail. What
// cannot be read, or is too large, is not said to be so.
func growsFast(pattern string) bool {
	re, err := syntax.Parse(apart(pattern), syntax.Perl)
	if err != nil {
		return false
	}
	prog, err := syntax.Compile(re.Simplify())
	if err != nil {
		return false
	}
	a := automatonOf(prog)
	return a != nil && a.ambiguous()
}

// apart makes a group of every alternative and of what is repeated, so that the parser does not take them together: engines that try
// one after the other do not either.
func apart(pattern string) string {
	var b strings.Builder
	b.WriteString("(")
	class := false
	for i := 0; i < len(pattern); i++ {
		c := pattern[i]
		switch {
		case c == '\\' && i+1 < len(pattern):
			b.WriteString(pattern[i : i+2])
			i++
			continue
		case class:
			class = c != ']'
		case c == '[':
			class = true
			b.WriteByte(c)
			for _, first := range []byte{'^', ']'} { // a bracket that stands first is one of the class
				if i+1 < len(pattern) && pattern[i+1] == first {
					i++
					b.WriteByte(first)
				}
			}
			continue
		case c == '(':
			b.WriteString("((")
			if strings.HasPrefix(pattern[i:], "(?:") {
				i += 2
			}
			continue
		case c == ')':
			b.WriteString("))")
			continue
		case c == '|':
			b.WriteString(")|(")
			continue
		}
		b.WriteByte(c)
	}
	b.WriteString(")")
	return b.String()
}

// automaton is that of a pattern, without its empty steps: its states are the instructions that read a character.
type automaton struct {
	prog  *syntax.Prog
	reads []uint32       // the instructions
	next  [][]step       // of each state
	ends  []bool         // whether something that may fail follows a state: an end of the text or of a word
	index map[uint32]int // of an instruction among reads
	work  int            // how many pairs of steps were looked at
}

// step leads to a state, in more than one way or not.
type step struct {
	to    int
	twice bool
}

func automatonOf(prog *syntax.Prog) *automaton {
	a := &automaton{prog: prog, index: map[uint32]int{}}
	for i, in := range prog.Inst {
		switch in.Op {
		case syntax.InstRune, syntax.InstRune1, syntax.InstRuneAny, syntax.InstRuneAnyNotNL:
			a.index[uint32(i)] = len(a.reads)
			a.reads = append(a.reads, uint32(i))
		}
	}
	if len(a.reads) > maxStates {
		return nil
	}
	a.next = make([][]step, len(a.reads))
	a.ends = make([]bool, len(a.reads))
	for i, at := range a.reads {
		ways := map[int]int{}
		budget := 1000
		a.follow(prog.Inst[at].Out, map[branch]bool{}, ways, &a.ends[i], &budget)
		for to, n := range ways {
			a.next[i] = append(a.next[i], step{to, n > 1})
		}
	}
	return a
}

// branch is one way out of an instruction.
type branch struct {
	at    uint32
	other bool
}

// follow counts the ways of empty steps from an instruction to each state. A way takes each branch once: engines do not repeat what
// matched nothing.
func (a *automaton) follow(at uint32, on map[branch]bool, ways map[int]int, ends *bool, budget *int) {
	take := func(b branch, to uint32) {
		if *budget--; *budget < 0 || on[b] {
			return
		}
		on[b] = true
		a.follow(to, on, ways, ends, budget)
		delete(on, b)
	}
	switch in := a.prog.Inst[at]; in.Op {
	case syntax.InstAlt, syntax.InstAltMatch:
		take(branch{at, false}, in.Out)
		take(branch{at, true}, in.Arg)
	case syntax.InstEmptyWidth:
		*ends = true
		take(branch{at, false}, in.Out)
	case syntax.InstCapture, syntax.InstNop:
		take(branch{at, false}, in.Out)
	case syntax.InstRune, syntax.InstRune1, syntax.InstRuneAny, syntax.InstRuneAnyNotNL:
		ways[a.index[at]]++
	}
}

// ambiguous reports whether a state is reached again in two ways by one text. It looks for a way of the automaton beside itself that
// leaves a pair of one state for a pair of two, and comes back.
func (a *automaton) ambiguous() bool {
	reach := a.reachable()
	for q := range a.reads {
		if !reach[q][q] || !a.mayFail(q, reach) {
			continue
		}
		for p := range a.reads {
			if !reach[q][p] || !reach[p][q] {
				continue
			}
			for _, s := range a.next[p] {
				if s.twice && reach[s.to][q] || s.twice && s.to == q {
					return true
				}
			}
		}
		if a.split(q, reach) {
			return true
		}
	}
	return false
}

// mayFail reports whether something follows the loop of a state that a text may lack.
func (a *automaton) mayFail(q int, reach [][]bool) bool {
	for p := range a.reads {
		if p != q && !reach[q][p] {
			continue
		}
		if a.ends[p] || !reach[p][q] {
			return true
		}
	}
	return false
}

func (a *automaton) reachable() [][]bool {
	reach := make([][]bool, len(a.reads))
	for from := range a.reads {
		reach[from] = make([]bool, len(a.reads))
		todo := []int{from}
		for len(todo) > 0 {
			at := todo[len(todo)-1]
			todo = todo[:len(todo)-1]
			for _, s := range a.next[at] {
				if !reach[from][s.to] {
					reach[from][s.to] = true
					todo = append(todo, s.to)
				}
			}
		}
	}
	return reach
}

// split reports whether from the pair of a state with itself a pair of two is reached, and from it the pair again.
func (a *automaton) split(q int, reach [][]bool) bool {
	type pair struct{ p, r int }
	seen := map[pair]bool{}
	start := pair{q, q}
	todo := []pair{start}
	apart := map[pair]bool{} // reached through two states that differ
	for len(todo) > 0 {
		at := todo[len(todo)-1]
		todo = todo[:len(todo)-1]
		for _, s := range a.next[at.p] {
			for _, t := range a.next[at.r] {
				to := pair{s.to, t.to}
				differs := apart[at] || s.to != t.to
				if to == start && differs {
					return true
				}
				if !reach[s.to][q] || !reach[t.to][q] {
					continue // no way back
				}
				if a.work++; a.work > maxWork {
					return false
				}
				if s.to != t.to && !a.overlap(s.to, t.to) {
					continue
				}
				if !seen[to] || differs && !apart[to] {
					seen[to] = true
					apart[to] = apart[to] || differs
					todo = append(todo, to)
				}
			}
		}
	}
	return false
}

// overlap reports whether two states read a common character.
func (a *automaton) overlap(p, r int) bool {
	one, two := &a.prog.Inst[a.reads[p]], &a.prog.Inst[a.reads[r]]
	for _, try := range [][2]*syntax.Inst{{one, two}, {two, one}} {
		if try[0].Op == syntax.InstRuneAny || try[0].Op == syntax.InstRuneAnyNotNL {
			return true
		}
		for i, c := range try[0].Rune {
			if i%2 == 0 && try[1].MatchRune(c) { // where a range begins, another one that shares something with it has it, or begins in it
				return true
			}
		}
	}
	return false
}

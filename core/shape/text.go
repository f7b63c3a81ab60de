package shape

import (
	"math/big"
	"slices"
	"strings"
	"unicode"

	"oldledger/core/budget"
	"oldledger/core/value"
)

func (s *Space) match(l *language) *node {
	return s.make(node{op: opMatch, on: value.String, lang: l})
}

// Numbers as text on the wire: every spelling that JSON knows (RFC 8259, section 6) is read, the plain one is written.
const (
	plainPattern   = `^-?(0|[1-9][0-9]*)(\.[0-9]*[1-9])?$`
	numberPattern  = `^-?(0|[1-9][0-9]*)(\.[0-9]+)?([eE][-+]?[0-9]+)?$`
	integerPattern = `^-?(0|[1-9][0-9]*)$`
)

func (s *Space) numberText() *language { return s.language(numberPattern) }

// textGoal is what one string has to satisfy, formats and numbers left aside.
type textGoal struct {
	match, notMatch []*language
	low, high       int // length in code points; high -1: no limit
	prefer          []string
}

// maxTextStates and maxTextWork bound the product of automata that one string is looked for in: its states, and the
// places of programs that are stepped through.
const (
	maxTextStates = 20000
	maxTextWork   = 2_000_000
)

// solveText looks for a string.
func (s *Space) solveText(lits []*node) found {
	g := textGoal{high: -1}
	var excluded, yesFormats, noFormats []string
	var numeric []*node
	for _, n := range lits {
		switch n.op {
		case opLength:
			g.low = max(g.low, n.low)
			if n.high >= 0 && (g.high < 0 || n.high < g.high) {
				g.high = n.high
			}
		case opMatch:
			g.match = append(g.match, n.lang)
		case opNotMatch:
			g.notMatch = append(g.notMatch, n.lang)
		case opFormat:
			yesFormats = append(yesFormats, n.format)
		case opNotFormat:
			noFormats = append(noFormats, n.format)
		case opNumeric:
			numeric = append(numeric, n)
		case opNotEnum:
			for _, v := range n.values {
				if v.Kind == value.String {
					excluded = append(excluded, v.Text)
				}
			}
		}
	}
	if g.high >= 0 && g.low > g.high {
		return found{answer: none}
	}
	for _, f := range yesFormats {
		if slices.Contains(noFormats, f) {
			return found{answer: none}
		}
	}
	for _, l := range g.match {
		if slices.Contains(g.notMatch, l) {
			return found{answer: none}
		}
	}
	if len(excluded) > 0 {
		g.notMatch = append(g.notMatch, s.literals(excluded))
	}
	if len(numeric) > 0 {
		return s.solveNumeric(g, lits, numeric)
	}
	return s.solveFormats(g, lits, yesFormats, noFormats)
}

// literals is the language of a finite set of strings.
func (s *Space) literals(words []string) *language {
	quoted := make([]string, len(words))
	for i, w := range words {
		quoted[i] = quoteECMA(w)
	}
	return s.language("^(?:" + strings.Join(quoted, "|") + ")$")
}

func quoteECMA(w string) string {
	var b strings.Builder
	for _, r := range w {
		if r < 0x80 && !unicode.IsLetter(r) && !unicode.IsDigit(r) && r > ' ' {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// solveFormats narrows the goal by what is known of each format, and tests the string that it finds: the languages
// of formats are a little wider than the formats (30 February), so a proof of "none" may lean on them, a string may not.
func (s *Space) solveFormats(g textGoal, lits []*node, yesFormats, noFormats []string) found {
	wide := g
	for _, f := range yesFormats {
		if p := formats[f].pattern; p != "" {
			wide.match = append(wide.match, s.language(p))
		}
		g.prefer = append(g.prefer, formats[f].samples...)
	}
	narrow := wide
	for _, f := range noFormats {
		if p := formats[f].pattern; p != "" {
			narrow.notMatch = append(slices.Clip(narrow.notMatch), s.language(p))
		}
	}
	var candidates []string
	candidates = append(candidates, g.prefer...)
	first := s.shortest(narrow)
	if first.answer == some {
		candidates = append(candidates, first.value.Text)
	}
	whole := first
	if len(noFormats) > 0 {
		whole = s.shortest(wide)
		if whole.answer == some {
			candidates = append(candidates, whole.value.Text)
		}
		for _, f := range noFormats {
			candidates = append(candidates, formats[f].misses...)
		}
	}
	for _, c := range candidates {
		v := value.Str(c)
		if s.all(lits, v) == yes {
			return found{answer: some, value: v}
		}
	}
	if whole.answer == none {
		return found{answer: none}
	}
	reason := whole.reason
	if reason == "" {
		reason = "whether a string of this format is there could not be decided"
	}
	return found{answer: unsure, reason: reason}
}

// solveNumeric looks for a string some of whose literals read it as a number.
func (s *Space) solveNumeric(g textGoal, lits, numeric []*node) found {
	if f := s.shortest(g); f.answer == none {
		return f // no text at all, whatever it spells
	}
	subs := make([]*node, 0, len(numeric)+2)
	for _, n := range numeric {
		subs = append(subs, n.sub)
	}
	subs = append(subs, s.typed(maskOf(value.Number)))
	if slices.Contains(g.match, s.language(integerPattern)) {
		subs = append(subs, s.make(node{op: opMultiple, on: value.Number, step: big.NewRat(1, 1)}))
	}
	if slices.Contains(g.notMatch, s.language(integerPattern)) {
		subs = append(subs, s.make(node{op: opNotMultiple, on: value.Number, step: big.NewRat(1, 1)}))
	}
	asNumber := s.search(subs)
	if asNumber.answer == some {
		if v := value.Str(asNumber.value.String()); s.all(lits, v) == yes {
			return found{answer: some, value: v}
		}
	}
	asText := g
	asText.notMatch = append(slices.Clip(g.notMatch), s.numberText())
	other := s.shortest(asText)
	if other.answer == some {
		if s.all(lits, other.value) == yes {
			return other
		}
		other = found{answer: unsure}
	}
	if other.answer == none && asNumber.answer == none {
		return found{answer: none}
	}
	return found{answer: unsure, reason: "a limit on numbers together with a limit on their text could not be decided"}
}

// shortest finds a shortest string of the goal by walking the product of all its automata breadth first.
func (s *Space) shortest(g textGoal) found {
	for _, l := range slices.Concat(g.match, g.notMatch) {
		if l.prog == nil {
			return found{answer: unsure, reason: l.why}
		}
	}
	if g.low == 0 && g.high != 0 {
		// An empty string shows little: one of a letter or more is preferred.
		longer := g
		longer.low = 1
		if f := s.shortest(longer); f.answer == some {
			return f
		}
	}
	if len(g.match)+len(g.notMatch) == 0 {
		return found{answer: some, value: value.Str(strings.Repeat("a", min(g.low, 1<<16)))}
	}
	w := newTextWalk(g)
	w.budget = s.budget
	return w.run()
}

// textWalk is one breadth-first search.
type textWalk struct {
	goal     textGoal
	all      []*language // match first
	alphabet []rune      // one character of each class that the automata tell apart, readable ones first
	queue    []textState
	seen     map[string]bool
	work     int
	budget   *budget.Budget
}

type textState struct {
	sets   []threads
	length int
	parent int
	by     rune
}

func newTextWalk(g textGoal) *textWalk {
	w := &textWalk{goal: g, all: slices.Concat(g.match, g.notMatch), seen: map[string]bool{}}
	breaks := map[rune]bool{0: true}
	for _, l := range w.all {
		l.breaks(breaks)
	}
	w.alphabet = representatives(breaks)
	return w
}

// readable is the order in which characters are preferred in a witness.
const readable = "aeibcdfghjklmnopqrstuvwxyz0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ -_.:/@+,"

func representatives(breaks map[rune]bool) []rune {
	points := make([]rune, 0, len(breaks))
	for r := range breaks {
		if r <= unicode.MaxRune {
			points = append(points, r)
		}
	}
	slices.Sort(points)
	var reps []rune
	for i, low := range points {
		high := rune(unicode.MaxRune)
		if i+1 < len(points) {
			high = points[i+1] - 1
		}
		if r, ok := representative(low, high); ok {
			reps = append(reps, r)
		}
	}
	rank := func(r rune) int {
		if i := strings.IndexRune(readable, r); i >= 0 {
			return i
		}
		if unicode.IsPrint(r) {
			return 1000
		}
		return 2000
	}
	slices.SortStableFunc(reps, func(a, b rune) int { return rank(a) - rank(b) })
	return reps
}

func representative(low, high rune) (rune, bool) {
	for _, r := range readable {
		if r >= low && r <= high {
			return r, true
		}
	}
	for r := low; r <= high && r < low+200; r++ {
		if unicode.IsPrint(r) {
			return r, true
		}
	}
	if low >= 0xD800 && low <= 0xDFFF { // surrogates are no characters
		low = 0xE000
	}
	return low, low <= high
}

func (w *textWalk) run() found {
	start := textState{parent: -1}
	for _, l := range w.all {
		start.sets = append(start.sets, l.start())
	}
	w.push(start)
	for i := 0; i < len(w.queue); i++ {
		at := w.queue[i]
		if at.length >= w.goal.low && w.accepting(at) {
			return found{answer: some, value: value.Str(w.word(i))}
		}
		if w.goal.high >= 0 && at.length >= w.goal.high {
			continue
		}
		if len(w.queue) > maxTextStates || w.work > maxTextWork || !w.budget.Step(20) {
			return found{answer: unsure, reason: "the patterns are too large to be compared"}
		}
		for _, r := range w.alphabet {
			next := textState{length: at.length + 1, parent: i, by: r, sets: make([]threads, len(w.all))}
			for j, l := range w.all {
				next.sets[j] = l.step(at.sets[j], r)
				work := 1 + len(at.sets[j].pcs) + len(next.sets[j].pcs)
				w.work += work
				w.budget.Step(3 * work)
			}
			if !w.dead(next) {
				w.push(next)
			}
		}
	}
	return found{answer: none}
}

// dead tells that no longer string can be in the goal.
func (w *textWalk) dead(t textState) bool {
	for j := range w.all {
		if j >= len(w.goal.match) && t.sets[j].done {
			return true
		}
	}
	return false
}

func (w *textWalk) push(t textState) {
	var b strings.Builder
	for _, set := range t.sets {
		set.key(&b)
	}
	short := min(t.length, w.goal.low)
	b.WriteByte(byte(short))
	b.WriteByte(byte(short >> 8))
	b.WriteByte(byte(short >> 16))
	if key := b.String(); !w.seen[key] {
		w.seen[key] = true
		w.queue = append(w.queue, t)
	}
}

func (w *textWalk) accepting(t textState) bool {
	for j, l := range w.all {
		if l.accepts(t.sets[j], t.length == 0) != (j < len(w.goal.match)) {
			return false
		}
	}
	return true
}

func (w *textWalk) word(i int) string {
	var runes []rune
	for ; w.queue[i].parent >= 0; i = w.queue[i].parent {
		runes = append(runes, w.queue[i].by)
	}
	slices.Reverse(runes)
	return string(runes)
}

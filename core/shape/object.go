package shape

import (
	"fmt"
	"slices"

	"oldledger/core/value"
)

// nameSet is a set of property names: one name, those of a pattern, or all but some names and patterns.
type nameSet struct {
	one     bool
	name    string
	pattern *language
	apart   map[string]bool // names that are left out of the pattern's
	except  map[string]bool
	unlike  []*language
}

func oneName(name string) *nameSet { return &nameSet{one: true, name: name} }

func (ns nameSet) contains(name string) tri {
	switch {
	case ns.one:
		return triOf(name == ns.name)
	case ns.pattern != nil && ns.apart[name]:
		return no
	case ns.pattern != nil:
		return ns.pattern.contains(name)
	case ns.except[name]:
		return no
	}
	worst := yes
	for _, l := range ns.unlike {
		worst = min(worst, l.contains(name).not())
	}
	return worst
}

// maxNewNames bounds how many made-up names one object gets.
const maxNewNames = 20

// objectGoal is what one object has to satisfy, sorted by kind.
type objectGoal struct {
	every     []*node // opProps
	some      []*node // opSomeProp
	names     []*node // opNames
	someNames []*node
	has       map[string]bool
	lacks     map[string]bool
	low, high int
	not       map[string]bool
	known     []string // every name that a literal mentions, in order
	patterns  []*language
	order     []string
}

func (r *run) solveObject(lits []*node, order []string) found {
	g := objectGoal{has: map[string]bool{}, lacks: map[string]bool{}, high: -1, not: map[string]bool{}, order: order}
	mention := func(name string) { g.known = append(g.known, name) }
	choosing := choosesNames(lits) // otherwise the names are given, and few
	languages := func(ns nameSet) {
		if ns.one && choosing {
			mention(ns.name)
		}
		if choosing {
			for name := range ns.except {
				mention(name)
			}
		}
		for _, l := range append(slices.Clone(ns.unlike), ns.pattern) {
			if l != nil && !slices.Contains(g.patterns, l) {
				g.patterns = append(g.patterns, l)
			}
		}
	}
	r.s.budget.Step(8 * len(lits))
	for _, n := range lits {
		switch n.op {
		case opProps:
			g.every = append(g.every, n)
			languages(*n.names)
		case opSomeProp:
			g.some = append(g.some, n)
			languages(*n.names)
			if n.names.one {
				mention(n.names.name)
			}
		case opNames:
			g.names = append(g.names, n)
		case opSomeName:
			g.someNames = append(g.someNames, n)
		case opHas:
			g.has[n.name] = true
			mention(n.name)
		case opLacks:
			g.lacks[n.name] = true
			mention(n.name)
		case opSize:
			g.low = max(g.low, n.low)
			if n.high >= 0 && (g.high < 0 || n.high < g.high) {
				g.high = n.high
			}
		case opNotEnum:
			for k := range n.keys {
				g.not[k] = true
			}
		}
	}
	for name := range g.has {
		if g.lacks[name] {
			return found{answer: none}
		}
	}
	if g.high >= 0 && (g.low > g.high || len(g.has) > g.high) {
		return found{answer: none}
	}
	if g.low > maxItems {
		return found{answer: unsure, reason: "the object would have too many properties to be made"}
	}
	slices.Sort(g.known) // maps have no order of their own
	g.known = slices.Compact(g.known)
	members := map[string][]*node{}
	for name := range g.has {
		members[name] = nil
	}
	return r.placeName(g, 0, members)
}

// choosesNames reports whether literals may need properties beyond those that they name: then all names in play have to be known.
func choosesNames(lits []*node) bool {
	low := 0
	for _, n := range lits {
		switch n.op {
		case opSomeName, opNotEnum:
			return true
		case opSomeProp:
			if !n.names.one {
				return true
			}
		case opSize:
			low = max(low, n.low)
		}
	}
	return low > 0
}

// placeName gives each "some name is in …" literal a name: a known one, or a new one made for it.
func (r *run) placeName(g objectGoal, i int, members map[string][]*node) found {
	if i == len(g.someNames) {
		return r.placeProperty(g, 0, members)
	}
	if !r.spendOn(members) {
		return found{answer: unsure, reason: outOfBudget}
	}
	n := g.someNames[i]
	result := found{answer: none}
	try := func(name string) bool {
		own := with(members, name)
		f := r.placeName(g, i+1, own)
		if f.answer != none {
			result = f
		}
		return f.answer == some
	}
	for _, name := range g.known {
		if r.s.eval(n.sub, value.Str(name)) == yes && try(name) {
			return result
		}
	}
	f := r.solve(append([]*node{n.sub, r.s.notEnum(strs(g.known))}, subsOf(g.names)...), maskOf(value.String))
	switch f.answer {
	case some:
		try(f.value.Text)
	case unsure:
		result = f
	}
	if result.answer == none && len(g.patterns) > 0 && f.answer == some {
		return found{answer: unsure, reason: "which names are admitted could not be decided"}
	}
	return result
}

// spendOn spends on one more choice for an object of so many members.
func (r *run) spendOn(members map[string][]*node) bool {
	return r.s.budget.Step(20*len(members)) && r.spend()
}

func with(members map[string][]*node, name string, lits ...*node) map[string][]*node {
	own := make(map[string][]*node, len(members)+1)
	for k, v := range members {
		own[k] = v
	}
	own[name] = append(slices.Clone(members[name]), lits...)
	return own
}

func strs(names []string) []*value.Value {
	values := make([]*value.Value, len(names))
	for i, n := range names {
		values[i] = value.Str(n)
	}
	return values
}

func subsOf(ns []*node) []*node {
	subs := make([]*node, len(ns))
	for i, n := range ns {
		subs[i] = n.sub
	}
	return subs
}

// placeProperty gives each "some property has a value in …" literal a property.
func (r *run) placeProperty(g objectGoal, i int, members map[string][]*node) found {
	if i == len(g.some) {
		return r.grow(g, members)
	}
	if !r.spendOn(members) {
		return found{answer: unsure, reason: outOfBudget}
	}
	n := g.some[i]
	result := found{answer: none}
	try := func(name string) bool {
		f := r.placeProperty(g, i+1, with(members, name, n.sub))
		if f.answer != none {
			result = f
		}
		return f.answer == some
	}
	if n.names.one {
		if g.lacks[n.names.name] {
			return result
		}
		try(n.names.name)
		return result
	}
	for name := range keysInOrder(g.known, members) {
		if g.lacks[name] {
			continue
		}
		switch n.names.contains(name) {
		case yes:
			if try(name) {
				return result
			}
		case maybe:
			result = found{answer: unsure, reason: "whether a name matches a pattern could not be decided"}
		}
	}
	names, sure := r.newNames(g, members, *n.names)
	for _, name := range names {
		if try(name) {
			return result
		}
	}
	if !sure && result.answer == none {
		return found{answer: unsure, reason: "which names the patterns of properties admit could not be decided"}
	}
	return result
}

// keysInOrder yields the known names, then those made up so far.
func keysInOrder(known []string, members map[string][]*node) func(yield func(string) bool) {
	var made []string
	for name := range members {
		if !slices.Contains(known, name) {
			made = append(made, name)
		}
	}
	slices.Sort(made)
	return func(yield func(string) bool) {
		for _, name := range slices.Concat(known, made) {
			if !yield(name) {
				return
			}
		}
	}
}

// newNames makes one name of the set for each way in which it can match the patterns in play. All names that match the
// same patterns are alike. sure is false when some way could not be decided.
func (r *run) newNames(g objectGoal, members map[string][]*node, in nameSet) (names []string, sure bool) {
	if len(g.patterns) > 4 {
		return nil, false
	}
	var taken []string
	for name := range keysInOrder(g.known, members) {
		taken = append(taken, name)
	}
	sure = true
	for way := range 1 << len(g.patterns) {
		lits := append(subsOf(g.names), r.s.typed(maskOf(value.String)), r.s.notEnum(strs(taken)))
		member := yes
		for j, l := range g.patterns {
			o := opNotMatch
			if way&(1<<j) != 0 {
				o = opMatch
			}
			if l == in.pattern {
				member = min(member, triOf(o == opMatch))
			}
			if slices.Contains(in.unlike, l) {
				member = min(member, triOf(o == opNotMatch))
			}
			lits = append(lits, r.s.make(node{op: o, on: value.String, lang: l}))
		}
		if member == no {
			continue
		}
		name, f := r.readableName(lits)
		switch f.answer {
		case some:
			names = append(names, name)
		case unsure:
			sure = false
		}
	}
	return names, sure
}

// readableName prefers a name that says that it is made up.
func (r *run) readableName(lits []*node) (string, found) {
	for i := range maxNewNames {
		name := "extra"
		if i > 0 {
			name = fmt.Sprintf("extra%d", i+1)
		}
		if r.s.all(lits, value.Str(name)) == yes {
			return name, found{answer: some}
		}
	}
	f := r.solve(lits, maskOf(value.String))
	if f.answer != some {
		return "", f
	}
	return f.value.Text, f
}

// here are the literals of the property called name; ok is false when the name itself is refused.
func (r *run) here(g objectGoal, name string) (lits []*node, ok tri) {
	ok = yes
	r.s.budget.Step(2 * len(g.every))
	for _, n := range g.names {
		ok = min(ok, r.s.eval(n.sub, value.Str(name)))
	}
	for _, n := range g.every {
		switch n.names.contains(name) {
		case yes:
			lits = append(lits, n.sub)
		case maybe:
			ok = min(ok, maybe)
		}
	}
	return lits, ok
}

// grow makes every member's value, then adds members until there are enough.
func (r *run) grow(g objectGoal, members map[string][]*node) found {
	if g.high >= 0 && len(members) > g.high {
		return found{answer: none}
	}
	made := map[string]*value.Value{}
	for name := range keysInOrder(g.known, members) {
		extra, wanted := members[name]
		if !wanted {
			continue
		}
		f := r.property(g, name, extra)
		if f.answer != some {
			return f
		}
		made[name] = f.value
	}
	sure := r.addMembers(g, made, g.low)
	if len(made) < g.low {
		if sure {
			return found{answer: none}
		}
		return found{answer: unsure, reason: "whether enough properties are admitted could not be decided"}
	}
	v := arrange(made, g)
	for g.not[v.Key()] {
		size := len(made)
		if g.high < 0 || size < g.high {
			r.addMembers(g, made, size+1)
		}
		if len(made) == size {
			return found{answer: unsure, reason: "whether another object than the excluded ones is there could not be decided"}
		}
		v = arrange(made, g)
	}
	return found{answer: some, value: v}
}

func (r *run) property(g objectGoal, name string, extra []*node) found {
	if g.lacks[name] {
		return found{answer: none}
	}
	lits, ok := r.here(g, name)
	switch ok {
	case no:
		return found{answer: none}
	case maybe:
		return found{answer: unsure, reason: "whether the name " + name + " is admitted could not be decided"}
	}
	lits = append(lits, extra...)
	f := r.solve(lits, allTypes)
	if f.answer == some && f.value.Kind == value.String && (f.value.Text == "a" || f.value.Text == "aa") {
		// A text for which nothing speaks reads better as the word for what it is.
		if word := value.Str(name); r.s.all(lits, word) == yes {
			f.value = word
		}
	}
	return f
}

// addMembers adds properties until there are count of them, and tells whether it tried all that there may be.
func (r *run) addMembers(g objectGoal, made map[string]*value.Value, count int) (sure bool) {
	sure = true
	for _, name := range slices.Concat(g.order, g.known) {
		if len(made) >= count {
			return sure
		}
		if made[name] != nil || g.lacks[name] {
			continue
		}
		switch f := r.property(g, name, nil); f.answer {
		case some:
			made[name] = f.value
		case unsure:
			sure = false
		}
	}
	for len(made) < count {
		members := map[string][]*node{}
		for name := range made {
			members[name] = nil
		}
		names, complete := r.newNames(g, members, nameSet{})
		sure = sure && complete
		grew := false
		for _, name := range names {
			if f := r.property(g, name, nil); f.answer == some {
				made[name], grew = f.value, true
				break
			} else if f.answer == unsure {
				sure = false
			}
		}
		if !grew {
			return sure
		}
	}
	return sure
}

// arrange puts the members into the author's order, made-up ones last.
func arrange(made map[string]*value.Value, g objectGoal) *value.Value {
	v := &value.Value{Kind: value.Object}
	done := map[string]bool{}
	add := func(name string) {
		if made[name] != nil && !done[name] {
			done[name] = true
			v.Members = append(v.Members, value.Member{Name: name, Value: made[name]})
		}
	}
	for _, name := range slices.Concat(g.order, g.known) {
		add(name)
	}
	var rest []string
	for name := range made {
		rest = append(rest, name)
	}
	slices.Sort(rest)
	for _, name := range rest {
		add(name)
	}
	return v
}

package shape

import (
	"slices"

	"oldledger/core/value"
)

// maxItems bounds the arrays that a search makes.
const maxItems = 200

// maxDemands bounds the demands on items that are weighed against one another.
const maxDemands = 8

// arrayGoal is what one array has to satisfy, sorted by kind.
type arrayGoal struct {
	every, one []*node // opItems and opItem
	placed     []*node // opSomeItem: a place is given
	demands    []demand
	low, high  int
	unique     bool
	duplicate  bool // two items alike are asked for
	not        map[string]bool
	prefix     int // from here on all places are governed by the same literals
}

// demand is how many items of a kind there must be, from an index on.
type demand struct {
	sub, other *node // other is the complement of sub, for a demand with an upper limit
	from       int
	low, high  int // high is -1 where there is no limit
}

// join adds a demand for so many items of a set, or narrows the one that is there for the same set; false where no number of them fits
// both.
func (g *arrayGoal) join(d demand) bool {
	for i := range g.demands {
		known := &g.demands[i]
		if known.sub != d.sub || known.from != d.from {
			continue
		}
		known.low = max(known.low, d.low)
		if d.high >= 0 && (known.high < 0 || d.high < known.high) {
			known.high, known.other = d.high, d.other
		}
		return known.high < 0 || known.low <= known.high
	}
	g.demands = append(g.demands, d)
	return true
}

func (r *run) solveArray(lits []*node) found {
	g := arrayGoal{high: -1, not: map[string]bool{}}
	for _, n := range lits {
		switch n.op {
		case opItems:
			g.every, g.prefix = append(g.every, n), max(g.prefix, n.index)
		case opItem:
			g.one, g.prefix = append(g.one, n), max(g.prefix, n.index+1)
		case opSomeItem:
			g.placed, g.low = append(g.placed, n), max(g.low, n.index+1)
		case opSomeFrom:
			g.demands = append(g.demands, demand{sub: n.sub, from: n.index, low: 1, high: -1})
			g.prefix = max(g.prefix, n.index)
		case opContains:
			d := demand{sub: n.sub, low: n.low, high: n.high}
			if n.high >= 0 {
				d.other = r.s.not(n.sub)
			}
			if !g.join(d) {
				return found{answer: none}
			}
		case opCount:
			g.low = max(g.low, n.low)
			if n.high >= 0 && (g.high < 0 || n.high < g.high) {
				g.high = n.high
			}
		case opUnique:
			g.unique = true
		case opNotUnique:
			g.duplicate = true
		case opNotEnum:
			for k := range n.keys {
				g.not[k] = true
			}
		}
	}
	if g.high >= 0 && g.low > g.high || g.unique && g.duplicate {
		return found{answer: none}
	}
	if g.low > maxItems || g.prefix > maxItems {
		return found{answer: unsure, reason: "the array would be too long to be made"}
	}
	return r.arrayWithin(g)
}

// arrayWithin looks for an array no longer than one that satisfies every demand at a place of its own: what is longer has items
// that nothing asks for.
func (r *run) arrayWithin(g arrayGoal) found {
	asked, open := 0, 0
	for _, d := range g.demands {
		asked += d.low
		if d.high != 0 {
			open++
		}
	}
	longest := max(g.low, g.prefix+asked)
	if g.duplicate {
		longest = max(longest, g.prefix+asked+2)
	}
	if len(g.not) > 0 {
		longest++
	}
	if g.high >= 0 {
		longest = min(longest, g.high)
	}
	if open > maxDemands || asked > 24 {
		return found{answer: unsure, reason: "contains asks for too many items"}
	}
	p := &placing{run: r, arrayGoal: g, longest: longest, met: make([]int, len(g.demands)), same: -1}
	if !g.duplicate {
		return p.result(p.next())
	}
	for q := 1; q < longest; q++ {
		for like := range q {
			p.like, p.same = like, q
			if v := p.next(); v != nil {
				return p.result(v)
			}
		}
	}
	return p.result(nil)
}

// placing makes an array item by item: for each, it chooses the demands that the item meets.
type placing struct {
	*run
	arrayGoal
	longest    int
	made       []*value.Value
	met        []int  // items that met each demand
	like, same int    // the item at same is to be the one at like; -1 for none
	unsure     string // why "none" would be too much to say
}

func (p *placing) result(v *value.Value) found {
	switch {
	case v != nil:
		return found{answer: some, value: v}
	case p.unsure != "":
		return found{answer: unsure, reason: p.unsure}
	}
	return found{answer: none}
}

// next gives an array that begins with what is made, or nil.
func (p *placing) next() *value.Value {
	at := len(p.made)
	if at >= p.arrayGoal.low && at > p.same && p.satisfied() {
		v := value.Arr(slices.Clone(p.made)...)
		if !p.not[v.Key()] {
			return v
		}
		p.unsure = "whether another array than the excluded ones is there could not be decided"
	}
	if at >= p.longest {
		return nil
	}
	// Fewer choices first: what meets most demands ends soonest.
	for choice := 1<<len(p.demands) - 1; choice >= 0; choice-- {
		if v := p.item(at, choice); v != nil {
			return v
		}
		if p.steps > maxSteps {
			p.unsure = outOfBudget
			return nil
		}
	}
	return nil
}

func (p *placing) satisfied() bool {
	for i, d := range p.demands {
		if p.met[i] < d.low {
			return false
		}
	}
	return true
}

// item goes on with an item at a place that meets the chosen demands.
func (p *placing) item(at, choice int) *value.Value {
	lits := p.base(at)
	for i, d := range p.demands {
		switch chosen := choice&(1<<i) != 0; {
		case chosen && (at < d.from || d.high >= 0 && p.met[i] == d.high || d.high < 0 && p.met[i] >= d.low):
			return nil // it cannot count, or need not
		case chosen:
			lits = append(lits, d.sub)
		case d.other != nil:
			lits = append(lits, d.other)
		}
	}
	if p.like == at && p.same > at {
		lits = append(lits, p.base(p.same)...)
	}
	if p.same == at {
		lits = append(lits, p.s.enum([]*value.Value{p.made[p.like]}))
	}
	f := p.solve(lits, allTypes)
	if f.answer == some && p.unique && slices.ContainsFunc(p.made, f.value.Equal) {
		f = p.solve(append(lits, p.s.notEnum(p.made)), allTypes)
		if f.answer == none && (p.prefix > 0 || len(p.demands) > 0) {
			p.unsure = "whether enough different items are there could not be decided"
		}
	}
	if f.answer == none && p.same == at {
		p.unsure = "whether an array with two items alike is there could not be decided"
	}
	if f.answer != some {
		if f.answer == unsure {
			p.unsure = f.reason
		}
		return nil
	}
	p.made = append(p.made, f.value)
	for i := range p.demands {
		p.met[i] += choice >> i & 1
	}
	v := p.next()
	p.made = p.made[:at]
	for i := range p.demands {
		p.met[i] -= choice >> i & 1
	}
	return v
}

// base are the literals of the item at a place, whatever is chosen.
func (p *placing) base(at int) []*node {
	var lits []*node
	for _, n := range p.every {
		if at >= n.index {
			lits = append(lits, n.sub)
		}
	}
	for _, group := range [][]*node{p.one, p.placed} {
		for _, n := range group {
			if n.index == at {
				lits = append(lits, n.sub)
			}
		}
	}
	return lits
}

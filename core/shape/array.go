package shape

import (
	"slices"

	"oldledger/core/value"
)

// maxItems bounds the arrays that a search makes.
const maxItems = 200

// arrayGoal is what one array has to satisfy, sorted by kind.
type arrayGoal struct {
	every, one []*node // opItems and opItem
	placed     []*node // opSomeItem: a place is given
	floating   []*node // opSomeFrom: a place is to be found
	contains   []*node
	low, high  int
	unique     bool
	alike      bool // two items alike are asked for
	not        map[string]bool
	prefix     int // from here on all places are governed by the same literals
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
			g.floating, g.prefix = append(g.floating, n), max(g.prefix, n.index)
		case opContains:
			g.contains = append(g.contains, n)
		case opCount:
			g.low = max(g.low, n.low)
			if n.high >= 0 && (g.high < 0 || n.high < g.high) {
				g.high = n.high
			}
		case opUnique:
			g.unique = true
		case opNotUnique:
			g.alike = true
		case opNotEnum:
			for k := range n.keys {
				g.not[k] = true
			}
		}
	}
	if g.high >= 0 && g.low > g.high {
		return found{answer: none}
	}
	if g.low > maxItems || g.prefix > maxItems {
		return found{answer: unsure, reason: "the array would be too long to be made"}
	}
	return r.placeContains(g, 0, map[int][]*node{}, nil)
}

// extra are literals demanded at single places.
type extra map[int][]*node

// placeContains settles how many items each contains literal gets, then places the floating ones.
func (r *run) placeContains(g arrayGoal, i int, at extra, elsewhere []*node) found {
	if i == len(g.contains) {
		return r.placeFloating(g, 0, at, elsewhere)
	}
	n := g.contains[i]
	if n.low > 16 {
		return found{answer: unsure, reason: "contains asks for too many items"}
	}
	demand := make([]*node, n.low)
	for j := range demand {
		demand[j] = r.s.make(node{op: opSomeFrom, on: value.Array, sub: n.sub, index: 0})
	}
	if n.high < 0 {
		more := g
		more.floating = slices.Concat(g.floating, demand)
		if len(demand) > 1 {
			// Several items of one kind need places of their own: fix them beside one another where that is possible.
			return r.placeApart(more, i, at, elsewhere, n, n.low)
		}
		return r.placeContains(more, i+1, at, elsewhere)
	}
	// With an upper limit, exactly the chosen places are in the set and every other is not.
	result := found{answer: none}
	for count := n.low; count <= min(n.high, n.low+3); count++ {
		f := r.placeApart(g, i, at, append(slices.Clip(elsewhere), r.s.not(n.sub)), n, count)
		if f.answer == some {
			return f
		}
		if f.answer == unsure {
			result = f
		}
	}
	if result.answer == none && (n.high > n.low+3 || len(g.floating)+len(g.placed) > 0 || g.prefix > 0) {
		return found{answer: unsure, reason: "how many items contains admits could not be decided"}
	}
	return result
}

// placeApart puts count items of a contains literal on places of their own, the free ones first.
func (r *run) placeApart(g arrayGoal, i int, at extra, elsewhere []*node, n *node, count int) found {
	own := extra{}
	for k, v := range at {
		own[k] = slices.Clone(v)
	}
	next := g.prefix
	if g.high >= 0 && next+count > g.high {
		next = max(0, g.high-count)
	}
	for range count {
		for len(own[next]) > 0 {
			next++
		}
		own[next] = append(own[next], n.sub)
	}
	f := r.placeContains(g, i+1, own, elsewhere)
	if f.answer == none && g.prefix > 0 {
		return found{answer: unsure, reason: "where the items that contains asks for could stand was not decided"}
	}
	return f
}

// placeFloating tries the places at which each floating literal may be met.
func (r *run) placeFloating(g arrayGoal, i int, at extra, elsewhere []*node) found {
	if i == len(g.floating) {
		return r.fill(g, at, elsewhere)
	}
	n := g.floating[i]
	result := found{answer: none}
	last := max(n.index, g.prefix) + i
	if g.high >= 0 {
		last = min(last, g.high-1)
	}
	for p := n.index; p <= last; p++ {
		own := extra{}
		for k, v := range at {
			own[k] = v
		}
		own[p] = append(slices.Clone(at[p]), n.sub)
		f := r.placeFloating(g, i+1, own, elsewhere)
		if f.answer == some {
			return f
		}
		if f.answer == unsure {
			result = f
		}
	}
	return result
}

// here are the literals of the item at place p.
func (g arrayGoal) here(p int, at extra, elsewhere []*node) []*node {
	var lits []*node
	for _, n := range g.every {
		if p >= n.index {
			lits = append(lits, n.sub)
		}
	}
	for _, group := range [][]*node{g.one, g.placed} {
		for _, n := range group {
			if n.index == p {
				lits = append(lits, n.sub)
			}
		}
	}
	if len(at[p]) == 0 {
		lits = append(lits, elsewhere...)
	}
	return append(lits, at[p]...)
}

// fill makes the array once every demand has its place.
func (r *run) fill(g arrayGoal, at extra, elsewhere []*node) found {
	length := g.low
	for p := range at {
		length = max(length, p+1)
	}
	if g.alike {
		length = max(length, 2)
	}
	if g.high >= 0 && length > g.high {
		return found{answer: none}
	}
	if g.alike {
		return r.fillAlike(g, at, elsewhere, length)
	}
	f := r.items(g, at, elsewhere, length)
	if f.answer == some && g.not[f.value.Key()] {
		// The very array is excluded: a longer one, or another item, may do.
		if g.high < 0 || length < g.high {
			if longer := r.items(g, at, elsewhere, length+1); longer.answer == some && !g.not[longer.value.Key()] {
				return longer
			}
		}
		return found{answer: unsure, reason: "whether another array than the excluded ones is there could not be decided"}
	}
	return f
}

func (r *run) items(g arrayGoal, at extra, elsewhere []*node, length int) found {
	made := make([]*value.Value, 0, length)
	for p := range length {
		lits := g.here(p, at, elsewhere)
		f := r.solve(lits, allTypes)
		if f.answer == some && g.unique && slices.ContainsFunc(made, f.value.Equal) {
			f = r.solve(append(lits, r.s.notEnum(made)), allTypes)
			if f.answer == none && (g.prefix > 0 || len(at) > 0) {
				return found{answer: unsure, reason: "whether enough different items are there could not be decided"}
			}
		}
		if f.answer != some {
			return f
		}
		made = append(made, f.value)
	}
	return found{answer: some, value: value.Arr(made...)}
}

// fillAlike looks for two places that can hold the same value.
func (r *run) fillAlike(g arrayGoal, at extra, elsewhere []*node, length int) found {
	result := found{answer: none}
	limit := max(length, g.prefix+2)
	if g.high >= 0 {
		limit = min(limit, g.high)
	}
	for q := 1; q < limit; q++ {
		for p := range q {
			both := append(g.here(p, at, elsewhere), g.here(q, at, elsewhere)...)
			f := r.solve(both, allTypes)
			if f.answer == unsure {
				result = f
			}
			if f.answer != some {
				continue
			}
			own := extra{}
			for k, v := range at {
				own[k] = v
			}
			same := r.s.enum([]*value.Value{f.value})
			own[p], own[q] = append(slices.Clone(at[p]), same), append(slices.Clone(at[q]), same)
			f = r.items(g, own, elsewhere, max(length, q+1))
			if f.answer == some && !g.not[f.value.Key()] {
				return f
			}
			result = found{answer: unsure, reason: "whether an array with two items alike is there could not be decided"}
		}
	}
	return result
}

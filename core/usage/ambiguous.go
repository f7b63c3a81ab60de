package usage

import (
	"slices"
	"strings"
)

// Pair is two paths of one version that a call may both be like, and of which neither is narrower: one of them counts.
type Pair struct{ API, Number, One, Other string }

// maxPairs bounds the pairs that are looked for, in comparisons of paths.
const maxPairs = 1_000_000

// Ambiguous are such pairs of the services that were added, in their order.
func (r *Router) Ambiguous() []Pair { return r.ambiguous }

// pairsOf finds the pairs of one version.
func pairsOf(api, number string, operations []Operation) []Pair {
	by := map[int][][]form{}
	paths := map[int][]string{}
	for _, op := range operations {
		steps := formsOf(op.Path)
		if n := len(steps); !slices.Contains(paths[n], op.Path) {
			paths[n], by[n] = append(paths[n], op.Path), append(by[n], steps)
		}
	}
	var pairs []Pair
	tried := 0
	for n, all := range by {
		for i, a := range all {
			for j := i + 1; j < len(all) && tried < maxPairs; j++ {
				if tried++; ambiguous(a, all[j]) {
					pairs = append(pairs, Pair{api, number, paths[n][i], paths[n][j]})
				}
			}
		}
	}
	slices.SortFunc(pairs, func(a, b Pair) int { return strings.Compare(a.One+" "+a.Other, b.One+" "+b.Other) })
	return pairs
}

// form is a step of a path: a text, or what stands around its variable.
type form struct {
	before, after string
	variable      bool
}

func formsOf(path string) []form {
	var all []form
	for step := range strings.SplitSeq(strings.TrimPrefix(path, "/"), "/") {
		first, last := strings.IndexByte(step, '{'), strings.LastIndexByte(step, '}')
		if first < 0 || last < first {
			all = append(all, form{before: unescaped(step, false)})
			continue
		}
		all = append(all, form{unescaped(step[:first], false), unescaped(step[last+1:], false), true})
	}
	return all
}

// ambiguous reports whether a call may be like both of two paths of as many steps, of which neither is narrower.
func ambiguous(a, b []form) bool {
	narrower, wider := false, false
	for i := range a {
		within, around := a[i].within(b[i]), b[i].within(a[i])
		switch {
		case within && around:
		case within:
			narrower = true
		case around:
			wider = true
		case a[i].meets(b[i]):
			return restMeets(a[i+1:], b[i+1:])
		default:
			return false
		}
	}
	return narrower && wider
}

func restMeets(a, b []form) bool {
	for i := range a {
		if !a[i].meets(b[i]) {
			return false
		}
	}
	return true
}

// within reports whether all that is like f is like g.
func (f form) within(g form) bool {
	switch {
	case !g.variable:
		return !f.variable && f.before == g.before
	case !f.variable:
		return len(f.before) > len(g.before)+len(g.after) && strings.HasPrefix(f.before, g.before) && strings.HasSuffix(f.before, g.after)
	}
	return strings.HasPrefix(f.before, g.before) && strings.HasSuffix(f.after, g.after)
}

// meets reports whether something is like both.
func (f form) meets(g form) bool {
	if !f.variable || !g.variable {
		return f.within(g) || g.within(f)
	}
	return (strings.HasPrefix(f.before, g.before) || strings.HasPrefix(g.before, f.before)) &&
		(strings.HasSuffix(f.after, g.after) || strings.HasSuffix(g.after, f.after))
}

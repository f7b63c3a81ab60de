package shape

import (
	"math/big"

	"oldledger/core/value"
)

// interval is a range of numbers; a nil end is open to infinity.
type interval struct {
	low, high         *big.Rat
	lowOpen, highOpen bool // the end itself is left out
}

func (iv interval) contains(r *big.Rat) bool {
	if iv.low != nil {
		if c := r.Cmp(iv.low); c < 0 || c == 0 && iv.lowOpen {
			return false
		}
	}
	if iv.high != nil {
		if c := r.Cmp(iv.high); c > 0 || c == 0 && iv.highOpen {
			return false
		}
	}
	return true
}

// meet is the part that two intervals share.
func (iv interval) meet(o interval) interval {
	if o.low != nil && (iv.low == nil || o.low.Cmp(iv.low) > 0 || o.low.Cmp(iv.low) == 0 && o.lowOpen) {
		iv.low, iv.lowOpen = o.low, o.lowOpen
	}
	if o.high != nil && (iv.high == nil || o.high.Cmp(iv.high) < 0 || o.high.Cmp(iv.high) == 0 && o.highOpen) {
		iv.high, iv.highOpen = o.high, o.highOpen
	}
	return iv
}

func (s *Space) ranged(iv interval) *node {
	if iv.low == nil && iv.high == nil {
		return s.top
	}
	return s.make(node{op: opRange, on: value.Number, rng: iv})
}

func (s *Space) below(iv interval) *node {
	if iv.low == nil {
		return s.bottom
	}
	return s.ranged(interval{high: iv.low, highOpen: !iv.lowOpen})
}

func (s *Space) above(iv interval) *node {
	if iv.high == nil {
		return s.bottom
	}
	return s.ranged(interval{low: iv.high, lowOpen: !iv.highOpen})
}

func isMultiple(r, step *big.Rat) bool { return new(big.Rat).Quo(r, step).IsInt() }

// lcm is the least number that both a and b divide.
func lcm(a, b *big.Rat) *big.Rat {
	// a/b = p/q in lowest terms: then the least common multiple is a·q = b·p.
	ratio := new(big.Rat).Quo(a, b)
	return new(big.Rat).Mul(a, new(big.Rat).SetInt(ratio.Denom()))
}

// maxPoints bounds the points of a lattice that are tried one by one.
const maxPoints = 2000

// numberState is what one number has to satisfy.
type numberState struct {
	rng      interval
	step     *big.Rat   // nil: any
	notSteps []*big.Rat // of none of these a multiple
	not      map[string]bool
}

func (s *Space) solveNumber(lits []*node) found {
	st := numberState{not: map[string]bool{}}
	for _, n := range lits {
		switch n.op {
		case opRange:
			st.rng = st.rng.meet(n.rng)
		case opMultiple:
			if st.step == nil {
				st.step = n.step
			} else {
				st.step = lcm(st.step, n.step)
			}
		case opNotMultiple:
			st.notSteps = append(st.notSteps, n.step)
		case opNotEnum:
			for k := range n.keys {
				st.not[k] = true
			}
		}
	}
	return st.solve()
}

func (st numberState) solve() found {
	for _, q := range st.notSteps {
		if st.step != nil && isMultiple(st.step, q) {
			return found{answer: none} // every multiple of the step is one of q
		}
	}
	if st.step != nil {
		return st.onLattice()
	}
	iv := st.rng
	if iv.low != nil && iv.high != nil {
		c := iv.low.Cmp(iv.high)
		if c > 0 || c == 0 && (iv.lowOpen || iv.highOpen) {
			return found{answer: none}
		}
		if c == 0 {
			if st.admits(iv.low) {
				return found{answer: some, value: value.Rat(iv.low)}
			}
			return found{answer: none}
		}
	}
	// A range with room: only finitely many points and lattices are left out, so some point of a fine enough grid is in.
	for _, step := range []*big.Rat{big.NewRat(1, 1), big.NewRat(1, 2), big.NewRat(1, 10), big.NewRat(1, 1000), width(iv)} {
		grid := st
		grid.step = step
		if f := grid.onLattice(); f.answer == some {
			return f
		}
	}
	return found{answer: unsure, reason: "no number was found in a range that has some"}
}

// width is a step that falls into the interval several times, and is a multiple of nothing common.
func width(iv interval) *big.Rat {
	if iv.low == nil || iv.high == nil {
		return big.NewRat(1, 97)
	}
	w := new(big.Rat).Sub(iv.high, iv.low)
	return w.Quo(w, big.NewRat(97, 1))
}

func (st numberState) admits(r *big.Rat) bool {
	if !st.rng.contains(r) || st.not[value.Rat(r).Key()] || st.step != nil && !isMultiple(r, st.step) {
		return false
	}
	for _, q := range st.notSteps {
		if isMultiple(r, q) {
			return false
		}
	}
	return true
}

// onLattice tries the multiples of the step in the range, those next to 0 or to an end first.
func (st numberState) onLattice() found {
	first, last := st.lattice()
	if first != nil && last != nil && first.Cmp(last) > 0 {
		return found{answer: none}
	}
	at, up := big.NewInt(1), true
	switch {
	case first != nil && first.Sign() > 0:
		at = first
	case last != nil && last.Sign() < 0:
		at, up = last, false
	case first != nil:
		at = first
		if last == nil || last.Sign() >= 0 {
			at = big.NewInt(0)
			if last == nil || last.Sign() > 0 {
				at = big.NewInt(1)
			}
		}
	case last != nil && last.Sign() <= 0:
		at, up = last, false
	}
	tried := 0
	walk := func(from *big.Int, up bool) *value.Value {
		k := new(big.Int).Set(from)
		for ; tried < maxPoints; tried++ {
			if up && last != nil && k.Cmp(last) > 0 || !up && first != nil && k.Cmp(first) < 0 {
				return nil
			}
			r := new(big.Rat).Mul(new(big.Rat).SetInt(k), st.step)
			if st.admits(r) {
				return value.Rat(r)
			}
			if up {
				k.Add(k, big.NewInt(1))
			} else {
				k.Sub(k, big.NewInt(1))
			}
		}
		return nil
	}
	for _, dir := range []bool{up, !up} {
		tried = 0
		from := at
		if dir != up {
			from = new(big.Int).Sub(at, big.NewInt(1))
			if !up {
				from = new(big.Int).Add(at, big.NewInt(1))
			}
		}
		if v := walk(from, dir); v != nil {
			return found{answer: some, value: v}
		}
		if tried >= maxPoints {
			return found{answer: unsure, reason: "too many numbers to try"}
		}
	}
	return found{answer: none}
}

// lattice gives the first and the last multiple of the step in the range, as factors.
func (st numberState) lattice() (first, last *big.Int) {
	if st.rng.low != nil {
		q := new(big.Rat).Quo(st.rng.low, st.step)
		first = ceil(q)
		if st.rng.lowOpen && q.IsInt() {
			first = new(big.Int).Add(first, big.NewInt(1))
		}
	}
	if st.rng.high != nil {
		q := new(big.Rat).Quo(st.rng.high, st.step)
		last = new(big.Int).Neg(ceil(new(big.Rat).Neg(q)))
		if st.rng.highOpen && q.IsInt() {
			last = new(big.Int).Sub(last, big.NewInt(1))
		}
	}
	return first, last
}

func ceil(r *big.Rat) *big.Int {
	q, m := new(big.Int).DivMod(r.Num(), r.Denom(), new(big.Int))
	if m.Sign() > 0 {
		q.Add(q, big.NewInt(1))
	}
	return q
}

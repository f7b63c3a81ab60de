package compare

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/shape"
)

// closeGaps asks of every position whether the whole of what is sent is received, and reports what no edit explains:
// so that nothing is called safe because nobody looked.
func (c *comparer) closeGaps() {
	type question struct {
		old, new *contract.Schema
		role     shape.Role
		d        Direction
	}
	asked := map[question]shape.Verdict{}
	frontier := map[frontierKey]bool{}
	for _, p := range c.positions {
		root := c.pair(p.old, p.new, "")
		if c.budget.Over() {
			c.undecided(p, root)
			return
		}
		for _, d := range []Direction{Backward, Forward} {
			if c.explained(p, root, d) {
				continue
			}
			if c.holdsAtFrontier(root, p.role, d, frontier) {
				continue
			}
			q := question{p.old, p.new, p.role, d}
			v, done := asked[q]
			if !done {
				sender, receiver := p.sides(sense{d, p.role.Request})
				v = c.space.Included(c.space.Lower(sender, sending(p.role)), c.space.Lower(receiver, p.role))
				asked[q] = v
			}
			if v.Answer != shape.Proved && !c.lostAccess(p, root, d, v) {
				c.gap(p, root, d, v)
			}
		}
	}
}

// undecided says once that from a position on nothing was asked any more.
func (c *comparer) undecided(p *position, root *pair) {
	c.add(&finding{
		kind: p.prefix + ".schema-changed", operation: p.operation, at: p.at, reach: []string{p.operation},
		title: "the comparison ended before all was decided", backward: Hazard, forward: Hazard, undecided: true,
		why: "it ended at its budget: what was not found by then, here and in what follows, is not known to be safe",
		old: root.old.Node, new: root.new.Node,
	}, "")
}

// frontierKey names a question about a pair.
type frontierKey struct {
	pair *pair
	role shape.Role
	d    Direction
}

// holdsAtFrontier tells whether all that is sent under a pair is received, by what is known of its parts: two schemas that read the
// same include one another where what they refer to does, so that only the first pairs that read differently need be asked.
func (c *comparer) holdsAtFrontier(root *pair, role shape.Role, d Direction, known map[frontierKey]bool) bool {
	seen := map[*pair]bool{root: true}
	stack := []*pair{root}
	for len(stack) > 0 {
		p := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if p.same {
			continue
		}
		if !p.alike {
			if !c.holds(p, role, d, known) {
				return false
			}
			continue
		}
		for _, l := range p.links {
			if !seen[l.to] {
				seen[l.to] = true
				stack = append(stack, l.to)
			}
		}
	}
	return true
}

// holds decides one pair that reads differently, its parts first, so that nothing is searched twice.
func (c *comparer) holds(p *pair, role shape.Role, d Direction, known map[frontierKey]bool) bool {
	key := frontierKey{p, role, d}
	if holds, asked := known[key]; asked {
		return holds
	}
	known[key] = false // while it is open: a part that leans on it is searched with it
	for _, l := range p.links {
		if l.step.kind != stepBranch && c.holdsAtFrontier(l.to, role, d, known) {
			c.space.Hold(c.ends(l.to, role, d))
		}
	}
	known[key] = c.space.Included(c.ends(p, role, d)).Answer == shape.Proved
	return known[key]
}

// ends are what is sent and what is received under a pair in a direction.
func (c *comparer) ends(p *pair, role shape.Role, d Direction) (sent, received shape.Shape) {
	sender, receiver := p.old, p.new
	if !(sense{d, role.Request}).senderIsOld() {
		sender, receiver = receiver, sender
	}
	return c.space.Lower(sender, sending(role)), c.space.Lower(receiver, role)
}

// explained tells whether a finding among the edits that the position reaches already says the worst of this direction.
func (c *comparer) explained(p *position, root *pair, d Direction) bool {
	if root.equal {
		return true
	}
	for _, r := range c.reach(root) {
		for _, e := range r.pair.edits {
			f := c.graded[e]
			if f == nil {
				continue
			}
			grade := f.backward
			if d == Forward {
				grade = f.forward
			}
			if grade == Breaking || f.undecided {
				return true
			}
		}
	}
	return false
}

// lostAccess lays a refuted whole at the door of a property that became readOnly or writeOnly: the schema around it still
// requires what is no longer sent.
func (c *comparer) lostAccess(p *position, root *pair, d Direction, v shape.Verdict) bool {
	for _, r := range c.reach(root) {
		for _, e := range r.pair.edits {
			f := c.graded[e]
			if e.kind != "access-changed" || f == nil || v.Answer != shape.Refuted {
				continue
			}
			if d == Backward {
				f.backward = Breaking
			} else {
				f.forward = Breaking
			}
			f.why = refusal(sense{d, p.role.Request})
			if f.lacks(d) {
				f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: p.operation, Position: p.label, Value: v.Witness})
			}
			return true
		}
	}
	return false
}

// gap reports an unexplained verdict at the deepest pair that still shows it.
func (c *comparer) gap(p *position, root *pair, d Direction, v shape.Verdict) {
	s := sense{d, p.role.Request}
	at := reached{pair: root}
	seen := map[*pair]bool{root: true}
	for deeper := true; deeper; {
		deeper = false
		for _, l := range at.pair.links {
			if seen[l.to] {
				continue
			}
			seen[l.to] = true
			sender, receiver := l.to.old, l.to.new
			if !s.senderIsOld() {
				sender, receiver = receiver, sender
			}
			sub := c.space.Included(c.space.Lower(sender, sending(p.role)), c.space.Lower(receiver, p.role))
			if sub.Answer == v.Answer {
				at, deeper = reached{l.to, append(slices.Clip(at.way), l.step)}, true
				break
			}
		}
	}
	f := &finding{
		kind: p.prefix + ".schema-changed", operation: p.operation, at: joinWords(p.at, wayText(at.way)),
		title: at.pair.subject + " admits other values than before", old: at.pair.old.Node, new: at.pair.new.Node,
		reach: []string{p.operation},
	}
	grade := Hazard
	if v.Answer == shape.Refuted {
		grade, f.why = Breaking, refusal(s)
		whole, _ := p.sides(s)
		shown := v.Witness
		if p.role.Text {
			shown = shape.Decode(whole, shown)
		}
		f.witnesses = []*Witness{{Direction: d, Operation: p.operation, Position: p.label, Value: shown}}
	} else {
		f.undecided, f.why = true, v.Reason
	}
	if d == Backward {
		f.backward = grade
	} else {
		f.forward = grade
	}
	c.add(f, "")
}

package compare

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/shape"
)

// verifyPairs asks of every pair that differs whether all that is sent there is received. What its parts answer for is left to them, and
// what its edits are known to refuse is left out: so nothing is called safe because nobody looked, and no edit hides what another does.
func (c *comparer) verifyPairs() {
	for _, p := range c.differing {
		if !c.budget.Over() {
			c.verifyPair(p)
		}
		if c.budget.Over() {
			c.undecided(p)
			return
		}
	}
}

// undecided says once that from a pair on nothing was asked any more.
func (c *comparer) undecided(p *pair) {
	at := p.met[0].at
	c.add(&finding{
		kind: at.at.kindPrefix() + ".schema-changed", operation: at.operation, at: at.at, reach: []string{at.operation},
		title: "the comparison ended before all was decided", backward: Hazard, forward: Hazard, undecided: true,
		why: "it ended at its budget: what was not found by then, here and in what follows, is not known to be safe",
		old: p.old.Node, new: p.new.Node,
	}, "")
}

// ends are what is sent and what is received under a pair in a direction.
func (c *comparer) ends(p *pair, role shape.Role, d Direction) (sent, received shape.Shape) {
	sender, receiver := p.ordered(sense{d, role.Request})
	return c.space.Lower(sender, sending(role)), c.space.Lower(receiver, role)
}

// verifyPair asks of one pair, in every role in which it is met, and makes a change of what no edit explains.
func (c *comparer) verifyPair(p *pair) {
	if p.remainder != nil {
		return
	}
	p.remainder = &edit{pair: p, kind: "schema-changed", old: p.old.Node, new: p.new.Node, met: p.met}
	if slices.ContainsFunc(p.edits, func(e *edit) bool { return e.unclear != "" }) {
		return // nobody can tell
	}
	for _, l := range p.links {
		if l.step.kind == stepBranch && len(l.to.met) > 0 {
			c.verifyPair(l.to) // it is the same value
		}
	}
	if c.budget.Over() {
		return // that is told once, for all that is left
	}
	f := c.gradeWith(p.remainder, c.residual)
	if f.backward < Hazard && f.forward < Hazard {
		return
	}
	if e := c.blamed(p, f); e != nil {
		c.graded[e].takes(f)
		return
	}
	f.title = gapTitle(p, f)
	c.add(f, "")
}

// blamed is the edit at whose door the refused messages of a gap lie: the only one about a property that they hold or lack, or about which
// way a property travels.
func (c *comparer) blamed(p *pair, gap *finding) *edit {
	if gap.undecided {
		return nil
	}
	var found []*edit
	for _, e := range p.edits {
		if e.member == "" || c.graded[e] == nil {
			continue
		}
		names := []string{e.member}
		if e.renamed != nil {
			names = append(names, e.renamed.From)
		}
		shows := func(v verdict) bool {
			return v.local != nil && slices.ContainsFunc(names, func(name string) bool { return v.local.Get(name) != nil })
		}
		all := true
		for _, v := range p.remainder.verdicts {
			all = all && (v.grade < Hazard || shows(v))
		}
		if all {
			found = append(found, e)
		}
	}
	for _, l := range p.links {
		for _, e := range l.to.edits {
			if e.kind == "access-changed" && c.graded[e] != nil {
				found = append(found, e)
			}
		}
	}
	if len(found) != 1 {
		return nil
	}
	return found[0]
}

// takes adds what was found of a gap to the edit that explains it.
func (f *finding) takes(gap *finding) {
	if gap.backward > f.backward || gap.backward == f.backward && gap.forward > f.forward {
		f.why = gap.why
	}
	f.backward, f.forward = max(f.backward, gap.backward), max(f.forward, gap.forward)
	for _, w := range gap.witnesses {
		if f.lacks(w.Direction) {
			f.witnesses = append(f.witnesses, w)
		}
	}
}

func gapTitle(p *pair, f *finding) string {
	switch {
	case f.undecided:
		return "whether " + p.subject + " is still what it was could not be decided"
	case f.backward == Breaking && f.forward == Breaking:
		return "old and new refuse messages of one another for " + p.subject
	case f.backward == Breaking:
		return "a message that fitted " + p.subject + " no longer does"
	}
	return p.subject + " may be what it could not be before"
}

// residual asks what is sent under the pair of an edit and refused there, although every part of it is received, and all that its edits
// are known to refuse was left out.
func (c *comparer) residual(e *edit, role shape.Role, d Direction, met []occurrence) verdict {
	sent, received := c.ends(e.pair, role, d)
	local := c.space.All(append(c.known(e.pair, question{role, d}), sent, c.space.Not(received))...)
	v := c.shown(e, sense{d, role.Request}, role, met, local, verdict{grade: Safe})
	if v.undecided && c.doubted(e.pair, question{role, d}) {
		return verdict{grade: Safe} // it is told where the doubt comes from
	}
	return v
}

// known are the sets of values of a pair that are not refused for a reason that is told already: what its parts answer for, and what its
// edits refuse.
func (c *comparer) known(p *pair, q question) []shape.Shape {
	return c.knownUnder(p, q, nil, map[*pair]bool{})
}

// knownUnder is known of a pair in a union: it holds for the values of all the branches in which the pair stands, under.
func (c *comparer) knownUnder(p *pair, q question, under []shape.Shape, seen map[*pair]bool) []shape.Shape {
	if len(under) > maxNesting || seen[p] || !c.budget.Step(20) {
		return nil
	}
	seen[p] = true
	s := sense{q.direction, q.role.Request}
	var sets []shape.Shape
	add := func(set shape.Shape) {
		for _, branch := range under {
			set = c.space.Unless(branch, set)
		}
		sets = append(sets, set)
	}
	for _, e := range p.edits {
		e = e.in(p)
		if v := e.verdicts[q]; (v.refused || v.undecided) && e.partOld != nil {
			_, part := e.parts(s)
			add(c.demanded(e, part, q.role))
		}
	}
	for _, l := range p.links {
		if l.step.kind == stepHeir {
			continue // the base says nothing of it
		}
		sender, receiver := l.to.ordered(s)
		received := c.space.Lower(receiver, q.role)
		if l.step.kind != stepBranch {
			add(c.answered(l.step, received))
			continue
		}
		branch := c.space.InPlace(sender, q.role)
		if v := l.to.remainder; v != nil && v.verdicts[q].grade > Safe {
			add(c.space.Unless(branch, received))
			continue
		}
		add(c.space.Unless(c.space.Lower(sender, sending(q.role)), received))
		sets = append(sets, c.knownUnder(l.to, q, append(slices.Clip(under), branch), seen)...)
	}
	return sets
}

// maxNesting bounds the unions within unions that are looked through.
const maxNesting = 20

// doubted reports whether an edit of the pair, or of what it is made of, is undecided, or what is left of that.
func (c *comparer) doubted(p *pair, q question) bool {
	return slices.ContainsFunc(c.reach(p), func(r reached) bool {
		if r.pair != p && r.pair.remainder != nil && r.pair.remainder.verdicts[q].undecided {
			return true
		}
		return slices.ContainsFunc(r.pair.edits, func(e *edit) bool { return e.in(r.pair).verdicts[q].undecided })
	})
}

// answered is the set of values whose part at the end of a step is received, if it is there.
func (c *comparer) answered(at step, received shape.Shape) shape.Shape {
	switch at.kind {
	case stepPrefix:
		return c.space.EveryItem(at.index, received)
	case stepItem:
		return c.space.EveryItemFrom(at.index, received)
	case stepRest:
		return c.space.EveryOther(at.not, received)
	}
	return c.space.EveryProperty(at.name, received)
}

// meet records that a position reaches a pair.
func (c *comparer) meet(p *pair, o occurrence) {
	if p.equivalent || p.ownEqual {
		return // words only, or nothing that its parts do not answer for
	}
	if len(p.met) == 0 {
		c.differing = append(c.differing, p)
	} else if !c.budget.Step(4) || !c.budget.Hold(48) {
		return
	}
	p.met = append(p.met, o)
}

// ordered are the two schemas of a pair: what the sender has, and what the receiver has.
func (p *pair) ordered(s sense) (sender, receiver *contract.Schema) {
	if s.senderIsOld() {
		return p.old, p.new
	}
	return p.new, p.old
}

// shortestFirst orders places by how far in they are: the message that shows an edit best is the one that holds least else.
func shortestFirst(met []occurrence) []occurrence {
	met = slices.Clone(met)
	slices.SortStableFunc(met, func(a, b occurrence) int { return len(a.way) - len(b.way) })
	return met
}

package class

import "oldledger/core/contract"

// refine numbers schemas that are recursive, or made of such: those of one form are in one class until their parts are told apart.
func (c *Classes) refine(pending []int32) {
	if len(pending) == 0 {
		return
	}
	for _, i := range pending {
		c.nodes[i].class.Own = c.intern(c.owns, c.key.own(c.nodes[i].schema))
	}
	c.partition(pending, partition{
		self:      func(i int32) bool { return c.nodes[i].core == i },
		class:     func(i int32) *int32 { return &c.nodes[i].class.Set },
		key:       c.key.set,
		of:        c.setOf,
		canonical: func(i int32) int32 { return c.nodes[i].core },
		table:     c.sets,
	})
	c.partition(pending, partition{
		self:  func(i int32) bool { return c.nodes[i].bare == i },
		class: func(i int32) *int32 { return &c.nodes[i].class.Whole },
		key: func(s *contract.Schema, of part) []byte {
			return c.key.whole(c.nodes[c.index[s]].class.Own, s, of)
		},
		of:        c.wholeOf,
		canonical: func(i int32) int32 { return c.nodes[i].bare },
		table:     c.wholes,
	})
	for _, i := range pending {
		n := &c.nodes[i]
		n.class.Set, n.class.Whole = c.nodes[n.core].class.Set, c.nodes[n.bare].class.Whole
		c.represent(i)
	}
}

// partition is one way to tell nodes apart.
type partition struct {
	self      func(i int32) bool // whether the node stands for itself, and not for another
	class     func(i int32) *int32
	key       func(s *contract.Schema, of part) []byte // what a schema says, by the classes of its parts
	of        part
	canonical func(i int32) int32 // the node that a node stands for
	table     map[string]int32
	users     [][]int32 // by node: those whose keys name its class
	seen      []int32   // by node: the round in which it was looked at last
	round     int32
}

// form is the key of a node before anything is told apart: the classes of pending parts are 0. It notes whose class the key will name.
func (p *partition) form(c *Classes, i int32) []byte {
	return p.key(c.nodes[i].schema, func(in *contract.Schema) int32 {
		part := p.canonical(c.index[in])
		class := *p.class(part)
		if list := p.users[part]; class == 0 && (len(list) == 0 || list[len(list)-1] != i) {
			p.users[part] = append(list, i)
		}
		return class
	})
}

// partition refines until nothing is told apart any more. What splits off a class gets a new one, so that only those who are made of it
// need be looked at again; the largest part keeps the old one (Hopcroft).
func (c *Classes) partition(pending []int32, p partition) {
	p.users, p.seen = make([][]int32, len(c.nodes)), make([]int32, len(c.nodes))
	members := map[int32]int{} // how many nodes are in a class
	var changed []int32
	forms := map[string]int32{}
	first := make([]int32, len(pending))
	for k, i := range pending {
		if p.self(i) {
			first[k] = c.intern(forms, p.form(c, i))
		}
	}
	for k, i := range pending {
		if p.self(i) {
			*p.class(i) = first[k]
			members[first[k]]++
			changed = append(changed, i)
		}
	}
	for len(changed) > 0 && !c.budget.Over() {
		changed = c.split(changed, members, &p)
	}
	named := map[int32]bool{}
	for _, i := range pending {
		class := p.class(i)
		switch {
		case !p.self(i) || named[*class]:
		case c.budget.Over():
			*class = c.fresh() // nobody knows
		default:
			named[*class] = true
			p.table[string(p.key(c.nodes[i].schema, p.of))] = *class
		}
	}
}

// split looks at all that are made of what has changed its class, and gives back those that change theirs for it.
func (c *Classes) split(changed []int32, members map[int32]int, p *partition) (moved []int32) {
	touched := map[int32][]int32{} // by class
	var order []int32
	p.round++
	for _, i := range changed {
		for _, user := range p.users[i] {
			if p.seen[user] == p.round || !p.self(user) {
				continue
			}
			p.seen[user] = p.round
			class := *p.class(user)
			if touched[class] == nil {
				order = append(order, class)
			}
			touched[class] = append(touched[class], user)
		}
	}
	type part struct{ nodes []int32 }
	var parts [][]part
	for _, class := range order { // all by the classes before this round
		byKey := map[string]int{}
		var list []part
		for _, i := range touched[class] {
			c.budget.Step(40)
			key := p.key(c.nodes[i].schema, p.of)
			at, known := byKey[string(key)]
			if !known {
				at = len(list)
				byKey[string(key)] = at
				list = append(list, part{})
			}
			list[at].nodes = append(list[at].nodes, i)
		}
		parts = append(parts, list)
	}
	for k, class := range order {
		keeps := -1 // those that were not touched keep the class; else the largest part
		if len(touched[class]) == members[class] {
			keeps = 0
			for at, list := range parts[k] {
				if len(list.nodes) > len(parts[k][keeps].nodes) {
					keeps = at
				}
			}
		}
		for at, list := range parts[k] {
			if at == keeps {
				continue
			}
			to := c.fresh()
			members[to] = len(list.nodes)
			members[class] -= len(list.nodes)
			for _, i := range list.nodes {
				*p.class(i) = to
			}
			moved = append(moved, list.nodes...)
		}
	}
	return moved
}

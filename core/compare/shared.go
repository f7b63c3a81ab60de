package compare

import (
	"fmt"

	"oldledger/core/contract"
	"oldledger/core/shape"
)

// sharedSchemas compares the named schemas of a description that only shares components: others may send and receive
// them, so each is judged in both roles. Where there are operations, a component matters through them.
func (c *comparer) sharedSchemas() {
	if len(c.old.All())+len(c.new.All()) > 0 {
		return
	}
	for _, x := range c.old.Schemas {
		y := c.new.Schema(x.Name)
		if y == nil {
			c.add(&finding{
				kind: "schema.removed", backward: Breaking, forward: Safe, at: schemaAt(x), title: x.Name + " is no longer there",
				why: "descriptions that refer to it lead nowhere", old: x.Node,
				witnesses: []*Witness{{Direction: Backward, Position: schemaAt(x).position()}},
			}, "")
			continue
		}
		for _, request := range []bool{true, false} {
			c.visit(&position{
				subject: x.Name, at: schemaAt(x), old: x, new: y, role: shape.Role{Request: request},
			})
		}
	}
	for _, y := range c.new.Schemas {
		if c.old.Schema(y.Name) == nil {
			c.add(&finding{
				kind: "schema.added", backward: Safe, forward: Breaking, at: schemaAt(y), title: fmt.Sprintf("%s is new", y.Name),
				why: "nobody has to use it", new: y.Node, witnesses: []*Witness{{Direction: Forward, Position: schemaAt(y).position()}},
			}, "")
		}
	}
}

func schemaAt(s *contract.Schema) Location { return Location{Part: PartSchema, Name: s.Name} }

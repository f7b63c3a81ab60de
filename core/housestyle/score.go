package housestyle

import (
	"context"

	"oldledger/core/contract"
)

// Score is how many parts a description has - operations, parameters, answers, types, fields -, about how many of them nothing is found,
// and how many say in words what they are.
type Score struct{ Parts, Clean, Described int }

// ScoreOf counts the parts of a description, and those without a finding that may not stand.
func ScoreOf(ctx context.Context, c *contract.Contract, found Findings) Score {
	x := newExamination(ctx, c, &Style{}, nil)
	var s Score
	parts := map[string]bool{}
	x.walk(func(e *element) {
		switch e.kind.name {
		case "operation", "parameter", "response", "header", "type", "field":
			s.Parts++
			if e.told() {
				s.Described++
			}
			at := e.node.Place()
			parts[at.File+at.Pointer] = true
		}
	})
	hit := map[string]bool{}
	for _, f := range found {
		if f.Let != "" || f.owner == nil {
			continue
		}
		for n := f.owner; n != nil; n = n.Parent() {
			if at := n.Place(); parts[at.File+at.Pointer] {
				hit[at.File+at.Pointer] = true
				break
			}
		}
	}
	s.Clean = s.Parts - len(hit)
	return s
}

// told reports whether a part says in words what it is.
func (e *element) told() bool {
	switch p := e.part.(type) {
	case *contract.Operation:
		return p.Summary != "" || p.Description != ""
	case *contract.Response:
		return p.Description != ""
	}
	return e.described() != ""
}

package compare

import (
	"slices"
	"strings"

	"oldledger/core/contract"
)

// Selection picks changes out of a comparison; the zero value takes all.
type Selection struct {
	AtLeast   Grade     // only changes of this grade or a worse one, in Direction
	Direction Direction // which grade counts for AtLeast
	Either    bool      // the worse of both grades counts
	Only      []string  // kinds and operations: a change that matches none is left out
	Skip      []string  // kinds and operations: a change that matches one is left out
}

// Select is a comparison of the selected changes, with its verdict and counts as if nothing else had changed. AtLeast only leaves
// out: what it hides still counts.
func Select(c *Comparison, s Selection) *Comparison {
	selected := *c
	selected.Changes = slices.DeleteFunc(slices.Clone(c.Changes), func(ch *Change) bool {
		return len(s.Only) > 0 && !slices.ContainsFunc(s.Only, ch.fits) || slices.ContainsFunc(s.Skip, ch.fits)
	})
	selected.judge()
	selected.Changes = slices.DeleteFunc(selected.Changes, func(ch *Change) bool { return s.Of(ch) < s.AtLeast })
	return &selected
}

// Of is the grade of a change that counts for the selection.
func (s Selection) Of(ch *Change) Grade {
	if s.Either {
		return max(ch.Backward, ch.Forward)
	}
	return ch.Grade(s.Direction)
}

// judge sets the verdict and the counts from the changes.
func (c *Comparison) judge() {
	c.Backward, c.Forward, c.Counts = Editorial, Editorial, Counts{}
	for _, ch := range c.Changes {
		c.Backward = max(c.Backward, ch.Backward)
		c.Forward = max(c.Forward, ch.Forward)
		switch ch.Backward {
		case Breaking:
			c.Counts.Breaking++
		case Hazard:
			c.Counts.Hazard++
		case Safe:
			c.Counts.Safe++
		default:
			c.Counts.Editorial++
		}
	}
	c.WaysOut = c.waysOut()
}

// fits reports whether a change is of a kind, or reaches an operation. Kinds may be given without their place ("range-narrowed"),
// and * stands for anything: "response.*", "GET /berths/*".
func (ch *Change) fits(pattern string) bool {
	if IsOperation(pattern) {
		pattern = contract.WirePath(pattern) // the names of path parameters say nothing
		return matches(pattern, ch.Operation) || slices.ContainsFunc(ch.Reach, func(op string) bool { return matches(pattern, op) })
	}
	_, part, _ := strings.Cut(ch.Kind, ".")
	return matches(pattern, ch.Kind) || matches(pattern, part)
}

// IsOperation tells a pattern of operations from one of kinds.
func IsOperation(pattern string) bool { return strings.ContainsAny(pattern, " /") }

// matches reports whether text is of a pattern in which * stands for anything.
func matches(pattern, text string) bool {
	before, rest, wild := strings.Cut(pattern, "*")
	if !wild {
		return pattern == text
	}
	if !strings.HasPrefix(text, before) {
		return false
	}
	text = text[len(before):]
	for i := 0; i <= len(text); i++ {
		if matches(rest, text[i:]) {
			return true
		}
	}
	return false
}

package housestyle

import "oldledger/core/compare"

// Graded is a comparison as the house grades it: hazards of some kinds count as breaking, and say so. What is not graded otherwise is
// the same.
func (s *Style) Graded(c *compare.Comparison) *compare.Comparison {
	if len(s.Grading) == 0 {
		return c
	}
	graded := *c
	graded.Changes = make([]*compare.Change, len(c.Changes))
	for i, ch := range c.Changes {
		graded.Changes[i] = s.graded(ch)
		graded.Backward = max(graded.Backward, graded.Changes[i].Backward)
		graded.Forward = max(graded.Forward, graded.Changes[i].Forward)
	}
	return &graded
}

func (s *Style) graded(ch *compare.Change) *compare.Change {
	if ch.Backward != compare.Hazard && ch.Forward != compare.Hazard {
		return ch
	}
	reason := s.reason(ch.Kind)
	if reason == "" {
		return ch
	}
	to := *ch
	for _, g := range []*compare.Grade{&to.Backward, &to.Forward} {
		if *g == compare.Hazard {
			*g = compare.Breaking
		}
	}
	to.Why += "; it counts as breaking here: " + reason
	return &to
}

// reason is why hazards of a kind count as breaking, "" where they do not. What is said of a kind by itself holds wherever it happens.
func (s *Style) reason(kind string) string {
	if reason := s.Grading[kind]; reason != "" {
		return reason
	}
	row, known := compare.FindKind(kind)
	if !known {
		return ""
	}
	return s.Grading[row.Name]
}

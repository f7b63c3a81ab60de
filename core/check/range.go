package check

import (
	"math/big"
	"strconv"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
)

// ranges tells of limits that leave nothing between them.
func (x *examiner) ranges(s *contract.Schema) {
	low, lowKey := s.Minimum, "minimum"
	if s.ExclusiveMinimum != nil && (low == nil || s.ExclusiveMinimum.Cmp(low) >= 0) {
		low, lowKey = s.ExclusiveMinimum, "exclusiveMinimum"
	}
	high, highKey := s.Maximum, "maximum"
	if s.ExclusiveMaximum != nil && (high == nil || s.ExclusiveMaximum.Cmp(high) <= 0) {
		high, highKey = s.ExclusiveMaximum, "exclusiveMaximum"
	}
	if low != nil && high != nil {
		order := low.Cmp(high)
		if order > 0 || order == 0 && (lowKey != "minimum" || highKey != "maximum") {
			x.empty(s, lowKey, value.NumberText(low), highKey, value.NumberText(high))
		}
	}
	for _, count := range []struct {
		low, high       *int
		lowKey, highKey string
	}{
		{s.MinLength, s.MaxLength, "minLength", "maxLength"},
		{s.MinItems, s.MaxItems, "minItems", "maxItems"},
		{s.MinProperties, s.MaxProperties, "minProperties", "maxProperties"},
		{s.MinContains(), s.MaxContains(), "minContains", "maxContains"},
	} {
		if count.low != nil && count.high != nil && *count.low > *count.high {
			x.empty(s, count.lowKey, wholeText(*count.low), count.highKey, wholeText(*count.high))
		}
	}
}

func wholeText(n int) string { return value.NumberText(big.NewRat(int64(n), 1)) }

func (x *examiner) empty(s *contract.Schema, lowKey, low, highKey, high string) {
	at := s.Node
	for _, key := range []string{lowKey, "minimum", "maximum"} { // a limit that is a flag stands beside its number
		if n := s.Node.Get(key); n != nil {
			at = n
			break
		}
	}
	d := at.Wrong(contract.RangeEmpty, "%s %s lies above %s %s, so that nothing is admitted; write the smaller one first", lowKey, low,
		highKey, high)
	if other := s.Node.Get(highKey); other != nil && other != at {
		d.Also(other, highKey)
	}
	x.tell(d)
}

// pattern tells of a pattern that is no regular expression.
func (x *examiner) pattern(s *contract.Schema) {
	for _, p := range s.PatternProperties() {
		if wrong := shape.PatternFault(p.Name); wrong != "" {
			x.tell(p.Schema.Node.KeyWrong(contract.PatternUnread, "%s is no regular expression: %s", clip(strconv.Quote(p.Name)), wrong))
		}
	}
	if s.Pattern == nil {
		return
	}
	if wrong := shape.PatternFault(*s.Pattern); wrong != "" {
		at := s.Node.Get("pattern")
		if at == nil {
			at = s.Node
		}
		x.tell(at.Wrong(contract.PatternUnread, "%s is no regular expression: %s", quoted(at), wrong))
	}
}

func quoted(n *source.Node) string { return clip(n.Value().String()) }

// clip shortens a text for a message.
func clip(text string) string {
	if r := []rune(text); len(r) > 60 {
		return string(r[:59]) + "…"
	}
	return text
}

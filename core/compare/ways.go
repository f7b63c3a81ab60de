package compare

import "strings"

// The ways out of a break, in the order in which they are weighed (docs/design/compatibility.md, Promises): leave it as it was; expand and
// contract; a new line; a waiver. A change's advice tells the first two in its own words, Comparison.WaysOut all four.

// ways are the first two ways out of one change: what leaves it as it was, and the steps of expanding and contracting.
func ways(leave string, steps ...string) []string {
	return []string{"leave it: " + leave, "expand and contract: " + strings.Join(steps, ", ")}
}

// besides are the ways out where one part takes the place of another: both stand beside each other until nobody needs the old one.
func besides(was, is, use string) []string {
	return ways("keep "+was, "add "+is+" beside "+was, "deprecate "+was+" with a sunset date",
		"remove "+was+" when nobody "+use+" it any more")
}

// waysFor are the ways out of a breaking change, where its maker did not say them already.
func waysFor(ch *Change) []string {
	if ch.Backward != Breaking {
		return []string{}
	}
	part := ch.Kind[strings.IndexByte(ch.Kind, '.')+1:]
	answers := strings.HasPrefix(ch.Kind, "response.") || strings.HasPrefix(ch.Kind, "header.")
	switch {
	case answers && strings.HasSuffix(part, "-widened"):
		return ways("answer only with what was promised", "announce what is new", "answer with it where the clients are known to read it",
			"answer with it everywhere when all do")
	case part == "base-path-changed":
		return ways("go on answering at the old addresses", "answer at both", "announce until when the old ones answer",
			"turn them off when nobody calls them any more")
	case answers && strings.HasSuffix(part, "now-optional"):
		return ways("go on sending it", "announce that it may be missing", "leave it out when the clients are known to do without")
	case answers && strings.HasSuffix(part, "media-type-removed"):
		return ways("go on offering it", "deprecate it with a sunset date", "remove it when nobody asks for it any more")
	case answers:
		return ways("keep to what was promised", "answer with what is new beside it, under a name of its own",
			"deprecate the old part with a sunset date", "remove it when nobody reads it any more")
	case strings.HasSuffix(part, "required-added"), strings.HasSuffix(part, "now-required"), part == "body-required",
		part == "body-now-required":
		return ways("keep it optional", "give it a default that keeps the old behaviour", "announce from when on it is demanded",
			"demand it when everybody sends it")
	case strings.HasSuffix(part, "-narrowed"):
		return ways("go on accepting what was accepted", "announce from when on it is refused", "refuse it when nobody sends it any more")
	case strings.HasSuffix(part, "-removed"), strings.HasSuffix(part, "-changed"):
		return ways("go on accepting what was accepted", "accept the new beside the old", "announce from when on the old is refused",
			"refuse it when nobody sends it any more")
	}
	return ways("keep it as it was", "offer the new beside the old", "deprecate the old with a sunset date",
		"remove it when nobody uses it any more")
}

// waysOut are all ways out of what a comparison breaks, nil where it breaks nothing.
func (c *Comparison) waysOut() []string {
	if c.Backward != Breaking {
		return nil
	}
	line := ""
	if next := c.Recommend(false); next != nil {
		line = next.Version
	}
	return WaysOut(line, "")
}

// WaysOut are the ways out of a break, in the order in which they are weighed. line is the first version of the next line, earliest the day
// from which what is announced today may go; "" for what is not known.
func WaysOut(line, earliest string) []string {
	if line != "" {
		line = ", " + line
	}
	if earliest != "" {
		earliest = ", and what is announced today may go from " + earliest
	}
	return []string{
		"leave it as it was",
		"expand and contract, where the callers are known or can be told in time" + earliest +
			"; where they are not, the day on which nobody uses the old part may never come",
		"a new line" + line + ", beside the old one: what is weighed first where the callers are unknown",
		"a waiver at the gate, by name and with a reason",
	}
}

package compare

import "strings"

// adviceFor says how a breaking change could be made more gently, where its maker did not say so already.
func adviceFor(ch *Change) []string {
	if ch.Backward != Breaking {
		return []string{}
	}
	part := ch.Kind[strings.IndexByte(ch.Kind, '.')+1:]
	answers := strings.HasPrefix(ch.Kind, "response.") || strings.HasPrefix(ch.Kind, "header.")
	switch {
	case answers && strings.HasSuffix(part, "-widened"):
		return []string{"keep to the old values for clients of the old line", "send the new ones on the next line"}
	case answers:
		return []string{"keep it as it was for clients of the old line", "change it on the next line"}
	case strings.HasSuffix(part, "required-added"), strings.HasSuffix(part, "now-required"), part == "body-required", part == "body-now-required":
		return []string{"leave it optional, with a default that keeps the old behaviour", "demand it on the next line"}
	case strings.HasSuffix(part, "media-type-removed"), strings.HasSuffix(part, "-narrowed"), strings.HasSuffix(part, "-changed"):
		return []string{"go on accepting what was accepted", "announce from when on it is refused, and refuse it on the next line"}
	}
	return []string{}
}

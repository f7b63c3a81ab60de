package usage

import (
	"cmp"
	"slices"
	"strings"
)

// Caller is who calls, as a log tells it.
type Caller struct {
	Credential string
	Header     string // "client-name: boards": the first of Options.CallerHeaders that the call has
	Agent      string // what it calls itself
}

// Others are the callers beyond those that are told apart.
var Others = Caller{Agent: "others"}

// Name is the most telling of what is known of a caller; "" for nobody known.
func (c Caller) Name() string { return cmp.Or(c.Credential, c.Header, c.Agent) }

// Kind is by what a caller is recognised.
type Kind string

// The kinds, in the order in which they count.
const (
	ByCredential Kind = "credential"
	ByHeader     Kind = "header"
	ByAgent      Kind = "agent"
)

// Kinds are all of them, in this order.
var Kinds = []Kind{ByCredential, ByHeader, ByAgent}

// Sign is by what one consumer is recognised. A * in its value stands for any text.
type Sign struct {
	Kind     Kind
	Value    string // of a header "name: value"
	Consumer string
}

// Signs recognise consumers.
type Signs struct {
	exact map[Sign]string // by signs without their consumers
	loose []Sign          // with a *, those that say more first
}

// NewSigns prepares signs. Of two that fit the same caller the one of the kind that counts first decides, then the one without a *, then
// the one that says more, and then the first in the order of what they say.
func NewSigns(signs []Sign) *Signs {
	s := &Signs{exact: map[Sign]string{}}
	for _, sign := range signs {
		if strings.Contains(sign.Value, "*") {
			s.loose = append(s.loose, sign)
		} else {
			s.exact[Sign{Kind: sign.Kind, Value: sign.Value}] = sign.Consumer
		}
	}
	slices.SortFunc(s.loose, func(a, b Sign) int {
		return cmp.Or(len(b.Value)-strings.Count(b.Value, "*")-len(a.Value)+strings.Count(a.Value, "*"), strings.Compare(a.Value, b.Value),
			strings.Compare(a.Consumer, b.Consumer))
	})
	return s
}

// Who is the consumer that a caller is; "" for nobody known.
func (s *Signs) Who(c Caller) string {
	for _, kind := range Kinds {
		value := map[Kind]string{ByCredential: c.Credential, ByHeader: c.Header, ByAgent: c.Agent}[kind]
		if value == "" {
			continue
		}
		if who, there := s.exact[Sign{Kind: kind, Value: value}]; there {
			return who
		}
		for _, sign := range s.loose {
			if sign.Kind == kind && like(sign.Value, value) {
				return sign.Consumer
			}
		}
	}
	return ""
}

// like reports whether a text is as a pattern says, in which a * stands for any text. It takes time that grows with the length of the text
// times that of the pattern, at most.
func like(pattern, text string) bool {
	p, t, star, back := 0, 0, -1, 0
	for t < len(text) {
		switch {
		case p < len(pattern) && pattern[p] == '*':
			star, back = p, t
			p++
		case p < len(pattern) && pattern[p] == text[t]:
			p++
			t++
		case star >= 0:
			back++
			p, t = star+1, back
		default:
			return false
		}
	}
	return strings.Trim(pattern[p:], "*") == ""
}

func (c Caller) compare(d Caller) int {
	return cmp.Or(strings.Compare(c.Credential, d.Credential), strings.Compare(c.Header, d.Header), strings.Compare(c.Agent, d.Agent))
}

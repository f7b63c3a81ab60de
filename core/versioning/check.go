package versioning

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// Fault is something in a description that does not go with how its version is chosen.
type Fault struct {
	source.Place
	Text string `json:"text"`           // what does not go together
	More int    `json:"more,omitempty"` // at how many other places it is the same
}

// Check holds a scheme against the description of a version: whether callers who write what the scheme says reach what is described.
func (s Scheme) Check(c *contract.Contract, v Version) []Fault {
	k := checking{s: s, v: v, written: s.Written(v), locations: locations{}}
	for _, op := range c.Operations {
		switch s.By {
		case Path, Host:
			k.address(op)
		case Header, Query:
			k.parameter(op)
		case MediaType:
			k.media(op)
		}
	}
	return k.faults
}

type checking struct {
	s       Scheme
	v       Version
	written string
	faults  []Fault
	at      map[string]int // the faults by their kinds

	locations locations
}

// tell keeps the first fault of a kind with its place, and counts the others.
func (k *checking) tell(kind string, n *source.Node, format string, args ...any) {
	if i, there := k.at[kind]; there {
		k.faults[i].More++
		return
	}
	if k.at == nil {
		k.at = map[string]int{}
	}
	k.at[kind] = len(k.faults)
	k.faults = append(k.faults, Fault{Place: n.Place(), Text: fmt.Sprintf(format, args...)})
}

func (k *checking) address(op *contract.Operation) {
	servers := op.Servers[:min(len(op.Servers), MaxServers)]
	if len(servers) == 0 {
		servers = []*contract.Server{{Node: op.Node}}
	}
	for _, server := range servers {
		at := k.locations.of(server)
		if k.s.By == Host {
			if at.Host != k.written {
				k.tell("host "+at.Host, server.Node, "%s, and callers write %s", shown(server), k.written)
			}
			continue
		}
		if !holds(at.Path+op.Path, k.written) {
			k.tell("path "+server.URL, op.PathNode, "%s%s does not hold %s, which callers write", at.Path, op.Path, k.written)
		}
	}
}

func shown(s *contract.Server) string {
	if s.URL == "" {
		return "nobody says where the API answers"
	}
	return "it answers at " + s.URL
}

// holds reports whether some whole steps of a path are those of a part.
func holds(path, part string) bool {
	return strings.Contains(strings.TrimRight(path, "/")+"/", strings.TrimRight(part, "/")+"/")
}

func (k *checking) parameter(op *contract.Operation) {
	for _, p := range op.Parameters {
		same := p.Name == k.s.Name
		if k.s.By == Header {
			same = strings.EqualFold(p.Name, k.s.Name)
		}
		if p.In != string(k.s.By) || !same {
			continue
		}
		if s, _ := p.Payload(); s != nil && !admits(s, k.written) {
			k.tell("value", p.Node, "the %s %s does not take %s", k.s.By, p.Name, k.written)
		}
	}
}

// admits reports whether a listed choice of values, where there is one, holds a text.
func admits(s *contract.Schema, text string) bool {
	for _, part := range s.Conjuncts() {
		if part.Const != nil && part.Const.Text != text {
			return false
		}
		if part.HasEnum && !slices.ContainsFunc(part.Enum, func(n *source.Node) bool { return n != nil && n.Text == text }) {
			return false
		}
	}
	return true
}

func (k *checking) media(op *contract.Operation) {
	for _, r := range op.Responses {
		if !strings.HasPrefix(r.Status, "2") || len(r.Content) == 0 {
			continue
		}
		if !slices.ContainsFunc(r.Content, func(m *contract.Media) bool { return k.s.typed(m.Type, k.written) }) {
			k.tell("type", r.Node, "the answer %s of %s is not described as %s", r.Status, op.Written(), k.typeWritten())
		}
	}
}

func (k *checking) typeWritten() string {
	if k.s.Name != "" {
		return "a type with " + k.s.Name + "=" + k.written
	}
	return k.written
}

// typed reports whether a media type chooses what is written.
func (s Scheme) typed(mediaType, written string) bool {
	base, parameters, _ := strings.Cut(mediaType, ";")
	if s.Name == "" {
		return strings.EqualFold(strings.TrimSpace(base), written)
	}
	value, said := Parameter(parameters, s.Name)
	return !said || value == written // what a description does not say, a caller may
}

// Parameter is the value of a parameter of a media type, by its name.
func Parameter(parameters, name string) (value string, there bool) {
	for p := range strings.SplitSeq(parameters, ";") {
		if k, v, _ := strings.Cut(p, "="); strings.EqualFold(strings.TrimSpace(k), name) {
			return strings.Trim(strings.TrimSpace(v), `"`), true
		}
	}
	return "", false
}

// Location is where calls go: a host in small letters, "" where none is said, and a path without a slash at its end.
type Location struct{ Host, Path string }

// MaxServers is how many of an operation's servers are looked at.
const MaxServers = 50

// locations are where servers answer, found once for each: many operations share theirs.
type locations map[*contract.Server]Location

func (l locations) of(s *contract.Server) Location {
	at, known := l[s]
	if !known {
		at = AtServer(s)
		l[s] = at
	}
	return at
}

// AtServer is where a server answers, its variables filled in with what is usual.
func AtServer(s *contract.Server) Location {
	text := s.URL
	for _, v := range s.Variables {
		text = strings.ReplaceAll(text, "{"+v.Name+"}", v.Default)
	}
	u, err := url.Parse(text)
	if err != nil {
		return Location{}
	}
	path := strings.TrimRight(u.Path, "/")
	if path != "" && !strings.HasPrefix(path, "/") {
		path = "/" + path
	}
	return Location{strings.ToLower(u.Host), path}
}

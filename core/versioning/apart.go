package versioning

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"oldledger/core/contract"
)

// Called is one version of an API as it is called.
type Called struct {
	API       string
	Scheme    Scheme
	Version   Version
	Addresses []Address
}

// Address is where an operation is called.
type Address struct {
	Host, Path string // in small letters; with what its server says
	Method     string
	Operation  string // as its author wrote it: "GET /berths/{id}"
}

// Clash is a call that two APIs take for theirs, and nothing in it tells them apart.
type Clash struct {
	API       string `json:"api"` // the other one
	Number    string `json:"number"`
	Own       string `json:"own"`   // the operations, as their authors wrote them: "GET /berths/{id}"
	Other     string `json:"other"` // "
	Host      string `json:"host"`
	OwnPath   string `json:"ownPath"`   // their paths at that host, with what their servers say
	OtherPath string `json:"otherPath"` // "
	More      int    `json:"more,omitempty"`
}

// Index finds, among the versions of APIs, what a call of another one may reach.
type Index struct {
	hosts map[string]*step
}

// step is a step of paths, with those behind it by their forms: a text, or one with variables.
type step struct {
	next map[string]*step
	ends []end
}

type end struct {
	called  Called
	address Address
}

// Add puts a version into the index.
func (x *Index) Add(c Called) {
	if x.hosts == nil {
		x.hosts = map[string]*step{}
	}
	for _, to := range c.Addresses {
		at := x.hosts[to.Host]
		if at == nil {
			at = &step{}
			x.hosts[to.Host] = at
		}
		for _, s := range steps(to.Path) {
			at = at.then(s)
		}
		at.ends = append(at.ends, end{c, to})
	}
}

func (s *step) then(form string) *step {
	if s.next == nil {
		s.next = map[string]*step{}
	}
	if s.next[form] == nil {
		s.next[form] = &step{}
	}
	return s.next[form]
}

// Addresses are those of all that clients call, at the hosts that the description names.
func Addresses(c *contract.Contract) []Address {
	var all []Address
	locations := locations{}
	for _, op := range c.Operations {
		if op.Direction != contract.ClientCalls {
			continue
		}
		said := map[Location]bool{}
		for _, server := range op.Servers[:min(len(op.Servers), MaxServers)] {
			at := locations.of(server)
			if at.Host != "" && !said[at] {
				said[at] = true
				all = append(all, Address{at.Host, at.Path + op.Path, op.Method, op.Written()})
			}
		}
	}
	return all
}

// steps are the forms of the steps of a path: variables without their names.
func steps(path string) []string {
	return strings.Split(placeholder.ReplaceAllLiteralString(strings.TrimPrefix(path, "/"), "{}"), "/")
}

// Apart are the versions in the index, of other APIs, that some call of a version may reach as well, and by whose schemes nobody can
// tell whom it is for. When ctx ends, it gives those that were found by then, and the error of ctx.
func (x *Index) Apart(ctx context.Context, c Called) ([]Clash, error) {
	by := map[string]*Clash{}
	for _, to := range c.Addresses {
		root := x.hosts[to.Host]
		if root == nil || ctx.Err() != nil {
			continue
		}
		root.meet(steps(to.Path), 0, func(e end) {
			if e.address.Method != to.Method || e.called.API == c.API || toldApart(c, e.called) {
				return
			}
			number := contract.NumberText(e.called.Version.Number)
			key := e.called.API + "@" + number
			if known := by[key]; known != nil {
				known.More++
				return
			}
			by[key] = &Clash{
				API: e.called.API, Number: number, Own: to.Operation, Other: e.address.Operation, Host: to.Host, OwnPath: to.Path,
				OtherPath: e.address.Path,
			}
		})
	}
	all := make([]Clash, 0, len(by))
	for _, clash := range by {
		all = append(all, *clash)
	}
	slices.SortFunc(all, func(a, b Clash) int {
		return cmp.Or(strings.Compare(a.API, b.API), strings.Compare(a.Number, b.Number))
	})
	return all, ctx.Err()
}

// meet gives the ends of paths that some path has in common with one, where neither of them is the narrower one: a call of the narrower
// is for it. narrower tells which were so far, as bits.
func (s *step) meet(rest []string, narrower uint8, do func(end)) {
	if len(rest) == 0 {
		if narrower == 0 || narrower == own|other {
			for _, e := range s.ends {
				do(e)
			}
		}
		return
	}
	for form, next := range s.next {
		if meets, more := compareSteps(rest[0], form); meets {
			next.meet(rest[1:], narrower|more, do)
		}
	}
}

// Which of two forms of a step is narrower.
const (
	own uint8 = 1 << iota
	other
)

// compareSteps reports whether some step has two forms, and which of them is narrower: a text, or more text around a variable.
func compareSteps(a, b string) (meets bool, narrower uint8) {
	if a == b {
		return true, 0
	}
	aBefore, aAfter, aVariable := ends(a)
	bBefore, bAfter, bVariable := ends(b)
	switch {
	case !aVariable && !bVariable:
		return false, 0
	case !aVariable:
		return len(a) >= len(bBefore)+len(bAfter) && strings.HasPrefix(a, bBefore) && strings.HasSuffix(a, bAfter), own
	case !bVariable:
		return len(b) >= len(aBefore)+len(aAfter) && strings.HasPrefix(b, aBefore) && strings.HasSuffix(b, aAfter), other
	}
	if !strings.HasPrefix(aBefore, bBefore) && !strings.HasPrefix(bBefore, aBefore) ||
		!strings.HasSuffix(aAfter, bAfter) && !strings.HasSuffix(bAfter, aAfter) {
		return false, 0
	}
	if len(aBefore) > len(bBefore) || len(aAfter) > len(bAfter) {
		narrower |= own
	}
	if len(bBefore) > len(aBefore) || len(bAfter) > len(aAfter) {
		narrower |= other
	}
	return true, narrower
}

// ends are the texts before the first variable of a step and behind the last one.
func ends(step string) (before, after string, variable bool) {
	first, last := strings.IndexByte(step, '{'), strings.LastIndexByte(step, '}')
	if first < 0 || last < first {
		return step, "", false
	}
	return step[:first], step[last+1:], true
}

// toldApart reports whether every call says of two versions at one address which it means.
func toldApart(a, b Called) bool {
	s, o := a.Scheme, b.Scheme
	if s.By != o.By || s.By == "" || s.By == Path || s.By == Host || !strings.EqualFold(s.Name, o.Name) {
		return false
	}
	return s.Written(a.Version) != o.Written(b.Version)
}

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
	API      string
	Scheme   Scheme
	Version  Version
	Contract *contract.Contract
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
	called Called
	method string
	op     *contract.Operation
	path   string
}

// Add puts a version into the index.
func (x *Index) Add(c Called) {
	if x.hosts == nil {
		x.hosts = map[string]*step{}
	}
	each(c, func(host, path string, op *contract.Operation) {
		at := x.hosts[host]
		if at == nil {
			at = &step{}
			x.hosts[host] = at
		}
		for _, s := range steps(path) {
			at = at.then(s)
		}
		at.ends = append(at.ends, end{c, op.Method, op, path})
	})
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

// each gives every address of what clients call.
func each(c Called, do func(host, path string, op *contract.Operation)) {
	for _, op := range c.Contract.Operations {
		if op.Direction != contract.ClientCalls || op.Webhook != "" {
			continue
		}
		if len(op.Servers) == 0 {
			continue // where it answers nobody says
		}
		said := map[Location]bool{}
		for _, server := range op.Servers {
			at := Address(server)
			if at.Host != "" && !said[at] {
				said[at] = true
				do(at.Host, at.Path+op.Path, op)
			}
		}
	}
}

// steps are the forms of the steps of a path: variables without their names.
func steps(path string) []string {
	return strings.Split(placeholder.ReplaceAllLiteralString(strings.TrimPrefix(path, "/"), "{}"), "/")
}

// Apart are the versions in the index, of other APIs, that some call of a version may reach as well, and by whose schemes nobody can
// tell whom it is for. When ctx ends, it gives those that were found by then, and the error of ctx.
func (x *Index) Apart(ctx context.Context, c Called) ([]Clash, error) {
	by := map[string]*Clash{}
	each(c, func(host, path string, op *contract.Operation) {
		root := x.hosts[host]
		if root == nil || ctx.Err() != nil {
			return
		}
		root.meet(steps(path), 0, func(e end) {
			if e.method != op.Method || e.called.API == c.API || toldApart(c, e.called) {
				return
			}
			key := e.called.API + "@" + contract.NumberText(e.called.Version.Number)
			if known := by[key]; known != nil {
				known.More++
				return
			}
			by[key] = &Clash{
				API: e.called.API, Number: contract.NumberText(e.called.Version.Number), Own: op.Written(), Other: e.op.Written(), Host: host,
				OwnPath: path, OtherPath: e.path,
			}
		})
	})
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

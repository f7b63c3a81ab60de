package replay

import (
	"net/url"
	"regexp"
	"slices"
	"strings"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/exchange"
	"oldledger/core/shape"
	"oldledger/core/usage"
	"oldledger/core/versioning"
)

// side is a version against which exchanges are held.
type side struct {
	version *contract.Contract
	space   *shape.Space
	routers map[string]*usage.Router // by the path below which operations are looked for
	all     []usage.Operation
	hosts   map[string]bool // that its servers name
	bases   []string        // the paths of its servers, the longest first

	fits     map[fitKey]bool // whether the answers of a version may say something
	absent   map[fitKey]bool // ways, as texts, that answers under a schema are known to describe nowhere
	promised map[wayKey]promised
}

func newSide(c *contract.Contract) *side {
	s := &side{
		version: c, all: usage.OperationsOf(c), hosts: map[string]bool{}, routers: map[string]*usage.Router{},
		fits: map[fitKey]bool{}, absent: map[fitKey]bool{}, promised: map[wayKey]promised{},
	}
	for i := range s.all {
		for _, at := range s.all[i].At {
			if at.Host != "" {
				s.hosts[at.Host] = true
			}
			if !slices.Contains(s.bases, at.Path) {
				s.bases = append(s.bases, at.Path)
			}
		}
	}
	slices.SortFunc(s.bases, func(a, b string) int { return len(b) - len(a) })
	return s
}

// match is the operation that a request is a request of.
type match struct {
	op     *contract.Operation
	values map[string]string // of the parameters in its path, decoded once; nil where nobody can tell
	base   string            // the path of the request before that of the operation
	why    usage.Reason      // where there is none
}

// find looks for an operation at the version's own addresses, and then below other paths that may have been those of the version that
// answered when it was recorded; where that is known, as before tells, below its path alone.
func (s *side) find(e *exchange.Exchange, before match) match {
	path := e.URL.EscapedPath()
	m := s.below(s.router(""), e.Method, path)
	if m.op != nil || m.why == usage.NoMethod {
		return m
	}
	bases := []string{before.base}
	if before.op == nil {
		bases = s.otherBases(path)
	}
	for _, base := range bases {
		if m := s.below(s.router("bare"), e.Method, path[len(base):]); m.op != nil || m.why == usage.NoMethod {
			m.base = base
			return m
		}
	}
	return m
}

var versionStep = regexp.MustCompile(`^/v?[0-9][0-9.-]*$`)

// otherBases are the beginnings of a path that may be the base of another version: none, as many steps as one of this version's has, or one
// that names a version.
func (s *side) otherBases(path string) []string {
	all := []string{""}
	for at, steps := 1, 1; at < len(path); steps++ {
		next := strings.IndexByte(path[at:], '/')
		if next < 0 {
			break
		}
		at += next
		base := path[:at]
		as := func(own string) bool { return strings.Count(own, "/") == steps }
		if slices.ContainsFunc(s.bases, as) || steps == 1 && versionStep.MatchString(base) {
			all = append(all, base)
		}
		at++
	}
	return all
}

// router finds operations at their addresses, or as they are written where it is "bare".
func (s *side) router(kind string) *usage.Router {
	if r := s.routers[kind]; r != nil {
		return r
	}
	all := make([]usage.Operation, len(s.all))
	for i, op := range s.all {
		all[i] = op
		all[i].At = nil
		for _, at := range op.At {
			at.Host = "" // a recording may come from another stage
			if kind == "bare" {
				at.Path = ""
			}
			if !slices.Contains(all[i].At, at) {
				all[i].At = append(all[i].At, at)
			}
		}
	}
	r := usage.NewRouter()
	number, err := contract.ParseVersion("1")
	if err != nil {
		panic(err) // it is one
	}
	r.Add(usage.Service{Versions: []usage.Version{{Version: versioning.Version{Number: number}, Operations: all}}})
	s.routers[kind] = r
	return r
}

// below finds the operation of a path.
func (s *side) below(r *usage.Router, method, path string) match {
	id, why := r.Find(&usage.Call{Method: method, Path: path})
	if why != "" {
		return match{why: why}
	}
	written := r.Routes()[id].Operation
	m := match{}
	for _, op := range s.version.Operations {
		if op.Direction == contract.ClientCalls && op.Written() == written {
			m.op = op
			break
		}
	}
	if m.op == nil {
		return match{why: usage.NoPath}
	}
	for _, base := range s.bases {
		rest, is := strings.CutPrefix(path, base)
		if !is {
			continue
		}
		if values, like := pathValues(m.op.Path, rest); like {
			m.values, m.base = values, base
			return m
		}
	}
	m.values, _ = pathValues(m.op.Path, path)
	return m
}

// pathValues are the values of the parameters in a path. like is false where the path is not like the template.
func pathValues(template, path string) (values map[string]string, like bool) {
	steps, given := strings.Split(template, "/"), strings.Split(path, "/")
	if len(steps) != len(given) {
		return nil, false
	}
	values = map[string]string{}
	for i, step := range steps {
		first, last := strings.IndexByte(step, '{'), strings.LastIndexByte(step, '}')
		text, err := url.PathUnescape(given[i])
		if err != nil {
			text = given[i]
		}
		if first < 0 || last < first {
			if plain, err := url.PathUnescape(step); err != nil || plain != text {
				return nil, false
			}
			continue
		}
		inner, is := strings.CutPrefix(text, step[:first])
		if inner, is = cutSuffix(inner, step[last+1:], is); !is || inner == "" {
			return nil, false
		}
		if name := step[first+1 : last]; !strings.ContainsAny(name, "{}") {
			values[name] = inner
		}
	}
	return values, true
}

func cutSuffix(text, suffix string, is bool) (string, bool) {
	rest, ends := strings.CutSuffix(text, suffix)
	return rest, is && ends
}

// unrouted is that no operation is like a request. It is told once for each operation of the version before.
func (s *side) unrouted(e *exchange.Exchange, at, before match) []*Finding {
	title := "no operation has this path"
	if at.why == usage.NoMethod {
		title = "the path has no " + e.Method
	}
	f := &Finding{
		Kind: Route, Grade: compare.Breaking, Title: title, Message: e.Method + " " + e.URL.EscapedPath(),
		Location: compare.Location{Part: compare.PartOperation},
	}
	if f.aspect = e.Method + " " + usage.General(e.URL.EscapedPath()); before.op != nil {
		f.Operation, f.aspect = before.op.Written(), ""
		f.Title = "it is no longer there"
	}
	return []*Finding{f}
}

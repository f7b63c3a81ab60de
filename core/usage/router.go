package usage

import (
	"cmp"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/versioning"
)

// Service is an API as its calls are recognised.
type Service struct {
	API      string
	Scheme   versioning.Scheme
	Versions []Version
}

// Version is one version of it.
type Version struct {
	versioning.Version
	Operations []Operation
	From       int64 // from when on it is known to answer, in seconds since 1970; 0 for always
}

// Operation is an operation as its calls are recognised.
type Operation struct {
	Method, Path string
	Written      string                // as its author wrote it: "GET /berths/{berthId}"
	At           []versioning.Location // of the servers that answer it
}

// OperationsOf are the operations that callers of an API call.
func OperationsOf(c *contract.Contract) []Operation {
	all := make([]Operation, 0, len(c.Operations))
	for _, op := range c.Operations {
		if op.Direction != contract.ClientCalls {
			continue
		}
		one := Operation{Method: op.Method, Path: op.Path, Written: op.Written()}
		for _, server := range op.Servers[:min(len(op.Servers), versioning.MaxServers)] {
			at := versioning.AtServer(server)
			at.Host = hostname(at.Host)
			one.At = append(one.At, at)
		}
		if len(one.At) == 0 {
			one.At = []versioning.Location{{}}
		}
		all = append(all, one)
	}
	return all
}

// Route is an operation of a version.
type Route struct {
	API       string
	Number    string
	Operation string // as its author wrote it: "GET /berths/{berthId}"
}

// Reason is why a call is no call of any operation that is described.
type Reason string

// The reasons.
const (
	NoPath    Reason = "path"    // no path is like it
	NoMethod  Reason = "method"  // the path has no such operation
	NoVersion Reason = "version" // the version that it asks for is not there
	Untold    Reason = "untold"  // the version stands where the log does not hold it
)

// Router finds the operation that a call is a call of. It is filled, and then asked by several at once.
type Router struct {
	root   node
	depth  int // of the deepest path, in steps
	routes []Route

	ambiguous []Pair
}

// node is a place in the paths of all services.
type node struct {
	texts    map[string]*node
	patterns []edge // the narrower ones first
	leaf     *leaf
}

// edge leads on by a step with a variable.
type edge struct {
	before, after string
	to            *node
}

// leaf is a path, with those who have it.
type leaf struct {
	path   string
	owners []owner // the newest versions first
}

// owner is a version that has a path.
type owner struct {
	service  *Service
	version  *Version
	host     string
	written  string // how the version is chosen
	means    bool   // whether a call means it that says none
	routes   []methodRoute
	position int
}

// methodRoute is the operation of a method.
type methodRoute struct {
	method string
	route  int32
}

// route is the number of the operation of a method.
func (o *owner) route(method string) (id int32, there bool) {
	for _, r := range o.routes {
		if r.method == method {
			return r.route, true
		}
	}
	return -1, false
}

// NewRouter makes a router without services.
func NewRouter() *Router { return &Router{} }

// Routes are all operations, by the numbers that Find gives.
func (r *Router) Routes() []Route { return r.routes }

// Add puts the versions of a service into the router.
func (r *Router) Add(s Service) {
	versions := slices.Clone(s.Versions)
	slices.SortStableFunc(versions, func(a, b Version) int { return b.Number.Compare(a.Number) })
	for i := range versions {
		v := &versions[i]
		r.ambiguous = append(r.ambiguous, pairsOf(s.API, contract.NumberText(v.Number), v.Operations)...)
		for j := range v.Operations {
			r.add(&s, v, i, &v.Operations[j])
		}
	}
}

func (r *Router) add(s *Service, v *Version, position int, op *Operation) {
	number := contract.NumberText(v.Number)
	id := int32(len(r.routes))
	r.routes = append(r.routes, Route{s.API, number, op.Written})
	for _, at := range op.At {
		l := r.leaf(at.Path + op.Path)
		i := slices.IndexFunc(l.owners, func(o owner) bool { return o.version == v && o.host == at.Host })
		if i < 0 {
			i = len(l.owners)
			l.owners = append(l.owners, owner{
				service: s, version: v, host: at.Host, written: s.Scheme.Written(v.Version), means: s.Scheme.Means(v.Version),
				position: position,
			})
		}
		if _, there := l.owners[i].route(op.Method); !there {
			l.owners[i].routes = append(l.owners[i].routes, methodRoute{op.Method, id})
		}
		slices.SortStableFunc(l.owners, func(a, b owner) int {
			return cmp.Or(a.position-b.position, strings.Compare(a.service.API, b.service.API))
		})
	}
}

// leaf is the end of a path, made where it is not there yet.
func (r *Router) leaf(path string) *leaf {
	at := &r.root
	depth := 0
	for step := range strings.SplitSeq(strings.TrimPrefix(path, "/"), "/") {
		at = at.then(step)
		depth++
	}
	r.depth = max(r.depth, depth)
	if at.leaf == nil {
		at.leaf = &leaf{path: path}
	}
	return at.leaf
}

func (n *node) then(step string) *node {
	first, last := strings.IndexByte(step, '{'), strings.LastIndexByte(step, '}')
	if first < 0 || last < first {
		if n.texts == nil {
			n.texts = map[string]*node{}
		}
		step = unescaped(step, false)
		if n.texts[step] == nil {
			n.texts[step] = &node{}
		}
		return n.texts[step]
	}
	before, after := unescaped(step[:first], false), unescaped(step[last+1:], false)
	for _, e := range n.patterns {
		if e.before == before && e.after == after {
			return e.to
		}
	}
	to := &node{}
	n.patterns = append(n.patterns, edge{before, after, to})
	slices.SortStableFunc(n.patterns, func(a, b edge) int { return len(b.before) + len(b.after) - len(a.before) - len(a.after) })
	return to
}

// Find is the number of the operation that a call is a call of, or why there is none. Of the paths that are like the call's, the narrowest
// counts, then the method; of the versions that the call may mean the newest that answered at its time and has the
// path, or else the oldest.
func (r *Router) Find(c *Call) (route int32, why Reason) {
	route, why, _ = new(finding).find(r, c)
	return route, why
}

// finding is a search for the operation of a call; the next one takes its room.
type finding struct {
	call  *Call
	steps []string
	route int32
	why   Reason
	api   string // of the owner for which it is the reason
}

// find also tells whose path it is, where one is like the call's.
func (f *finding) find(r *Router, c *Call) (route int32, why Reason, api string) {
	*f = finding{call: c, why: NoPath, steps: f.steps[:0]}
	escaped := strings.IndexByte(c.Path, '%') >= 0
	for rest, more := strings.TrimPrefix(c.Path, "/"), true; more; {
		if len(f.steps) == r.depth {
			return -1, NoPath, ""
		}
		var step string
		if step, rest, more = strings.Cut(rest, "/"); escaped {
			step = unescaped(step, false)
		}
		f.steps = append(f.steps, step)
	}
	if f.search(&r.root, 0) {
		return f.route, "", ""
	}
	return -1, f.why, f.api
}

// search goes on from a node, the narrower ways first, until a path is found that belongs to somebody whom the call may mean.
func (f *finding) search(n *node, i int) (decided bool) {
	if i == len(f.steps) {
		return n.leaf != nil && f.among(n.leaf)
	}
	s := f.steps[i]
	if next := n.texts[s]; next != nil && f.search(next, i+1) {
		return true
	}
	for _, e := range n.patterns {
		if f.why == NoMethod { // the path is decided
			return false
		}
		if len(s) > len(e.before)+len(e.after) && strings.HasPrefix(s, e.before) && strings.HasSuffix(s, e.after) && f.search(e.to, i+1) {
			return true
		}
	}
	return false
}

// among chooses one of those who have the path.
func (f *finding) among(l *leaf) bool {
	before := int32(-1) // the oldest of those that are not known to have answered at its time
	for i := range l.owners {
		o := &l.owners[i]
		if o.host != "" && f.call.Host != "" && o.host != f.call.Host {
			continue
		}
		why := o.chosen(f.call)
		if why != "" {
			if f.why == NoPath || f.why == NoVersion {
				f.why, f.api = why, o.service.API
			}
			continue
		}
		id, there := o.route(f.call.Method)
		if !there {
			f.why, f.api = NoMethod, o.service.API
			continue
		}
		if o.version.From > f.call.Time {
			before = id
			continue
		}
		f.route = id
		return true
	}
	if before >= 0 {
		f.route = before
	}
	return before >= 0
}

// chosen says why a call does not mean a version, "" where it does.
func (o *owner) chosen(c *Call) Reason {
	s := o.service.Scheme
	said, held := "", true
	switch s.By {
	case "", versioning.Path:
		return ""
	case versioning.Host:
		if c.Host == "" {
			return Untold
		}
		if c.Host != hostname(o.written) {
			return NoVersion
		}
		return ""
	case versioning.Header:
		said, held = c.header(strings.ToLower(s.Name))
	case versioning.Query:
		said, _ = c.query(s.Name)
	case versioning.MediaType:
		var accept string
		if accept, held = c.header("accept"); held {
			said = asked(accept, s, o.written)
		}
	}
	switch {
	case !held:
		return Untold
	case said == o.written || said == "" && o.means:
		return ""
	}
	return NoVersion
}

// asked is the version for which a list of media types asks: what is written, where one of them says so.
func asked(accept string, s versioning.Scheme, written string) string {
	other := ""
	for one := range strings.SplitSeq(accept, ",") {
		base, parameters, _ := strings.Cut(one, ";")
		if s.Name != "" {
			if v, there := versioning.Parameter(parameters, s.Name); there {
				if v == written {
					return written
				}
				other = v
			}
			continue
		}
		if base = strings.TrimSpace(base); strings.EqualFold(base, written) {
			return written
		}
	}
	return other
}

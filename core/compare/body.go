package compare

import (
	"fmt"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// body compares the request bodies of an operation.
func (c *comparer) body(m match) {
	a, b := m.old.Body, m.new.Body
	key := m.key()
	clientSends := m.old.Direction == contract.ClientCalls
	add := func(f *finding, detail string) {
		f.operation, f.reach = key, []string{key}
		f.at = Location{Part: PartRequest}
		c.add(f, detail)
	}
	switch {
	case a == nil && b == nil:
		return
	case a == nil:
		f := &finding{
			kind: "request.body-added", backward: Safe, forward: Hazard, title: m.new.Name() + " reads a request body",
			why: "it may be left out; after a rollback it is ignored", new: b.Node,
		}
		if b.Required == clientSends && b.Required {
			f.kind, f.backward, f.title, f.why = "request.body-required", Breaking, m.new.Name()+" must now have a request body",
				"a request without a body is refused"
			f.witnesses = []*Witness{{Direction: Backward, Operation: key, Position: "request body"}}
		}
		add(f, key)
		return
	case b == nil:
		f := &finding{
			kind: "request.body-removed", backward: Hazard, forward: Safe, title: m.new.Name() + " no longer reads a request body",
			why: "what clients send in it is ignored", old: a.Node,
		}
		if a.Required && clientSends {
			f.forward = Breaking
			f.witnesses = []*Witness{{Direction: Forward, Operation: key, Position: "request body"}}
		}
		add(f, key)
		return
	}
	c.bodyWords(key, Location{Part: PartRequest}, a.Description, b.Description, a.Node, b.Node)
	if a.Required != b.Required {
		strict := Backward
		f := &finding{
			kind: "request.body-now-required", backward: Breaking, forward: Safe, title: "a request body must now be sent",
			why: "a request without a body is refused", old: a.Node, new: b.Node,
		}
		if a.Required == clientSends {
			f.backward, f.forward = Safe, Breaking
			strict = Forward
		}
		if a.Required {
			f.kind, f.title, f.why = "request.body-now-optional", "the request body may now be left out",
				"after a rollback a request without a body is refused"
		}
		f.witnesses = []*Witness{{Direction: strict, Operation: key, Position: "request body"}}
		add(f, "")
	}
	c.contents(content{
		operation: key, at: Location{Part: PartRequest}, role: requestRole(m.old),
		old: a.Content, new: b.Content, oldNode: a.Node, newNode: b.Node,
	})
}

// content is a set of media types on both sides of one position.
type content struct {
	operation        string
	at               Location
	role             shape.Role
	old, new         []*contract.Media
	oldNode, newNode *source.Node
}

// verb is what the API does with a media type here.
func (ct content) verb() string {
	if ct.role.Request {
		return "accepted"
	}
	return "offered"
}

func (c *comparer) bodyWords(operation string, at Location, was, is string, old, new *source.Node) {
	if was == is {
		return
	}
	c.add(&finding{
		kind: at.kindPrefix() + ".wording-changed", operation: operation, at: at, reach: []string{operation},
		title: "the description of the " + at.base() + " has changed", old: old, new: new,
	}, "")
}

// contents compares media types: matched ones by their schemas, the rest as added or removed.
func (c *comparer) contents(ct content) {
	was, is := replaced(ct)
	if was != nil {
		c.mediaReplaced(ct, was, is)
	}
	for _, x := range ct.old {
		if y := findMedia(ct.new, x.Type); y != nil {
			c.media(ct, x, y)
			continue
		}
		if x == was {
			continue
		}
		f := &finding{
			kind: ct.at.kindPrefix() + ".media-type-removed", operation: ct.operation, at: ct.at.in(x.Type), reach: []string{ct.operation},
			title: fmt.Sprintf("%s is no longer %s as %s", ct.at.base(), ct.verb(), x.Type), old: x.Node, new: keyOf(ct.newNode, "content"),
		}
		f.backward, f.forward, f.why = Breaking, Safe, "clients that send "+x.Type+" are turned away"
		if !ct.role.Request {
			f.why = "clients that read " + x.Type + " are answered in another type"
		}
		if wide := covering(ct.new, x.Type); wide != nil {
			// A range takes its place: requests lose nothing, answers may be of more types than before.
			f.kind, f.title = ct.at.kindPrefix()+".media-type-widened", fmt.Sprintf("%s is now %s, was %s", ct.at.base(), wide.Type, x.Type)
			f.backward, f.forward, f.why, f.new = Safe, Breaking, "after a rollback the other types of the range are refused", wide.Node
			if !ct.role.Request {
				f.backward, f.forward, f.why = Hazard, Safe, "clients may receive types of the range that they never saw"
			}
			c.visit(c.mediaPosition(ct, x, wide))
		} else if narrow := coveredBy(ct.new, x.Type); narrow != nil {
			f.kind, f.title, f.new = ct.at.kindPrefix()+".media-type-narrowed",
				fmt.Sprintf("%s is now %s, was %s", ct.at.base(), narrow.Type, x.Type), narrow.Node
			f.backward, f.forward, f.why = Breaking, Safe, "requests of the other types of the range are refused"
			if !ct.role.Request {
				f.backward, f.forward, f.why = Safe, Hazard, "after a rollback clients may receive other types of the range"
			}
			c.visit(c.mediaPosition(ct, x, narrow))
		}
		c.mediaWitness(ct, f, x.Type)
		c.add(f, x.Type)
	}
	for _, y := range ct.new {
		if y == is || spokenFor(ct.old, y.Type) {
			continue
		}
		f := &finding{
			kind: ct.at.kindPrefix() + ".media-type-added", backward: Safe, forward: Breaking, operation: ct.operation, at: ct.at.in(y.Type),
			reach: []string{ct.operation},
			title: fmt.Sprintf("%s is also %s as %s", ct.at.base(), ct.verb(), y.Type),
			why:   "nobody has to use it; after a rollback clients that do are turned away",
			old:   keyOf(ct.oldNode, "content"), new: y.Node,
		}
		c.mediaWitness(ct, f, y.Type)
		c.add(f, y.Type)
	}
}

// spokenFor reports whether a list names a media type, a range around it, or one inside it.
func spokenFor(list []*contract.Media, t string) bool {
	return findMedia(list, t) != nil || covering(list, t) != nil || coveredBy(list, t) != nil
}

// replaced finds the one media type that went where exactly one came: that is one edit.
func replaced(ct content) (was, is *contract.Media) {
	gone, came := 0, 0
	for _, x := range ct.old {
		if !spokenFor(ct.new, x.Type) {
			was, gone = x, gone+1
		}
	}
	for _, y := range ct.new {
		if !spokenFor(ct.old, y.Type) {
			is, came = y, came+1
		}
	}
	if gone != 1 || came != 1 {
		return nil, nil
	}
	return was, is
}

func (c *comparer) mediaReplaced(ct content, x, y *contract.Media) {
	f := &finding{
		kind: ct.at.kindPrefix() + ".media-type-changed", backward: Breaking, forward: Breaking, operation: ct.operation, at: ct.at.in(y.Type),
		reach: []string{ct.operation},
		title: fmt.Sprintf("%s is now %s, was %s", c.bodyName(ct, x), y.Type, x.Type), why: "clients that send " + x.Type + " are turned away",
		old: x.Node, new: y.Node,
		advice: besides(x.Type, y.Type, "uses"),
	}
	if !ct.role.Request {
		f.why = "clients that read " + x.Type + " are answered in another type"
	}
	sent := map[Direction]string{Backward: x.Type, Forward: y.Type}
	if !ct.role.Request {
		sent = map[Direction]string{Backward: y.Type, Forward: x.Type}
	}
	for d, t := range sent {
		f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: ct.operation, Position: ct.at.in(t).position()})
	}
	c.add(f, x.Type)
	if a, b := x.Schema.Deref(), y.Schema.Deref(); a != nil && b != nil && (a.Name == b.Name && a.Name != "" || a.Node.Same(b.Node)) {
		c.visit(c.mediaPosition(ct, x, y)) // the same thing in another type: what else changed in it counts by itself
	}
}

// bodyName is what a title calls a body: the component that several operations share, or where it stands.
func (c *comparer) bodyName(ct content, x *contract.Media) string {
	if at := c.named[0].place(x.Node); at != nil && at.Component != "" {
		return at.Component
	}
	return ct.at.base()
}

func (c *comparer) mediaWitness(ct content, f *finding, t string) {
	for _, d := range []Direction{Backward, Forward} {
		if grade := map[Direction]Grade{Backward: f.backward, Forward: f.forward}[d]; grade == Breaking {
			f.witnesses = append(f.witnesses, &Witness{Direction: d, Operation: ct.operation, Position: ct.at.in(t).position()})
		}
	}
}

func coveredBy(list []*contract.Media, r string) *contract.Media {
	for _, m := range list {
		if mediaCovers(r, m.Type) {
			return m
		}
	}
	return nil
}

func (c *comparer) mediaPosition(ct content, x, y *contract.Media) *position {
	return &position{
		operation: ct.operation, subject: "the " + ct.at.base(), at: ct.at.in(x.Type),
		old: orAny(payload(x), x.Node), new: orAny(payload(y), y.Node), role: ct.role,
	}
}

func (c *comparer) media(ct content, x, y *contract.Media) {
	note := func(kind, title, why string, grade Grade) {
		c.add(&finding{
			kind: ct.at.kindPrefix() + "." + kind, backward: grade, forward: grade, operation: ct.operation, at: ct.at.in(x.Type),
			reach: []string{ct.operation},
			title: title, why: why, old: x.Node, new: y.Node,
		}, "")
	}
	if x.Type != y.Type {
		note("media-type-respelled", fmt.Sprintf("%s is written %s, was %s", ct.at.base(), y.Type, x.Type), "", Editorial)
	}
	if !sameExamples(x.Examples, y.Examples) {
		note("examples-changed", "the examples of the "+ct.at.base()+" have changed", "", Editorial)
	}
	c.encodings(ct, x, y)
	c.visit(c.mediaPosition(ct, x, y))
}

// responses compares what comes back, each status with the response that covers it on the other side.
func (c *comparer) responses(m match) {
	key := m.key()
	for _, x := range m.old.Responses {
		if y := findResponse(m.new.Responses, x.Status); y != nil {
			c.response(m, x, y, x.Status)
			continue
		}
		if y := coveringResponse(m.new.Responses, x.Status); y != nil {
			c.response(m, x, y, x.Status)
			c.add(&finding{
				kind: "response.status-folded", backward: Editorial, forward: Safe, operation: key, at: Location{Part: PartResponse, Status: x.Status},
				reach: []string{key},
				title: fmt.Sprintf("response %s is now told by %s", x.Status, y.Status), old: x.Node, new: y.Node,
			}, key+x.Status)
			continue
		}
		c.add(c.statusRemoved(m, x), key+x.Status)
	}
	for _, y := range m.new.Responses {
		if findResponse(m.old.Responses, y.Status) == nil {
			c.statusAdded(m, y)
		}
	}
}

// keyOf is the value of a key of a node, or the node where it has none: where something stands that went.
func keyOf(n *source.Node, key string) *source.Node {
	if in := n.Get(key); in != nil {
		return in
	}
	return n
}

func findResponse(list []*contract.Response, status string) *contract.Response {
	for _, r := range list {
		if r.Status == status {
			return r
		}
	}
	return nil
}

// coveringResponse is the response that speaks for a status that is not named: its class, then default.
func coveringResponse(list []*contract.Response, status string) *contract.Response {
	if status == "default" {
		return nil
	}
	if !strings.HasSuffix(status, "XX") {
		if r := findResponse(list, status[:1]+"XX"); r != nil {
			return r
		}
	}
	return findResponse(list, "default")
}

func (c *comparer) statusRemoved(m match, x *contract.Response) *finding {
	key := m.key()
	f := &finding{
		kind: "response.status-removed", backward: Safe, forward: Safe, operation: key, at: Location{Part: PartResponse, Status: x.Status},
		reach: []string{key},
		title: fmt.Sprintf("response %s no longer comes", x.Status), why: "clients that handle it do so in vain", old: x.Node,
		new: keyOf(m.new.Node, "responses"),
	}
	switch x.Status[0] {
	case '2':
		f.backward, f.why = Breaking, "clients wait for this success and get another answer"
		f.forward = Hazard
		f.witnesses = []*Witness{{Direction: Backward, Operation: key, Position: "response " + x.Status}}
	case '3':
		f.backward, f.forward, f.why = Hazard, Hazard, "clients that follow it get another answer"
	default:
		if !described(m.new.Responses, x.Status) {
			f.forward = Hazard
		}
	}
	return f
}

// described reports whether the class of a status, or default, stands in the list.
func described(list []*contract.Response, status string) bool {
	return coveringResponse(list, status) != nil
}

func (c *comparer) statusAdded(m match, y *contract.Response) {
	key := m.key()
	f := &finding{
		kind: "response.status-added", backward: Safe, forward: Safe, operation: key, at: Location{Part: PartResponse, Status: y.Status},
		reach: []string{key},
		title: fmt.Sprintf("response %s may come", y.Status), old: keyOf(m.old.Node, "responses"), new: y.Node,
	}
	cover := coveringResponse(m.old.Responses, y.Status)
	switch {
	case cover != nil && y.Status != "default":
		// It came before under the name of its class: whether it still says the same is judged there.
		f.forward, f.why = Editorial, "it was covered by "+cover.Status+" before"
		c.response(m, cover, y, y.Status)
	case y.Status == "default":
		f.backward, f.why = Hazard, "clients may receive statuses that were not described before"
	case strings.HasSuffix(y.Status, "XX") && y.Status[0] >= '4':
		f.backward, f.why = Hazard, "clients may receive statuses of this class that were not described before"
	default:
		f.backward, f.why = Hazard, "clients of the old version do not know this status"
	}
	switch {
	case cover != nil && y.Status != "default":
	case y.Status[0] == '2':
		f.forward = Breaking
		f.witnesses = []*Witness{{Direction: Forward, Operation: key, Position: "response " + y.Status}}
	case y.Status[0] == '3':
		f.forward = Hazard
	}
	c.add(f, key+y.Status)
}

// demandedWords tells of a response that only one version describes because OpenAPI demands it and RAML does not.
func (c *comparer) demandedWords(x, y *contract.Response) bool {
	raml := func(in *contract.Contract) bool { return strings.HasPrefix(in.Dialect, "raml") }
	return raml(c.old) && !raml(c.new) && x.Description == "" && y.Description != "" || raml(c.new) && !raml(c.old) && y.Description == "" &&
		x.Description != ""
}

// responseWords tells once of all responses that have descriptions in one version only.
func (c *comparer) responseWords(operation string) {
	title := "responses have the descriptions that OpenAPI demands"
	if strings.HasPrefix(c.new.Dialect, "raml") {
		title = "responses no longer have the descriptions that OpenAPI demands"
	}
	c.add(&finding{
		kind: "response.wording-changed", at: Location{Part: PartDescription}, reach: []string{operation}, title: title, old: c.old.Node,
		new: c.new.Node,
	}, "")
}

func (c *comparer) response(m match, x, y *contract.Response, status string) {
	key, at := m.key(), Location{Part: PartResponse, Status: status}
	switch {
	case x.Status != y.Status:
	case c.demandedWords(x, y):
		c.responseWords(key)
	default:
		c.bodyWords(key, at, x.Description, y.Description, x.Node, y.Node)
	}
	role := responseRole(m.old)
	c.headers(key, at, x.Headers, y.Headers, x.Node, y.Node, role)
	c.links(m, at, x, y)
	c.contents(content{
		operation: key, at: at, role: role,
		old: x.Content, new: y.Content, oldNode: x.Node, newNode: y.Node,
	})
}

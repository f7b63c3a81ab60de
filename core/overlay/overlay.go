// Package overlay changes a description without touching its source: documents of the OpenAPI Overlay Specification 1.0.0, read, written
// and applied.
//
//	doc, err := overlay.Read(file)          // source.Diagnostics, with the place of each
//	changed, done, err := doc.Apply(ctx, root) // root is not changed
//	done[2].Matched                         // how many places the third action found: 0 for one whose target is no longer there
//
// Actions are carried out in their order, each on what those before it left. Targets are JSONPath (RFC 9535). An update of an object is
// merged into it: what is an object in both is merged in turn, lists are put behind one another, anything else takes the place of what
// was there. An update of a list is put behind its items.
package overlay

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/budget"
	"oldledger/core/jsonpath"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Document is one overlay.
type Document struct {
	Title   string
	Version string
	Extends string // the address of the description that it is for, "" where it does not say
	Actions []Action
}

// Action changes the places that its target finds: it merges Update into each, or removes them.
type Action struct {
	Target      string
	Description string
	Update      *value.Value // nil for none
	Remove      bool

	path *jsonpath.Path
}

// Outcome is what an action came to.
type Outcome struct {
	Target  string   `json:"target"`
	Matched int      `json:"matched"`         // how many places the target found
	Places  []string `json:"places"`          // the first of them, as normalized paths
	Wrong   string   `json:"wrong,omitempty"` // why the action could not be carried out, though its target was found
}

// maxActions bounds the actions of a document.
const maxActions = 5000

// Read reads a document. Everything that is wrong with it is told, as source.Diagnostics.
func Read(f *source.File) (*Document, error) {
	r := reader{}
	root := f.Root
	d := &Document{}
	if !r.object(root, "an overlay", "overlay", "info", "extends", "actions") {
		return nil, r.problems
	}
	if v := r.text(root, "overlay", true); v != "" && !strings.HasPrefix(v, "1.0.") {
		r.wrong(root.Get("overlay"), "overlay is the version of the specification that the document follows: 1.0.0")
	}
	if info := root.Get("info"); info == nil {
		r.wrong(root, "an overlay has an info with a title and a version")
	} else if r.object(info, "info", "title", "version") {
		d.Title, d.Version = r.text(info, "title", true), r.text(info, "version", true)
	}
	d.Extends = r.text(root, "extends", false)
	actions := root.Get("actions")
	switch {
	case actions == nil || actions.Kind != source.Sequence || len(actions.Items()) == 0:
		r.wrong(firstOf(actions, root), "an overlay has a list of actions, with at least one")
	case len(actions.Items()) > maxActions:
		r.wrong(actions, "an overlay has at most %d actions", maxActions)
	default:
		for _, n := range actions.Items() {
			d.Actions = append(d.Actions, r.action(n))
		}
	}
	if len(r.problems) > 0 {
		return nil, r.problems.Sorted(f.Name)
	}
	return d, nil
}

func firstOf(nodes ...*source.Node) *source.Node {
	return nodes[slices.IndexFunc(nodes, func(n *source.Node) bool { return n != nil })]
}

// reader gathers what is wrong.
type reader struct{ problems source.Diagnostics }

// Broken is the rule of documents that are no overlay.
var Broken = source.Rule{
	Name: "overlay-broken", Severity: source.Error, Refused: true,
	Means: "The document is no overlay, and nothing of it is done.",
}

func (r *reader) wrong(n *source.Node, format string, args ...any) {
	r.problems = append(r.problems, n.Wrong(Broken, format, args...))
}

// object reports whether a node is an object; fields that nobody knows and that are no extensions are wrong.
func (r *reader) object(n *source.Node, what string, fields ...string) bool {
	if n == nil || n.Kind != source.Mapping {
		if n != nil {
			r.wrong(n, "%s is an object, not %s", what, n.Kind)
		}
		return false
	}
	for _, m := range n.Members {
		if !slices.Contains(fields, m.Key) && !strings.HasPrefix(m.Key, "x-") {
			r.wrong(m.Value, "%s has no field %s; %s", what, m.Key, source.DidYouMean(m.Key, fields))
		}
	}
	return true
}

func (r *reader) text(n *source.Node, field string, needed bool) string {
	v := n.Get(field)
	switch {
	case v == nil && needed:
		r.wrong(n, "%s is missing", field)
	case v != nil && v.Kind != source.String:
		r.wrong(v, "%s is a text, not %s", field, v.Kind)
	case v != nil:
		return v.Text
	}
	return ""
}

func (r *reader) action(n *source.Node) Action {
	var a Action
	if !r.object(n, "an action", "target", "description", "update", "remove") {
		return a
	}
	a.Target, a.Description = r.text(n, "target", true), r.text(n, "description", false)
	if a.Target != "" {
		var err error
		if a.path, err = jsonpath.Parse(a.Target); err != nil {
			r.wrong(n.Get("target"), "%v", err)
		}
	}
	if v := n.Get("remove"); v != nil {
		if v.Kind != source.Boolean {
			r.wrong(v, "remove is true or false, not %s", v.Kind)
		}
		a.Remove = v.Bool
	}
	if v := n.Get("update"); v != nil {
		a.Update = v.Value()
	}
	if a.Update == nil && !a.Remove {
		r.wrong(n, "an action updates what its target finds, or removes it: remove: true")
	}
	return a
}

// Value is the document as it is written.
func (d *Document) Value() *value.Value {
	text := func(o *value.Value, name, v string) {
		if v != "" {
			o.Members = append(o.Members, value.Member{Name: name, Value: value.Str(v)})
		}
	}
	info := value.Obj()
	text(info, "title", d.Title)
	text(info, "version", d.Version)
	root := value.Obj(value.Member{Name: "overlay", Value: value.Str("1.0.0")}, value.Member{Name: "info", Value: info})
	text(root, "extends", d.Extends)
	actions := value.Arr()
	for _, a := range d.Actions {
		o := value.Obj()
		text(o, "target", a.Target)
		text(o, "description", a.Description)
		if a.Remove {
			o.Members = append(o.Members, value.Member{Name: "remove", Value: value.Bool(true)})
		}
		if a.Update != nil {
			o.Members = append(o.Members, value.Member{Name: "update", Value: a.Update})
		}
		actions.Items = append(actions.Items, o)
	}
	root.Members = append(root.Members, value.Member{Name: "actions", Value: actions})
	return root
}

// maxPlaces bounds the places that an outcome names.
const maxPlaces = 5

// Apply carries the actions out, and tells of each what it came to. An action that finds nothing changes nothing; one whose update does
// not fit what it finds is left out. The error is a target that looks at too much.
func (d *Document) Apply(ctx context.Context, root *value.Value) (*value.Value, []Outcome, error) {
	b := budget.New(ctx, budget.For(size(root)))
	outcomes := make([]Outcome, len(d.Actions))
	for i, a := range d.Actions {
		path := a.path
		if path == nil {
			var err error
			if path, err = jsonpath.Parse(a.Target); err != nil {
				return nil, nil, fmt.Errorf("action %d: %w", i+1, err)
			}
		}
		found, err := path.SelectWithin(b, root)
		if err != nil {
			return nil, nil, fmt.Errorf("action %d: %w", i+1, err)
		}
		found = distinct(found)
		outcomes[i] = Outcome{Target: a.Target, Matched: len(found), Places: []string{}}
		for _, l := range found[:min(len(found), maxPlaces)] {
			outcomes[i].Places = append(outcomes[i].Places, l.String())
		}
		changed, wrong := a.apply(b, root, found)
		if err := b.Err(); err != nil {
			return nil, nil, err
		}
		if b.Over() {
			return nil, nil, fmt.Errorf("action %d: the actions up to it change too many values", i+1)
		}
		if wrong != "" {
			outcomes[i].Wrong = wrong
			continue
		}
		root = changed
	}
	return root, outcomes, nil
}

// distinct leaves out places that came before.
func distinct(found []jsonpath.Located) []jsonpath.Located {
	seen := map[string]bool{}
	return slices.DeleteFunc(found, func(l jsonpath.Located) bool {
		key := l.String()
		again := seen[key]
		seen[key] = true
		return again
	})
}

// size is how many values there are in a value.
func size(v *value.Value) int {
	n := 1
	for _, it := range v.Items {
		n += size(it)
	}
	for _, m := range v.Members {
		n += size(m.Value)
	}
	return n
}

func (a Action) apply(b *budget.Budget, root *value.Value, found []jsonpath.Located) (changed *value.Value, wrong string) {
	for _, l := range slices.Backward(found) { // what stands later goes first, so that the places before it stay
		switch {
		case a.Remove && len(l.Steps) == 0:
			return nil, "the description as a whole cannot be removed"
		case a.Remove:
			root = replace(b, root, l.Steps, func(*value.Value) *value.Value { return nil })
		default:
			root = replace(b, root, l.Steps, func(v *value.Value) *value.Value {
				merged, err := update(v, a.Update)
				if err != "" {
					wrong = l.String() + " " + err
				}
				return merged
			})
		}
		if wrong != "" {
			return nil, wrong
		}
	}
	return root, ""
}

// update is a value with an update put into it (Overlay 1.0.0, section 4.4.3).
func update(v, with *value.Value) (merged *value.Value, wrong string) {
	switch {
	case v.Kind == value.Array:
		return value.Arr(append(slices.Clone(v.Items), with)...), ""
	case v.Kind != value.Object:
		return v, "is neither an object nor a list: update the object around it"
	case with.Kind != value.Object:
		return v, "is an object, and its update is none"
	}
	return merge(v, with), ""
}

func merge(v, with *value.Value) *value.Value {
	switch {
	case v.Kind == value.Array && with.Kind == value.Array:
		return value.Arr(append(slices.Clone(v.Items), with.Items...)...)
	case v.Kind != value.Object || with.Kind != value.Object:
		return with
	}
	out := value.Obj(slices.Clone(v.Members)...)
	for _, m := range with.Members {
		i := slices.IndexFunc(out.Members, func(o value.Member) bool { return o.Name == m.Name })
		if i < 0 {
			out.Members = append(out.Members, m)
			continue
		}
		out.Members[i].Value = merge(out.Members[i].Value, m.Value)
	}
	return out
}

// replace is a value with another one at the end of the steps; nil takes it out. What the steps do not meet is shared. Steps that no
// longer lead anywhere change nothing: an action may take out a place inside one that it takes out, too.
func replace(b *budget.Budget, v *value.Value, steps []jsonpath.Step, by func(*value.Value) *value.Value) *value.Value {
	if !b.Step(10 + len(v.Members) + len(v.Items)) {
		return v
	}
	if len(steps) == 0 {
		return by(v)
	}
	s := steps[0]
	if s.Index >= 0 {
		if s.Index >= len(v.Items) {
			return v
		}
		out := value.Arr(slices.Clone(v.Items)...)
		if inner := replace(b, v.Items[s.Index], steps[1:], by); inner != nil {
			out.Items[s.Index] = inner
		} else {
			out.Items = slices.Delete(out.Items, s.Index, s.Index+1)
		}
		return out
	}
	i := slices.IndexFunc(v.Members, func(m value.Member) bool { return m.Name == s.Name })
	if i < 0 {
		return v
	}
	out := value.Obj(slices.Clone(v.Members)...)
	if inner := replace(b, v.Members[i].Value, steps[1:], by); inner != nil {
		out.Members[i].Value = inner
	} else {
		out.Members = slices.Delete(out.Members, i, i+1)
	}
	return out
}

package reference

import (
	"iter"
	"net/url"
	"slices"
	"strings"

	"oldledger/core/value"
)

// Public is a description as its readers get it: without the operations that shown, the same description with its overlay, hides
// (HiddenField), and without the components, tags and links that only those have. written is an OpenAPI document of one file; it is left as
// it is, and hides is false where nothing is hidden.
func Public(written, shown *value.Value) (public *value.Value, hides bool) {
	h := &hider{at: map[string]bool{}, ids: map[string]bool{}}
	h.document(shown)
	if len(h.at) == 0 {
		return written, false
	}
	public = h.without(written, "")
	return swept(public, written), true
}

type hider struct {
	at  map[string]bool // where what is hidden stands, as JSON Pointers (RFC 6901): "/paths/~1bookings/post"
	ids map[string]bool // operationIds of what is hidden
}

var methods = []string{"get", "put", "post", "delete", "options", "head", "patch", "trace", "query"}

// holders are where components stand, in OpenAPI 3 and 2.0, but for security schemes, which are found by other ways than references.
var holders = []string{
	"/components/schemas", "/components/responses", "/components/parameters", "/components/examples", "/components/requestBodies",
	"/components/headers", "/components/links", "/components/callbacks", "/components/pathItems", "/components/mediaTypes",
	"/definitions", "/parameters", "/responses",
}

func escape(name string) string {
	return strings.NewReplacer("~", "~0", "/", "~1").Replace(name)
}

// document finds what is hidden.
func (h *hider) document(root *value.Value) {
	h.items(root.Get("paths"), "/paths")
	h.items(root.Get("webhooks"), "/webhooks")
	if c := root.Get("components"); c != nil {
		h.items(c.Get("pathItems"), "/components/pathItems")
		h.callbacks(c.Get("callbacks"), "/components/callbacks")
	}
}

// items looks into path items, by their names.
func (h *hider) items(all *value.Value, at string) {
	if all == nil {
		return
	}
	for _, m := range all.Members {
		for below, op := range operations(m.Value) {
			h.operation(op, at+"/"+escape(m.Name)+below)
		}
	}
}

// operations are those of a path item, by where they stand below it.
func operations(item *value.Value) iter.Seq2[string, *value.Value] {
	return func(yield func(string, *value.Value) bool) {
		for _, m := range item.Members {
			if slices.Contains(methods, m.Name) && !yield("/"+m.Name, m.Value) {
				return
			}
		}
		more := item.Get("additionalOperations")
		if more == nil {
			return
		}
		for _, m := range more.Members {
			if !yield("/additionalOperations/"+escape(m.Name), m.Value) {
				return
			}
		}
	}
}

func (h *hider) callbacks(all *value.Value, at string) {
	if all == nil {
		return
	}
	for _, m := range all.Members {
		h.items(m.Value, at+"/"+escape(m.Name))
	}
}

func (h *hider) operation(op *value.Value, at string) {
	if flag := op.Get(HiddenField); flag == nil || !flag.Equal(value.True) {
		h.callbacks(op.Get("callbacks"), at+"/callbacks")
		return
	}
	h.at[at] = true
	if id := op.Get("operationId"); id != nil && id.Text != "" {
		h.ids[id.Text] = true
	}
}

// without is a value without the operations that are hidden, the paths that had no others, and the links that lead to them.
func (h *hider) without(v *value.Value, at string) *value.Value {
	switch v.Kind {
	case value.Array:
		items := make([]*value.Value, len(v.Items))
		for i, item := range v.Items {
			items[i] = h.without(item, at+"/-")
		}
		return value.Arr(items...)
	case value.Object:
		var members []value.Member
		for _, m := range v.Members {
			here := at + "/" + escape(m.Name)
			if h.at[here] || h.leadsAway(m.Value, at) || h.emptied(m.Value, here) {
				continue
			}
			members = append(members, value.Member{Name: m.Name, Value: h.without(m.Value, here)})
		}
		return value.Obj(members...)
	}
	return v
}

// leadsAway reports whether a member of the object at a place is a link to what is hidden.
func (h *hider) leadsAway(v *value.Value, at string) bool {
	if !strings.HasSuffix(at, "/links") {
		return false
	}
	if id := v.Get("operationId"); id != nil && h.ids[id.Text] {
		return true
	}
	ref := v.Get("operationRef")
	return ref != nil && h.at[strings.TrimPrefix(ref.Text, "#")]
}

// emptied reports whether a path has no operation but hidden ones.
func (h *hider) emptied(item *value.Value, at string) bool {
	left, gone := 0, 0
	for below := range operations(item) {
		if h.at[at+below] {
			gone++
		} else {
			left++
		}
	}
	return gone > 0 && left == 0
}

// swept is a document without the components and tags that nothing in it uses, though something in the written one did.
func swept(root, written *value.Value) *value.Value {
	before, after := usesOf(written), usesOf(root)
	if after.anchored {
		return root // who uses what is not to be seen from its references
	}
	after.heirs(root)
	gone := func(at string) bool { return before.components[at] && !after.components[at] }
	var members []value.Member
	for _, m := range root.Members {
		switch {
		case m.Name == "tags":
			m.Value = keepTags(m.Value, func(tag string) bool { return after.tags[tag] || !before.tags[tag] })
		case m.Name == "components":
			var rest []value.Member
			for _, group := range m.Value.Members {
				rest = append(rest, value.Member{Name: group.Name, Value: keepMembers(group.Value, "/components/"+group.Name, gone)})
			}
			m.Value = value.Obj(rest...)
		case slices.Contains(holders, "/"+m.Name):
			m.Value = keepMembers(m.Value, "/"+m.Name, gone)
		}
		members = append(members, m)
	}
	return value.Obj(members...)
}

func keepMembers(v *value.Value, at string, gone func(string) bool) *value.Value {
	if !slices.Contains(holders, at) {
		return v
	}
	var rest []value.Member
	for _, m := range v.Members {
		if !gone(at + "/" + escape(m.Name)) {
			rest = append(rest, m)
		}
	}
	return value.Obj(rest...)
}

func keepTags(v *value.Value, keep func(string) bool) *value.Value {
	var rest []*value.Value
	for _, tag := range v.Items {
		if name := tag.Get("name"); name == nil || keep(name.Text) {
			rest = append(rest, tag)
		}
	}
	return value.Arr(rest...)
}

// uses are the components and tags that a document's operations lead to.
type uses struct {
	root       *value.Value
	components map[string]bool // by pointer
	tags       map[string]bool
	anchored   bool // whether something is referred to by other ways than pointers
}

func usesOf(root *value.Value) *uses {
	u := &uses{root: root, components: map[string]bool{}, tags: map[string]bool{}}
	for _, m := range root.Members {
		if m.Name != "components" && m.Name != "tags" && !slices.Contains(holders, "/"+m.Name) {
			u.walk(m.Value, m.Name)
		}
	}
	return u
}

func (u *uses) walk(v *value.Value, name string) {
	switch v.Kind {
	case value.String:
		u.text(v.Text, name)
	case value.Array:
		for _, item := range v.Items {
			if name == "tags" && item.Kind == value.String {
				u.tags[item.Text] = true
			}
			u.walk(item, "")
		}
	case value.Object:
		for _, m := range v.Members {
			if name == "mapping" && m.Value.Kind == value.String && !strings.ContainsAny(m.Value.Text, "#/") {
				u.component("/components/schemas/" + escape(m.Value.Text))
			}
			u.walk(m.Value, m.Name)
		}
	}
}

// text looks at a string for the component that it points to; in whatever member it stands, one too many is kept rather than one too few.
func (u *uses) text(text, name string) {
	switch name {
	case "$dynamicRef", "$recursiveRef", "$anchor", "$dynamicAnchor", "$id":
		u.anchored = true
	}
	pointer, ok := strings.CutPrefix(text, "#/")
	if !ok {
		return
	}
	parts := strings.SplitN(pointer, "/", 4)
	for _, n := range []int{2, 3} {
		if len(parts) >= n && slices.Contains(holders, "/"+strings.Join(parts[:n-1], "/")) {
			u.component("/" + strings.Join(parts[:n], "/"))
		}
	}
}

func (u *uses) component(at string) {
	if unescaped, err := url.PathUnescape(at); err == nil {
		at = unescaped
	}
	if u.components[at] {
		return
	}
	v := u.root.At(at)
	if v == nil {
		return
	}
	u.components[at] = true
	u.walk(v, "")
}

// heirs adds the schemas that build on one that is used and names a discriminator: they are what it stands for.
func (u *uses) heirs(root *value.Value) {
	for _, group := range []string{"/components/schemas", "/definitions"} {
		all := root.At(group)
		if all == nil {
			continue
		}
		for before := -1; before < len(u.components); {
			before = len(u.components)
			for _, m := range all.Members {
				if u.buildsOn(m.Value, 0) {
					u.component(group + "/" + escape(m.Name))
				}
			}
		}
	}
}

// maxInheritance bounds how far a schema's bases are followed.
const maxInheritance = 20

// buildsOn reports whether a schema has a part that is used, and that names a discriminator or builds on one that does.
func (u *uses) buildsOn(schema *value.Value, depth int) bool {
	all := schema.Get("allOf")
	if all == nil || depth > maxInheritance {
		return false
	}
	for _, part := range all.Items {
		ref := part.Get("$ref")
		if ref == nil || !u.components[strings.TrimPrefix(ref.Text, "#")] {
			continue
		}
		if base := u.root.At(strings.TrimPrefix(ref.Text, "#")); base != nil && (base.Get("discriminator") != nil || u.buildsOn(base, depth+1)) {
			return true
		}
	}
	return false
}

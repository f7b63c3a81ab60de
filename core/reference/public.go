package reference

import (
	"iter"
	"net/url"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// Public is a description as some of its readers get it: without the operations that shown, the same description with its overlay, hides
// (HiddenField), without those that withheld tells, by their keys and the groups that they are in (contract.Operation.Key, tags), and
// without the components, tags and links that only those have. written is an OpenAPI document of one file; it is left as it is, and hides
// is false where nothing is left out. withheld may be nil.
func Public(written, shown *value.Value, withheld func(key string, groups []string) bool) (public *value.Value, hides bool) {
	h := &hider{root: shown, at: map[string]bool{}, ids: map[string]bool{}, withheld: withheld}
	h.document(shown)
	if len(h.at) == 0 {
		return written, false
	}
	public = h.without(written, "")
	return swept(public, written), true
}

type hider struct {
	root *value.Value

	at  map[string]bool // where what is hidden stands, as JSON Pointers (RFC 6901): "/paths/~1bookings/post"
	ids map[string]bool // operationIds of what is hidden

	withheld func(key string, groups []string) bool // nil withholds nothing
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
	h.items(root.Get("paths"), "/paths", func(method, path string) string { return method + " " + contract.WirePath(path) })
	h.items(root.Get("webhooks"), "/webhooks", func(method, name string) string { return "webhook " + name + " " + method })
	if c := root.Get("components"); c != nil {
		h.items(c.Get("pathItems"), "/components/pathItems", unnamed)
		h.callbacks(c.Get("callbacks"), "/components/callbacks")
	}
}

// unnamed is the key of what is an operation only where it is used.
func unnamed(string, string) string { return "" }

// items looks into path items, by their names; key makes that of an operation of its method, in capitals, and the item's name.
func (h *hider) items(all *value.Value, at string, key func(method, name string) string) {
	if all == nil {
		return
	}
	for _, m := range all.Members {
		item, here := m.Value, at+"/"+escape(m.Name)
		if there, ok := h.sharedItem(item); ok { // what one of its users may not show, none of them does
			item, here = h.root.At(there), there
		}
		for below, op := range operations(item) {
			method := strings.TrimPrefix(strings.TrimPrefix(below, "/additionalOperations"), "/")
			h.operation(op, here+below, key(strings.ToUpper(method), m.Name))
		}
	}
}

// sharedItem is where the path item stands to which another refers.
func (h *hider) sharedItem(item *value.Value) (at string, ok bool) {
	ref := item.Get("$ref")
	if ref == nil {
		return "", false
	}
	at, ok = strings.CutPrefix(ref.Text, "#")
	if unescaped, err := url.PathUnescape(at); err == nil {
		at = unescaped
	}
	shared := h.root.At(at)
	return at, ok && shared != nil && shared.Kind == value.Object
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
		h.items(m.Value, at+"/"+escape(m.Name), unnamed)
	}
}

func (h *hider) operation(op *value.Value, at, key string) {
	flag := op.Get(HiddenField)
	if hidden := flag != nil && flag.Equal(value.True); !hidden && (h.withheld == nil || !h.withheld(key, groupsOf(op))) {
		h.callbacks(op.Get("callbacks"), at+"/callbacks")
		return
	}
	h.at[at] = true
	if id := op.Get("operationId"); id != nil && id.Text != "" {
		h.ids[id.Text] = true
	}
}

// groupsOf are the groups that an operation is in.
func groupsOf(op *value.Value) []string {
	tags := op.Get("tags")
	if tags == nil {
		return nil
	}
	var all []string
	for _, tag := range tags.Items {
		all = append(all, tag.Text)
	}
	return all
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
	before.follow(written)
	after.follow(root)
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
	anchors    map[string]bool // the names, other than pointers, by which something is referred to
}

func usesOf(root *value.Value) *uses {
	u := &uses{root: root, components: map[string]bool{}, tags: map[string]bool{}, anchors: map[string]bool{}}
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
	pointer, ok := strings.CutPrefix(text, "#/")
	if !ok {
		switch name {
		case "$ref", "$dynamicRef", "$recursiveRef":
			uri, fragment, _ := strings.Cut(text, "#")
			u.anchors[fragment], u.anchors[lastStep(uri)] = true, true
		}
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

// follow adds what is used by other ways than pointers, until there is no more of it.
func (u *uses) follow(root *value.Value) {
	anchored := map[string]map[string]bool{} // the names by which components can be referred to, by their places
	for _, holder := range holders {
		if all := root.At(holder); all != nil {
			for _, m := range all.Members {
				names := map[string]bool{}
				anchorsIn(m.Value, names)
				anchored[holder+"/"+escape(m.Name)] = names
			}
		}
	}
	for before := -1; before < len(u.components); {
		before = len(u.components)
		u.heirs(root)
		for at, names := range anchored {
			for name := range names {
				if u.anchors[name] {
					u.component(at)
				}
			}
		}
	}
}

// anchorsIn adds the names by which a schema, or one in it, can be referred to from elsewhere (JSON Schema 2020-12, section 8.2).
func anchorsIn(v *value.Value, into map[string]bool) {
	for _, item := range v.Items {
		anchorsIn(item, into)
	}
	for _, m := range v.Members {
		switch text := m.Value.Text; m.Name {
		case "$anchor", "$dynamicAnchor":
			into[text] = true
		case "$id":
			into[lastStep(strings.TrimSuffix(text, "#"))] = true
		case "$recursiveAnchor":
			into[""] = true // by "#"
		}
		anchorsIn(m.Value, into)
	}
}

// lastStep is the end of an address: it may be given from another place than it was written from.
func lastStep(uri string) string { return uri[strings.LastIndexByte(uri, '/')+1:] }

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

package openapi

import (
	"fmt"
	"slices"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// Bundle writes the files of a description as one: what stands in other files moves under the components of the entry, by the
// names that readers know, and every reference names its new place. Paths and callbacks in files of their own are written where they
// are used. The order and the words of the author are kept; comments are not.
//
// The error is source.Diagnostics: what cannot be read, and what means something else in one file: a $dynamicRef between schemas with an
// $id, a link by operationRef from or to another file.
func Bundle(set *source.Set) (*value.Value, error) {
	r := newReader(set)
	c := r.contract(set.Entry.Root)
	if err := set.Err(); err != nil {
		return nil, err
	}
	if c != nil {
		r.linksStay(c)
	}
	if refusing := r.diagnostics.Refusing(); len(refusing) > 0 {
		return nil, refusing.Sorted(set.Entry.Name)
	}
	b := &bundler{
		reader: r, root: set.Entry.Root,
		used: map[*source.Node]use{}, moved: map[*source.Node]home{}, inPlace: map[*source.Node]*source.Node{},
		taken: map[string]bool{}, sections: map[string][]value.Member{}, schemaNodes: map[*source.Node]bool{},
	}
	return b.bundle()
}

var staysApart = source.Rule{
	Name: "stays-apart", Severity: source.Error, Refused: true,
	Means: "The files of the description cannot be written as one.",
}

// linksStay reports links that name an operation by its place in a file: that place is another one in the bundle.
func (r *reader) linksStay(c *contract.Contract) {
	for _, op := range c.All() {
		for _, resp := range op.Responses {
			for _, l := range resp.Links {
				if l.OperationRef != "" && (l.Node.File() != r.set.Entry || l.OperationRef[0] != '#') {
					r.report(l.Node.Get("operationRef").Wrong(staysApart,
						"%s names an operation by its place in a file; name it by its operationId to bundle it", l.OperationRef))
				}
			}
		}
	}
}

// home is the place of something under components.
type home struct{ section, name string }

// bundler writes one description.
type bundler struct {
	*reader
	root        *source.Node
	used        map[*source.Node]use          // by the node of the reference
	moved       map[*source.Node]home         // what came from elsewhere, and where it stands now
	inPlace     map[*source.Node]*source.Node // components of the entry that only point elsewhere, and at what
	taken       map[string]bool               // section/name
	sections    map[string][]value.Member     // what is added to the entry's components
	queue       []*source.Node                // moved and not yet written
	schemaNodes map[*source.Node]bool
}

func (b *bundler) bundle() (*value.Value, error) {
	for n := range b.schemas {
		b.schemaNodes[n] = true
	}
	for key := range b.scoped {
		b.schemaNodes[key.node] = true
	}
	for _, u := range b.uses {
		if u.as == "" && len(b.resourcesOf(u.ref.File())) > 1 {
			return nil, source.Diagnostics{u.ref.Wrong(staysApart,
				"a $dynamicRef between schemas with an $id of their own means another schema once they are one file; write it as $ref to bundle it")}
		}
		b.used[u.ref] = u
	}
	b.ownComponents()
	whole := b.render(b.root)
	for len(b.queue) > 0 {
		n := b.queue[0]
		b.queue = b.queue[1:]
		h := b.moved[n]
		b.sections[h.section] = append(b.sections[h.section], value.Member{Name: h.name, Value: b.render(n)})
	}
	b.join(whole)
	return whole, nil
}

// ownComponents notes the names that are taken, and the components that only point into another file: the target takes their place.
func (b *bundler) ownComponents() {
	for _, section := range b.sectionsOf() {
		for _, m := range b.section(section).members() {
			b.taken[section+"/"+m.Key] = true
			ref := m.Value.Get("$ref")
			u, followed := b.used[ref]
			if ref == nil || !followed || len(m.Value.Members) > 1 || u.target.File() == b.root.File() {
				continue
			}
			if _, done := b.moved[u.target]; !done {
				b.moved[u.target] = home{section, m.Key}
				b.inPlace[m.Value] = u.target
			}
		}
	}
}

// componentSection is one section of the entry's components, perhaps nil.
type componentSection struct{ *source.Node }

func (s componentSection) members() []source.Member {
	if s.Node == nil {
		return nil
	}
	return s.Members
}

func (b *bundler) sectionsOf() []string {
	if b.dialect == v20 {
		return []string{"definitions", "parameters", "responses"}
	}
	return []string{"schemas", "parameters", "headers", "requestBodies", "responses", "securitySchemes", "examples", "links", "mediaTypes"}
}

func (b *bundler) section(name string) componentSection {
	if b.dialect == v20 {
		return componentSection{b.root.Get(name)}
	}
	return componentSection{b.root.Get("components").Get(name)}
}

// pointer is how a reference names a component.
func (b *bundler) pointer(h home) string {
	if b.dialect == v20 {
		return "#/" + h.section + "/" + source.EscapeStep(h.name)
	}
	return "#/components/" + h.section + "/" + source.EscapeStep(h.name)
}

// render writes a node with its references as they are in the bundle.
func (b *bundler) render(n *source.Node) *value.Value {
	if target := b.inPlace[n]; target != nil {
		return b.render(target)
	}
	switch n.Kind {
	case source.Sequence:
		items := make([]*value.Value, len(n.Items()))
		for i, it := range n.Items() {
			items[i] = b.render(it)
		}
		return value.Arr(items...)
	case source.Mapping:
		return b.object(n)
	}
	if u, is := b.used[n]; is {
		return value.Str(b.reference(u))
	}
	return n.Value()
}

func (b *bundler) object(n *source.Node) *value.Value {
	if u, is := b.used[n.Get("$ref")]; is && (u.as == "pathItems" || u.as == "callbacks") && u.target.File() != b.root.File() {
		return b.render(u.target)
	}
	members := make([]value.Member, 0, len(n.Members))
	for _, m := range n.Members {
		if (m.Key == "$id" || m.Key == "$anchor") && b.schemaNodes[n] || m.Key == "$self" && n == b.root {
			continue // every reference says where its target stands now
		}
		members = append(members, value.Member{Name: m.Key, Value: b.render(m.Value)})
	}
	return value.Obj(members...)
}

// reference is what a reference says in the bundle.
func (b *bundler) reference(u use) string {
	if u.target.File() == b.root.File() {
		return "#" + u.target.Pointer()
	}
	h, done := b.moved[u.target]
	if !done {
		h = b.home(u)
		b.moved[u.target] = h
		b.queue = append(b.queue, u.target)
	}
	return b.pointer(h)
}

// home finds a free name for what comes from another file.
func (b *bundler) home(u use) home {
	section, name := u.as, u.target.Step()
	if b.dialect == v20 && section == "schemas" {
		section = "definitions"
	}
	if u.as == "schemas" {
		if named := b.componentName(u.target); named != "" {
			name = named
		}
	}
	if name == "" {
		name = fileStem(u.target.File())
	}
	name = componentText(name)
	free := name
	for i := 2; b.taken[section+"/"+free]; i++ {
		free = fmt.Sprintf("%s.%d", name, i)
	}
	b.taken[section+"/"+free] = true
	return home{section, free}
}

// componentText keeps to the characters of component names (OpenAPI 3.1.1, Components Object).
func componentText(name string) string {
	text := []rune(name)
	for i, c := range text {
		if !(c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9' || c == '.' || c == '-' || c == '_') {
			text[i] = '-'
		}
	}
	return string(text)
}

// join hangs what was moved into the components of the entry.
func (b *bundler) join(whole *value.Value) {
	parent := whole
	if b.dialect != v20 && len(b.sections) > 0 {
		parent = member(whole, "components")
	}
	for _, section := range b.sectionsOf() {
		if added := b.sections[section]; len(added) > 0 {
			at := member(parent, section)
			at.Members = append(at.Members, added...)
		}
	}
}

// member is the object called name in v, added at the end where it is not there.
func member(v *value.Value, name string) *value.Value {
	i := slices.IndexFunc(v.Members, func(m value.Member) bool { return m.Name == name })
	if i < 0 {
		v.Members = append(v.Members, value.Member{Name: name, Value: value.Obj()})
		i = len(v.Members) - 1
	}
	return v.Members[i].Value
}

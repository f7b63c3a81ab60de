package guide

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/shape"
	"oldledger/core/value"
)

// fits reports whether a value is one that a sender may send by the media type's schema.
func (w *writer) fits(v *value.Value, m *contract.Media, clientSends bool) bool {
	if m == nil || m.Schema == nil {
		return true
	}
	holds, known := w.space.Contains(w.space.Lower(m.Schema, shape.Role{Sends: true, Request: clientSends}), v)
	return holds && known
}

// migrate writes a message of the old version as one of the new version: under the new names, with what must now be there, and without what
// is not taken any more. It is nil where nothing of the old message can stay; a sample takes its place then.
func (w *writer) migrate(v *value.Value, m *contract.Media, clientSends bool) *value.Value {
	laid := w.overlay(v, m, clientSends)
	was := w.renamed(v)
	if laid != nil && sharedParts(was, laid) == sharedParts(was, was) {
		return laid
	}
	if near := w.nearest(was, m, clientSends); near != nil && (laid == nil || sharedParts(was, near) > sharedParts(was, laid) ||
		sharedParts(was, near) == sharedParts(was, laid) && w.space.Parts(near) < w.space.Parts(laid)) {
		return near
	}
	return laid
}

// maxMigrated bounds the parts of an old message of which it is tried whether the new one can have them.
const maxMigrated = 60

// nearest is a message of the new version with as much of an old one as it can have; nil where it can have nothing.
func (w *writer) nearest(v *value.Value, m *contract.Media, clientSends bool) *value.Value {
	if m == nil || m.Schema == nil {
		return nil
	}
	sets := []shape.Shape{w.space.Lower(m.Schema, shape.Role{Sends: true, Request: clientSends})}
	var best *value.Value
	left := maxMigrated
	var keep func(v *value.Value, at func(shape.Shape) shape.Shape)
	keep = func(v *value.Value, at func(shape.Shape) shape.Shape) {
		if left--; left < 0 {
			return
		}
		if found := w.space.Find(append(sets[:len(sets):len(sets)], at(w.space.Only(v)))...).Witness; found != nil {
			sets, best = append(sets, at(w.space.Only(v))), found
			return
		}
		if len(v.Members)+len(v.Items) == 0 { // another value, where it may be there at all
			if found := w.space.Find(append(sets[:len(sets):len(sets)], at(w.space.Any()))...).Witness; found != nil {
				sets, best = append(sets, at(w.space.Any())), found
			}
			return
		}
		for _, member := range v.Members {
			keep(member.Value, func(s shape.Shape) shape.Shape { return at(w.space.InProperty(member.Name, s)) })
		}
		if len(v.Items) > 0 {
			keep(v.Items[0], func(s shape.Shape) shape.Shape { return at(w.space.InItem(0, s)) })
		}
	}
	keep(v, func(s shape.Shape) shape.Shape { return s })
	return best
}

// sharedParts counts what of one value stands in another at the same place.
func sharedParts(v, in *value.Value) int {
	if in == nil {
		return 0
	}
	n := 0
	for _, m := range v.Members {
		n += sharedParts(m.Value, in.Get(m.Name))
	}
	for i, it := range v.Items {
		if i < len(in.Items) {
			n += sharedParts(it, in.Items[i])
		}
	}
	if len(v.Members)+len(v.Items) == 0 && v.Key() == in.Key() {
		return 1
	}
	return n
}

// overlay is carry as a sample of the new version that says what the old message says.
func (w *writer) overlay(v *value.Value, m *contract.Media, clientSends bool) *value.Value {
	now, _ := w.fill[w.new].Media(m, clientSends)
	if now == nil {
		return nil
	}
	was := w.renamed(v)
	if w.fits(was, m, clientSends) {
		return was
	}
	if v = overlaid(was, now); w.fits(v, m, clientSends) {
		return pruned(v, was, func(v *value.Value) bool { return w.fits(v, m, clientSends) })
	}
	if v.Kind != value.Object || now.Kind != value.Object {
		return nil
	}
	for _, member := range now.Members { // one part of it may be what is refused
		if other := with(v, member.Name, member.Value); w.fits(other, m, clientSends) {
			return other
		}
	}
	return nil
}

// renamed is the value under the names of the new version.
func (w *writer) renamed(v *value.Value) *value.Value {
	names := w.newNames()
	if len(names) == 0 {
		return v
	}
	var rename func(v *value.Value) *value.Value
	rename = func(v *value.Value) *value.Value {
		out := *v
		out.Members, out.Items = nil, nil
		for _, m := range v.Members {
			name := m.Name
			if to, ok := names[name]; ok && v.Get(to) == nil {
				name = to
			}
			out.Members = append(out.Members, value.Member{Name: name, Value: rename(m.Value)})
		}
		for _, it := range v.Items {
			out.Items = append(out.Items, rename(it))
		}
		return &out
	}
	return rename(v)
}

// newNames are the names of fields that have another one now.
func (w *writer) newNames() map[string]string {
	if w.fieldNames != nil {
		return w.fieldNames
	}
	w.fieldNames = map[string]string{}
	for _, ch := range w.comparison.Changes {
		for _, r := range w.renames(ch) {
			if ch.Moved == nil {
				w.fieldNames[r.From] = r.To
			}
		}
	}
	return w.fieldNames
}

// overlaid is a sample of the new version with what the old message says wherever both say something of the same kind.
func overlaid(v, now *value.Value) *value.Value {
	if v.Kind != now.Kind || v.Kind != value.Object {
		if v.Kind == now.Kind {
			return v
		}
		return now
	}
	out := *now
	out.Members = nil
	for _, m := range now.Members {
		if of := v.Get(m.Name); of != nil {
			m.Value = overlaid(of, m.Value)
		}
		out.Members = append(out.Members, m)
	}
	return &out
}

// maxPruned bounds how many of the parts that a sample added are tried.
const maxPruned = 40

// maxPrunedMembers is how large an object is that is looked through: larger ones nobody reads.
const maxPrunedMembers = 200

// pruned leaves out what a sample added to the old message and nobody asks for.
func pruned(v, was *value.Value, fits func(*value.Value) bool) *value.Value {
	left := maxPruned
	var prune func(v, was *value.Value, put func(*value.Value) *value.Value) *value.Value
	prune = func(v, was *value.Value, put func(*value.Value) *value.Value) *value.Value {
		if v.Kind != value.Object || was == nil || len(v.Members) > maxPrunedMembers {
			return v
		}
		for _, m := range v.Members {
			if old := was.Get(m.Name); old != nil {
				v = with(v, m.Name, prune(m.Value, old, func(inner *value.Value) *value.Value { return put(with(v, m.Name, inner)) }))
			} else if left > 0 {
				left--
				if less := without(v, m.Name); fits(put(less)) {
					v = less
				}
			}
		}
		return v
	}
	return prune(v, was, func(v *value.Value) *value.Value { return v })
}

// without is an object but for one of its members.
func without(v *value.Value, name string) *value.Value {
	out := *v
	out.Members = slices.DeleteFunc(slices.Clone(v.Members), func(m value.Member) bool { return m.Name == name })
	return &out
}

// with is an object with another value under a name.
func with(v *value.Value, name string, member *value.Value) *value.Value {
	out := *v
	out.Members = nil
	for _, m := range v.Members {
		if m.Name == name {
			m.Value = member
		}
		out.Members = append(out.Members, m)
	}
	return &out
}

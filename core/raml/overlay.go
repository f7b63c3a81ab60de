package raml

import (
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// extended reads what an overlay or extension extends, and lays it over that (RAML 1.0, Overlays and Extensions).
func (r *reader) extended(f *source.File, kind string) *source.Node {
	at := f.Root.Get("extends")
	if at == nil {
		r.report(f.Root.Wrong(contract.ReferenceBroken, "the key extends is missing; it names the file that this %s extends",
			strings.ToLower(kind)))
		return nil
	}
	p, ok := r.pathOf(at)
	if !ok {
		return nil
	}
	below, err := r.set.File(p)
	if err != nil {
		r.notOpened(at, err)
		return nil
	}
	if r.scopes[below] != nil {
		r.report(at.Wrong(contract.ReferenceBroken, "%s is extended by itself", at.Text))
		return nil
	}
	if h, ok := headerOf(below); !ok || h.version != "1.0" || h.fragment != "" && h.fragment != "Overlay" && h.fragment != "Extension" {
		r.report(at.Wrong(contract.ReferenceBroken, "%s is no RAML 1.0 description, overlay or extension", at.Text))
		return nil
	}
	master := r.opened(below)
	if master == nil {
		return nil
	}
	return laying{r, kind == "Overlay"}.over(master, f.Root, "", 0)
}

// laying lays one tree over another: objects join, lists are joined, the upper value wins.
type laying struct {
	r       *reader
	overlay bool // only words, examples, documentation and annotations may differ
}

// words are the keys by which an overlay may differ from what it extends.
var overlaid = []string{
	"title", "displayName", "description", "documentation", "usage", "example", "examples", "extends", "uses", "annotationTypes", "default",
}

func (l laying) over(master, upper *source.Node, key string, depth int) *source.Node {
	u, m := l.r.val(upper), l.r.val(master)
	switch {
	case u == nil || depth > source.MaxDepth || !l.r.grow(upper, 1):
		return master
	case m == nil || m.Kind == source.Null:
		if u.Kind != source.Null && l.changes(upper, key, "adds") {
			return master
		}
		return upper
	case u.Kind == source.Null:
		return master
	case u.Kind == source.Mapping && m.Kind == source.Mapping && !slices.Contains([]string{"example", "default"}, key):
		return l.members(m, u, depth)
	case u.Kind == source.Sequence && m.Kind == source.Sequence && !slices.Contains([]string{"example", "default"}, key):
		all := slices.Clone(m.Items())
		for _, it := range u.Items() {
			if !slices.ContainsFunc(all, it.Same) && !l.changes(it, key, "adds") {
				all = append(all, it)
			}
		}
		return m.WithItems(all)
	case m.Kind == source.Mapping && m.Get("value") == nil && u.Kind == source.String:
		if t := m.Get("type"); t != nil && t.Same(u) {
			return master
		}
	case m.Kind == source.String && u.Kind == source.Mapping && u.Get("value") == nil:
		return l.members(m.With([]source.Member{shorthand(m)}), u, depth)
	}
	if !m.Same(u) && l.changes(upper, key, "changes") {
		return master
	}
	return upper
}

func (l laying) members(m, u *source.Node, depth int) *source.Node {
	all := slices.Clone(m.Members)
	for _, o := range u.Members {
		i := slices.IndexFunc(all, func(x source.Member) bool { return x.Key == o.Key })
		free := laying{l.r, l.overlay && !slices.Contains(overlaid, o.Key) && !isAnnotation(o.Key)}
		switch {
		case o.Key == "extends":
		case i < 0:
			if !free.changes(o.Value, o.Key, "adds") {
				all = append(all, o)
			}
		default:
			all[i].Value = free.over(all[i].Value, o.Value, o.Key, depth+1)
		}
	}
	return m.With(all)
}

// changes tells of what an overlay must leave as it is, and whether it is left.
func (l laying) changes(n *source.Node, key, what string) bool {
	if l.overlay {
		l.r.report(n.KeyWrong(contract.OverlayChanges,
			"this overlay %s %s, which changes what the API does, and is left out; make it an Extension", what, key))
	}
	return l.overlay
}

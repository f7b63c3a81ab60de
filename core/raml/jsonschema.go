package raml

import (
	"errors"
	"path"
	"slices"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// isForeign tells a schema in another language: a text that begins like one, or an included file that is no RAML.
func isForeign(v *source.Node) bool {
	if v.Kind == source.String && foreign(v.Text) {
		return true
	}
	ext := strings.ToLower(path.Ext(v.File().Name))
	return ext == ".json" || v == v.File().Root && !slices.Contains([]string{".raml", ".yaml", ".yml"}, ext)
}

func jsonText(v *source.Node) bool {
	return v.Kind == source.Mapping || v.Kind == source.Boolean || !strings.HasPrefix(strings.TrimSpace(v.Text), "<")
}

// jsonSchema reads a JSON Schema, of a file of its own or inside a text, of whatever draft.
func (r *reader) jsonSchema(s *contract.Schema, v *source.Node) {
	root := v
	if v.Kind == source.String {
		f, err := source.Embedded(v)
		if err != nil {
			var inside source.Diagnostics
			if errors.As(err, &inside) {
				for _, p := range inside {
					r.report(p)
				}
			}
			return
		}
		root = f.Root
	}
	f, at := root.File(), root.Pointer()
	if !r.modern[f] {
		r.modern[f] = true
		f.Root = modernised(f.Root, 0)
	}
	root = f.Root.Resolve(at)
	if r.json == nil {
		r.json = openapi.NewSchemas(r.set)
	}
	read, wrong := r.json.Read(root)
	for _, d := range wrong {
		r.report(d)
	}
	name := s.Name
	*s = *read.Copy()
	s.Name = name
}

// modernised writes a schema of an older draft in the words of JSON Schema 2020-12, place for place (its Appendix and those of the
// drafts before it say what became of each word).
func modernised(n *source.Node, depth int) *source.Node {
	if depth > source.MaxDepth {
		return n
	}
	switch n.Kind {
	case source.Sequence:
		items := make([]*source.Node, len(n.Items()))
		for i, it := range n.Items() {
			items[i] = modernised(it, depth+1)
		}
		return n.WithItems(items)
	case source.Mapping:
	default:
		return n
	}
	var members []source.Member
	for _, m := range n.Members {
		switch {
		case m.Key == "enum" || m.Key == "const" || m.Key == "default" || m.Key == "example" || m.Key == "examples":
		case (m.Key == "exclusiveMinimum" || m.Key == "exclusiveMaximum") && m.Value.Kind == source.Boolean:
			limit := n.Get(strings.ToLower(m.Key[len("exclusive"):]))
			if !m.Value.Bool || limit == nil {
				continue
			}
			m.Value = m.Value.WithValue(limit)
		case (m.Key == "minimum" || m.Key == "maximum") && isTrue(n.Get("exclusive"+strings.ToUpper(m.Key[:1])+m.Key[1:])):
			continue
		case m.Key == "items" && m.Value.Kind == source.Sequence:
			m.Key, m.Value = "prefixItems", modernised(m.Value, depth+1)
		case m.Key == "additionalItems":
			if it := n.Get("items"); it == nil || it.Kind != source.Sequence {
				continue
			}
			m.Key, m.Value = "items", modernised(m.Value, depth+1)
		case m.Key == "dependencies" && m.Value.Kind == source.Mapping:
			members = append(members, dependencies(m, depth)...)
			continue
		case m.Key == "required" && m.Value.Kind == source.Boolean, m.Key == "id" && m.Value.Kind == source.String, m.Key == "$schema":
			continue
		case m.Key == "type" && m.Value.Kind == source.String && m.Value.Text == "any":
			continue
		default:
			m.Value = modernised(m.Value, depth+1)
		}
		members = append(members, m)
	}
	if n.Get("required") == nil {
		members = append(members, requiredOf(n)...)
	}
	return n.With(members)
}

func isTrue(n *source.Node) bool { return n != nil && n.Kind == source.Boolean && n.Bool }

// requiredOf gathers the properties that say required: true of themselves, as draft 3 has it.
func requiredOf(n *source.Node) []source.Member {
	props := n.Get("properties")
	if props == nil || props.Kind != source.Mapping {
		return nil
	}
	var names []*source.Node
	for _, p := range props.Members {
		if isTrue(p.Value.Get("required")) {
			names = append(names, p.Value.Get("required").WithText(p.Key))
		}
	}
	if names == nil {
		return nil
	}
	return []source.Member{{Key: "required", Value: props.WithItems(names), KeyLine: props.Line, KeyColumn: props.Column}}
}

// dependencies are split into those that name properties and those that are schemas.
func dependencies(m source.Member, depth int) []source.Member {
	var names, schemas []source.Member
	for _, d := range m.Value.Members {
		switch d.Value.Kind {
		case source.Sequence:
			names = append(names, d)
		case source.String:
			d.Value = d.Value.WithItems([]*source.Node{d.Value})
			names = append(names, d)
		default:
			d.Value = modernised(d.Value, depth+1)
			schemas = append(schemas, d)
		}
	}
	var all []source.Member
	if names != nil {
		all = append(all, source.Member{Key: "dependentRequired", Value: m.Value.With(names), KeyLine: m.KeyLine, KeyColumn: m.KeyColumn})
	}
	if schemas != nil {
		all = append(all, source.Member{Key: "dependentSchemas", Value: m.Value.With(schemas), KeyLine: m.KeyLine, KeyColumn: m.KeyColumn})
	}
	return all
}

package value

import (
	"bytes"

	"go.yaml.in/yaml/v3"
)

// YAML is the value as YAML 1.2 in block style, two spaces a level, members in their order.
func (v *Value) YAML() []byte {
	var b bytes.Buffer
	enc := yaml.NewEncoder(&b)
	enc.SetIndent(2)
	if err := enc.Encode(v.yaml()); err != nil {
		panic("value: a tree of scalars, lists and objects is always YAML: " + err.Error())
	}
	return b.Bytes()
}

func (v *Value) yaml() *yaml.Node {
	switch v.Kind {
	case Null:
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!null", Value: "null"}
	case Boolean:
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!bool", Value: v.String()}
	case Number:
		return &yaml.Node{Kind: yaml.ScalarNode, Value: v.number()}
	case String:
		return yamlString(v.Text)
	case Array:
		n := &yaml.Node{Kind: yaml.SequenceNode}
		for _, it := range v.Items {
			n.Content = append(n.Content, it.yaml())
		}
		if len(v.Items) == 0 {
			n.Style = yaml.FlowStyle
		}
		return n
	}
	n := &yaml.Node{Kind: yaml.MappingNode}
	for _, m := range v.Members {
		n.Content = append(n.Content, yamlString(m.Name), m.Value.yaml())
	}
	if len(v.Members) == 0 {
		n.Style = yaml.FlowStyle
	}
	return n
}

// yamlString leaves the quotes to the encoder, which knows what would be read as something else.
func yamlString(s string) *yaml.Node {
	n := &yaml.Node{}
	n.SetString(s)
	return n
}

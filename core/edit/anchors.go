package edit

import (
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"oldledger/core/source"
)

// anchored is an anchor, where it stands, and the aliases that name it.
type anchored struct {
	node    *yaml.Node
	pointer string
	aliases []*yaml.Node
}

// anchors are those of the text that are named, in its order.
func (l *layout) anchors() []*anchored {
	if l.root == nil || !strings.Contains(l.text, "*") {
		return nil
	}
	var all []*anchored
	of := map[*yaml.Node]*anchored{}
	var walk func(y *yaml.Node, pointer string)
	walk = func(y *yaml.Node, pointer string) {
		if y.Kind == yaml.AliasNode {
			if a := of[y.Alias]; a != nil {
				a.aliases = append(a.aliases, y)
			}
			return
		}
		if y.Anchor != "" {
			of[y] = &anchored{node: y, pointer: pointer}
			all = append(all, of[y])
		}
		for i, c := range y.Content {
			switch {
			case y.Kind == yaml.SequenceNode:
				walk(c, pointer+"/"+strconv.Itoa(i))
			case i%2 == 1:
				walk(c, pointer+"/"+source.EscapeStep(y.Content[i-1].Value))
			}
		}
	}
	walk(l.root, "")
	return all
}

// rescued are changes that leave no alias without its anchor: where one goes that is named elsewhere, the first alias takes its place.
func (l *layout) rescued(w way, root *source.Node) way {
	gone := func(at int) bool {
		for _, c := range w {
			if at >= c.From && at < c.To {
				return true
			}
		}
		return false
	}
	rescued := w
	for _, a := range l.anchors() {
		if !gone(l.at(a.node)) || written(w, "&"+a.node.Anchor) {
			continue
		}
		for _, alias := range a.aliases {
			at := l.at(alias)
			said := root.Resolve(a.pointer)
			if gone(at) || said == nil || includes(said) {
				continue
			}
			rescued = append(rescued, Change{at, at + 1 + len(alias.Value), "&" + a.node.Anchor + " " + l.inline(said.Value(), 0)})
			break
		}
	}
	return rescued
}

// written reports whether changes write an anchor.
func written(w way, anchor string) bool {
	for _, c := range w {
		if i := strings.Index(c.Text, anchor); i >= 0 && (i+len(anchor) == len(c.Text) || strings.IndexByte(" \r\n", c.Text[i+len(anchor)]) >= 0) {
			return true
		}
	}
	return false
}

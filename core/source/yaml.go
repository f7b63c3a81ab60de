package source

import (
	"bytes"
	"errors"
	"io"
	"regexp"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"
)

// parseYAML reads one YAML document. Aliases share what they name, and stand where that was written, merge keys are carried out,
// dates and other tags outside JSON are read as strings.
func parseYAML(f *File, t *tally) (*Node, *Diagnostic) {
	n, p := parseText(f, t, f.Text, false)
	if p != nil && bytes.Contains(f.Text, []byte("?:")) && !bytes.ContainsRune(f.Text, standIn) {
		if marked, ok := parseText(f, t, bytes.ReplaceAll(f.Text, []byte("?:"), []byte(string(standIn)+":")), true); ok == nil {
			return marked, nil
		}
	}
	return n, p
}

// standIn takes the place of a question mark at the end of a key: {name?: string} is YAML, and the library does not read it.
const standIn = '\uE000'

func parseText(f *File, t *tally, text []byte, marked bool) (*Node, *Diagnostic) {
	dec := yaml.NewDecoder(input{t.ctx, bytes.NewReader(text)})
	var doc yaml.Node
	if err := dec.Decode(&doc); err != nil {
		return nil, f.yamlFault(err)
	}
	var second yaml.Node
	switch err := dec.Decode(&second); {
	case err == nil:
		return nil, f.wrong(Syntax, max(second.Line, 1), 1, "a second YAML document begins here; a description is one document")
	case !errors.Is(err, io.EOF):
		return nil, f.yamlFault(err)
	}
	if doc.Kind != yaml.DocumentNode || len(doc.Content) == 0 {
		return nil, f.wrong(Syntax, 1, 1, "the file holds only comments; a description begins with a line such as openapi: 3.1.0")
	}
	r := &yamlReader{counter: counter{tally: t, file: f}, anchors: map[*yaml.Node]*anchor{}, marked: marked}
	return r.read(doc.Content[0], 1)
}

type yamlReader struct {
	counter
	anchors map[*yaml.Node]*anchor
	deepest int  // level reached so far
	marked  bool // standIn takes the place of question marks
}

// plain is a text as the author wrote it.
func (r *yamlReader) plain(text string) string {
	if r.marked {
		return strings.ReplaceAll(text, string(standIn), "?")
	}
	return text
}

func (r *yamlReader) read(y *yaml.Node, depth int) (*Node, *Diagnostic) {
	if p := r.enter(depth, y.Line, y.Column); p != nil {
		return nil, p
	}
	if y.Kind == yaml.AliasNode {
		return r.alias(y, depth)
	}
	if y.Anchor == "" {
		return r.value(y, depth)
	}
	a := &anchor{nodes: r.nodes}
	r.anchors[y] = a
	n, p := r.value(y, depth)
	a.node, a.nodes, a.deepest = n, r.nodes-a.nodes+1, r.deepest-depth
	return n, p
}

func (r *yamlReader) value(y *yaml.Node, depth int) (*Node, *Diagnostic) {
	r.deepest = max(r.deepest, depth)
	n := r.make(y.Line, y.Column)
	switch y.Kind {
	case yaml.SequenceNode:
		return n, r.sequence(n, y, depth)
	case yaml.MappingNode:
		if p := r.mapping(n, y, depth); p != nil {
			return nil, p
		}
		n.seal()
		return n, nil
	}
	return n, r.scalar(n, y)
}

// anchor is a value that aliases may name.
type anchor struct {
	node    *Node // nil while it is being read
	deepest int   // levels of nesting inside, at most
	nodes   int   // values that it holds, with itself and what its aliases stand for
}

// alias gives what an alias names: a value of its own, so that it can have another name, whose parts are those of the anchor. They are
// counted as if they were written here.
func (r *yamlReader) alias(y *yaml.Node, depth int) (*Node, *Diagnostic) {
	a := r.anchors[y.Alias]
	if a == nil || a.node == nil {
		return nil, r.file.wrong(Syntax, y.Line, y.Column, "the alias *%s stands inside what it names; nothing can hold itself", y.Value)
	}
	if p := r.copied(a.nodes, y.Line, y.Column); p != nil {
		return nil, p
	}
	if depth+a.deepest > MaxDepth {
		return nil, r.tooDeep(y.Line, y.Column)
	}
	r.deepest = max(r.deepest, depth+a.deepest)
	r.nodes += a.nodes - 1
	return a.node.WithValue(a.node), nil
}

// copied counts what aliases and merge keys make.
func (r *yamlReader) copied(n, line, column int) *Diagnostic {
	if r.aliased += n; r.aliased > MaxAliased {
		return r.file.wrong(TooLarge, line, column,
			"aliases and merge keys stand for more than %d values; write them out, or share them with $ref", MaxAliased)
	}
	return nil
}

func (r *yamlReader) sequence(n *Node, y *yaml.Node, depth int) *Diagnostic {
	n.Kind = Sequence
	items := make([]*Node, 0, len(y.Content))
	for _, item := range y.Content {
		child, p := r.read(item, depth+1)
		if p != nil {
			return p
		}
		n.adopt(child, len(items))
		items = append(items, child)
	}
	n.of = items
	return nil
}

func (r *yamlReader) mapping(n *Node, y *yaml.Node, depth int) *Diagnostic {
	n.Kind = Mapping
	seen := make(map[string]int, len(y.Content)/2)
	var merged []*Node
	for i := 0; i+1 < len(y.Content); i += 2 {
		key, val := y.Content[i], y.Content[i+1]
		if key.Kind == yaml.AliasNode {
			key = key.Alias
		}
		if key.Kind != yaml.ScalarNode {
			return r.file.wrong(Syntax, key.Line, key.Column, "a key is a list or an object; it must be a word")
		}
		child, p := r.read(val, depth+1)
		if p != nil {
			return p
		}
		if key.Tag == "!!merge" {
			merged = append(merged, child)
			continue
		}
		name := r.plain(key.Value)
		if first, twice := seen[name]; twice {
			return r.file.repeated(name, key.Line, key.Column, first)
		}
		seen[name] = key.Line
		n.adopt(child, len(n.Members))
		n.Members = append(n.Members, Member{name, child, int32(key.Line), int32(key.Column)})
	}
	return r.merge(n, merged, seen)
}

// merge carries out the merge key of YAML 1.1: members that n does not have itself come from the named mappings.
func (r *yamlReader) merge(n *Node, from []*Node, seen map[string]int) *Diagnostic {
	for len(from) > 0 {
		m := from[0]
		from = from[1:]
		switch m.Kind {
		case Sequence:
			from = append(append([]*Node(nil), m.Items()...), from...)
		case Mapping:
			if p := r.copied(len(m.Members), int(m.Line), int(m.Column)); p != nil {
				return p
			}
			for _, member := range m.Members {
				if _, has := seen[member.Key]; !has {
					seen[member.Key] = int(member.KeyLine)
					n.adopt(member.Value, len(n.Members))
					n.Members = append(n.Members, member)
				}
			}
		default:
			return r.file.wrong(Syntax, int(m.Line), int(m.Column), "<< takes an object or a list of objects, not %s", m.Kind)
		}
	}
	return nil
}

func (r *yamlReader) scalar(n *Node, y *yaml.Node) *Diagnostic {
	n.Text = r.plain(y.Value)
	n.Kind = String
	n.Include = y.Tag == "!include"
	switch y.ShortTag() {
	case "!!null":
		n.Kind, n.Text = Null, ""
	case "!!bool":
		n.Kind = Boolean
		n.Bool = strings.EqualFold(y.Value, "true")
	case "!!int", "!!float":
		text, ok := jsonNumber(y.Value)
		if !ok {
			return nil // .inf, .nan and the like are no JSON numbers: they stay text
		}
		num, err := r.number(text)
		if err != nil {
			return r.file.wrong(Syntax, y.Line, y.Column, "%v", err)
		}
		n.Kind, n.of = Number, num
	}
	return nil
}

// jsonNumber spells a YAML number as JSON does.
func jsonNumber(text string) (string, bool) {
	t := strings.ReplaceAll(strings.TrimPrefix(text, "+"), "_", "")
	if i, err := strconv.ParseInt(t, 0, 64); err == nil && !decimal.MatchString(t) {
		return strconv.FormatInt(i, 10), true
	}
	if !decimal.MatchString(t) {
		return "", false
	}
	// YAML admits .5, 5. and 007, JSON does not.
	sign := ""
	if strings.HasPrefix(t, "-") {
		sign, t = "-", t[1:]
	}
	whole, rest := t, ""
	if i := strings.IndexAny(t, ".eE"); i >= 0 {
		whole, rest = t[:i], t[i:]
	}
	whole = strings.TrimLeft(whole, "0")
	if whole == "" {
		whole = "0"
	}
	if rest == "." || strings.HasPrefix(rest, ".e") || strings.HasPrefix(rest, ".E") {
		rest = rest[1:]
	}
	return sign + whole + rest, true
}

var decimal = regexp.MustCompile(`^-?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?$`)

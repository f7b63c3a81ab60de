package raml

import (
	"math/big"
	"strings"

	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/value"
)

// The readers of single fields. Each gives the zero value for a field that is not there, and reports a field of the wrong kind
// with what would be right. All see through !include, and through the object that carries a value and its annotations
// (RAML 1.0, Annotating Scalar-valued Nodes).

func (r *reader) is(n *source.Node, kind source.Kind) bool {
	if n.Kind == kind {
		return true
	}
	what := n.Step()
	if what == "" {
		what = "this"
	}
	r.report(n.Wrong(contract.KindWrong, "%s is %s; it must be %s", what, n.Kind, kind))
	return false
}

// field is the value of a member.
func (r *reader) field(n *source.Node, key string) *source.Node {
	if n == nil {
		return nil
	}
	return r.plain(n.Get(key))
}

// plain is the value that a node stands for, annotated or not.
func (r *reader) plain(n *source.Node) *source.Node {
	v := r.val(n)
	if v == nil || v.Kind != source.Mapping || v.Get("value") == nil {
		return v
	}
	for _, m := range v.Members {
		if m.Key != "value" && !isAnnotation(m.Key) {
			return v
		}
	}
	return r.val(v.Get("value"))
}

func (r *reader) text(n *source.Node, key string) string {
	f := r.field(n, key)
	if f == nil || f.Kind == source.Null {
		return ""
	}
	if f.Kind != source.Number && f.Kind != source.Boolean && !r.is(f, source.String) {
		return ""
	}
	return f.Text
}

func (r *reader) flag(n *source.Node, key string, otherwise bool) bool {
	f := r.field(n, key)
	if f == nil {
		return otherwise
	}
	if f.Kind == source.String && (f.Text == "true" || f.Text == "false") {
		return f.Text == "true"
	}
	if !r.is(f, source.Boolean) {
		return otherwise
	}
	return f.Bool
}

func (r *reader) number(n *source.Node, key string) *big.Rat {
	f := r.field(n, key)
	if f == nil {
		return nil
	}
	if f.Kind == source.String {
		if num, err := value.ParseNumber(f.Text); err == nil {
			return num
		}
	}
	if !r.is(f, source.Number) {
		return nil
	}
	return f.Num()
}

func (r *reader) count(n *source.Node, key string) *int {
	num := r.number(n, key)
	if num == nil {
		return nil
	}
	if !num.IsInt() || num.Sign() < 0 || num.Num().BitLen() > 52 {
		r.report(n.Get(key).Wrong(contract.NumberWrong, "%s is %s; it must be a whole number from 0 on", key, r.field(n, key).Text))
		return nil
	}
	v := int(num.Num().Int64())
	return &v
}

// members are the members of an object whose keys are names.
func (r *reader) members(n *source.Node, key string) []source.Member {
	f := r.field(n, key)
	if f == nil || f.Kind == source.Null || !r.is(f, source.Mapping) {
		return nil
	}
	var all []source.Member
	for _, m := range f.Members {
		if !isAnnotation(m.Key) {
			all = append(all, m)
		}
	}
	return all
}

// items are the items of a list; one value alone stands for a list of it.
func (r *reader) items(n *source.Node, key string) []*source.Node {
	f := r.field(n, key)
	switch {
	case f == nil || f.Kind == source.Null:
		return nil
	case f.Kind != source.Sequence:
		return []*source.Node{f}
	}
	var all []*source.Node
	for _, it := range f.Items() {
		if it = r.val(it); it != nil {
			all = append(all, it)
		}
	}
	return all
}

func (r *reader) words(n *source.Node, key string) []string {
	var all []string
	for _, it := range r.items(n, key) {
		if it.Kind != source.Number && !r.is(it, source.String) {
			continue
		}
		all = append(all, it.Text)
	}
	return all
}

func isAnnotation(key string) bool { return strings.HasPrefix(key, "(") && strings.HasSuffix(key, ")") }

// keysOf reports the keys of n that what has no use for.
func (r *reader) keysOf(n *source.Node, known []string, what string) {
	if n == nil || n.Kind != source.Mapping {
		return
	}
	for _, m := range n.Members {
		r.keyOf(m, known, what)
	}
}

func (r *reader) keyOf(m source.Member, known []string, what string) {
	if isAnnotation(m.Key) && !r.old {
		return
	}
	for _, k := range known {
		if m.Key == k {
			return
		}
	}
	at := m.Value.Place()
	if r.strange[at] {
		return // a trait is read for itself, and for each of its methods
	}
	r.strange[at] = true
	r.report(unknownKey(m, "%s has no key %q", known, what))
}

// unknownKey says what is wrong with a key, and which known one it nearly is; format speaks of what has not the key, and of the key.
func unknownKey(m source.Member, format string, known []string, what string) *source.Diagnostic {
	if near := source.Nearest(m.Key, known); near != "" {
		return m.Value.KeyWrong(contract.KeyMisspelt, format+"; did you mean %q?", what, m.Key, near).Rename(m.Value, near)
	}
	return m.Value.KeyWrong(contract.KeyUnknown, format+"; a key of your own is an annotation in parentheses", what, m.Key)
}

// annotations are what a node is annotated with, under the names that the same words have in OpenAPI.
func (r *reader) annotations(n *source.Node, target string) []contract.Extension {
	if n == nil || n.Kind != source.Mapping || r.old {
		return nil
	}
	var all []contract.Extension
	for _, m := range n.Members {
		if !isAnnotation(m.Key) {
			continue
		}
		name := m.Key[1 : len(m.Key)-1]
		r.annotated(name, m, target)
		all = append(all, contract.Extension{Name: extensionOf(name[strings.LastIndexByte(name, '.')+1:]), Node: r.plainValue(m.Value)})
	}
	return all
}

// plainValue is a value with nothing included left in it.
func (r *reader) plainValue(n *source.Node) *source.Node {
	if v := r.val(n); v != nil {
		return v
	}
	return n
}

// ours are the annotations that need no declaration: those that the ledger itself reads.
var ours = []string{"deprecated", "ledger-name", "ledger-hidden", "ledger-order", "ledger-pages", "ledger-meanings", "ledger-let-stand"}

// extensionOf is the extension of the name that OpenAPI gives what an annotation says.
func extensionOf(annotation string) string {
	if annotation == "deprecated" {
		return contract.DeprecatedField
	}
	return "x-" + annotation
}

var targets = []string{
	"API", "DocumentationItem", "Resource", "Method", "Response", "RequestBody", "ResponseBody", "TypeDeclaration", "Example", "ResourceType",
	"Trait",
	"SecurityScheme", "SecuritySchemeSettings", "AnnotationType", "Library", "Overlay", "Extension",
}

// annotated holds an annotation against its declaration (RAML 1.0, Annotations).
func (r *reader) annotated(name string, m source.Member, target string) {
	decl := r.find(annotationList, name, m.Value)
	if decl == nil {
		for _, o := range ours {
			if name == o {
				return
			}
		}
		own, libraries := r.known(annotationList, m.Value)
		known := append(append(own, libraries...), ours...)
		r.report(m.Value.KeyWrong(contract.NameUndeclared, "the annotation (%s) is not declared under annotationTypes; %s", name,
			source.DidYouMean(name, known)))
		return
	}
	decl = r.val(decl)
	if decl == nil || decl.Get("allowedTargets") == nil {
		return
	}
	allowed := r.words(decl, "allowedTargets")
	for _, a := range allowed {
		if a == target {
			return
		}
	}
	r.report(m.Value.KeyWrong(contract.WordUnknown, "the annotation (%s) stands at %s; it may stand at %s", name, target,
		strings.Join(allowed, ", ")))
}

// isDeprecated tells of the annotation that marks what leaves.
func isDeprecated(all []contract.Extension) bool {
	for _, e := range all {
		if e.Name == contract.DeprecatedField {
			return e.Node == nil || e.Node.Kind != source.Boolean || e.Node.Bool
		}
	}
	return false
}

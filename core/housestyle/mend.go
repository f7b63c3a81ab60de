package housestyle

import (
	"fmt"
	"math/big"
	"slices"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

// mending is how a rule's findings are mended without a thought.
type mending struct {
	title  *phrase
	set    []setKey
	remove []string // keys of the element; "." is the element itself
	rename *condition
}

type setKey struct {
	key string
	of  *condition
}

type wishKind uint8

const (
	wishSet wishKind = iota
	wishRemove
	wishRename
)

// wish is one change of a text.
type wish struct {
	kind  wishKind
	node  *source.Node // what is changed; for wishSet with a key, what holds it
	key   string       // of wishSet: which member; of wishRename: the new one
	value *value.Value
}

// wishes notes how a finding is mended. Where that cannot be said, it is not mended.
func (m *mending) wishes(x *examination, r *Rule, e *element, f *Finding) {
	in := &scope{e}
	var all []wish
	for _, s := range m.set {
		v, err := s.of.ask(in)
		if err != nil {
			x.fail(r, e, err)
			return
		}
		to, ok := valueOfCEL(v)
		if !ok {
			x.fail(r, e, fmt.Errorf("what is to be written at %s is no text, number, true, false or null", s.key))
			return
		}
		at, ok := writtenAt(e.node, x.keyOf(s.key))
		if !ok {
			return
		}
		all = append(all, wish{wishSet, at.node, at.key, to})
	}
	for _, key := range m.remove {
		n := e.node
		if key != "." {
			if n = n.Get(x.keyOf(key)); n == nil {
				continue
			}
		}
		if n.Origin() != n {
			return
		}
		all = append(all, wish{kind: wishRemove, node: n})
	}
	if m.rename != nil {
		v, err := m.rename.ask(in)
		if err != nil {
			x.fail(r, e, err)
			return
		}
		name, ok := v.(types.String)
		if !ok || name == "" || e.node.Origin() != e.node {
			return
		}
		all = append(all, wish{kind: wishRename, node: e.node, key: string(name)})
	}
	title, err := m.title.of(in)
	if err != nil {
		x.fail(r, e, err)
		return
	}
	if len(all) > 0 && !slices.ContainsFunc(all, func(w wish) bool { return w.node.File() != all[0].node.File() }) {
		f.wishes, f.title = all, title
	}
}

// writtenAt is where a member of a node stands as its author wrote it, or would; ok is false where the node, or what stands there, was
// made from a template: another text stands there.
func writtenAt(n *source.Node, key string) (at wish, ok bool) {
	if m := n.Get(key); m != nil && m.Origin() == m && m.Parent() != nil {
		return wish{node: m.Parent(), key: m.Step()}, true
	}
	return wish{node: n, key: key}, n.Get(key) == nil && n.Origin() == n
}

// valueOfCEL is a text, a number, a truth value or null of a condition as JSON; nothing else is written.
func valueOfCEL(v ref.Val) (*value.Value, bool) {
	switch v := v.(type) {
	case types.String:
		return value.Str(string(v)), true
	case types.Bool:
		return value.Bool(bool(v)), true
	case types.Int:
		return value.Rat(new(big.Rat).SetInt64(int64(v))), true
	case types.Double:
		r := new(big.Rat).SetFloat64(float64(v))
		return value.Rat(r), r != nil
	case types.Null:
		return &value.Value{}, true
	}
	return nil, false
}

// Detached are findings that hold nothing of the description: they still say how they are mended, and cannot be mended any more.
func (fs Findings) Detached() Findings {
	all := make(Findings, len(fs))
	for i, f := range fs {
		all[i] = &Finding{Diagnostic: f.Diagnostic, Let: f.Let, title: f.Title()}
	}
	return all
}

// Fixable reports whether it can be mended without a thought.
func (f *Finding) Fixable() bool { return f.Let == "" && len(f.wishes) > 0 }

// Title says how it is mended without a thought, "" where it cannot be, or may stand.
func (f *Finding) Title() string {
	if f.Let != "" {
		return ""
	}
	return f.title
}

// file is where the finding is mended.
func (f *Finding) file() *source.File { return f.wishes[0].node.File() }

// edits are the wishes of a finding as edits.
func (f *Finding) edits() []edit.Wish {
	list := make([]edit.Wish, len(f.wishes))
	for i, w := range f.wishes {
		at := w.node.Pointer()
		switch w.kind {
		case wishSet:
			list[i] = edit.Set(at+"/"+source.EscapeStep(w.key), w.value)
		case wishRemove:
			list[i] = edit.Remove(at)
		default:
			list[i] = edit.Rename(at, w.key)
		}
	}
	return list
}

// FillFix puts the edits of a finding's fix into its diagnostic. A text that cannot be edited so has none.
func (f *Finding) FillFix() {
	if f.Fix != nil || !f.Fixable() {
		return
	}
	changes, err := edit.Changes(f.file(), f.edits()...)
	if err != nil {
		return
	}
	fix := &source.Fix{Title: f.title}
	for _, c := range changes {
		fix.Edits = append(fix.Edits, source.Edit{Range: f.file().RangeOf(c.From, c.To), Text: c.Text})
	}
	f.Fix = fix
}

// maxFilled bounds the work of filling in fixes: the bytes of text that are edited, each finding's file counted.
const maxFilled = 64 << 20

// FillFixes puts the edits of fixes into the diagnostics, one by one, as long as that takes no more than some seconds.
func (fs Findings) FillFixes() {
	work := 0
	for _, f := range fs {
		if !f.Fixable() {
			continue
		}
		if work += len(f.file().Text); work > maxFilled {
			return
		}
		f.FillFix()
	}
}

// CountFixable is how many of the findings that are so severe and worse can be mended without a thought.
func (fs Findings) CountFixable(least source.Severity) int {
	n := 0
	for _, f := range fs {
		if f.Severity >= least && (f.Fixable() || f.Fix != nil) {
			n++
		}
	}
	return n
}

// New are the findings that are not among others, of another version: those of the same rule at the same place of the tree first, then
// those that say the same.
func (fs Findings) New(before Findings) Findings {
	type key struct{ rule, at string }
	there, said := map[key]int{}, map[key]int{}
	for _, f := range before {
		there[key{f.Rule, f.Pointer}]++
	}
	var rest Findings
	for _, f := range fs {
		k := key{f.Rule, f.Pointer}
		if there[k] > 0 {
			there[k]--
			continue
		}
		rest = append(rest, f)
	}
	for _, f := range before {
		k := key{f.Rule, f.Pointer}
		if there[k] > 0 {
			there[k]--
			said[key{f.Rule, f.Text}]++
		}
	}
	return slices.DeleteFunc(rest, func(f *Finding) bool {
		k := key{f.Rule, f.Text}
		if said[k] == 0 {
			return false
		}
		said[k]--
		return true
	})
}

// Mend is the changes of a file that mend all findings in it which can be mended, and these findings. What cannot be changed together
// with the others is left.
func (fs Findings) Mend(file *source.File) ([]edit.Change, Findings) {
	var all Findings
	for _, f := range fs {
		if f.Fixable() && f.file() == file {
			all = append(all, f)
		}
	}
	needed := map[*source.Node]bool{}
	for _, f := range all {
		needed[f.needs] = f.needs != nil
	}
	all = slices.DeleteFunc(all, func(f *Finding) bool {
		return slices.ContainsFunc(f.wishes, func(w wish) bool { return w.kind == wishRemove && needed[w.node] })
	})
	slices.SortStableFunc(all, func(a, b *Finding) int { // from the end, so that what is still to come keeps its place
		p, q := a.wishes[0].node.Place(), b.wishes[0].node.Place()
		if p.Line != q.Line {
			return q.Line - p.Line
		}
		return q.Column - p.Column
	})
	tries := maxTries
	done := mendable(file, apartFrom(all), &tries)
	changes, err := edit.Changes(file, done.edits()...)
	if err != nil {
		return nil, nil
	}
	slices.Reverse(done)
	return changes, done
}

// target is what a wish changes: the member that it writes, or what it takes away or gives another key.
func (w wish) target() *source.Node {
	if w.kind == wishSet {
		return w.node.Get(w.key)
	}
	return w.node
}

// apartFrom are the findings whose fixes change different parts of the text: of two that change one, the first.
func apartFrom(all Findings) Findings {
	taken, above := map[*source.Node]bool{}, map[*source.Node]bool{} // what is changed, and what holds it
	free := func(w wish) bool {
		t := w.target()
		if above[t] {
			return false
		}
		for n := t; n != nil; n = n.Parent() {
			if taken[n] {
				return false
			}
		}
		for n := w.node; n != nil; n = n.Parent() {
			if taken[n] {
				return false
			}
		}
		return true
	}
	var kept Findings
	for _, f := range all {
		if !slices.ContainsFunc(f.wishes, func(w wish) bool { return !free(w) }) {
			kept = append(kept, f)
			for _, w := range f.wishes {
				if t := w.target(); t != nil {
					taken[t] = true
				}
				for n := w.node; n != nil; n = n.Parent() {
					above[n] = true
				}
			}
		}
	}
	return kept
}

// maxTries bounds how often a text is edited to find out what of it can be.
const maxTries = 60

// mendable are those findings that can be mended together: all, or halves of them that can, as long as there are tries left.
func mendable(file *source.File, all Findings, tries *int) Findings {
	if *tries--; len(all) == 0 || *tries < 0 {
		return nil
	}
	if _, err := edit.Changes(file, all.edits()...); err == nil {
		return slices.Clone(all)
	}
	if len(all) == 1 {
		return nil
	}
	half := len(all) / 2
	one, other := mendable(file, all[:half], tries), mendable(file, all[half:], tries)
	both := slices.Concat(one, other)
	if _, err := edit.Changes(file, both.edits()...); err == nil {
		return both
	}
	return one
}

func (fs Findings) edits() []edit.Wish {
	var list []edit.Wish
	for _, f := range fs {
		list = append(list, f.edits()...)
	}
	return list
}

// mending reads what a rule says of how it is mended.
func (r *reading) mending(n *source.Node, k *kind) *mending {
	if !r.is(n, source.Mapping, "fix says what is changed: set: {summary: operation.summary.capital()}, or remove: [required]") {
		return nil
	}
	before := len(r.found)
	m := &mending{}
	for _, member := range n.Members {
		switch member.Key {
		case "says":
			m.title = r.phrase(member.Value, k)
		case "set":
			if !r.is(member.Value, source.Mapping, "set holds keys of the element, and a condition that says their values") {
				continue
			}
			for _, s := range member.Value.Members {
				if c := r.condition(s.Value, k, nil); c != nil {
					m.set = append(m.set, setKey{s.Key, c})
				}
			}
		case "remove":
			m.remove = r.texts(member.Value, "remove lists keys of the element, or . for the element itself")
		case "rename":
			m.rename = r.condition(member.Value, k, isText)
		default:
			r.unknown(member, []string{"says", "set", "remove", "rename"}, "a fix")
		}
	}
	if m.title == nil && len(r.found) == before {
		r.wrong(n.KeyWrong(StyleBroken, "the fix does not say what it does; write says: write it with a capital letter"))
	}
	if len(m.set)+len(m.remove) == 0 && m.rename == nil && len(r.found) == before {
		r.wrong(n.KeyWrong(StyleBroken, "the fix changes nothing; it may set, remove or rename"))
	}
	return m
}

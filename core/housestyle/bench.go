package housestyle

import (
	"encoding/binary"
	"slices"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
)

// read is a fact that a condition reads, or only whether it is there.
type read struct {
	fact     *fact
	presence bool
}

// long are facts that are rarely the same in two elements.
var long = []string{"called", "description", "summary", "title"}

// plan finds out what of a rule's conditions follows from few short facts of the element itself: elements that have these in common are
// judged once.
func (r *Rule) plan() {
	var plain bool
	if r.reads, plain = readsOf(r.ofKind, r.must.expr); plain {
		if r.where == nil {
			r.plain = true
			return
		}
		more, plain := readsOf(r.ofKind, r.where.expr)
		if r.reads = append(r.reads, more...); plain {
			r.plain = true
			return
		}
	}
	r.reads = nil
	if r.where == nil {
		return
	}
	var parts []ast.Expr
	for _, part := range conjuncts(r.where.expr) {
		if reads, plain := readsOf(r.ofKind, part); plain {
			parts = append(parts, part)
			r.reads = append(r.reads, reads...)
		}
	}
	r.pre = r.where.only(parts)
}

// conjuncts are the parts of a condition that must all hold.
func conjuncts(e ast.Expr) []ast.Expr {
	if e.Kind() == ast.CallKind && e.AsCall().FunctionName() == operators.LogicalAnd {
		var all []ast.Expr
		for _, arg := range e.AsCall().Args() {
			all = append(all, conjuncts(arg)...)
		}
		return all
	}
	return []ast.Expr{e}
}

// only is the condition that some parts of one hold; nil for no parts, or where that cannot be said.
func (c *condition) only(parts []ast.Expr) *condition {
	if len(parts) == 0 {
		return nil
	}
	info := c.checked.NativeRep().SourceInfo()
	text := ""
	for i, part := range parts {
		said, err := cel.ExprToString(part, info)
		if err != nil {
			return nil
		}
		if i > 0 {
			text += " && "
		}
		text += "(" + said + ")"
	}
	only, fault := compile(text, c.kind, isFlag, c.trusted)
	if fault != nil {
		return nil
	}
	return only
}

// readsOf are the facts that a condition reads, and whether they are all short texts, flags or whole numbers of the element itself, or
// lists of such texts, so that what it says follows from them.
func readsOf(k *kind, e ast.Expr) (reads []read, plain bool) {
	plain = true
	selected := map[int64]bool{} // the places of the element whose facts are read
	ast.PreOrderVisit(e, ast.NewExprVisitor(func(e ast.Expr) {
		switch e.Kind() {
		case ast.IdentKind:
			plain = plain && (e.AsIdent() != k.name || selected[e.ID()])
		case ast.SelectKind:
			of := e.AsSelect().Operand()
			if of.Kind() != ast.IdentKind || of.AsIdent() != k.name {
				return
			}
			selected[of.ID()] = true
			f := k.named[e.AsSelect().FieldName()]
			presence := e.AsSelect().IsTestOnly()
			plain = plain && f != nil &&
				(presence || !slices.Contains(long, f.name) && (f.is == isText || f.is == isFlag || f.is == isWhole || f.is == isTexts))
			if f != nil {
				reads = append(reads, read{f, presence})
			}
		}
	}))
	return reads, plain
}

// bench is the rules about one kind. Elements with the same facts, as far as the rules read them, are judged once: by all rules
// together, and by each of those that have not met these facts.
type bench struct {
	rules []*benchRule
	reads []read
	known map[string]verdict
	key   []byte
}

// benchRule is one of them, with what it said of the facts that it reads.
type benchRule struct {
	*Rule
	known map[string]bool
}

// verdict is what follows from the short facts of an element.
type verdict struct {
	broken []*Rule // which are broken
	open   []*Rule // which must be asked with all facts
}

// maxKnown bounds how many verdicts are kept.
const maxKnown = 50_000

func newBench() *bench { return &bench{known: map[string]verdict{}} }

func (b *bench) add(r *Rule) {
	b.rules = append(b.rules, &benchRule{r, map[string]bool{}})
	for _, read := range r.reads {
		if !slices.Contains(b.reads, read) {
			b.reads = append(b.reads, read)
		}
	}
}

// judge tells which rules an element breaks.
func (b *bench) judge(x *examination, e *element) {
	in := &scope{e}
	v, ok := b.known[string(b.keyOf(e, b.reads))]
	if !ok {
		key := string(b.key)
		var err error
		if v, err = b.decide(x, e, in); err == nil && len(b.known) < maxKnown {
			b.known[key] = v
		}
	}
	for _, r := range v.broken {
		r.broken(x, e)
	}
	for _, r := range v.open {
		switch kept, err := r.keeps(in); {
		case err != nil:
			x.fail(r, e, err)
		case !kept:
			r.broken(x, e)
		}
	}
}

// keyOf is some facts of an element, as a key that holds until the next one.
func (b *bench) keyOf(e *element, reads []read) []byte {
	b.key = b.key[:0]
	for _, r := range reads {
		v := r.fact.get(e)
		switch {
		case v == nil:
			b.key = append(b.key, 0)
		case r.presence:
			b.key = append(b.key, 1)
		default:
			switch v := v.(type) {
			case types.String:
				b.key = appendText(append(b.key, 2), string(v))
			case types.Int:
				b.key = binary.AppendVarint(append(b.key, 3), int64(v))
			case types.Bool:
				b.key = append(b.key, 4)
			default:
				list, _ := v.Value().([]string)
				b.key = binary.AppendUvarint(append(b.key, 5), uint64(len(list)))
				for _, t := range list {
					b.key = appendText(b.key, t)
				}
			}
		}
	}
	return b.key
}

// appendText appends a text with its length before it: no text can look like another one and what follows it.
func appendText(key []byte, text string) []byte {
	return append(binary.AppendUvarint(key, uint64(len(text))), text...)
}

// decide finds what follows from the short facts of an element. With an error it holds for this element alone.
func (b *bench) decide(x *examination, e *element, in *scope) (v verdict, failed error) {
	for _, r := range b.rules {
		if !r.plain && r.pre == nil {
			v.open = append(v.open, r.Rule)
			continue
		}
		said, known := r.known[string(b.keyOf(e, r.reads))]
		if !known {
			key := string(b.key)
			var err error
			if said, err = r.short(in); err != nil {
				failed = err
				if r.plain {
					x.fail(r.Rule, e, err)
					continue
				}
				said = false // the error may be one of a part that does not count
			} else if len(r.known) < maxKnown {
				r.known[key] = said
			}
		}
		switch {
		case said:
		case r.plain:
			v.broken = append(v.broken, r.Rule)
		default:
			v.open = append(v.open, r.Rule)
		}
	}
	return v, failed
}

// short reports whether the short facts of an element suffice to say that it keeps the rule.
func (r *benchRule) short(in *scope) (bool, error) {
	if r.plain {
		return r.keeps(in)
	}
	meant, err := r.pre.holds(in)
	return !meant, err
}

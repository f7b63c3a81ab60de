package class

import (
	"bytes"
	"slices"

	"oldledger/core/contract"
)

// What objects demand is a set of terms, each of which holds for itself: a property and its schema, a name that must be there. So it does
// not matter which members of an allOf say them (JSON Schema 2020-12, Core section 10.2.1.1). Only what speaks of the names beside it is
// one term with these names.

// terms are the terms of one object, written one behind the other.
type terms struct {
	b    []byte
	ends []int
}

func (t *terms) term(i int) []byte {
	from := 0
	if i > 0 {
		from = t.ends[i-1]
	}
	return t.b[from:t.ends[i]]
}

// saysObject reports whether a schema speaks of objects alone, or only puts others together.
func saysObject(s *contract.Schema) bool {
	if s.Bool != nil || s.Nullable || s.HasEnum || s.Const != nil || s.SaysNumber() || s.SaysString() || s.SaysContent() || s.SaysArray() ||
		s.Types != nil && (len(s.Types) != 1 || s.Types[0] != "object") {
		return false
	}
	return s.Rare == nil || s.Rare.Unsupported == nil && s.Rare.Unclear == nil && s.Rare.Discriminator == nil
}

// joins reports whether the terms of a member of allOf are terms of its holder.
func joins(s *contract.Schema) bool { return saysObject(s) && s.UnevaluatedProperties() == nil }

func rareParts(r *contract.Rare) [8]*contract.Schema {
	return [...]*contract.Schema{r.Contains, r.UnevaluatedItems, r.UnevaluatedProperties, r.PropertyNames, r.Not, r.If, r.Then, r.Else}
}

// object writes the terms of an object, each once, in one order.
func (w *writer) object(s *contract.Schema, of part) {
	outer := w.b
	t := collector{writer: w, of: of, root: s}
	w.terms.b, w.terms.ends = w.terms.b[:0], w.terms.ends[:0]
	w.b = w.terms.b
	t.collect(s)
	switch {
	case t.object:
		t.tag('T')
		t.end()
	case t.implied: // the declared reading takes the type from the keywords
		t.tag('I')
		t.end()
	}
	w.terms.b = w.b
	w.b = outer
	w.order = w.order[:0]
	for i := range w.terms.ends {
		w.order = append(w.order, i)
	}
	slices.SortFunc(w.order, func(i, j int) int { return bytes.Compare(w.terms.term(i), w.terms.term(j)) })
	w.order = slices.CompactFunc(w.order, func(i, j int) bool { return bytes.Equal(w.terms.term(i), w.terms.term(j)) })
	w.number(len(w.order))
	for _, i := range w.order {
		w.number(len(w.terms.term(i)))
		w.b = append(w.b, w.terms.term(i)...)
	}
}

// collector collects the terms of a schema and of what joins it.
type collector struct {
	*writer
	of              part
	root            *contract.Schema
	object, implied bool                      // the type is said; only keywords of objects are
	within          map[*contract.Schema]bool // what is being collected: true, and what was: false
}

// end ends a term.
func (t *collector) end() { t.terms.ends = append(t.terms.ends, len(t.b)) }

func (t *collector) collect(s *contract.Schema) {
	if t.within != nil {
		t.within[s] = true
		defer func() { t.within[s] = false }()
	}
	t.object = t.object || s.Types != nil
	t.implied = t.implied || s.Types == nil && s.SaysObject()
	if s.Ref != nil {
		t.conjunct(s.Ref)
	}
	for _, b := range s.AllOf {
		t.conjunct(b)
	}
	for k, list := range [][]*contract.Schema{s.AnyOf, s.OneOf} {
		switch {
		case len(list) == 1:
			t.conjunct(list[0])
		case list != nil:
			t.union('y'+byte(k), list, t.of, k == 0)
			t.end()
		}
	}
	for _, p := range s.Properties {
		t.property('p', p)
	}
	for _, name := range s.Required {
		t.tag('r')
		t.text(name)
		t.end()
	}
	for i, n := range []*int{s.MinProperties, s.MaxProperties} {
		if n != nil && (i == 1 || *n > 0) {
			t.tag('m' + byte(i))
			t.count(n)
			t.end()
		}
	}
	if s.AdditionalProperties != nil {
		t.tag('a')
		t.beside(s)
		t.class(t.of(s.AdditionalProperties))
		t.end()
	}
	if s.Rare != nil {
		t.rareTerms(s)
	}
}

func (t *collector) rareTerms(s *contract.Schema) {
	r := s.Rare
	for _, p := range r.PatternProperties {
		t.property('q', p)
	}
	for _, p := range r.DependentSchemas {
		t.property('s', p)
	}
	for _, d := range r.DependentRequired {
		for _, need := range d.Needs {
			t.tag('d')
			t.text(d.Name)
			t.text(need)
			t.end()
		}
	}
	if r.If != nil || r.Then != nil || r.Else != nil {
		t.tag('c')
		for i, one := range []*contract.Schema{r.If, r.Then, r.Else} {
			t.maybe('0'+byte(i), one, t.of)
		}
		t.end()
	}
	for i, one := range []*contract.Schema{r.Not, r.PropertyNames, r.UnevaluatedProperties} {
		if one != nil {
			t.maybe('A'+byte(i), one, t.of)
			t.end()
		}
	}
}

// beside are the names and patterns that additionalProperties leaves out.
func (t *collector) beside(s *contract.Schema) {
	names := make([]string, 0, len(s.Properties))
	for _, p := range s.Properties {
		names = append(names, p.Name)
	}
	t.names(names)
	names = names[:0]
	for _, p := range s.PatternProperties() {
		names = append(names, p.Name)
	}
	t.names(names)
}

func (t *collector) property(kind byte, p contract.Property) {
	t.tag(kind)
	t.text(p.Name)
	t.flags(p.Schema.Access())
	t.class(t.of(p.Schema))
	t.end()
}

// conjunct adds the terms of a schema that is demanded, too, or the schema as one term.
func (t *collector) conjunct(s *contract.Schema) {
	at := s
	for range mostWrappers {
		inner := at.Wrapped()
		if inner == nil {
			break
		}
		at = inner
	}
	if joins(at) {
		if t.within == nil {
			t.within = map[*contract.Schema]bool{t.root: true}
		}
		open, met := t.within[at]
		if !met {
			t.collect(at)
		}
		if !open {
			return
		}
	}
	t.tag('&')
	t.class(t.of(s))
	t.end()
}

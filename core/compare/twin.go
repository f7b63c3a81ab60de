package compare

import (
	"math/big"
	"reflect"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// twins tells whether two schemas say the same, word for word, with all that they refer to. It looks at what was read and not at the
// text: in RAML the same text may name different types.
func (c *comparer) twins(a, b *contract.Schema) bool {
	if verdict, known := c.twin[pairKey{a, b}]; known {
		return verdict
	}
	t := &twinning{known: c.twin, assumed: map[pairKey]bool{}}
	if !t.schemas(a, b) {
		c.twin[pairKey{a, b}] = false
		return false
	}
	for key := range t.assumed { // no difference can be reached from any of them
		c.twin[key] = true
	}
	return true
}

// twinning walks two graphs of schemas side by side; pairs under way are assumed to be the same.
type twinning struct {
	known, assumed map[pairKey]bool
}

func (t *twinning) schemas(a, b *contract.Schema) bool {
	if a == nil || b == nil {
		return a == b
	}
	key := pairKey{a, b}
	if verdict, known := t.known[key]; known {
		return verdict
	}
	if t.assumed[key] {
		return true
	}
	t.assumed[key] = true
	if a.Rare != nil && b.Rare != nil || a.Rare == nil && b.Rare == nil {
		return untold(a, b) || t.same(reflect.ValueOf(a).Elem(), reflect.ValueOf(b).Elem()) && a.Unread() == nil
	}
	return false
}

func (t *twinning) same(a, b reflect.Value) bool {
	switch x := a.Interface().(type) {
	case *contract.Schema:
		return t.schemas(x, b.Interface().(*contract.Schema))
	case *source.Node:
		return x.Same(b.Interface().(*source.Node))
	case *big.Rat:
		y := b.Interface().(*big.Rat)
		return x == y || x != nil && y != nil && x.Cmp(y) == 0
	}
	switch a.Kind() {
	case reflect.Pointer:
		return a.IsNil() == b.IsNil() && (a.IsNil() || t.same(a.Elem(), b.Elem()))
	case reflect.Slice:
		if a.Len() != b.Len() || a.IsNil() != b.IsNil() {
			return false
		}
		for i := range a.Len() {
			if !t.same(a.Index(i), b.Index(i)) {
				return false
			}
		}
		return true
	case reflect.Struct:
		for i := range a.NumField() {
			// A place is no word: a node of a schema only says where it stands.
			if a.Type().Field(i).Name != "Node" && !t.same(a.Field(i), b.Field(i)) {
				return false
			}
		}
		return true
	}
	return a.Interface() == b.Interface()
}

// Package value holds JSON values exactly: numbers are rationals, never floats, and objects keep the
// order in which their author wrote them.
//
// A Value is immutable. Equality follows JSON Schema 2020-12 (Core, section 4.2.2): numbers compare by
// mathematical value, objects without regard to order.
package value

import (
	"math/big"
	"sort"
	"strings"
)

// Kind is one of the six JSON types.
type Kind uint8

// The JSON types, in the order in which a witness prefers them last to first.
const (
	Null Kind = iota
	Boolean
	Number
	String
	Array
	Object
)

var kindNames = [...]string{"null", "boolean", "number", "string", "array", "object"}

func (k Kind) String() string { return kindNames[k] }

// Value is one JSON value.
type Value struct {
	Kind    Kind
	Bool    bool     // for Boolean
	Num     *big.Rat // for Number
	Text    string   // for String: the string; for Number: its spelling, where an author wrote one
	Items   []*Value // for Array
	Members []Member // for Object, in the author's order
}

// Member is one name and value of an object.
type Member struct {
	Name  string
	Value *Value
}

// NullValue, True and False are the values that need no making.
var (
	NullValue = &Value{Kind: Null}
	True      = &Value{Kind: Boolean, Bool: true}
	False     = &Value{Kind: Boolean}
)

// Bool gives the boolean b.
func Bool(b bool) *Value {
	if b {
		return True
	}
	return False
}

// Str gives the string s.
func Str(s string) *Value { return &Value{Kind: String, Text: s} }

// Rat gives the number r.
func Rat(r *big.Rat) *Value { return &Value{Kind: Number, Num: r} }

// Arr gives an array of items.
func Arr(items ...*Value) *Value { return &Value{Kind: Array, Items: items} }

// Obj gives an object of members, in their order.
func Obj(members ...Member) *Value { return &Value{Kind: Object, Members: members} }

// Get returns the member called name, or nil.
func (v *Value) Get(name string) *Value {
	for _, m := range v.Members {
		if m.Name == name {
			return m.Value
		}
	}
	return nil
}

// Equal reports whether v and w are the same value.
func (v *Value) Equal(w *Value) bool {
	if v.Kind != w.Kind {
		return false
	}
	switch v.Kind {
	case Boolean:
		return v.Bool == w.Bool
	case Number:
		return v.Num.Cmp(w.Num) == 0
	case String:
		return v.Text == w.Text
	case Array:
		if len(v.Items) != len(w.Items) {
			return false
		}
		for i := range v.Items {
			if !v.Items[i].Equal(w.Items[i]) {
				return false
			}
		}
	case Object:
		if len(v.Members) != len(w.Members) {
			return false
		}
		for _, m := range v.Members {
			other := w.Get(m.Name)
			if other == nil || !m.Value.Equal(other) {
				return false
			}
		}
	}
	return true
}

// Key returns a string that two values share exactly when they are equal.
func (v *Value) Key() string {
	if v.Kind == String {
		return `"` + v.Text // nothing else begins like this: no escapes are needed
	}
	var b strings.Builder
	v.key(&b)
	return b.String()
}

func (v *Value) key(b *strings.Builder) {
	switch v.Kind {
	case Number:
		b.WriteString(v.Num.RatString())
	case Array:
		b.WriteByte('[')
		for _, it := range v.Items {
			it.key(b)
			b.WriteByte(',')
		}
		b.WriteByte(']')
	case Object:
		members := append([]Member(nil), v.Members...)
		sort.Slice(members, func(i, j int) bool { return members[i].Name < members[j].Name })
		b.WriteByte('{')
		for _, m := range members {
			writeString(b, m.Name)
			b.WriteByte(':')
			m.Value.key(b)
			b.WriteByte(',')
		}
		b.WriteByte('}')
	default:
		v.write(b)
	}
}

// At follows a JSON Pointer (RFC 6901) through objects; nil where it leads nowhere, or through an array.
func (v *Value) At(pointer string) *Value {
	for part := range strings.SplitSeq(strings.TrimPrefix(pointer, "/"), "/") {
		if v = v.Get(strings.NewReplacer("~1", "/", "~0", "~").Replace(part)); v == nil {
			return nil
		}
	}
	return v
}

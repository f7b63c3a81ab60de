package shape

import (
	"slices"

	"oldledger/core/contract"
	"oldledger/core/value"
)

// textual lowers a schema whose value is text on the wire (a parameter or a header): a number is the strings that
// spell it, a boolean is true or false. Arrays and objects keep their structure, their leaves become text.
func (l lowering) textual() *node {
	sc := l.schema
	types := sc.Types
	if types == nil {
		switch {
		case sc.SaysArray():
			types = []string{"array"}
		case sc.SaysObject():
			types = []string{"object"}
		default:
			return l.textLimits()
		}
	}
	var ways []*node
	for _, t := range types {
		ways = append(ways, l.textOf(t))
	}
	if sc.Nullable {
		ways = append(ways, l.textOf("null"))
	}
	return l.or(ways...)
}

func (l lowering) textOf(jsonType string) *node {
	isText := l.typed(maskOf(value.String))
	switch jsonType {
	case "string":
		return l.and(isText, l.text())
	case "integer":
		return l.and(isText, l.match(l.language(integerPattern)), l.numeric())
	case "number":
		spelling := l.numberText()
		if l.role.Sends {
			spelling = l.language(plainPattern)
		}
		return l.and(isText, l.match(spelling), l.numeric())
	case "boolean":
		return l.enum(strs([]string{"true", "false"}))
	case "null":
		return l.enum(strs([]string{""}))
	case "array":
		return l.and(l.typed(maskOf(value.Array)), l.array())
	}
	return l.and(l.typed(maskOf(value.Object)), l.object())
}

// textLimits is what a schema without a type says of text.
func (l lowering) textLimits() *node {
	if len(branches(l.schema)) > 1 {
		return l.and(l.text(), l.numeric())
	}
	return l.and(l.typed(maskOf(value.String)), l.text(), l.numeric())
}

// numeric holds for text that spells a number within the schema's limits, and for all other text.
func (l lowering) numeric() *node {
	n := l.number()
	if n.op == opTrue {
		return n
	}
	return l.assert(node{op: opNumeric, sub: n}, value.String)
}

// Decode reads the text of a witness as its sender's schema means it: "5" of an integer is 5.
func Decode(sc *contract.Schema, v *value.Value) *value.Value {
	sc = sc.Deref()
	if sc == nil {
		return v
	}
	switch v.Kind {
	case value.String:
		return decodeScalar(sc, v)
	case value.Array:
		if sc.Items == nil {
			return v
		}
		items := make([]*value.Value, len(v.Items))
		for i, it := range v.Items {
			items[i] = Decode(sc.Items, it)
		}
		return value.Arr(items...)
	case value.Object:
		members := slices.Clone(v.Members)
		for i, m := range members {
			if p := sc.Property(m.Name); p != nil {
				members[i].Value = Decode(p, m.Value)
			}
		}
		return value.Obj(members...)
	}
	return v
}

func decodeScalar(sc *contract.Schema, v *value.Value) *value.Value {
	says := func(t string) bool { return slices.Contains(sc.Types, t) }
	if says("integer") || says("number") || sc.Types == nil && sc.SaysNumber() {
		if num, err := value.ParseNumber(v.Text); err == nil {
			return &value.Value{Kind: value.Number, Num: num, Text: v.Text}
		}
	}
	if says("boolean") && (v.Text == "true" || v.Text == "false") {
		return value.Bool(v.Text == "true")
	}
	return v
}

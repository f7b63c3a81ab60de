package housestyle

import (
	"math/big"
	"slices"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// kindType is the type of the elements of a kind.
func kindType(name string) *types.Type { return types.NewObjectType(name) }

// parts are the schemas that the values of an element must satisfy together.
func (e *element) parts() []*contract.Schema {
	if e.schema == nil {
		return nil
	}
	if e.conjuncts == nil {
		if e.schema.Ref == nil && e.schema.AllOf == nil {
			e.own[0] = e.schema
			e.conjuncts = e.own[:]
		} else {
			e.conjuncts = e.schema.Conjuncts()
		}
	}
	return e.conjuncts
}

// first is what the first of an element's schemas says that says anything.
func first[T any](e *element, of func(*contract.Schema) (T, bool)) (found T, ok bool) {
	for _, s := range e.parts() {
		if v, ok := of(s); ok {
			return v, true
		}
	}
	return found, false
}

// holds reports whether one of an element's schemas says something.
func holds(e *element, says func(*contract.Schema) bool) bool {
	return slices.ContainsFunc(e.parts(), says)
}

func (e *element) types() []string {
	t, _ := first(e, func(s *contract.Schema) ([]string, bool) { return s.Types, s.Types != nil })
	return t
}

// typ is the one type of an element's values beside null, "" where there is none or more.
func (e *element) typ() string {
	one := ""
	for _, t := range e.types() {
		if t == "null" {
			continue
		}
		if one != "" {
			return ""
		}
		one = t
	}
	return one
}

// described is what is said of an element, where it stands or by its schema.
func (e *element) described() string {
	if p, ok := e.part.(*contract.Parameter); ok && p.Description != "" {
		return p.Description
	}
	for _, s := range e.parts() {
		if s.Description != "" {
			return s.Description
		}
	}
	return ""
}

func textOf(of func(*contract.Schema) string) func(*element) ref.Val {
	return func(e *element) ref.Val {
		for _, s := range e.parts() {
			if t := of(s); t != "" {
				return types.String(t)
			}
		}
		return nil
	}
}

func flagOf(of func(*contract.Schema) bool) func(*element) ref.Val {
	return func(e *element) ref.Val { return flag(holds(e, of)) }
}

func wholeOf(of func(*contract.Schema) *int) func(*element) ref.Val {
	return func(e *element) ref.Val {
		n, ok := first(e, func(s *contract.Schema) (*int, bool) { n := of(s); return n, n != nil })
		if !ok {
			return nil
		}
		return types.Int(*n)
	}
}

func numberOf(of func(*contract.Schema) *big.Rat) func(*element) ref.Val {
	return func(e *element) ref.Val {
		n, ok := first(e, func(s *contract.Schema) (*big.Rat, bool) { n := of(s); return n, n != nil })
		if !ok {
			return nil
		}
		f, _ := n.Float64()
		return types.Double(f)
	}
}

// either is the first of two limits.
func either(a, b *big.Rat) *big.Rat {
	if a != nil {
		return a
	}
	return b
}

// valueFacts are those of all elements that have values.
var valueFacts = []fact{
	calledFact,
	{"type", isText, "the one type of its values beside null: `string`, `integer`, …; nothing where there are several", func(e *element) ref.Val {
		return text(e.typ())
	}},
	{"types", isTexts, "the types of its values", func(e *element) ref.Val { return texts(e.types()) }},
	{"format", isText, "its format", textOf(func(s *contract.Schema) string { return s.Format })},
	{"pattern", isText, "the pattern of its texts", textOf(func(s *contract.Schema) string {
		if s.Pattern == nil {
			return ""
		}
		return *s.Pattern
	})},
	{"values", isAnies, "the values that are listed (enum)", func(e *element) ref.Val {
		list, ok := first(e, func(s *contract.Schema) ([]*source.Node, bool) { return s.Enum, s.HasEnum })
		if !ok {
			return nil
		}
		return types.NewDynamicList(adapter{}, anys(list))
	}},
	{"choices", isWhole, "how many values are listed; 0 where none are", func(e *element) ref.Val {
		list, ok := first(e, func(s *contract.Schema) ([]*source.Node, bool) { return s.Enum, s.HasEnum })
		if !ok {
			return nil
		}
		return types.Int(len(list))
	}},
	{"listed", isFlag, "whether its values are listed (enum), or there is only one", flagOf(func(s *contract.Schema) bool {
		return s.HasEnum || s.Const != nil
	})},
	{"nullable", isFlag, "whether null is among its values", func(e *element) ref.Val {
		return flag(slices.Contains(e.types(), "null") || holds(e, func(s *contract.Schema) bool { return s.Nullable }))
	}},
	{"minLength", isWhole, "how many characters its texts have at least", wholeOf(func(s *contract.Schema) *int { return s.MinLength })},
	{"maxLength", isWhole, "how many characters its texts have at most", wholeOf(func(s *contract.Schema) *int { return s.MaxLength })},
	{"minItems", isWhole, "how many items its lists have at least", wholeOf(func(s *contract.Schema) *int { return s.MinItems })},
	{"maxItems", isWhole, "how many items its lists have at most", wholeOf(func(s *contract.Schema) *int { return s.MaxItems })},
	{"minimum", isNumber, "the lower limit of its numbers", numberOf(func(s *contract.Schema) *big.Rat {
		return either(s.Minimum, s.ExclusiveMinimum)
	})},
	{"maximum", isNumber, "the upper limit of its numbers", numberOf(func(s *contract.Schema) *big.Rat {
		return either(s.Maximum, s.ExclusiveMaximum)
	})},
	{"items", kindType("schema"), "what its lists hold; `has(field.items)` asks whether it is said", func(e *element) ref.Val {
		inner, ok := first(e, func(s *contract.Schema) (*contract.Schema, bool) { return s.Items, s.Items != nil })
		if !ok {
			return nil
		}
		return e.x.schemaElement(inner, e, "items", e.ways)
	}},
	{"fields", listOf("field"), "the properties of its objects", func(e *element) ref.Val {
		var list []*element
		for _, s := range e.parts() {
			for _, p := range s.Properties {
				list = append(list, e.x.field(s, p, e, e.ways))
			}
		}
		return elements(list)
	}},
	{"closed", isFlag, "whether its objects may have no other properties", flagOf(func(s *contract.Schema) bool {
		a := s.AdditionalProperties
		return a != nil && a.Bool != nil && !*a.Bool
	})},
	{"union", isWhole, "how many alternatives it has (oneOf, anyOf)", func(e *element) ref.Val {
		n := 0
		for _, s := range e.parts() {
			n = max(n, len(s.OneOf), len(s.AnyOf))
		}
		if n == 0 {
			return nil
		}
		return types.Int(n)
	}},
	{"discriminated", isFlag, "whether a property tells its alternatives apart", flagOf(func(s *contract.Schema) bool {
		return s.Discriminator() != nil
	})},
	{"readOnly", isFlag, "whether it is only read", func(e *element) ref.Val { r, _ := e.access(); return flag(r) }},
	{"writeOnly", isFlag, "whether it is only written", func(e *element) ref.Val { _, w := e.access(); return flag(w) }},
	{"default", isAny, "what stands for it where it is not sent; `has(…)` asks whether there is one", func(e *element) ref.Val {
		n, ok := first(e, func(s *contract.Schema) (*source.Node, bool) { return s.Default, s.Default != nil })
		if !ok {
			return nil
		}
		return nodeValue(n)
	}},
	{"examples", isWhole, "how many examples its author wrote", func(e *element) ref.Val {
		n := 0
		for _, s := range e.parts() {
			n += len(s.Examples())
		}
		if p, ok := e.part.(*contract.Parameter); ok {
			n += len(p.Examples)
		}
		return types.Int(n)
	}},
	{"shared", isText, "the name of the type that it refers to", func(e *element) ref.Val {
		if e.schema == nil || e.schema.Ref == nil {
			return nil
		}
		return text(e.schema.Ref.Name)
	}},
	{"title", isText, "its title", textOf(func(s *contract.Schema) string { return s.Title })},
	{"description", isText, "what is said of it, where it stands or by the type that it refers to", func(e *element) ref.Val {
		return text(e.described())
	}},
	{"deprecated", isFlag, "whether it is deprecated", func(e *element) ref.Val {
		if p, ok := e.part.(*contract.Parameter); ok {
			return flag(p.Deprecated)
		}
		return flag(e.schema != nil && e.schema.Deprecated)
	}},
	sunsetFact, insteadFact,
	{"sent", isFlag, "whether clients send it", func(e *element) ref.Val { return flag(e.ways&sent != 0) }},
	{"received", isFlag, "whether clients receive it", func(e *element) ref.Val { return flag(e.ways&received != 0) }},
	extensionFact(func(e *element) []contract.Extension { return extensionsOf(e) }),
}

func (e *element) access() (readOnly, writeOnly bool) {
	if e.schema == nil {
		return false, false
	}
	return e.schema.Access()
}

func anys[T any](list []T) []any {
	all := make([]any, len(list))
	for i, v := range list {
		all[i] = v
	}
	return all
}

var parameterFacts = []fact{
	nameFact,
	{"location", isText, "where it stands: `path`, `query`, `header`, `cookie`", part(func(p *contract.Parameter, _ *element) ref.Val {
		return text(p.In)
	})},
	{"required", isFlag, "whether it must be there", part(func(p *contract.Parameter, _ *element) ref.Val { return flag(p.Required) })},
	{"style", isText, "how lists and objects are written in it", part(func(p *contract.Parameter, _ *element) ref.Val { return text(p.Style) })},
}

var typeFacts = []fact{
	nameFact,
	{"used", isFlag, "whether anything refers to it", func(e *element) ref.Val { return flag(e.x.ways[e.schema]&^declared != 0) }},
}

var schemaFacts = []fact{
	{"name", isText, "the name of the type, the field or the parameter whose schema it is; nothing elsewhere", func(e *element) ref.Val {
		return text(e.name)
	}},
	{"inPlace", isFlag, "whether it has no name of its own", func(e *element) ref.Val { return flag(e.schema.Name == "") }},
	{"place", isText, "where it stands: `type`, `field`, `items`, `parameter`, `header`, `content`, or nothing", func(e *element) ref.Val {
		return text(e.place())
	}},
}

// place is what a schema is the schema of.
func (e *element) place() string {
	switch {
	case e.role != "":
		return e.role
	case e.schema.Name != "":
		return "type"
	case e.of != nil:
		return e.of.kind.name
	}
	return ""
}

var fieldFacts = []fact{
	nameFact,
	{"required", isFlag, "whether it must be there", func(e *element) ref.Val {
		return flag(e.owner != nil && e.owner.Requires(e.name))
	}},
	{"of", kindType("schema"), "the object to which it belongs", func(e *element) ref.Val { return e.of }},
}

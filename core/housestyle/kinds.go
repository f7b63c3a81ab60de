package housestyle

import (
	"slices"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/contract"
	"oldledger/core/source"
)

// kind is one kind of element, as about names it.
type kind struct {
	name    string
	says    string // what it is
	celType *types.Type
	facts   []fact
	named   map[string]*fact
}

// fact is something that conditions may ask of an element.
type fact struct {
	name string
	is   *types.Type
	says string
	get  func(*element) ref.Val // nil where it is not said
}

// listOf is the type of a list of elements of a kind.
func listOf(kind string) *types.Type { return types.NewListType(types.NewObjectType(kind)) }

// The types of facts.
var (
	isText   = types.StringType
	isFlag   = types.BoolType
	isWhole  = types.IntType
	isNumber = types.DoubleType
	isTexts  = types.NewListType(types.StringType)
	isAny    = types.DynType
	isAnies  = types.NewListType(types.DynType)
	isFields = types.NewMapType(types.StringType, types.DynType)
)

// kinds are all kinds of elements, from the whole to its parts, and kindNames their names. They are filled in at the start, because
// facts of one kind are elements of another.
var (
	kinds      []*kind
	kindNames  []string
	kindByName = map[string]*kind{}
)

func init() {
	all := []*kind{
		{name: "api", says: "the description as a whole", facts: apiFacts},
		{name: "server", says: "an address at which the API answers", facts: serverFacts},
		{name: "group", says: "a group of operations (a tag)", facts: groupFacts},
		{name: "scheme", says: "a security scheme", facts: schemeFacts},
		{name: "scope", says: "a permission that a security scheme grants", facts: scopeFacts},
		{name: "path", says: "a path with its operations", facts: pathFacts},
		{name: "operation", says: "a call, a webhook or a callback", facts: operationFacts},
		{name: "parameter", says: "a parameter of a path, a query, a header or a cookie", facts: slices.Concat(parameterFacts, valueFacts)},
		{name: "body", says: "the body of a request", facts: bodyFacts},
		{name: "response", says: "an answer under one status", facts: responseFacts},
		{name: "header", says: "a header of an answer", facts: slices.Concat(parameterFacts, valueFacts)},
		{name: "content", says: "one media type of a body or an answer", facts: contentFacts},
		{name: "type", says: "a schema with a name of its own", facts: slices.Concat(typeFacts, valueFacts)},
		{name: "schema", says: "any schema, wherever it stands", facts: slices.Concat(schemaFacts, valueFacts)},
		{name: "field", says: "a property of an object", facts: slices.Concat(fieldFacts, valueFacts)},
		{name: "value", says: "one value of a list of values (enum)", facts: choiceFacts},
		{name: "node", says: "a value of the text, found by a JSONPath", facts: nodeFacts},
	}
	for _, k := range all {
		k.celType = types.NewObjectType(k.name)
		k.named = map[string]*fact{}
		slices.SortFunc(k.facts, func(a, b fact) int { return compareNames(a.name, b.name) })
		for i, f := range k.facts {
			k.named[f.name] = &k.facts[i]
		}
	}
	kinds = all
	for _, k := range kinds {
		kindNames = append(kindNames, k.name)
		kindByName[k.name] = k
	}
	environments = newEnvironments()
}

// kindOf finds a kind by its name, or nil.
func kindOf(name string) *kind { return kindByName[name] }

// compareNames puts name first, and the others by their letters.
func compareNames(a, b string) int {
	switch {
	case a == b:
		return 0
	case a == "name", b != "name" && a < b:
		return -1
	}
	return 1
}

// text is a text as a value; nothing where it is empty.
func text(s string) ref.Val {
	if s == "" {
		return nil
	}
	return types.String(s)
}

func flag(b bool) ref.Val {
	if !b {
		return nil
	}
	return types.True
}

func texts(list []string) ref.Val {
	if len(list) == 0 {
		return nil
	}
	return types.NewStringList(adapter{}, list)
}

func elements(list []*element) ref.Val {
	if len(list) == 0 {
		return nil
	}
	values := make([]ref.Val, len(list))
	for i, e := range list {
		values[i] = e
	}
	return types.NewRefValList(adapter{}, values)
}

// none is what a fact says that is not there.
func none(t *types.Type) ref.Val {
	switch t.Kind() {
	case types.StringKind:
		return types.String("")
	case types.BoolKind:
		return types.False
	case types.IntKind:
		return types.IntZero
	case types.DoubleKind:
		return types.Double(0)
	case types.ListKind:
		return noItems
	case types.MapKind:
		return noMembers
	}
	return types.NullValue
}

var (
	noItems   = types.NewRefValList(adapter{}, nil)
	noMembers = types.NewStringInterfaceMap(adapter{}, nil)
)

// adapter makes values of nodes, one level at a time.
type adapter struct{}

// NativeToValue converts what facts give.
func (adapter) NativeToValue(v any) ref.Val {
	switch v := v.(type) {
	case ref.Val:
		return v
	case *source.Node:
		return nodeValue(v)
	}
	return types.DefaultTypeAdapter.NativeToValue(v)
}

// nodeValue is a node as a value.
func nodeValue(n *source.Node) ref.Val {
	if n == nil {
		return types.NullValue
	}
	switch n.Kind {
	case source.Boolean:
		return types.Bool(n.Bool)
	case source.Number:
		num := n.Num()
		if num.IsInt() && num.Num().IsInt64() {
			return types.Int(num.Num().Int64())
		}
		f, _ := num.Float64()
		return types.Double(f)
	case source.String:
		return types.String(n.Text)
	case source.Sequence:
		items := make([]any, 0, len(n.Items()))
		for _, it := range n.Items() {
			items = append(items, it)
		}
		return types.NewDynamicList(adapter{}, items)
	case source.Mapping:
		members := make(map[string]any, len(n.Members))
		for _, m := range n.Members {
			members[m.Key] = m.Value
		}
		return types.NewStringInterfaceMap(adapter{}, members)
	}
	return types.NullValue
}

// extensionFact is that of all elements which may have extension fields.
func extensionFact(of func(*element) []contract.Extension) fact {
	return fact{"extensions", isFields, "its extension fields, such as `operation.extensions['x-owner']`", func(e *element) ref.Val {
		list := of(e)
		if len(list) == 0 {
			return nil
		}
		members := make(map[string]any, len(list))
		for _, x := range list {
			members[x.Name] = x.Node
		}
		return types.NewStringInterfaceMap(adapter{}, members)
	}}
}

package housestyle

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/cost"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"

	"oldledger/core/source"
)

// Limits of the conditions that somebody wrote.
const (
	maxCondition = 2_000      // characters of one condition
	maxCost      = 200_000    // what one question to one element may cost, as CEL counts; a comparison costs about 1
	maxSpent     = 10_000_000 // what all questions of a house's own rules may cost in one description
)

// provider tells the types of elements and their facts.
type provider struct{ types.Provider }

func kindNamed(name string) *kind {
	if name == houseKind.name {
		return houseKind
	}
	return kindOf(name)
}

// FindStructType finds the type of a kind.
func (p provider) FindStructType(name string) (*types.Type, bool) {
	if k := kindNamed(name); k != nil {
		return types.NewTypeTypeWithParam(k.celType), true
	}
	return nil, false
}

// FindStructFieldNames lists the facts of a kind.
func (p provider) FindStructFieldNames(name string) ([]string, bool) {
	k := kindNamed(name)
	if k == nil {
		return nil, false
	}
	names := make([]string, len(k.facts))
	for i, f := range k.facts {
		names[i] = f.name
	}
	return names, true
}

// FindStructFieldType finds a fact of a kind.
func (p provider) FindStructFieldType(name, field string) (*types.FieldType, bool) {
	k := kindNamed(name)
	if k == nil {
		return nil, false
	}
	f := k.named[field]
	if f == nil {
		return nil, false
	}
	return &types.FieldType{
		Type:  f.is,
		IsSet: func(target any) bool { e, ok := target.(*element); return ok && f.get(e) != nil },
		GetFrom: func(target any) (any, error) {
			e, ok := target.(*element)
			if !ok {
				return nil, fmt.Errorf("%s is asked of what is no %s", f.name, k.name)
			}
			if v := f.get(e); v != nil {
				return v, nil
			}
			if f.is.Kind() == types.StructKind {
				return nil, fmt.Errorf("there is no %s; ask has(…) first", f.name)
			}
			return none(f.is), nil
		},
	}, true
}

// environments are those of the conditions about each kind; each is made when it is first needed.
var environments map[string]func() (*cel.Env, error)

func newEnvironments() map[string]func() (*cel.Env, error) {
	base := sync.OnceValues(func() (*cel.Env, error) {
		registry, err := types.NewRegistry()
		if err != nil {
			return nil, err
		}
		return cel.NewEnv(append([]cel.EnvOption{
			cel.CustomTypeAdapter(adapter{}),
			cel.CustomTypeProvider(provider{registry}),
			cel.Variable("house", houseKind.celType),
			cel.ParserExpressionSizeLimit(maxCondition),
			cel.ParserRecursionLimit(60),
		}, functions...)...)
	})
	all := map[string]func() (*cel.Env, error){}
	for _, k := range kinds {
		all[k.name] = sync.OnceValues(func() (*cel.Env, error) {
			env, err := base()
			if err != nil {
				return nil, err
			}
			vars := []cel.EnvOption{cel.Variable(k.name, k.celType)}
			if k.name != "api" {
				vars = append(vars, cel.Variable("api", kindOf("api").celType))
			}
			return env.Extend(vars...)
		})
	}
	return all
}

// conditionFault is what is wrong with a condition, and where in it: line and column, from 1 and 0.
type conditionFault struct {
	line, column int
	text, right  string
}

func (f *conditionFault) Error() string { return f.text }

// condition is a question to elements of one kind.
type condition struct {
	text    string
	kind    *kind
	trusted bool
	checked *cel.Ast
	program cel.Program
	expr    ast.Expr
}

// compile reads a condition about a kind; trusted are those of the built-in rules, which need no limits.
func compile(text string, k *kind, is *types.Type, trusted bool) (*condition, *conditionFault) {
	if len(text) > maxCondition {
		return nil, &conditionFault{1, 0, fmt.Sprintf("the condition has more than %d characters", maxCondition), "write several rules"}
	}
	env, err := environments[k.name]()
	if err != nil {
		return nil, &conditionFault{1, 0, err.Error(), ""}
	}
	checked, issues := env.Compile(text)
	if issues != nil && issues.Err() != nil {
		return nil, faultOf(issues, k)
	}
	if is != nil && !is.IsAssignableType(checked.OutputType()) && !checked.OutputType().IsExactType(types.DynType) {
		return nil, &conditionFault{
			1, 0, fmt.Sprintf("it says %s", typeWords(checked.OutputType())),
			fmt.Sprintf("a condition says %s, such as %s != ''", typeWords(is), k.name+".name"),
		}
	}
	options := []cel.ProgramOption{cel.EvalOptions(cel.OptOptimize)}
	if !trusted {
		options = append(options, cel.CostLimit(maxCost), cel.CostTracking(costs{}))
	}
	program, err := env.Program(checked, options...)
	if err != nil {
		return nil, &conditionFault{1, 0, err.Error(), ""}
	}
	return &condition{text, k, trusted, checked, program, checked.NativeRep().Expr()}, nil
}

func typeWords(t *types.Type) string {
	switch t.Kind() {
	case types.BoolKind:
		return "true or false"
	case types.StringKind:
		return "a text"
	case types.IntKind, types.DoubleKind, types.UintKind:
		return "a number"
	case types.ListKind:
		return "a list"
	case types.MapKind:
		return "an object"
	case types.StructKind:
		return "a " + t.TypeName()
	}
	return t.String()
}

// faultOf tells the first of what is wrong with a condition in words of ours.
func faultOf(issues *cel.Issues, k *kind) *conditionFault {
	first := issues.Errors()[0]
	f := &conditionFault{line: first.Location.Line(), column: first.Location.Column(), text: first.Message}
	if name, ok := strings.CutPrefix(first.Message, "undefined field '"); ok {
		name = strings.TrimSuffix(name, "'")
		f.text = fmt.Sprintf("nothing here has a %q", name)
		var known []string
		for _, k := range append(slices.Clone(kinds), houseKind) {
			for _, fact := range k.facts {
				known = append(known, fact.name)
			}
		}
		own, _ := provider{}.FindStructFieldNames(k.name)
		f.right = cmp.Or(source.DidYouMean(name, append(slices.Clone(own), known...)), fmt.Sprintf("a %s has %s", k.name, strings.Join(own, ", ")))
	}
	if name, ok := strings.CutPrefix(first.Message, "undeclared reference to '"); ok {
		name, _, _ = strings.Cut(name, "'")
		f.text = fmt.Sprintf("there is no %q", name)
		known := append([]string{k.name, "api", "house"}, functionNames...)
		f.right = cmp.Or(source.DidYouMean(name, known), fmt.Sprintf("a rule about %s asks %s, api and house", k.name, k.name))
	}
	if name, ok := strings.CutPrefix(first.Message, "type 'type("); ok && strings.HasSuffix(first.Message, "field selection") {
		name, _, _ = strings.Cut(name, ")")
		f.text = fmt.Sprintf("there is no %q here", name)
		f.right = fmt.Sprintf("a rule about %s asks %s, api and house", k.name, k.name)
	}
	if after, ok := strings.CutPrefix(first.Message, "Syntax error: "); ok {
		after, _, _ = strings.Cut(after, " expecting ")
		f.text = "it is no condition: " + after
		f.right = "write one such as " + k.name + ".name != ''"
	}
	if strings.HasPrefix(first.Message, "found no matching overload") {
		f.text = strings.Replace(first.Message, "found no matching overload for ", "these do not go together: ", 1)
	}
	return f
}

// scope are the variables of a condition: the element under its kind, the API and the house.
type scope struct{ e *element }

// ResolveName finds a variable.
func (s *scope) ResolveName(name string) (any, bool) {
	switch name {
	case s.e.kind.name:
		return s.e, true
	case "house":
		return s.e.x.house, true
	case "api":
		return s.e.x.lists["api"][0], true
	}
	return nil, false
}

// Parent is none.
func (s *scope) Parent() cel.Activation { return nil }

// ask evaluates a condition for an element.
func (c *condition) ask(in *scope) (ref.Val, error) {
	if x := in.e.x; !c.trusted && x.spent > maxSpent {
		return nil, errors.New("the rules of the house's own cost more than they may")
	}
	v, detail, err := c.program.Eval(in)
	if cost := detail.ActualCost(); cost != nil {
		in.e.x.spent += *cost
	}
	if err != nil && strings.Contains(err.Error(), "cost limit") {
		return nil, errors.New("it costs more than a question may")
	}
	return v, err
}

// fact is the one fact of its element for which a condition asks, and nothing else: a text, a flag or a number; or nil.
func (c *condition) fact() *fact {
	if c.expr.Kind() != ast.SelectKind || c.expr.AsSelect().IsTestOnly() {
		return nil
	}
	of := c.expr.AsSelect().Operand()
	if of.Kind() != ast.IdentKind || of.AsIdent() != c.kind.name {
		return nil
	}
	f := c.kind.named[c.expr.AsSelect().FieldName()]
	if f == nil || f.is != isText {
		return nil
	}
	return f
}

// holds reports whether a condition holds for an element.
func (c *condition) holds(in *scope) (bool, error) {
	v, err := c.ask(in)
	if err != nil {
		return false, err
	}
	b, ok := v.(types.Bool)
	if !ok {
		return false, fmt.Errorf("%q says %v, and not true or false", c.text, v.Type().TypeName())
	}
	return bool(b), nil
}

// costs counts what the functions of ours cost: about as much as they read.
type costs struct{}

// CallCost is what a call costs; nil for what CEL counts itself.
func (costs) CallCost(_, overload string, args []ref.Val, _ ref.Val) *uint64 {
	if !strings.HasPrefix(overload, "ledger_") {
		return nil
	}
	n := uint64(1)
	for _, a := range args {
		if t, ok := a.(types.String); ok {
			n += uint64(len(t)) / 4
		}
	}
	return &n
}

var _ cost.ActualCostEstimator = costs{}

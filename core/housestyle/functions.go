package housestyle

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"

	"oldledger/core/contract"
)

// Function is one that conditions may call beside those of CEL itself.
type Function struct {
	Call string // how it is called: "name.isCase(way)"
	Says string
}

// function is one with its working.
type function struct {
	Function
	name   string
	args   []*types.Type // the first is what it is called on
	result *types.Type
	of     func(args []ref.Val) ref.Val
}

// library are the functions of ours.
var library = []function{
	{
		Function{"text.isCase(way)", "whether a name is written in a way: `camel`, `pascal`, `snake`, `kebab`, `upper` or `train`; every name is in the way ``"},
		"isCase",
		[]*types.Type{isText, isText},
		isFlag, onTexts(func(name, way string) ref.Val { return types.Bool(isCase(name, way)) }),
	},
	{
		Function{"text.inCase(way)", "a name written in a way"},
		"inCase",
		[]*types.Type{isText, isText},
		isText, onTexts(func(name, way string) ref.Val { return types.String(inCase(name, way)) }),
	},
	{
		Function{"text.words()", "the words of a name or a text, in lower case: `berthID` has `berth` and `id`"},
		"words",
		[]*types.Type{isText},
		isTexts, onText(func(t string) ref.Val { return types.NewStringList(adapter{}, wordsOf(t)) }),
	},
	{
		Function{"text.lastWord()", "the last word of a name, in lower case"},
		"lastWord",
		[]*types.Type{isText},
		isText, onText(func(t string) ref.Val {
			words := wordsOf(t)
			if len(words) == 0 {
				return types.String("")
			}
			return types.String(words[len(words)-1])
		}),
	},
	{
		Function{"text.isPlural()", "whether an English name may stand for several things"},
		"isPlural",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { return types.Bool(isPlural(t)) }),
	},
	{
		Function{"text.isSingular()", "whether an English name may stand for one thing"},
		"isSingular",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { return types.Bool(isSingular(t)) }),
	},
	{
		Function{"text.plural()", "an English name for several things"},
		"plural",
		[]*types.Type{isText},
		isText, onText(func(t string) ref.Val { return types.String(plural(t)) }),
	},
	{
		Function{"text.isAct()", "whether a name begins with a verb that a method says already: `getBerths`"},
		"isAct",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { return types.Bool(isAct(t)) }),
	},
	{
		Function{"text.saysMore(name)", "whether a text says more of a thing than its name"},
		"saysMore",
		[]*types.Type{isText, isText},
		isFlag, onTexts(func(t, name string) ref.Val { return types.Bool(saysMore(t, name)) }),
	},
	{
		Function{"text.trim()", "a text without the blanks around it"},
		"trim",
		[]*types.Type{isText},
		isText, onText(func(t string) ref.Val { return types.String(strings.TrimSpace(t)) }),
	},
	{
		Function{"text.without(end)", "a text without its end, if it has that end"},
		"without",
		[]*types.Type{isText, isText},
		isText, onTexts(func(t, end string) ref.Val { return types.String(strings.TrimSuffix(t, end)) }),
	},
	{
		Function{"text.lower()", "a text in small letters"},
		"lower",
		[]*types.Type{isText},
		isText, onText(func(t string) ref.Val { return types.String(strings.ToLower(t)) }),
	},
	{
		Function{"text.capital()", "a text that begins with a large letter"},
		"capital",
		[]*types.Type{isText},
		isText, onText(func(t string) ref.Val { return types.String(capital(t)) }),
	},
	{
		Function{"text.isVersion()", "whether a text is a version number, as the ledger reads it"},
		"isVersion",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { _, err := contract.ParseVersion(t); return types.Bool(err == nil) }),
	},
	{
		Function{"text.isDay()", "whether a text is a day of the calendar: `2027-03-01`"},
		"isDay",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { _, err := time.Parse(time.DateOnly, t); return types.Bool(err == nil) }),
	},
	{
		Function{"text.growsFast()", "whether a pattern can be made to run for ever by a text that it nearly matches: `(a+)+b`"},
		"growsFast",
		[]*types.Type{isText},
		isFlag, onText(func(t string) ref.Val { return types.Bool(growsFast(t)) }),
	},
	{
		Function{"list.joined(between)", "a list of texts as one text"},
		"joined",
		[]*types.Type{isTexts, isText},
		isText, joined,
	},
}

func onText(f func(string) ref.Val) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val {
		t, ok := args[0].(types.String)
		if !ok {
			return types.MaybeNoSuchOverloadErr(args[0])
		}
		return f(string(t))
	}
}

func onTexts(f func(a, b string) ref.Val) func([]ref.Val) ref.Val {
	return func(args []ref.Val) ref.Val {
		a, isA := args[0].(types.String)
		b, isB := args[1].(types.String)
		if !isA || !isB {
			return types.MaybeNoSuchOverloadErr(args[0])
		}
		return f(string(a), string(b))
	}
}

// maxJoined bounds a text that joined makes, in bytes.
const maxJoined = 10_000

func joined(args []ref.Val) ref.Val {
	list, ok := args[0].(traits.Lister)
	between, isText := args[1].(types.String)
	if !ok || !isText {
		return types.MaybeNoSuchOverloadErr(args[0])
	}
	var b strings.Builder
	for it, i := list.Iterator(), 0; it.HasNext() == types.True && b.Len() < maxJoined; i++ {
		if i > 0 {
			b.WriteString(string(between))
		}
		fmt.Fprint(&b, it.Next().Value())
	}
	return types.String(b.String())
}

// functions declare the library.
var functions = func() []cel.EnvOption {
	options := make([]cel.EnvOption, len(library))
	for i, f := range library {
		id := "ledger_" + f.name
		var working cel.OverloadOpt
		switch len(f.args) {
		case 1:
			working = cel.UnaryBinding(func(v ref.Val) ref.Val { return f.of([]ref.Val{v}) })
		default:
			working = cel.BinaryBinding(func(a, b ref.Val) ref.Val { return f.of([]ref.Val{a, b}) })
		}
		options[i] = cel.Function(f.name, cel.MemberOverload(id, f.args, f.result, working))
	}
	return options
}()

var functionNames = func() []string {
	names := []string{"size", "matches", "contains", "startsWith", "endsWith", "has", "all", "exists", "filter", "map"}
	for _, f := range library {
		names = append(names, f.name)
	}
	slices.Sort(names)
	return names
}()

package check_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/tools/draw"
)

type object = map[string]any

// planted is a mistake that was put into a description: under which rule and where it must be told.
type planted struct{ rule, pointer string }

// planter puts mistakes into two versions of a description alike.
type planter struct {
	t     *rapid.T
	sides []object
	old   bool // OpenAPI 3.0
	told  []planted
	n     int
}

func (p *planter) name() string {
	p.n++
	return fmt.Sprintf("zz%d", p.n)
}

func (p *planter) tell(rule source.Rule, pointer string) {
	p.told = append(p.told, planted{rule.Name, pointer})
}

func at(side object, steps ...string) object {
	for _, s := range steps {
		next, ok := side[s].(object)
		if !ok {
			return nil
		}
		side = next
	}
	return side
}

func pointer(steps ...string) string {
	var b strings.Builder
	for _, s := range steps {
		b.WriteString("/" + source.EscapeStep(s))
	}
	return b.String()
}

// operations are the ways to the operations that both sides have.
func (p *planter) operations() [][]string {
	var ways [][]string
	for path, item := range at(p.sides[0], "paths") {
		for method := range item.(object) {
			if !slices.Contains([]string{"get", "put", "post", "delete", "patch"}, method) {
				continue
			}
			if at(p.sides[1], "paths", path, method) != nil {
				ways = append(ways, []string{"paths", path, method})
			}
		}
	}
	slices.SortFunc(ways, slices.Compare)
	return ways
}

// objects are the names of the components with properties that both sides have and refer to equally often: where a component comes into
// use, its members are new there, the one with the mistake as well.
func (p *planter) objects() []string {
	var uses [2]string
	for i, side := range p.sides {
		text, err := json.Marshal(side)
		require.NoError(p.t, err)
		uses[i] = string(text)
	}
	var names []string
	for name := range at(p.sides[0], "components", "schemas") {
		ref := `"#/components/schemas/` + name + `"`
		if at(p.sides[0], "components", "schemas", name, "properties") != nil &&
			at(p.sides[1], "components", "schemas", name, "properties") != nil &&
			strings.Count(uses[0], ref) == strings.Count(uses[1], ref) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// member plants a property with a mistake in it. where is the rest of the way to the place of the mistake.
func (p *planter) member(rule source.Rule, schema object, where ...string) {
	names := p.objects()
	if len(names) == 0 {
		return
	}
	way := []string{"components", "schemas", rapid.SampledFrom(names).Draw(p.t, "schema"), "properties"}
	name := p.name()
	for _, side := range p.sides {
		at(side, way...)[name] = schema
	}
	p.tell(rule, pointer(slices.Concat(way, []string{name}, where)...))
}

func (p *planter) inOperation(plant func(way []string)) {
	if ways := p.operations(); len(ways) > 0 {
		plant(rapid.SampledFrom(ways).Draw(p.t, "operation"))
	}
}

func answers() object { return object{"200": object{"description": "Here."}} }

// kinds are the everyday mistakes, each as one writes it.
var kinds = []func(*planter){
	func(p *planter) { p.member(contract.TypeUnknown, object{"type": "strng"}, "type") },
	func(p *planter) { p.member(contract.TypeUnknown, object{"type": "datetime"}, "type") },
	func(p *planter) {
		p.member(contract.RequiredFlag, object{"type": "string", "required": true}, "required")
	},
	func(p *planter) {
		p.member(contract.RangeEmpty, object{"type": "integer", "minimum": 9, "maximum": 3}, "minimum")
	},
	func(p *planter) {
		p.member(contract.RangeEmpty, object{"type": "string", "minLength": 9, "maxLength": 3, "example": "abcd"}, "minLength")
	},
	func(p *planter) {
		p.member(contract.TextForNumber, object{"type": "string", "maxLength": "5"}, "maxLength")
	},
	func(p *planter) {
		p.member(contract.TextForBoolean, object{"type": "string", "deprecated": "true"}, "deprecated")
	},
	func(p *planter) {
		p.member(contract.NumberWrong, object{"type": "string", "maxLength": -5}, "maxLength")
	},
	func(p *planter) {
		p.member(contract.EnumTwice, object{"type": "string", "enum": []any{"a", "b", "a"}}, "enum", "2")
	},
	func(p *planter) {
		p.member(contract.ValueRefused, object{"type": "integer", "default": "x"}, "default")
	},
	func(p *planter) {
		p.member(contract.ValueRefused, object{
			"type": "object", "properties": object{"a": object{"type": "integer"}},
			"example": object{"a": "x"},
		}, "example", "a")
	},
	func(p *planter) {
		p.member(contract.KindWrong, object{"type": "object", "additionalProperties": "yes"}, "additionalProperties")
	},
	func(p *planter) {
		p.member(contract.KindWrong, object{"type": "string", "minLength": []any{3}}, "minLength")
	},
	func(p *planter) {
		p.member(contract.KeyMisspelt, object{"type": "string", "maxLenght": 5}, "maxLenght")
	},
	func(p *planter) {
		p.member(contract.KeyMisspelt, object{"type": "object", "propertees": object{}}, "propertees")
	},
	func(p *planter) { p.member(contract.KeyUnknown, object{"type": "string", "quayside": 5}, "quayside") },
	func(p *planter) {
		p.member(contract.PatternUnread, object{"type": "string", "pattern": "(a"}, "pattern")
	},
	func(p *planter) {
		p.member(contract.RequiredUnknown, object{"type": "object", "required": []any{"vesel"}, "properties": object{"vessel": object{}}},
			"required", "0")
	},
	func(p *planter) {
		if p.old {
			p.member(contract.TypeNull, object{"type": "null"}, "type")
			p.member(contract.LimitOtherWay, object{"type": "integer", "exclusiveMinimum": 5}, "exclusiveMinimum")
			p.member(contract.KeyOfOther, object{"const": 5}, "const")
			return
		}
		p.member(contract.NullableIgnored, object{"type": "string", "nullable": true}, "nullable")
		p.member(contract.LimitOtherWay, object{"type": "integer", "minimum": 5, "exclusiveMinimum": true}, "exclusiveMinimum")
	},
	func(p *planter) {
		p.inOperation(func(way []string) {
			if at(p.sides[0], way...)["depricated"] != nil {
				return
			}
			rule := contract.KeyMisspelt
			switch there := [2]any{at(p.sides[0], way...)["deprecated"], at(p.sides[1], way...)["deprecated"]}; {
			case there[0] != nil && there[1] != nil:
				rule = contract.KeyUnknown // the right key stands there already
			case there[0] != nil || there[1] != nil:
				return // told differently on either side
			}
			for _, side := range p.sides {
				at(side, way...)["depricated"] = true
			}
			p.tell(rule, pointer(append(way, "depricated")...))
		})
	},
	func(p *planter) {
		p.inOperation(func(way []string) {
			if at(p.sides[0], way...)["responses"] == nil || at(p.sides[1], way...)["responses"] == nil {
				return
			}
			status := p.name()
			for _, side := range p.sides {
				at(side, append(way, "responses")...)[status] = object{"description": "Here."}
			}
			p.tell(contract.StatusUnknown, pointer(append(way, "responses", status)...))
		})
	},
	func(p *planter) {
		path := "/" + p.name()
		for _, side := range p.sides {
			at(side, "paths")[path+"/{id}"] = object{"get": object{"responses": answers()}}
		}
		p.tell(contract.ParameterUndeclared, "/paths")
	},
	func(p *planter) {
		path := "/" + p.name()
		for _, side := range p.sides {
			at(side, "paths")[path] = object{"get": object{
				"responses":  answers(),
				"parameters": []any{object{"name": "ghost", "in": "path", "required": true, "schema": object{"type": "string"}}},
			}}
		}
		p.tell(contract.ParameterUnused, pointer("paths", path, "get", "parameters", "0", "name"))
	},
	func(p *planter) {
		path := "/" + p.name()
		one := func(name, method string) object {
			return object{method: object{"responses": answers(), "parameters": []any{object{
				"name": name, "in": "path", "required": true,
				"schema": object{"type": "string"},
			}}}}
		}
		for _, side := range p.sides {
			at(side, "paths")[path+"/{a}"], at(side, "paths")[path+"/{b}"] = one("a", "get"), one("b", "put")
		}
		p.tell(contract.PathTwice, pointer("paths", path+"/{b}"))
	},
	func(p *planter) {
		path, media := "/"+p.name(), object{"schema": object{"type": "string"}}
		for _, side := range p.sides {
			at(side, "paths")[path] = object{"get": object{
				"responses":  answers(),
				"parameters": []any{object{"name": "q", "in": "query", "content": object{"application/json": media, "text/plain": media}}},
			}}
		}
		p.tell(contract.ContentTwice, pointer("paths", path, "get", "parameters", "0", "content", "text/plain"))
	},
	func(p *planter) {
		path := "/" + p.name()
		for _, side := range p.sides {
			at(side, "paths")[path] = object{"get": object{"responses": answers(), "security": []any{object{"nobodysKey": []any{}}}}}
		}
		p.tell(contract.SchemeUndeclared, pointer("paths", path, "get", "security", "0", "nobodysKey"))
	},
	func(p *planter) {
		path := "/" + p.name()
		for _, side := range p.sides {
			at(side, "paths")[path] = object{"fetch": object{"responses": answers()}}
		}
		p.tell(contract.KeyUnknown, pointer("paths", path, "fetch"))
	},
}

func read(t require.TestingT, side object) *contract.Contract {
	text, err := json.Marshal(side)
	require.NoError(t, err)
	f, err := source.Parse("mistaken.json", text)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err, "a description with mistakes is read")
	return c
}

func parsed(t require.TestingT, text []byte) object {
	f, err := source.Parse("base", text)
	require.NoError(t, err)
	plain, err := json.Marshal(f.Root.Value())
	require.NoError(t, err)
	var side object
	require.NoError(t, json.Unmarshal(plain, &side))
	return side
}

func told(t require.TestingT, c *contract.Contract) []planted {
	found, err := check.Contract(context.Background(), c)
	require.NoError(t, err)
	all := make([]planted, len(found))
	for i, d := range found {
		all[i] = planted{d.Rule, d.Pointer}
	}
	return all
}

func summary(c *compare.Comparison) []string {
	var lines []string
	for _, ch := range c.Changes {
		lines = append(lines, fmt.Sprintf("%s %s/%s %s", ch.Kind, ch.Backward, ch.Forward, ch.Title))
	}
	slices.Sort(lines)
	return lines
}

// TestMistakes puts one to ten everyday mistakes into two versions alike, of the demo and of drawn schemas: each is told once, at its
// place, and what changed between the versions compares as it did without them.
func TestMistakes(t *testing.T) {
	t.Parallel()
	var pairs [][2][]byte
	for _, pair := range [][2]string{
		{"berths/1.0.0", "berths/1.1.0"},
		{"berths/1.1.0", "berths/1.2.0"},
		{"berths/1.2.0", "berths/2.0.0"},
		{"pilotage/0.9.0", "pilotage/1.0.0"},
		{"pilotage/1.0.0", "pilotage/1.1.0"},
		{"commons/1.0.0", "commons/1.1.0"},
	} {
		var both [2][]byte
		for i, name := range pair {
			text, err := os.ReadFile("../../demo/" + name + ".yaml")
			require.NoError(t, err)
			both[i] = text
		}
		pairs = append(pairs, both)
	}
	t.Run("demo", func(t *testing.T) {
		withMistakes(t, func(t *rapid.T) [2][]byte { return pairs[rapid.IntRange(0, len(pairs)-1).Draw(t, "pair")] })
	})
	t.Run("drawn", func(t *testing.T) {
		withMistakes(t, func(t *rapid.T) [2][]byte {
			schema := draw.Schemas().Draw(t, "schema")
			return [2][]byte{[]byte(draw.Around(schema, true)), []byte(draw.Around(draw.Near(t, schema), true))}
		})
	})
}

// withMistakes puts mistakes into a hundred pairs.
func withMistakes(t *testing.T, pair func(*rapid.T) [2][]byte) {
	planted := 0
	rapid.Check(t, func(t *rapid.T) {
		both := pair(t)
		clean := []object{parsed(t, both[0]), parsed(t, both[1])}
		p := &planter{t: t, sides: []object{parsed(t, both[0]), parsed(t, both[1])}}
		if at(p.sides[0], "paths") == nil || at(p.sides[1], "paths") == nil {
			return
		}
		version, _ := p.sides[0]["openapi"].(string)
		other, _ := p.sides[1]["openapi"].(string)
		if version[:3] != other[:3] {
			return // what is a mistake in one is none in the other
		}
		p.old = strings.HasPrefix(version, "3.0")
		for range rapid.IntRange(1, 10).Draw(t, "mistakes") {
			kinds[rapid.IntRange(0, len(kinds)-1).Draw(t, "kind")](p)
		}
		planted += len(p.told)
		for i, side := range p.sides {
			want := append(told(t, read(t, clean[i])), p.told...)
			require.ElementsMatch(t, want, told(t, read(t, side)), "each mistake is told once, at its place")
		}
		without := compare.Contracts(read(t, clean[0]), read(t, clean[1]), compare.Options{})
		with := compare.Contracts(read(t, p.sides[0]), read(t, p.sides[1]), compare.Options{})
		require.Equal(t, summary(without), summary(with), "the rest compares as it did")
	})
	if !testing.Short() { // which draws less
		require.Greater(t, planted, 100)
	}
}

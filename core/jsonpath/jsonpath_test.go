package jsonpath_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/jsonpath"
	"oldledger/core/value"
)

func parse(t testing.TB, text string) *value.Value {
	t.Helper()
	v, err := value.Parse([]byte(text))
	require.NoError(t, err)
	return v
}

const (
	quay   = `{"quay": {"berth": [{"name": "N-1", "length": 8.95, "kind": "a"}, {"name": "N-2", "length": 12.99, "kind": "b"}, {"name": "N-3", "code": "0-553", "length": 8.99, "kind": "b"}, {"name": "N-4", "code": "0-395", "length": 22.99, "kind": "b"}], "crane": {"colour": "red", "length": 399}}}`
	letter = `["a", "b", "c", "d", "e", "f", "g"]`
	mixed  = `{"a": [3, 5, 1, 2, 4, 6, {"b": "j"}, {"b": "k"}, {"b": {}}, {"b": "kilo"}], "o": {"p": 1, "q": 2, "r": 3, "s": 5, "t": {"u": 6}}, "e": "f"}`
	absent = `{"obj": {"x": "y"}, "arr": [2, 3]}`
)

// TestSelect follows the tables of RFC 9535 (sections 1.5 and 2.3), with values of the harbour.
func TestSelect(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ on, path, want string }{
		{
			quay, `$.quay.berth[*].name`,
			`$['quay']['berth'][0]['name'] $['quay']['berth'][1]['name'] $['quay']['berth'][2]['name'] $['quay']['berth'][3]['name']`,
		},
		{quay, `$.quay.*`, `$['quay']['berth'] $['quay']['crane']`},
		{quay, `$.quay..length`, `$['quay']['berth'][0]['length'] $['quay']['berth'][1]['length'] $['quay']['berth'][2]['length'] $['quay']['berth'][3]['length'] $['quay']['crane']['length']`},
		{quay, `$..berth[2].kind`, `$['quay']['berth'][2]['kind']`},
		{quay, `$..berth[-1]`, `$['quay']['berth'][3]`},
		{quay, `$..berth[0,1]`, `$['quay']['berth'][0] $['quay']['berth'][1]`},
		{quay, `$..berth[:2]`, `$['quay']['berth'][0] $['quay']['berth'][1]`},
		{quay, `$..berth[?@.code]`, `$['quay']['berth'][2] $['quay']['berth'][3]`},
		{quay, `$..berth[?@.length<10]`, `$['quay']['berth'][0] $['quay']['berth'][2]`},
		{quay, `$`, `$`},
		{quay, `$ ['quay'] .crane`, `$['quay']['crane']`},
		{letter, `$[1:3]`, `$[1] $[2]`},
		{letter, `$[5:]`, `$[5] $[6]`},
		{letter, `$[1:5:2]`, `$[1] $[3]`},
		{letter, `$[5:1:-2]`, `$[5] $[3]`},
		{letter, `$[::-1]`, `$[6] $[5] $[4] $[3] $[2] $[1] $[0]`},
		{letter, `$[::0]`, ``},
		{letter, `$[-2:]`, `$[5] $[6]`},
		{letter, `$[0, 3]`, `$[0] $[3]`},
		{letter, `$[0:2, 5]`, `$[0] $[1] $[5]`},
		{letter, `$[0, 0]`, `$[0] $[0]`},
		{letter, `$[7]`, ``},
		{mixed, `$.a[?@.b == 'kilo']`, `$['a'][9]`},
		{mixed, `$.a[?(@.b == 'kilo')]`, `$['a'][9]`},
		{mixed, `$.a[?@>3.5]`, `$['a'][1] $['a'][4] $['a'][5]`},
		{mixed, `$.a[?@.b]`, `$['a'][6] $['a'][7] $['a'][8] $['a'][9]`},
		{mixed, `$[?@.*]`, `$['a'] $['o']`},
		{mixed, `$[?@[?@.b]]`, `$['a']`},
		{mixed, `$.o[?@<3, ?@<3]`, `$['o']['p'] $['o']['q'] $['o']['p'] $['o']['q']`},
		{mixed, `$.a[?@<2 || @.b == "k"]`, `$['a'][2] $['a'][7]`},
		{mixed, `$.a[?match(@.b, "[jk]")]`, `$['a'][6] $['a'][7]`},
		{mixed, `$.a[?search(@.b, "[jk]")]`, `$['a'][6] $['a'][7] $['a'][9]`},
		{mixed, `$.o[?@>1 && @<4]`, `$['o']['q'] $['o']['r']`},
		{mixed, `$.o[?@.u || @.x]`, `$['o']['t']`},
		{mixed, `$.a[?@.b == $.x]`, `$['a'][0] $['a'][1] $['a'][2] $['a'][3] $['a'][4] $['a'][5]`},
		{mixed, `$.a[?@ == @]`, `$['a'][0] $['a'][1] $['a'][2] $['a'][3] $['a'][4] $['a'][5] $['a'][6] $['a'][7] $['a'][8] $['a'][9]`},
		{mixed, `$.a[?!@.b]`, `$['a'][0] $['a'][1] $['a'][2] $['a'][3] $['a'][4] $['a'][5]`},
		{mixed, `$.a[?!(@.b || @ > 2)]`, `$['a'][2] $['a'][3]`},
		{mixed, `$[?length(@) == 1]`, `$['e']`},
		{mixed, `$[?count(@.*) > 5]`, `$['a']`},
		{mixed, `$[?value(@.t.u) == 6]`, `$['o']`},
		{absent, `$[?$.absent1 == $.absent2]`, `$['obj'] $['arr']`},
		{absent, `$[?$.absent == 'g']`, ``},
		{absent, `$[?1 <= $.arr]`, ``},
		{absent, `$[?'a' < 'b']`, `$['obj'] $['arr']`},
		{absent, `$[?$.obj == $.obj]`, `$['obj'] $['arr']`},
		{absent, `$[?true <= true]`, `$['obj'] $['arr']`},
		{absent, `$[?null == false]`, ``},
		{`{"o": {"j j": {"k.k": 3}}, "'": {"@": 2}, "a\\b": 1, "ä": 4}`, `$.o['j j']["k.k"]`, `$['o']['j j']['k.k']`},
		{`{"o": {"j j": {"k.k": 3}}, "'": {"@": 2}, "a\\b": 1, "ä": 4}`, `$["'"]['@']`, `$['\'']['@']`},
		{`{"o": {"j j": {"k.k": 3}}, "'": {"@": 2}, "a\\b": 1, "ä": 4}`, `$['a\\b', '\u00e4']`, `$['a\\b'] $['ä']`},
		{`{"a": "x\ny", "b": "xzy"}`, `$[?match(@, 'x.y')]`, `$['b']`},
		{`{"a": 1.0, "b": 1}`, `$[?@ == 1]`, `$['a'] $['b']`},
	} {
		p, err := jsonpath.Parse(c.path)
		require.NoError(t, err, c.path)
		found, err := p.Select(parse(t, c.on))
		require.NoError(t, err)
		var all []string
		for _, l := range found {
			all = append(all, l.String())
		}
		require.Equal(t, c.want, strings.Join(all, " "), c.path)
	}
}

// TestParse tells what is wrong with a path, and where.
func TestParse(t *testing.T) {
	t.Parallel()
	for path, want := range map[string]string{
		``:                                    "at character 1: a path begins with $",
		`paths`:                               "at character 1: a path begins with $",
		`$.`:                                  "at character 3: expected a name or *",
		`$.a b`:                               "at character 4: expected . or [ or the end",
		`$.x-name`:                            "at character 4: expected . or [ or the end",
		`$[`:                                  "at character 3: expected a name in quotes",
		`$['a`:                                "at character 5: the text has no closing quote",
		`$['\x']`:                             "no such escape",
		`$['\ud800']`:                         "no such escape",
		`$[01]`:                               "whole number without leading zeros",
		`$[-0]`:                               "whole number without leading zeros",
		`$[9007199254740992]`:                 "whole number",
		`$[?@.a == ]`:                         "expected @, $, a value or a function",
		`$[?@..a == 1]`:                       "one value at most",
		`$[?1]`:                               "a value stands on one side of a comparison",
		`$[?length(@.a)]`:                     "a value stands on one side of a comparison",
		`$[?match(@.a)]`:                      "match takes 2 arguments, not 1",
		`$[?count(1) == 1]`:                   "count takes a query",
		`$[?match(@,'a') == 1]`:               "a comparison takes a value",
		`$[?@.a == 01]`:                       "01 is no number",
		`$[?size(@.a) == 1]`:                  "expected true, false, null, or one of the functions",
		`$[?` + strings.Repeat("(", 60) + `@`: "at most 50 deep",
		`$` + strings.Repeat(".a", 3000):      "at most 4000 characters",
		"$['\x01']":                           "a control character",
		"$['\xff']":                           "UTF-8",
	} {
		_, err := jsonpath.Parse(path)
		require.ErrorContains(t, err, want, path)
	}
}

// TestNormalized finds every place again by its normalized path.
func TestNormalized(t *testing.T) {
	t.Parallel()
	all, err := jsonpath.Parse("$..*")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		names := rapid.SliceOfNDistinct(rapid.String(), 1, 4, rapid.ID[string]).Draw(t, "names")
		root := value.Obj()
		for i, n := range names {
			root.Members = append(root.Members, value.Member{Name: n, Value: value.Arr(value.Str(n),
				value.Obj(value.Member{Name: names[0], Value: value.Bool(i%2 == 0)}))})
		}
		found, err := all.Select(root)
		require.NoError(t, err)
		for _, l := range found {
			p, err := jsonpath.Parse(l.String())
			require.NoError(t, err, l.String())
			again, err := p.Select(root)
			require.NoError(t, err)
			require.Len(t, again, 1)
			require.Same(t, l.Value, again[0].Value)
		}
	})
}

func FuzzParse(f *testing.F) {
	root, err := value.Parse([]byte(quay))
	require.NoError(f, err)
	f.Add(`$..berth[?@.length<10 && match(@.name, 'N.*')].name`)
	f.Add(`$[::-1]['a',"b\u00e4"][?!(@.x || count($..*) > 2)]`)
	f.Fuzz(func(t *testing.T, text string) {
		p, err := jsonpath.Parse(text)
		if err != nil {
			return
		}
		found, err := p.Select(root)
		if err != nil {
			return
		}
		for _, l := range found {
			_, err := jsonpath.Parse(l.String())
			require.NoError(t, err)
		}
	})
}

package source_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/source"
)

func parse(t *testing.T, name, text string) *source.File {
	t.Helper()
	f, err := source.Parse(name, []byte(text))
	require.NoError(t, err)
	return f
}

// TestPlaces gives each node its line, column and pointer, in YAML and in JSON.
func TestPlaces(t *testing.T) {
	t.Parallel()
	yaml := parse(t, "a.yaml", "info:\n  title: Berths\n  'x/y~z':\n    - one\n    - é: two\n")
	json := parse(t, "a.json", "{\n  \"info\": {\"title\": \"Berths\",\n    \"x/y~z\": [\"one\",\n      {\"é\": \"two\"}]}}")
	for _, c := range []struct{ pointer, yaml, json, yamlValue, jsonValue string }{
		{"", "1:1", "1:1", "1:1", "1:1"},
		{"/info", "1:1", "2:3", "2:3", "2:11"},
		{"/info/title", "2:3", "2:12", "2:10", "2:21"},
		{"/info/x~1y~0z", "3:3", "3:5", "4:5", "3:14"},
		{"/info/x~1y~0z/1", "5:7", "4:7", "5:7", "4:7"},
		{"/info/x~1y~0z/1/é", "5:7", "4:8", "5:10", "4:13"},
	} {
		for f, want := range map[*source.File][2]string{yaml: {c.yaml, c.yamlValue}, json: {c.json, c.jsonValue}} {
			n := f.Root.Resolve(c.pointer)
			require.NotNil(t, n, c.pointer)
			require.Equal(t, c.pointer, n.Pointer())
			require.Equal(t, want[0], fmt.Sprintf("%d:%d", n.Place().Line, n.Place().Column), "%s of %s", c.pointer, f.Name)
			require.Equal(t, want[1], fmt.Sprintf("%d:%d", n.ValuePlace().Line, n.ValuePlace().Column), "the value of %s of %s", c.pointer, f.Name)
		}
	}
	require.True(t, yaml.Root.Same(json.Root))
	for _, nowhere := range []string{"info", "/nobody", "/info/title/x", "/info/x~1y~0z/2", "/info/x~1y~0z/01", "/info/x~1y~0z/-"} {
		require.Nil(t, yaml.Root.Resolve(nowhere), nowhere)
	}
}

// TestScalars reads YAML's scalars as JSON's.
func TestScalars(t *testing.T) {
	t.Parallel()
	f := parse(t, "a.yaml", `
int: 007
hex: 0x1F
octal: 0o17
grouped: 1_000
half: .5
whole: 5.
plus: +3
big: 123456789012345678901234567890
exponent: 1e3
infinite: .inf
date: 2026-03-01
yes: yes
on: on
truth: TRUE
nothing: ~
empty:
quoted: "1"
version: 1.0
folded: >
  two
  lines
`)
	for key, want := range map[string]string{
		"int": "7", "hex": "31", "octal": "15", "grouped": "1000", "half": "1/2", "whole": "5", "plus": "3",
		"big": "123456789012345678901234567890", "exponent": "1000", "version": "1",
	} {
		n := f.Root.Get(key)
		require.Equal(t, source.Number, n.Kind, key)
		require.Equal(t, want, n.Num().RatString(), key)
	}
	require.Equal(t, "1.0", f.Root.Get("version").Text, "the author's spelling is kept")
	for key, want := range map[string]string{
		"infinite": ".inf", "date": "2026-03-01", "yes": "yes", "on": "on", "quoted": "1",
		"folded": "two lines\n",
	} {
		require.Equal(t, source.String, f.Root.Get(key).Kind, key)
		require.Equal(t, want, f.Root.Get(key).Text, key)
	}
	require.True(t, f.Root.Get("truth").Bool)
	require.Equal(t, source.Null, f.Root.Get("nothing").Kind)
	require.Equal(t, source.Null, f.Root.Get("empty").Kind)
}

// TestMerge carries out merge keys and aliases; what they share stands where it was written.
func TestMerge(t *testing.T) {
	t.Parallel()
	f := parse(t, "a.yaml", "base: &b {x: 1, y: 2}\nother: &o {z: 3}\none: {<<: *b, x: 9}\ntwo: {<<: [*b, *o]}\nthree: *b\n")
	require.Equal(t, `{"x":9,"y":2}`, f.Root.Get("one").Value().String())
	require.Equal(t, `{"x":1,"y":2,"z":3}`, f.Root.Get("two").Value().String())
	require.Equal(t, "/base/x", f.Root.Get("three").Get("x").Pointer())
	require.EqualValues(t, 1, f.Root.Get("three").Get("x").Line)
	_, err := source.Parse("a.yaml", []byte("a: {<<: 1}\n"))
	require.ErrorContains(t, err, "<< takes an object")
}

func TestNearest(t *testing.T) {
	t.Parallel()
	known := []string{"string", "integer", "object", "get", "Vessel.length"}
	for word, want := range map[string]string{"strng": "string", "gett": "get", "Vessel.lenght": "Vessel.length", "zzzzz": "", "": ""} {
		require.Equal(t, want, source.Nearest(word, known), word)
	}
	require.Equal(t, `; did you mean "object"?`, source.DidYouMean("objct", known))
}

// TestLargeObjects finds members by an index.
func TestLargeObjects(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&b, "k%d: %d\n", i, i)
	}
	f := parse(t, "a.yaml", b.String())
	require.Equal(t, "777", f.Root.Get("k777").Text)
	require.Nil(t, f.Root.Get("k1000"))
	require.Equal(t, 778, f.Root.Get("k777").Place().Line)
}

// lineBreak is what ends a line in YAML, also where an older version of it is read.
var lineBreak = regexp.MustCompile("\r|\n|\u0085|\u2028|\u2029")

// FuzzParse looks for texts that make the readers panic, hang, or give a node a place outside of its text.
func FuzzParse(f *testing.F) {
	for _, text := range []string{
		"a: &x {b: 1}\nc: *x\n", `{"a":[1,2.5e3,"\u00e9",null,true]}`, "? a\n: b\n", "- !!str 1\n- |\n  text\n",
		"<<: {a: 1}\nb: 2\n", "{\"a\":1,\"a\":2}",
	} {
		f.Add([]byte(text))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		for _, name := range []string{"f.yaml", "f.json"} {
			file, err := source.Parse(name, text)
			if err != nil {
				require.IsType(t, source.Diagnostics{}, err)
				continue
			}
			lines := len(lineBreak.FindAll(text, -1)) + 2 // what is left out at the end may stand behind the last line
			var walk func(n *source.Node)
			walk = func(n *source.Node) {
				p := n.Place()
				require.True(t, p.Line >= 1 && p.Line <= lines && p.Column >= 1, "%s of %q", p, text)
				require.Same(t, n.Origin(), file.Root.Resolve(p.Pointer).Origin())
				for _, m := range n.Members {
					walk(m.Value)
				}
				for _, it := range n.Items() {
					walk(it)
				}
			}
			walk(file.Root)
		}
	})
}

// TestQuestionMarks reads keys that end in a question mark inside braces, with their places.
func TestQuestionMarks(t *testing.T) {
	t.Parallel()
	f, err := source.Parse("a.yaml", []byte("a: {name?: 'why?: not', b?: 1}\nc?: x\n"))
	require.NoError(t, err)
	a := f.Root.Get("a")
	require.Equal(t, "why?: not", a.Get("name?").Text)
	require.Equal(t, "a.yaml:1:25", a.Get("b?").Place().String())
	require.Equal(t, "x", f.Root.Get("c?").Text)
	_, err = source.Parse("a.yaml", []byte("a: {name?: 1\nb: 2\n"))
	require.ErrorContains(t, err, "a.yaml:")
}

package versioning_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/core/versioning"
	"oldledger/tools/cases"
)

// called reads a description as a version of an API whose scheme stands in its first line, behind a #.
func called(t *testing.T, name string, text []byte) (versioning.Called, *contract.Contract) {
	t.Helper()
	first, _, _ := strings.Cut(string(text), "\n")
	scheme, err := versioning.Parse(strings.TrimPrefix(first, "#"))
	require.NoError(t, err)
	f, err := source.Parse(name, text)
	require.NoError(t, err)
	c, err := format.Read(source.SetOf(f))
	require.NoError(t, err)
	api, _, _ := strings.Cut(name, "-")
	return versioning.Called{API: api, Scheme: scheme, Version: version(t, c.Version), Addresses: versioning.Addresses(c)}, c
}

// TestCheck holds schemes against descriptions: what does not go together is told at its place; and calls of other APIs that look alike.
func TestCheck(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		var b strings.Builder
		var index versioning.Index
		var all []versioning.Called
		var contracts []*contract.Contract
		for _, f := range a.Files {
			if strings.HasSuffix(f.Name, ".yaml") {
				c, read := called(t, f.Name, f.Data)
				all, contracts = append(all, c), append(contracts, read)
				index.Add(c)
			}
		}
		for i, c := range all {
			fmt.Fprintf(&b, "%s@%s %s\n", c.API, c.Version.Number, c.Scheme.Says(c.Version))
			for _, f := range c.Scheme.Check(contracts[i], c.Version) {
				fmt.Fprintf(&b, "  %s %s (%d more)\n", f.Place, f.Text, f.More)
			}
			clashes, err := index.Apart(context.Background(), c)
			require.NoError(t, err)
			for _, o := range clashes {
				fmt.Fprintf(&b, "  %s %s may be for %s@%s, %s %s (%d more)\n", o.Own, o.OwnPath, o.API, o.Number, o.Other, o.OtherPath, o.More)
			}
		}
		return map[string]string{"want.txt": b.String()}
	})
}

// path draws a path of a few steps, some of them with variables.
func path(t *rapid.T, name string) string {
	step := rapid.SampledFrom([]string{"a", "b", "ab", "ba", "aab", "{x}", "a{x}", "{x}b", "a{x}b", "b{x}", "{x}-{y}"})
	return "/" + strings.Join(rapid.SliceOfN(step, 1, 3).Draw(t, name), "/")
}

// matches reports whether a path is one of a template, step by step.
func matches(template, path string) bool {
	want, have := strings.Split(template, "/"), strings.Split(path, "/")
	if len(want) != len(have) {
		return false
	}
	for i, w := range want {
		before, rest, variable := strings.Cut(w, "{")
		after := rest[strings.LastIndex(rest, "}")+1:]
		around := len(have[i]) >= len(before)+len(after) && strings.HasPrefix(have[i], before) && strings.HasSuffix(have[i], after)
		if !variable && w != have[i] || variable && !around {
			return false
		}
	}
	return true
}

// TestApart draws two APIs of one operation each, and holds what is said of them against every path of a few letters: where none is of
// both, nothing clashes, and where the paths are one and the same, they do.
func TestApart(t *testing.T) {
	t.Parallel()
	letters := []string{"", "a", "b", "ab", "ba", "aa", "bb", "aab", "abb", "aabb", "-", "a-b", "b-a", "ba-b", "a-", "-b"}
	rapid.Check(t, func(t *rapid.T) {
		a, b := path(t, "a"), path(t, "b")
		make := func(api, path string) versioning.Called {
			parameters := ""
			for _, name := range contract.PathNames(path) {
				parameters += fmt.Sprintf("{name: %s, in: path, required: true, schema: {type: string}},", name)
			}
			f, err := source.Parse(api+".yaml", fmt.Appendf(nil, "openapi: 3.1.0\ninfo: {title: A, version: 1.0.0}\nservers: [{url: 'https://api.saltmere.example'}]\n"+
				"paths: {'%s': {get: {parameters: [%s], responses: {'200': {description: A.}}}}}\n", path, parameters))
			if err != nil {
				t.Fatal(err)
			}
			c, err := openapi.Read(f)
			if err != nil {
				t.Fatal(err)
			}
			n, err := contract.ParseVersion("1.0.0")
			if err != nil {
				t.Fatal(err)
			}
			return versioning.Called{API: api, Version: versioning.Version{Number: n}, Addresses: versioning.Addresses(c)}
		}
		var index versioning.Index
		index.Add(make("b", b))
		clashes, err := index.Apart(t.Context(), make("a", a))
		if err != nil {
			t.Fatal(err)
		}
		both := false
		for _, one := range paths(letters, strings.Count(a, "/")) {
			both = both || matches(a, one) && matches(b, one)
		}
		if len(clashes) > 0 && !both {
			t.Fatalf("%s and %s have no path in common, and clash", a, b)
		}
		if same := func(p string) string { return strings.NewReplacer("x", "", "y", "").Replace(p) }; same(a) == same(b) && len(clashes) == 0 {
			t.Fatalf("%s and %s are the same, and do not clash", a, b)
		}
		if both && len(clashes) == 0 && !strings.Contains(a, "{") && !strings.Contains(b, "{") {
			t.Fatalf("%s and %s are texts", a, b)
		}
	})
}

// paths are all paths of so many steps of some letters.
func paths(letters []string, steps int) []string {
	if steps == 0 {
		return []string{""}
	}
	var all []string
	for _, rest := range paths(letters, steps-1) {
		for _, l := range letters {
			all = append(all, rest+"/"+l)
		}
	}
	return all
}

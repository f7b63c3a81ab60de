package compare_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// pair is two descriptions that the laws are held against.
type pair struct {
	name     string
	old, new *contract.Contract
	others   map[string][]byte
}

// allPairs are the pairs of all cases, and the neighbours in the demo.
func allPairs(t *testing.T) []pair {
	t.Helper()
	files, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	var pairs []pair
	for _, file := range files {
		a, err := txtar.ParseFile(file)
		require.NoError(t, err)
		others := map[string][]byte{}
		for _, f := range a.Files {
			others[f.Name] = f.Data
		}
		pairs = append(pairs, pair{filepath.Base(file), read(t, a, "old"), read(t, a, "new"), others})
	}
	for _, api := range []string{"berths", "pilotage", "commons"} {
		versions, err := filepath.Glob("../../demo/" + api + "/*.yaml")
		require.NoError(t, err)
		for i := 1; i < len(versions); i++ {
			pairs = append(pairs, pair{versions[i], readFile(t, versions[i-1]), readFile(t, versions[i]), nil})
		}
	}
	return pairs
}

func readFile(t require.TestingT, path string) *contract.Contract {
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	f, err := source.Parse(path, text)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// TestForwardIsBackwardReversed holds the one engine to its name: forward(old, new) is backward(new, old).
func TestForwardIsBackwardReversed(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		for _, reading := range []shape.Reading{shape.Declared, shape.Exact} {
			there := compare.Contracts(p.old, p.new, compare.Options{Reading: reading})
			back := compare.Contracts(p.new, p.old, compare.Options{Reading: reading})
			require.Equal(t, there.Forward, back.Backward, "%s, %s", p.name, reading)
			require.Equal(t, there.Backward, back.Forward, "%s, %s", p.name, reading)
		}
	}
}

// TestNothingChanges compares every description with itself, and with itself read anew.
func TestNothingChanges(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		c := compare.Contracts(p.old, p.old, compare.Options{})
		require.Empty(t, c.Changes, p.name)
		require.Equal(t, compare.Editorial, c.Backward)
		if c.Recommended != nil {
			require.Equal(t, "none", c.Recommended.Bump)
		}
	}
}

// TestSameBytes gives the same bytes for the same input, and reads them back.
func TestSameBytes(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		var texts [2]string
		for i := range texts {
			text, err := json.Marshal(compare.Contracts(p.old, p.new, compare.Options{}))
			require.NoError(t, err)
			texts[i] = string(text)
		}
		require.Equal(t, texts[0], texts[1], p.name)
		var again compare.Comparison
		require.NoError(t, json.Unmarshal([]byte(texts[0]), &again))
		text, err := json.Marshal(&again)
		require.NoError(t, err)
		require.Equal(t, texts[0], string(text), p.name)
	}
}

// TestPromisesOfTheData holds every comparison to what docs/design/compatibility.md says of its fields.
func TestPromisesOfTheData(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		c := compare.Contracts(p.old, p.new, compare.Options{})
		judgeWitnesses(t, c, p.old, p.new, shape.Declared)
		ids := map[string]bool{}
		worst := compare.Editorial
		for _, ch := range c.Changes {
			where := fmt.Sprintf("%s: %s", p.name, ch.Title)
			require.False(t, ids[ch.ID], "%s: the id stands twice", where)
			ids[ch.ID] = true
			worst = max(worst, ch.Backward)
			require.NotEmpty(t, ch.Title, where)
			require.NotEmpty(t, ch.Why, where)
			require.False(t, ch.Old == nil && ch.New == nil, "%s: no place", where)
			for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
				if ch.Grade(d) == compare.Breaking {
					require.NotNil(t, ch.WitnessFor(d), "%s: breaking %s without a witness", where, d)
				}
			}
			if ch.Undecided {
				require.GreaterOrEqual(t, max(ch.Backward, ch.Forward), compare.Hazard, where)
			}
			require.Equal(t, ch.Renamed != nil, strings.HasSuffix(ch.Kind, ".renamed"), where)
			require.Equal(t, ch.Moved != nil, strings.HasSuffix(ch.Kind, ".moved"), where)
			for side, place := range map[*contract.Contract]*compare.Place{p.old: ch.Old, p.new: ch.New} {
				if place == nil {
					continue
				}
				n := fileOf(side, place.File).Resolve(place.Pointer)
				require.NotNil(t, n, "%s: %s leads nowhere", where, place.Pointer)
				require.Equal(t, n.Place(), place.Place, where)
			}
		}
		require.Equal(t, worst, c.Backward, p.name)
	}
}

// fileOf is the root of the file of that name in which something of a contract stands.
func fileOf(c *contract.Contract, name string) *source.Node {
	for _, s := range c.Schemas {
		if f := s.Node.File(); f.Name == name {
			return f.Root
		}
	}
	for _, op := range c.All() {
		if f := op.Node.File(); f.Name == name {
			return f.Root
		}
	}
	return c.Node
}

// inline writes a description with its references to schemas replaced by what they name, as far as they are not recursive.
func inline(n, root *source.Node, open map[*source.Node]bool) any {
	if ref := n.Get("$ref"); ref != nil && len(n.Members) == 1 && ref.Kind == source.String &&
		strings.HasPrefix(ref.Text, "#/components/schemas/") {
		target := root.Resolve(ref.Text[1:])
		if !open[target] {
			open[target] = true
			defer delete(open, target)
			return inline(target, root, open)
		}
	}
	switch n.Kind {
	case source.Mapping:
		m := map[string]any{}
		for _, x := range n.Members {
			m[x.Key] = inline(x.Value, root, open)
		}
		return m
	case source.Sequence:
		list := []any{}
		for _, it := range n.Items() {
			list = append(list, inline(it, root, open))
		}
		return list
	}
	return n.Value()
}

// TestRefactoringIsSilent inlines every reference and sorts every key of every description: nothing above editorial.
func TestRefactoringIsSilent(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		for _, c := range []*contract.Contract{p.old, p.new} {
			if len(c.All()) == 0 || strings.HasPrefix(c.Dialect, "raml") {
				continue // a description that only shares components has no use for them itself; RAML has no references to inline
			}
			text, err := json.Marshal(inline(c.Node, c.Node, map[*source.Node]bool{}))
			require.NoError(t, err)
			texts := maps.Clone(p.others)
			if texts == nil {
				texts = map[string][]byte{}
			}
			texts["inlined.json"] = text
			set, err := source.OpenTexts(context.Background(), "", "inlined.json", texts)
			require.NoError(t, err)
			inlined, err := openapi.ReadSet(set)
			require.NoError(t, err)
			for _, reading := range []shape.Reading{shape.Declared, shape.Exact} {
				got := compare.Contracts(c, inlined, compare.Options{Reading: reading})
				require.Equal(t, compare.Editorial, max(got.Backward, got.Forward), "%s, %s: %s", p.name, reading, summary(got))
			}
		}
	}
}

// TestAcrossDialects reads the 3.0 demo as 3.1, limits and nullable written anew: nothing above editorial.
func TestAcrossDialects(t *testing.T) {
	t.Parallel()
	for _, version := range []string{"1.0.0", "1.1.0", "1.2.0"} {
		path := "../../demo/berths/" + version + ".yaml"
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		newer := strings.NewReplacer(
			"openapi: 3.0.4", "openapi: 3.1.1",
			"minimum: 0\n          exclusiveMinimum: true", "exclusiveMinimum: 0",
			"type: string\n          format: date-time\n          description: When a held booking lapses.\n          nullable: true",
			"type: [string, 'null']\n          format: date-time\n          description: When a held booking lapses.",
		).Replace(string(text))
		require.NotContains(t, newer, "nullable")
		f, err := source.Parse("newer.yaml", []byte(newer))
		require.NoError(t, err)
		c, err := openapi.Read(f)
		require.NoError(t, err)
		got := compare.Contracts(readFile(t, path), c, compare.Options{})
		require.Empty(t, got.Changes, summary(got))
	}
}

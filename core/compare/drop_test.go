package compare_test

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// without writes a tree as plain values, one member or item left out.
func without(n, gone *source.Node) any {
	switch n.Kind {
	case source.Mapping:
		m := map[string]any{}
		for _, x := range n.Members {
			if x.Value != gone {
				m[x.Key] = without(x.Value, gone)
			}
		}
		return m
	case source.Sequence:
		list := []any{}
		for _, it := range n.Items() {
			if it != gone {
				list = append(list, without(it, gone))
			}
		}
		return list
	}
	return n.Value()
}

// nodes lists every node below n.
func nodes(n *source.Node) []*source.Node {
	var all []*source.Node
	for _, m := range n.Members {
		all = append(append(all, m.Value), nodes(m.Value)...)
	}
	for _, it := range n.Items() {
		all = append(append(all, it), nodes(it)...)
	}
	return all
}

// TestDropAnything leaves out one thing after the other of a description and compares: every witness convinces the
// judge, the way back is the reverse, every breaking change has its witness, and a dropped schema keyword is one change at most
// for each place where it is felt.
func TestDropAnything(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	for _, path := range []string{"pilotage/1.0.0", "berths/1.2.0", "berths/2.0.0", "commons/1.1.0"} {
		t.Run(path, func(t *testing.T) { dropAnything(t, "../../demo/"+path+".yaml") })
	}
}

func dropAnything(t *testing.T, path string) {
	base := readFile(t, path)
	compared, changed := 0, 0
	for i, gone := range nodes(base.Node) {
		if testing.Short() && i%5 != 0 {
			continue
		}
		text, err := json.Marshal(without(base.Node, gone))
		require.NoError(t, err)
		f, err := source.Parse("dropped.json", text)
		require.NoError(t, err)
		dropped, err := openapi.Read(f)
		if err != nil {
			continue // what is left is no description
		}
		compared++
		there, back := compare.Contracts(base, dropped, compare.Options{}), compare.Contracts(dropped, base, compare.Options{})
		name := strconv.Itoa(i) + " " + gone.Pointer()
		require.Equal(t, there.Backward, back.Forward, name)
		require.Equal(t, there.Forward, back.Backward, name)
		judgeWitnesses(t, there, base, dropped, shape.Declared)
		if len(there.Changes) > 0 {
			changed++
		}
		for _, ch := range there.Changes {
			require.NotEmpty(t, ch.Why, name)
			require.Equal(t, ch.Backward == compare.Breaking, ch.WitnessFor(compare.Backward) != nil, "%s: %s", name, ch.Title)
			mistaken := slices.ContainsFunc(dropped.Diagnostics, func(d *source.Diagnostic) bool { return strings.HasPrefix(d.Rule, "scheme-") })
			require.False(t, ch.Undecided && !(mistaken && strings.HasPrefix(ch.Kind, "security.")), "%s: %s", name, ch.Why)
		}
	}
	require.Greater(t, compared, 60)
	require.Greater(t, changed*10, compared*8, "most of what can be dropped is told")
}

package overlay_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/overlay"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/tools/cases"
)

func root(t *testing.T, name string, text []byte) *value.Value {
	t.Helper()
	f, err := source.Parse(name, text)
	require.NoError(t, err)
	return f.Root.Value()
}

// TestApply carries an overlay out: each case is a description, an overlay, what comes of them, and what each action came to.
// What is written is read as it was.
func TestApply(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata/apply", func(t *testing.T, a *txtar.Archive) map[string]string {
		f, err := source.Parse("overlay.yaml", cases.File(a, "overlay.yaml").Data)
		require.NoError(t, err)
		doc, err := overlay.Read(f)
		require.NoError(t, err)
		before := root(t, "description.yaml", cases.File(a, "description.yaml").Data)
		untouched := before.String()
		changed, outcomes, err := doc.Apply(context.Background(), before)
		require.NoError(t, err)
		require.Equal(t, untouched, before.String())
		var told strings.Builder
		for _, o := range outcomes {
			fmt.Fprintf(&told, "%d %s\n", o.Matched, strings.TrimSpace(o.Target+" "+o.Wrong))
		}

		again, err := source.Parse("again.yaml", doc.Value().YAML())
		require.NoError(t, err)
		second, err := overlay.Read(again)
		require.NoError(t, err)
		twice, _, err := second.Apply(context.Background(), before)
		require.NoError(t, err)
		require.Equal(t, changed.String(), twice.String())
		return map[string]string{"want.yaml": string(changed.YAML()), "outcomes.txt": told.String()}
	})
}

// TestErrors reads what is no overlay: each case is a file and the problems that are told.
func TestErrors(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata/errors", func(t *testing.T, a *txtar.Archive) map[string]string {
		f, err := source.Parse("overlay.yaml", a.Files[0].Data)
		require.NoError(t, err)
		_, err = overlay.Read(f)
		require.IsType(t, source.Diagnostics{}, err)
		return map[string]string{"want.txt": err.Error() + "\n"}
	})
}

// TestRemoveEverything takes out places that lie inside one another, and lists from both ends.
func TestRemoveEverything(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		draw := rapid.Custom(func(t *rapid.T) *value.Value { return some(t, 3) })
		v := draw.Draw(t, "value")
		doc := overlay.Document{Actions: []overlay.Action{{Target: "$..*", Remove: true}}}
		changed, outcomes, err := doc.Apply(context.Background(), v)
		require.NoError(t, err)
		require.Empty(t, outcomes[0].Wrong)
		require.Empty(t, changed.Members)
		require.Empty(t, changed.Items)
	})
}

func some(t *rapid.T, depth int) *value.Value {
	if depth == 0 || rapid.Bool().Draw(t, "leaf") {
		return value.Str(rapid.String().Draw(t, "text"))
	}
	n := rapid.IntRange(0, 3).Draw(t, "n")
	if rapid.Bool().Draw(t, "list") {
		out := value.Arr()
		for range n {
			out.Items = append(out.Items, some(t, depth-1))
		}
		return out
	}
	out := value.Obj()
	for i := range n {
		out.Members = append(out.Members, value.Member{Name: fmt.Sprint("m", i), Value: some(t, depth-1)})
	}
	return out
}

// TestTooMuch ends actions that look at everything again and again, and such as make everything larger.
func TestTooMuch(t *testing.T) {
	t.Parallel()
	base, err := source.Parse("base.yaml", []byte("a: {b: {c: [1, 2, {d: 3}]}, e: {f: {}}}\n"))
	require.NoError(t, err)
	for name, action := range map[string]string{
		"look":   `{"target": "$..*", "remove": false, "update": {"x": 1}}`,
		"double": `{"target": "$..[?@.b || !@.b]", "update": {"y": {"z": {}}}}`,
	} {
		text := `{"overlay": "1.0.0", "info": {"title": "T", "version": "1"}, "actions": [` +
			strings.TrimSuffix(strings.Repeat(action+",", 5_000), ",") + `]}`
		f, err := source.Parse("overlay.json", []byte(text))
		require.NoError(t, err)
		doc, err := overlay.Read(f)
		require.NoError(t, err, name)
		if _, _, err = doc.Apply(t.Context(), base.Root.Value()); err != nil {
			require.ErrorContains(t, err, "too many values", name)
		}
		over, cancel := context.WithCancel(t.Context())
		cancel()
		_, _, err = doc.Apply(over, base.Root.Value())
		require.ErrorIs(t, err, context.Canceled, name)
	}
}

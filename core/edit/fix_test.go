package edit_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/edit"
	"oldledger/core/source"
)

// TestFixes carries out what does not touch each other, in its file alone; what would leave a text that cannot be read is not done at all.
func TestFixes(t *testing.T) {
	t.Parallel()
	f, err := source.Parse("a.yaml", []byte("a: 1 # é\nb: [ü, 2]\n"))
	require.NoError(t, err)
	write := func(n *source.Node, text string) *source.Fix {
		return &source.Fix{Title: text, Edits: []source.Edit{{Range: n.ValueRange(), Text: text}}}
	}
	b := f.Root.Get("b")
	fixes := []*source.Fix{write(b.Items()[1], "3"), write(b.Items()[0], "y"), write(b, "[]"), write(f.Root.Get("a"), "x")}
	other, err := source.Parse("b.yaml", []byte("a: 1\n"))
	require.NoError(t, err)
	changes, done := edit.Fixes(f, append(fixes, write(other.Root.Get("a"), "z")))
	require.Equal(t, "a: x # é\nb: [y, 3]\n", string(edit.Apply(f.Text, changes)))
	require.Equal(t, []*source.Fix{fixes[0], fixes[1], fixes[3]}, done)
	changes, done = edit.Fixes(f, []*source.Fix{write(b, "[")})
	require.Empty(t, changes)
	require.Empty(t, done)
}

// TestNumbersOfYAML spells for JSON what YAML alone reads as a number.
func TestNumbersOfYAML(t *testing.T) {
	t.Parallel()
	from, err := source.Parse("a.yaml", []byte("a: [0x1F, .5, +3, 1_000]\n"))
	require.NoError(t, err)
	to, err := source.Parse("a.json", []byte(`{"a": 1}`))
	require.NoError(t, err)
	text, err := edit.Text(to, edit.Set("/a", from.Root.Get("a").Value()))
	require.NoError(t, err)
	require.Equal(t, `{"a": [31, 0.5, 3, 1000]}`, string(text))
}

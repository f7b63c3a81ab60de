package check_test

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/check"
	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// TestWrongKinds puts something of the wrong kind into the place of one value of a description after the other: it is read, unless it no
// longer says what it is or is not whole; nothing breaks; and where a value is told to be of the wrong kind, its range is that of the
// value.
func TestWrongKinds(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	for _, name := range []string{"pilotage/1.1.0", "berths/1.2.0", "dues/1.1.0"} {
		text, err := os.ReadFile("../../demo/" + name + ".yaml")
		require.NoError(t, err)
		base := parsed(t, text)
		clean := read(t, base)
		tried, given, readable, compared := 0, 0, 0, 0
		replaceEach(base, func() {
			tried++
			if testing.Short() && tried%7 != 0 {
				return
			}
			given++
			wrong, err := json.Marshal(base)
			require.NoError(t, err)
			f, err := source.Parse("wrong.json", wrong)
			require.NoError(t, err)
			c, err := openapi.Read(f)
			if err != nil {
				require.IsType(t, source.Diagnostics{}, err)
				return
			}
			readable++
			found, err := check.Contract(t.Context(), c)
			require.NoError(t, err)
			for _, d := range found {
				require.NotEmpty(t, d.Text)
				require.False(t, d.EndLine < d.Line || d.EndLine == d.Line && d.EndColumn <= d.Column, "%s ends at %d:%d", d, d.EndLine, d.EndColumn)
			}
			if tried%16 == 0 {
				compared++
				there, back := compare.Contracts(clean, c, compare.Options{}), compare.Contracts(c, clean, compare.Options{})
				require.Equal(t, there.Backward, back.Forward, "%s", wrong)
				for _, ch := range there.Changes {
					require.Equal(t, ch.Backward == compare.Breaking, ch.WitnessFor(compare.Backward) != nil, "%s: %s", ch.Title, ch.Why)
				}
			}
		})
		require.Greater(t, readable*10, given*8, "most is read")
		require.NotZero(t, compared)
	}
}

// replaceEach calls try with every value of a tree replaced by something of another kind, one at a time.
func replaceEach(v any, try func()) {
	kinds := []any{nil, true, 5.0, "x", []any{}, []any{nil, 5.0}, map[string]any{}, map[string]any{"x": []any{}}}
	switch v := v.(type) {
	case map[string]any:
		for key, was := range v {
			for _, kind := range kinds {
				v[key] = kind
				try()
			}
			v[key] = was
			replaceEach(was, try)
		}
	case []any:
		for i, was := range v {
			for _, kind := range kinds {
				v[i] = kind
				try()
			}
			v[i] = was
			replaceEach(was, try)
		}
	}
}

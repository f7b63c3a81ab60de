package check_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/check"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// TestMany tells of a hundred thousand mistakes the first, and that there are more; and repeats of no text more than one reads, nor what
// moves a terminal.
func TestMany(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	var b strings.Builder
	b.WriteString(`{"openapi": "3.1.0", "info": {"title": "T", "version": "1.0.0"}, "paths": {}, "components": {"schemas": {"A": {"properties": {`)
	for i := range 100_000 {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, `"p%d": {"type": "strng", "default": 5}`, i)
	}
	b.WriteString("}}}}}")
	tell := func(text string) source.Diagnostics {
		f, err := source.Parse("many.json", []byte(text))
		require.NoError(t, err)
		c, err := openapi.Read(f)
		require.NoError(t, err)
		found, err := check.Contract(t.Context(), c)
		require.NoError(t, err)
		return found
	}
	found := tell(b.String())
	require.LessOrEqual(t, len(found), source.MaxTold+1)
	require.Contains(t, found.Worst()[0].Text+found[0].Text+found[len(found)-1].Text, "more mistakes are not told")

	long := strings.Repeat("x", 100_000)
	for _, d := range tell(`{"openapi": "3.1.0", "info": {"title": "T", "version": "1.0.0"}, "paths": {}, "components": {"schemas": {"A": {"type": "` +
		long + `", "` + long + `": 1, "\u001b[2Jkey": 2, "enum": ["` + long + `", "` + long + `"]}}}}`) {
		require.Less(t, len(d.Error()), 1_000)
		require.NotContains(t, d.Error(), "\x1b")
	}
}

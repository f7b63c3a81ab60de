package housestyle_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// TestCases judges descriptions by styles: each case is a style file, perhaps a description, and what is told.
func TestCases(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		f, err := source.Parse(a.Files[0].Name, a.Files[0].Data)
		require.NoError(t, err)
		style, err := housestyle.Read(f, housestyle.Ours())
		if err != nil {
			var wrong source.Diagnostics
			require.ErrorAs(t, err, &wrong)
			return map[string]string{"want.txt": cases.Render(wrong, nil)}
		}
		set, err := cases.Set(a, a.Files[1].Name)
		require.NoError(t, err)
		c, err := format.Read(set)
		require.NoError(t, err)
		var only []string // a case about rules of its own is not about those that come with the ledger
		for _, r := range style.Rules {
			if r.Own || r.Because != "" {
				only = append(only, r.Name)
			}
		}
		found, err := housestyle.Check(context.Background(), c, style, housestyle.Options{Only: only, Files: set.Files()})
		require.NoError(t, err)
		var b strings.Builder
		for _, f := range found {
			fmt.Fprintf(&b, "%s %s %s: %s\n", f.Place, f.Severity, f.Rule, f.Message())
			if f.Let != "" {
				fmt.Fprintf(&b, "    may stand: %s\n", f.Let)
			}
			if title := f.Title(); title != "" {
				fmt.Fprintf(&b, "    mended by: %s\n", title)
			}
		}
		return map[string]string{"want.txt": b.String()}
	})
}

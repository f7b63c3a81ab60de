package guide_test

import (
	"context"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/format"
	"oldledger/core/guide"
	"oldledger/core/sample"
	"oldledger/tools/cases"
)

// TestMessagesTell reads the guides of all cases of the comparison and of the demo, both ways: what stands before and after differs, and
// what the step is about stands in one of them.
func TestMessagesTell(t *testing.T) {
	t.Parallel()
	paths, err := filepath.Glob("../compare/testdata/*.txtar")
	require.NoError(t, err)
	told, with := 0, 0
	tell := func(name string, g *guide.Guide) {
		for _, s := range append(append([]guide.Step{}, g.Must...), g.Check...) {
			if s.Before == nil || s.After == nil {
				continue
			}
			told++
			before, after := s.Before.Text(), s.After.Text()
			for _, c := range s.Code {
				before, after = before+c.Before, after+c.After
			}
			require.NotEqual(t, before, after, "%s: %s", name, s.Title)
			fields := s.Change.Location.Fields
			if n := len(fields); n > 0 && fields[n-1] != "[]" && fields[n-1] != "*" {
				with++
				require.Contains(t, before+after, fields[n-1], "%s: %s", name, s.Title)
			}
		}
	}
	for _, path := range paths {
		a, err := txtar.ParseFile(path)
		require.NoError(t, err)
		var entries []string
		for _, f := range a.Files {
			if strings.HasPrefix(f.Name, "old.") || strings.HasPrefix(f.Name, "new.") {
				entries = append(entries, f.Name)
			}
		}
		if len(entries) != 2 {
			continue
		}
		x, err := cases.Set(a, entries[0])
		require.NoError(t, err)
		y, err := cases.Set(a, entries[1])
		require.NoError(t, err)
		old, err := format.Read(x)
		require.NoError(t, err)
		now, err := format.Read(y)
		require.NoError(t, err)
		if !strings.HasPrefix(entries[0], "old") {
			old, now = now, old
		}
		tell(filepath.Base(path), made(guide.Make(context.Background(), old, now, compare.Contracts(old, now, compare.Options{}),
			guide.Context{Languages: sample.Languages[:1]})))
		tell(filepath.Base(path)+" back", made(guide.Make(context.Background(), now, old, compare.Contracts(now, old, compare.Options{}),
			guide.Context{Languages: sample.Languages[:1]})))
	}
	for api, versions := range demoVersions(t) {
		for i, old := range versions {
			for j, now := range versions {
				if i != j {
					tell(api, made(guide.Make(context.Background(), old.itself, now.itself, compare.Contracts(old.itself, now.itself, compare.Options{}),
						guide.Context{Languages: sample.Languages[:1]})))
				}
			}
		}
	}
	require.Greater(t, told, 300)
	require.Greater(t, with, 100)
}

package check_test

import (
	"context"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/check"
	"oldledger/core/format"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// TestCheck tells what is wrong with descriptions of every dialect: each case is a file and what is told of it.
func TestCheck(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		set, err := cases.Set(a, a.Files[0].Name)
		var found source.Diagnostics
		if err == nil {
			c, rerr := format.Read(set)
			if err = rerr; err == nil {
				found, err = check.Contract(context.Background(), c)
			}
		}
		return map[string]string{"want.txt": cases.Render(found, err)}
	})
}

// TestFixes carries out the fix of every diagnostic of the cases: what it speaks of is no longer told, and nothing new is.
func TestFixes(t *testing.T) {
	t.Parallel()
	fixed := 0
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		found := look(t, a, nil)
		for _, d := range found {
			if d.Fix == nil {
				continue
			}
			fixed++
			after := look(t, a, d.Fix)
			same := func(o *source.Diagnostic) bool { return o.Rule == d.Rule && o.Pointer == d.Pointer && o.Text == d.Text }
			require.False(t, slices.ContainsFunc(after, same), "%s is still told once it is fixed", d)
			require.Less(t, len(after), len(found)+1, "the fix of %s is a mistake itself", d)
		}
		return nil
	})
	require.Greater(t, fixed, 12)
}

// look checks the description of a case, with a fix carried out.
func look(t *testing.T, a *txtar.Archive, fix *source.Fix) source.Diagnostics {
	t.Helper()
	texts := map[string][]byte{}
	for _, f := range a.Files {
		texts[f.Name] = f.Data
	}
	if fix != nil {
		for _, e := range fix.Edits {
			texts[e.File] = []byte(edited(string(texts[e.File]), e))
		}
	}
	set, err := source.OpenTexts(context.Background(), "", a.Files[0].Name, texts)
	require.NoError(t, err)
	c, err := format.Read(set)
	require.NoError(t, err)
	found, err := check.Contract(context.Background(), c)
	require.NoError(t, err)
	return found
}

func edited(text string, e source.Edit) string {
	offset := func(line, column int) int {
		at := 0
		for range line - 1 {
			at += strings.IndexByte(text[at:], '\n') + 1
		}
		return at + len(string([]rune(text[at:])[:column-1]))
	}
	return text[:offset(e.Line, e.Column)] + e.Text + text[offset(e.EndLine, e.EndColumn):]
}

// TestRules holds the manual against the rules: each is told there, with what is read instead.
func TestRules(t *testing.T) {
	t.Parallel()
	manual, err := os.ReadFile("../../docs/manual/mistakes.md")
	require.NoError(t, err)
	require.Contains(t, string(manual), check.Table(), "go run ./cmd/oldledger check --rules writes the table")
	seen := map[string]bool{}
	for _, rule := range check.Rules() {
		require.False(t, seen[rule.Name], "%s stands twice", rule.Name)
		seen[rule.Name] = true
		require.NotEmpty(t, rule.Means)
	}
}

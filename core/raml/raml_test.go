package raml_test

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/raml"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// read reads the description among the files of a case.
func read(t *testing.T, texts map[string][]byte) (*contract.Contract, error) {
	t.Helper()
	entry := "api.raml"
	if _, has := texts["entry.raml"]; has {
		entry = "entry.raml"
	}
	set, err := source.OpenTexts(context.Background(), "", entry, texts)
	if err != nil {
		return nil, err
	}
	return raml.Read(set)
}

func texts(a *txtar.Archive) map[string][]byte {
	all := map[string][]byte{}
	for _, f := range a.Files {
		all[f.Name] = f.Data
	}
	return all
}

func section(a *txtar.Archive, name string) []byte {
	for _, f := range a.Files {
		if f.Name == name {
			return f.Data
		}
	}
	return nil
}

func want(t *testing.T, path string, a *txtar.Archive, got string) {
	t.Helper()
	if cases.Updating() {
		a.Files = append(slices.DeleteFunc(a.Files, func(f txtar.File) bool { return f.Name == "want.txt" }),
			txtar.File{Name: "want.txt", Data: []byte(got)})
		require.NoError(t, os.WriteFile(path, txtar.Format(a), 0o644))
		return
	}
	require.Equal(t, string(section(a, "want.txt")), got)
}

// TestCases holds each RAML description against an OpenAPI twin that was written by hand, and finds each edit of edits.txt as one
// change, at its place.
func TestCases(t *testing.T) {
	t.Parallel()
	cases, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, cases)
	for _, path := range cases {
		t.Run(strings.TrimSuffix(filepath.Base(path), ".txtar"), func(t *testing.T) {
			a, err := txtar.ParseFile(path)
			require.NoError(t, err)
			was, err := read(t, texts(a))
			require.NoError(t, err)
			named(t, was)
			if text := section(a, "twin.yaml"); text != nil {
				twin(t, was, text)
			} else {
				require.Contains(t, path, "xsd", "only what nobody looks into has no twin")
			}
			var got strings.Builder
			for edit := range strings.SplitSeq(strings.TrimSpace(string(section(a, "edits.txt"))), "\n") {
				fmt.Fprintf(&got, "%s\n", edit)
				is, err := read(t, edited(t, a, edit))
				require.NoError(t, err, edit)
				changes := compare.Contracts(was, is, compare.Options{}).Changes
				require.Len(t, changes, 1, "%s: %v", edit, titles(changes))
				ch := changes[0]
				fmt.Fprintf(&got, "    %s / %s  %s  %s  %s\n", ch.Backward, ch.Forward, ch.Kind, ch.Title, place(ch))
			}
			want(t, path, a, got.String())
		})
	}
}

func place(ch *compare.Change) string {
	at := ch.New
	if at == nil {
		at = ch.Old
	}
	return fmt.Sprintf("%s:%d", at.File, at.Line)
}

func titles(all []*compare.Change) []string {
	var out []string
	for _, ch := range all {
		out = append(out, ch.Kind+": "+ch.Title+" "+place(ch))
	}
	return out
}

// named fails where a path mentions what is no parameter of its operation, or mentions one twice.
func named(t *testing.T, c *contract.Contract) {
	t.Helper()
	for _, op := range c.Operations {
		var inPath []string
		for _, p := range op.Parameters {
			if p.In == "path" {
				inPath = append(inPath, p.Name)
			}
		}
		require.ElementsMatch(t, contract.PathNames(op.Path), inPath, op.Key())
	}
}

// twin fails where the two descriptions differ by more than words, in either reading.
func twin(t *testing.T, c *contract.Contract, text []byte) {
	t.Helper()
	f, err := source.Parse("twin.yaml", text)
	require.NoError(t, err)
	other, err := openapi.Read(f)
	require.NoError(t, err)
	for _, reading := range []shape.Reading{shape.Declared, shape.Exact} {
		for _, ch := range compare.Contracts(c, other, compare.Options{Reading: reading}).Changes {
			require.LessOrEqual(t, max(ch.Backward, ch.Forward), compare.Editorial, "%s: %s: %s (%s)", reading, ch.Kind, ch.Title, ch.Why)
		}
	}
}

// edited is the case with one line of edits.txt carried out: "file: from -> to".
func edited(t *testing.T, a *txtar.Archive, edit string) map[string][]byte {
	t.Helper()
	name, change, ok := strings.Cut(edit, ": ")
	require.True(t, ok, edit)
	from, to, ok := strings.Cut(change, " -> ")
	require.True(t, ok, edit)
	all := texts(a)
	require.Equal(t, 1, bytes.Count(all[name], []byte(from)), "%q stands once in %s", from, name)
	all[name] = bytes.Replace(all[name], []byte(from), []byte(strings.ReplaceAll(to, `\n`, "\n")), 1)
	return all
}

// TestErrors holds what is told of faults: its place, and the place that led there.
func TestDiagnostics(t *testing.T) {
	t.Parallel()
	paths, err := filepath.Glob("testdata/diagnostics/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, paths)
	for _, path := range paths {
		t.Run(strings.TrimSuffix(filepath.Base(path), ".txtar"), func(t *testing.T) {
			a, err := txtar.ParseFile(path)
			require.NoError(t, err)
			var found source.Diagnostics
			c, err := read(t, texts(a))
			if err == nil {
				found = c.Diagnostics
			}
			want(t, path, a, cases.Render(found, err))
		})
	}
}

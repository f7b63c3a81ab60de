package format_test

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
)

// same fails where a description and what it was converted to differ by more than words, unless a warning named why.
func same(t *testing.T, set *source.Set, to openapi.Target) {
	t.Helper()
	was, err := format.Read(set)
	require.NoError(t, err)
	made := format.ConvertRead(set, was, to)
	text := made.Document.YAML()
	file, err := source.Parse("made.yaml", text)
	require.NoError(t, err, "%s", text)
	is, err := format.Read(source.SetOf(file))
	require.NoError(t, err, "%s", text)
	readings := []shape.Reading{shape.Declared, shape.Exact}
	if bytes.Contains(set.Entry.Text, []byte("nullable: true")) {
		readings = readings[:1] // what it means by the letter, no other dialect says
	}
	for _, reading := range readings {
		c := compare.Contracts(was, is, compare.Options{Reading: reading})
		if slices.ContainsFunc(made.Warnings, onTheWire) {
			continue
		}
		for _, ch := range c.Changes {
			require.LessOrEqual(t, max(ch.Backward, ch.Forward), compare.Editorial, "%v: %s %s\n%s", reading, ch.Kind, ch.Title, text)
		}
	}
}

// onTheWire tells of warnings that excuse a difference: all but those about words.
func onTheWire(w *source.Diagnostic) bool {
	for _, words := range []string{"summary of an API", "is not carried over: \"", "needs one: 0.0.0", "one example of a schema"} {
		if strings.Contains(w.Text, words) {
			return false
		}
	}
	return true
}

// TestConversions converts both sides of every comparison that is a case of the engine, and the demo's descriptions.
func TestConversions(t *testing.T) {
	t.Parallel()
	cases, err := filepath.Glob("../compare/testdata/*.txtar")
	require.NoError(t, err)
	require.Greater(t, len(cases), 100)
	for _, path := range cases {
		a, err := txtar.ParseFile(path)
		require.NoError(t, err)
		texts := map[string][]byte{}
		for _, f := range a.Files {
			texts[f.Name] = f.Data
		}
		for name := range texts {
			if base := filepath.Base(name); !strings.HasPrefix(base, "old.") && !strings.HasPrefix(base, "new.") {
				continue
			}
			for _, to := range openapi.Targets {
				t.Run(filepath.Base(path)+"/"+name+"/"+string(to), func(t *testing.T) {
					dir, entry := filepath.Split(name)
					own := map[string][]byte{}
					for n, text := range texts {
						if strings.HasPrefix(n, dir) {
							own[strings.TrimPrefix(n, dir)] = text
						}
					}
					set, err := source.OpenTexts(context.Background(), "", entry, own)
					require.NoError(t, err)
					same(t, set, to)
				})
			}
		}
	}
}

// TestRAMLConverts converts every case of the RAML reader.
func TestRAMLConverts(t *testing.T) {
	t.Parallel()
	cases, err := filepath.Glob("../raml/testdata/*.txtar")
	require.NoError(t, err)
	require.Greater(t, len(cases), 30)
	for _, path := range cases {
		a, err := txtar.ParseFile(path)
		require.NoError(t, err)
		texts := map[string][]byte{}
		for _, f := range a.Files {
			texts[f.Name] = f.Data
		}
		entry := "api.raml"
		if texts["entry.raml"] != nil {
			entry = "entry.raml"
		}
		for _, to := range openapi.Targets {
			t.Run(filepath.Base(path)+"/"+string(to), func(t *testing.T) {
				set, err := source.OpenTexts(context.Background(), "", entry, texts)
				require.NoError(t, err)
				same(t, set, to)
			})
		}
	}
}

func TestDemoConverts(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("../../demo/*/*.yaml")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, entry := range []string{"tides/1.0.0/tides.raml", "tides/1.1.0/tides.raml", "dues/1.0.0/dues.raml"} {
		folder, name := filepath.Split("../../demo/" + entry)
		for _, to := range openapi.Targets {
			t.Run(entry+"/"+string(to), func(t *testing.T) {
				set, err := source.Open(context.Background(), "", name, func(p string) ([]byte, error) { return os.ReadFile(folder + p) })
				require.NoError(t, err)
				same(t, set, to)
			})
		}
	}
	for _, path := range files {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, to := range openapi.Targets {
			t.Run(filepath.Base(filepath.Dir(path))+filepath.Base(path)+"/"+string(to), func(t *testing.T) {
				f, err := source.Parse(path, text)
				require.NoError(t, err)
				same(t, source.SetOf(f), to)
			})
		}
	}
}

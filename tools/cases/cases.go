// Package cases runs tests whose cases are files: testdata/**/*.txtar, input files and the expected output in one readable
// file. `go test -update` writes the expectations anew; the diff in review shows what a change means.
package cases

import (
	"context"
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/source"
)

var update = flag.Bool("update", false, "write the expectations of the cases anew")

// Updating reports whether expectations are written anew.
func Updating() bool { return *update }

// Run runs every case of a folder as a subtest. answer gives what came out, by the name of the file that expects it.
func Run(t *testing.T, dir string, answer func(*testing.T, *txtar.Archive) map[string]string) {
	t.Helper()
	paths, err := filepath.Glob(filepath.Join(dir, "*.txtar"))
	require.NoError(t, err)
	require.NotEmpty(t, paths)
	for _, path := range paths {
		t.Run(strings.TrimSuffix(filepath.Base(path), ".txtar"), func(t *testing.T) {
			a, err := txtar.ParseFile(path)
			require.NoError(t, err)
			got := answer(t, a)
			if *update {
				write(t, path, a, got)
				return
			}
			for name, text := range got {
				want := File(a, name)
				require.NotNil(t, want, "%s is missing; run with -update", name)
				require.Equal(t, string(want.Data), text)
			}
		})
	}
}

// File finds a file of a case, or nil.
func File(a *txtar.Archive, name string) *txtar.File {
	for i := range a.Files {
		if a.Files[i].Name == name {
			return &a.Files[i]
		}
	}
	return nil
}

// Set is the set of files of a case, opened by its entry.
func Set(a *txtar.Archive, entry string) (*source.Set, error) {
	texts := map[string][]byte{}
	for _, f := range a.Files {
		texts[f.Name] = f.Data
	}
	return source.OpenTexts(context.Background(), "", entry, texts)
}

func write(t *testing.T, path string, a *txtar.Archive, got map[string]string) {
	t.Helper()
	for name, text := range got {
		if f := File(a, name); f != nil {
			f.Data = []byte(text)
		} else {
			a.Files = append(a.Files, txtar.File{Name: name, Data: []byte(text)})
		}
	}
	require.NoError(t, os.WriteFile(path, txtar.Format(a), 0o644))
}

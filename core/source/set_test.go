package source_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/source"
)

// TestSet opens files when they are asked for, once each, and keeps to its folder.
func TestSet(t *testing.T) {
	t.Parallel()
	opened := map[string]int{}
	set, err := source.Open(context.Background(), "demo/", "api/berths.yaml", func(p string) ([]byte, error) {
		opened[p]++
		switch p {
		case "api/berths.yaml":
			return []byte("a: 1\n"), nil
		case "schemas/b.json":
			return []byte(`{"b": 2}`), nil
		case "broken.yaml":
			return []byte("a: [1\n"), nil
		case "secret.yaml":
			return nil, errors.New("permission denied")
		}
		return nil, source.ErrNoFile
	})
	require.NoError(t, err)
	require.Equal(t, "demo/api/berths.yaml:1:1", set.Entry.Root.Get("a").Place().String()[:len("demo/api/berths.yaml:1:1")])
	require.Equal(t, "api/berths.yaml", set.Entry.Path())

	for range 2 {
		b, err := set.File("schemas/b.json")
		require.NoError(t, err)
		require.Equal(t, "demo/schemas/b.json", b.Name)
	}
	require.Equal(t, map[string]int{"api/berths.yaml": 1, "schemas/b.json": 1}, opened)
	files := set.Files()
	require.Len(t, files, 2)
	require.Same(t, set.Entry, files[0], "the entry comes first")

	for path, want := range map[string]string{
		"../outside.yaml": "outside the folder", "/etc/passwd": "outside the folder", "a/../b.yaml": "outside the folder",
		"": "outside the folder", ".": "outside the folder",
		"missing.yaml": "no such file in demo/", "secret.yaml": "permission denied",
	} {
		for range 2 { // a fault is told again, not opened again
			_, err := set.File(path)
			require.ErrorContains(t, err, want, path)
		}
	}
	require.Equal(t, 1, opened["missing.yaml"])
	_, err = set.File("broken.yaml")
	require.IsType(t, source.Diagnostics{}, err)
	require.ErrorContains(t, err, "demo/broken.yaml:")
}

// TestSetLimits bounds the files of a set, and their size together.
func TestSetLimits(t *testing.T) {
	t.Parallel()
	set, err := source.Open(context.Background(), "", "0", func(string) ([]byte, error) { return []byte("a: 1\n"), nil })
	require.NoError(t, err)
	for i := 1; i < source.MaxFiles; i++ {
		_, err := set.File(fmt.Sprint(i))
		require.NoError(t, err)
	}
	_, err = set.File("one-more")
	require.ErrorContains(t, err, "more than 2000 files")

	large := append(make([]byte, 0, 20<<20), "# "...)
	for len(large) < 20<<20 {
		large = append(large, 'x')
	}
	large = append(large, "\na: 1\n"...)
	set, err = source.Open(context.Background(), "", "0.yaml", func(string) ([]byte, error) { return large, nil })
	require.NoError(t, err)
	for i := 1; i < 6; i++ {
		_, err = set.File(fmt.Sprintf("%d.yaml", i))
		require.NoError(t, err)
	}
	_, err = set.File("6.yaml")
	require.ErrorContains(t, err, "more than 128 MB together")
}

// TestOne is the set of a file that was given alone.
func TestOne(t *testing.T) {
	t.Parallel()
	f := parse(t, "folder/berths.yaml", "a: 1\n")
	set := source.SetOf(f)
	again, err := set.File("berths.yaml")
	require.NoError(t, err)
	require.Same(t, f, again)
	_, err = set.File("other.yaml")
	require.ErrorContains(t, err, "given as a single file")
}

// TestSetNodes counts the values of all files of a set together.
func TestSetNodes(t *testing.T) {
	t.Parallel()
	half := []byte("[0" + strings.Repeat(",0", source.MaxNodes*6/10) + "]")
	set, err := source.Open(context.Background(), "", "0.json", func(string) ([]byte, error) { return half, nil })
	require.NoError(t, err)
	_, err = set.File("1.json")
	require.ErrorContains(t, err, "more than 3000000 values in all files together")

	ended, end := context.WithCancel(context.Background())
	end()
	_, err = source.Open(ended, "", "0.json", func(string) ([]byte, error) { return half, nil })
	require.ErrorIs(t, err, context.Canceled)
	_, err = source.Open(ended, "", "0.yaml", func(string) ([]byte, error) { return []byte("a: 1\n"), nil })
	require.ErrorIs(t, err, context.Canceled)
}

package source_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/source"
)

// entry is one thing in an archive.
type entry struct {
	name, text string
	kind       byte // of a tar; 0 is a file
}

func tarball(t *testing.T, entries ...entry) []byte {
	t.Helper()
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	w := tar.NewWriter(z)
	for _, e := range entries {
		h := &tar.Header{Name: e.name, Typeflag: e.kind, Mode: 0o644, Size: int64(len(e.text))}
		if e.kind == tar.TypeSymlink {
			h.Linkname, h.Size = "/etc/passwd", 0
		}
		require.NoError(t, w.WriteHeader(h))
		if h.Size > 0 {
			_, err := w.Write([]byte(e.text))
			require.NoError(t, err)
		}
	}
	require.NoError(t, w.Close())
	require.NoError(t, z.Close())
	return b.Bytes()
}

func zipped(t *testing.T, entries ...entry) []byte {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, e := range entries {
		f, err := w.Create(e.name)
		require.NoError(t, err)
		_, err = f.Write([]byte(e.text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return b.Bytes()
}

func TestUnpack(t *testing.T) {
	t.Parallel()
	for _, pack := range []func(*testing.T, ...entry) []byte{tarball, zipped} {
		content := pack(t, entry{name: "tides/tides.raml", text: "a"}, entry{name: "tides/lib/units.raml", text: "b"},
			entry{name: "__MACOSX/tides/x", text: "c"})
		require.True(t, source.IsArchive(content))
		files, err := source.Unpack(content)
		require.NoError(t, err)
		require.Equal(t, map[string][]byte{"tides.raml": []byte("a"), "lib/units.raml": []byte("b")}, files,
			"the folder that holds all is left out")
		files, err = source.Unpack(pack(t, entry{name: "a.raml", text: "a"}, entry{name: "b/c.raml"}))
		require.NoError(t, err)
		require.Len(t, files, 2)
		require.NotNil(t, files["b/c.raml"])
	}
	require.False(t, source.IsArchive([]byte("#%RAML 1.0")))
}

// TestUnpackRefuses holds the tricks that archives are known for.
func TestUnpackRefuses(t *testing.T) {
	t.Parallel()
	many := make([]entry, source.MaxFiles+1)
	for i := range many {
		many[i] = entry{name: strings.Repeat("f", 1+i%150) + string(rune('a'+i/150))}
	}
	bomb := entry{name: "bomb.yaml", text: strings.Repeat("a", source.MaxBytes+1)}
	for _, c := range []struct {
		what, want string
		content    []byte
	}{
		{"a way out", "is no path of a file below", zipped(t, entry{name: "../x.raml", text: "a"})},
		{"a way out further in", "is no path of a file below", tarball(t, entry{name: "a/../../x.raml", text: "a"})},
		{"a path from the root", "is no path of a file below", tarball(t, entry{name: "/etc/x.raml", text: "a"})},
		{"another system's path", "is no path of a file below", zipped(t, entry{name: `..\x.raml`, text: "a"})},
		{"a link", "is no ordinary file", tarball(t, entry{name: "x.raml", kind: tar.TypeSymlink})},
		{"a device", "is no ordinary file", tarball(t, entry{name: "x.raml", kind: tar.TypeBlock})},
		{"a name twice", "stands twice", zipped(t, entry{name: "x.raml", text: "a"}, entry{name: "x.raml", text: "b"})},
		{"too many", "more than 2000 files", tarball(t, many...)},
		{"a bomb", "are larger than 128 MB", zipped(t, bomb)},
		{"a bomb in a tar", "are larger than 128 MB", tarball(t, bomb)},
		{"nothing", "holds no files", zipped(t)},
		{"half of one", "cannot be read", zipped(t, entry{name: "x.raml", text: "a"})[:20]},
		{"no gzip", "cannot be read", []byte("\x1f\x8b garbage")},
	} {
		files, err := source.Unpack(c.content)
		require.ErrorContains(t, err, c.want, c.what)
		require.Nil(t, files, c.what)
	}
}

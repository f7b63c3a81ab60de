package cli

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestReplaceFile writes another text with the rights that the file has, through a link to it, and leaves alone what somebody changed.
func TestReplaceFile(t *testing.T) {
	t.Parallel()
	folder := t.TempDir()
	name, link := filepath.Join(folder, "a.yaml"), filepath.Join(folder, "link.yaml")
	require.NoError(t, os.WriteFile(name, []byte("a"), 0o640))
	require.NoError(t, os.Symlink(name, link))
	require.NoError(t, replaceFile(link, []byte("a"), []byte("b")))
	require.ErrorContains(t, replaceFile(link, []byte("a"), []byte("c")), "it was changed meanwhile, and is left as it is")
	text, err := os.ReadFile(name)
	require.NoError(t, err)
	require.Equal(t, "b", string(text))
	info, err := os.Stat(name)
	require.NoError(t, err)
	require.Equal(t, os.FileMode(0o640), info.Mode().Perm())
	all, err := os.ReadDir(folder)
	require.NoError(t, err)
	require.Len(t, all, 2, "nothing is left behind")
}

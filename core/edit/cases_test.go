package edit_test

import (
	"flag"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"oldledger/core/edit"
	"oldledger/core/source"
	"oldledger/core/value"
)

var update = flag.Bool("update", false, "write what comes out into the cases")

// wishesOf reads wishes, one a line: "set /info/title \"Berths\"", "remove /tags/0", "move /a to /b/c".
func wishesOf(t *testing.T, text string) []edit.Wish {
	t.Helper()
	var all []edit.Wish
	for line := range strings.SplitSeq(strings.TrimSpace(text), "\n") {
		if strings.HasPrefix(line, "#") {
			continue
		}
		act, rest, _ := strings.Cut(line, " ")
		at, with, _ := strings.Cut(rest, " ")
		read := func() *value.Value {
			v, err := value.Parse([]byte(with))
			require.NoError(t, err, line)
			return v
		}
		switch act {
		case "set":
			all = append(all, edit.Set(at, read()))
		case "insert":
			all = append(all, edit.Insert(at, read()))
		case "remove":
			all = append(all, edit.Remove(at))
		case "rename":
			all = append(all, edit.Rename(at, strings.TrimPrefix(with, "to ")))
		case "move":
			all = append(all, edit.Move(at, strings.TrimPrefix(with, "to ")))
		default:
			require.Fail(t, "no wish", line)
		}
	}
	return all
}

// TestCases fulfils the wishes above each text, and wants the text below it, or a refusal in these words.
func TestCases(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txtar"), func(t *testing.T) {
			t.Parallel()
			a, err := txtar.ParseFile(file)
			require.NoError(t, err)
			in := a.Files[0]
			f, err := source.Parse(in.Name, in.Data)
			require.NoError(t, err)
			got, err := edit.Text(f, wishesOf(t, string(a.Comment))...)
			if err != nil {
				got = []byte(err.Error() + "\n")
			}
			if *update {
				a.Files = append(a.Files[:1], txtar.File{Name: "out", Data: got})
				require.NoError(t, os.WriteFile(file, txtar.Format(a), 0o600))
				return
			}
			require.Equal(t, string(a.Files[1].Data), string(got))
		})
	}
}

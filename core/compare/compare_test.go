package compare_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
)

var update = flag.Bool("update", false, "write the expectations of the cases anew")

// TestCases runs every testdata/*.txtar: an old and a new description, and what is said of them.
func TestCases(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txtar"), func(t *testing.T) {
			archive, err := txtar.ParseFile(file)
			require.NoError(t, err)
			got := map[string]string{}
			old, new := part(archive, "old"), part(archive, "new")
			for _, name := range []string{"want.txt", "exact.txt"} {
				if name == "exact.txt" && find(archive, name) == nil {
					continue
				}
				reading := shape.Declared
				if name == "exact.txt" {
					reading = shape.Exact
				}
				c := compare.Contracts(read(t, old), read(t, new), compare.Options{Reading: reading})
				judgeWitnesses(t, c, read(t, old), read(t, new), reading)
				got[name] = summary(c)
			}
			if *update {
				write(t, file, archive, got)
				return
			}
			for name, text := range got {
				want := find(archive, name)
				require.NotNil(t, want, "%s is missing; run with -update", name)
				require.Equal(t, string(want.Data), text)
			}
		})
	}
}

func find(a *txtar.Archive, name string) *txtar.File {
	for i := range a.Files {
		if a.Files[i].Name == name {
			return &a.Files[i]
		}
	}
	return nil
}

func part(a *txtar.Archive, side string) *txtar.File {
	for _, ext := range []string{".yaml", ".json"} {
		if f := find(a, side+ext); f != nil {
			return f
		}
	}
	return nil
}

func read(t *testing.T, f *txtar.File) *contract.Contract {
	t.Helper()
	require.NotNil(t, f)
	parsed, err := source.Parse(f.Name, f.Data)
	require.NoError(t, err)
	c, err := openapi.Read(parsed)
	require.NoError(t, err)
	return c
}

func write(t *testing.T, file string, a *txtar.Archive, got map[string]string) {
	t.Helper()
	for name, text := range got {
		if f := find(a, name); f != nil {
			f.Data = []byte(text)
		} else {
			a.Files = append(a.Files, txtar.File{Name: name, Data: []byte(text)})
		}
	}
	require.NoError(t, os.WriteFile(file, txtar.Format(a), 0o644))
}

// summary is a comparison as the cases show it: a line a change, its title, its witnesses, its places.
func summary(c *compare.Comparison) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s / %s", c.Backward, c.Forward)
	if c.Recommended != nil {
		fmt.Fprintf(&b, "   %s %s", c.Recommended.Bump, c.Recommended.Version)
	}
	b.WriteString("\n")
	for _, ch := range c.Changes {
		fmt.Fprintf(&b, "\n%s / %s   %s   %s   %s", ch.Backward, ch.Forward, orDash(ch.Operation), orDash(ch.At), ch.Kind)
		if ch.Undecided {
			b.WriteString("   undecided")
		}
		fmt.Fprintf(&b, "\n    %s: %s\n", ch.Title, ch.Why)
		fmt.Fprintf(&b, "    %s → %s", place(ch.Old), place(ch.New))
		if len(ch.Reach) > 1 {
			fmt.Fprintf(&b, ", in %s", strings.Join(ch.Reach, ", "))
		}
		b.WriteString("\n")
		for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
			if w := ch.WitnessFor(d); w != nil && w.Value != nil {
				fmt.Fprintf(&b, "    %s witness: %s: %s\n", d, w.Position, w.Value)
			}
		}
	}
	return b.String()
}

func orDash(s string) string {
	if s == "" {
		return "-"
	}
	return s
}

func place(p *source.Place) string {
	if p == nil {
		return "-"
	}
	return fmt.Sprintf("%d:%d %s", p.Line, p.Column, p.Pointer)
}

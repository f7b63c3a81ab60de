package project_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"

	"oldledger/core/project"
)

// TestRead reads the cases of testdata/project.txtar: what is read of each, or what is wrong with it.
func TestRead(t *testing.T) {
	t.Parallel()
	cases, err := txtar.ParseFile("testdata/project.txtar")
	require.NoError(t, err)
	for i := 0; i+1 < len(cases.Files); i += 2 {
		in, want := cases.Files[i], cases.Files[i+1]
		t.Run(in.Name, func(t *testing.T) {
			require.Equal(t, "want", want.Name)
			require.Equal(t, strings.TrimSpace(string(want.Data)), strings.TrimSpace(told(in.Data)))
		})
	}
}

func told(text []byte) string {
	p, err := project.Read(project.File, text)
	if err != nil {
		return err.Error()
	}
	var b strings.Builder
	fmt.Fprintf(&b, "ledger %q style %q checked %q\n", p.Ledger, p.Style, p.Checked())
	for _, a := range p.APIs {
		fmt.Fprintf(&b, "%s %q root %q team %q\n", a.Name, a.File, a.Root, a.Team)
	}
	return b.String()
}

// FuzzRead reads anything: it ends, with a project or with what is wrong.
func FuzzRead(f *testing.F) {
	cases, err := txtar.ParseFile("testdata/project.txtar")
	require.NoError(f, err)
	for _, c := range cases.Files {
		f.Add(c.Data)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		require.NotEmpty(t, told(text))
	})
}

package compare_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/shape"
	"oldledger/tools/cases"
)

// TestCases runs every testdata/*.txtar: an old and a new description, and what is said of them.
func TestCases(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		got := map[string]string{}
		for name, reading := range map[string]shape.Reading{"want.txt": shape.Declared, "exact.txt": shape.Exact} {
			if name == "exact.txt" && cases.File(a, name) == nil {
				continue // only some cases ask for the exact reading, too
			}
			old, now := read(t, a, "old"), read(t, a, "new")
			c := compare.Contracts(old, now, compare.Options{Reading: reading})
			judgeWitnesses(t, c, old, now, reading)
			got[name] = summary(c)
		}
		// The way back is a comparison like any other, and every row of the theory has one.
		old, now := read(t, a, "new"), read(t, a, "old")
		back := compare.Contracts(old, now, compare.Options{})
		judgeWitnesses(t, back, old, now, shape.Declared)
		got["back.txt"] = summary(back)
		return got
	})
}

// read reads one side of a case: old.yaml, old.json or old.raml, and what it refers to among the other files.
func read(t *testing.T, a *txtar.Archive, side string) *contract.Contract {
	t.Helper()
	entry := side + ".yaml"
	for _, other := range []string{".json", ".raml"} {
		if cases.File(a, side+other) != nil {
			entry = side + other
		}
	}
	set, err := cases.Set(a, entry)
	require.NoError(t, err)
	c, err := format.Read(set)
	require.NoError(t, err)
	return c
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

func place(p *compare.Place) string {
	if p == nil {
		return "-"
	}
	file := ""
	if strings.TrimSuffix(strings.TrimSuffix(p.File, ".yaml"), ".json") != "old" && !strings.HasPrefix(p.File, "new.") {
		file = p.File + ":"
	}
	return fmt.Sprintf("%s%d:%d %s", file, p.Line, p.Column, p.Pointer)
}

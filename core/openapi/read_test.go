package openapi_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

// TestDiagnostics reads what is full of mistakes: each case is a file and what is told of it.
func TestDiagnostics(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata/diagnostics", func(t *testing.T, a *txtar.Archive) map[string]string {
		set, err := cases.Set(a, a.Files[0].Name)
		var found source.Diagnostics
		if err == nil {
			var c *contract.Contract
			if c, err = openapi.ReadSet(set); err == nil {
				found = c.Diagnostics
			}
		}
		return map[string]string{"want.txt": cases.Render(found, err)}
	})
}

// TestContracts reads what can be read: each case is a file and what its contract holds, with places.
func TestContracts(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata/contracts", func(t *testing.T, a *txtar.Archive) map[string]string {
		set, err := cases.Set(a, a.Files[0].Name)
		require.NoError(t, err)
		c, err := openapi.ReadSet(set)
		require.NoError(t, err)
		return map[string]string{"want.txt": outline(c)}
	})
}

// outline lists a contract's operations with all that stands in them.
func outline(c *contract.Contract) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s %s, %s\n", c.Title, c.Version, c.Dialect)
	for _, s := range c.Servers {
		fmt.Fprintf(&b, "server %s %v\n", s.URL, s.Variables)
	}
	for _, op := range c.All() {
		p := op.Node.Place()
		fmt.Fprintf(&b, "%s  at %d:%d\n", op.Key(), p.Line, p.Column)
		for _, prm := range op.Parameters {
			s, media := prm.Payload()
			fmt.Fprintf(&b, "  %s %s required=%v %s explode=%v %s %s\n", prm.In, prm.Name, prm.Required, prm.Style, prm.Explode, types(s), media)
		}
		if op.Body != nil {
			for _, m := range op.Body.Content {
				fmt.Fprintf(&b, "  body required=%v %s %s\n", op.Body.Required, m.Type, types(m.Schema))
			}
		}
		for _, r := range op.Responses {
			fmt.Fprintf(&b, "  %s", r.Status)
			for _, m := range r.Content {
				fmt.Fprintf(&b, " %s %s", m.Type, types(m.Schema))
			}
			for _, h := range r.Headers {
				fmt.Fprintf(&b, " header %s", h.Name)
			}
			b.WriteString("\n")
		}
		for _, req := range op.Security {
			for _, u := range req.Schemes {
				fmt.Fprintf(&b, "  security %s %v\n", u.Scheme.Name, u.Scopes)
			}
		}
		for _, x := range op.Extensions {
			fmt.Fprintf(&b, "  %s\n", x.Name)
		}
	}
	for _, s := range c.Schemas {
		fmt.Fprintf(&b, "schema %s %s\n", s.Name, types(s))
	}
	return b.String()
}

func types(s *contract.Schema) string {
	if s == nil {
		return "-"
	}
	if s.Ref != nil {
		return "→" + s.Ref.Name
	}
	text := strings.Join(s.Types, "|")
	if s.Nullable {
		text += "?"
	}
	for _, p := range s.Properties {
		text += " " + p.Name + ":" + types(p.Schema)
	}
	if s.ExclusiveMinimum != nil {
		text += " >" + s.ExclusiveMinimum.RatString()
	}
	if s.Maximum != nil {
		text += " ≤" + s.Maximum.RatString()
	}
	return text
}

// TestDemo reads every description of the demo.
func TestDemo(t *testing.T) {
	t.Parallel()
	files, err := filepath.Glob("../../demo/*/*.yaml")
	require.NoError(t, err)
	require.Greater(t, len(files), 8)
	for _, path := range files {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		file, err := source.Parse(path, text)
		require.NoError(t, err)
		_, err = openapi.Read(file)
		require.NoError(t, err)
	}
}

// TestLimits reads what an attacker might send.
func TestLimits(t *testing.T) {
	t.Parallel()
	bomb := "openapi: 3.1.0\na: &a [x,x,x,x,x,x,x,x,x,x]\n"
	for i := 'b'; i <= 'i'; i++ {
		bomb += fmt.Sprintf("%c: &%c [%s]\n", i, i, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*%c,", i-1), 10), ","))
	}
	for name, text := range map[string]string{
		"nested deeper":       `{"openapi":` + strings.Repeat("[", 2300) + strings.Repeat("]", 2300) + "}",
		"stand for more than": bomb,
		"larger than 80 MB":   "openapi: 3.1.0\n#" + strings.Repeat("x", 81<<20),
		"stands inside":       "openapi: 3.1.0\na: &a\n  b: *a\n",
		"beyond ±1000":        `{"openapi":"3.1.0","x":1e99999999}`,
		"not UTF-8":           "openapi: 3.1.0\ntitle: \xff\n",
		"leads back":          "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\ncomponents: {schemas: {A: {$ref: '#/components/schemas/B'}, B: {$ref: '#/components/schemas/A'}}}\n",
		"root of a file":      "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\ncomponents: {schemas: {A: {$ref: '/etc/passwd'}}}\n",
		"outside the folder":  "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\ncomponents: {schemas: {A: {$ref: '../../etc/passwd'}}}\n",
		"nothing is fetched":  "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\ncomponents: {schemas: {A: {$ref: 'http://169.254.1.1/x'}}}\n",
		"without end":         "openapi: 3.1.0\ninfo: {title: T, version: 1.0.0}\npaths: {/a: {post: {callbacks: {c: {/b: {$ref: '#/paths/~1a'}}}, responses: {}}}}\n",
		"second YAML":         "openapi: 3.1.0\n---\nopenapi: 3.1.0\n",
		"a key is a list":     "openapi: 3.1.0\n? [a]\n: b\n",
		"nested deeper than":  "openapi: 3.1.0\nx: " + strings.Repeat("[", 2250) + strings.Repeat("]", 2250) + "\n",
	} {
		f, err := source.Parse("bad", []byte(text))
		if err == nil {
			var c *contract.Contract
			if c, err = openapi.Read(f); err == nil {
				err = c.Diagnostics // read all the same, and told
			}
		}
		require.ErrorContains(t, err, name)
	}
}

func FuzzRead(f *testing.F) {
	text, err := os.ReadFile("../../demo/pilotage/1.1.0.yaml")
	require.NoError(f, err)
	f.Add(text)
	f.Add([]byte(`{"openapi":"3.0.1","info":{"title":"T","version":"1"},"paths":{"/a":{"get":{"responses":{"200":{"description":"x"}}}}}}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		file, err := source.Parse("fuzz", text)
		if err != nil {
			require.IsType(t, source.Diagnostics{}, err)
			return
		}
		if _, err := openapi.Read(file); err != nil {
			require.IsType(t, source.Diagnostics{}, err)
		}
	})
}

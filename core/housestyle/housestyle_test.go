package housestyle_test

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// TestExamples holds every rule against its examples, as they are written and as JSON.
func TestExamples(t *testing.T) {
	ours := housestyle.Ours()
	require.GreaterOrEqual(t, len(ours.Rules), 60)
	for _, r := range ours.Rules {
		t.Run(r.Name, func(t *testing.T) {
			assert.GreaterOrEqual(t, len(r.Bad), 3)
			assert.GreaterOrEqual(t, len(r.Good), 3)
			assert.NotEmpty(t, r.Why)
			rule := *r
			rule.Bad, rule.Good = inJSON(t, r.Bad), inJSON(t, r.Good)
			for _, r := range []*housestyle.Rule{r, &rule} {
				trials, err := ours.Try(t.Context(), r)
				require.NoError(t, err)
				for _, trial := range trials {
					require.NoError(t, trial.Err, trial.Example.Text)
					said := ""
					for _, f := range trial.Found {
						said += "\n" + f.Diagnostic.Error()
					}
					assert.True(t, trial.OK(), "bad: %v\n%s%s", trial.Bad, trial.Example.Text, said)
				}
			}
		})
	}
}

// inJSON are the examples of YAML in JSON.
func inJSON(t *testing.T, all []housestyle.Example) []housestyle.Example {
	t.Helper()
	var list []housestyle.Example
	for _, e := range all {
		var texts []string
		for part := range strings.SplitSeq(e.Text, "\n---\n") {
			f, err := housestyle.ParseExample(part)
			require.NoError(t, err, e.Text)
			if f.Name != "example.yaml" {
				texts = nil
				break
			}
			text := fmt.Sprint(f.Root.Value())
			require.True(t, json.Valid([]byte(text)), text)
			texts = append(texts, text)
		}
		if texts != nil {
			list = append(list, housestyle.Example{Text: strings.Join(texts, "\n---\n")})
		}
	}
	return list
}

// TestManual holds the pages of the manual that are made from the rules against them.
func TestManual(t *testing.T) {
	t.Parallel()
	for page, text := range map[string]string{"rules.md": housestyle.Ours().Markdown(), "rule-language.md": housestyle.LanguageMarkdown()} {
		written, err := os.ReadFile("../../docs/manual/" + page)
		require.NoError(t, err)
		require.True(t, text == string(written), "docs/manual/%s is not what its command prints", page)
	}
}

// TestSchema holds the style files of the demo and of the rules that come with the ledger against the JSON Schema of the language, and
// bad ones, too.
func TestSchema(t *testing.T) {
	t.Parallel()
	compiler := jsonschema.NewCompiler()
	schema, err := jsonschema.UnmarshalJSON(strings.NewReader(housestyle.Schema()))
	require.NoError(t, err)
	require.NoError(t, compiler.AddResource("house-style.json", schema))
	compiled, err := compiler.Compile("house-style.json")
	require.NoError(t, err)
	holds := func(text string) error {
		f, err := source.Parse("style.yaml", []byte(text))
		require.NoError(t, err)
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(fmt.Sprint(f.Root.Value())))
		require.NoError(t, err)
		return compiled.Validate(v)
	}
	for _, path := range []string{"../../demo/harbour-style.yaml"} {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		require.NoError(t, holds(string(text)))
	}
	broken, err := txtar.ParseFile("testdata/broken.txtar")
	require.NoError(t, err)
	require.Error(t, holds(string(broken.Files[0].Data)))
	own, err := txtar.ParseFile("testdata/own.txtar")
	require.NoError(t, err)
	require.NoError(t, holds(string(own.Files[0].Data)))
}

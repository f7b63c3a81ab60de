package housestyle_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/housestyle"
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
		f, err := housestyle.ParseExample(e.Text)
		require.NoError(t, err, e.Text)
		if f.Name != "example.yaml" {
			continue
		}
		text := fmt.Sprint(f.Root.Value())
		require.True(t, json.Valid([]byte(text)), text)
		list = append(list, housestyle.Example{Text: text})
	}
	return list
}

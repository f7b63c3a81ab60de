package sample_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/sample"
)

// TestAdapt writes samples as a team wants them, and says what is wrong with a template before anybody reads it.
func TestAdapt(t *testing.T) {
	t.Parallel()
	chosen, err := sample.Choose([]string{"go", "curl"})
	require.NoError(t, err)
	require.Equal(t, []string{"Go", "curl"}, []string{chosen[0].Name, chosen[1].Name})
	_, err = sample.Choose([]string{"latin"})
	require.ErrorContains(t, err, `no samples in "latin"; there are some in curl, javascript`)

	call := &sample.Call{
		Method: "PUT", Address: "https://api.saltmere.example/v1/a", Query: []sample.Pair{{Name: "b", Value: "c d"}},
		Headers: []sample.Pair{{Name: "X", Value: "y"}},
	}
	l, err := sample.Adapt(chosen[1], "# {{.Method}} {{.URL}}{{range .Headers}} {{.Name}}={{quoted .Value}}{{end}}\n{{.Code}}\n")
	require.NoError(t, err)
	out := l.Write(call)
	require.True(t, strings.HasPrefix(out, "# PUT https://api.saltmere.example/v1/a?b=c%20d X=\"y\"\ncurl -X PUT"), out)

	for template, want := range map[string]string{
		"{{.Nothing}}":                "can't evaluate field Nothing",
		"{{range 1000000000}}{{end}}": "range takes a part of the call",
		"{{if .Method}":               "bad character",
		`{{define "a"}}{{template "a"}}{{end}}{{template "a"}}`:        "does not call another",
		"{{range .Headers}}" + strings.Repeat("x", 70<<10) + "{{end}}": "it writes too much",
	} {
		_, err := sample.Adapt(chosen[1], template)
		require.ErrorContains(t, err, want)
	}
}

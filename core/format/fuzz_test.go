package format_test

import (
	"context"
	"errors"
	"path/filepath"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"

	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// library is what a fuzzed description may use and include.
const library = "#%RAML 1.0 Library\ntypes:\n  Metres: number\ntraits:\n  paged:\n    queryParameters:\n      <<name>>?: <<type>>\n"

// FuzzConvert reads whatever it is given. What is a description becomes OpenAPI that can be read; what is none is told with places.
func FuzzConvert(f *testing.F) {
	cases, err := filepath.Glob("../raml/testdata/*.txtar")
	require.NoError(f, err)
	for _, path := range cases {
		a, err := txtar.ParseFile(path)
		require.NoError(f, err)
		f.Add(a.Files[0].Data)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		set, err := source.OpenTexts(context.Background(), "", "api.raml",
			map[string][]byte{"api.raml": text, "lib.raml": []byte(library), "self.raml": text})
		if err != nil {
			told(t, err)
			return
		}
		c, err := format.Read(set)
		if err != nil {
			told(t, err)
			return
		}
		for _, to := range openapi.Targets {
			made := format.ConvertRead(set, c, to)
			whole := made.Document.YAML()
			file, err := source.Parse("made.yaml", whole)
			require.NoError(t, err, "%s", whole)
			if _, err := openapi.Read(file); err != nil && len(made.Warnings) == 0 {
				t.Fatalf("%v\n%s", err, whole)
			}
		}
	})
}

func told(t *testing.T, err error) {
	t.Helper()
	var problems source.Diagnostics
	require.True(t, errors.As(err, &problems), "%v", err)
	require.NotEmpty(t, problems)
	for _, p := range problems {
		require.Positive(t, p.Place.Line, p.Text)
		require.NotEmpty(t, p.Text)
	}
}

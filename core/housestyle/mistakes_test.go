package housestyle_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/check"
	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/source"
)

// long are the rules of readers whose examples would be long: TestLongMistakes makes some, and too-much is held by cases of core/raml.
var long = map[string]bool{"too-large": true, "too-many": true, "too-much": true}

// TestMistakes holds each rule of readers against its examples, as they are written and, where that says the same, as JSON.
func TestMistakes(t *testing.T) {
	t.Parallel()
	for _, r := range housestyle.Ours().Told() {
		if r.Group != housestyle.WellFormed {
			continue
		}
		t.Run(r.Name, func(t *testing.T) {
			t.Parallel()
			assert.NotEmpty(t, r.Why)
			if long[r.Name] {
				return
			}
			assert.GreaterOrEqual(t, len(r.Bad), 3)
			assert.GreaterOrEqual(t, len(r.Good), 3)
			for bad, examples := range map[bool][]string{true: r.Bad, false: r.Good} {
				for _, text := range examples {
					told := mistakesOf(t, text)
					assert.Equal(t, bad, told[r.Name], "bad: %v\n%s\n%v", bad, text, told)
					if strings.HasPrefix(text, "-- ") || r.Name == "syntax" || r.Name == "key-twice" {
						continue
					}
					for _, inJSON := range inJSON(t, []housestyle.Example{{Text: text}}) {
						again := mistakesOf(t, inJSON.Text)
						assert.Equal(t, told, again, "in JSON: %s", inJSON.Text)
					}
				}
			}
		})
	}
}

// mistakesOf are the rules of readers that an example breaks. Several files stand below their names.
func mistakesOf(t *testing.T, text string) map[string]bool {
	t.Helper()
	var set *source.Set
	var err error
	if strings.HasPrefix(text, "-- ") {
		a := txtar.Parse([]byte(text))
		texts := map[string][]byte{}
		for _, f := range a.Files {
			texts[f.Name] = f.Data
		}
		set, err = source.OpenTexts(t.Context(), "", a.Files[0].Name, texts)
	} else {
		var f *source.File
		if f, err = housestyle.ParseExample(text); err == nil {
			set, err = source.OpenTexts(t.Context(), "", f.Name, map[string][]byte{f.Name: f.Text})
		}
	}
	told := map[string]bool{}
	take := func(found source.Diagnostics) {
		for _, d := range found {
			told[d.Rule] = true
		}
	}
	if err == nil {
		c, refused := format.Read(set)
		if err = refused; err == nil {
			found, err := check.Contract(t.Context(), c)
			require.NoError(t, err)
			take(found)
		}
	}
	var one *source.Diagnostic
	var all source.Diagnostics
	switch {
	case errors.As(err, &all):
		take(all)
	case errors.As(err, &one):
		told[one.Rule] = true
	default:
		require.NoError(t, err)
	}
	return told
}

// TestLongMistakes holds the rules whose examples would be long against such as are made: three that are beyond a limit, and three
// below it.
func TestLongMistakes(t *testing.T) {
	t.Parallel()
	nested := func(n int, open, end string) string {
		return "openapi: 3.1.0\ninfo: {title: A, version: 1.0.0}\nx-deep: " + strings.Repeat(open, n) + strings.Repeat(end, n) + "\n"
	}
	aliases := func(n int) string {
		text := "openapi: 3.1.0\ninfo: {title: A, version: 1.0.0}\nx-a0: &a0 [1, 1, 1, 1, 1, 1, 1, 1, 1, 1]\n"
		for i := range n {
			text += fmt.Sprintf("x-a%d: &a%d [%s]\n", i+1, i+1, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*a%d, ", i), 10), ", "))
		}
		return text
	}
	many := func(n int, one string) string {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, one, i)
		}
		return b.String()
	}
	fields := func(n int, of string) string {
		return "components: {schemas: {A: {type: object, properties: {" + many(n, "f%d: {"+of+"}, ") + "}}}}\n"
	}
	answers := func(n int) string {
		return "paths: {/a: {get: {responses: {" + many(n, "'9%05d': {description: A.}, ") + "}}}}\n"
	}
	for rule, examples := range map[string]map[bool][]string{
		"too-large": {
			true:  {nested(2000, "[", "]"), nested(2000, "{a: ", "}"), aliases(8)},
			false: {nested(50, "[", "]"), nested(50, "{a: ", "}"), aliases(2)},
		},
		"too-many": {
			true:  {fields(5100, "type: strng"), fields(5100, "maxLenght: 3"), answers(5100)},
			false: {fields(100, "type: strng"), fields(100, "maxLenght: 3"), answers(100)},
		},
	} {
		for bad, texts := range examples {
			for i, text := range texts {
				assert.Equal(t, bad, mistakesOf(t, text)[rule], "%s, bad: %v, %d", rule, bad, i)
			}
		}
	}
}

package compare_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
)

// framed makes a description of an example.
func framed(t *testing.T, frame compare.Frame, text string, answer bool) *contract.Contract {
	t.Helper()
	doc := map[string]any{}
	parsed := map[string]any{}
	require.NoError(t, yaml.Unmarshal([]byte(text), &parsed), text)
	ok := map[string]any{"200": map[string]any{"description": "ok"}}
	switch frame {
	case compare.InDescription:
		doc = parsed
	case compare.InOperation:
		doc["paths"] = map[string]any{"/bookings": map[string]any{"post": parsed}}
	case compare.InSchema:
		body := map[string]any{"content": map[string]any{"application/json": map[string]any{"schema": parsed}}}
		op := map[string]any{"requestBody": body, "responses": ok}
		if answer {
			body["description"] = "ok"
			op = map[string]any{"responses": map[string]any{"200": body}}
		}
		doc["paths"] = map[string]any{"/bookings": map[string]any{"post": op}}
	}
	doc["openapi"] = "3.1.0"
	if doc["info"] == nil {
		doc["info"] = map[string]any{"title": "Berths", "version": "1.0.0"}
	}
	out, err := yaml.Marshal(doc)
	require.NoError(t, err)
	f, err := source.Parse("example.yaml", out)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err, string(out))
	return c
}

// TestKindsAreAsTheTableSays compares every example of the table: it is one change, of that kind and those grades.
func TestKindsAreAsTheTableSays(t *testing.T) {
	t.Parallel()
	for _, k := range compare.Kinds() {
		require.NotEmpty(t, k.Meaning, k.Name)
		if k.Old == "" {
			require.True(t, k.Name == "schema-changed" || strings.HasSuffix(k.Name, "-respelled") ||
				strings.HasSuffix(k.Name, "-changed"), "%s needs an example", k.Name)
			continue
		}
		check := func(answer bool, want compare.Directions) {
			c := compare.Contracts(framed(t, k.Frame, k.Old, answer), framed(t, k.Frame, k.New, answer), compare.Options{})
			if !assert.Len(t, c.Changes, 1, "%s, answer %v:\n%s", k.Name, answer, summary(c)) {
				return
			}
			ch := c.Changes[0]
			assert.True(t, k.Matches(ch.Kind), "%s is %s", k.Name, ch.Kind)
			assert.Equal(t, want, compare.Directions{Backward: ch.Backward, Forward: ch.Forward}, "%s, answer %v:\n%s", k.Name, answer, summary(c))
		}
		check(false, k.Request)
		if k.Response != nil {
			check(true, *k.Response)
		}
	}
}

// TestManualIsTheTable holds the page of the manual against the table; `oldledger kinds --format markdown` writes it anew.
func TestManualIsTheTable(t *testing.T) {
	t.Parallel()
	page, err := os.ReadFile("../../docs/manual/kinds.md")
	require.NoError(t, err)
	require.Equal(t, compare.KindsMarkdown(), string(page))
}

// TestEveryKindIsInTheTable holds the table against all that the cases find.
func TestEveryKindIsInTheTable(t *testing.T) {
	t.Parallel()
	for _, p := range allPairs(t) {
		for _, ch := range compare.Contracts(p.old, p.new, compare.Options{}).Changes {
			_, known := compare.FindKind(ch.Kind)
			require.True(t, known, "%s: %s is in no row", p.name, ch.Kind)
		}
	}
	_, known := compare.FindKind("request.nonsense")
	require.False(t, known)
	names := map[string]bool{}
	for _, k := range compare.Kinds() {
		require.False(t, names[k.Name], "%s stands twice", k.Name)
		names[k.Name] = true
		require.False(t, strings.HasSuffix(k.Meaning, "."), fmt.Sprint(k.Name))
	}
}

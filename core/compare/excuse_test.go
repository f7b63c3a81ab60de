package compare_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/tools/draw"
)

type document = map[string]any

// objectsOfBoth are the places of the schemas with properties that stand at the same place in both versions.
func objectsOfBoth(a, b any, at string, found *[]string) {
	x, ok := a.(document)
	y, also := b.(document)
	if !ok || !also {
		if p, list := a.([]any); list {
			if q, list := b.([]any); list {
				for i := range min(len(p), len(q)) {
					objectsOfBoth(p[i], q[i], fmt.Sprintf("%s/%d", at, i), found)
				}
			}
		}
		return
	}
	if x["properties"] != nil && y["properties"] != nil && !strings.HasSuffix(at, "/properties") {
		*found = append(*found, at)
	}
	for _, key := range slices.Sorted(maps.Keys(x)) {
		if key != "example" && key != "examples" {
			objectsOfBoth(x[key], y[key], at+"/"+source.EscapeStep(key), found)
		}
	}
}

// withMember reads a description in which the schema at a place has one more property.
func withMember(t require.TestingT, text []byte, at, schema string) *source.File {
	var whole any
	require.NoError(t, json.Unmarshal(text, &whole))
	here := whole
	for step := range strings.SplitSeq(strings.TrimPrefix(at, "/"), "/") {
		step = strings.ReplaceAll(strings.ReplaceAll(step, "~1", "/"), "~0", "~")
		switch x := here.(type) {
		case document:
			here = x[step]
		case []any:
			i := 0
			_, err := fmt.Sscan(step, &i)
			require.NoError(t, err)
			here = x[i]
		}
	}
	var member any
	require.NoError(t, json.Unmarshal([]byte(schema), &member))
	here.(document)["properties"].(document)["zz"] = member
	text, err := json.Marshal(whole)
	require.NoError(t, err)
	f, err := source.Parse("made.json", text)
	require.NoError(t, err)
	return f
}

// excuses compares two versions that both have a member more, and again with a break of that member: what was said before must be said
// again, in no better grade. It gives back what is not.
func excuses(t require.TestingT, old, now []byte, at string, o compare.Options) (lost []string) {
	compared := func(after string) *compare.Comparison {
		x, err := openapi.Read(withMember(t, old, at, `{"type":"integer"}`))
		require.NoError(t, err)
		y, err := openapi.Read(withMember(t, now, at, after))
		require.NoError(t, err)
		return compare.Contracts(x, y, o)
	}
	// What a change is about stays, whichever way its set changes and whichever operation shows it best.
	name := func(ch *compare.Change) string {
		stem := ch.Kind
		for _, end := range []string{"-narrowed", "-widened", "-changed", "-respelled"} {
			stem = strings.TrimSuffix(stem, end)
		}
		_, stem, _ = strings.Cut(stem, ".")
		member := ch.At[strings.LastIndex(ch.At, ",")+1:]
		return stem + " of " + member
	}
	for _, member := range []string{`{"type":"boolean"}`} {
		after := map[string][]*compare.Change{}
		broken := compared(member)
		for _, ch := range broken.Changes {
			after[name(ch)] = append(after[name(ch)], ch)
		}
		for _, ch := range compared(`{"type":"integer"}`).Changes {
			for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
				if ch.Grade(d) <= compare.Safe {
					continue
				}
				same := after[name(ch)]
				if strings.HasSuffix(ch.Kind, ".schema-changed") {
					same = broken.Changes // what no edit explained may be explained by the new one
				}
				if strings.Contains(at+"/", "/if/") { // where a condition itself changes, it tells of what stands under it
					for _, again := range broken.Changes {
						if strings.Contains(again.Kind, ".condition-") {
							same = append(same, again)
						}
					}
				}
				told := slices.ContainsFunc(same, func(again *compare.Change) bool { return again.Grade(d) >= ch.Grade(d) })
				if !told {
					lost = append(lost, fmt.Sprintf("%s: %s %s %s at %s (%s) is gone or better\n%s", at, d, ch.Grade(d), ch.Kind, ch.At, ch.Title,
						summary(broken)))
				}
			}
		}
	}
	return lost
}

// TestNothingExcusesAnother adds an unrelated break to every pair of the cases and the demo, in every object that both versions have, and
// to drawn pairs: nothing that was said before is lost or graded better for it.
func TestNothingExcusesAnother(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("takes a while: make test")
	}
	t.Run("cases", func(t *testing.T) {
		tried := 0
		for _, p := range allPairs(t) {
			if p.others != nil && len(p.others) > 5 || p.old.Node.File() == nil {
				continue
			}
			old, err := json.Marshal(p.old.Node.File().Root.Value())
			require.NoError(t, err)
			now, err := json.Marshal(p.new.Node.File().Root.Value())
			require.NoError(t, err)
			var a, b any
			require.NoError(t, json.Unmarshal(old, &a))
			require.NoError(t, json.Unmarshal(now, &b))
			var places []string
			objectsOfBoth(a, b, "", &places)
			for _, at := range places {
				if _, err := openapi.Read(withMember(t, old, at, `{}`)); err != nil {
					continue // it refers to another file
				}
				tried++
				require.Empty(t, excuses(t, old, now, at, compare.Options{}), p.name)
			}
		}
		require.Greater(t, tried, 100)
	})
	t.Run("drawn", func(t *testing.T) {
		rapid.Check(t, func(t *rapid.T) {
			old := draw.Schemas().Draw(t, "old")
			now := draw.Near(t, old)
			reading := rapid.SampledFrom([]shape.Reading{shape.Declared, shape.Exact}).Draw(t, "reading")
			beside := func(schema string) []byte {
				return []byte(draw.Around(`{"type":"object","properties":{"one":{"type":"string"}},"allOf":[`+schema+`]}`, true))
			}
			// a member of allOf with it speaks of the new member, which is not unrelated then
			if !strings.Contains(old+now, "unevaluatedProperties") {
				require.Empty(t, excuses(t, beside(old), beside(now), "/components/schemas/Shared", compare.Options{Reading: reading}))
			}
			var a, b any
			x, y := []byte(draw.Around(old, true)), []byte(draw.Around(now, true))
			require.NoError(t, json.Unmarshal(x, &a))
			require.NoError(t, json.Unmarshal(y, &b))
			var places []string
			objectsOfBoth(a, b, "", &places)
			if at := rapid.SampledFrom(append(places, "")).Draw(t, "at"); strings.HasPrefix(at, "/components/schemas/Shared") {
				require.Empty(t, excuses(t, x, y, at, compare.Options{Reading: reading}))
			}
		})
	})
}

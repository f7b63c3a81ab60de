package compare_test

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/core/value"
	"oldledger/tools/draw"
	"oldledger/tools/judge"
)

// around puts a schema into a request body, a response and a webhook, in place or as a component.
func around(t require.TestingT, schema string, component bool) *contract.Contract {
	inPlace, components := schema, "{}"
	if component {
		inPlace, components = `{"$ref":"#/components/schemas/Shared"}`, fmt.Sprintf(`{"schemas":{"Shared":%s}}`, schema)
	}
	text := fmt.Sprintf(`{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"components":%[2]s,
		"paths":{"/a":{"post":{"requestBody":{"content":{"application/json":{"schema":%[1]s}}},"responses":{"200":{"description":"A.","content":{"application/json":{"schema":%[1]s}}}}}}},
		"webhooks":{"w":{"post":{"requestBody":{"content":{"application/json":{"schema":%[1]s}}},"responses":{"204":{"description":"B."}}}}}}`, inPlace, components)
	f, err := source.Parse("drawn.json", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// near draws a schema that is another one with a small difference, or another altogether.
func near(t *rapid.T, schema string) string {
	changes := [][2]string{
		{`"string"`, `"integer"`}, {`"integer"`, `"number"`}, {`"number"`, `"integer"`}, {`:1}`, `:2}`}, {`:2}`, `:1}`}, {`"p"`, `"pq"`}, {`"required":["p"],`, ``},
		{`anyOf`, `oneOf`}, {`oneOf`, `anyOf`}, {`"^a*$"`, `"^a+$"`}, {`["a","b",1]`, `["a","b"]`}, {`["a","b"]`, `["a","b",1]`}, {`true`, `false`}, {`"additionalProperties":`, `"x-gone":`},
	}
	if rapid.IntRange(0, 3).Draw(t, "far") == 0 {
		return draw.Schemas().Draw(t, "other")
	}
	c := rapid.SampledFrom(changes).Draw(t, "change")
	return strings.Replace(schema, c[0], c[1], 1)
}

// TestDrawn compares drawn schemas in both readings: every witness convinces the independent validator, and what is not
// called breaking nor undecided refuses no drawn value that its sender may send.
func TestDrawn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := draw.Schemas().Draw(t, "old")
		b := near(t, a)
		reading := rapid.SampledFrom([]shape.Reading{shape.Declared, shape.Exact}).Draw(t, "reading")
		old, now := around(t, a, rapid.Bool().Draw(t, "component")), around(t, b, rapid.Bool().Draw(t, "component too"))
		c := compare.Contracts(old, now, compare.Options{Reading: reading})
		judgeWitnesses(t, c, old, now, reading)
		back := compare.Contracts(now, old, compare.Options{Reading: reading})
		require.Equal(t, c.Forward, back.Backward, "%s → %s", a, b)
		require.Equal(t, c.Backward, back.Forward, "%s → %s", a, b)

		undecided := false
		for _, ch := range c.Changes {
			undecided = undecided || ch.Undecided
		}
		v, err := value.Parse([]byte(draw.Values().Draw(t, "value")))
		require.NoError(t, err)
		for d, grade := range map[compare.Direction]compare.Grade{compare.Backward: c.Backward, compare.Forward: c.Forward} {
			if grade == compare.Breaking || undecided {
				continue
			}
			sender, receiver := old, now
			if d == compare.Forward {
				sender, receiver = now, old
			}
			require.False(t, sendable(t, sender, v, reading) && refused(t, receiver, v, reading), "%s is sent under %s and refused under %s, and nothing says so:\n%s", v, a, b, summary(c))
		}
	})
}

func requestSchema(c *contract.Contract) *contract.Schema {
	return c.Operations[0].Body.Content[0].Schema
}

func sendable(t require.TestingT, c *contract.Contract, v *value.Value, reading shape.Reading) bool {
	space := shape.NewSpace(reading)
	holds, known := space.Holds(space.Lower(requestSchema(c), shape.Role{Sends: true, Request: true}), v)
	require.True(t, known)
	return holds
}

func refused(t require.TestingT, c *contract.Contract, v *value.Value, reading shape.Reading) bool {
	valid, _, err := judge.Valid(c, requestSchema(c).Node, v, reading, true)
	require.NoError(t, err)
	return !valid
}

// TestDrawnParameters compares drawn schemas of a query parameter, whose values are text: the verdict is as that of its reverse.
func TestDrawnParameters(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := draw.Schemas().Draw(t, "old")
		b := near(t, a)
		old, now := withParameter(t, a), withParameter(t, b)
		c := compare.Contracts(old, now, compare.Options{})
		back := compare.Contracts(now, old, compare.Options{})
		require.Equal(t, c.Forward, back.Backward, "%s → %s", a, b)
		for _, ch := range c.Changes {
			for _, d := range []compare.Direction{compare.Backward, compare.Forward} {
				require.Equal(t, ch.Grade(d) == compare.Breaking, ch.WitnessFor(d) != nil, "%s: %s", ch.Title, d)
			}
		}
	})
}

func withParameter(t require.TestingT, schema string) *contract.Contract {
	text := fmt.Sprintf(`{"openapi":"3.1.0","info":{"title":"T","version":"1.0.0"},"paths":{"/a":{"get":{"parameters":[{"name":"p","in":"query","schema":%s}],"responses":{"200":{"description":"A."}}}}}}`, schema)
	f, err := source.Parse("drawn.json", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// FuzzCompare compares a description of the demo with what fuzzing makes of it: no panic, an end, and the same verdict
// the other way round.
func FuzzCompare(f *testing.F) {
	for _, path := range []string{"../../demo/pilotage/1.0.0.yaml", "../../demo/commons/1.0.0.yaml"} {
		text, err := os.ReadFile(path)
		require.NoError(f, err)
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		file, err := source.Parse("fuzz.yaml", text)
		if err != nil {
			return
		}
		c, err := openapi.Read(file)
		if err != nil {
			return
		}
		base := readFile(t, "../../demo/pilotage/1.0.0.yaml")
		there, back := compare.Contracts(base, c, compare.Options{}), compare.Contracts(c, base, compare.Options{})
		require.Equal(t, there.Backward, back.Forward)
		require.Equal(t, there.Forward, back.Backward)
	})
}

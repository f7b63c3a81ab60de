package reliance_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/reliance"
	"oldledger/core/source"
	"oldledger/tools/cases"
)

func parsed(t *testing.T, name string, text []byte) *source.File {
	t.Helper()
	f, err := source.Parse(name, text)
	require.NoError(t, err)
	return f
}

func described(t *testing.T, a *txtar.Archive, name string) *contract.Contract {
	t.Helper()
	f := cases.File(a, name)
	require.NotNil(t, f, name)
	c, err := format.Read(source.SetOf(parsed(t, name, f.Data)))
	require.NoError(t, err)
	return c
}

// TestTouch tells of each change how it meets what a consumer relies on, and what it means for it.
func TestTouch(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		old, new := described(t, a, "old.yaml"), described(t, a, "new.yaml")
		r, err := reliance.Read(parsed(t, "reads.yaml", cases.File(a, "reads.yaml").Data))
		require.NoError(t, err)
		require.NoError(t, r.Needs[0].Resolve(old))
		r.Needs[0].Locate(old)
		c, err := compare.ContractsContext(context.Background(), old, new, compare.Options{})
		require.NoError(t, err)
		var b strings.Builder
		words := map[reliance.Touch]string{reliance.Apart: "apart", reliance.Called: "called", reliance.Relied: "relied"}
		for _, ch := range c.Changes {
			fmt.Fprintf(&b, "%-6s %-9s was %-9s %s (%s)\n", words[r.Needs[0].Touch(ch)], r.Needs[0].Grade(ch), ch.Backward, ch.Title, ch.At)
		}
		return map[string]string{"want.txt": b.String()}
	})
}

func TestWrongFiles(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"[]": "what a consumer relies on is an object with relies; here stands a list", "consumer: x": "it lacks relies",
		"reliesOn: {}":                                       "nothing is called reliesOn here",
		"relies: {Berths: {}}":                               "Berths is no API",
		"relies: {berths@x: {}}":                             "behind @ stands a version",
		"relies: {berths: {}, berths@1: {}}":                 "berths stands here twice",
		"relies: {berths: {GET /b: all}}":                    "it must be everything, or an object with sends",
		"relies: {berths: {GET /b: {sends: [a]}}}":           "GET /b does not say what it reads",
		"relies: {berths: {GET /b: {reads: a}}}":             "it must be a list",
		"relies: {berths: {GET /b: {reads: ['a..b']}}}":      "a..b is no field",
		"relies: {berths: {GET /b: {reads: ['a[0]']}}}":      "a[0] is no field",
		"relies: {berths: {GET /b: {reads: {a: 4}}}}":        "behind a field stands a list of its values, or any",
		"relies: {berths: {GET /b: {reads: [4]}}}":           "it must be a field",
		"relies: {berths: {GET /b: {reads: [a], read: []}}}": "nothing is called read here",
	} {
		_, err := reliance.Read(parsed(t, "reads.yaml", []byte(text)))
		require.ErrorContains(t, err, want, "%s", text)
		assert.ErrorContains(t, err, "reads.yaml:1:")
	}
}

// TestWays reads every way as it was written, whatever its names hold.
func TestWays(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		way := rapid.SliceOfN(rapid.OneOf(rapid.SampledFrom([]string{"[]", "*", "a.b", "a[", `a\`, "what?", "[]x"}), rapid.StringN(1, 5, -1)), 1, 5).
			Draw(t, "way")
		text := reliance.WayText(way)
		again, ok := reliance.ParseWay(text)
		if !ok || fmt.Sprint(again) != fmt.Sprint(way) || len(again) != len(way) {
			t.Fatalf("%q is written %s and read as %q", way, text, again)
		}
	})
}

func TestRead(t *testing.T) {
	t.Parallel()
	text := `consumer: skerry-planner
relies:
  berths@1.2.0:
    GET /berths:
      sends:
        wind:
          - north
        X.Y[]: any
      reads:
        - items[].id
        - next?
    readBerth: everything
    DELETE /bookings/{booking}:
      reads: []
`
	r, err := reliance.Read(parsed(t, "reads.yaml", []byte(text)))
	require.NoError(t, err)
	assert.Equal(t, text, string(r.Value().YAML()))
	assert.Equal(t, "GET /berths", r.Needs[0].Operations[0].Key())
	assert.Equal(t, "X.Y[]", r.Needs[0].Operations[0].Sends[1].Way[0])
	assert.True(t, r.Needs[0].Operations[0].Reads[1].Optional)
}

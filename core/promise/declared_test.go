package promise_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/source"
)

func TestDeclared(t *testing.T) {
	t.Parallel()
	declared := func(text string) ([]promise.Notice, source.Diagnostics) {
		f, err := source.Parse("berths.yaml",
			[]byte("openapi: 3.1.0\ninfo: {title: Berth Booking, version: 1.0.0}\npaths:\n  /berths:\n    get:\n      deprecated: true\n      x-ledger-deprecated: "+
				text+"\n"))
		require.NoError(t, err)
		c, err := openapi.Read(f)
		require.NoError(t, err)
		return promise.Declared(c)
	}
	all, problems := declared("{since: 2026-03-01, sunset: 2027-03-01, instead: quays, reason: Berths become places.}")
	require.Empty(t, problems)
	require.Equal(t, []promise.Notice{{
		Operation: "GET /berths", Written: "GET /berths", Since: "2026-03-01", Sunset: "2027-03-01", ReplacedBy: "quays",
		Reason: "Berths become places.",
	}}, all)
	all, problems = declared("Berths become places.")
	require.Empty(t, problems)
	require.Equal(t, "Berths become places.", all[0].Reason)
	for _, mark := range []string{"true", "{}", "null"} {
		all, problems = declared(mark)
		require.Empty(t, problems)
		require.Empty(t, all, "%s marks, and announces nothing", mark)
	}
	for text, want := range map[string]string{
		"{sunset: soon}":                            `berths.yaml:7:37: sunset is "soon"; it is a date, such as 2027-03-01`,
		"{guide: the newest, reason: x}":            `berths.yaml:7:36: "the newest" names no guide; write two versions, such as 1.2.0..2.0.0`,
		"{values: [a], reason: x}":                  `berths.yaml:7:37: values names nothing here; it lists some of the values of a field, a parameter or a header, such as [held]`,
		"{sunst: 2027-03-01}":                       `berths.yaml:7:29: a deprecation has no key "sunst"; did you mean "sunset"?`,
		"{since: 2027-03-01, sunset: 2026-03-01}":   `berths.yaml:7:56: the sunset 2026-03-01 does not come after 2027-03-01, from when the notice holds; write a later date`,
		"{sunset: 2027-02-30, reason: No such day}": `berths.yaml:7:37: sunset is "2027-02-30"; it is a date, such as 2027-03-01`,
	} {
		_, problems := declared(text)
		require.Equal(t, want, problems.Error())
	}
}

// TestDeclaredParts reads what a description announces of parameters, headers, fields and values.
func TestDeclaredParts(t *testing.T) {
	t.Parallel()
	f, err := source.Parse("berths.yaml", []byte(`openapi: 3.1.0
info: {title: Berth Booking, version: 1.0.0}
paths:
  /berths:
    get:
      parameters: [{name: sort, in: query, deprecated: true, x-ledger-deprecated: {sunset: 2027-03-01, guide: 1.2.0..2.0.0}, schema: {type: string}}]
      responses:
        '200':
          description: Berths.
          headers: {X-Left: {x-ledger-deprecated: Counted otherwise., schema: {type: integer}}}
        '206':
          description: Some.
          headers: {X-Left: {x-ledger-deprecated: Counted otherwise., schema: {type: integer}}}
components:
  schemas:
    Berth: {type: object, properties: {state: {enum: [free, held, 3], x-ledger-deprecated: {values: [held, 3], reason: Nobody holds.}}}}
`))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	all, problems := promise.Declared(c)
	require.Empty(t, problems)
	var parts []string
	for _, n := range all {
		parts = append(parts, n.Part()+": "+n.Sunset+n.Reason+n.Guide)
	}
	require.Equal(t, []string{
		"sort of GET /berths: 2027-03-011.2.0..2.0.0", "X-Left of the answers to GET /berths: Counted otherwise.",
		"the value held of state of Berth: Nobody holds.", "the value 3 of state of Berth: Nobody holds.",
	}, parts)
}

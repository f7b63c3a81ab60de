package promise_test

import (
	"context"
	"fmt"
	"maps"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/source"
)

func read(t *testing.T, text string) *contract.Contract {
	t.Helper()
	f, err := source.Parse("berths.yaml", []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

const description = `openapi: 3.1.0
info: {title: Berths, version: VERSION}
paths:
  /berths:
    get:
      operationId: list
      parameters: PARAMETERS
      responses:
        '200':
          description: ok
          headers: HEADERS
          content: {application/json: {schema: {$ref: '#/components/schemas/Berth'}}}
  OLDPATH
components:
  schemas:
    Berth: {type: object, required: [state], properties: PROPERTIES}
`

// version is one version of the description, at a stage of everything that is replaced in it.
func version(t *testing.T, number string, stage int) *contract.Contract {
	parameters := []string{
		`[{name: limit, in: query, schema: {type: integer}}]`,
		`[{name: limit, in: query, schema: {type: integer}}, {name: pages, in: query, schema: {type: integer}}]`,
		`[{name: limit, in: query, deprecated: true, schema: {type: integer}}, {name: pages, in: query, schema: {type: integer}}]`,
		`[{name: pages, in: query, schema: {type: integer}}]`,
	}
	headers := []string{
		`{X-Left: {schema: {type: integer}}}`, `{X-Left: {schema: {type: integer}}}`, `{X-Left: {schema: {type: integer}}}`,
		`{}`,
	}
	properties := []string{
		`{state: {enum: [free, held, taken]}, size: {type: number}}`,
		`{state: {enum: [free, held, taken]}, size: {type: number}, lengthOverall: {type: number}}`,
		`{state: {enum: [free, held, taken]}, size: {type: number, deprecated: true}, lengthOverall: {type: number}}`,
		`{state: {enum: [free, taken]}, lengthOverall: {type: number}}`,
	}
	old := `/old: {get: {operationId: old, responses: {'204': {description: ok}}}}`
	paths := []string{
		old, old + "\n  /new: {get: {operationId: new, responses: {'204': {description: ok}}}}", old,
		`/new: {get: {operationId: new, responses: {'204': {description: ok}}}}`,
	}
	if stage == 2 {
		paths[2] = paths[1]
	}
	text := description
	for _, r := range [][2]string{
		{"VERSION", number},
		{"PARAMETERS", parameters[stage]},
		{"HEADERS", headers[stage]},
		{"PROPERTIES", properties[stage]},
		{"OLDPATH", paths[stage]},
	} {
		text = strings.Replace(text, r[0], r[1], 1)
	}
	return read(t, text)
}

// TestPlans follows what is replaced from its expansion to its contraction.
func TestPlans(t *testing.T) {
	t.Parallel()
	numbers := []string{"1.0.0", "1.1.0", "1.2.0", "2.0.0"}
	var history []promise.Past
	var before *contract.Contract
	for i, number := range numbers {
		now := version(t, number, i)
		past := promise.Past{Version: number}
		if before != nil {
			past.Changes = compare.Contracts(before, now, compare.Options{})
		}
		history = append(history, past)
		before = now
	}
	notices := []promise.Notice{
		{ID: 1, API: "berths", Line: "1", Field: "Berth.size", ReplacedBy: "lengthOverall", Since: "2026-03-01", Sunset: "2026-09-01"},
		{ID: 2, API: "berths", Line: "1", Operation: "GET /berths", Parameter: "query limit", ReplacedBy: "pages", Since: "2026-03-02"},
		{ID: 3, API: "berths", Line: "1", Operation: "GET /old", ReplacedBy: "new", Since: "2026-03-03", Sunset: "2026-06-01"},
		{ID: 4, API: "berths", Line: "1", Operation: "GET /berths", Header: "X-Left", Since: "2026-03-04"},
		{ID: 5, API: "berths", Line: "1", Field: "Berth.state", Value: "held", Since: "2026-03-05"},
		{ID: 6, API: "berths", Line: "1", Since: "2026-03-06"},
	}
	key := func(ref string) string { return map[string]string{"new": "GET /new"}[ref] }
	day := time.Date(2026, 7, 1, 0, 0, 0, 0, time.UTC)

	plans := promise.Plans(notices, history[:3], key, day)
	require.Len(t, plans, 5, "that of a whole line is none")
	var stood []promise.Stage
	for _, p := range plans {
		stood = append(stood, p.Stage)
		require.Empty(t, p.Contracted)
	}
	require.Equal(t, []promise.Stage{promise.Deprecated, promise.Deprecated, promise.Due, promise.Deprecated, promise.Deprecated}, stood)

	for i, p := range promise.Plans(notices, history, key, day) {
		require.Equal(t, promise.Contracted, p.Stage, p.Subject)
		require.Equal(t, "2.0.0", p.Contracted, p.Subject)
		require.Equal(t, []string{"1.1.0", "1.1.0", "1.1.0", "", ""}[i], p.Expanded, p.Subject)
		require.Equal(t, []string{"1.2.0", "1.2.0", "", "", ""}[i], p.Marked, p.Subject)
	}

	// Each removal is announced by its own notice.
	told := map[int64]string{}
	for _, ch := range history[3].Changes.Changes {
		if a := promise.Announce(ch, notices, day); a != nil && a.Notice != nil {
			told[a.Notice.ID] = a.String()
		}
	}
	require.Equal(t, "announced to leave on 2026-09-01, not before", told[1])
	require.Equal(t, "announced, without a date", told[2])
	require.Equal(t, "announced, and its date has passed: 2026-06-01", told[3])
	require.Equal(t, "announced, without a date", told[4])
	require.NotContains(t, told, int64(6))
}

// TestAnnouncedElsewhere finds what was announced of fields wherever their schema stands: in another file, as a whole file, in OpenAPI 2.0,
// in RAML.
func TestAnnouncedElsewhere(t *testing.T) {
	t.Parallel()
	const body = "openapi: 3.1.0\ninfo: {title: Kilns, version: 1.0.0}\npaths: {/kilns: {post: {requestBody: {content: {application/json: {schema: {$ref: '%s'}}}}, responses: {'204': {description: ok}}}}}\n"
	const kiln = "{type: object, properties: {name: {type: string}, cone: {type: array, items: {enum: [low, high]}}%s}}\n"
	for name, c := range map[string]struct {
		files  map[string]string // %s: what leaves
		entry  string
		schema string
	}{
		"a part of another file": {
			map[string]string{"api.yaml": fmt.Sprintf(body, "sub/t.yaml#/Kiln"), "sub/t.yaml": "Kiln: " + kiln},
			"api.yaml", "Kiln",
		},
		"a file of its own": {map[string]string{"api.yaml": fmt.Sprintf(body, "kiln.yaml"), "kiln.yaml": kiln}, "api.yaml", "kiln"},
		"a member in place": {map[string]string{
			"api.yaml": fmt.Sprintf(body, "t.yaml#/Kiln"),
			"t.yaml": "Head: {type: object, properties: {id: {type: string}}}\nKiln: {allOf: [{$ref: '#/Head'}, " + strings.TrimSpace(kiln) +
				"]}\n",
		}, "api.yaml", "Kiln"},
		"OpenAPI 2.0": {map[string]string{"api.yaml": "swagger: '2.0'\ninfo: {title: Kilns, version: 1.0.0}\npaths: {/kilns: {post: {parameters: [{name: b, in: body, schema: {$ref: '#/definitions/Kiln'}}], responses: {'204': {description: ok}}}}}\ndefinitions: {Kiln: " +
			strings.TrimSpace(kiln) + "}\n"}, "api.yaml", "Kiln"},
		"RAML": {
			map[string]string{"api.raml": "#%%RAML 1.0\ntitle: Kilns\nversion: 1.0.0\ntypes: {Kiln: {properties: {name: string, cone: {type: array, items: {enum: [low, high]}}%s}}}\n/kilns: {post: {body: {application/json: Kiln}}}\n"},
			"api.raml", "Kiln",
		},
	} {
		t.Run(name, func(t *testing.T) {
			version := func(leaves string) *contract.Contract {
				set, err := source.Open(context.Background(), "", c.entry, func(p string) ([]byte, error) {
					text, there := c.files[p]
					if !there {
						return nil, source.ErrNoFile
					}
					return []byte(strings.ReplaceAll(strings.ReplaceAll(text, "%s", leaves), "%%", "%")), nil
				})
				require.NoError(t, err)
				read, err := format.Read(set)
				require.NoError(t, err)
				return read
			}
			draught := ", draught: {type: string}"
			if name == "RAML" {
				draught = ", draught?: string"
			}
			old, now := version(draught), version("")
			for _, field := range []string{"draught", "cone"} {
				if field == "cone" {
					c.files = maps.Clone(c.files)
					for file, text := range c.files {
						c.files[file] = strings.ReplaceAll(text, "[low, high]", "[low]")
					}
					old, now = now, version("")
				}
				notice := promise.Notice{Field: c.schema + "." + field, Sunset: "2026-05-01", Value: map[string]string{"cone": "high"}[field]}
				_, there := notice.Reach(old)
				require.True(t, there, field)
				removals := promise.Removals(compare.Contracts(old, now, compare.Options{}),
					[]promise.Notice{{Field: c.schema + ".name", Sunset: "2026-01-01"}, notice}, time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC))
				require.Len(t, removals, 1)
				for _, a := range removals {
					require.Equal(t, "announced, and its date has passed: 2026-05-01", a.String(), field)
				}
			}
		})
	}
}

// TestSubjects says what a notice is about as its author wrote it, and knows the same part whatever was kept of it.
func TestSubjects(t *testing.T) {
	t.Parallel()
	older := promise.Notice{API: "kilns", Operation: "GET /kilns/{}", Parameter: "query limit"}
	newer := older
	newer.Written = "GET /kilns/{kiln}"
	require.Equal(t, "kilns, limit of GET /kilns/{}", older.Subject())
	require.Equal(t, "kilns, limit of GET /kilns/{kiln}", newer.Subject())
	require.True(t, older.SamePart(newer))
	require.False(t, older.SamePart(promise.Notice{Operation: "GET /kilns/{}"}))
	require.True(t, promise.Notice{API: "kilns", Line: "1"}.Whole())
	require.False(t, newer.Whole())
}

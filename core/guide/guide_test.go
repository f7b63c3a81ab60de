package guide_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/guide"
	"oldledger/core/openapi"
	"oldledger/core/promise"
	"oldledger/core/sample"
	"oldledger/core/shape"
	"oldledger/core/source"
	"oldledger/tools/cases"
	"oldledger/tools/draw"
	"oldledger/tools/judge"
)

func read(t *testing.T, path string) *contract.Contract {
	t.Helper()
	text, err := os.ReadFile(filepath.Join("../../demo", path))
	require.NoError(t, err)
	f, err := source.Parse(path, text)
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

func between(t *testing.T, old, new string) (*guide.Guide, *contract.Contract, *contract.Contract) {
	t.Helper()
	a, b := read(t, old), read(t, new)
	return made(guide.Make(context.Background(), a, b, compare.Contracts(a, b, compare.Options{}),
		guide.Context{API: "berths", Languages: sample.Languages})), a, b
}

// TestCases holds the Markdown of guides against testdata/*.txtar, with code in curl and what the descriptions announce themselves; the
// messages go to the judge.
func TestCases(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		old, new := parseAs(t, "old.yaml", string(cases.File(a, "old.yaml").Data)), parseAs(t, "new.yaml", string(cases.File(a, "new.yaml").Data))
		notices, problems := promise.Declared(new)
		require.Empty(t, problems)
		c := compare.Contracts(old, new, compare.Options{})
		g := made(guide.Make(context.Background(), old, new, c, guide.Context{
			Notices: notices, Languages: sample.Languages[:1], Open: true,
			Today: time.Date(2026, 6, 1, 0, 0, 0, 0, time.UTC),
		}))
		judgeMessages(t, g, old, new)
		return map[string]string{"guide.md": g.Markdown() + "\n" + g.Checklist("")}
	})
}

// TestRename goes from 1.1.0 to 2.0.0 of berths: the rename is one step, with a request before and after.
func TestRename(t *testing.T) {
	t.Parallel()
	g, _, _ := between(t, "berths/1.1.0.yaml", "berths/2.0.0.yaml")
	require.Equal(t, "A client of 1.1.0 fails on 2.0.0 until it follows 9 steps.", g.Verdict)
	require.Len(t, g.Renames, 2)
	require.Equal(t, "POST /bookings", g.Renames[0].To)
	var step *guide.Step
	for i, s := range g.Must {
		if s.Change.Renamed != nil {
			require.Nil(t, step, "one rename, one step")
			step = &g.Must[i]
		}
	}
	require.NotNil(t, step)
	require.Contains(t, g.Renames, guide.Rename{Change: step.Change.ID, Where: "Vessel", From: "length", To: "lengthOverall"})
	require.Equal(t, "length was renamed to lengthOverall", step.Title)
	require.Contains(t, step.Before.Text(), `"length": 11.4`)
	require.NotContains(t, step.Before.Text(), "lengthOverall")
	require.Contains(t, step.After.Text(), `"lengthOverall": 11.4`)
	require.True(t, strings.HasPrefix(step.After.Head, "POST /v2/bookings"), step.After.Head)
	require.Contains(t, step.Operations, "Book a berth")
	require.True(t, slices.ContainsFunc(g.Rollback, func(s guide.Step) bool { return s.Title == step.Title }))
}

// TestHarmless goes from 1.0.0 to 1.1.0: nothing to do, and what is new.
func TestHarmless(t *testing.T) {
	t.Parallel()
	g, _, _ := between(t, "berths/1.0.0.yaml", "berths/1.1.0.yaml")
	require.Empty(t, g.Must)
	require.Equal(t, "A client of 1.0.0 works on 1.1.0 as it is.", g.Verdict)
	require.Len(t, g.Adopt, 5)
	text := g.Markdown()
	require.Contains(t, text, "# Berth Booking: from 1.0.0 to 1.1.0\n")
	require.Contains(t, text, "- List the charges of a booking is new\n")
	require.NotContains(t, text, "What you must do")
	require.Contains(t, text, "A client of 1.1.0 fails on 1.0.0, because of the changes below.")
}

// version is a description, and the same as OpenAPI, which the judge can read: RAML converted.
type version struct{ itself, openAPI *contract.Contract }

// demoVersions are all descriptions of the demo, by their APIs.
func demoVersions(t *testing.T) map[string][]version {
	t.Helper()
	all := map[string][]version{}
	for _, pattern := range []string{"../../demo/*/*.yaml", "../../demo/*/*/*.raml"} {
		entries, err := filepath.Glob(pattern)
		require.NoError(t, err)
		for _, entry := range entries {
			folder, name := filepath.Split(entry)
			set, err := source.Open(context.Background(), "", name, func(p string) ([]byte, error) { return os.ReadFile(folder + p) })
			require.NoError(t, err, entry)
			c, err := format.Read(set)
			require.NoError(t, err, entry)
			v := version{c, c}
			if strings.HasSuffix(name, ".raml") {
				whole, err := format.Bundle(set)
				require.NoError(t, err, entry)
				v.openAPI = parse(t, whole.Indented())
			}
			api, _, _ := strings.Cut(strings.TrimPrefix(filepath.ToSlash(entry), "../../demo/"), "/")
			all[api] = append(all[api], v)
		}
	}
	return all
}

// TestMessages asks the independent validator about every message with a body in the guides between any two versions of an API of the demo,
// both ways: those before are valid for the old version, those after for the new one.
func TestMessages(t *testing.T) {
	t.Parallel()
	judged, pairs := 0, 0
	for _, versions := range demoVersions(t) {
		for i, old := range versions {
			for j, new := range versions {
				if i != j {
					pairs++
					c := compare.Contracts(old.itself, new.itself, compare.Options{})
					judged += judgeMessages(t, made(guide.Make(context.Background(), old.itself, new.itself, c, guide.Context{})), old.openAPI,
						new.openAPI)
				}
			}
		}
	}
	require.GreaterOrEqual(t, pairs, 36)
	require.Greater(t, judged, 150)
	t.Logf("%d messages of %d guides", judged, pairs)
}

// judgeMessages asks the independent validator about the body of every message of a guide, and counts them.
func judgeMessages(t require.TestingT, g *guide.Guide, old, new *contract.Contract) (judged int) {
	for _, s := range append(append([]guide.Step{}, g.Must...), g.Check...) {
		for c, m := range map[*contract.Contract]*guide.Message{old: s.Before, new: s.After} {
			if m == nil || m.Value == nil {
				continue
			}
			op := c.Lookup(m.Operation)
			require.NotNil(t, op, "%s: %s", s.Title, m.Operation)
			position := "request body " + m.Type
			if m.Status != "" {
				position = "response " + m.Status + " " + m.Type
			}
			schema := judge.Position(op, position)
			if schema == nil {
				continue // a body without a schema admits everything
			}
			judged++
			clientSends := (op.Direction == contract.ClientCalls) == (m.Status == "")
			valid, why, err := judge.Valid(c, schema.Node, m.Value, shape.Declared, clientSends)
			require.NoError(t, err)
			require.True(t, valid, "%s → %s, %s: %s\n%s", g.From, g.To, s.Title, m.Text(), why)
		}
	}
	return judged
}

// TestDrawnMessages judges the messages of guides between drawn descriptions.
func TestDrawnMessages(t *testing.T) {
	t.Parallel()
	judged := 0
	rapid.Check(t, func(t *rapid.T) {
		a := draw.Schemas().Draw(t, "old")
		b := draw.Near(t, a)
		old, new := parse(t, draw.Around(a, rapid.Bool().Draw(t, "component"))), parse(t, draw.Around(b, rapid.Bool().Draw(t, "component too")))
		g := made(guide.Make(context.Background(), old, new, compare.Contracts(old, new, compare.Options{}), guide.Context{}))
		judged += judgeMessages(t, g, old, new)
	})
	if !testing.Short() { // which draws less
		require.Greater(t, judged, 50)
	}
}

func parse(t require.TestingT, text string) *contract.Contract { return parseAs(t, "drawn.json", text) }

func parseAs(t require.TestingT, name, text string) *contract.Contract {
	f, err := source.Parse(name, []byte(text))
	require.NoError(t, err)
	c, err := openapi.Read(f)
	require.NoError(t, err)
	return c
}

// TestWebhookGuide tells receivers, not callers.
func TestWebhookGuide(t *testing.T) {
	t.Parallel()
	g, _, _ := between(t, "pilotage/1.0.0.yaml", "pilotage/1.1.0.yaml")
	require.Len(t, g.Must, 1)
	require.Equal(t, "reason may also be regatta", g.Must[0].Title)
	require.Equal(t, "POST to your address, narrowsClosed", g.Must[0].Before.Head)
}

// made is what was made, without an error.
func made[T any](it T, err error) T {
	if err != nil {
		panic(err)
	}
	return it
}

package usage_test

import (
	"bytes"
	"compress/gzip"
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/klauspost/compress/zstd"
	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/source"
	"oldledger/core/usage"
	"oldledger/core/versioning"
	"oldledger/tools/cases"
)

var now = time.Date(2026, 11, 27, 12, 0, 0, 0, time.UTC).Unix()

// services reads descriptions as services: NAME-….yaml is a version of NAME, and its first line says behind a # how it is chosen, and
// perhaps behind "from" since when it answers.
func services(t *testing.T, files []txtar.File) *usage.Router {
	t.Helper()
	all := map[string]*usage.Service{}
	var order []string
	for _, file := range files {
		api, _, named := strings.Cut(file.Name, "-")
		if !named || !strings.HasSuffix(file.Name, ".yaml") {
			continue
		}
		first, _, _ := strings.Cut(string(file.Data), "\n")
		how, from, _ := strings.Cut(strings.TrimPrefix(first, "#"), " from ")
		scheme, err := versioning.Parse(how)
		require.NoError(t, err)
		f, err := source.Parse(file.Name, file.Data)
		require.NoError(t, err)
		c, err := format.Read(source.SetOf(f))
		require.NoError(t, err)
		number, err := contract.ParseVersion(c.Version)
		require.NoError(t, err)
		v := usage.Version{Version: versioning.Version{Number: number, Text: c.Version}, Operations: usage.OperationsOf(c)}
		if from != "" {
			day, err := time.Parse(time.DateOnly, from)
			require.NoError(t, err)
			v.From = day.Unix()
		}
		if all[api] == nil {
			all[api] = &usage.Service{API: api, Scheme: scheme}
			order = append(order, api)
		}
		all[api].Versions = append(all[api].Versions, v)
	}
	r := usage.NewRouter()
	for _, api := range order {
		r.Add(*all[api])
	}
	return r
}

func told(r *usage.Router, t *usage.Tally) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%d lines\n", t.Lines)
	for _, c := range t.Counts() {
		route := r.Routes()[c.Route]
		fmt.Fprintf(&b, "%s %s@%s %s %q %dxx: %d\n", time.Unix(c.Day*24*60*60, 0).UTC().Format(time.DateOnly), route.API, route.Number, route.Operation,
			c.Caller.Name(), c.Class, c.Calls)
	}
	for _, u := range t.Unmatched() {
		fmt.Fprintf(&b, "no %s: %s %s: %d\n", u.Why, u.Method, u.Path, u.Calls)
	}
	for _, bad := range t.Bad() {
		fmt.Fprintf(&b, "bad: %s: %d\n", bad.Why, bad.Lines)
		for _, e := range bad.Examples {
			fmt.Fprintf(&b, "  %d %s\n", e.Line, e.Text)
		}
	}
	return b.String()
}

// TestCases counts logs against descriptions, as they are and packed.
func TestCases(t *testing.T) {
	t.Parallel()
	cases.Run(t, "testdata", func(t *testing.T, a *txtar.Archive) map[string]string {
		r := services(t, a.Files)
		o := usage.Options{Now: now}
		var log []byte
		for _, f := range a.Files {
			switch f.Name {
			case "mapping.yaml":
				file, err := source.Parse(f.Name, f.Data)
				require.NoError(t, err)
				o.Mapping, err = usage.ReadMapping(file)
				require.NoError(t, err)
			case "log":
				log = f.Data
			}
		}
		plain := usage.NewTally(r, o)
		require.NoError(t, plain.Read(context.Background(), bytes.NewReader(log)))
		want := told(r, plain)
		var gz, zs bytes.Buffer
		g := gzip.NewWriter(&gz)
		_, err := g.Write(log)
		require.NoError(t, err)
		require.NoError(t, g.Close())
		z, err := zstd.NewWriter(&zs)
		require.NoError(t, err)
		_, err = z.Write(log)
		require.NoError(t, err)
		require.NoError(t, z.Close())
		for _, packed := range []*bytes.Buffer{&gz, &zs} {
			whole := slices.Clone(packed.Bytes())
			again := usage.NewTally(r, o)
			require.NoError(t, again.Read(context.Background(), packed))
			require.Equal(t, want, told(r, again))
			cut := usage.NewTally(r, o)
			require.ErrorContains(t, cut.Read(context.Background(), bytes.NewReader(whole[:len(whole)-9])), "cannot be unpacked")
		}
		return map[string]string{"want.txt": want}
	})
}

// TestLongLines counts a good line of a megabyte, and tells of one that nobody reads.
func TestLongLines(t *testing.T) {
	t.Parallel()
	r := services(t, []txtar.File{{Name: "berths-1.yaml", Data: []byte("#\nopenapi: 3.1.0\ninfo: {title: B, version: 1.0.0}\npaths: {/berths: {get: {responses: {'200': {description: All}}}}}\n")}})
	line := func(n int) string {
		return `x - - [02/Nov/2026:10:04:11 +0000] "GET /berths?q=` + strings.Repeat("a", n) + ` HTTP/1.1" 200 5 "-" "Planner/1"` + "\n"
	}
	tally := usage.NewTally(r, usage.Options{Now: now})
	require.NoError(t, tally.Read(t.Context(), strings.NewReader(line(10)+line(1<<20)+line(5<<20)+line(3))))
	require.Equal(t, "4 lines\n2026-11-02 berths@1.0.0 GET /berths \"Planner/1\" 2xx: 3\nbad: the line is longer than 4 MB: 1\n  3 \n", told(r, tally))

	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	require.ErrorIs(t, tally.Read(ctx, strings.NewReader(line(10))), context.Canceled)
}

// TestManyCallers tells callers apart as long as they are some, and counts all.
func TestManyCallers(t *testing.T) {
	t.Parallel()
	r := services(t, []txtar.File{{Name: "berths-1.yaml", Data: []byte("#\nopenapi: 3.1.0\ninfo: {title: B, version: 1.0.0}\npaths: {/berths: {get: {responses: {'200': {description: All}}}}}\n")}})
	var b strings.Builder
	for i := range 12_000 {
		fmt.Fprintf(&b, "x - caller-%d [02/Nov/2026:10:04:11 +0000] \"GET /berths HTTP/1.1\" 200 5\nx - - [02/Nov/2026:10:04:11 +0000] \"GET /b/%d HTTP/1.1\" 200 5\n", i, i)
	}
	tally := usage.NewTally(r, usage.Options{Now: now})
	require.NoError(t, tally.Read(t.Context(), strings.NewReader(b.String())))
	total, others := int64(0), int64(0)
	for _, c := range tally.Counts() {
		total += c.Calls
		if c.Caller == usage.Others {
			others = c.Calls
		}
	}
	require.EqualValues(t, 12_000, total)
	require.EqualValues(t, 2_001, others)
	unmatched := int64(0)
	for _, u := range tally.Unmatched() {
		unmatched += u.Calls
	}
	require.EqualValues(t, 12_000, unmatched)
	require.LessOrEqual(t, len(tally.Unmatched()), 1_001)
}

// TestArchives counts an archive that is cut off as far as it goes, and the whole of it later only for what is new.
func TestArchives(t *testing.T) {
	t.Parallel()
	r := services(t, []txtar.File{{Name: "berths-1.yaml", Data: []byte("#\nopenapi: 3.1.0\ninfo: {title: B, version: 1.0.0}\npaths: {/berths: {get: {responses: {'200': {description: All}}}}}\n")}})
	entry := func(at string) string {
		return `{"startedDateTime": "2026-11-02T10:04:` + at + `Z", "request": {"method": "GET", "url": "https://x.example/berths"}, "response": {"status": 200}}`
	}
	archive := func(entries ...string) string {
		return `{"log": {"version": "1.2", "entries": [` + strings.Join(entries, ",\n") + `]}}`
	}
	read := func(text string, known ...usage.Known) *usage.Tally {
		tally := usage.NewTally(r, usage.Options{Now: now, Known: append([]usage.Known{}, known...)})
		require.NoError(t, tally.Read(context.Background(), strings.NewReader(text)))
		return tally
	}
	two := archive(entry("11"), entry("12"))
	cut := read(two[:len(two)-40])
	assert.Equal(t, int64(1), cut.Counts()[0].Calls)
	require.Len(t, cut.Bad(), 1)
	assert.Equal(t, "the last line is cut off", cut.Bad()[0].Why)
	first := cut.Identity
	first.APIs = []string{"berths"}
	whole := read(two, first)
	assert.Equal(t, int64(1), whole.Repeated)
	assert.Equal(t, int64(1), whole.Counts()[0].Calls)
	again := whole.Identity
	again.APIs = []string{"berths"}
	longer := read(archive(entry("11"), entry("12"), entry("13"), entry("14")), first, again)
	assert.Equal(t, int64(2), longer.Repeated)
	assert.Equal(t, int64(2), longer.Counts()[0].Calls)
	other := read(archive(entry("10"), entry("12")), first, again)
	assert.Equal(t, int64(0), other.Repeated)
}

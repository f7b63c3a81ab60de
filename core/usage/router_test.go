package usage_test

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"pgregory.net/rapid"

	"oldledger/core/contract"
	"oldledger/core/usage"
	"oldledger/core/versioning"
)

var stepForms = []string{"a", "b", "ab", "a.json", "{x}", "{x}.json", "a{x}", "{x}b", "{x}-{y}"}

// drawn is an API as it is drawn: some versions, each with some operations.
type drawn struct {
	api      string
	versions []version
}

type version struct {
	number string
	from   int64
	host   string
	ops    [][2]string // method and path
}

func draw(t *rapid.T, api string) drawn {
	d := drawn{api: api}
	for i := range rapid.IntRange(1, 3).Draw(t, "versions") {
		v := version{number: fmt.Sprintf("1.%d.0", i), from: int64(i * 100), host: rapid.SampledFrom([]string{"", "x", "y"}).Draw(t, "host")}
		for range rapid.IntRange(1, 5).Draw(t, "operations") {
			path := "/" + strings.Join(rapid.SliceOfN(rapid.SampledFrom(stepForms), 1, 3).Draw(t, "path"), "/")
			v.ops = append(v.ops, [2]string{rapid.SampledFrom([]string{"GET", "PUT"}).Draw(t, "method"), path})
		}
		d.versions = append(d.versions, v)
	}
	return d
}

func (d drawn) service(t *rapid.T) usage.Service {
	scheme, err := versioning.Parse("query v {version} else 1.0.0")
	if err != nil {
		t.Fatal(err)
	}
	s := usage.Service{API: d.api, Scheme: scheme}
	for _, v := range d.versions {
		number, err := contract.ParseVersion(v.number)
		if err != nil {
			t.Fatal(err)
		}
		c := &contract.Contract{}
		for _, op := range v.ops {
			o := &contract.Operation{Method: op[0], Path: op[1]}
			if v.host != "" {
				o.Servers = []*contract.Server{{URL: "https://" + v.host}}
			}
			c.Operations = append(c.Operations, o)
		}
		of := versioning.Version{Number: number, Text: v.number}
		s.Versions = append(s.Versions, usage.Version{Version: of, Operations: usage.OperationsOf(c), From: v.from})
	}
	return s
}

// around are the texts before and behind the variable of a step.
func around(form string) (before, after string, variable bool) {
	first, last := strings.IndexByte(form, '{'), strings.LastIndexByte(form, '}')
	if first < 0 {
		return form, "", false
	}
	return form[:first], form[last+1:], true
}

// like reports whether a step has a form.
func like(form, step string) bool {
	before, after, variable := around(form)
	if !variable {
		return form == step
	}
	return len(step) > len(before)+len(after) && strings.HasPrefix(step, before) && strings.HasSuffix(step, after)
}

// narrower orders paths that are like one call: at the first step that differs, a text comes before a variable, and more text around one
// before less.
func narrower(a, b string) int {
	x, y := strings.Split(a, "/"), strings.Split(b, "/")
	for i := range x {
		xb, xa, xv := around(x[i])
		yb, ya, yv := around(y[i])
		switch {
		case xv != yv && !xv:
			return -1
		case xv != yv:
			return 1
		}
		if c := cmp.Compare(len(yb)+len(ya), len(xb)+len(xa)); xv && c != 0 {
			return c
		}
	}
	return 0
}

// TestFind holds the router against a search through everything.
func TestFind(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		all := []drawn{draw(t, "a"), draw(t, "b")}
		r := usage.NewRouter()
		for _, d := range all {
			r.Add(d.service(t))
		}
		steps := rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "ab", "a.json", "b.json", "aab", "a-b", "", "-"}), 1, 3).Draw(t, "steps")
		call := usage.Call{
			Method: rapid.SampledFrom([]string{"GET", "PUT", "HEAD"}).Draw(t, "asks"), Path: "/" + strings.Join(steps, "/"),
			Host: rapid.SampledFrom([]string{"", "x", "y", "z"}).Draw(t, "at"), Time: rapid.Int64Range(0, 300).Draw(t, "time"),
			Query: rapid.SampledFrom([]string{"", "v=1.0.0", "v=1.1.0", "v=1.2.0", "v=9"}).Draw(t, "query"),
		}
		_, want, _ := strings.Cut(call.Query, "v=")
		if want == "" {
			want = "1.0.0"
		}
		type candidate struct{ api, number, path, method string }
		var candidates []candidate
		paths, versions := false, false
		for _, d := range all {
			for _, v := range d.versions {
				for _, op := range v.ops {
					form := strings.Split(op[1][1:], "/")
					fits := len(form) == len(steps)
					for i := range form {
						fits = fits && like(form[i], steps[i])
					}
					if !fits || v.host != "" && call.Host != "" && v.host != call.Host {
						continue
					}
					paths = true
					if v.number == want {
						versions = true
						candidates = append(candidates, candidate{d.api, v.number, op[1], op[0]})
					}
				}
			}
		}
		route, why := r.Find(&call)
		switch {
		case !paths:
			if why != usage.NoPath {
				t.Fatalf("%+v: %d %q, and no path is like it", call, route, why)
			}
			return
		case !versions:
			if why != usage.NoVersion {
				t.Fatalf("%+v: %d %q, and no version is meant", call, route, why)
			}
			return
		}
		slices.SortStableFunc(candidates, func(a, b candidate) int { return narrower(a.path, b.path) })
		var best []candidate
		has := map[string]bool{} // of the paths of which none is narrower: one of them counts
		for _, c := range candidates {
			if narrower(candidates[0].path, c.path) != 0 {
				continue
			}
			has[c.path] = has[c.path] || c.method == call.Method
			if c.method == call.Method {
				best = append(best, c)
			}
		}
		if why != "" {
			if why != usage.NoMethod || !slices.Contains(slices.Collect(maps.Values(has)), false) {
				t.Fatalf("%+v: %q, and it is one of %+v", call, why, best)
			}
			return
		}
		found := r.Routes()[route]
		if !slices.ContainsFunc(best, func(c candidate) bool {
			return c.api == found.API && c.number == found.Number && c.method+" "+c.path == found.Operation
		}) {
			t.Fatalf("%+v: %+v, and it is one of %+v", call, found, best)
		}
	})
}

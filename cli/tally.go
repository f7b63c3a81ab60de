package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"oldledger/client"
	"oldledger/core/contract"
	"oldledger/core/source"
	"oldledger/core/usage"
	"oldledger/core/versioning"
	"oldledger/wire"
)

// used is what a tally found, as JSON.
type used struct {
	Format    string      `json:"format"`
	Lines     int64       `json:"lines"`
	Calls     int64       `json:"calls"`
	Counts    []usedCount `json:"counts"`
	Unmatched []usedOdd   `json:"unmatched"`
	Bad       []usedBad   `json:"bad"`
	Alike     []usedPair  `json:"alike"` // paths that a call may both be like, of which neither is narrower
}

// usedPair is two of them; a call of both counts for one.
type usedPair struct {
	API     string `json:"api"`
	Version string `json:"version"`
	One     string `json:"one"`
	Other   string `json:"other"`
}

type usedCount struct {
	Day       string `json:"day"` // in UTC
	API       string `json:"api"`
	Version   string `json:"version"`
	Operation string `json:"operation"`
	Caller    string `json:"caller"`
	Class     string `json:"class,omitempty"` // 2xx
	Calls     int64  `json:"calls"`
}

type usedOdd struct {
	Why    string `json:"why"`           // path, method, version, untold
	API    string `json:"api,omitempty"` // whose path it is
	Method string `json:"method,omitempty"`
	Path   string `json:"path,omitempty"`
	Calls  int64  `json:"calls"`
}

type usedBad struct {
	Why   string  `json:"why"`
	Lines int64   `json:"lines"`
	Such  []int64 `json:"such"` // the numbers of some of them
}

func (a *app) tallyCommand() *cobra.Command {
	var of []string
	var chosenBy, mapping string
	cmd := &cobra.Command{
		Use: "tally LOG ...", GroupID: "use", Short: "Count the calls of logs by operation, version and caller", Args: cobra.MinimumNArgs(1),
		Long: `Reads logs of requests in the Common and the Combined Log Format, lines of JSON, and HTTP archives (HAR 1.2), also packed with gzip or
zstd; - is standard input. Each call is matched to an operation of a version: by its path, then its method, and by how callers choose the
version. Without --of the published versions of all APIs of the ledger that you read are taken, and what settle --chosen-by says of each;
with it only those of an API of the ledger, or descriptions in files, of which --chosen-by says how their versions are chosen.

A caller is known by the user of the log, or else by what it calls itself. Days are those of UTC. Calls that match nothing are told with
the reason: no such path, no such method, no such version, or untold, where the version stands in what the log does not hold. Nothing is
kept anywhere; oldledger tally add has the ledger count, and keep the counts.`,
		Example: `  oldledger tally access.log --of berths
  oldledger tally access.log.1.gz access.log --of berths-1.2.0.yaml --of berths-2.0.0.yaml --chosen-by 'path /v{line}'
  oldledger tally calls.jsonl --mapping names.yaml --format json`,
	}
	format := formatFlag(cmd)
	cmd.Flags().StringArrayVar(&of, "of", nil, "an API of the ledger, or a description (may be repeated; default: all APIs of the ledger)")
	cmd.Flags().StringVar(&chosenBy, "chosen-by", "", "how callers choose the version of descriptions in files")
	cmd.Flags().StringVar(&mapping, "mapping", "", "a file that says which names of lines of JSON hold what: {time: ts, target: request.path}")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if err := checkFormat(*format, "text", "json"); err != nil {
			return err
		}
		scheme, err := versioning.Parse(chosenBy)
		if err != nil {
			return usageError{err}
		}
		o := usage.Options{Now: a.Now().Unix()}
		if mapping != "" {
			if o.Mapping, err = a.readMapping(mapping); err != nil {
				return err
			}
		}
		r := usage.NewRouter()
		services, err := a.services(cmd.Context(), of, scheme)
		if err != nil {
			return err
		}
		for _, s := range services {
			r.Add(s)
		}
		t := usage.NewTally(r, o)
		for _, arg := range args {
			if err := a.readLog(cmd.Context(), t, arg); err != nil {
				return err
			}
		}
		found := toUsed(r, t)
		if *format == "json" {
			return a.json(found)
		}
		return a.showTally(found)
	}
	cmd.AddCommand(a.tallyAddCommand())
	return cmd
}

func (a *app) readMapping(name string) (usage.Mapping, error) {
	text, err := os.ReadFile(a.path(name))
	if err != nil {
		return usage.Mapping{}, err
	}
	f, err := source.Parse(name, text)
	if err != nil {
		return usage.Mapping{}, err
	}
	return usage.ReadMapping(f)
}

// readLog counts the calls of a log.
func (a *app) readLog(ctx context.Context, t *usage.Tally, name string) error {
	defer a.at("reading %s", name)()
	log := a.In
	if name != "-" {
		f, err := os.Open(a.path(name))
		if err != nil {
			return err
		}
		defer f.Close()
		log = f
	}
	if err := t.Read(ctx, log); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}

// services are the APIs whose calls are counted.
func (a *app) services(ctx context.Context, of []string, scheme versioning.Scheme) ([]usage.Service, error) {
	var services []usage.Service
	files := map[string]int{} // the services of descriptions, by their APIs' titles
	if len(of) == 0 {
		return a.servicesOf(ctx, "")
	}
	for _, arg := range of {
		if _, err := os.Stat(a.path(arg)); err != nil && !strings.ContainsAny(arg, "@./") {
			more, err := a.servicesOf(ctx, arg)
			if err != nil {
				return nil, err
			}
			services = append(services, more...)
			continue
		}
		d, err := a.describe(ctx, arg)
		if err != nil {
			return nil, err
		}
		v, err := versionOf(d.contract, 0)
		if err != nil {
			return nil, err
		}
		i, known := files[d.contract.Title]
		if !known {
			i = len(services)
			files[d.contract.Title] = i
			services = append(services, usage.Service{API: cmp.Or(d.contract.Name, d.contract.Title), Scheme: scheme})
		}
		services[i].Versions = append(services[i].Versions, v)
	}
	return services, nil
}

func versionOf(c *contract.Contract, from int64) (usage.Version, error) {
	number, err := contract.ParseVersion(c.Version)
	return usage.Version{Version: versioning.Version{Number: number, Text: c.Version}, Operations: usage.OperationsOf(c), From: from}, err
}

// servicesOf are the published versions of an API of the ledger, or, without a name, of all that the actor reads.
func (a *app) servicesOf(ctx context.Context, name string) ([]usage.Service, error) {
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	var apis []wire.API
	if name == "" {
		apis, err = c.APIs(ctx)
	} else {
		var one wire.API
		one, err = c.API(ctx, name)
		apis = []wire.API{one}
	}
	if err != nil {
		return nil, refused(err)
	}
	var services []usage.Service
	for _, api := range apis {
		s, err := a.serviceOf(ctx, c, api)
		if err != nil {
			return nil, err
		}
		if len(s.Versions) > 0 {
			services = append(services, s)
		}
	}
	if len(services) == 0 {
		return nil, errors.New("nothing is published whose calls could be counted; name descriptions with --of")
	}
	return services, nil
}

func (a *app) serviceOf(ctx context.Context, c *client.Client, api wire.API) (usage.Service, error) {
	scheme, err := versioning.Parse(api.Versioning)
	if err != nil {
		return usage.Service{}, err
	}
	s := usage.Service{API: api.Name, Scheme: scheme}
	for _, v := range api.Versions {
		if v.State != wire.Published && v.State != wire.Deprecated {
			continue
		}
		d, err := a.describe(ctx, v.Ref())
		if err != nil {
			return s, err
		}
		number, err := contract.ParseVersion(v.Number)
		if err != nil {
			return s, err
		}
		published, err := time.Parse(time.RFC3339, v.PublishedAt)
		if err != nil {
			return s, err
		}
		s.Versions = append(s.Versions, usage.Version{
			Version: versioning.Version{Number: number, Text: v.Text}, Operations: usage.OperationsOf(d.contract), From: published.Unix(),
		})
	}
	return s, nil
}

// tallyFormat names the form of the JSON.
const tallyFormat = "old-ledger-tally/1"

func toUsed(r *usage.Router, t *usage.Tally) used {
	found := used{Format: tallyFormat, Lines: t.Lines, Counts: []usedCount{}, Unmatched: []usedOdd{}, Bad: []usedBad{}, Alike: []usedPair{}}
	for _, p := range r.Ambiguous() {
		found.Alike = append(found.Alike, usedPair{p.API, p.Number, p.One, p.Other})
	}
	for _, c := range t.Counts() {
		route := r.Routes()[c.Route]
		one := usedCount{
			Day: time.Unix(c.Day*24*60*60, 0).UTC().Format(time.DateOnly), API: route.API, Version: route.Number, Operation: route.Operation,
			Caller: c.Caller.Name(), Calls: c.Calls,
		}
		if c.Class > 0 {
			one.Class = fmt.Sprintf("%dxx", c.Class)
		}
		found.Calls += c.Calls
		found.Counts = append(found.Counts, one)
	}
	for _, u := range t.Unmatched() {
		found.Unmatched = append(found.Unmatched, usedOdd{string(u.Why), u.API, u.Method, u.Path, u.Calls})
	}
	for _, b := range t.Bad() {
		broken := usedBad{Why: b.Why, Lines: b.Lines}
		for _, e := range b.Examples {
			broken.Such = append(broken.Such, e.Line)
		}
		found.Bad = append(found.Bad, broken)
	}
	return found
}

// sum is what is told of an operation.
type sum struct {
	api, version, operation string
	calls                   int64
	callers                 map[string]int64
	last                    string
}

// mostShown is how many callers and unmatched paths are shown.
const mostShown = 12

func (a *app) showTally(t used) error {
	s := a.style()
	var b strings.Builder
	unmatched, bad := int64(0), int64(0)
	for _, u := range t.Unmatched {
		unmatched += u.Calls
	}
	for _, x := range t.Bad {
		bad += x.Lines
	}
	fmt.Fprintf(&b, "%s: %d calls of operations that are described, %d of none, %d that cannot be read\n", lineCount(t.Lines), t.Calls, unmatched, bad)
	head := ""
	for _, one := range sums(t.Counts) {
		if of := one.api + " " + one.version; of != head {
			head = of
			fmt.Fprintf(&b, "\n%s\n", s.bold(one.api+"@"+one.version))
		}
		fmt.Fprintf(&b, "  %9d  %-44s %s\n", one.calls, one.operation, s.soft("last "+one.last+"  "+callersOf(one.callers)))
	}
	if len(t.Unmatched) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Of no operation"))
		for _, u := range t.Unmatched[:min(len(t.Unmatched), mostShown)] {
			what := u.Method + " " + u.Path
			if u.Path == "" {
				what = "other paths"
			}
			fmt.Fprintf(&b, "  %9d  %-44s %s\n", u.Calls, what, s.soft(whyNot[u.Why]))
		}
		if left := len(t.Unmatched) - mostShown; left > 0 {
			fmt.Fprintf(&b, "             %s\n", s.soft(fmt.Sprintf("and %d paths more; --format json has them", left)))
		}
	}
	if len(t.Bad) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Lines that cannot be read"))
		for _, x := range t.Bad {
			fmt.Fprintf(&b, "  %9d  %-44s %s\n", x.Lines, x.Why, s.soft("such as line "+strings.Trim(fmt.Sprint(x.Such), "[]")))
		}
	}
	if len(t.Alike) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("Paths of which neither is narrower: a call of both counts for one"))
		for _, p := range t.Alike[:min(len(t.Alike), mostShown)] {
			fmt.Fprintf(&b, "             %s and %s %s\n", p.One, p.Other, s.soft(p.API+"@"+p.Version))
		}
	}
	return printf(a, "%s", b.String())
}

// whyNot says the reasons in words.
var whyNot = map[string]string{
	string(usage.NoPath): "no such path", string(usage.NoMethod): "no such method there", string(usage.NoVersion): "no such version",
	string(usage.Untold): "the log does not hold what chooses the version",
}

func lineCount(n int64) string {
	if n == 1 {
		return "1 line"
	}
	return fmt.Sprintf("%d lines", n)
}

// sums adds up counts by operation: by API and version, the most called first.
func sums(counts []usedCount) []*sum {
	by := map[string]*sum{}
	var all []*sum
	for _, c := range counts {
		k := c.API + " " + c.Version + " " + c.Operation
		one := by[k]
		if one == nil {
			one = &sum{api: c.API, version: c.Version, operation: c.Operation, callers: map[string]int64{}}
			by[k] = one
			all = append(all, one)
		}
		one.calls += c.Calls
		one.callers[c.Caller] += c.Calls
		one.last = max(one.last, c.Day)
	}
	slices.SortFunc(all, func(x, y *sum) int {
		return cmp.Or(strings.Compare(x.api, y.api), compareNumbers(x.version, y.version), cmp.Compare(y.calls, x.calls),
			strings.Compare(x.operation, y.operation))
	})
	return all
}

func compareNumbers(x, y string) int {
	a, err := contract.ParseVersion(x)
	b, wrong := contract.ParseVersion(y)
	if err != nil || wrong != nil {
		return strings.Compare(x, y)
	}
	return a.Compare(b)
}

// callersOf names those who call most.
func callersOf(callers map[string]int64) string {
	names := make([]string, 0, len(callers))
	for name := range callers {
		names = append(names, name)
	}
	slices.SortFunc(names, func(x, y string) int { return cmp.Or(cmp.Compare(callers[y], callers[x]), strings.Compare(x, y)) })
	shown := make([]string, 0, 3)
	for _, name := range names[:min(len(names), 3)] {
		shown = append(shown, cmp.Or(name, "nobody known"))
	}
	text := "by " + strings.Join(shown, ", ")
	if left := len(names) - len(shown); left > 0 {
		text += fmt.Sprintf(" and %d more", left)
	}
	return text
}

package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"sync/atomic"

	"github.com/Masterminds/semver/v3"
	"github.com/schollz/progressbar/v3"

	"oldledger/client"
	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/format"
	"oldledger/core/promise"
	"oldledger/core/report"
	"oldledger/wire"
)

// handed is a description that is handed in.
type handed struct {
	file      string // as it was named
	root      string // the folder in which all of its files stand; "" for its own
	api, team string // as the project file says

	// Known when it has been read.
	of         string // what tells its API from the others before the ledger names it
	number     *semver.Version
	before     string             // what stands in the repository before the names of the files that are handed in
	others     []string           // the other files, by their paths from the root
	read       *client.Submission // nil where there is no room to keep it
	unreadable error
}

// named is the description that a file is named for, with what the project file says of it.
func (a *app) named(file string) (handed, error) {
	api, err := a.inProject(file)
	return handed{file: file, root: cmp.Or(a.below, api.Root), api: api.Name, team: api.Team}, err
}

// maxHanded bounds the descriptions of one run.
const maxHanded = 20_000

// handedIn are the descriptions that are recorded: those that are named, every one in the folders, or those of the project file.
func (a *app) handedIn(args []string, w recordWish) (all []handed, err error) {
	if len(args) == 0 && !w.all {
		return a.inRepository("record takes a description, or several")
	}
	if w.all && len(args) == 0 {
		args = []string{"."}
	}
	for _, arg := range args {
		if info, err := os.Stat(a.path(arg)); !w.all || err == nil && !info.IsDir() {
			h, err := a.named(arg)
			if err != nil {
				return nil, err
			}
			all = append(all, h)
			continue
		}
		found, err := a.descriptionsIn(arg)
		if err != nil {
			return nil, err
		}
		for _, file := range found {
			all = append(all, handed{file: path.Join(filepath.ToSlash(arg), file), root: cmp.Or(a.below, arg)})
		}
	}
	if len(all) > maxHanded {
		return nil, usageError{fmt.Errorf("these are %d descriptions; at most %d are recorded at a time", len(all), maxHanded)}
	}
	return all, nil
}

// inRepository are the descriptions of the APIs of the project file; where it names none, it is said what the command takes.
func (a *app) inRepository(takes string) (all []handed, err error) {
	p, err := a.project()
	if err != nil {
		return nil, err
	}
	if len(p.APIs) == 0 {
		return nil, usageError{fmt.Errorf("%s; or write them under apis: in %s (oldledger init does)", takes, projectFile)}
	}
	for _, api := range p.APIs {
		all = append(all, handed{file: api.File, root: api.Root, api: api.Name, team: api.Team})
	}
	return all, nil
}

// descriptionsIn finds the descriptions that stand in a folder and below, by their paths from it. What begins with a dot is left out.
func (a *app) descriptionsIn(folder string) ([]string, error) {
	dir := a.path(folder)
	var found []string
	err := fs.WalkDir(os.DirFS(dir), ".", func(p string, entry fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case entry.IsDir() && p != "." && (strings.HasPrefix(entry.Name(), ".") || entry.Name() == "node_modules"):
			return fs.SkipDir
		case !entry.Type().IsRegular() || !format.MayBegin(p):
			return nil
		}
		head, err := readHead(filepath.Join(dir, filepath.FromSlash(p)))
		if err == nil && format.Begins(p, head) {
			found = append(found, p)
		}
		return err
	})
	if err != nil {
		return nil, notRead(folder, err)
	}
	if len(found) == 0 {
		return nil, &inputError{fmt.Errorf("%s: no description stands in it: one begins with #%%RAML 1.0, or with the key openapi or swagger", folder)}
	}
	return found, nil
}

// recordMany records descriptions, several APIs at a time and the versions of one in their order, and says what became of each.
func (a *app) recordMany(ctx context.Context, args []string, w recordWish) error {
	all, err := a.handedIn(args, w)
	if err != nil {
		return err
	}
	if len(all) > 1 && (w.api != "" || w.version != "") {
		return usageError{errors.New("--api and --version say what one description is; here are several")}
	}
	c, err := a.client()
	if err != nil {
		return err
	}
	a.asked = true
	a.identify(ctx, all, w)
	became, faults := make([]report.Recorded, len(all)), make([]error, len(all))
	bar := a.progressOf(len(all), "recording")
	var done sync.WaitGroup
	room := make(chan struct{}, 2*runtime.GOMAXPROCS(0))
	groups := byAPI(all)
	for _, group := range groups {
		done.Go(func() {
			before := "" // of its history, what is not published
			for _, i := range group {
				room <- struct{}{}
				became[i], faults[i] = a.handIn(ctx, c, all[i], before, w)
				<-room
				if bar.passed(); faults[i] != nil && w.history != "" {
					before = cmp.Or(before, all[i].file)
				}
			}
		})
	}
	done.Wait()
	bar.end()
	order := slices.DeleteFunc(slices.Concat(groups...), func(i int) bool { return errors.Is(faults[i], context.Canceled) })
	err = a.tellRecorded(ordered(became, order), ordered(faults, order), w)
	if ctx.Err() != nil {
		fmt.Fprintf(a.Err, "%d of %d descriptions were not reached; the same command goes on\n", len(all)-len(order), len(all))
		return ctx.Err()
	}
	return err
}

// maxKept bounds the texts that are kept between reading and recording, in bytes; others are read twice.
const maxKept = 256 << 20

// readToRecord reads a description as it is handed in. All of it is read: what it includes belongs to it.
func (a *app) readToRecord(ctx context.Context, h *handed, w recordWish) (*contract.Contract, error) {
	set, err := a.filesBelow(ctx, h.file, h.root)
	if err != nil {
		return nil, err
	}
	c, err := format.Read(set)
	if err != nil {
		return nil, err
	}
	s := submissionOf(set, w)
	s.API, s.Team = cmp.Or(w.api, h.api), cmp.Or(w.team, h.team)
	h.read, h.before, h.others = &s, strings.TrimSuffix(set.Entry.Name, s.File), slices.Sorted(maps.Keys(s.Others))
	return c, nil
}

// identify finds out which API and version each description is of, where that says in which order they are recorded.
func (a *app) identify(ctx context.Context, all []handed, w recordWish) {
	bar := a.progressOf(len(all), "reading")
	defer bar.end()
	var next, room atomic.Int64
	room.Store(maxKept)
	var done sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		done.Go(func() {
			for i := int(next.Add(1)) - 1; i < len(all); i = int(next.Add(1)) - 1 {
				h := &all[i]
				if ctx.Err() != nil {
					return
				}
				c, err := a.readToRecord(ctx, h, w)
				if h.unreadable = err; err == nil {
					h.of = cmp.Or(w.api, h.api, c.ShortName())
					h.number, _ = contract.ParseVersion(cmp.Or(w.version, c.Version)) // the ledger says what is wrong with it
					if room.Add(-int64(h.read.Size())) < 0 {
						h.read = nil
					}
				}
				bar.passed()
			}
		})
	}
	done.Wait()
}

// byAPI are the places of descriptions, API by API, with the versions of each in their order.
func byAPI(all []handed) [][]int {
	of := map[string][]int{}
	var names []string
	for i, h := range all {
		if of[h.of] == nil {
			names = append(names, h.of)
		}
		of[h.of] = append(of[h.of], i)
	}
	groups := make([][]int, len(names))
	for i, name := range names {
		slices.SortStableFunc(of[name], func(x, y int) int {
			switch a, b := all[x].number, all[y].number; {
			case a == nil || b == nil:
				return cmp.Compare(btoi(a != nil), btoi(b != nil))
			default:
				return a.Compare(b)
			}
		})
		groups[i] = of[name]
	}
	return groups
}

// ordered are those of all that have a place in an order, in it.
func ordered[T any](all []T, order []int) []T {
	to := make([]T, len(order))
	for i, at := range order {
		to[i] = all[at]
	}
	return to
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

// handIn hands a description in; not where one before it in its history could not be.
func (a *app) handIn(ctx context.Context, c *client.Client, h handed, before string, w recordWish) (report.Recorded, error) {
	fail := func(err error) (report.Recorded, error) {
		return report.Recorded{Description: h.file, Fault: err.Error()}, err
	}
	if err := cmp.Or(ctx.Err(), h.unreadable); err != nil {
		return fail(err)
	}
	if before != "" {
		return fail(&inputError{fmt.Errorf("%s comes before it, and is not published", before)})
	}
	if h.read == nil {
		if _, err := a.readToRecord(ctx, &h, w); err != nil {
			return fail(err)
		}
	}
	rec, err := sendSubmission(ctx, c, *h.read, w.dry)
	if err != nil {
		return fail(refused(err))
	}
	published := false
	if w.history != "" && rec.Version.State == wire.Draft {
		if err := publishHistory(ctx, c, rec, w.history); err != nil {
			return fail(fmt.Errorf("%s is recorded, and not published: %w", rec.Version.Ref(), refused(err)))
		}
		published = true
	}
	became := recordedOf(h, rec, w.dry)
	if published {
		became.Outcome, became.Gate = "recorded and published", nil
	}
	return became, nil
}

// publishHistory publishes a version of before.
func publishHistory(ctx context.Context, c *client.Client, rec wire.Recorded, reason string) error {
	var waivers []wire.Waive
	if rec.Gate != nil {
		for _, o := range rec.Gate.Obstacles {
			if !o.Waived {
				waivers = append(waivers, wire.Waive{Change: o.Change.ID, Reason: reason})
			}
		}
	}
	_, err := c.Publish(ctx, rec.Version.Ref(), waivers)
	return err
}

// recordedOf is what became of a description, with places as the repository has them.
func recordedOf(h handed, rec wire.Recorded, dry bool) report.Recorded {
	r := report.Recorded{
		Description: h.file, Version: rec.Version.Ref(), Outcome: outcomes[dry][rec.Outcome], Changes: rec.Changes, Gate: rec.Gate,
	}
	if rec.Base != nil {
		r.Base = rec.Base.Number
	}
	var changes []*compare.Change
	if rec.Changes != nil {
		changes = append(changes, rec.Changes.Changes...)
	}
	if rec.Gate != nil {
		for _, o := range rec.Gate.Obstacles {
			changes = append(changes, o.Change)
		}
	}
	for _, ch := range changes {
		if ch.New != nil {
			ch.New.File = path.Clean(h.before + ch.New.File)
		}
	}
	return r
}

// maxObstacles bounds what is told in a terminal of what keeps the gate of one version shut.
const maxObstacles = 5

// obstacles are lines for what keeps a gate shut.
func (a *app) obstacles(r report.Recorded) string {
	s := a.style()
	var b strings.Builder
	all := r.Obstacles()
	for _, o := range all[:min(len(all), maxObstacles)] {
		grade := o.Change.Backward
		if o.Rollback {
			grade = o.Change.Forward
		}
		fmt.Fprintf(&b, "  %s %s %s\n", s.grade(grade, grade.Mark()), o.Change.Title, s.soft("("+placeOf(o)+")"))
	}
	if more := len(all) - maxObstacles; more > 0 {
		fmt.Fprintf(&b, "  %s\n", s.soft(fmt.Sprintf("and %d more: oldledger compare tells all", more)))
	}
	return b.String()
}

func placeOf(o promise.Obstacle) string {
	where := report.Where(o.Change)
	if o.Rollback {
		where = "on the way back, " + where
	}
	if o.Change.New != nil {
		where += fmt.Sprintf(", %s:%d", o.Change.New.File, o.Change.New.Line)
	}
	return where
}

func isRefused(err error) bool {
	var refused *refusedError
	return errors.As(err, &refused)
}

// fewRecorded are so many that each is told of; of more, those of which something is to be said.
const fewRecorded = 20

// tellRecorded says what became of descriptions, and fails where one was not recorded, or, where that was asked, a gate is shut.
func (a *app) tellRecorded(became []report.Recorded, faults []error, w recordWish) error {
	if err := a.writeRecorded(became, w.format); err != nil {
		return err
	}
	failed, shut := 0, 0
	var first error
	for i := range became {
		if faults[i] != nil {
			failed++
			first = cmp.Or(first, faults[i])
		}
		shut += btoi(became[i].Shut())
	}
	switch {
	case failed == 1 && len(became) == 1:
		return first
	case failed > 0:
		err := fmt.Errorf("%d of %d descriptions could not be recorded", failed, len(became))
		if isRefused(first) {
			return &refusedError{err}
		}
		return &inputError{err}
	case shut > 0 && (w.wait || w.dry):
		return errNo
	}
	return nil
}

func (a *app) writeRecorded(became []report.Recorded, kind string) error {
	switch kind {
	case "json":
		return a.json(wire.Items[report.Recorded]{Items: became})
	case "markdown":
		return printf(a, "%s", report.RecordedMarkdown(became))
	case "junit":
		text, err := report.RecordedJUnit(became)
		return cmp.Or(err, printf(a, "%s", text))
	case "sarif":
		text, err := report.RecordedSARIF(became, Version)
		return cmp.Or(err, printf(a, "%s\n", text))
	}
	s := a.style()
	var b strings.Builder
	counts := map[string]int{}
	var kinds []string
	for i := range became {
		r := &became[i]
		what := cmp.Or(r.Outcome, "not recorded")
		if counts[what]++; counts[what] == 1 {
			kinds = append(kinds, what)
		}
		switch {
		case r.Fault != "" && len(became) > 1:
			fmt.Fprintf(&b, "%s  not recorded\n  %s\n", s.bold(r.Description), strings.ReplaceAll(r.Fault, "\n", "\n  "))
		case r.Fault != "": // it is said at the end
		case len(became) <= fewRecorded || r.Shut():
			fmt.Fprintf(&b, "%s  %s\n%s", s.bold(r.Version), r.Says(), a.obstacles(*r))
		}
	}
	if len(became) > 1 {
		slices.Sort(kinds)
		for i, kind := range kinds {
			kinds[i] = fmt.Sprintf("%d %s", counts[kind], strings.TrimPrefix(kind, "is "))
		}
		fmt.Fprintf(&b, "%s: %s\n", report.Count(len(became), "description"), strings.Join(kinds, " · "))
	}
	return printf(a, "%s", b.String())
}

// amount shows on a terminal how many of many are done.
type amount struct{ bar *progressbar.ProgressBar }

func (a *app) progressOf(n int, what string) amount {
	if a.Progress == nil || n < fewRecorded {
		return amount{}
	}
	return amount{progressbar.NewOptions(n, progressbar.OptionSetWriter(a.Progress), progressbar.OptionSetDescription(what),
		progressbar.OptionShowCount(), progressbar.OptionClearOnFinish(), progressbar.OptionSetWidth(20), progressbar.OptionThrottle(tick))}
}

func (c amount) passed() {
	if c.bar != nil {
		_ = c.bar.Add(1) // an ornament
	}
}

func (c amount) end() {
	if c.bar != nil {
		_ = c.bar.Finish()
	}
}

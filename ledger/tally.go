package ledger

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"oldledger/core/usage"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// LogWish is a log whose calls somebody adds.
type LogWish struct {
	Name    string    // by which people know it
	APIs    []string  // whose calls are counted; none for all of which the actor may add calls
	Mapping string    // of the names in lines of JSON, as YAML or JSON; "" for the usual ones
	Text    io.Reader // may be packed
	// Progress is called now and then with how many bytes of its text were read, and lines; nil where nobody asks.
	Progress func(bytes, lines int64)
}

// AddedLog is what came of a log.
type AddedLog struct {
	ID        int64 // 0 where nothing in it is new
	Name      string
	AddedAt   string
	AddedBy   string
	APIs      []string // for which it was counted
	Bytes     int64
	Lines     int64
	Repeated  int64 // lines that had been counted before
	Calls     int64 // that were counted
	Elsewhere int64 // calls of other APIs, which were not
	Unmatched int64
	Bad       int64
	FirstDay  string // of the calls; "" for none
	LastDay   string

	Of   []CountedAPI      // by API; told when it is added
	Odd  []usage.Unmatched // the most frequent first; likewise
	Torn []usage.Bad       // likewise
}

// CountedAPI is how many calls of an API a log told.
type CountedAPI struct {
	API   string
	Calls int64
}

// Bounds of what is kept of logs.
const (
	maxKnownCallers   = 50_000
	maxKnownUnmatched = 5_000
	maxOdd            = 50
	keepEvery         = 128 << 20 // bytes of a log
	maxAdding         = 2         // logs at once
)

// AddLog counts the calls of a log: those of the APIs that it names and of which the actor may add calls. What a log has in common with the
// beginning of one that was added before is not counted again. A log that ends before its end stays as far as it came.
func (l *Ledger) AddLog(ctx context.Context, who Actor, wish LogWish) (AddedLog, error) {
	w := l.view(who)
	apis, err := w.counting(ctx, wish.APIs)
	if err != nil {
		return AddedLog{}, err
	}
	mapping, err := readMapping(wish.Mapping)
	if err != nil {
		return AddedLog{}, err
	}
	if wish.Name = strings.TrimSpace(wish.Name); !called(cmp.Or(wish.Name, "x")) {
		return AddedLog{}, refuse(Invalid, "a log's name has at most %d characters, none of them a line break", maxFull)
	}
	select {
	case l.adding <- struct{}{}:
	case <-ctx.Done():
		return AddedLog{}, ctx.Err()
	}
	defer func() { <-l.adding }()
	router, err := w.whole().router(ctx)
	if err != nil {
		return AddedLog{}, err
	}
	a := &adding{
		view: w, router: router, apis: map[string]bool{}, of: map[string]int64{}, odd: map[usage.Unmatched]int64{}, days: map[int]int64{},
		named: len(wish.APIs) > 0,
		row: records.CallLog{
			Name: cmp.Or(wish.Name, "a log"), AddedAt: w.stamp(), AddedBy: who.Name, APIs: listed(apis),
			FirstDay: math.MaxInt64, LastDay: math.MinInt64,
		},
	}
	for _, api := range apis {
		a.apis[api] = true
	}
	known, err := a.known(ctx)
	if err != nil {
		return AddedLog{}, err
	}
	signs, err := w.rows.Signs(ctx)
	if err != nil {
		return AddedLog{}, err
	}
	tally := usage.NewTally(router, usage.Options{
		Now: w.Today().Unix(), Mapping: mapping, CallerHeaders: headersOf(signs), Known: known, Every: keepEvery,
		Keep: func(t *usage.Tally) error { return a.keep(ctx, t) }, Progress: wish.Progress,
	})
	err = tally.Read(ctx, wish.Text)
	if a.failed {
		return AddedLog{}, err
	}
	// Whoever sent it may have gone; what was counted stays.
	if kept := a.keep(context.WithoutCancel(ctx), tally); kept != nil {
		return AddedLog{}, kept
	}
	added, told := a.told(tally)
	if told != nil {
		return added, told
	}
	if err != nil && ctx.Err() == nil {
		err = refuse(Invalid, "%v; its %d lines before that are counted", err, tally.Lines)
	}
	return added, err
}

func readMapping(text string) (usage.Mapping, error) {
	if text == "" {
		return usage.Mapping{}, nil
	}
	m, err := usage.ParseMapping([]byte(text))
	if err != nil {
		return m, refuse(Invalid, "the mapping: %v", err)
	}
	return m, nil
}

// counting are the APIs of which somebody may add calls: those that are named, or all.
func (w view) counting(ctx context.Context, named []string) ([]string, error) {
	if err := mayAnywhere(w.who, AddCalls); err != nil {
		return nil, err
	}
	rows, err := w.rows.APIs(ctx)
	if err != nil {
		return nil, err
	}
	may := []string{}
	for _, row := range rows {
		if mayIn(w.who, AddCalls, row.Team, row.Name) == nil {
			may = append(may, row.Name)
		}
	}
	for _, name := range named {
		if !slices.Contains(may, name) {
			if err := w.sees(ctx, name); err != nil {
				return nil, err
			}
			return nil, mayIn(w.who, AddCalls, w.teamOf(name), name)
		}
	}
	if len(named) > 0 {
		may = slices.Compact(slices.Sorted(slices.Values(named)))
	}
	if len(may) == 0 {
		return nil, refuse(Conflict, "there is no API yet whose calls could be counted")
	}
	return may, nil
}

// headersOf are the headers by which callers are recognised.
func headersOf(signs []records.Sign) []string {
	var names []string
	for _, s := range signs {
		if name, _, ok := strings.Cut(s.Value, ":"); ok && s.Kind == string(usage.ByHeader) && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}

// cachedRouter finds operations, of the APIs as they were in a generation.
type cachedRouter struct {
	generation int64
	router     *usage.Router
}

// routing makes routers, one at a time.
type routing struct {
	mu sync.Mutex
	cachedRouter
}

// router finds operations of all that was ever published, and was not taken back.
func (w view) router(ctx context.Context) (*usage.Router, error) {
	w.routing.mu.Lock()
	defer w.routing.mu.Unlock()
	generation := w.Generation(w.who, "")
	if w.routing.router != nil && w.routing.generation == generation {
		return w.routing.router, nil
	}
	apis, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	r := usage.NewRouter()
	for _, a := range apis {
		s := usage.Service{API: a.Name, Scheme: a.Versioning}
		for _, v := range a.Versions {
			if !v.Shown() && v.State != Retired {
				continue
			}
			operations, err := w.operationsOf(ctx, v)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", v.Ref(), err)
			}
			published, err := time.Parse(time.RFC3339, v.PublishedAt)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", v.Ref(), err)
			}
			s.Versions = append(s.Versions, usage.Version{
				Version: versioning.Version{Number: v.number, Text: v.Text}, Operations: operations, From: published.Unix(),
			})
		}
		r.Add(s)
	}
	w.routing.cachedRouter = cachedRouter{generation, r}
	return r, nil
}

// operationsOf are the operations of a version as their calls are recognised, found once for each content.
func (w view) operationsOf(ctx context.Context, v Version) ([]usage.Operation, error) {
	if known, there := w.operations.Get(v.content()); there {
		return known, nil
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	all := usage.OperationsOf(c)
	w.operations.Add(v.content(), all)
	return all, nil
}

// adding is a log whose calls are being added.
type adding struct {
	view
	router *usage.Router
	apis   map[string]bool
	newest int64 // the log that was added last before
	row    records.CallLog
	named  bool          // whether somebody said of which APIs it tells
	days   map[int]int64 // of which it tells: a bit for each day of a month
	lines  int64         // that were kept
	failed bool          // whether something could not be kept

	of        map[string]int64
	odd       map[usage.Unmatched]int64
	elsewhere int64
}

// known are the logs that were counted before.
func (a *adding) known(ctx context.Context) ([]usage.Known, error) {
	rows, err := a.rows.Logs(ctx, 0)
	if err != nil {
		return nil, err
	}
	known := make([]usage.Known, len(rows))
	for i, row := range rows {
		known[i] = usage.Known{Length: row.Length, Digest: row.Digest, Head: row.Head}
		if err := json.Unmarshal([]byte(row.APIs), &known[i].APIs); err != nil {
			return nil, err
		}
		a.newest = max(a.newest, row.ID)
	}
	return known, nil
}

// keep keeps what was counted since it was called last, in one transaction.
func (a *adding) keep(ctx context.Context, t *usage.Tally) error {
	piece := map[string]int64{}
	counts := t.Counts()
	for _, c := range counts {
		month, day := monthOf(c.Day)
		a.days[month] |= 1 << day
		if api := a.router.Routes()[c.Route].API; a.apis[api] {
			piece[api] += c.Calls
			a.row.Calls += c.Calls
			a.row.FirstDay, a.row.LastDay = min(a.row.FirstDay, c.Day), max(a.row.LastDay, c.Day)
		} else {
			a.elsewhere += c.Calls
		}
	}
	var odd []usage.Unmatched
	for _, u := range t.Unmatched() {
		if u.API != "" && !a.apis[u.API] {
			a.elsewhere += u.Calls
			continue
		}
		odd = append(odd, u)
		a.row.Unmatched += u.Calls
		n := u.Calls
		u.Calls = 0
		a.odd[u] += n
	}
	a.row.Bad = 0
	for _, b := range t.Bad() {
		a.row.Bad += b.Lines
	}
	fresh := t.Lines - t.Repeated - a.lines
	if len(piece) == 0 && len(odd) == 0 && (fresh <= 0 || t.Identity.Length == 0) {
		return nil
	}
	a.lines = t.Lines - t.Repeated
	a.row.Lines, a.row.Repeated = t.Lines, t.Repeated
	a.row.Length, a.row.Digest, a.row.Head = t.Identity.Length, t.Identity.Digest, t.Identity.Head
	for api, n := range piece {
		a.of[api] += n
	}
	a.failed = true
	err := a.view.act(ctx, "", func(w view) error {
		w.quiet()
		if err := a.alone(ctx, w); err != nil {
			return err
		}
		row := a.row
		if row.Calls == 0 {
			row.FirstDay, row.LastDay = 0, 0
		}
		id, err := w.rows.PutLog(ctx, row)
		if err != nil {
			return err
		}
		a.row.ID = id
		if err := w.countIn(ctx, a.router, counts, a.apis); err != nil {
			return err
		}
		if err := a.cover(ctx, w, t); err != nil {
			return err
		}
		if err := w.unlike(ctx, odd, cmp.Or(row.LastDay, w.day())); err != nil {
			return err
		}
		counted, err := json.Marshal(piece)
		if err != nil {
			return err
		}
		return w.appendJournal(ctx, "calls.added", a.subject(), map[string]string{
			"log": fmt.Sprint(id), "name": row.Name, "digest": row.Digest, "bytes": fmt.Sprint(row.Length), "counted": string(counted),
		})
	})
	a.failed = err != nil
	return err
}

// cover says that logs tell of the days of this one: for those APIs that were named, and those of which it holds a call. Of others nobody
// knows whether their calls would stand in it.
func (a *adding) cover(ctx context.Context, w view, t *usage.Tally) error {
	for api := range a.apis {
		if !a.named && a.of[api] == 0 && !t.Before(api) {
			continue
		}
		for month, days := range a.days {
			if err := w.rows.Cover(ctx, api, records.Days{Month: month, Days: days}); err != nil {
				return err
			}
		}
	}
	return nil
}

// subject is what the journal says that a log concerns: the API, where it is one.
func (a *adding) subject() string {
	if len(a.apis) == 1 {
		for api := range a.apis {
			return api
		}
	}
	return "log " + a.row.Name
}

// alone refuses a log where another one with the same beginning was added since this one was begun: nobody knows what is new in it.
func (a *adding) alone(ctx context.Context, w view) error {
	rows, err := w.rows.Logs(ctx, maxAdding*64)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if row.ID > a.newest && row.ID != a.row.ID && row.Head == a.row.Head {
			return refuse(Conflict, "a log with the same beginning was added meanwhile; send this one again, and what is new in it is counted")
		}
	}
	return nil
}

// told is what came of it.
func (a *adding) told(t *usage.Tally) (AddedLog, error) {
	added, err := addedLog(a.row)
	added.Bytes = t.Identity.Length
	added.Lines, added.Repeated, added.Elsewhere, added.Torn = t.Lines, t.Repeated, a.elsewhere, t.Bad()
	added.Of, added.Odd = []CountedAPI{}, []usage.Unmatched{}
	for api, n := range a.of {
		added.Of = append(added.Of, CountedAPI{api, n})
	}
	slices.SortFunc(added.Of, func(x, y CountedAPI) int { return cmp.Or(cmp.Compare(y.Calls, x.Calls), strings.Compare(x.API, y.API)) })
	for u, n := range a.odd {
		u.Calls = n
		added.Odd = append(added.Odd, u)
	}
	slices.SortFunc(added.Odd, func(x, y usage.Unmatched) int {
		return cmp.Or(cmp.Compare(y.Calls, x.Calls), strings.Compare(x.Path, y.Path), strings.Compare(x.Method, y.Method))
	})
	added.Odd = added.Odd[:min(len(added.Odd), maxOdd)]
	return added, err
}

func addedLog(row records.CallLog) (AddedLog, error) {
	added := AddedLog{
		ID: row.ID, Name: row.Name, AddedAt: row.AddedAt, AddedBy: row.AddedBy, Bytes: row.Length, Lines: row.Lines, Repeated: row.Repeated,
		Calls: row.Calls, Unmatched: row.Unmatched, Bad: row.Bad, APIs: []string{},
	}
	if row.Calls > 0 {
		added.FirstDay, added.LastDay = dayText(row.FirstDay), dayText(row.LastDay)
	}
	return added, json.Unmarshal([]byte(row.APIs), &added.APIs)
}

// countIn adds counts to those that are kept.
func (w view) countIn(ctx context.Context, r *usage.Router, counts []usage.Count, apis map[string]bool) error {
	of := map[string][]usage.Count{}
	for _, c := range counts {
		if api := r.Routes()[c.Route].API; apis[api] {
			of[api] = append(of[api], c)
		}
	}
	callers := &callerIDs{ids: map[usage.Caller]int64{}, left: -1}
	var uses []records.Use
	for _, api := range slices.Sorted(maps.Keys(of)) {
		more, err := w.countAPI(ctx, r, api, of[api], callers)
		if err != nil {
			return err
		}
		uses = append(uses, more...)
	}
	return w.recogniseIn(ctx, uses, w.teamOf)
}

// callerIDs are the numbers of callers.
type callerIDs struct {
	ids  map[usage.Caller]int64
	left int // how many more are told apart; -1 where nobody looked yet
}

func (c *callerIDs) of(ctx context.Context, w view, who usage.Caller) (int64, error) {
	if id, there := c.ids[who]; there {
		return id, nil
	}
	row := records.Caller{Credential: who.Credential, Header: who.Header, Agent: who.Agent}
	if c.left < 0 {
		n, err := w.rows.CountCallers(ctx)
		if err != nil {
			return 0, err
		}
		c.left = max(0, maxKnownCallers-n)
	}
	id, err := w.rows.CallerID(ctx, row, c.left > 0)
	if isNotFound(err) {
		row = records.Caller{Agent: usage.Others.Agent}
		id, err = w.rows.CallerID(ctx, row, true)
	}
	c.left = max(0, c.left-1)
	c.ids[who] = id
	return id, err
}

// cell is where calls are counted.
type cell struct {
	month          int
	target, caller int64
	class          int
}

func (w view) countAPI(ctx context.Context, r *usage.Router, api string, counts []usage.Count, callers *callerIDs) ([]records.Use, error) {
	months := records.Months{From: math.MaxInt, Until: math.MinInt}
	targets := map[int32]int64{}
	fresh := map[cell]*days{}
	uses := map[int64]*records.Use{}
	for _, c := range counts {
		target, there := targets[c.Route]
		if !there {
			route := r.Routes()[c.Route]
			var err error
			if target, err = w.rows.TargetID(ctx, records.Target{API: api, Version: route.Number, Operation: route.Operation}); err != nil {
				return nil, err
			}
			targets[c.Route] = target
		}
		caller, err := callers.of(ctx, w, c.Caller)
		if err != nil {
			return nil, err
		}
		month, day := monthOf(c.Day)
		months.From, months.Until = min(months.From, month), max(months.Until, month)
		at := cell{month, target, caller, int(c.Class)}
		if fresh[at] == nil {
			fresh[at] = &days{}
		}
		fresh[at][day] += c.Calls
		u := uses[caller]
		if u == nil {
			u = &records.Use{Caller: caller, API: api, FirstDay: c.Day, LastDay: c.Day}
			uses[caller] = u
		}
		u.FirstDay, u.LastDay, u.Calls = min(u.FirstDay, c.Day), max(u.LastDay, c.Day), u.Calls+c.Calls
	}
	before, err := w.rows.Calls(ctx, api, months)
	if err != nil {
		return nil, err
	}
	for _, row := range before {
		if d := fresh[cell{row.Month, row.Target, row.Caller, row.Class}]; d != nil {
			if err := d.add(row.Days); err != nil {
				return nil, err
			}
		}
	}
	for at, d := range fresh {
		if err := w.rows.PutCalls(ctx, records.Calls{
			API: api, Month: at.month, Target: at.target, Caller: at.caller, Class: at.class, Days: d.String(),
		}); err != nil {
			return nil, err
		}
	}
	var all []records.Use
	for _, u := range uses {
		if err := w.rows.AddUse(ctx, *u); err != nil {
			return nil, err
		}
	}
	for _, u := range uses {
		now, err := w.rows.Use(ctx, u.Caller, api)
		if err != nil {
			return nil, err
		}
		all = append(all, now)
	}
	return all, nil
}

// unlike keeps calls of no operation: the paths that were first, and how many others there were.
func (w view) unlike(ctx context.Context, odd []usage.Unmatched, last int64) error {
	n, err := w.rows.CountUnmatched(ctx)
	if err != nil {
		return err
	}
	for _, u := range odd {
		row := records.Unmatched{Reason: string(u.Why), API: u.API, Method: u.Method, Path: u.Path, Calls: u.Calls, LastDay: last}
		there, err := w.rows.HasUnmatched(ctx, row)
		if err != nil {
			return err
		}
		if !there && n >= maxKnownUnmatched {
			row.Method, row.Path = "", ""
		} else if !there {
			n++
		}
		if err := w.rows.AddUnmatched(ctx, row); err != nil {
			return err
		}
	}
	return nil
}

// Logs are the logs that were added for APIs of the actor's teams, the newest first.
func (l *Ledger) Logs(ctx context.Context, who Actor) ([]AddedLog, error) {
	if err := l.may(who, SeeConsumers, ""); err != nil {
		return nil, err
	}
	w := l.view(who)
	rows, err := w.rows.Logs(ctx, 0)
	if err != nil {
		return nil, err
	}
	all := []AddedLog{}
	for _, row := range rows {
		added, err := addedLog(row)
		if err != nil {
			return nil, err
		}
		if !who.everywhere() {
			added.APIs = slices.DeleteFunc(added.APIs, func(api string) bool { return !w.keeping(api).inside(who) })
		}
		if len(added.APIs) > 0 {
			all = append(all, added)
		}
	}
	return all, nil
}

package usage

import (
	"bytes"
	"cmp"
	"maps"
	"regexp"
	"slices"
	"strings"
)

// Limits of what is kept, whatever a log holds.
const (
	maxCallers   = 10_000 // that are told apart; all others are one
	maxUnmatched = 1_000  // paths that are shown
	maxExamples  = 3      // bad lines that are shown, of each kind
	maxShown     = 120    // characters of a path, a line or a caller
	maxWindow    = 128 << 20
	skew         = 300 // seconds by which a clock may run ahead
	day          = 24 * 60 * 60
)

// Count is how often an operation was called on a day.
type Count struct {
	Day    int64 // since 1970, in UTC
	Route  int32
	Caller Caller
	Class  uint8 // of the status: 2 for 204; 0 where the log does not hold it
	Calls  int64
}

// Unmatched are calls of no operation that is described.
type Unmatched struct {
	Why    Reason
	API    string // whose path it is; "" for nobody's
	Method string
	Path   string // without its query, and {} for steps that look like ids; "" for those beyond the paths that are shown
	Calls  int64
}

// Bad are lines that cannot be read.
type Bad struct {
	Why      string
	Lines    int64
	Examples []Example
}

// Example is a line that cannot be read.
type Example struct {
	Line int64
	Text string // its beginning
}

// Options are how logs are read.
type Options struct {
	Now     int64   // in seconds since 1970: what lies behind it is bad
	Mapping Mapping // of lines of JSON

	CallerHeaders []string // by which callers may be known, in small letters

	// Where Known is not nil, Tally.Identity tells what the log was, and what it has in common with the beginning of a log that was
	// counted before is not counted for the APIs for which that was.
	Known []Known
	// Keep is called after so many bytes, with what was counted since it was called last; nil where all of it is to be told at the end.
	Keep  func(*Tally) error
	Every int64

	Progress func(bytes, lines int64) // is called now and then; nil where nobody asks
}

// Tally counts calls. It is one reader's.
type Tally struct {
	router    *Router
	options   Options
	Lines     int64           // that were read
	Repeated  int64           // of them, those that were counted before
	Identity  Known           // the log, as far as it was read: up to the last line that is whole, or can be read
	before    map[string]bool // APIs of which what was counted before holds calls
	counts    map[key]int64
	callers   map[Caller]int32
	names     []Caller
	unmatched map[Unmatched]int64
	bad       map[string]*Bad
	finding   finding // of the call that is being counted
}

type key struct {
	day           int32
	route, caller int32
	class         uint8
}

// NewTally begins to count.
func NewTally(r *Router, o Options) *Tally {
	return &Tally{
		router: r, options: o, before: map[string]bool{}, counts: map[key]int64{}, callers: map[Caller]int32{Others: 0}, names: []Caller{Others},
		unmatched: map[Unmatched]int64{}, bad: map[string]*Bad{},
	}
}

// lineReader reads calls from lines.
type lineReader interface {
	read(line []byte, c *Call) error
}

// reader makes what reads lines, as the first of them is written.
func reader(first block, o Options) func() lineReader {
	if bytes.HasPrefix(bytes.TrimSpace(first.text), []byte{'{'}) {
		return func() lineReader { return newJSONLines(o.Mapping) }
	}
	return func() lineReader { return &combined{} }
}

// count counts the lines of blocks, and gives their buffers back.
func (t *Tally) count(f lineReader, handed <-chan block, buffers chan<- []byte) {
	var c Call
	for b := range handed {
		if b.cut != nil {
			t.forget(b.cut.apis)
			continue
		}
		if b.long {
			t.Lines++
			t.wrong(errLong, b.at, nil)
			giveBack(buffers, b.text)
			continue
		}
		b.each(func(line []byte, at int64) {
			if len(bytes.TrimSpace(line)) == 0 {
				return
			}
			t.Lines++
			c = Call{}
			if len(line) > maxLine {
				t.wrong(errLong, at, nil)
				return
			}
			if b.torn {
				t.wrong(errTorn, at, line)
				return
			}
			if err := f.read(line, &c); err != nil {
				t.wrong(err, at, line)
				return
			}
			if c.Time > t.options.Now+skew {
				t.wrong(errFuture, at, line)
				return
			}
			t.take(&c)
		})
		giveBack(buffers, b.text)
	}
}

// giveBack gives a buffer to whoever reads on; one that is more than those lets it go.
func giveBack(buffers chan<- []byte, buffer []byte) {
	select {
	case buffers <- buffer:
	default:
	}
}

// Before reports whether what the log repeats of one that was counted before holds calls of an API.
func (t *Tally) Before(api string) bool { return t.before[api] }

// forget takes back what was counted of some APIs.
func (t *Tally) forget(apis []string) {
	repeated := make(map[string]bool, len(apis))
	for _, api := range apis {
		repeated[api] = true
	}
	maps.DeleteFunc(t.counts, func(k key, _ int64) bool {
		api := t.router.routes[k.route].API
		t.before[api] = t.before[api] || repeated[api]
		return repeated[api]
	})
	maps.DeleteFunc(t.unmatched, func(u Unmatched, _ int64) bool { return u.API == "" || repeated[u.API] })
	clear(t.bad)
	t.Repeated = t.Lines
}

// merge adds what another one counted.
func (t *Tally) merge(o *Tally) {
	t.Lines += o.Lines
	t.Repeated += o.Repeated
	for api, is := range o.before {
		t.before[api] = t.before[api] || is
	}
	if len(t.counts) == 0 && len(t.names) == 1 { // Others
		t.counts, t.callers, t.names = o.counts, o.callers, o.names
		o.counts = nil
	}
	callers := make([]int32, len(o.names))
	for i, name := range o.names {
		callers[i] = t.caller(name)
	}
	for k, n := range o.counts {
		k.caller = callers[k.caller]
		t.counts[k] += n
	}
	for _, u := range o.Unmatched() {
		n := u.Calls
		u.Calls = 0
		t.unlike(u, n)
	}
	for why, b := range o.bad {
		mine := t.bad[why]
		if mine == nil {
			mine = &Bad{Why: why}
			t.bad[why] = mine
		}
		mine.Lines += b.Lines
		mine.Examples = append(mine.Examples, b.Examples...)
		slices.SortFunc(mine.Examples, func(a, b Example) int { return cmp.Compare(a.Line, b.Line) })
		mine.Examples = mine.Examples[:min(len(mine.Examples), maxExamples)]
	}
}

func (t *Tally) take(c *Call) {
	route, why, api := t.finding.find(t.router, c)
	if why != "" {
		t.unlike(Unmatched{Why: why, API: api, Method: shown(c.Method), Path: shown(General(c.Path))}, 1)
		return
	}
	t.counts[key{int32(floor(c.Time, day)), route, t.caller(t.who(c)), c.Class()}]++
}

// who calls.
func (t *Tally) who(c *Call) Caller {
	who := Caller{Credential: c.Credential, Agent: c.Agent}
	for _, name := range t.options.CallerHeaders {
		if value := c.Headers[name]; value != "" {
			who.Header = name + ": " + value
			break
		}
	}
	return who
}

// maxStep is how long a step of a path is that is no id, in bytes.
const maxStep = 40

var versionStep = regexp.MustCompile(`^v[0-9][0-9.]*$`)

// General is a path in which steps that look like ids are {}: what tells people from one another is nobody's to keep.
func General(path string) string {
	if len(path) <= maxStep && !strings.ContainsAny(path, "0123456789@%") {
		return path
	}
	steps := strings.Split(path, "/")
	for i, s := range steps {
		if len(s) > maxStep || strings.ContainsAny(s, "0123456789@%") && !versionStep.MatchString(s) {
			steps[i] = "{}"
		}
	}
	return strings.Join(steps, "/")
}

// unlike counts calls of no operation.
func (t *Tally) unlike(u Unmatched, n int64) {
	if _, there := t.unmatched[u]; !there {
		// What is kept holds on to no line.
		if u.Method, u.Path = strings.Clone(u.Method), strings.Clone(u.Path); len(t.unmatched) >= maxUnmatched {
			u = Unmatched{Why: u.Why, API: u.API}
		}
	}
	t.unmatched[u] += n
}

func floor(n, by int64) int64 {
	if n < 0 {
		return (n - by + 1) / by
	}
	return n / by
}

// caller is the number of who calls.
func (t *Tally) caller(who Caller) int32 {
	if id, there := t.callers[who]; there {
		return id
	}
	who = Caller{strings.Clone(shown(who.Credential)), strings.Clone(shown(who.Header)), strings.Clone(shown(who.Agent))}
	if id, there := t.callers[who]; there {
		return id
	}
	if len(t.names) >= maxCallers {
		return 0
	}
	id := int32(len(t.names))
	t.callers[who] = id
	t.names = append(t.names, who)
	return id
}

func (t *Tally) wrong(err error, at int64, line []byte) {
	b := t.bad[err.Error()]
	if b == nil {
		b = &Bad{Why: err.Error()}
		t.bad[b.Why] = b
	}
	b.Lines++
	if len(b.Examples) < maxExamples {
		b.Examples = append(b.Examples, Example{at, shown(string(line[:min(len(line), 4*maxShown)]))})
	}
}

// shown is the beginning of a text, without characters that move a terminal.
func shown(text string) string {
	plain := len(text) <= maxShown
	for i := 0; plain && i < len(text); i++ {
		plain = text[i] >= ' ' && text[i] < 0x7f
	}
	if plain {
		return text
	}
	var b strings.Builder
	n := 0
	for _, r := range text {
		if n++; n > maxShown {
			b.WriteRune('…')
			break
		}
		if r < ' ' || r >= 0x7f && r < 0xa0 {
			r = '�'
		}
		b.WriteRune(r)
	}
	return b.String()
}

// Counts are all counts, by day, route, caller and class.
func (t *Tally) Counts() []Count {
	all := make([]Count, 0, len(t.counts))
	for k, n := range t.counts {
		all = append(all, Count{int64(k.day), k.route, t.names[k.caller], k.class, n})
	}
	slices.SortFunc(all, func(a, b Count) int {
		return cmp.Or(cmp.Compare(a.Day, b.Day), cmp.Compare(a.Route, b.Route), a.Caller.compare(b.Caller),
			cmp.Compare(a.Class, b.Class))
	})
	return all
}

// Unmatched are the calls of no operation, the most frequent first.
func (t *Tally) Unmatched() []Unmatched {
	all := make([]Unmatched, 0, len(t.unmatched))
	for u, n := range t.unmatched {
		u.Calls = n
		all = append(all, u)
	}
	slices.SortFunc(all, func(a, b Unmatched) int {
		return cmp.Or(cmp.Compare(b.Calls, a.Calls), strings.Compare(a.Path, b.Path), strings.Compare(a.Method, b.Method),
			strings.Compare(a.API, b.API), strings.Compare(string(a.Why), string(b.Why)))
	})
	return all
}

// Bad are the lines that cannot be read, by what is wrong with them.
func (t *Tally) Bad() []Bad {
	var all []Bad
	for _, why := range slices.Sorted(maps.Keys(t.bad)) {
		all = append(all, *t.bad[why])
	}
	return all
}

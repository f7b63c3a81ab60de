package usage

import (
	"bufio"
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"sync"

	"github.com/klauspost/compress/zstd"
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

// Others are the callers beyond those that are told apart.
const Others = "others"

// Count is how often an operation was called on a day.
type Count struct {
	Day    int64 // since 1970, in UTC
	Route  int32
	Caller string // the credential, else what the caller calls itself; "" for nobody known
	Class  uint8  // of the status: 2 for 204; 0 where the log does not hold it
	Calls  int64
}

// Unmatched are calls of no operation that is described.
type Unmatched struct {
	Why    Reason
	Method string
	Path   string // without its query; "" for those beyond the paths that are shown
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
}

// Tally counts calls. It is one reader's.
type Tally struct {
	router    *Router
	options   Options
	Lines     int64 // that were read
	counts    map[key]int64
	callers   map[string]int32
	names     []string
	unmatched map[Unmatched]int64
	bad       map[string]*Bad
}

type key struct {
	day           int32
	route, caller int32
	class         uint8
}

// NewTally begins to count.
func NewTally(r *Router, o Options) *Tally {
	return &Tally{
		router: r, options: o, counts: map[key]int64{}, callers: map[string]int32{Others: 0}, names: []string{Others},
		unmatched: map[Unmatched]int64{}, bad: map[string]*Bad{},
	}
}

// lanes are how many count at once, each some of the blocks: what is counted depends on no timing.
const lanes = 4

// Read counts the calls of a log: lines in the Common or the Combined Log Format, or of JSON, also packed with gzip or zstd. It ends with
// an error where the log cannot be unpacked or ctx ends; what was counted by then stays.
func (t *Tally) Read(ctx context.Context, log io.Reader) error {
	plain, end, err := unpacked(log)
	if err != nil {
		return err
	}
	defer end()
	var work sync.WaitGroup
	var parts [lanes]*Tally
	var handed [lanes]chan block
	buffers := make(chan []byte, 3*lanes)
	for range cap(buffers) {
		buffers <- nil
	}
	l := &blocks{r: plain}
	begun := false
	begin := func(first block) {
		begun = true
		for i := range lanes {
			parts[i], handed[i] = NewTally(t.router, t.options), make(chan block, 2)
			work.Go(func() { parts[i].count(reader(first, t.options), handed[i], buffers) })
		}
	}
	err = ctx.Err()
	for i := 0; err == nil; i++ {
		var b block
		if b, err = l.next(<-buffers); err == nil {
			if !begun {
				begin(b)
			}
			handed[i%lanes] <- b
			err = ctx.Err()
		}
	}
	if begun {
		for i := range lanes {
			close(handed[i])
		}
		work.Wait()
		for _, p := range parts {
			t.merge(p)
		}
	}
	switch {
	case errors.Is(err, io.EOF):
		return nil
	case ctx.Err() != nil:
		return ctx.Err()
	}
	return fmt.Errorf("the log cannot be unpacked behind its line %d: %w", l.at, err)
}

// lineReader reads calls from lines.
type lineReader interface {
	read(line []byte, c *Call) error
}

// reader reads lines as the first of them is written.
func reader(first block, o Options) lineReader {
	if bytes.HasPrefix(bytes.TrimSpace(first.text), []byte{'{'}) {
		return newJSONLines(o.Mapping)
	}
	return &combined{}
}

// count counts the lines of blocks, and gives their buffers back.
func (t *Tally) count(f lineReader, handed <-chan block, buffers chan<- []byte) {
	var c Call
	for b := range handed {
		if b.long {
			t.Lines++
			t.wrong(errLong, b.at, nil)
			buffers <- b.text
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
		buffers <- b.text
	}
}

// merge adds what another one counted.
func (t *Tally) merge(o *Tally) {
	t.Lines += o.Lines
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

// unpacked is a log as text, and what gives back what unpacking it took.
func unpacked(log io.Reader) (plain io.Reader, end func(), err error) {
	b := bufio.NewReaderSize(log, 64<<10)
	magic, err := b.Peek(4)
	if err != nil && err != io.EOF {
		return nil, nil, err
	}
	switch {
	case bytes.HasPrefix(magic, []byte{0x1f, 0x8b}):
		z, err := gzip.NewReader(b)
		if err != nil {
			return nil, nil, fmt.Errorf("the log cannot be unpacked: %w", err)
		}
		return z, func() { z.Close() }, nil
	case bytes.Equal(magic, []byte{0x28, 0xb5, 0x2f, 0xfd}):
		z, err := zstd.NewReader(b, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxWindow(maxWindow))
		if err != nil {
			return nil, nil, fmt.Errorf("the log cannot be unpacked: %w", err)
		}
		return z, z.Close, nil
	}
	return b, func() {}, nil
}

func (t *Tally) take(c *Call) {
	route, why := t.router.Find(c)
	if why != "" {
		t.unlike(Unmatched{Why: why, Method: shown(c.Method), Path: shown(c.Path)}, 1)
		return
	}
	t.counts[key{int32(floor(c.Time, day)), route, t.caller(cmp.Or(c.Credential, c.Agent)), c.Class()}]++
}

// unlike counts calls of no operation.
func (t *Tally) unlike(u Unmatched, n int64) {
	if _, there := t.unmatched[u]; !there {
		// What is kept holds on to no line.
		if u.Method, u.Path = strings.Clone(u.Method), strings.Clone(u.Path); len(t.unmatched) >= maxUnmatched {
			u = Unmatched{Why: u.Why}
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
func (t *Tally) caller(name string) int32 {
	if id, there := t.callers[name]; there {
		return id
	}
	name = shown(name)
	if id, there := t.callers[name]; there {
		return id
	}
	if len(t.names) >= maxCallers {
		return 0
	}
	name = strings.Clone(name)
	id := int32(len(t.names))
	t.callers[name] = id
	t.names = append(t.names, name)
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
		return cmp.Or(cmp.Compare(a.Day, b.Day), cmp.Compare(a.Route, b.Route), strings.Compare(a.Caller, b.Caller),
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
			strings.Compare(string(a.Why), string(b.Why)))
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

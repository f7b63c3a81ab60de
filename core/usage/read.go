package usage

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"context"
	"errors"
	"fmt"
	"io"
	"sync"

	"github.com/klauspost/compress/zstd"
)

// lanes are how many count at once, each some of the blocks: what is counted depends on no timing.
const lanes = 4

// reading is a log that is being read.
type reading struct {
	*Tally
	blocks  blocks
	format  func() lineReader // as the log is written; nil until its first block
	parts   [lanes]*Tally
	handed  [lanes]chan block
	work    sync.WaitGroup
	buffers chan []byte
	quotes  int // of the first line
	turn    int // the blocks that were handed out
	kept    int64
}

// Read counts the calls of a log: lines in the Common or the Combined Log Format, or of JSON, or an HTTP archive (HAR 1.2), of which an
// entry counts as a line; also packed with gzip or zstd. It ends with an error where the log cannot be unpacked, what was counted cannot be
// kept, or ctx ends; what was counted by then stays.
func (t *Tally) Read(ctx context.Context, log io.Reader) error {
	plain, end, err := unpacked(log)
	if err != nil {
		return err
	}
	defer end()
	lines, format, done := archived(ctx, plain)
	defer done()
	r := &reading{Tally: t, blocks: blocks{r: lines}, format: format, buffers: make(chan []byte, 3*lanes)}
	if t.options.Known != nil {
		r.blocks.watch = newWatch(t.options.Known)
	}
	for range cap(r.buffers) {
		r.buffers <- nil
	}
	err = ctx.Err()
	for err == nil {
		var b block
		if b, err = r.blocks.next(<-r.buffers); err == nil {
			r.take(b)
			err = errors.Join(r.keep(), ctx.Err())
			if w := r.blocks.watch; w != nil && r.options.Progress != nil && r.turn%16 == 0 {
				r.options.Progress(w.length, r.blocks.at)
			}
		}
	}
	if errors.Is(err, io.EOF) {
		r.end()
	}
	r.gather()
	if w := r.blocks.watch; w != nil && t.Identity.Length == 0 {
		t.Identity = w.identity()
	}
	var stopped *keepError
	switch {
	case errors.Is(err, io.EOF):
		return nil
	case errors.As(err, &stopped):
		return stopped.error
	case ctx.Err() != nil:
		return ctx.Err()
	}
	return fmt.Errorf("the log cannot be unpacked behind its line %d: %w", r.blocks.at, err)
}

// keepError is that what was counted could not be kept.
type keepError struct{ error }

// take hands a block out, in parts where the log repeats another one up to a place in it.
func (r *reading) take(b block) {
	if r.turn == 0 {
		if r.format == nil {
			r.format = reader(b, r.options)
		}
		first, _, _ := bytes.Cut(b.text, []byte{'\n'})
		r.quotes = bytes.Count(first, []byte{'"'})
	}
	b.torn = b.open && !bytes.HasSuffix(bytes.TrimSpace(b.text), []byte{'}'}) && bytes.Count(b.text, []byte{'"'}) < r.quotes
	if w := r.blocks.watch; w != nil {
		if b.open {
			r.Identity = w.identity()
			var c Call
			if b.torn || r.format().read(b.text, &c) != nil {
				r.Identity = r.blocks.whole // it may be whole another time
			}
		}
		for _, c := range w.take(w.length) {
			b = r.cut(b, c)
		}
	}
	r.hand(b)
}

// cut hands out what stands before a place, and what that means; it gives what stands behind it.
func (r *reading) cut(b block, c cut) block {
	n := min(int(c.at-b.from), len(b.text))
	before := block{text: bytes.Clone(b.text[:n]), at: b.at, long: b.long, from: b.from}
	r.hand(before)
	r.begin()
	for i := range lanes {
		r.handed[i] <- block{cut: &c}
	}
	b.at += int64(bytes.Count(before.text, []byte{'\n'}))
	b.text, b.from = b.text[n:], c.at
	return b
}

// end forgets what was counted where the log turns out to be the beginning of one that was counted before.
func (r *reading) end() {
	if r.blocks.watch == nil {
		return
	}
	for _, c := range r.blocks.watch.beginnings() {
		r.begin()
		for i := range lanes {
			r.handed[i] <- block{cut: &c}
		}
	}
}

// hand gives a block to the lane whose turn it is.
func (r *reading) hand(b block) {
	r.begin()
	r.handed[r.turn%lanes] <- b
	r.turn++
}

// begin starts the lanes where they do not run.
func (r *reading) begin() {
	if r.handed[0] != nil {
		return
	}
	for i := range lanes {
		r.parts[i], r.handed[i] = NewTally(r.router, r.options), make(chan block, 2)
		r.work.Go(func() { r.parts[i].count(r.format(), r.handed[i], r.buffers) })
	}
}

// gather waits for the lanes, and adds up what they counted.
func (r *reading) gather() {
	if r.handed[0] == nil {
		return
	}
	for i := range lanes {
		close(r.handed[i])
	}
	r.work.Wait()
	for i := range lanes {
		r.merge(r.parts[i])
		r.handed[i] = nil
	}
}

// keep hands over what was counted, where that is due: not while the log may still turn out to repeat another one.
func (r *reading) keep() error {
	w := r.blocks.watch
	if r.options.Keep == nil || w == nil || r.blocks.ended || w.length-r.kept < r.options.Every || len(w.ahead) > 0 {
		return nil
	}
	r.gather()
	r.Identity = w.identity()
	if err := r.options.Keep(r.Tally); err != nil {
		return &keepError{err}
	}
	r.Identity = Known{}
	clear(r.counts)
	clear(r.unmatched)
	r.kept = w.length
	return nil
}

// unpacked is a log as text, and what gives back what unpacking it took.
func unpacked(log io.Reader) (plain io.Reader, end func(), err error) {
	packed := &counting{r: log}
	b := bufio.NewReaderSize(packed, 64<<10)
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
		return &bounded{r: z, packed: packed}, func() { z.Close() }, nil
	case bytes.Equal(magic, []byte{0x28, 0xb5, 0x2f, 0xfd}):
		z, err := zstd.NewReader(b, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxWindow(maxWindow))
		if err != nil {
			return nil, nil, fmt.Errorf("the log cannot be unpacked: %w", err)
		}
		return &bounded{r: z, packed: packed}, z.Close, nil
	}
	return b, func() {}, nil
}

// How much more than it takes a packed log may hold; a smaller one may hold more.
const (
	maxRatio    = 400
	smallEnough = 64 << 20 // bytes, unpacked
)

// errBomb is the fault of what is no log, but made to fill whoever unpacks it.
var errBomb = errors.New("it unpacks to more than 400 times its size, as no log does")

// counting counts what is read.
type counting struct {
	r io.Reader
	n int64
}

func (c *counting) Read(into []byte) (int, error) {
	n, err := c.r.Read(into)
	c.n += int64(n)
	return n, err
}

// bounded ends where what was unpacked is out of all proportion.
type bounded struct {
	r      io.Reader
	packed *counting
	n      int64
}

func (b *bounded) Read(into []byte) (int, error) {
	if b.n > smallEnough && b.n > maxRatio*b.packed.n {
		return 0, errBomb
	}
	n, err := b.r.Read(into)
	b.n += int64(n)
	return n, err
}

package usage

import (
	"bytes"
	"errors"
	"io"
)

// maxLine is how long a line is read, in bytes; a longer one is bad.
const maxLine = 4 << 20

// blockSize is how much of a log is read at once, in bytes.
const blockSize = 256 << 10

// errLong is the fault of a line that nobody reads.
var errLong = errors.New("the line is longer than 4 MB")

// errTorn is the fault of a last line that ends before its end.
var errTorn = errors.New("the last line is cut off")

// block is some whole lines of a log.
type block struct {
	text []byte
	at   int64 // the number of its first line, from 1
	long bool  // whether it is a line that is too long, of which this is the beginning
	open bool  // whether it is a last line without an end
	torn bool  // whether it is a line of which the end is missing
	from int64 // where it begins, in bytes; only where the log is watched
	cut  *cut  // no text: what was counted of some APIs is counted already
}

// blocks takes a log apart into whole lines.
type blocks struct {
	r     io.Reader
	rest  []byte // of a line that goes on
	at    int64
	ended bool
	watch *watch // nil where nobody asks whether the log repeats another one
	whole Known  // what it was before its last line, where that has no end
}

// next is the next block, in a buffer that is given back when it is done with; io.EOF behind the last one.
func (l *blocks) next(buffer []byte) (block, error) {
	text := append(buffer[:0], l.rest...)
	l.rest = l.rest[:0]
	for {
		if l.ended {
			if len(text) == 0 {
				return block{}, io.EOF
			}
			if end := bytes.LastIndexByte(text, '\n') + 1; end > 0 && end < len(text) {
				l.rest = append(l.rest, text[end:]...)
				return l.made(text[:end], false), nil
			}
			return l.last(text), nil
		}
		if cap(text)-len(text) < blockSize {
			text = append(text, make([]byte, blockSize)...)[:len(text)]
		}
		n, err := l.r.Read(text[len(text) : len(text)+blockSize])
		fresh := text[len(text) : len(text)+n]
		text = text[:len(text)+n]
		if err == io.EOF {
			l.ended = true
			continue
		}
		if err != nil {
			return block{}, err
		}
		if end := bytes.LastIndexByte(fresh, '\n'); end >= 0 {
			cut := len(text) - len(fresh) + end + 1
			l.rest = append(l.rest, text[cut:]...)
			return l.made(text[:cut], false), nil
		}
		if len(text) > maxLine {
			return l.skip(text)
		}
	}
}

// last is the last block, which may have no end.
func (l *blocks) last(text []byte) block {
	open := !bytes.HasSuffix(text, []byte{'\n'})
	if open && l.watch != nil {
		l.whole = l.watch.identity()
	}
	b := l.made(text, false)
	b.open = open
	return b
}

func (l *blocks) made(text []byte, long bool) block {
	b := block{text: text, at: l.at + 1, long: long}
	if l.watch != nil {
		b.from = l.watch.length
		if !long {
			l.watch.pass(text)
		}
	}
	l.at += int64(bytes.Count(text, []byte{'\n'}))
	if !bytes.HasSuffix(text, []byte{'\n'}) {
		l.at++
	}
	return b
}

// skip reads on to the end of a line that is too long.
func (l *blocks) skip(text []byte) (block, error) {
	b := l.made(text[:4*maxShown], true)
	l.pass(text)
	for {
		n, err := l.r.Read(text[maxLine-blockSize : maxLine])
		fresh := text[maxLine-blockSize:][:n]
		if end := bytes.IndexByte(fresh, '\n'); end >= 0 {
			l.pass(fresh[:end+1])
			l.rest = append(l.rest, fresh[end+1:]...)
			return b, nil
		}
		l.pass(fresh)
		if err == io.EOF {
			l.ended = true
			return b, nil
		}
		if err != nil {
			return b, err
		}
	}
}

func (l *blocks) pass(text []byte) {
	if l.watch != nil {
		l.watch.pass(text)
	}
}

// each gives the lines of a block without their ends, and their numbers.
func (b block) each(do func(line []byte, at int64)) {
	at := b.at
	for text := b.text; len(text) > 0; at++ {
		var line []byte
		line, text, _ = bytes.Cut(text, []byte{'\n'})
		for len(line) > 0 && line[len(line)-1] == '\r' {
			line = line[:len(line)-1]
		}
		do(line, at)
	}
}

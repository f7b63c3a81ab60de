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

// block is some whole lines of a log.
type block struct {
	text []byte
	at   int64 // the number of its first line, from 1
	long bool  // whether it is a line that is too long, of which this is the beginning
}

// blocks takes a log apart into whole lines.
type blocks struct {
	r     io.Reader
	rest  []byte // of a line that goes on
	at    int64
	ended bool
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
			return l.made(text, false), nil
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

func (l *blocks) made(text []byte, long bool) block {
	b := block{text, l.at + 1, long}
	l.at += int64(bytes.Count(text, []byte{'\n'}))
	if !bytes.HasSuffix(text, []byte{'\n'}) {
		l.at++
	}
	return b
}

// skip reads on to the end of a line that is too long.
func (l *blocks) skip(text []byte) (block, error) {
	b := l.made(text[:4*maxShown], true)
	for {
		n, err := l.r.Read(text[maxLine-blockSize : maxLine])
		fresh := text[maxLine-blockSize:][:n]
		if end := bytes.IndexByte(fresh, '\n'); end >= 0 {
			l.rest = append(l.rest, fresh[end+1:]...)
			return b, nil
		}
		if err == io.EOF {
			l.ended = true
			return b, nil
		}
		if err != nil {
			return b, err
		}
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

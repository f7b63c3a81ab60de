package usage

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"io"
	"strings"

	"oldledger/core/exchange"
)

// harLine is an entry of an HTTP archive (HAR 1.2) as a line: what counting needs of it, without credentials, queries' secrets or bodies.
type harLine struct {
	Time    string            `json:"time"`
	Method  string            `json:"method"`
	URL     string            `json:"url"`
	Status  int               `json:"status"`
	Headers map[string]string `json:"headers"`
}

// archived is a text that is an archive as lines, and any other as it is; end gives back what reading it took.
func archived(ctx context.Context, text io.Reader) (lines io.Reader, format func() lineReader, end func()) {
	head := bufio.NewReaderSize(text, 4<<10)
	begins, _ := head.Peek(4 << 10) // what is wrong with it, reading will tell
	if !exchange.Begins(begins) {
		return head, nil, func() {}
	}
	r, w := io.Pipe()
	done := make(chan struct{})
	go func() {
		defer close(done)
		w.CloseWithError(writeLines(ctx, w, head))
	}()
	return r, func() lineReader { return harLines{} }, func() {
		r.CloseWithError(io.ErrClosedPipe)
		<-done
	}
}

// writeLines writes a line for each entry, so that their numbers are those of the entries. An archive that is cut off ends in a line that
// is.
func writeLines(ctx context.Context, w io.Writer, archive io.Reader) error {
	lines := json.NewEncoder(w)
	lines.SetEscapeHTML(false)
	written := 0
	upTo := func(n int) error {
		for ; written < n; written++ {
			if _, err := io.WriteString(w, "{}\n"); err != nil {
				return err
			}
		}
		return nil
	}
	from := &failing{r: archive}
	read, err := exchange.Read(ctx, from, func(e *exchange.Exchange) error {
		if err := upTo(e.Number - 1); err != nil {
			return err
		}
		written++
		head := *e
		head.Request.Body, head.Request.Form, head.Answer = nil, nil, exchange.Message{}
		m := head.Masked()
		line := harLine{Time: e.At, Method: e.Method, URL: m.URL.String(), Status: e.Status, Headers: map[string]string{}}
		for _, h := range m.Request.Headers {
			if name := strings.ToLower(h.Name); line.Headers[name] == "" && h.Value != exchange.Mask {
				line.Headers[name] = h.Value
			}
		}
		return lines.Encode(line)
	})
	if wrong := errors.Join(from.err, upTo(read.Entries)); wrong != nil {
		return wrong
	}
	var cut *exchange.Cut
	if errors.As(err, &cut) {
		_, err = io.WriteString(w, "{")
	}
	return err
}

// failing remembers why a text could not be read on.
type failing struct {
	r   io.Reader
	err error
}

func (f *failing) Read(into []byte) (int, error) {
	n, err := f.r.Read(into)
	if err != nil && err != io.EOF {
		f.err = err
	}
	return n, err
}

// harLines reads them.
type harLines struct{}

func (harLines) read(line []byte, c *Call) error {
	var l harLine
	if err := json.Unmarshal(line, &l); err != nil {
		return errNotJSON
	}
	if l.Method == "" || l.URL == "" {
		return errRequest
	}
	at, err := moment(l.Time)
	if err != nil {
		return err
	}
	c.Time, c.Method, c.Status = at, l.Method, l.Status
	c.target(l.URL)
	c.Headers, c.Whole, c.Agent = l.Headers, true, l.Headers["user-agent"]
	return nil
}

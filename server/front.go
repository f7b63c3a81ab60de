package server

import (
	"bytes"
	"errors"
	"net"
	"net/http"
	"sync"
	"sync/atomic"
	"time"
)

// front is a listener that answers plain requests for pages that are kept by itself, in one write each, and hands every other connection on,
// with what was read of it, to who accepts from the listener. A connection once handed on stays there: all that is unusual in HTTP/1.1
// (RFC 9112), and all that is not a kept page, is the business of net/http.
type front struct {
	net.Listener
	ready func(address []byte) (head, body []byte) // a page as it is sent but for the end of its header; nil where none is kept

	accepted chan arrival
	closed   chan struct{}
	close    sync.Once
	stamp    atomic.Pointer[stamp]

	mu   sync.Mutex
	open map[*net.TCPConn]struct{}
	work sync.WaitGroup
}

// arrival is what Accept returns.
type arrival struct {
	conn net.Conn
	err  error
}

const (
	firstWait  = 10 * time.Second // for the first request of a connection
	idleWait   = 2 * time.Minute  // between requests, and for a reader to take an answer
	lastWait   = 5 * time.Second  // for a reader to take an answer when the service ends
	asLongAs   = 4 << 10          // of a request, in bytes; a longer one is handed on
	renewAfter = time.Second      // how old a deadline may become
)

func newFront(l net.Listener, ready func([]byte) (head, body []byte)) *front {
	f := &front{Listener: l, ready: ready, accepted: make(chan arrival), closed: make(chan struct{}), open: map[*net.TCPConn]struct{}{}}
	f.work.Go(f.accept)
	return f
}

// Accept waits for a connection that is not, or no longer, for the front.
func (f *front) Accept() (net.Conn, error) {
	select {
	case a := <-f.accepted:
		return a.conn, a.err
	case <-f.closed:
		return nil, net.ErrClosed
	}
}

// Close ends the listener and the connections that the front still has, after the answers under way.
func (f *front) Close() error {
	err := f.Listener.Close()
	f.close.Do(func() {
		close(f.closed)
		f.mu.Lock()
		defer f.mu.Unlock()
		for c := range f.open {
			f.hurry(c)
		}
	})
	return err
}

// Wait waits, after Close, until the front has nothing under way.
func (f *front) Wait() { f.work.Wait() }

func (f *front) accept() {
	for {
		c, err := f.Listener.Accept()
		if errors.Is(err, net.ErrClosed) {
			return
		}
		tcp, ok := c.(*net.TCPConn)
		if err != nil || !ok {
			f.hand(arrival{c, err}) // whoever accepts knows which errors pass, and waits
			continue
		}
		f.work.Go(func() { f.attend(tcp) })
	}
}

// hand passes a connection on.
func (f *front) hand(a arrival) {
	select {
	case f.accepted <- a:
	case <-f.closed:
		if a.conn != nil {
			_ = a.conn.Close() // the service ends
		}
	}
}

// attend answers a connection until it asks for something else or ends.
func (f *front) attend(c *net.TCPConn) {
	f.mu.Lock()
	f.open[c] = struct{}{}
	f.mu.Unlock()
	read, ours := f.converse(c)
	f.mu.Lock()
	delete(f.open, c)
	f.mu.Unlock()
	if ours || c.SetDeadline(time.Time{}) != nil {
		_ = c.Close() // the reader has gone, or said nothing for too long
		return
	}
	f.hand(arrival{conn: &resumed{TCPConn: c, read: read}})
}

// converse returns what was read of a request that is not for the front; done where there is no further one.
func (f *front) converse(c *net.TCPConn) (read []byte, done bool) {
	request := make([]byte, asLongAs)
	var parts [3][]byte
	var until time.Time
	for wait := firstWait; ; wait = idleWait {
		if next := time.Now().Add(wait); next.Sub(until) > renewAfter {
			if c.SetDeadline(next) != nil {
				return nil, true
			}
			if until = next; f.ending() {
				f.hurry(c)
			}
		}
		n, err := c.Read(request)
		if err != nil {
			return nil, true
		}
		address := plain(request[:n])
		if address == nil {
			return request[:n], false
		}
		head, body := f.ready(address)
		if head == nil {
			return request[:n], false
		}
		parts = [...][]byte{head, f.dated(), body}
		answer := net.Buffers(parts[:])
		if _, err := answer.WriteTo(c); err != nil {
			return nil, true
		}
	}
}

func (f *front) ending() bool {
	select {
	case <-f.closed:
		return true
	default:
		return false
	}
}

// hurry lets a connection read no more, and write for a little while.
func (f *front) hurry(c *net.TCPConn) {
	now := time.Now()
	_ = c.SetReadDeadline(now) // fails for one that is closed already
	_ = c.SetWriteDeadline(now.Add(lastWait))
}

// stamp is the end of a header, as of one second.
type stamp struct {
	second int64
	text   []byte
}

// dated is the header's Date (RFC 9110, section 6.6.1) and its end.
func (f *front) dated() []byte {
	now := time.Now()
	s := f.stamp.Load()
	if s == nil || s.second != now.Unix() {
		s = &stamp{now.Unix(), []byte("Date: " + now.UTC().Format(http.TimeFormat) + "\r\n\r\n")}
		f.stamp.Store(s)
	}
	return s.text
}

// resumed is a connection of which something was read already.
type resumed struct {
	*net.TCPConn
	read []byte
}

func (r *resumed) Read(b []byte) (int, error) {
	if len(r.read) == 0 {
		return r.TCPConn.Read(b)
	}
	n := copy(b, r.read)
	r.read = r.read[n:]
	return n, nil
}

// harmless are the headers that change nothing in the answer of a kept page.
var harmless = map[string]bool{
	"user-agent": true, "accept": true, "accept-language": true, "referer": true, "cookie": true, "dnt": true, "priority": true,
	"upgrade-insecure-requests": true, "sec-fetch-site": true, "sec-fetch-mode": true, "sec-fetch-dest": true, "sec-fetch-user": true,
	"sec-ch-ua": true, "sec-ch-ua-mobile": true, "sec-ch-ua-platform": true, "sec-gpc": true,
}

// plain returns the address of a request that is one whole GET for a page of the reference, without a query, by a reader who takes gzip and
// keeps the connection; nil for any other. It is strict: what it does not know is not plain.
func plain(request []byte) []byte {
	rest, ok := bytes.CutPrefix(request, []byte("GET "))
	if !ok {
		return nil
	}
	line, rest, ok := bytes.Cut(rest, []byte("\r\n"))
	if !ok {
		return nil
	}
	address, ok := bytes.CutSuffix(line, []byte(" HTTP/1.1"))
	if !ok || !bytes.HasPrefix(address, []byte("/reference/")) || bytes.ContainsFunc(address, notOfPath) {
		return nil
	}
	hosts, packed := 0, false
	for {
		if line, rest, ok = bytes.Cut(rest, []byte("\r\n")); !ok {
			return nil
		}
		if len(line) == 0 {
			break
		}
		name, value, ok := bytes.Cut(line, []byte(":"))
		if !ok || bytes.ContainsFunc(value, notOfValue) {
			return nil
		}
		value = bytes.Trim(value, " ")
		var small [32]byte
		switch key := string(lower(name, &small)); {
		case key == "host":
			hosts++
			if len(value) == 0 || bytes.ContainsFunc(value, notOfHost) {
				return nil
			}
		case key == "accept-encoding":
			if packed || bytes.Contains(value, []byte("q=")) {
				return nil
			}
			packed = bytes.Contains(value, []byte("gzip"))
		case key == "connection":
			if !bytes.EqualFold(value, []byte("keep-alive")) {
				return nil
			}
		case !harmless[key]:
			return nil
		}
	}
	if hosts != 1 || !packed || len(rest) > 0 {
		return nil
	}
	return address
}

// lower writes a header's name in small letters; one that is longer than any that is known becomes none.
func lower(name []byte, into *[32]byte) []byte {
	if len(name) > len(into) {
		return nil
	}
	for i, c := range name {
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		into[i] = c
	}
	return into[:len(name)]
}

func letterOrDigit(r rune) bool {
	return 'a' <= r && r <= 'z' || 'A' <= r && r <= 'Z' || '0' <= r && r <= '9'
}

// notOfPath leaves out what need not, and must, be escaped, and so has one way of being written.
func notOfPath(r rune) bool { return !letterOrDigit(r) && !bytes.ContainsRune([]byte("/-._~"), r) }

func notOfHost(r rune) bool { return !letterOrDigit(r) && !bytes.ContainsRune([]byte(".-:[]"), r) }

func notOfValue(r rune) bool { return r < ' ' || r > '~' }

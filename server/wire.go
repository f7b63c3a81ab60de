package server

import (
	"context"
	"io"
	"net"
	"net/http"
)

// A page that is kept is sent in one write, its header with it. The writers of net/http take two or three for one that does not fit their
// 4 kB, and so many more times do the kernel and the reader's end wake up.

// wired is a listener whose connections can do so.
type wired struct{ net.Listener }

func (l wired) Accept() (net.Conn, error) {
	c, err := l.Listener.Accept()
	if tcp, ok := c.(*net.TCPConn); ok {
		return &wire{TCPConn: tcp}, err
	}
	return c, err
}

// wire is a connection that can hold back what is written until the body follows.
type wire struct {
	*net.TCPConn
	holding bool
	held    []byte
}

func (w *wire) Write(b []byte) (int, error) {
	if w.holding {
		w.held = append(w.held, b...)
		return len(b), nil
	}
	return w.TCPConn.Write(b)
}

// ReadFrom sends what was held back with what is left of a body.
func (w *wire) ReadFrom(src io.Reader) (int64, error) {
	rest, ok := src.(*body)
	if !ok || !w.holding {
		return w.TCPConn.ReadFrom(src)
	}
	w.holding = false
	parts := net.Buffers{w.held, rest.left}
	sent, err := parts.WriteTo(w.TCPConn)
	sent -= int64(len(w.held))
	w.held = w.held[:0]
	rest.left = nil
	return max(sent, 0), err
}

// release sends what is still held back.
func (w *wire) release() error {
	w.holding = false
	if len(w.held) == 0 {
		return nil
	}
	_, err := w.TCPConn.Write(w.held)
	w.held = w.held[:0]
	return err
}

// body is what is left of a body to send.
type body struct{ left []byte }

func (b *body) Read(into []byte) (int, error) {
	if len(b.left) == 0 {
		return 0, io.EOF
	}
	n := copy(into, b.left)
	b.left = b.left[n:]
	return n, nil
}

type wireKey struct{}

// keepWire is http.Server's ConnContext: it lets a request find its connection.
func keepWire(ctx context.Context, c net.Conn) context.Context {
	if w, ok := c.(*wire); ok {
		return context.WithValue(ctx, wireKey{}, w)
	}
	return ctx
}

// atOnce is a response whose body is sent with its header.
type atOnce struct {
	http.ResponseWriter
	wire *wire
}

// fitting is up to how long a body goes out in one write anyway.
const fitting = 3000

func (a atOnce) Write(b []byte) (int, error) {
	from, ok := a.ResponseWriter.(io.ReaderFrom)
	if a.wire == nil || !ok || len(b) < fitting {
		return a.ResponseWriter.Write(b)
	}
	a.wire.holding = true
	n, err := from.ReadFrom(&body{b})
	if more := a.wire.release(); err == nil {
		err = more
	}
	return int(n), err
}

// together sends what is written to w at once, where the connection can.
func together(w http.ResponseWriter, r *http.Request) http.ResponseWriter {
	c, _ := r.Context().Value(wireKey{}).(*wire)
	return atOnce{w, c}
}

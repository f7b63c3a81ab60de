package site

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"github.com/klauspost/compress/gzip"
)

// kept are pages in memory, compressed. One holds until its turn or its day has passed.
type kept struct {
	header http.Header // that of every page which has not its own
	mu     sync.RWMutex
	pages  map[string]*keptPage
	size   int
}

// keptPage is a page as it is sent.
type keptPage struct {
	turn, day int64
	status    int
	header    http.Header
	plain     []byte // nil where it is kept compressed
	packed    []byte // gzip (RFC 1952)
	etag      string // a strong one of the plain text, in quotes (RFC 9110, section 8.8.3)
	packedTag string
	head      []byte // of the packed page, as Site.Ready returns it
}

// maxKept bounds the pages in memory, in bytes. Beyond it, all are let go.
const maxKept = 256 << 20

// worthPacking is from how many bytes on compressing pays.
const worthPacking = 600

func (k *kept) find(address string, turn, day int64) *keptPage {
	k.mu.RLock()
	p := k.pages[address]
	k.mu.RUnlock()
	if p == nil || p.turn != turn || p.day != day {
		return nil
	}
	return p
}

func (k *kept) put(address string, turn, day int64, p *keptPage) {
	p.turn, p.day = turn, day
	p.head = p.ready(k.header)
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.pages == nil || k.size > maxKept {
		k.pages, k.size = map[string]*keptPage{}, 0
	}
	if before := k.pages[address]; before != nil {
		k.size -= before.size()
	}
	k.pages[address] = p
	k.size += p.size()
}

func (p *keptPage) size() int { return len(p.plain) + len(p.packed) + len(p.head) }

// ready writes the status line and the header of a packed page, with those of every page.
func (p *keptPage) ready(all http.Header) []byte {
	if p.packed == nil {
		return nil
	}
	h := http.Header{"Content-Encoding": {"gzip"}, "Etag": {p.packedTag}, "Content-Length": {strconv.Itoa(len(p.packed))}}
	maps.Copy(h, p.header)
	for name, values := range all {
		if h[name] == nil {
			h[name] = values
		}
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, "HTTP/1.1 %d %s\r\n", p.status, http.StatusText(p.status))
	if err := h.Write(&b); err != nil {
		return nil // memory does not fail; the page goes its other way
	}
	return b.Bytes()
}

var packers = sync.Pool{New: func() any {
	w, err := gzip.NewWriterLevel(nil, 2)
	if err != nil {
		panic(err) // the level is a constant
	}
	return w
}}

// compress makes a page ready to be sent.
func compress(p page) *keptPage {
	k := &keptPage{status: p.status, header: p.header, plain: p.body}
	if p.header.Get("Cache-Control") == "" {
		p.header.Set("Cache-Control", "no-cache") // may be kept, and is asked for again
	}
	kind := p.header.Get("Content-Type")
	if len(p.body) < worthPacking || strings.HasPrefix(kind, "font/") || kind == "application/zip" {
		k.tag(p.body)
		return k
	}
	var b bytes.Buffer
	b.Grow(len(p.body) / 5)
	w := packers.Get().(*gzip.Writer)
	defer packers.Put(w)
	w.Reset(&b)
	_, err := w.Write(p.body)
	if err == nil {
		err = w.Close()
	}
	if err != nil {
		k.tag(p.body)
		return k // writing to memory does not fail; the page as it is would do
	}
	p.header.Set("Vary", "Accept-Encoding")
	k.plain, k.packed = nil, b.Bytes()
	k.tag(k.packed)
	return k
}

// tag makes the entity tags from the bytes that are kept: as long as the program is the same, equal pages pack to equal bytes.
func (p *keptPage) tag(kept []byte) {
	sum := sha256.Sum256(kept)
	text := hex.EncodeToString(sum[:12])
	p.etag, p.packedTag = `"`+text+`"`, `"`+text+`-z"`
}

// answer sends the page, or says that the reader has it already.
func (p *keptPage) answer(w http.ResponseWriter, r *http.Request) error {
	h := w.Header()
	for name, values := range p.header {
		h[name] = values
	}
	body, tag := p.plain, p.etag
	if p.packed != nil && strings.Contains(r.Header.Get("Accept-Encoding"), "gzip") {
		body, tag = p.packed, p.packedTag
		h["Content-Encoding"] = []string{"gzip"}
	}
	h["Etag"] = []string{tag}
	if p.status == http.StatusOK {
		if known := r.Header.Get("If-None-Match"); known != "" && strings.Contains(known, tag) {
			delete(h, "Content-Encoding")
			w.WriteHeader(http.StatusNotModified)
			return nil
		}
	}
	if body == nil && p.packed != nil {
		var err error
		if body, err = p.unpack(); err != nil {
			return err
		}
	}
	h["Content-Length"] = []string{strconv.Itoa(len(body))}
	w.WriteHeader(p.status)
	if r.Method == http.MethodHead {
		return nil
	}
	_, err := w.Write(body)
	return err
}

// unpack is the page for the few who cannot unpack it themselves.
func (p *keptPage) unpack() ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(p.packed))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	_, err = b.ReadFrom(z)
	return b.Bytes(), err
}

package site

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"net/http"
	"strconv"
	"strings"
	"sync"

	"github.com/hashicorp/golang-lru/v2/simplelru"
	"github.com/klauspost/compress/gzip"
)

// kept are pages in memory, compressed: those that were asked for last. One holds until its turn or its day has passed.
type kept struct {
	mu    sync.Mutex
	pages *simplelru.LRU[string, *keptPage]
	size  int
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
	length    []string // of what is kept
}

// maxKept bounds the pages in memory, in bytes; maxKeptPages their number. Beyond it, those go that nobody asked for longest.
const (
	maxKept      = 256 << 20
	maxKeptPages = 1 << 20
)

// worthPacking is from how many bytes on compressing pays.
const worthPacking = 600

func newKept() *kept {
	k := &kept{}
	pages, err := simplelru.NewLRU(maxKeptPages, func(_ string, p *keptPage) { k.size -= p.size() })
	if err != nil {
		panic(err) // a size below 1
	}
	k.pages = pages
	return k
}

func (k *kept) find(address string, turn, day int64) *keptPage {
	k.mu.Lock()
	defer k.mu.Unlock()
	p, there := k.pages.Get(address)
	if !there || p.turn != turn || p.day != day {
		return nil
	}
	return p
}

func (k *kept) put(address string, turn, day int64, p *keptPage) {
	p.turn, p.day = turn, day
	k.mu.Lock()
	defer k.mu.Unlock()
	k.pages.Remove(address) // so that its size is taken off
	k.pages.Add(address, p)
	k.size += p.size()
	for k.size > maxKept {
		k.pages.RemoveOldest()
	}
}

// KeptBytes is how much of memory the pages take that are kept.
func (s *Site) KeptBytes() int {
	s.kept.mu.Lock()
	defer s.kept.mu.Unlock()
	return s.kept.size
}

func (p *keptPage) size() int { return len(p.plain) + len(p.packed) + 200 } // and a little for what is around

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
		return k.tagged(p.body)
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
		return k.tagged(p.body) // writing to memory does not fail; the page as it is would do
	}
	p.header.Set("Vary", "Accept-Encoding")
	k.plain, k.packed = nil, b.Bytes()
	return k.tagged(k.packed)
}

// tagged makes the entity tags from the bytes that are kept: as long as the program is the same, equal pages pack to equal bytes.
func (p *keptPage) tagged(kept []byte) *keptPage {
	sum := sha256.Sum256(kept)
	text := hex.EncodeToString(sum[:12])
	p.etag, p.packedTag = `"`+text+`"`, `"`+text+`-z"`
	p.length = []string{strconv.Itoa(len(kept))}
	return p
}

// answer sends the page, or says that the reader has it already.
func (p *keptPage) answer(w http.ResponseWriter, r *http.Request) error {
	h := w.Header()
	for name, values := range p.header {
		h[name] = values
	}
	body, tag, length := p.plain, p.etag, p.length
	if p.packed != nil {
		if takesGzip(r.Header["Accept-Encoding"]) {
			body, tag = p.packed, p.packedTag
			h["Content-Encoding"] = gzipped
		} else {
			var err error
			if body, err = p.unpack(); err != nil {
				return err
			}
			length = []string{strconv.Itoa(len(body))}
		}
	}
	h["Etag"] = []string{tag}
	if p.status == http.StatusOK && known(r.Header.Get("If-None-Match"), tag) {
		delete(h, "Content-Encoding")
		w.WriteHeader(http.StatusNotModified)
		return nil
	}
	h["Content-Length"] = length
	w.WriteHeader(p.status)
	if r.Method == http.MethodHead {
		return nil
	}
	_, err := w.Write(body)
	return err
}

var gzipped = []string{"gzip"}

// takesGzip tells whether a reader takes gzip: whether it is named, or everything is, and not with the weight 0 (RFC 9110, section 12.5.3).
func takesGzip(fields []string) bool {
	takes, all := -1.0, -1.0
	for _, field := range fields {
		for item := range strings.SplitSeq(field, ",") {
			coding, parameters, _ := strings.Cut(item, ";")
			weight := 1.0
			if q, ok := strings.CutPrefix(strings.ToLower(strings.ReplaceAll(parameters, " ", "")), "q="); ok {
				var err error
				if weight, err = strconv.ParseFloat(q, 64); err != nil {
					weight = 0
				}
			}
			switch strings.ToLower(strings.TrimSpace(coding)) {
			case "gzip", "x-gzip":
				takes = max(takes, weight)
			case "*":
				all = weight
			}
		}
	}
	return takes > 0 || takes < 0 && all > 0
}

// known tells whether an entity tag is among those that a reader has, compared weakly (RFC 9110, section 13.1.2).
func known(field, tag string) bool {
	for one := range strings.SplitSeq(field, ",") {
		one = strings.TrimPrefix(strings.TrimSpace(one), "W/")
		if one == tag || one == "*" {
			return true
		}
	}
	return false
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

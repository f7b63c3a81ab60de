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

// pageCache are pages in memory, compressed: those that were asked for last. One holds until its generation or its day has passed.
type pageCache struct {
	mu    sync.Mutex
	pages *simplelru.LRU[string, *cachedPage]
	size  int
}

// cachedPage is a page as it is sent.
type cachedPage struct {
	generation, day int64
	status          int
	header          http.Header
	plain           []byte // nil where it is kept compressed
	packed          []byte // gzip (RFC 1952)
	etag            string // a strong one of the plain text, in quotes (RFC 9110, section 8.8.3)
	packedTag       string
	length          []string // of what is kept
}

// maxCacheBytes bounds the pages in memory; maxCachedPages their number. Beyond it, those go that nobody asked for longest.
const (
	maxCacheBytes  = 256 << 20
	maxCachedPages = 1 << 20
)

// worthPacking is from how many bytes on compressing pays.
const worthPacking = 600

func newPageCache() *pageCache {
	k := &pageCache{}
	pages, err := simplelru.NewLRU(maxCachedPages, func(_ string, p *cachedPage) { k.size -= p.size() })
	if err != nil {
		panic(err) // a size below 1
	}
	k.pages = pages
	return k
}

func (k *pageCache) find(address string, generation, day int64) *cachedPage {
	k.mu.Lock()
	defer k.mu.Unlock()
	p, there := k.pages.Get(address)
	if !there || p.generation != generation || p.day != day {
		return nil
	}
	return p
}

func (k *pageCache) put(address string, generation, day int64, p *cachedPage) {
	p.generation, p.day = generation, day
	k.mu.Lock()
	defer k.mu.Unlock()
	k.pages.Remove(address) // so that its size is taken off
	k.pages.Add(address, p)
	k.size += p.size()
	for k.size > maxCacheBytes {
		k.pages.RemoveOldest()
	}
}

// CachedBytes is how much of memory the pages take that are kept.
func (s *Site) CachedBytes() int {
	s.cache.mu.Lock()
	defer s.cache.mu.Unlock()
	return s.cache.size
}

func (p *cachedPage) size() int { return len(p.plain) + len(p.packed) + 200 } // and a little for what is around

var packers = sync.Pool{New: func() any {
	w, err := gzip.NewWriterLevel(nil, 2)
	if err != nil {
		panic(err) // the level is a constant
	}
	return w
}}

// compress makes a page ready to be sent.
func compress(p page) *cachedPage {
	k := &cachedPage{status: p.status, header: p.header, plain: p.body}
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
	p.header.Add("Vary", "Accept-Encoding")
	k.plain, k.packed = nil, b.Bytes()
	return k.tagged(k.packed)
}

// tagged makes the entity tags from the bytes that are kept: as long as the program is the same, equal pages pack to equal bytes.
func (p *cachedPage) tagged(kept []byte) *cachedPage {
	sum := sha256.Sum256(kept)
	text := hex.EncodeToString(sum[:12])
	p.etag, p.packedTag = `"`+text+`"`, `"`+text+`-z"`
	p.length = []string{strconv.Itoa(len(kept))}
	return p
}

// answer sends the page, or says that the reader has it already.
func (p *cachedPage) answer(w http.ResponseWriter, r *http.Request) error {
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

// takesGzip reports whether a reader takes gzip: whether it is named, or everything is, and not with the weight 0 (RFC 9110, section
// 12.5.3).
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

// known reports whether an entity tag is among those that a reader has, compared weakly (RFC 9110, section 13.1.2).
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
func (p *cachedPage) unpack() ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(p.packed))
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	_, err = b.ReadFrom(z)
	return b.Bytes(), err
}

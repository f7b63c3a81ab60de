package site

import (
	"net/http"
	"net/http/httptest"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"oldledger/ledger"
)

// TestAtOnce has many readers ask for the same pages at once, before any of them is kept, while acts let go of what is.
func TestAtOnce(t *testing.T) {
	t.Parallel()
	l, h := newSite(t, small)
	var readers sync.WaitGroup
	for i := range 8 {
		readers.Go(func() {
			for range 20 {
				for _, path := range []string{
					"/reference/assets/site.css", "/reference/assets/site.js", "/reference/berths/",
					"/reference/berths/1.0.0/operations/readA", "/reference/berths/1.0.0/search?q=b", "/embed/berths/1.0.0/", "/reference/feed.atom",
				} {
					r := httptest.NewRequest(http.MethodGet, path, nil)
					if i%2 == 0 {
						r.Header.Set("Accept-Encoding", "gzip")
					}
					w := httptest.NewRecorder()
					h.ServeHTTP(w, r)
					assert.Equal(t, http.StatusOK, w.Code, path)
				}
			}
		})
	}
	readers.Go(func() {
		for range 10 {
			_, err := l.PutLooks(t.Context(), editor, "berths", looksWithFooter)
			assert.NoError(t, err)
		}
	})
	readers.Wait()
}

var looksWithFooter = ledger.Looks{Footer: "By the office."}

// TestTakesGzip reads what a reader takes, as RFC 9110 has it.
func TestTakesGzip(t *testing.T) {
	t.Parallel()
	for field, takes := range map[string]bool{
		"gzip": true, "br, gzip": true, "GZIP;q=0.5": true, "gzip; q=0": false, "gzip;q=0.000": false, "gzip;q=0, *": false, "*": true,
		"*;q=0": false, "identity": false, "": false,
		"br;q=1.0, *;q=0.1": true, "notgzip": false, "gzip;q=x": false, "x-gzip": true,
	} {
		assert.Equal(t, takes, takesGzip([]string{field}), field)
	}
	assert.True(t, takesGzip([]string{"br", "gzip"}))
}

// TestKeptLetsGoOfTheOldest keeps within its bound by what nobody asked for longest, and never lets go of all.
func TestKeptLetsGoOfTheOldest(t *testing.T) {
	t.Parallel()
	k := newPageCache()
	body := make([]byte, 1<<20)
	for i := range 400 {
		k.put(strconv.Itoa(i), 1, 1, &cachedPage{plain: body})
		assert.NotNil(t, k.find("0", 1, 1), "what is asked for stays")
		assert.LessOrEqual(t, k.size, maxCacheBytes)
	}
	assert.Nil(t, k.find("1", 1, 1))
	assert.NotNil(t, k.find("399", 1, 1))
	assert.Greater(t, k.pages.Len(), 250)
	for range 3 { // the same page again takes no more room
		k.put("399", 1, 1, &cachedPage{plain: body})
	}
	size := 0
	for _, p := range k.pages.Values() {
		size += p.size()
	}
	assert.Equal(t, size, k.size)
}

// TestSafely turns what would end the service into an error that tells where.
func TestSafely(t *testing.T) {
	t.Parallel()
	err := safely(func() error { panic("a page that cannot be") })
	assert.ErrorContains(t, err, "a page that cannot be")
	assert.ErrorContains(t, err, "page_cache_test.go")
	assert.NoError(t, safely(func() error { return nil }))
}

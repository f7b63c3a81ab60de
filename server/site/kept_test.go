package site

import (
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"

	"oldledger/ledger"
)

// TestAtOnce has many readers ask for the same pages at once, before any of them is kept, while acts let go of what is.
func TestAtOnce(t *testing.T) {
	l, h := newSite(t, small)
	var readers sync.WaitGroup
	for i := range 8 {
		readers.Go(func() {
			for range 20 {
				for _, path := range []string{"/reference/assets/site.css", "/reference/assets/site.js", "/reference/berths/", "/reference/berths/1.0.0/operations/readA", "/reference/berths/1.0.0/search?q=b", "/embed/berths/1.0.0/", "/reference/feed.atom"} {
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

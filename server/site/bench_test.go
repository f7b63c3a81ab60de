package site

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"testing"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/store"
	"oldledger/tools/large"
)

// largeSite makes a site whose ledger holds a draft of the large description.
func largeSite(b *testing.B) (*Site, *ledger.Ledger, []byte) {
	ctx := context.Background()
	s, err := store.Open(ctx, filepath.Join(b.TempDir(), "ledger.sqlite"))
	require.NoError(b, err)
	b.Cleanup(func() { require.NoError(b, s.Close()) })
	l := ledgertest.Opened(b, ledger.New(s, ledger.Options{Now: time.Now, Random: rand.Reader}))
	pages, err := New(Options{Ledger: l, House: "Saltmere Harbour", Public: &url.URL{Scheme: "http", Host: "example.com"}, Log: quiet()})
	require.NoError(b, err)
	text := []byte(large.Description(large.Operations, nil).Indented())
	_, err = l.Record(ctx, editor, ledger.Submission{API: "large", File: "large.json", Text: text})
	require.NoError(b, err)
	return pages, l, text
}

// BenchmarkPublish publishes the large description, in the service that recorded it: all its pages, and what is searched. The figure is how
// many times as long it takes as decoding the description's text into maps.
func BenchmarkPublish(b *testing.B) {
	ctx := context.Background()
	var published, decoded time.Duration
	for b.Loop() {
		b.StopTimer()
		pages, l, text := largeSite(b)
		for range 3 {
			start := time.Now()
			var into any
			require.NoError(b, json.Unmarshal(text, &into))
			decoded += time.Since(start) / 3
		}
		b.StartTimer()
		start := time.Now()
		_, err := l.Publish(ctx, editor, "large@1.0.0", nil)
		require.NoError(b, err)
		pages.Wait()
		published += time.Since(start)
		require.Greater(b, pages.cache.pages.Len(), 2*large.Operations)
		heaviest := 0
		for _, p := range pages.cache.pages.Values() {
			heaviest = max(heaviest, p.size())
		}
		require.Less(b, heaviest, 100_000)
		b.ReportMetric(float64(heaviest)/1000, "KB/heaviest")
		b.ReportMetric(float64(pages.cache.pages.Len()), "pages")
		b.ReportMetric(float64(pages.cache.size)/float64(pages.cache.pages.Len())/1000, "KB/page")
	}
	b.ReportMetric(float64(published)/float64(decoded), "x-decoding")
}

// BenchmarkSearch asks the large description, with a word that is misspelt and one that is begun.
func BenchmarkSearch(b *testing.B) {
	pages, l, _ := largeSite(b)
	_, err := l.Publish(context.Background(), editor, "large@1.0.0", nil)
	require.NoError(b, err)
	pages.Wait()
	e := echo.New()
	pages.Register(e)
	for b.Loop() {
		w := httptest.NewRecorder()
		e.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/reference/large/1.0.0/search?q=thimg+amou", nil))
		require.Equal(b, http.StatusOK, w.Code)
	}
}

package server_test

import (
	"context"
	"crypto/rand"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/ledger"
	"oldledger/ledger/ledgertest"
	"oldledger/server"
	"oldledger/store"
	"oldledger/tools/many"
)

// questions are what readers look for: what stands in many titles and in few, misspelt, begun, and in descriptions only.
var questions = []string{
	"draught", "lenght", "berth+list", "crew+amount", "windo", "kind", "permit+holder", "office", "invoice", "tarif", "moorin", "get+crane",
	"patch", "vessel+register", "curency", "heading", "inspecton+state", "signal", "held", "stay+arrival",
	"remove", "lock", "carier", "since", "quay+length", "buoy", "postion", "harbour", "cargo+weight", "gate",
}

// shelfSize is how many APIs and versions BenchmarkMany reads: MANY_APIS and MANY_VERSIONS, else 500 and 20.
func shelfSize() (apis, versions int) {
	apis, versions = 500, 20
	if n, err := strconv.Atoi(os.Getenv("MANY_APIS")); err == nil {
		apis = n
	}
	if n, err := strconv.Atoi(os.Getenv("MANY_VERSIONS")); err == nil {
		versions = n
	}
	return apis, versions
}

// BenchmarkMany reads a shelf of 10,000 descriptions as twenty readers at once do, while somebody records: the lists, the search, the site
// map, an API's page. It tells the time within which 95 of 100 are answered, how long the service needed from its start to its first
// answer, and its memory.
func BenchmarkMany(b *testing.B) {
	ctx := context.Background()
	path := filepath.Join(b.TempDir(), "ledger.sqlite")
	if kept := os.Getenv("MANY_KEEP"); kept != "" { // filling takes minutes
		path = kept
	}
	_, err := os.Stat(path)
	filled := err == nil
	s, err := store.Open(ctx, path)
	require.NoError(b, err)
	defer s.Close()
	options := ledger.Options{Now: time.Now, Random: rand.Reader, Engine: "bench"}
	l := ledgertest.Opened(b, ledger.New(s, options))
	who := ledger.By(ledger.Person{Name: "teodor", Full: "Teodor Brand", Role: ledger.Publisher})
	apis, versions := shelfSize()
	if !filled {
		start := time.Now()
		require.NoError(b, many.Fill(ctx, l, who, apis, versions))
		b.ReportMetric(float64(time.Since(start).Milliseconds())/float64(apis*versions), "ms/recorded")
	}
	for b.Loop() {
		start := time.Now()
		l = ledger.New(s, options)
		web := httptest.NewUnstartedServer(nil)
		srv, err := server.New(server.Options{
			Ledger: l, House: "Saltmere Harbour",
			Public: &url.URL{Scheme: "http", Host: web.Listener.Addr().String()}, Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
		})
		require.NoError(b, err)
		web.Config.Handler = srv.Handler()
		web.Start()
		token, err := l.MakeToken(ctx, who, ledger.TokenWish{Label: "bench"})
		if err != nil {
			require.NoError(b, l.AddPerson(ctx, ledger.Itself, who.Person, "long enough"))
			token, err = l.MakeToken(ctx, who, ledger.TokenWish{Label: "bench"})
		}
		require.NoError(b, err)
		get := func(path string) (time.Duration, error) {
			began := time.Now()
			req, err := http.NewRequest("GET", web.URL+path, nil)
			if err != nil {
				return 0, err
			}
			if path[:4] == "/api" {
				req.Header.Set("Authorization", "Bearer "+token)
			}
			r, err := http.DefaultClient.Do(req)
			if err != nil {
				return 0, err
			}
			_, err = io.Copy(io.Discard, r.Body)
			if r.StatusCode != http.StatusOK {
				err = fmt.Errorf("%s: %s", path, r.Status)
			}
			_ = r.Body.Close()
			return time.Since(began), err
		}
		_, err = get("/readyz")
		require.NoError(b, err)
		b.ReportMetric(float64(time.Since(start).Milliseconds()), "ms/ready")
		start = time.Now()
		srv.Warm() // as a service that has run for a while
		b.ReportMetric(time.Since(start).Seconds(), "s/warm")
		kinds := map[string]func(n int) string{
			"list":  func(int) string { return "/api/v1/apis" },
			"shelf": func(int) string { return "/reference/" },
			"search": func(n int) string {
				return "/reference/search?q=" + questions[n%len(questions)]
			},
			"sitemap": func(int) string { return "/reference/sitemap.xml" },
			"page":    func(n int) string { return "/reference/" + many.Name(n%apis) + "/" },
			"api":     func(n int) string { return "/api/v1/apis/" + many.Name(n%apis) },
		}
		first := map[string]time.Duration{}
		for kind, path := range kinds { // what is made once is made
			if first[kind], err = get(path(0)); err != nil {
				require.NoError(b, err)
			}
		}
		writing, stop := context.WithCancel(ctx)
		var recorded atomic.Int64
		var writer, readers sync.WaitGroup
		writer.Go(func() {
			for n := 0; writing.Err() == nil; n++ {
				if _, err := l.Record(writing, who, ledger.Submission{Text: many.Description(n%apis, versions+1+n%2)}); err == nil {
					recorded.Add(1)
				}
			}
		})
		var mu sync.Mutex
		took := map[string][]time.Duration{}
		for reader := range 20 {
			readers.Go(func() {
				for n := range 30 {
					for kind, path := range kinds {
						d, err := get(path(reader*31 + n*7))
						mu.Lock()
						took[kind] = append(took[kind], d)
						mu.Unlock()
						if err != nil {
							b.Error(err)
						}
					}
				}
			})
		}
		readers.Wait()
		stop()
		writer.Wait()
		for kind, all := range took {
			slices.Sort(all)
			b.ReportMetric(float64(all[len(all)*95/100].Microseconds())/1000, "ms/"+kind)
			b.Logf("%s: first %v, middle %v, 95th %v, slowest %v", kind, first[kind], all[len(all)/2], all[len(all)*95/100], all[len(all)-1])
		}
		b.ReportMetric(float64(recorded.Load()), "recorded")
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		b.ReportMetric(float64(m.Sys>>20), "MB")
		web.Close()
	}
}

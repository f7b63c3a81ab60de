package server

import (
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"oldledger/ledger"
	"oldledger/server/site"
	"oldledger/server/trace"
)

// watch writes a line of log for every request, and counts them.
type watch struct {
	log      *slog.Logger
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	took     *prometheus.HistogramVec
	known    sync.Map // series, by their keys
}

func newWatch(log *slog.Logger, l *ledger.Ledger, pages *site.Site) *watch {
	w := &watch{
		log: log, registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "oldledger_requests_total",
			Help: "Requests, by method, route and status.",
		}, []string{"method", "route", "status"}),
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "oldledger_request_seconds", Help: "How long requests took, by method and route.",
			Buckets: []float64{0.001, 0.005, 0.02, 0.1, 0.5, 2, 10},
		}, []string{"method", "route"}),
	}
	w.registry.MustRegister(
		collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), w.requests, w.took,
		prometheus.NewCounterFunc(prometheus.CounterOpts{
			Name: "oldledger_comparisons_computed_total",
			Help: "Comparisons that were computed, and not found.",
		}, func() float64 { return float64(l.Computed()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "oldledger_kept_pages_bytes", Help: "Size of the rendered pages in memory."},
			func() float64 { return float64(pages.CachedBytes()) }),
	)
	return w
}

// metrics answers what was counted, in the text format of Prometheus.
func (w *watch) metrics() http.Handler {
	return promhttp.HandlerFor(w.registry, promhttp.HandlerOpts{})
}

// status takes down the status of an answer.
type status struct {
	http.ResponseWriter
	code int
}

func (s *status) WriteHeader(code int) {
	if s.code == 0 || s.code < http.StatusOK {
		s.code = code
	}
	s.ResponseWriter.WriteHeader(code)
}

func (s *status) Write(p []byte) (int, error) {
	if s.code == 0 {
		s.code = http.StatusOK
	}
	return s.ResponseWriter.Write(p)
}

// Unwrap is for http.ResponseController.
func (s *status) Unwrap() http.ResponseWriter { return s.ResponseWriter }

var statuses = sync.Pool{New: func() any { return &status{} }}

// watched answers at once, where it can, or else with next, and writes down what came of it. What is answered at once is most of all, and
// needs no name unless it is logged.
func (w *watch) watched(atOnce func(http.ResponseWriter, *http.Request) (route string), next http.Handler) http.Handler {
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		began := time.Now()
		s := statuses.Get().(*status)
		s.ResponseWriter, s.code = rw, 0
		defer func() {
			s.ResponseWriter = nil
			statuses.Put(s)
		}()
		if route := atOnce(s, r); route != "" {
			w.note(r, trace.Request{Route: route}, s.code, time.Since(began))
			return
		}
		ctx, req := trace.New(r.Context())
		next.ServeHTTP(s, r.WithContext(ctx))
		w.note(r, *req, s.code, time.Since(began))
	})
}

// series are the counts of one kind of request.
type series struct {
	requests prometheus.Counter
	took     prometheus.Observer
}

// seriesKey names one; looking it up here is quicker than by its labels.
type seriesKey struct {
	method, route string
	code          int
}

func (w *watch) seriesOf(key seriesKey) series {
	if s, there := w.known.Load(key); there {
		return s.(series)
	}
	s := series{w.requests.WithLabelValues(key.method, key.route, strconv.Itoa(key.code)), w.took.WithLabelValues(key.method, key.route)}
	w.known.Store(key, s)
	return s
}

func (w *watch) note(r *http.Request, req trace.Request, code int, took time.Duration) {
	if code == 0 {
		code = http.StatusOK // an empty answer
	}
	method, route := knownMethod(r.Method), req.Route
	if route == "" {
		route = "none"
	}
	s := w.seriesOf(seriesKey{method, route, code})
	s.requests.Inc()
	s.took.Observe(took.Seconds())
	level := slog.LevelInfo
	if code >= http.StatusInternalServerError {
		level = slog.LevelError
	}
	if !w.log.Enabled(r.Context(), level) {
		return
	}
	if req.ID == "" {
		req.ID = trace.Name()
	}
	attrs := []slog.Attr{
		slog.String("method", method), slog.String("route", route), slog.String("path", logged(r.URL.EscapedPath())), slog.Int("status", code),
		slog.Float64("ms", float64(took.Microseconds())/1000), slog.String("trace", req.ID),
	}
	if req.Err != nil {
		attrs = append(attrs, slog.String("error", req.Err.Error()))
	}
	w.log.LogAttrs(r.Context(), level, "request", attrs...)
}

// logged is a path as the log has it: without the key of an address that lets in whoever knows it.
func logged(path string) string {
	for _, before := range []string{"/preview/", "/open/", "/feeds/"} {
		if key, ok := strings.CutPrefix(path, before); ok {
			_, rest, _ := strings.Cut(key, "/")
			return before + "…/" + rest
		}
	}
	return path
}

// knownMethod keeps methods that nobody knows from becoming as many series.
func knownMethod(m string) string {
	switch m {
	case http.MethodGet, http.MethodHead, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete, http.MethodOptions:
		return m
	}
	return "other"
}

package usage_test

import (
	"bufio"
	"bytes"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/contract"
	"oldledger/core/usage"
	"oldledger/core/versioning"
)

// manyServices are n APIs of three versions, of some twenty operations each.
func manyServices(b testing.TB, n int) *usage.Router {
	b.Helper()
	scheme, err := versioning.Parse("path /v{line}")
	require.NoError(b, err)
	r := usage.NewRouter()
	for i := range n {
		s := usage.Service{API: fmt.Sprintf("api-%d", i), Scheme: scheme}
		for _, text := range []string{"1.0.0", "1.1.0", "2.0.0"} {
			number, err := contract.ParseVersion(text)
			require.NoError(b, err)
			server := []*contract.Server{{URL: fmt.Sprintf("https://api.saltmere.example/api-%d/v%s", i, text[:1])}}
			c := &contract.Contract{}
			for j := range 5 {
				for _, form := range []string{"/things-%d", "/things-%d/{id}", "/things-%d/{id}/parts", "/things-%d/{id}/parts/{part}"} {
					c.Operations = append(c.Operations, &contract.Operation{Method: "GET", Path: fmt.Sprintf(form, j), Servers: server})
				}
			}
			v := versioning.Version{Number: number, Text: text}
			s.Versions = append(s.Versions, usage.Version{Version: v, Operations: usage.OperationsOf(c)})
		}
		r.Add(s)
	}
	return r
}

// manyLines are n lines of a log in the Combined Log Format.
func manyLines(n, apis int) []byte {
	random := rand.New(rand.NewPCG(20261127, 1))
	var b bytes.Buffer
	at := time.Date(2026, 9, 1, 0, 0, 0, 0, time.UTC)
	for range n {
		at = at.Add(time.Duration(random.IntN(2000)) * time.Millisecond)
		path := fmt.Sprintf("/api-%d/v%d/things-%d/%x", random.IntN(apis), 1+random.IntN(2), random.IntN(6), random.Uint32())
		if random.IntN(3) == 0 {
			path += "/parts?page=" + fmt.Sprint(random.IntN(100))
		}
		fmt.Fprintf(&b, "192.0.2.%d - app-%d [%s] \"GET %s HTTP/1.1\" %d %d \"https://apps.saltmere.example/%x\" \"App/%d.1 (Saltmere; arm64)\"\n",
			random.IntN(256), random.IntN(200), at.Format("02/Jan/2006:15:04:05 -0700"), path, []int{200, 200, 200, 404, 500}[random.IntN(5)],
			random.IntN(10_000), random.Uint32(), random.IntN(40))
	}
	return b.Bytes()
}

// split is what there is to beat: it only splits the lines, and parses their times.
func split(log []byte) (lines int, err error) {
	s := bufio.NewScanner(bytes.NewReader(log))
	for s.Scan() {
		fields := strings.Split(s.Text(), " ")
		if _, err := time.Parse("02/Jan/2006:15:04:05 -0700", strings.Trim(fields[3]+" "+fields[4], "[]")); err != nil {
			return lines, err
		}
		lines++
	}
	return lines, s.Err()
}

// BenchmarkTally counts logs against 500 APIs, and says how many lines it reads of those that a program reads that only splits them.
func BenchmarkTally(b *testing.B) {
	r := manyServices(b, 500)
	for _, lines := range []int{200_000, 5_000_000} {
		b.Run(fmt.Sprint(lines), func(b *testing.B) {
			log := manyLines(lines, 500)
			var counting, splitting time.Duration
			for b.Loop() {
				began := time.Now()
				t := usage.NewTally(r, usage.Options{Now: now})
				require.NoError(b, t.Read(b.Context(), bytes.NewReader(log)))
				counting += time.Since(began)
				began = time.Now()
				n, err := split(log)
				require.NoError(b, err)
				require.Equal(b, lines, n)
				splitting += time.Since(began)
			}
			b.ReportMetric(float64(splitting)/float64(counting), "of-splitting")
			b.ReportMetric(float64(counting.Microseconds())/float64(b.N)/float64(lines), "us/line")
		})
	}
}

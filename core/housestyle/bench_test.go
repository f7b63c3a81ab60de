package housestyle_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/format"
	"oldledger/core/housestyle"
	"oldledger/core/source"
	"oldledger/tools/large"
)

// BenchmarkCheck reads descriptions and judges them by all rules. It tells the time as a multiple of that of decoding the text.
func BenchmarkCheck(b *testing.B) {
	style := housestyle.Ours()
	for _, c := range []struct {
		name       string
		operations int
		levels     int
	}{{"300 KB", 25, 0}, {"13 MB", 1100, 0}} {
		text := []byte(large.Inlined(large.Description(c.operations, nil), c.levels).Indented())
		b.Run(c.name, func(b *testing.B) {
			var decoding time.Duration
			found := 0
			for b.Loop() {
				start := time.Now()
				var v any
				require.NoError(b, json.Unmarshal(text, &v))
				decoding += time.Since(start)
				f, err := source.Parse("large.json", text)
				require.NoError(b, err)
				c, err := format.Read(source.SetOf(f))
				require.NoError(b, err)
				all, err := housestyle.Examine(b.Context(), c, style, housestyle.Options{})
				require.NoError(b, err)
				found = len(all)
			}
			b.ReportMetric(float64(b.Elapsed()-decoding)/float64(decoding), "x-decoding")
			b.ReportMetric(float64(len(text))/1e6, "MB")
			b.ReportMetric(float64((b.Elapsed()-decoding).Milliseconds())/float64(b.N), "ms/check")
			b.ReportMetric(float64(found), "found")
		})
	}
}

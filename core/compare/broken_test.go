package compare_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/openapi"
	"oldledger/core/source"
	"oldledger/tools/large"
)

func readBroken(tb testing.TB, operations int, edited bool) *contract.Contract {
	f, err := source.Parse("slips.json", []byte(large.Broken(operations, edited).Indented()))
	require.NoError(tb, err)
	c, err := openapi.Read(f)
	require.NoError(tb, err)
	return c
}

// TestEverythingBreaks tells every break of a version in which every operation breaks, each as one change.
func TestEverythingBreaks(t *testing.T) {
	t.Parallel()
	c := compare.Contracts(readBroken(t, 160, false), readBroken(t, 160, true), compare.Options{})
	require.Equal(t, compare.Counts{Breaking: 140, Hazard: 20, Safe: 20}, c.Counts) // a name replaced by another is a loss and a gain
	for _, ch := range c.Changes {
		require.False(t, ch.Undecided, ch.Title)
		require.Len(t, ch.Reach, 1, ch.Title)
	}
}

// BenchmarkEverythingBreaks compares two versions of 3,000 operations, 9 MB of JSON each, in which every operation breaks. The figure
// ms/change is the time of comparing, reading left out, for each change that is told.
func BenchmarkEverythingBreaks(b *testing.B) {
	old, now := readBroken(b, 3000, false), readBroken(b, 3000, true)
	var comparing time.Duration
	changes := 0
	for b.Loop() {
		start := time.Now()
		c := compare.Contracts(old, now, compare.Options{})
		comparing += time.Since(start)
		changes += len(c.Changes)
	}
	b.ReportMetric(float64(comparing.Microseconds())/1000/float64(changes), "ms/change")
	b.ReportMetric(float64(changes)/float64(b.N), "changes")
}

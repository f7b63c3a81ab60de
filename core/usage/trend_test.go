package usage_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"oldledger/core/usage"
)

// TestTrendOf finds the end of calls that become fewer, between an early and a late day, and says of others that they do not end.
func TestTrendOf(t *testing.T) {
	t.Parallel()
	line := func(days int, at func(int) float64) []int64 {
		calls := make([]int64, days)
		for i := range calls {
			calls[i] = int64(max(0, at(i)))
		}
		return calls
	}
	exact, ok := usage.TrendOf(line(56, func(i int) float64 { return 10 * float64(80-i) }))
	require.True(t, ok)
	require.InDelta(t, 24, exact.Early, 1.5, "after 55 days it is 25 to 80")
	require.InDelta(t, exact.Early, exact.Late, 1)
	for name, at := range map[string]func(int) float64{
		"as many as ever": func(int) float64 { return 100 }, "more and more": func(i int) float64 { return float64(i) }, "none": func(int) float64 { return 0 },
	} {
		_, ok := usage.TrendOf(line(90, at))
		require.False(t, ok, name)
	}
	_, ok = usage.TrendOf(line(20, func(i int) float64 { return float64(20 - i) }))
	require.False(t, ok, "too short")
	// Of drawn calls that end on a day, most ends lie between the two.
	random := rand.New(rand.NewPCG(20261202, 3))
	within, tries := 0, 400
	for range tries {
		days, end := 56, 60+random.Float64()*60
		trend, ok := usage.TrendOf(line(days, func(i int) float64 { return 8*(end-float64(i)) + 60*random.NormFloat64() + 0.5 }))
		if ok && trend.Early <= end-55 && end-55 <= trend.Late {
			within++
		}
	}
	require.InDelta(t, 0.8, float64(within)/float64(tries), 0.08)
	noisy, ok := usage.TrendOf(line(56, func(i int) float64 { return 1000 - float64(i) + 400*random.NormFloat64() }))
	require.True(t, !ok || math.IsInf(noisy.Late, 1) || noisy.Late > 100)
}

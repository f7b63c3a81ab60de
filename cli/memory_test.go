package cli

import (
	"runtime"
	"runtime/debug"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestCollectLate holds that the collector is put off, and works as usual from its first collection on. It changes what the process does,
// so that it runs beside no other test.
func TestCollectLate(t *testing.T) {
	percent, limit := debug.SetGCPercent(100), debug.SetMemoryLimit(-1)
	defer func() {
		debug.SetGCPercent(percent)
		debug.SetMemoryLimit(limit)
	}()
	a := &app{Environment: Environment{Getenv: func(string) string { return "" }}}
	a.collectLate()
	require.LessOrEqual(t, debug.SetMemoryLimit(-1), int64(uncollected))
	require.Eventually(t, func() bool {
		runtime.GC()
		return debug.SetMemoryLimit(-1) == limit
	}, 10*time.Second, 10*time.Millisecond)
	require.Equal(t, sparing, debug.SetGCPercent(100))

	a.Getenv = func(string) string { return "200" } // GOGC has the last word
	a.collectLate()
	require.Equal(t, 100, debug.SetGCPercent(100))
}

package cli

import (
	"runtime"
	"runtime/debug"
)

const (
	// uncollected is the size in bytes up to which a short process does not look for what it can give back: until then it mostly reads, and
	// keeps what it reads.
	uncollected = 384 << 20
	// sparing is the collector's target from then on, as GOGC counts.
	sparing = 60
)

// collectLate puts the garbage collector off until the process has grown to a size. GOGC has the last word, and a lower GOMEMLIMIT stands.
func (a *app) collectLate() {
	if a.Getenv("GOGC") != "" {
		return
	}
	given := debug.SetMemoryLimit(-1)
	debug.SetGCPercent(-1)
	debug.SetMemoryLimit(min(given, uncollected))
	runtime.AddCleanup(new([2]*int), func(limit int64) { // nothing holds the pair: the first collection finds it
		debug.SetGCPercent(sparing)
		debug.SetMemoryLimit(limit)
	}, given)
}

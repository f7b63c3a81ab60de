package site

import (
	"runtime/debug"
	"sync"
)

// haste lets memory grow while the pages of a large description are made: gathering garbage would take a quarter of the time, and in two
// seconds it is over.
type haste struct {
	mu     sync.Mutex
	users  int
	before int
}

// hastyPages is from how many pages on it is worth it; hastyPercent is the target meanwhile (runtime/debug.SetGCPercent).
const (
	hastyPages   = 500
	hastyPercent = 400
)

func (h *haste) begin() {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.users++; h.users == 1 {
		h.before = debug.SetGCPercent(hastyPercent)
		if h.before < 0 || h.before > hastyPercent { // whoever set it meant it
			debug.SetGCPercent(h.before)
		}
	}
}

func (h *haste) end() {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.users--; h.users == 0 {
		debug.SetGCPercent(h.before)
	}
}

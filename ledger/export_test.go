package ledger

// Computed is how many comparisons were computed, and not found.
func (l *Ledger) Computed() int64 { return l.computed.Load() }

package promise

// Settled are notices with the dates on which what they speak of leaves: each with its own, or with that of a notice of a whole around it
// that ends it earlier. lineOf gives the line of a version.
func Settled(notices []Notice, lineOf func(version string) string) []Notice {
	return settle(notices, func(whole, n Notice) bool {
		switch {
		case whole.Version != "":
			return n.Version == whole.Version
		case whole.Line != "":
			return n.Line == whole.Line || n.Version != "" && lineOf(n.Version) == whole.Line
		}
		return true
	})
}

// SettledIn are the Settled notices that speak of a version, with what holds for that version.
func SettledIn(notices []Notice, version, line string) []Notice {
	var all []Notice
	for _, n := range notices {
		if n.Covers(version, line) {
			all = append(all, n)
		}
	}
	return settle(all, func(whole, n Notice) bool {
		return !n.Whole() || whole.Version == "" && (whole.Line == "" || n.Version != "") // of an end of a version, its line knows nothing
	})
}

// settle ends notices by others; within reports whether a notice of a whole holds wherever another one does.
func settle(notices []Notice, within func(whole, n Notice) bool) []Notice {
	all := make([]Notice, len(notices))
	for i, n := range notices {
		all[i] = n
		for _, whole := range notices {
			if whole.Sunset == "" || all[i].Sunset != "" && whole.Sunset >= all[i].Sunset || !whole.encloses(n) || !within(whole, n) {
				continue
			}
			all[i].Sunset, all[i].Own, all[i].EndedBy = whole.Sunset, n.Sunset, whole.extent()
		}
	}
	return all
}

// encloses reports whether what a notice speaks of has in it what another one speaks of, in the same version.
func (n Notice) encloses(m Notice) bool {
	return n.Whole() || n.Operation != "" && n.OfOperation(m.Operation) && n.Value == "" && !m.SamePart(n)
}

// extent names the whole that a notice speaks of.
func (n Notice) extent() string {
	switch {
	case !n.Whole():
		return n.Part()
	case n.Version != "":
		return "version " + n.Version
	case n.Line != "":
		return "line " + n.Line
	}
	return "the API"
}

package guide

import (
	"slices"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
)

// A comparison of versions that are not neighbours says what differs in all. In which version each change came is found in the
// comparisons of the neighbours between them: the same change, or else what was done at the same place.

// origins are the changes after a version, by what they are found by.
func origins(history []promise.Past, after string) map[string][]Origin {
	start, err := contract.ParseVersion(after)
	if err != nil {
		return nil
	}
	found := map[string][]Origin{}
	for _, p := range history {
		if v, err := contract.ParseVersion(p.Version); err != nil || !v.GreaterThan(start) || p.Changes == nil {
			continue
		}
		for _, ch := range p.Changes.Changes {
			for _, key := range traces(ch) {
				o := Origin{p.Version, ch.ID}
				if known := found[key]; len(known) == 0 || known[len(known)-1].Version != o.Version {
					found[key] = append(known, o)
				}
			}
		}
	}
	return found
}

// between reports whether the history has more than one version after the old one.
func between(history []promise.Past, after string) bool {
	i := slices.IndexFunc(history, func(p promise.Past) bool { return p.Version == after })
	return i >= 0 && len(history)-i > 2
}

// traces are what a change is found by, the surest first.
func traces(ch *compare.Change) []string {
	all := []string{"id " + ch.ID, "kind " + ch.Kind + " " + ch.Operation + " " + ch.At}
	pointer := func(word string, p *compare.Place) {
		if p != nil && p.Pointer != "" {
			all = append(all, word+" "+ch.Backward.String()+" "+p.Pointer, word+" "+p.Pointer)
		}
	}
	pointer("old", ch.Old)
	pointer("new", ch.New)
	return append(all, "at "+ch.Operation+" "+ch.At)
}

// came finds where a change came; nothing where that is not known.
func (w *writer) came(ch *compare.Change) []Origin {
	for _, key := range traces(ch) {
		if o := w.origins[key]; o != nil {
			return o
		}
	}
	return []Origin{}
}

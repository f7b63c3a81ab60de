package edit

import (
	"slices"

	"oldledger/core/source"
)

// Fixes are the changes of a file that carry out fixes, in the order of the text, and the fixes that they carry out: not those of another
// file, nor those that touch an earlier one. They are proved as a whole: with them, the text can be read; else there are none.
func Fixes(f *source.File, fixes []*source.Fix) ([]Change, []*source.Fix) {
	var all []Change
	var done []*source.Fix
	for _, fix := range fixes {
		changes := changesOf(f, fix)
		if changes == nil || tidy(slices.Concat(all, changes)) == nil {
			continue
		}
		all, done = tidy(slices.Concat(all, changes)), append(done, fix)
	}
	if _, err := source.Parse(f.Name, Apply(f.Text, all)); err != nil {
		return nil, nil
	}
	return all, done
}

// changesOf are those of one fix; nil where it is one of another file.
func changesOf(f *source.File, fix *source.Fix) []Change {
	var all []Change
	for _, e := range fix.Edits {
		if e.File != f.Name {
			return nil
		}
		from, to := f.Bytes(e.Range)
		all = append(all, Change{from, to, e.Text})
	}
	return all
}

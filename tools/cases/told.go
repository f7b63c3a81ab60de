package cases

import (
	"errors"
	"fmt"
	"strings"

	"oldledger/core/source"
)

// Render writes what a reading told, one diagnostic a line with its severity, rule and range, its other places and its fix below: of a
// description that was read, or of one that was refused with err.
func Render(found source.Diagnostics, err error) string {
	var b strings.Builder
	var refused source.Diagnostics
	switch {
	case errors.As(err, &refused):
		b.WriteString("refused\n")
		found = refused
	case err != nil:
		fmt.Fprintf(&b, "refused: %v\n", err)
	default:
		b.WriteString("read\n")
	}
	for _, d := range found {
		fmt.Fprintf(&b, "%s %s %s-%d:%d: %s\n", d.Severity, d.Rule, d.Place, d.EndLine, d.EndColumn, d.Message())
		for _, r := range d.Related {
			fmt.Fprintf(&b, "    %s-%d:%d: %s\n", r.Place, r.EndLine, r.EndColumn, r.Text)
		}
		if d.Fix != nil {
			fmt.Fprintf(&b, "    fix: %s\n", d.Fix.Title)
		}
	}
	return b.String()
}

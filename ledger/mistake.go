package ledger

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"

	"oldledger/core/source"
)

// Mistake is an error in a description. It stops publishing until it is mended, or let through by its id with a reason.
type Mistake struct {
	ID string // the same while the mistake stands, whatever its line
	*source.Diagnostic
	Allowed string // the reason for which it was let through
}

// Mistaken is the refusal to publish a version whose description has errors.
type Mistaken struct {
	Ref      string
	Mistakes []Mistake
}

func (e *Mistaken) Error() string {
	const most = 5
	var all []string
	for _, m := range e.Mistakes {
		if m.Allowed == "" {
			all = append(all, fmt.Sprintf("%s: %s (%s)", m.Place, m.Message(), m.ID))
		}
	}
	more := ""
	if len(all) > most {
		more = fmt.Sprintf("; and %d more", len(all)-most)
		all = all[:most]
	}
	return fmt.Sprintf("the description of %s has errors; mend them, or let each through with a reason: %s%s", e.Ref, strings.Join(all, "; "),
		more)
}

// maxRemarks bounds the warnings and hints that are listed beside the errors.
const maxRemarks = 500

// mistakes are the errors of a version. allow are allowances that are about to be made.
func (w view) mistakes(ctx context.Context, v Version, allow []Exception) ([]Mistake, error) {
	found, err := w.diagnostics(ctx, v)
	if err != nil {
		return nil, err
	}
	allowed, err := w.allowed(ctx, v, allow)
	if err != nil {
		return nil, err
	}
	reopened, err := w.reopened(ctx, v)
	if err != nil {
		return nil, err
	}
	broken, err := w.broken(ctx, v)
	if err != nil {
		return nil, err
	}
	all := []Mistake{}
	for _, d := range slices.Concat(reopened, found, broken) {
		if d.Severity == source.Error {
			id := mistakeID(d)
			all = append(all, Mistake{id, d, allowed[id]})
		}
	}
	return all, nil
}

// mistakeID names what is wrong and where, not the line on which it stands today.
func mistakeID(d *source.Diagnostic) string {
	sum := sha256.Sum256([]byte(strings.Join([]string{d.Rule, d.File, d.Pointer, d.Text}, "\n")))
	return hex.EncodeToString(sum[:6])
}

// mistaken refuses errors that nobody let through.
func (w view) mistaken(ctx context.Context, v Version, allow []Exception) error {
	all, err := w.mistakes(ctx, v, allow)
	if err != nil {
		return err
	}
	for _, m := range all {
		if m.Allowed == "" {
			return &Mistaken{v.Ref(), all}
		}
	}
	return nil
}

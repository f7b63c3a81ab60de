package ledger

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/core/secret"
	"oldledger/core/source"
	"oldledger/store"
)

// Care is what an editor should know before a version is published.
type Care struct {
	promise.Gate
	Credentials []Credential     `json:"credentials"` // what looks like one, in the description or the overlay
	Flaws       []reference.Flaw `json:"flaws"`       // examples and defaults that contradict their schema; they are not shown
}

// Credential is a text that looks like a credential. It stops publishing until it is removed, or allowed with a reason.
type Credential struct {
	secret.Finding
	Allowed string `json:"allowed,omitempty"` // the reason for which it was
}

// Allow is the wish to publish in spite of what looks like a credential.
type Allow struct {
	Finding string `json:"finding"` // the finding's id
	Reason  string `json:"reason"`
}

// Exposed is the refusal to publish a version that holds what looks like a credential.
type Exposed struct {
	Ref         string
	Credentials []Credential
}

func (e *Exposed) Error() string {
	var all []string
	for _, c := range e.Credentials {
		if c.Allowed == "" {
			all = append(all, fmt.Sprintf("%s: %s, %s (%s)", c.Place, c.What, c.Shown, c.ID))
		}
	}
	return fmt.Sprintf("%s holds what looks like a credential; take it out, or allow it with a reason: %s", e.Ref, strings.Join(all, "; "))
}

// Care says whether a version may be published as it is, and what of it deserves a second look.
func (l *Ledger) Care(ctx context.Context, ref string) (Care, error) {
	gate, err := l.Gate(ctx, ref)
	if err != nil {
		return Care{}, err
	}
	d, err := l.Description(ctx, ref)
	if err != nil {
		return Care{}, err
	}
	c := Care{Gate: gate, Flaws: reference.Flaws(d.Contract)}
	c.Credentials, err = l.credentials(ctx, l.store.Read(), d.Version, nil)
	return c, err
}

// credentials scans the files of a version and its overlay. allow are allowances that are about to be made.
func (l *Ledger) credentials(ctx context.Context, r store.Rows, v Version, allow []Allow) ([]Credential, error) {
	found, err := l.scan(ctx, r, v)
	if err != nil {
		return nil, err
	}
	rows, err := r.Allowances(ctx, v.API)
	if err != nil {
		return nil, err
	}
	allowed := map[string]string{}
	for _, a := range rows {
		allowed[a.Finding] = a.Reason
	}
	for _, a := range allow {
		allowed[a.Finding] = a.Reason
	}
	all := []Credential{}
	for _, f := range found {
		all = append(all, Credential{f, allowed[f.ID]})
	}
	return all, nil
}

func (l *Ledger) scan(ctx context.Context, r store.Rows, v Version) ([]secret.Finding, error) {
	var found []secret.Finding
	read, err := l.contract(ctx, r, v)
	if err != nil {
		return nil, err
	}
	found = append(found, secret.Scan(read.Node.File().Root)...)
	files, err := r.Files(ctx, v.API, v.Number)
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		file, err := source.Parse(f.Path, f.Content)
		if err != nil { // a text of another kind, such as a schema in XML, that the description holds as it is
			found = append(found, secret.ScanText(f.Path, string(f.Content))...)
			continue
		}
		found = append(found, secret.Scan(file.Root)...)
	}
	over, err := l.newestOverlay(ctx, r, v)
	if errors.Is(err, store.ErrNotFound) {
		return found, nil
	}
	if err != nil {
		return nil, err
	}
	if f, wrong := parseOverlay(over.Text); wrong == nil { // one that is wrong is refused where it is kept
		found = append(found, secret.Scan(f.Root)...)
	}
	return found, nil
}

// exposed refuses what holds credentials that nobody allowed, and keeps the allowances that were made for it.
func (l *Ledger) exposed(ctx context.Context, r store.Rows, by Person, v Version, allow []Allow) error {
	all, err := l.credentials(ctx, r, v, allow)
	if err != nil {
		return err
	}
	for _, c := range all {
		if c.Allowed == "" {
			return &Exposed{v.Ref(), all}
		}
	}
	for _, a := range allow {
		if err := l.allow(ctx, r, by, v, all, a); err != nil {
			return err
		}
	}
	return nil
}

func (l *Ledger) allow(ctx context.Context, r store.Rows, by Person, v Version, all []Credential, a Allow) error {
	for _, c := range all {
		if c.ID != a.Finding {
			continue
		}
		row := store.Allowance{API: v.API, Version: v.Number, Finding: a.Finding, What: c.What, Reason: a.Reason, MadeBy: by.Name, MadeAt: l.stamp()}
		if err := r.AddAllowance(ctx, row); err != nil {
			return err
		}
		return l.enter(ctx, r, by, "credential.allowed", v.Ref(), map[string]string{"finding": a.Finding, "what": c.What, "reason": a.Reason})
	}
	return refuse(Invalid, "nothing in %s has the id %s", v.Ref(), a.Finding)
}

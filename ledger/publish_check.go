package ledger

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"oldledger/core/promise"
	"oldledger/core/secret"
	"oldledger/core/source"
	"oldledger/ledger/records"
)

// PublishCheck is what an editor should know before a version is published.
type PublishCheck struct {
	promise.Gate
	Credentials []Credential       // what looks like one, in the description or the overlay
	Mistakes    []Mistake          // the errors of the description
	Diagnostics source.Diagnostics // warnings and hints
	Unmet       []string           // what the rules of review ask for, and whoever asks does not meet
}

// Credential is a text that looks like a credential. It stops publishing until it is removed, or allowed with a reason.
type Credential struct {
	secret.Finding
	Allowed string // the reason for which it was
}

// Exception is the wish to publish in spite of an error, or of what looks like a credential.
type Exception struct {
	Finding string // the finding's id
	Reason  string
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

// PublishCheck says whether a version may be published as it is, and what of it deserves a second look.
func (l *Ledger) PublishCheck(ctx context.Context, who Actor, ref string) (PublishCheck, error) {
	w := l.view(who)
	v, err := w.inside(ctx, ref)
	if err != nil {
		return PublishCheck{}, err
	}
	gate, err := w.judge(ctx, v, nil, nil)
	if err != nil {
		return PublishCheck{}, err
	}
	c := PublishCheck{Gate: gate, Diagnostics: source.Diagnostics{}}
	if c.Credentials, err = w.credentials(ctx, v, nil); err != nil {
		return c, err
	}
	if c.Mistakes, err = w.mistakes(ctx, v, nil); err != nil {
		return c, err
	}
	a, err := w.apiAsIs(ctx, v.API)
	if err != nil {
		return c, err
	}
	c.Unmet = w.unmet(a, v, c.why() != "")
	found, err := w.diagnostics(ctx, v)
	if err != nil {
		return c, err
	}
	for _, x := range found {
		if x.Severity < source.Error && len(c.Diagnostics) < maxRemarks {
			c.Diagnostics = append(c.Diagnostics, x)
		}
	}
	return c, nil
}

// credentials scans the files of a version and its overlay. allow are allowances that are about to be made.
func (w view) credentials(ctx context.Context, v Version, allow []Exception) ([]Credential, error) {
	found, err := w.scan(ctx, v)
	if err != nil {
		return nil, err
	}
	allowed, err := w.allowed(ctx, v, allow)
	if err != nil {
		return nil, err
	}
	all := []Credential{}
	for _, f := range found {
		all = append(all, Credential{f, allowed[f.ID]})
	}
	return all, nil
}

func (w view) scan(ctx context.Context, v Version) ([]secret.Finding, error) {
	var found []secret.Finding
	read, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	found = append(found, secret.Scan(read.Node.File().Root)...)
	c, err := w.content(ctx, v)
	if err != nil {
		return nil, err
	}
	for _, f := range c.others {
		file, err := source.Parse(f.Path, f.Content)
		if err != nil { // a text of another kind, such as a schema in XML, that the description holds as it is
			found = append(found, secret.ScanText(f.Path, string(f.Content))...)
			continue
		}
		found = append(found, secret.Scan(file.Root)...)
	}
	over, err := w.newestOverlay(ctx, v)
	if errors.Is(err, records.ErrNotFound) {
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

// allowed are the reasons for which findings were let through in an API, by their ids. allow are allowances that are about to be made.
func (w view) allowed(ctx context.Context, v Version, allow []Exception) (map[string]string, error) {
	rows, err := w.rows.Allowances(ctx, v.API)
	if err != nil {
		return nil, err
	}
	reasons := map[string]string{}
	for _, a := range rows {
		reasons[a.Finding] = a.Reason
	}
	for _, a := range allow {
		reasons[a.Finding] = a.Reason
	}
	return reasons, nil
}

// exposed refuses what holds credentials that nobody allowed.
func (w view) exposed(ctx context.Context, v Version, allow []Exception) error {
	all, err := w.credentials(ctx, v, allow)
	if err != nil {
		return err
	}
	for _, c := range all {
		if c.Allowed == "" {
			return &Exposed{v.Ref(), all}
		}
	}
	return nil
}

// admit refuses a version with errors or with what looks like a credential that nobody allowed, and keeps the allowances that were made for
// it.
func (w view) admit(ctx context.Context, v Version, allow []Exception) error {
	if err := w.mistaken(ctx, v, allow); err != nil {
		return err
	}
	if err := w.exposed(ctx, v, allow); err != nil {
		return err
	}
	if len(allow) == 0 {
		return nil
	}
	what := map[string][2]string{}
	credentials, err := w.credentials(ctx, v, nil)
	if err != nil {
		return err
	}
	for _, c := range credentials {
		what[c.ID] = [2]string{"credential.allowed", c.What}
	}
	mistakes, err := w.mistakes(ctx, v, nil)
	if err != nil {
		return err
	}
	for _, m := range mistakes {
		what[m.ID] = [2]string{"mistake.allowed", m.Text}
	}
	for _, a := range allow {
		found, ok := what[a.Finding]
		if !ok {
			return refuse(Invalid, "nothing in %s has the id %s", v.Ref(), a.Finding)
		}
		row := records.Allowance{
			API: v.API, Version: v.Number, Finding: a.Finding, What: found[1], Reason: a.Reason, MadeBy: w.who.Name,
			MadeAt: w.stamp(),
		}
		if err := w.rows.AddAllowance(ctx, row); err != nil {
			return err
		}
		if err := w.appendJournal(ctx, found[0], v.Ref(), map[string]string{
			"finding": a.Finding, "what": found[1],
			"reason": a.Reason,
		}); err != nil {
			return err
		}
	}
	return nil
}

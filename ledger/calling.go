package ledger

import (
	"context"

	"oldledger/core/compare"
	"oldledger/core/versioning"
	"oldledger/ledger/records"
)

// checkCalling refuses how an API is called where it cannot be meant.
func (s Settings) checkCalling() error {
	if s.Versioning != nil {
		if _, err := versioning.Parse(*s.Versioning); err != nil {
			return refuse(Invalid, "%s", err)
		}
	}
	if s.Undeclared != nil && *s.Undeclared != "" {
		if _, known := compare.ParseUndeclared(*s.Undeclared); !known {
			return refuse(Invalid, "%q is nothing that a server does with what is not declared; it is ignored or refused", *s.Undeclared)
		}
	}
	return nil
}

// setCalling says how an API is called.
func (w view) setCalling(ctx context.Context, row *records.API, s Settings) error {
	before := *row
	if s.Versioning != nil {
		scheme, err := versioning.Parse(*s.Versioning)
		if err != nil {
			return err
		}
		row.Versioning = scheme.String()
	}
	if s.Undeclared != nil {
		row.Undeclared = *s.Undeclared
	}
	if before == *row {
		return nil
	}
	if err := w.rows.PutAPI(ctx, *row); err != nil {
		return err
	}
	return w.appendJournal(ctx, "calling.set", row.Name, map[string]string{
		"versioning": row.Versioning, "undeclared": row.Undeclared, "before": before.Versioning, "before-undeclared": before.Undeclared,
	})
}

// asTold are options in which the fact of an API stands where none was given: what its server does with input that is not declared.
func (w view) asTold(ctx context.Context, api string, o compare.Options) (compare.Options, error) {
	if o.Undeclared != compare.Untold {
		return o, nil
	}
	a, err := w.apiAsIs(ctx, api)
	o.Undeclared = a.Undeclared
	return o, err
}

// Choice is how callers choose one of its versions.
func (a API) Choice(v Version) versioning.Choice {
	return versioning.Choice{Scheme: a.Versioning, Version: versioning.Version{Number: v.number, Text: v.Text}}
}

// Calling is how an API is called.
type Calling struct {
	Scheme     versioning.Scheme
	Undeclared compare.Undeclared
	Versions   []CalledVersion // those that are answered, the newest first
}

// CalledVersion is one version as callers choose it.
type CalledVersion struct {
	Ref     string
	Says    string             // "by the path, with /v2"; "" where nobody said
	Usual   bool               // whether a call means it that says nothing
	Faults  []versioning.Fault // where its description says otherwise
	Clashes []versioning.Clash // other APIs whose calls nobody tells from its
}

// Calling tells how an API is called, and what of that does not go together: with its descriptions, and with the other APIs that the
// actor reads.
func (l *Ledger) Calling(ctx context.Context, who Actor, name string) (Calling, error) {
	if err := l.may(who, ReadInside, name); err != nil {
		return Calling{}, err
	}
	w := l.view(who)
	a, err := w.api(ctx, name)
	if err != nil {
		return Calling{}, err
	}
	index, err := w.callable(ctx, name)
	if err != nil {
		return Calling{}, err
	}
	calling := Calling{Scheme: a.Versioning, Undeclared: a.Undeclared, Versions: []CalledVersion{}}
	for i := len(a.Versions) - 1; i >= 0; i-- {
		v := a.Versions[i]
		if !v.Shown() && v.State != Draft {
			continue
		}
		c, err := w.contract(ctx, v)
		if err != nil {
			return Calling{}, err
		}
		choice := a.Choice(v)
		of := choice.Version
		called := CalledVersion{Ref: v.Ref(), Says: choice.Says(), Usual: choice.Usual()}
		if waited := w.Heavily(ctx, func() {
			called.Faults = a.Versioning.Check(c, of)
			called.Clashes, err = index.Apart(ctx, versioning.Called{
				API: name, Scheme: a.Versioning, Version: of, Addresses: versioning.Addresses(c),
			})
		}); waited != nil {
			return Calling{}, waited
		}
		if err != nil {
			return Calling{}, err
		}
		calling.Versions = append(calling.Versions, called)
	}
	return calling, nil
}

// maxAddressed is of how many versions it is kept where they are called.
const maxAddressed = 3000

// maxCallable is of how many APIs the addresses are compared.
const maxCallable = 300

// callable is an index of what answers: the published versions of the other APIs that the actor reads. Those on which an upgrade is under
// way, from one to the other, are left out: for a while both answer, and that is meant.
func (w view) callable(ctx context.Context, name string) (*versioning.Index, error) {
	apis, err := w.apis(ctx)
	if err != nil {
		return nil, err
	}
	replacing := map[string]bool{}
	for _, a := range apis {
		for _, n := range a.Notices {
			if other := apiOf(n.ReplacedBy); a.Name == name {
				replacing[other] = true
			} else if other == name {
				replacing[a.Name] = true
			}
		}
	}
	index := &versioning.Index{}
	for _, a := range apis[:min(len(apis), maxCallable)] {
		if a.Name == name || replacing[a.Name] {
			continue
		}
		for _, v := range a.Versions {
			if !v.Shown() {
				continue
			}
			at, err := w.addressesOf(ctx, v)
			if err != nil {
				return nil, err
			}
			index.Add(versioning.Called{API: a.Name, Scheme: a.Versioning, Version: a.Choice(v).Version, Addresses: at})
		}
	}
	return index, nil
}

// addressesOf are where one version is called, as the actor reads it; found once for each content.
func (w view) addressesOf(ctx context.Context, v Version) ([]versioning.Address, error) {
	v, err := w.asRead(ctx, v)
	if err != nil {
		return nil, err
	}
	key := v.API + " " + v.content()
	if known, there := w.addresses.Get(key); there {
		return known, nil
	}
	c, err := w.contract(ctx, v)
	if err != nil {
		return nil, err
	}
	at := versioning.Addresses(c)
	w.addresses.Add(key, at)
	return at, nil
}

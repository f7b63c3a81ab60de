package site

import (
	"context"
	"fmt"
	"net/http"
	"net/url"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/reference"
	"oldledger/ledger"
)

// gone is what a page says of an item that another version has.
type gone struct {
	*Frame
	Title string         // of the operation or schema
	In    ledger.Version // a version that has it
	There string         // its page there
	Older bool           // whether that version is an older one

	Reason, Instead string // what its notice says
}

// operationHere leads on to an operation, whatever it is called here, or says what became of it.
func (s *Site) operationHere(ctx context.Context, e *edition, id string) (page, error) {
	f := &Frame{edition: e, Here: id}
	if e.Doc.Operation(id) != nil {
		return moved(f.Base + "/operations/" + url.PathEscape(id)), nil
	}
	p, err := s.became(ctx, f, id)
	return told(p), err
}

func (s *Site) schemaHere(ctx context.Context, e *edition, name string) (page, error) {
	f := &Frame{edition: e, Here: "schema " + name}
	if e.Doc.Schema(name) != nil {
		return moved(f.Base + "/schemas/" + url.PathEscape(name)), nil
	}
	p, err := s.schemaGone(ctx, f, name)
	return told(p), err
}

// told is a page that answers the question what became of something: to that question it is the answer.
func told(p page) page {
	if p.status == http.StatusNotFound && p.header != nil {
		p.status = http.StatusOK
		p.header.Set("X-Robots-Tag", "noindex")
	}
	return p
}

// became leads a reader who comes from another version to what an operation is here; where it is not here, a page says so.
func (s *Site) became(ctx context.Context, f *Frame, slug string) (page, error) {
	here, err := s.ledger.Description(ctx, f.Reader, f.Version.Ref())
	if err != nil {
		return page{}, err
	}
	for _, v := range f.Versions {
		there, err := s.ledger.Description(ctx, f.Reader, v.Ref())
		if err != nil {
			return page{}, err
		}
		op := bySlug(there.Contract, slug)
		if op == nil {
			continue
		}
		if now := here.Contract.Lookup(op.Key()); now != nil {
			return s.toOperation(f, now)
		}
		return s.followed(ctx, f, here, there, op)
	}
	return page{}, s.elsewhere(f, "operation", slug)
}

// toOperation leads to an operation's page; one that its editors hide has none.
func (s *Site) toOperation(f *Frame, op *contract.Operation) (page, error) {
	slug := reference.Slug(op)
	if f.Doc.Operation(slug) == nil {
		return page{}, s.elsewhere(f, "operation", slug)
	}
	return moved(f.Base + "/operations/" + url.PathEscape(slug)), nil
}

// followed asks the comparison of the two versions where the operation went.
func (s *Site) followed(ctx context.Context, f *Frame, here, there ledger.Description, op *contract.Operation) (page, error) {
	older := there.Version.Before(here.Version)
	from, to := there.Version.Ref(), here.Version.Ref()
	if !older {
		from, to = to, from
	}
	comparison, err := s.ledger.Compare(ctx, f.Reader, from, to, compare.Options{})
	if err != nil {
		return page{}, err
	}
	g := gone{
		Frame: f, Title: op.Name(), In: there.Version, Older: older,
		There: fmt.Sprintf("/reference/%s/%s/operations/%s", f.API.Name, there.Version.Number, url.PathEscape(reference.Slug(op))),
	}
	for _, ch := range comparison.Changes {
		if ch.Moved != nil {
			was, is := ch.Moved.From, ch.Moved.To
			if !older {
				was, is = is, was
			}
			if now := here.Contract.Lookup(is); was == op.Key() && now != nil {
				return s.toOperation(f, now)
			}
		}
	}
	for _, n := range f.API.Notices {
		if older && n.OfOperation(op.Key()) && n.Covers(there.Version.Number, there.Version.Line) {
			g.Reason, g.Instead = n.Reason, n.ReplacedBy
		}
	}
	p, err := s.html(ctx, http.StatusNotFound, gonePage(g))
	if err != nil {
		return page{}, err
	}
	announce(p.header, f)
	return p, nil
}

// schemaGone says which version has a schema that this one lacks.
func (s *Site) schemaGone(ctx context.Context, f *Frame, name string) (page, error) {
	for _, v := range f.Versions {
		there, err := s.ledger.Description(ctx, f.Reader, v.Ref())
		if err != nil {
			return page{}, err
		}
		if there.Contract.Schema(name) == nil {
			continue
		}
		p, err := s.html(ctx, http.StatusNotFound, gonePage(gone{
			Frame: f, Title: name, In: v, Older: v.Before(f.Version),
			There: fmt.Sprintf("/reference/%s/%s/schemas/%s", f.API.Name, v.Number, url.PathEscape(name)),
		}))
		if err != nil {
			return page{}, err
		}
		announce(p.header, f)
		return p, nil
	}
	return page{}, s.elsewhere(f, "schema", name)
}

func bySlug(c *contract.Contract, slug string) *contract.Operation {
	for _, op := range c.All() {
		if reference.Slug(op) == slug {
			return op
		}
	}
	return nil
}

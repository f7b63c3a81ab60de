package site

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"runtime"
	"slices"
	"strings"
	"sync"

	"github.com/a-h/templ"

	"oldledger/core/compare"
	"oldledger/core/contract"
	"oldledger/core/promise"
	"oldledger/core/reference"
	"oldledger/ledger"
)

// edition is one version as the site shows it, until an act changes what is known of its API.
type edition struct {
	House    string // the name that stands above every page
	API      ledger.API
	Version  ledger.Version
	Versions []ledger.Version // published, newest first
	Doc      *reference.Document
	Banner   []promise.Notice // notices of the version as a whole
	Newest   *ledger.Version  // set when this version is not the newest
	Guide    string           // the address of the guide to the newest
	Base     string           // "/reference/berths/1.2.0"
	Looks    ledger.Looks
	Preview  string       // until when the preview holds; "" for what everybody reads
	Reader   ledger.Actor // whoever reads it: some of the readers of its API, or the holder of the address of a preview

	replacements map[string]ledger.Version // what notices name as a version to use instead, by their words

	generation int64
	summary    string // what the description says of itself in a line
	index      func() *reference.Index
	newer      []items // of the newer versions, the newest first
}

// items are what a version has pages of.
type items struct {
	number              string
	operations, schemas map[string]bool
}

// Frame is what every page of a version shows around its content.
type Frame struct {
	*edition
	Here      string // the part of the navigation that is open: overview, changes, source, search, an operation's slug or "schema Vessel"
	Canonical string // the newest version that has this page; "" where it is not asked for
	Embedded  bool   // whether it stands in a page of somebody else's: without what leads around
}

// Suffix is the address of the page below its version's.
func (f *Frame) Suffix() string {
	switch {
	case f.Here == "overview" || f.Here == "":
		return "/"
	case strings.HasPrefix(f.Here, "page "):
		return "/pages/" + strings.TrimPrefix(f.Here, "page ")
	case f.Here == "changes" || f.Here == "source" || f.Here == "search" || f.Here == "schemas":
		return "/" + f.Here
	case strings.HasPrefix(f.Here, "group "):
		return "/groups/" + url.PathEscape(strings.TrimPrefix(f.Here, "group "))
	case strings.HasPrefix(f.Here, "schema "):
		return "/schemas/" + url.PathEscape(strings.TrimPrefix(f.Here, "schema "))
	}
	return "/operations/" + url.PathEscape(f.Here)
}

// Elsewhere is where the switcher leads below another version: to the same page, or to what became of an operation or schema there.
func (f *Frame) Elsewhere() string {
	suffix := f.Suffix()
	if strings.HasPrefix(suffix, "/operations/") || strings.HasPrefix(suffix, "/schemas/") || strings.HasPrefix(suffix, "/pages/") {
		return "/became" + suffix
	}
	if strings.HasPrefix(suffix, "/groups/") {
		return "/" // another version may have other groups
	}
	return suffix
}

// first is the number of the oldest version that readers may see.
func (e *edition) first() string { return e.Versions[len(e.Versions)-1].Number }

// settled is an API whose notices have the dates on which what they speak of leaves.
func settled(a ledger.API) ledger.API {
	a.Notices = promise.Settled(a.Notices, func(number string) string {
		for _, v := range a.Versions {
			if v.Number == number {
				return v.Line
			}
		}
		return ""
	})
	return a
}

// published are the versions that readers may see, newest first.
func published(a ledger.API) []ledger.Version {
	var out []ledger.Version
	for _, v := range slices.Backward(a.Versions) {
		if v.Shown() {
			out = append(out, v)
		}
	}
	return out
}

// edition reads a version for a reader of its API, the newest where number is "", once until the next act.
func (s *Site) edition(ctx context.Context, who ledger.Actor, name, number string) (*edition, error) {
	generation := s.ledger.Generation(who, name)
	key := name + "@" + number + " " + s.ledger.Sight(who)
	if e, there := s.editions.Get(key); there && e.generation == generation {
		return e, nil
	}
	a, err := s.ledger.API(ctx, who, name)
	if err != nil {
		return nil, err
	}
	versions := published(a)
	i := slices.IndexFunc(versions, func(v ledger.Version) bool { return number == "" || v.Number == number })
	if i < 0 {
		if j := slices.IndexFunc(a.Versions, func(v ledger.Version) bool { return v.Number == number && v.State == ledger.Retired }); j >= 0 {
			return nil, &retired{a, a.Versions[j]}
		}
		if number == "" {
			return nil, &ledger.Error{Fault: ledger.NotFound, Text: fmt.Sprintf("Nothing of %s is published.", a.Title)}
		}
		return nil, &ledger.Error{Fault: ledger.NotFound, Text: fmt.Sprintf("%s has no published version %s.", a.Title, number)}
	}
	if number == "" {
		return s.edition(ctx, who, name, versions[i].Number)
	}
	return s.making.edition.Do(ctx, fmt.Sprintf("%s %d", key, generation), func(ctx context.Context) (*edition, error) {
		made, err := s.newEdition(ctx, who, a, versions, i)
		if err != nil {
			return nil, err
		}
		made.generation = generation
		s.editions.Add(key, made)
		return made, nil
	})
}

// maxEditions bounds the editions in memory: those that were asked for last.
const maxEditions = 256

func (s *Site) newEdition(ctx context.Context, reader ledger.Actor, a ledger.API, versions []ledger.Version, i int) (*edition, error) {
	v := versions[i]
	e := &edition{House: s.house, Reader: reader, API: a, Version: v, Versions: versions, Base: "/reference/" + a.Name + "/" + v.Number}
	notices := promise.SettledIn(a.Notices, v.Number, v.Line)
	for _, n := range notices {
		if n.Whole() && v.State != ledger.Draft {
			e.Banner = append(e.Banner, n)
		}
	}
	if newest := versions[0]; newest.Number != v.Number {
		e.Newest = &newest
		e.Guide = fmt.Sprintf("/reference/%s/guides/%s..%s", a.Name, v.Number, newest.Number)
	}
	var err error
	if e.replacements, err = s.replacements(ctx, reader, a.Notices); err != nil {
		return nil, err
	}
	read, err := s.ledger.Documented(ctx, reader, v)
	if err != nil {
		return nil, err
	}
	if e.Looks, err = s.ledger.Looks(ctx, reader, a.Name); err != nil {
		return nil, err
	}
	languages, err := e.Looks.Samples()
	if err != nil {
		return nil, err
	}
	past, err := s.past(ctx, reader, versions[i:])
	if err != nil {
		return nil, err
	}
	if waited := s.ledger.Heavily(ctx, func() {
		e.Doc, err = reference.Make(ctx, read, reference.Context{
			Name: a.Name, Number: v.Number, Line: v.Line, History: past, Notices: notices,
			Languages: languages, Choice: a.Choice(v), Refuses: a.Undeclared == compare.Refused,
		})
	}); waited != nil || err != nil {
		return nil, cmp.Or(waited, err)
	}
	e.index, e.summary = sync.OnceValue(e.Doc.Index), read.Summary
	for _, newer := range versions[:i] {
		there, err := s.ledger.Description(ctx, reader, newer.Ref())
		if err != nil {
			return nil, err
		}
		e.newer = append(e.newer, itemsOf(newer.Number, there.Contract))
	}
	return e, nil
}

// replacements are the versions that notices name as those to use instead, by the words that name them.
func (s *Site) replacements(ctx context.Context, who ledger.Actor, notices []promise.Notice) (map[string]ledger.Version, error) {
	var all map[string]ledger.Version
	for _, n := range notices {
		if _, known := all[n.ReplacedBy]; known || !strings.Contains(n.ReplacedBy, "@") {
			continue
		}
		v, err := s.ledger.Resolve(ctx, who, n.ReplacedBy)
		var refused *ledger.Error
		switch {
		case errors.As(err, &refused):
			continue // it is named in other words, or gone
		case err != nil:
			return nil, err
		}
		if all == nil {
			all = map[string]ledger.Version{}
		}
		all[n.ReplacedBy] = v
	}
	return all, nil
}

// instead is what a notice names to use instead, as a link to where a reader of this page goes on: the same page of another version, the
// first page of another API, or an operation.
func (f *Frame) instead(text string) anchor {
	if v, known := f.replacements[text]; known {
		at := "/reference/" + v.API + "/" + v.Number
		if v.API == f.API.Name {
			return anchor{at + f.Elsewhere(), text}
		}
		return anchor{at + "/", text}
	}
	for _, op := range f.Doc.Pages() {
		if text == op.Title || text == op.Slug || text == op.Method+" "+op.Path {
			return anchor{string(f.operationAddress(op.Slug)), text}
		}
	}
	return anchor{"", text}
}

func itemsOf(number string, c *contract.Contract) items {
	t := items{number, map[string]bool{}, map[string]bool{}}
	for _, op := range c.All() {
		t.operations[reference.Slug(op)] = true
	}
	for _, sc := range c.Schemas {
		t.schemas[sc.Name] = true
	}
	return t
}

// past are published versions with what each changed, oldest first.
func (s *Site) past(ctx context.Context, reader ledger.Actor, versions []ledger.Version) ([]reference.Past, error) {
	var past []reference.Past
	for i, v := range versions {
		d, err := s.ledger.Description(ctx, reader, v.Ref())
		if err != nil {
			return nil, err
		}
		p := reference.Past{Number: v.Number, Contract: d.Contract}
		if i+1 < len(versions) {
			if p.Changes, err = s.ledger.Compare(ctx, reader, versions[i+1].Ref(), v.Ref(), compare.Options{}); err != nil {
				return nil, err
			}
		}
		past = append(past, p)
	}
	slices.Reverse(past)
	return past, nil
}

// canonical is the newest version that has a page.
func (e *edition) canonical(has func(items) bool) string {
	for _, t := range e.newer {
		if has(t) {
			return t.number
		}
	}
	return e.Version.Number
}

// Prepare renders the pages of a version, so that its readers find them ready.
func (s *Site) Prepare(ctx context.Context, ref string) error {
	name, number, _ := strings.Cut(ref, "@")
	who := s.ledger.TypicalReader(name)
	generation, basis := s.ledger.Generation(who, name), s.ledger.CardBasis(name)
	e, err := s.edition(ctx, who, name, number)
	if err != nil {
		return err
	}
	addresses := e.addresses()
	var group sync.WaitGroup
	workers := runtime.GOMAXPROCS(0)
	failed := make([]error, workers+1)
	group.Go(func() {
		failed[workers] = safely(func() error {
			index := e.index()
			if e.Newest != nil {
				return nil // the card is of a newer version
			}
			_, err := s.storeCard(ctx, basis, e, e.summary, index)
			return err
		})
	})
	for w := range workers {
		group.Go(func() {
			failed[w] = safely(func() error {
				for i := w; i < len(addresses) && ctx.Err() == nil && s.ledger.Generation(who, name) == generation; i += workers {
					if err := s.prepare(ctx, e, addresses[i], generation); err != nil {
						return err
					}
				}
				return nil
			})
		})
	}
	group.Wait()
	return errors.Join(failed...)
}

func (s *Site) prepare(ctx context.Context, e *edition, address string, generation int64) error {
	v, err := parseTarget(address)
	if err != nil {
		return err
	}
	p, err := s.renderVersion(ctx, e, v.rest)
	if err != nil {
		return err
	}
	one := s.sent(e.Reader, e.API.Name, p)
	s.cache.put(keyOf(s.ledger.Sight(e.Reader), address), generation, s.today(), one)
	if e.Newest == nil && address == e.Base+"/" { // the same page stands at the address of the API
		newest := *one
		s.cache.put(keyOf(s.ledger.Sight(e.Reader), "/reference/"+url.PathEscape(e.API.Name)+"/"), generation, s.today(), &newest)
	}
	return nil
}

// addresses are those of all pages of the version.
func (e *edition) addresses() []string {
	all := []string{e.Base + "/", e.Base + "/changes"}
	for _, t := range e.Doc.Texts {
		all = append(all, e.Base+"/pages/"+t.Slug)
	}
	if e.large() {
		for _, g := range e.Doc.Groups {
			all = append(all, e.Base+e.groupPath(g))
		}
	}
	if len(e.Doc.Schemas) > maxListed {
		all = append(all, e.Base+e.schemasPath())
	}
	for _, op := range e.Doc.Pages() {
		all = append(all, e.Base+"/operations/"+url.PathEscape(op.Slug))
	}
	for _, sc := range e.Doc.Schemas {
		all = append(all, e.Base+"/schemas/"+url.PathEscape(sc.Name))
	}
	return all
}

// page renders a page of a version, with the headers that a deprecated version carries.
func (s *Site) page(ctx context.Context, f *Frame, c templ.Component) (page, error) {
	p, err := s.html(ctx, http.StatusOK, c)
	if err == nil {
		announce(p.header, f)
	}
	return p, err
}

// announce sets Deprecation (RFC 9745), Sunset (RFC 8594) and the Link relations of RFC 5829 and RFC 8594.
func announce(h http.Header, f *Frame) {
	var links []string
	link := func(rel, address string) {
		links = append(links, fmt.Sprintf("<%s>; rel=%q", address, rel))
	}
	link("latest-version", "/reference/"+f.API.Name+"/")
	if f.Canonical != "" {
		link("canonical", "/reference/"+f.API.Name+"/"+f.Canonical+f.Suffix())
	}
	if f.Newest != nil {
		for i, v := range f.Versions {
			if v.Number == f.Version.Number && i > 0 {
				link("successor-version", "/reference/"+f.API.Name+"/"+f.Versions[i-1].Number+"/")
			}
		}
	}
	speaking := f.Banner
	if op := f.Doc.Operation(f.Here); op != nil && op.Margin.Notice != nil {
		speaking = append(slices.Clip(speaking), *op.Margin.Notice)
	}
	if said := promise.HeaderOf(speaking); said.Deprecation != "" {
		h.Set("Deprecation", said.Deprecation)
		link("deprecation", "/reference/"+f.API.Name+"/notices")
		if said.Sunset != "" {
			h.Set("Sunset", said.Sunset)
			link("sunset", "/reference/"+f.API.Name+"/notices")
		}
	}
	h.Set("Link", strings.Join(links, ", "))
}

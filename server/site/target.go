package site

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"time"

	"oldledger/core/reference"
	"oldledger/ledger"
)

// target is an address taken apart: what a reader asks for.
type target struct {
	address string
	base    string // where the pages of the list begin to which it belongs: "/reference/", "/shelves/partners/"
	api     string
	version string   // "" for the newest
	rest    []string // below the version, or below the API for what belongs to no version
}

// parseTarget takes an address apart. A segment that is no text leads nowhere.
func parseTarget(address string) (target, error) {
	v := target{address: address, base: referencePath}
	below := strings.TrimPrefix(address, referencePath)
	if name, rest := shelfIn(address); name != "" {
		v.base, below = shelvesPath+name+"/", rest
		if !listPages[rest] {
			return v, errNowhere
		}
	}
	for i, part := range strings.Split(below, "/") {
		text, err := url.PathUnescape(part)
		if err != nil {
			return v, errNowhere
		}
		switch i {
		case 0:
			v.api = text
		default:
			v.rest = append(v.rest, text)
		}
	}
	if len(v.rest) > 1 && v.rest[0] != "guides" {
		v.version, v.rest = v.rest[0], v.rest[1:]
	}
	return v, nil
}

// referencePath is where the pages of APIs begin, and those of the list of all.
const referencePath = "/reference/"

// listPages are the pages of a list of APIs.
var listPages = map[string]bool{"": true, "feed.atom": true, "sunsets.ics": true, "sunsets": true, searchPath: true, typedSearch: true}

// direct reports whether the answer depends on more than the address.
func (v target) direct() bool {
	return len(v.rest) == 1 && (v.rest[0] == searchPath || v.rest[0] == typedSearch) && v.version != ""
}

// guide reports whether the address is that of a guide.
func (v target) guide() bool { return len(v.rest) == 2 && v.version == "" }

// guided are the versions from which and to which the page of a guide leads.
func (v target) guided() (old, new string, ok bool) {
	if !v.guide() {
		return "", "", false
	}
	pair, form := formOf(v.rest[1])
	old, new, ok = strings.Cut(pair, "..")
	return old, new, ok && form == ""
}

// today is the number of the day, for pages that speak of dates.
func (s *Site) today() int64 { return s.ledger.Today().Unix() / int64((24 * time.Hour).Seconds()) }

// render makes the page of an address.
func (s *Site) render(ctx context.Context, who ledger.Actor, v target) (page, error) {
	switch {
	case v.address == shelvesPath:
		return moved(referencePath), nil
	case v.rest == nil && (listPages[v.api] || v.api == "sitemap.xml"):
		return s.list(ctx, who, v)
	case v.api == "":
		return page{}, errNowhere
	case v.api == "assets" && v.rest != nil:
		name := strings.Join(append([]string{v.version}, v.rest...), "/")
		if p, there := s.assets[strings.TrimPrefix(name, "/")]; there {
			return page{p.status, p.header.Clone(), p.body}, nil // its header is written to when it is packed
		}
		return page{}, errNowhere
	case v.api == "looks.css" && v.rest == nil:
		return s.looks(ctx, who, "")
	case v.rest == nil:
		return movedForGood(v.address + "/"), nil
	case v.version == "" && len(v.rest) == 2:
		return s.guide(ctx, who, v.api, v.rest[1], nil)
	case v.version == "" && v.rest[0] == "notices":
		return s.notices(ctx, who, v.api)
	case v.version == "" && v.rest[0] == "feed.atom":
		return s.feed(ctx, who, display{}, v.api)
	case v.version == "" && v.rest[0] == "sunsets.ics":
		return s.sunsets(ctx, who, display{}, v.api)
	case v.version == "" && v.rest[0] == "looks.css":
		return s.looks(ctx, who, v.api)
	case v.version == "" && v.rest[0] != "":
		return movedForGood(v.address + "/"), nil
	}
	if v.version == "pictures" && len(v.rest) == 1 {
		return s.picture(ctx, who, v.api, v.rest[0])
	}
	e, err := s.edition(ctx, who, v.api, v.version)
	if err != nil {
		return page{}, err
	}
	return s.renderVersion(ctx, e, v.rest)
}

// list makes a page of a list of APIs.
func (s *Site) list(ctx context.Context, who ledger.Actor, v target) (page, error) {
	if !strings.HasPrefix(v.address, v.base) {
		return movedForGood(v.base), nil
	}
	d, err := s.display(who, v)
	if err != nil {
		return page{}, err
	}
	switch v.api {
	case "":
		return s.shelf(ctx, who, d)
	case "sitemap.xml":
		return s.sitemap(ctx, who)
	case "feed.atom":
		return s.feed(ctx, who, d, "")
	case "sunsets.ics":
		return s.sunsets(ctx, who, d, "")
	case "sunsets":
		return s.sunsetsPage(ctx, who, d)
	}
	return s.everywhere(ctx, who, d, v.api, "")
}

// renderVersion makes a page of a version, by its path below the version.
func (s *Site) renderVersion(ctx context.Context, e *edition, rest []string) (page, error) {
	kind, name := rest[0], strings.Join(rest[1:], "/")
	switch len(rest) {
	case 1:
		switch kind {
		case "":
			return s.overview(ctx, e)
		case "changes":
			return s.changes(ctx, e)
		case "schemas":
			f := &Frame{edition: e, Here: "schemas"}
			return s.page(ctx, f, schemasPage(f))
		case "description.yaml":
			return s.description(ctx, e)
		case "source":
			return s.source(ctx, e)
		case "source.zip":
			return s.sourceArchive(ctx, e)
		case "site.zip":
			return s.siteArchive(ctx, e)
		case "reference.md":
			return s.markdownFile(e), nil
		case "calls.http", "calls.sh", "calls.har":
			return s.taken(e, kind, e.Doc.Pages())
		}
		return s.converted(ctx, e, kind)
	default:
		switch {
		case kind == "source":
			return s.sourceFile(ctx, e, name)
		case kind == "operations" && len(rest) == 2:
			return s.operation(ctx, e, name)
		case kind == "operations" && len(rest) == 3 && strings.HasPrefix(rest[2], "call."):
			if op := e.Doc.Operation(rest[1]); op != nil {
				return s.taken(e, rest[2], []*reference.OperationPage{op})
			}
		case kind == "groups" && len(rest) == 2:
			return s.group(ctx, &Frame{edition: e, Here: "group " + name}, name)
		case kind == "pages" && len(rest) == 2:
			return s.textPage(ctx, e, name)
		case kind == "schemas" && len(rest) == 2:
			return s.schema(ctx, e, name)
		case kind == "became" && len(rest) == 3 && rest[1] == "pages":
			if e.Doc.Text(rest[2]) == nil {
				return moved(e.Base + "/"), nil
			}
			return moved(e.Base + "/pages/" + url.PathEscape(rest[2])), nil
		case kind == "became" && len(rest) == 3 && rest[1] == "operations":
			return s.operationHere(ctx, e, rest[2])
		case kind == "became" && len(rest) == 3 && rest[1] == "schemas":
			return s.schemaHere(ctx, e, rest[2])
		}
	}
	return page{}, errNowhere
}

// moved leads on; for how long it holds is the next version's to say.
func moved(to string) page { return leading(http.StatusFound, to) }

func movedForGood(to string) page { return leading(http.StatusMovedPermanently, to) }

func leading(status int, to string) page {
	p := page{status: status, header: http.Header{}}
	p.header.Set("Location", to)
	p.header.Set("Content-Type", "text/plain; charset=utf-8")
	return p
}

package site

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"oldledger/core/reference"
	"oldledger/ledger"
)

// Export writes a version's reference, for a reader of its API, as files that read from any place: a static server, or a folder in a
// browser. Links between its pages are relative; what leads outside of it is text. The search works in the browser, over an index that is
// one of the files.
func (s *Site) Export(ctx context.Context, who ledger.Actor, ref string, write func(name string, body []byte) error) error {
	name, number, _ := strings.Cut(ref, "@")
	e, err := s.edition(ctx, who, name, number)
	if err != nil {
		return err
	}
	x := &export{site: s, edition: e, names: map[string]string{}}
	x.plan()
	for _, address := range x.order {
		body, err := x.page(ctx, address)
		if err == nil {
			err = write(x.names[address], body)
		}
		if err != nil {
			return err
		}
	}
	index, err := searchScript(e.index())
	if err != nil {
		return err
	}
	return write(indexFile, index)
}

// export is one reference on its way into files.
type export struct {
	site    *Site
	edition *edition
	names   map[string]string // of files, by address
	order   []string
}

const indexFile = "assets/search-index.js"

// plan says which addresses become which files.
func (x *export) plan() {
	base := x.edition.Base
	add := func(address, name string) {
		if _, planned := x.names[address]; !planned {
			x.names[address] = name
			x.order = append(x.order, address)
		}
	}
	for _, address := range x.edition.addresses() {
		below := strings.TrimPrefix(address, base+"/")
		switch {
		case below == "":
			add(address, "index.html")
		default:
			add(address, safe(below)+".html")
		}
	}
	for _, op := range x.edition.Doc.Pages() {
		for _, f := range takenForms {
			if len(reference.Calls(op)) > 0 {
				below := "operations/" + url.PathEscape(op.Slug) + "/call" + f.address
				add(base+"/"+below, safe(below))
			}
		}
	}
	for _, f := range takenForms {
		if len(reference.Calls(x.edition.Doc.Pages()...)) > 0 {
			add(base+"/calls"+f.address, "calls"+f.address)
		}
	}
	add(base+"/search", "search.html")
	add(base+"/source", "source.html")
	add(base+"/description.yaml", "description.yaml")
	for _, t := range x.edition.Targets() {
		add(base+"/"+string(t)+".yaml", string(t)+".yaml")
	}
	add(base+"/source.zip", "source.zip")
	add("/reference/"+x.edition.API.Name+"/looks.css", "assets/looks.css")
	names := make([]string, 0, len(x.site.assets))
	for name := range x.site.assets {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		add("/reference/assets/"+name, "assets/"+name)
	}
}

// safe is an address as the name of a file: what a file system or a browser might read otherwise is replaced.
func safe(below string) string {
	return strings.Map(func(c rune) rune {
		if strings.ContainsRune(`%:*?"<>|\`, c) {
			return '_'
		}
		return c
	}, below)
}

func (x *export) page(ctx context.Context, address string) ([]byte, error) {
	v, err := parseTarget(address)
	if err != nil {
		return nil, err
	}
	var p page
	if v.direct() {
		p, err = x.site.found(ctx, x.edition, searchPath, "")
	} else {
		p, err = x.site.render(ctx, x.edition.Reader, v)
	}
	if err != nil || !strings.HasPrefix(p.header.Get("Content-Type"), "text/html") {
		return p.body, err
	}
	return x.relative(ctx, p.body, address)
}

// relative writes the links of a page as they lead from its file.
func (x *export) relative(ctx context.Context, body []byte, address string) ([]byte, error) {
	from := x.names[address]
	here, err := url.Parse(address)
	if err != nil {
		return nil, err
	}
	z := html.NewTokenizer(bytes.NewReader(body))
	var b bytes.Buffer
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			if errors.Is(z.Err(), io.EOF) {
				return b.Bytes(), nil
			}
			return nil, z.Err()
		}
		raw := bytes.Clone(z.Raw())
		if kind != html.StartTagToken && kind != html.SelfClosingTagToken {
			b.Write(raw)
			continue
		}
		t := z.Token()
		if t.Data == "head" {
			b.Write(raw)
			b.WriteString(exportPolicy)
			continue
		}
		if t.Data == "link" && attribute(t, "type") == "application/json+oembed" {
			continue // there is nobody to ask
		}
		if t.Data == "img" && strings.HasPrefix(attribute(t, "src"), "/reference/") {
			for i, a := range t.Attr {
				if a.Key == "src" {
					if t.Attr[i].Val, err = x.inPlace(ctx, a.Val); err != nil {
						return nil, err
					}
				}
			}
			b.WriteString(t.String())
			continue
		}
		searches := t.Data == "form" && attribute(t, "role") == "search"
		if searches {
			t.Attr = append(t.Attr, html.Attribute{Key: "data-index", Val: strings.Repeat("../", strings.Count(from, "/")) + indexFile})
		}
		if !x.rewrite(&t, here, from) && !searches {
			b.Write(raw)
		} else {
			b.WriteString(t.String())
		}
	}
}

// exportPolicy keeps a page that was exported from loading pictures or anything else from elsewhere: there is no service to say so in a
// header.
const exportPolicy = `
<meta http-equiv="Content-Security-Policy" content="img-src data:; media-src 'none'; object-src 'none'; frame-src 'none'; connect-src 'none'; form-action 'none'; base-uri 'none'">`

func attribute(t html.Token, name string) string {
	for _, a := range t.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// rewrite changes the addresses in a tag, and tells whether it did.
func (x *export) rewrite(t *html.Token, here *url.URL, from string) bool {
	changed := false
	var kept []html.Attribute
	for _, a := range t.Attr {
		if a.Key == "href" || a.Key == "src" || a.Key == "action" {
			to, err := here.Parse(a.Val)
			if err == nil && to.Scheme == "" && to.Host == "" && !strings.HasPrefix(a.Val, "#") {
				changed = true
				if a.Val = x.link(to, from); a.Val == "" {
					continue // it leads outside
				}
			}
		}
		kept = append(kept, a)
	}
	t.Attr = kept
	return changed
}

// link is an address as it is reached from a file; "" where it is none of the export's.
func (x *export) link(u *url.URL, from string) string {
	to, ours := x.names[u.EscapedPath()]
	switch u.EscapedPath() {
	case "/reference/" + x.edition.API.Name + "/":
		to, ours = "index.html", true
	}
	if !ours {
		return ""
	}
	up := strings.Repeat("../", strings.Count(from, "/"))
	out := (&url.URL{Path: up + to, Fragment: u.Fragment}).String()
	return strings.TrimPrefix(out, "./")
}

// searchScript is the index as a script: a page that was opened from a folder may read no other kind of file.
func searchScript(ix *reference.Index) ([]byte, error) {
	type entry struct {
		Kind  string `json:"k"`
		Title string `json:"t"`
		Where string `json:"w,omitempty"`
		Page  string `json:"p"`
		Text  string `json:"x,omitempty"`
	}
	var all []entry
	for _, e := range ix.Entries() {
		below, fragment, _ := strings.Cut(e.Path, "#")
		page := "index.html"
		if below != "/" {
			page = safe(strings.TrimPrefix((&url.URL{Path: below}).EscapedPath(), "/")) + ".html"
		}
		if fragment != "" {
			page += "#" + fragment
		}
		all = append(all, entry{e.Kind, e.Title, e.Where, page, e.Text})
	}
	text, err := json.Marshal(all)
	if err != nil {
		return nil, err
	}
	return append(append([]byte("window.ledgerIndex = "), text...), ";\n"...), nil
}

// siteArchive is the export as a .zip.
func (s *Site) siteArchive(ctx context.Context, e *edition) (page, error) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	folder := e.API.Name + "-" + e.Version.Number
	err := s.Export(ctx, e.Reader, e.Version.Ref(), func(name string, body []byte) error {
		w, err := z.CreateHeader(e.packed(path.Join(folder, name)))
		if err == nil {
			_, err = w.Write(body)
		}
		return err
	})
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		return page{}, err
	}
	return download(e, "application/zip", folder+"-site.zip", b.Bytes()), nil
}

// packed is a file of an archive, as old as the version.
func (e *edition) packed(name string) *zip.FileHeader {
	return &zip.FileHeader{Name: name, Method: zip.Deflate, Modified: moment(firstOf(e.Version.PublishedAt, e.Version.RecordedAt))}
}

// markdownFile is the reference as one text in CommonMark.
func (s *Site) markdownFile(e *edition) page {
	p := page{status: http.StatusOK, header: http.Header{}, body: []byte(e.Doc.Markdown())}
	p.header.Set("Content-Type", "text/markdown; charset=utf-8")
	announce(p.header, &Frame{edition: e})
	return p
}

// Exported is a version's reference, for a reader of its API, in a form in which it can be taken along: "site.zip" or "reference.md".
func (s *Site) Exported(ctx context.Context, who ledger.Actor, ref, form string) ([]byte, error) {
	name, number, _ := strings.Cut(ref, "@")
	e, err := s.edition(ctx, who, name, number)
	if err != nil {
		return nil, err
	}
	p, err := s.renderVersion(ctx, e, []string{form})
	return p.body, err
}
